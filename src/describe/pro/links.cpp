// What a project links: others of the tree, libraries of the system, modules.
#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/pro/project.h"
#include "describe/pro/words.h"
#include "survey/languages.h"

namespace coctilis::describe::pro {

using model::TargetKind;
using model::Unit;

// ---- linking
// -----------------------------------------------------------------------------------------------------------
void Lowering::add_links(Made& made) {
  const auto& v = *made.values;
  auto& link = made.unit.link;
  std::vector<std::string> folders;  // absolute, in order
  const auto add_text = [&](const std::string& text) {
    model::LinkItem item;
    item.text = text;
    link.named.push_back(link.items.size());
    link.items.push_back(std::move(item));
  };
  std::set<std::size_t> used;
  const auto add_part = [&](std::size_t index) {
    const auto& other = made_[index]->unit;
    if (index == made.index) return;
    model::LinkItem item;
    item.unit = other.name;
    item.archive = made_[index]->is_static;
    link.named.push_back(link.items.size());
    link.items.push_back(std::move(item));
    if (used.insert(index).second) made.unit.uses.push_back({other.name, model::Use::How::link});
  };
  const auto library_of_tree = [&](const std::string& name) -> std::optional<std::size_t> {
    for (const auto& folder : folders) {
      for (const char* ending : {".so", ".a"}) {
        const auto it = by_file_.find(folder + "/lib" + name + ending);
        if (it != by_file_.end()) return it->second;
      }
    }
    return std::nullopt;
  };
  std::vector<std::string> words = v.values("QMAKE_LIBDIR");
  for (auto& word : words) word = "-L" + word;
  {
    for (const char* variable : {"LIBS", "LIBS_PRIVATE", "QMAKE_LIBS", "QMAKE_LIBS_PRIVATE"}) {
      for (const auto& one : v.values(variable)) {
        for (const auto& word :
             one.find_first_of("\"'\\") == std::string::npos ? std::vector<std::string>{one} : text::shell_words(one))
          words.push_back(word);
      }
    }
  }
  for (std::size_t i = 0; i < words.size(); ++i) {
    std::string word = words[i];
    if (word == "-L" && i + 1 < words.size()) word += words[++i];
    if (word == "-l" && i + 1 < words.size()) word += words[++i];
    if (word.find("$(") != std::string::npos) continue;
    if (word.starts_with("-L")) {
      const std::string given = word.substr(2);
      // It counts from where results lie; others name the folder in the tree.
      const std::string result = v.result_path(given);
      const std::string source = v.source_path(given);
      folders.push_back(result);
      link.folders.push_back(result);
      if (source != result) {
        if (files::is_folder(source)) link.folders.push_back(source);
        folders.push_back(source);
      }
    } else if (word.starts_with("-l")) {
      const std::string name = word.substr(2);
      if (const auto own = library_of_tree(name)) {
        add_part(*own);
        continue;
      }
      model::Requirement want;
      want.kind = model::RequirementKind::library;
      want.name = name;
      want.required_by = "'" + made.unit.name + "'";
      want.place = v.place_of("LIBS");
      auto finding = locator_.link_name(want, {folders});
      if (!finding.found) {
        // Another project of the tree makes it, wherever that lies.
        std::optional<std::size_t> other;
        for (const auto& one : made_) {
          if (one->makes_something && one->unit.kind != TargetKind::program && one->unit.name == name)
            other = one->index;
        }
        if (other) {
          add_part(*other);
          continue;
        }
      }
      locator_.keep(std::move(finding));
      add_text(word);
    } else if (word.starts_with("-framework")) {
      ++i;
    } else if (word.starts_with('-')) {
      add_text(word);
    } else {
      const std::string path = v.result_path(word);
      const auto it = by_file_.find(path);
      if (it != by_file_.end())
        add_part(it->second);
      else
        add_text(files::is_file(v.source_path(word)) ? v.source_path(word) : path);
    }
  }
  for (const char* variable : {"PRE_TARGETDEPS", "POST_TARGETDEPS"}) {
    for (const auto& one : v.values(variable)) {
      const auto it = by_file_.find(v.result_path(one));
      if (it != by_file_.end() && it->second != made.index && used.insert(it->second).second)
        made.unit.uses.push_back({made_[it->second]->unit.name, model::Use::How::first});
    }
  }
  std::set<std::string> seen;
  const auto add_usage = [&](const model::Usage& usage) {
    for (const auto& folder : usage.link_folders) {
      if (!is_word(link.folders, folder)) link.folders.push_back(folder);
    }
    for (const auto& item : usage.link_items) {
      if (seen.insert(item).second) add_text(item);
    }
  };
  for (const char* variable : {"PKGCONFIG", "PKGCONFIG_PRIVATE"}) {
    for (const auto& one : v.values(variable)) {
      model::Requirement want;
      want.name = one;
      const auto finding = locator_.module(want);
      if (finding.found) add_usage(finding.usage);
    }
  }
  if (toolkit_ != nullptr && v.has_config("qt")) {
    std::vector<std::string> modules = v.values("QT");
    for (const auto& one : v.values("QT_PRIVATE")) modules.push_back(one);
    const auto& config = v.values("CONFIG");
    if (is_word(config, "qtestlib") || is_word(config, "testcase") || is_word(config, "qttest"))
      modules.emplace_back("testlib");
    if (is_word(config, "uitools")) modules.emplace_back("uitools");
    if (!is_word(modules, "core") && !modules.empty()) modules.emplace_back("core");
    for (const auto& module : modules) {
      const auto finding = toolkit_->module(module, {}, {}, true);
      if (finding.found) add_usage(finding.usage);
    }
    // Whoever draws with the toolkit may call the system's graphics library without naming it.
    if (is_word(modules, "opengl") || is_word(modules, "openglwidgets") || is_word(modules, "gui")) {
      model::Requirement want;
      want.kind = model::RequirementKind::library;
      want.name = "GL";
      want.required = false;
      if (locator_.link_name(want, {folders}).found && seen.insert("-lGL").second) add_text("-lGL");
    }
  }
  if (v.has_config("thread")) link.libraries.emplace_back("-pthread");
  if (variant_.debug()) link.first_options.emplace_back("-g");
  for (const auto& one : v.values("QMAKE_LFLAGS")) {
    if (one.find("$(") == std::string::npos) link.options.push_back(unquoted(one));
  }
  for (const auto& one : v.values("QMAKE_RPATHDIR")) {
    if (!one.starts_with('$')) link.run_folders.push_back(files::absolute(one, v.work_folder()));
  }
  made.uses = used;
}

// What an archive names is for those that use it.
void Lowering::finish_links(Made& made) {
  auto& link = made.unit.link;
  if (made.unit.kind == TargetKind::static_library) {
    link.named.clear();
    return;
  }
  std::set<std::string> seen;
  for (const auto& item : link.items) seen.insert(item.unit.empty() ? item.text : "unit " + item.unit);
  std::set<std::size_t> done;
  std::vector<std::size_t> open(made.uses.begin(), made.uses.end());
  for (std::size_t at = 0; at < open.size(); ++at) {
    const auto& other = *made_[open[at]];
    if (!other.is_static || !done.insert(open[at]).second) continue;
    for (const auto& item : other.archive_items) {
      if (item.unit == made.unit.name || !seen.insert(item.unit.empty() ? item.text : "unit " + item.unit).second)
        continue;
      model::LinkItem copy = item;
      copy.needs.clear();
      link.named.push_back(link.items.size());
      link.items.push_back(std::move(copy));
      if (!item.unit.empty()) made.unit.uses.push_back({item.unit, model::Use::How::link});
    }
    for (const auto& folder : other.unit.link.folders) {
      if (!is_word(link.folders, folder)) link.folders.push_back(folder);
    }
    open.insert(open.end(), other.uses.begin(), other.uses.end());
  }
}

}  // namespace coctilis::describe::pro
