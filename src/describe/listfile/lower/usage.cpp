#include "describe/listfile/lower/usage.h"

#include <algorithm>
#include <cstdint>
#include <functional>
#include <set>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::describe::listfile::lower {

using model::TargetKind;

namespace {
void add_once(std::vector<std::string>& into, const std::vector<std::string>& from) {
  std::set<std::string> seen(into.begin(), into.end());
  for (const auto& text : from) {
    if (seen.insert(text).second) into.push_back(text);
  }
}
bool is_library_option(const std::string& item) { return item.starts_with("-l"); }
}  // namespace

ExpressionContext Usage::context(const Target& head, const std::string& language, bool linking) const {
  ExpressionContext out;
  out.target = &head;
  out.language = language;
  out.linking = linking;
  out.place = head.place;
  return out;
}

void Usage::collect(const Target& head, const Values& items, const std::string& language,
                    std::vector<const Target*>& out) const {
  for (const auto& item : expressions_.evaluate(items, context(head, language, false))) {
    const Target* target = project_.target(item);
    if (target == nullptr || std::find(out.begin(), out.end(), target) != out.end()) continue;
    out.push_back(target);
    collect(head, target->handed_on.link_items, language, out);
  }
}

std::vector<const Target*> Usage::used(const Target& target, const std::string& language) const {
  const auto key = std::make_pair(&target, language);
  if (const auto it = used_.find(key); it != used_.end()) return it->second;
  std::vector<const Target*> out;
  collect(target, target.own.link_items, language, out);
  return used_[key] = out;
}

CompileUsage Usage::compile(const Target& target, const std::string& language) const {
  CompileUsage out;
  const auto here = context(target, language, false);
  const auto absolute = [&](const Values& values) {
    auto list = expressions_.evaluate(values, here);
    for (auto& folder : list) folder = files::absolute(folder, target.folder);
    return list;
  };
  std::vector<std::string> all_folders;
  std::vector<std::string> system;
  const auto own_folders = absolute(target.own.include_folders);
  add_once(all_folders, own_folders);
  add_once(system, absolute(target.own.system_include_folders));
  add_once(out.definitions, expressions_.evaluate(target.own.definitions, here));
  // One option once, where it stands first; "SHELL:" holds together what is to be repeated.
  add_once(out.options, expressions_.evaluate(target.own.compile_options, here));
  add_once(out.first_headers, expressions_.evaluate(target.own.first_headers, here));
  out.features = expressions_.evaluate(target.own.compile_features, here);
  for (const Target* used_target : used(target, language)) {
    const auto& handed = used_target->handed_on;
    const auto folders = absolute(handed.include_folders);
    add_once(all_folders, folders);
    // What an installed package hands on is not ours to warn about.
    if (used_target->imported) add_once(system, folders);
    add_once(system, absolute(handed.system_include_folders));
    add_once(out.definitions, expressions_.evaluate(handed.definitions, here));
    add_once(out.options, expressions_.evaluate(handed.compile_options, here));
    add_once(out.first_headers, expressions_.evaluate(handed.first_headers, here));
    add_once(out.features, expressions_.evaluate(handed.compile_features, here));
    add_once(out.sources, expressions_.evaluate(handed.sources, here));
  }
  const std::set<std::string> system_set(system.begin(), system.end());
  const std::set<std::string> own_set(own_folders.begin(), own_folders.end());
  for (const auto& folder : all_folders) {
    if (system_set.contains(folder))
      out.system_include_folders.push_back(folder);
    else
      out.include_folders.push_back(folder);
  }
  return out;
}

bool Usage::gathered(const Target& target, const std::string& property, std::string& out) const {
  const bool from_users = property.starts_with("INTERFACE_");
  const std::string name = from_users ? property.substr(10) : property;
  static const std::map<std::string, Values Requirements::*> members = {
      {"INCLUDE_DIRECTORIES", &Requirements::include_folders},
      {"SYSTEM_INCLUDE_DIRECTORIES", &Requirements::system_include_folders},
      {"COMPILE_DEFINITIONS", &Requirements::definitions},
      {"COMPILE_OPTIONS", &Requirements::compile_options},
      {"PRECOMPILE_HEADERS", &Requirements::first_headers},
      {"COMPILE_FEATURES", &Requirements::compile_features},
      {"LINK_OPTIONS", &Requirements::link_options},
      {"LINK_DIRECTORIES", &Requirements::link_folders}};
  const auto it = members.find(name);
  if (it == members.end()) return false;
  const auto here = context(target, "", false);
  std::vector<std::string> all =
      expressions_.evaluate((from_users ? target.handed_on : target.own).*(it->second), here);
  std::vector<const Target*> reached;
  collect(target, (from_users ? target.handed_on : target.own).link_items, "", reached);
  for (const Target* other : reached) add_once(all, expressions_.evaluate(other->handed_on.*(it->second), here));
  out = text::join(all, ";");
  return true;
}

// ---- linking -------------------------------------------------------------------------------------------------------

namespace {

// What an archive links without saying so to those that use it.
Values not_handed_on(const Target& target) {
  Values out;
  for (const auto& item : target.own.link_items) {
    const bool said = std::any_of(
        target.handed_on.link_items.begin(), target.handed_on.link_items.end(),
        [&](const auto& other) { return other.text == item.text || other.text == "$<LINK_ONLY:" + item.text + ">"; });
    if (!said && !item.text.empty()) out.push_back(item);
  }
  return out;
}

}  // namespace

namespace {

// The items of a link as they are found: every target and every word once, options each in their place.
class Items {
 public:
  explicit Items(model::LinkSettings& out) : out_(out) {}

  std::size_t of(const Target* target, const std::function<model::LinkItem()>& make) {
    const auto [it, fresh] = by_target_.emplace(target, out_.items.size());
    if (fresh) out_.items.push_back(make());
    return it->second;
  }
  std::size_t of(const std::string& text) {
    const auto [it, fresh] = by_text_.emplace(text, out_.items.size());
    if (fresh) out_.items.push_back({{}, text, text.ends_with(".a"), {}});
    return it->second;
  }
  std::size_t option(const std::string& text) {
    out_.items.push_back({{}, text, text.ends_with(".a"), {}});
    return out_.items.size() - 1;
  }

 private:
  model::LinkSettings& out_;
  std::map<const Target*, std::size_t> by_target_;
  std::map<std::string, std::size_t> by_text_;
};

// The words of a text as link items: "-lz -lm" in one word, as some variables hold them, are two.
std::vector<std::string> words_of_item(const std::string& text) {
  return text.find(' ') != std::string::npos && text.starts_with('-') ? text::shell_words(text)
                                                                      : std::vector<std::string>{text};
}

// Works out what one target links, in one language.
class Linking {
 public:
  Linking(const Declared& project, const Artifacts& artifacts, const Expressions& expressions, const Target& target,
          const ExpressionContext& here)
      : project_(project),
        artifacts_(artifacts),
        expressions_(expressions),
        target_(target),
        here_(here),
        items_(out_) {}

  model::LinkSettings run() {
    out_.named = items_for(target_.own.link_items, true);
    add_once(folders_, expressions_.evaluate(target_.own.link_folders, here_));
    add_once(options_, expressions_.evaluate(target_.own.link_options, here_));
    add_once(options_, handed_options_);
    for (const auto& folder : folders_) out_.folders.push_back(files::absolute(folder, target_.folder));
    for (const auto& option : options_) {
      if (option.starts_with("SHELL:")) {
        for (auto& word : text::shell_words(option.substr(6))) out_.options.push_back(std::move(word));
      } else {
        out_.options.push_back(option.starts_with("LINKER:") ? "-Wl," + option.substr(7) : option);
      }
    }
    return std::move(out_);
  }

 private:
  // What stands on the line for a target; nothing for one that only stands for what it needs.
  [[nodiscard]] model::LinkItem item_of(const Target& used) const {
    model::LinkItem item;
    item.archive = used.kind == TargetKind::static_library;
    const auto& artifact = artifacts_.of(used);
    const bool has_file = used.kind != TargetKind::interface_library && used.kind != TargetKind::object_set &&
                          used.kind != TargetKind::module_library &&
                          (used.kind != TargetKind::program || property_on(used, "ENABLE_EXPORTS"));
    if (&used == &target_ || artifact.linker_file.empty() || !has_file) return item;
    (used.imported ? item.text : item.unit) = used.imported ? artifact.linker_file : used.name;
    return item;
  }

  std::size_t use(const Target& used) {
    const std::size_t at = items_.of(&used, [&] { return item_of(used); });
    if (!expanded_.insert(&used).second) return at;
    auto needs = items_for(used.handed_on.link_items, false);
    // An archive is linked to nothing: what it needs, from its folder too, is needed by whoever links it.
    if (used.kind == TargetKind::static_library && !used.imported) {
      for (const std::size_t more : items_for(not_handed_on(used), false)) {
        if (std::find(needs.begin(), needs.end(), more) == needs.end()) needs.push_back(more);
      }
    }
    out_.items[at].needs = std::move(needs);
    add_once(folders_, expressions_.evaluate(used.handed_on.link_folders, here_));
    add_once(handed_options_, expressions_.evaluate(used.handed_on.link_options, here_));
    return at;
  }

  std::vector<std::size_t> items_for(const Values& values, bool direct) {
    std::vector<std::size_t> list;
    for (const auto& raw : expressions_.evaluate(values, here_)) {
      for (const auto& item : words_of_item(raw)) {
        if (item.starts_with("::@")) continue;
        const Target* used = project_.target(item);
        if (used == nullptr) {
          add_word(item, list);
          continue;
        }
        if (used->kind == TargetKind::custom) continue;
        if (used->kind == TargetKind::object_set && direct &&
            std::find(out_.object_sets.begin(), out_.object_sets.end(), used->name) == out_.object_sets.end())
          out_.object_sets.push_back(used->name);
        list.push_back(use(*used));
      }
    }
    return list;
  }

  void add_word(const std::string& item, std::vector<std::size_t>& list) {
    if (item.find("::") != std::string::npos && item.find('/') == std::string::npos && !item.starts_with('-')) {
      throw Fault({Exit::description,
                   target_.place,
                   "'" + target_.name + "' links '" + item + "', which is not declared",
                   "",
                   "look for the find_package that should declare it, or for a misspelt name",
                   {}});
    }
    if (item.starts_with("-L") && item.size() > 2)
      add_once(folders_, {item.substr(2)});
    else if (item.starts_with('-') && !is_library_option(item))
      list.push_back(items_.option(item));
    else if (item.starts_with('/') || is_library_option(item))
      list.push_back(items_.of(item));
    else if (item.find('/') != std::string::npos)
      list.push_back(items_.of(files::absolute(item, target_.folder)));
    else if (item.ends_with(".a") || item.ends_with(".so") || item.ends_with(".o"))
      list.push_back(items_.of(item));
    else
      list.push_back(items_.of("-l" + item));
  }

  const Declared& project_;
  const Artifacts& artifacts_;
  const Expressions& expressions_;
  const Target& target_;
  const ExpressionContext& here_;
  model::LinkSettings out_;
  Items items_;
  std::set<const Target*> expanded_;
  std::vector<std::string> folders_;
  std::vector<std::string> options_;
  std::vector<std::string> handed_options_;
};

}  // namespace

model::LinkSettings Usage::link(const Target& target, const std::string& language) const {
  const auto here = context(target, language, true);
  return Linking(project_, artifacts_, expressions_, target, here).run();
}

std::vector<model::Use> Usage::uses(const Target& target) const {
  std::vector<model::Use> out;
  const auto add = [&](const Target* other, model::Use::How how) {
    if (other == nullptr || other == &target) return;
    const bool known =
        std::any_of(out.begin(), out.end(), [&](const auto& use) { return use.unit == other->name && use.how == how; });
    if (!known) out.push_back({other->name, how});
  };
  auto here = context(target, "", false);
  for (const auto& word : expressions_.evaluate(target.dependencies, here)) {
    const Target* other = project_.target(word);
    if (other != nullptr && !other->imported) add(other, model::Use::How::first);
  }
  here.linking = true;
  for (const auto* items : {&target.own.link_items, &target.handed_on.link_items}) {
    for (const auto& word : expressions_.evaluate(*items, here)) add(project_.target(word), model::Use::How::link);
  }
  return out;
}

}  // namespace coctilis::describe::listfile::lower
