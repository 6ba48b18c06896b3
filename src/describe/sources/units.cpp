#include "describe/sources/units.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/known_facts.h"
#include "survey/languages.h"

namespace coctilis::describe::sources {

using model::SourceTarget;
using model::Unit;

std::string generated_folder(const std::string& work, const std::string& folder) {
  return work + "/.generated" + (folder.empty() ? "" : "/" + folder);
}

std::vector<std::string> folders_by_distance(const std::set<std::string>& folders, const std::string& work,
                                             const std::string& near) {
  std::vector<std::string> out(folders.begin(), folders.end());
  const std::string top = generated_folder(work, "");
  std::stable_sort(out.begin(), out.end(), [&](const auto& a, const auto& b) {
    const auto steps = [&](const std::string& folder) {
      return distance(near, folder == top ? "" : files::below(folder, top));
    };
    return steps(a) < steps(b);
  });
  return out;
}

namespace {

// "libclay" makes libclay.a and libclay.so, "common" libcommon.a.
std::string library_stem(const std::string& name) { return name.starts_with("lib") ? name : "lib" + name; }

class Builder {
 public:
  Builder(const std::vector<SourceTarget>& targets, const Workplace& place) : targets_(targets), place_(place) {}

  model::Build run() {
    for (const auto& target : targets_) check(target);
    for (std::size_t i = 0; i < place_.grammars.size(); ++i) add_rule(i);
    for (const auto& maker : place_.makers) add_maker(maker);
    for (const auto& target : targets_) add(target);
    install();
    build_.notes = place_.notes;
    return std::move(build_);
  }

 private:
  [[nodiscard]] std::string absolute(const std::string& path) const { return files::absolute(path, place_.tree); }

  [[nodiscard]] const SourceTarget* target(const std::string& name) const {
    for (const auto* list : {&targets_, &place_.told}) {
      const auto it = std::find_if(list->begin(), list->end(), [&](const auto& one) { return one.name == name; });
      if (it != list->end()) return &*it;
    }
    return nullptr;
  }
  [[nodiscard]] const Grammar* grammar(const std::string& source) const {
    const auto it = std::find_if(place_.grammars.begin(), place_.grammars.end(),
                                 [&](const auto& one) { return one.input == source; });
    return it == place_.grammars.end() ? nullptr : &*it;
  }
  [[nodiscard]] std::string made_of(const Grammar& grammar, std::size_t which) const {
    return generated_folder(place_.work, folder_of(grammar.input)) + "/" + grammar.outputs[which];
  }

  void check(const SourceTarget& target) const {
    const auto wrong = [&](const std::string& what, const std::string& remedy) {
      throw Fault({Exit::usage, target.place, "the target '" + target.name + "' " + what, {}, remedy, {}});
    };
    std::vector<std::string> path = {target.name};
    for (const auto& name : target.use) {
      const auto* used = this->target(name);
      if (used == nullptr)
        wrong("uses '" + text::printable_line(name) + "', which is no target",
              "libraries of the system are named under libraries");
      if (used->kind == SourceTarget::Kind::program)
        wrong("uses the program '" + name + "'", "only libraries and archives can be used");
    }
    if (uses_itself(target, target.name, 0))
      wrong("uses itself, by " + text::join(target.use, ", "), "take one use out of the circle");
    for (const auto& part : target.parts) {
      for (const auto& source : part.sources) {
        const std::string shown = text::printable_line(source);
        if (!files::is_below(absolute(source), place_.tree))
          wrong("has the source '" + shown + "', which lies outside of the tree", "name files of the tree");
        if (grammar(source) != nullptr || place_.filled_sources.contains(source)) continue;
        if (!files::is_file(absolute(source)))
          wrong("has the source '" + shown + "', which is not there",
                "check the path: it counts from the top of the tree");
        if (survey::compiled_language(source).empty())
          wrong("has the source '" + shown + "', which no compiler here takes",
                "name sources in C, C++, Fortran or assembler, or tell of its language: [language.NAME]");
      }
    }
  }
  bool uses_itself(const SourceTarget& from, const std::string& name, std::size_t depth) const {
    if (depth > targets_.size()) return false;
    return std::any_of(from.use.begin(), from.use.end(), [&](const auto& used) {
      const auto* next = target(used);
      return used == name || (next != nullptr && uses_itself(*next, name, depth + 1));
    });
  }

  void add_rule(std::size_t index) {
    const auto& grammar = place_.grammars[index];
    model::Rule rule;
    rule.place = {grammar.input, 0, 0};
    rule.inputs = {absolute(grammar.input)};
    for (std::size_t i = 0; i < grammar.outputs.size(); ++i) rule.outputs.push_back(made_of(grammar, i));
    model::Action action;
    action.folder = place_.work;
    action.argv = {place_.generators[index]};
    for (const auto& word : command_words(grammar, absolute(grammar.input), rule.outputs)) action.argv.push_back(word);
    rule.actions = {model::make_folder(std::filesystem::path(rule.outputs.front()).parent_path().string(), place_.work),
                    action};
    build_.rules.push_back(std::move(rule));
  }

  // The program, and the rule by which it is run.
  void add_maker(const Maker& maker) {
    Unit unit;
    unit.name = std::filesystem::path(maker.source).stem().string() + "-maker";
    unit.in_default = false;
    unit.folder = place_.tree;
    unit.work_folder = place_.work;
    unit.place = {maker.source, 0, 0};
    unit.why = "it makes " + maker.output + ", which sources include";
    unit.result.file = unit.result.linker_file = place_.work + "/.makers/" + unit.name;
    const std::string language = survey::compiled_language(maker.source);
    model::CompileSettings settings;
    settings.first_options = {"-O1"};
    for (const auto& folder : folders_by_distance(place_.generated_folders, place_.work, folder_of(maker.source)))
      settings.include_folders.push_back({model::IncludeFolder::Kind::plain, folder});
    for (const auto& folder : maker.include)
      settings.include_folders.push_back({model::IncludeFolder::Kind::plain, folder});
    unit.parts.push_back({language, std::move(settings)});
    model::UnitSource source;
    source.path = absolute(maker.source);
    source.part = 0;
    source.place = unit.place;
    unit.sources.push_back(std::move(source));
    unit.link.languages = {language};
    unit.link.language = language;
    model::LinkItem mathematics;
    mathematics.text = "-lm";
    unit.link.items.push_back(mathematics);
    unit.link.named.push_back(0);
    model::Rule rule;
    rule.place = unit.place;
    const std::string folder = generated_folder(place_.work, maker.folder);
    rule.outputs = {folder + "/" + maker.output};
    rule.inputs = {unit.result.file};
    model::Action action;
    action.folder = folder;
    if (maker.on_output) {
      action.how = model::Action::How::shell;
      action.argv = {text::shell_quote(unit.result.file) + " > " + text::shell_quote(rule.outputs.front())};
    } else {
      action.argv = {unit.result.file};
    }
    rule.actions = {model::make_folder(std::filesystem::path(rule.outputs.front()).parent_path().string(), place_.work),
                    action};
    build_.rules.push_back(std::move(rule));
    build_.units.push_back(std::move(unit));
  }

  void add(const SourceTarget& target) {
    const bool library = target.kind != SourceTarget::Kind::program;
    Unit unit;
    unit.name = target.kind == SourceTarget::Kind::library ? target.name + "-archive" : target.name;
    unit.kind = library ? model::TargetKind::static_library : model::TargetKind::program;
    unit.in_default = target.by_default;
    unit.installed = target.by_default && target.kind != SourceTarget::Kind::archive;
    unit.folder = place_.tree;
    unit.work_folder = place_.work;
    unit.place = target.place;
    unit.why = target.why;
    unit.result.file = place_.work + "/" + (library ? library_stem(target.name) + ".a" : target.name);
    unit.result.linker_file = unit.result.file;
    add_sources(target, unit);
    std::set<std::string> languages = languages_of(target);
    unit.link.languages.assign(languages.begin(), languages.end());
    unit.link.language = survey::linking_language(languages);
    if (place_.variant.debug()) unit.link.first_options = {"-g"};
    add_items(target, unit);
    if (target.kind != SourceTarget::Kind::library) {
      build_.units.push_back(std::move(unit));
      return;
    }
    // The same objects as a library that is loaded.
    Unit shared;
    shared.name = target.name;
    shared.kind = model::TargetKind::shared_library;
    shared.in_default = unit.in_default;
    shared.installed = unit.installed;
    shared.folder = unit.folder;
    shared.work_folder = unit.work_folder;
    shared.place = unit.place;
    shared.why = unit.why;
    shared.result.file = place_.work + "/" + library_stem(target.name) + ".so";
    shared.result.linker_file = shared.result.file;
    shared.result.shared_name = library_stem(target.name) + ".so";
    shared.link = unit.link;
    shared.uses = unit.uses;
    std::vector<std::string> compiled;
    for (const auto& source : unit.sources) compiled.push_back(source.path);
    model::Project project;
    project.tree = place_.tree;
    project.binary_root = place_.work;
    for (auto& object : model::object_paths(project, unit.name, unit.folder, unit.work_folder, compiled)) {
      model::UnitSource source;
      source.path = std::move(object);
      source.part = model::UnitSource::ready;
      source.place = unit.place;
      shared.sources.push_back(std::move(source));
    }
    build_.units.push_back(std::move(unit));
    build_.units.push_back(std::move(shared));
  }

  void add_sources(const SourceTarget& target, Unit& unit) {
    const bool pic = target.kind != SourceTarget::Kind::program;
    std::optional<std::size_t> fortran;
    for (const auto& part : target.parts) {
      std::map<std::string, std::size_t> index;  // by language
      for (const auto& name : part.sources) {
        model::UnitSource source;
        source.path = absolute(name);
        source.place = {name, 0, 0};
        if (const auto* made = grammar(name); made != nullptr) source.path = made_of(*made, 0);
        if (const auto it = place_.filled_sources.find(name); it != place_.filled_sources.end())
          source.path = it->second;
        const std::string language = survey::compiled_language(source.path);
        if (language == "Fortran") {
          add_fortran(unit, fortran, settings_for(part, language, pic), source);
          unit.sources.push_back(std::move(source));
          continue;
        }
        if (!index.contains(language)) {
          index[language] = unit.parts.size();
          unit.parts.push_back({language, settings_for(part, language, pic)});
        }
        source.part = index.at(language);
        unit.sources.push_back(std::move(source));
      }
    }
    // Headers of grammars may be included by any of them.
    for (const auto& rule : build_.rules)
      unit.generated.insert(unit.generated.end(), rule.outputs.begin(), rule.outputs.end());
  }

  // The modules of a unit have one order: all its Fortran is one part, and what is a source's own goes with the source.
  static void add_fortran(Unit& unit, std::optional<std::size_t>& part, model::CompileSettings settings,
                          model::UnitSource& source) {
    source.options = std::move(settings.options);
    for (const auto& definition : settings.definitions) source.options.push_back("-D" + definition);
    settings.options.clear();
    settings.definitions.clear();
    if (!part) {
      part = unit.parts.size();
      unit.parts.push_back({"Fortran", std::move(settings)});
    } else {
      auto& folders = unit.parts[*part].settings.include_folders;
      for (auto& folder : settings.include_folders) {
        const bool known =
            std::any_of(folders.begin(), folders.end(), [&](const auto& one) { return one.path == folder.path; });
        if (!known) folders.push_back(std::move(folder));
      }
    }
    source.part = *part;
  }

  [[nodiscard]] model::CompileSettings settings_for(const SourceTarget::Part& part, const std::string& language,
                                                    bool position_independent) const {
    model::CompileSettings out;
    out.definitions = part.define;
    out.first_options =
        place_.variant.debug() ? std::vector<std::string>{"-g", "-O0"} : std::vector<std::string>{"-O2"};
    out.options = part.options;
    // Standards and the like are for the language that they are of.
    std::erase_if(out.options, [&](const auto& option) {
      if (!option.starts_with("-std=")) return option == "-fpermissive" && language != "C++";
      const bool cpp = option.find("++") != std::string::npos;
      const bool fortran = option.find("=f") != std::string::npos || option == "-std=legacy";
      return language == "C++" ? !cpp : language == "Fortran" ? !fortran : cpp || fortran;
    });
    for (const auto& folder : part.quote_include) {
      out.options.emplace_back("-iquote");
      out.options.push_back(absolute(folder));
    }
    if (position_independent) out.position_independence = model::PositionIndependence::library;
    const std::string near = part.sources.empty() ? "" : folder_of(part.sources.front());
    const auto generated = folders_by_distance(place_.generated_folders, place_.work, near);
    for (const auto& folder : generated) out.include_folders.push_back({model::IncludeFolder::Kind::plain, folder});
    for (const auto& folder : part.include)
      out.include_folders.push_back({model::IncludeFolder::Kind::plain, absolute(folder)});
    return out;
  }

  // Of the sources of a target and of those it uses.
  [[nodiscard]] std::set<std::string> languages_of(const SourceTarget& target) const {
    std::set<std::string> out;
    for (const auto& part : target.parts) {
      for (const auto& source : part.sources) {
        const auto* made = grammar(source);
        out.insert(survey::compiled_language(made == nullptr ? source : made->outputs.front()));
      }
    }
    for (const auto& name : target.use) {
      const auto of_used = languages_of(*this->target(name));
      out.insert(of_used.begin(), of_used.end());
    }
    out.erase("Assembler");
    out.erase("");  // another's objects, which bring along what they need
    return out;
  }

  void add_items(const SourceTarget& target, Unit& unit) {
    auto& link = unit.link;
    std::map<std::string, std::size_t> index;
    const std::function<std::size_t(const SourceTarget&)> add_used = [&](const SourceTarget& used) -> std::size_t {
      if (const auto it = index.find(used.name); it != index.end()) return it->second;
      const std::size_t at = link.items.size();
      index[used.name] = at;
      model::LinkItem item;
      item.unit = used.kind == SourceTarget::Kind::library ? used.name + "-archive" : used.name;
      item.archive = true;
      link.items.push_back(item);
      std::vector<std::size_t> needs;
      for (const auto& name : used.use) needs.push_back(add_used(*this->target(name)));
      for (const auto& library : used.libraries) needs.push_back(add_library(library, link, index));
      link.items[at].needs = std::move(needs);
      return at;
    };
    for (const auto& name : target.use) {
      const auto& used = *this->target(name);
      link.named.push_back(add_used(used));
      unit.uses.push_back(
          {used.kind == SourceTarget::Kind::library ? used.name + "-archive" : used.name, model::Use::How::link});
    }
    for (const auto& library : target.libraries) link.named.push_back(add_library(library, link, index));
  }
  static std::size_t add_library(const std::string& library, model::LinkSettings& link,
                                 std::map<std::string, std::size_t>& index) {
    if (const auto it = index.find("-l" + library); it != index.end()) return it->second;
    index["-l" + library] = link.items.size();
    model::LinkItem item;
    item.text = library.starts_with('/') || library.starts_with('-') ? library : "-l" + library;
    link.items.push_back(item);
    return link.items.size() - 1;
  }

  void install() {
    bool library = false;
    for (const auto& unit : build_.units) {
      if (!unit.installed) continue;
      const bool program = unit.kind == model::TargetKind::program;
      library = library || !program;
      model::InstallItem item;
      item.from = unit.result.file;
      item.to = (program ? "bin/" : "lib/") + std::filesystem::path(unit.result.file).filename().string();
      item.mode = program || unit.kind == model::TargetKind::shared_library ? 0755 : 0644;
      item.target = unit.name;
      item.relink = unit.kind != model::TargetKind::static_library;
      item.place = unit.place;
      build_.install.push_back(std::move(item));
      build_.installed[unit.name] = program ? "bin" : "lib";
    }
    if (!library) return;
    for (const auto& header : place_.public_headers) {
      model::InstallItem item;
      item.from = absolute(header);
      std::string name = header.substr(header.rfind('/') + 1);
      for (const char* folder : {"include/", "inc/", "includes/"}) {
        if (const auto at = ("/" + header).rfind(std::string("/") + folder); at != std::string::npos)
          name = header.substr(at + std::string(folder).size());
      }
      item.to = "include/" + name;
      item.mode = 0644;
      build_.install.push_back(std::move(item));
    }
  }

  const std::vector<SourceTarget>& targets_;
  const Workplace& place_;
  model::Build build_;
};

std::string quoted(const std::string& text) {
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') out += '\\';
    const auto byte = static_cast<unsigned char>(c);
    if (byte < 0x20 || byte == 0x7F)
      out += fmt::format("\\u{:04X}", byte);
    else
      out += c;
  }
  return out + "\"";
}

// A list of texts, in lines that are no longer than people read.
void put(std::string& out, const std::string& key, const std::vector<std::string>& values) {
  if (values.empty()) return;
  std::string line = key + " = [";
  const std::string indent = "  ";
  for (std::size_t i = 0; i < values.size(); ++i) {
    const std::string word = quoted(values[i]) + (i + 1 < values.size() ? "," : "");
    if (line.size() + word.size() + 1 > 100) {
      out += line + "\n";
      line = indent;
    } else if (i > 0 && line != indent) {
      line += " ";
    }
    line += word;
  }
  out += line + "]\n";
}

void put_part(std::string& out, const SourceTarget::Part& part) {
  put(out, "sources", part.sources);
  put(out, "include", part.include);
  put(out, "quote-include", part.quote_include);
  put(out, "define", part.define);
  put(out, "options", part.options);
}

}  // namespace

model::Build build_of(const std::vector<SourceTarget>& targets, const Workplace& place) {
  return Builder(targets, place).run();
}

std::shared_ptr<const model::Facts> facts_of(const std::vector<SourceTarget>& targets, const Workplace& place) {
  return known_facts(build_of(targets, place));
}

std::string as_settings(const std::vector<SourceTarget>& targets) {
  std::string out;
  for (const auto& target : targets) {
    const char* kind = target.kind == SourceTarget::Kind::program   ? "program"
                       : target.kind == SourceTarget::Kind::library ? "library"
                                                                    : "archive";
    out += (out.empty() ? "" : "\n") +
           (target.why.empty() ? std::string{} : "# because " + text::printable_line(target.why) + "\n") +
           "[[target]]\nname = " + quoted(target.name) + "\nkind = " + quoted(kind) + "\n";
    if (!target.by_default) out += "default = false\n";
    put(out, "use", target.use);
    put(out, "libraries", target.libraries);
    // One part stands in the target itself.
    if (target.parts.size() == 1) {
      put_part(out, target.parts.front());
      continue;
    }
    for (const auto& part : target.parts) {
      out += "\n[[target.part]]\n";
      put_part(out, part);
    }
  }
  return out;
}

}  // namespace coctilis::describe::sources
