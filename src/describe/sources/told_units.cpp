#include "describe/sources/told_units.h"

#include <re2/re2.h>

#include <algorithm>
#include <functional>
#include <map>
#include <optional>
#include <set>

#include "base/files.h"
#include "base/starter_script.h"
#include "base/text.h"
#include "describe/sources/tree.h"
#include "survey/language_settings.h"
#include "survey/languages.h"

namespace coctilis::describe::sources {

using model::SourceTarget;
using model::ToldLanguage;
using model::Unit;

namespace {

using Makes = ToldLanguage::Makes;

[[noreturn]] void wrong(const Place& place, const std::string& what, const std::string& remedy) {
  throw Fault({Exit::usage, place, what, {}, remedy, {}});
}

std::vector<std::string> sources_of(const SourceTarget& target) {
  std::vector<std::string> out;
  for (const auto& part : target.parts) out.insert(out.end(), part.sources.begin(), part.sources.end());
  return out;
}

// A file that a target names may be one that others take in, and is compiled by itself all the same.
const ToldLanguage* language_of_named(const std::string& source, const model::Settings& settings) {
  if (const auto* language = settings.told_language_of(source)) return language;
  for (const auto& language : settings.languages) {
    for (const auto& ending : language.included) {
      if (source.ends_with(ending)) return &language;
    }
  }
  return nullptr;
}

bool begins_program(const std::string& path, const ToldLanguage& language) {
  if (language.entry.empty()) return false;
  const RE2 entry(language.entry);
  for (const auto& line : text::split(files::read(path).value_or(""), '\n')) {
    if (RE2::PartialMatch(line, entry)) return true;
  }
  return false;
}

// What stands in the places of words.
struct Values {
  std::map<std::string, std::string> single;
  std::map<std::string, std::vector<std::string>> listed;
};

std::vector<std::string> filled(const std::vector<std::string>& words, const Values& values) {
  std::vector<std::string> out;
  for (std::string word : words) {
    for (const auto& [name, value] : values.single) word = text::replace_all(std::move(word), "${" + name + "}", value);
    std::string listed;
    for (const auto& name : survey::listed_places()) {
      if (word.find("${" + name + "}") != std::string::npos) listed = name;
    }
    if (listed.empty()) {
      out.push_back(std::move(word));
      continue;
    }
    const auto it = values.listed.find(listed);
    if (it == values.listed.end()) continue;
    for (const auto& value : it->second) out.push_back(text::replace_all(word, "${" + listed + "}", value));
  }
  return out;
}

class ToldUnits {
 public:
  ToldUnits(const std::vector<SourceTarget>& targets, const std::vector<SourceTarget>& others,
            const ReadRequest& request, model::Project& project, model::Build& build)
      : targets_(targets),
        others_(others),
        request_(request),
        settings_(request.locator.settings()),
        project_(project),
        build_(build) {}

  void run() {
    for (const auto& target : targets_) check(target);
    // What is used comes before those that use it.
    for (const auto& target : targets_) add(target);
  }

 private:
  [[nodiscard]] const SourceTarget* named(const std::vector<SourceTarget>& in, const std::string& name) const {
    const auto it = std::find_if(in.begin(), in.end(), [&](const auto& one) { return one.name == name; });
    return it == in.end() ? nullptr : &*it;
  }
  [[nodiscard]] std::string absolute(const std::string& path) const {
    return files::absolute(path, request_.survey.tree);
  }
  [[nodiscard]] const ToldLanguage& language_of(const SourceTarget& target) const {
    return *language_of_named(sources_of(target).front(), settings_);
  }
  [[nodiscard]] std::string folder_of(const SourceTarget& target) const {
    return request_.work + "/.languages/" + language_of(target).name + "/" + target.name;
  }

  void check(const SourceTarget& target) const {
    const std::string whose = "the target '" + target.name + "' ";
    for (const auto& source : sources_of(target)) {
      if (!files::is_below(absolute(source), request_.survey.tree))
        wrong(target.place,
              whose + "has the source '" + text::printable_line(source) + "', which lies outside of the tree",
              "name files of the tree");
      if (!files::is_file(absolute(source)))
        wrong(target.place, whose + "has the source '" + text::printable_line(source) + "', which is not there",
              "check the path: it counts from the top of the tree");
    }
    for (const auto& part : target.parts) {
      if (!part.define.empty() || !part.quote_include.empty())
        wrong(target.place, whose + "says what only C and its like know: define, quote-include",
              "say it under options, in the words of its compiler");
    }
    const auto& language = language_of(target);
    if (target.kind != SourceTarget::Kind::program && language.makes != Makes::object)
      wrong(target.place, whose + "is a library, and the compiler of " + language.name + " makes no objects",
            "let it be a program, or say makes = \"object\" under [language." + language.name + "]");
    if (target.kind == SourceTarget::Kind::library)
      wrong(target.place, whose + "is a library for users, which is not made in " + language.name,
            "write kind = \"archive\"");
    for (const auto& name : target.use) {
      const auto* other = named(targets_, name) != nullptr ? named(targets_, name) : named(others_, name);
      if (other == nullptr)
        wrong(target.place, whose + "uses '" + text::printable_line(name) + "', which is no target",
              "libraries of the system are named under libraries");
      if (other->kind == SourceTarget::Kind::program)
        wrong(target.place, whose + "uses the program '" + name + "'", "only archives can be used");
    }
    std::set<std::string> seen;
    if (uses(target, target.name, seen))
      wrong(target.place, whose + "uses itself, by " + text::join(target.use, ", "), "take one use out of the circle");
  }
  bool uses(const SourceTarget& from, const std::string& name, std::set<std::string>& seen) const {
    return std::any_of(from.use.begin(), from.use.end(), [&](const auto& used) {
      if (used == name) return true;
      const auto* next = named(targets_, used);
      return next != nullptr && seen.insert(used).second && uses(*next, name, seen);
    });
  }

  // ---- from outside ------------------------------------------------------------------------------------------------
  std::string program(const std::string& name, const ToldLanguage& language) {
    auto finding = request_.locator.program(wanted(name, {}, language), {name}, {});
    std::string where = finding.where;
    request_.locator.keep(std::move(finding));
    return where;
  }
  [[nodiscard]] static model::Requirement wanted(const std::string& name, const std::string& constraint,
                                                 const ToldLanguage& language) {
    return {model::RequirementKind::program,    name,           constraint, true,
            "[language." + language.name + "]", language.place, {}};
  }

  // The first of its compilers that is there and has the version that is asked for.
  std::string compiler_of(const ToldLanguage& language) {
    std::optional<model::Finding> refused;
    for (const auto& name : language.compiler) {
      auto finding = request_.locator.program(wanted(name, {}, language), {name}, {});
      finding.requirement.constraint = language.version;
      if (!finding.found) {
        if (!language.package.empty()) finding.package = language.package;
        if (!refused) refused = std::move(finding);
        continue;
      }
      finding.version = version_of(finding.where, language);
      finding.version_source = "program itself";
      if (language.version.empty() || text::version_meets(finding.version, language.version)) {
        std::string where = finding.where;
        request_.locator.keep(std::move(finding));
        return where;
      }
      finding.found = false;
      finding.refused = true;
      finding.reason = (finding.version.empty() ? "its version cannot be told" : "version " + finding.version) +
                       " at " + finding.where + " is not usable; required is " + language.version;
      // One that is there and too old says more than one that is not there.
      if (!refused || !refused->refused) refused = std::move(finding);
    }
    if (refused) request_.locator.keep(std::move(*refused));
    return {};
  }
  [[nodiscard]] std::string version_of(const std::string& program, const ToldLanguage& language) const {
    if (language.version_words.empty()) return request_.locator.version_of_program(program);
    std::vector<std::string> command = {program};
    command.insert(command.end(), language.version_words.begin(), language.version_words.end());
    static const RE2 number(R"((\d+(?:\.\d+)+|\d+))");
    std::string out;
    RE2::PartialMatch(request_.locator.told_by(command), number, &out);
    return out;
  }

  // What all commands of a language have in common; asked for once.
  const Values& common(const ToldLanguage& language) {
    const auto [it, fresh] = common_.try_emplace(language.name);
    Values& out = it->second;
    if (!fresh) return out;
    out.single["tree"] = request_.survey.tree;
    out.single["compiler"] = compiler_of(language);
    for (const auto& folder : language.include) out.listed["include"].push_back(absolute(folder));
    for (const auto& folder : language.library_folders) out.listed["library-folder"].push_back(absolute(folder));
    out.single["options-file"] = language.options_file.empty() ? std::string{} : absolute(language.options_file);
    const auto file = [&](const std::string& name, const std::vector<std::string>& folders, const char* how) {
      auto finding = request_.locator.file_in(
          {model::RequirementKind::file, name, {}, true, "[language." + language.name + "]", language.place, {}},
          folders);
      finding.how = how;
      std::string where = finding.where;
      request_.locator.keep(std::move(finding));
      return where;
    };
    if (!language.options_file.empty())
      static_cast<void>(file(language.options_file, {request_.survey.tree}, "options of a compiler"));
    for (const auto& library : language.libraries)
      out.listed["library"].push_back(file(library, out.listed["library-folder"], "library of a language"));
    return out;
  }

  // ---- units -------------------------------------------------------------------------------------------------------
  void add(const SourceTarget& target) {
    const auto& language = language_of(target);
    Unit unit;
    unit.name = target.name;
    unit.kind =
        target.kind == SourceTarget::Kind::program ? model::TargetKind::program : model::TargetKind::static_library;
    unit.in_default = target.by_default;
    unit.installed = target.by_default && unit.kind == model::TargetKind::program;
    unit.folder = request_.survey.tree;
    unit.work_folder = request_.work;
    unit.place = target.place;
    unit.why = target.why;
    unit.result.file = request_.work + "/" + result_of(target);
    unit.result.linker_file = unit.result.file;
    unit.parts = {{language.name, {}}};
    for (const auto& source : sources_of(target)) {
      model::UnitSource one;
      one.path = absolute(source);
      one.part = 0;
      one.place = {source, 0, 0};
      unit.sources.push_back(std::move(one));
    }
    unit.whole.emplace();
    Values values = common(language);
    values.single["name"] = target.name;
    values.single["folder"] = folder_of(target);
    for (const auto& part : target.parts) {
      for (const auto& folder : part.include) values.listed["include"].push_back(absolute(folder));
    }
    auto& options = values.listed["options"];
    options = language.options;
    const auto variant = settings_.variants.find(settings_.variant);
    const bool debug = variant != settings_.variants.end() && variant->second.debug();
    const auto& of_variant = debug ? language.debug : language.release;
    options.insert(options.end(), of_variant.begin(), of_variant.end());
    for (const auto& part : target.parts) options.insert(options.end(), part.options.begin(), part.options.end());
    for (const auto& library : target.libraries)
      values.listed["library"].push_back(library.starts_with('/') || library.starts_with('-') ? library
                                                                                              : "-l" + library);
    add_used(target, unit, values);
    if (language.makes == Makes::object)
      add_objects(target, language, values, unit);
    else
      add_whole(target, language, values, unit);
    model::Outline outline;
    outline.name = unit.name;
    outline.in_default = unit.in_default;
    outline.folder = unit.folder;
    for (const auto& source : unit.sources) outline.sources.push_back(source.path);
    project_.outlines.push_back(std::move(outline));
    build_.units.push_back(std::move(unit));
  }

  [[nodiscard]] static std::string result_of(const SourceTarget& target) {
    if (target.kind == SourceTarget::Kind::program) return target.name;
    return (target.name.starts_with("lib") ? target.name : "lib" + target.name) + ".a";
  }

  // Archives of other targets, each before those that it uses, and where objects of the same language lie.
  void add_used(const SourceTarget& target, Unit& unit, Values& values) const {
    std::set<std::string> seen;
    auto& folders = values.listed["object-folder"];
    folders = {folder_of(target)};
    const std::function<void(const SourceTarget&)> walk = [&](const SourceTarget& from) {
      for (const auto& name : from.use) {
        if (!seen.insert(name).second) continue;
        const auto* own = named(targets_, name);
        const auto* other = own == nullptr ? named(others_, name) : own;
        if (other == nullptr) continue;
        values.listed["uses"].push_back(request_.work + "/" + result_of(*other));
        const std::string unit_name = other->kind == SourceTarget::Kind::library ? name + "-archive" : name;
        unit.uses.push_back({unit_name, model::Use::How::link});
        unit.whole->units.push_back(unit_name);
        if (own != nullptr && language_of(*own).name == language_of(target).name) folders.push_back(folder_of(*own));
        walk(*other);
      }
    };
    walk(target);
  }

  // A rule with what all of them have; its commands work in the folder of the target.
  [[nodiscard]] model::Rule rule(const ToldLanguage& language, const Values& values,
                                 std::vector<std::string> inputs) const {
    model::Rule out;
    out.inputs = std::move(inputs);
    if (!language.options_file.empty()) out.inputs.push_back(values.single.at("options-file"));
    if (const auto it = values.listed.find("library"); it != values.listed.end()) {
      for (const auto& path : it->second) {
        if (path.starts_with('/')) out.inputs.push_back(path);
      }
    }
    return out;
  }
  static model::Action command(std::vector<std::string> words, const std::string& folder) {
    model::Action out;
    out.folder = folder;
    out.argv = std::move(words);
    return out;
  }

  // The source that its program begins in: the first, where none says so.
  [[nodiscard]] static std::string beginning_of(const Unit& unit, const ToldLanguage& language) {
    const auto begin = std::find_if(unit.sources.begin(), unit.sources.end(),
                                    [&](const auto& source) { return begins_program(source.path, language); });
    return begin == unit.sources.end() ? unit.sources.front().path : begin->path;
  }

  void add_objects(const SourceTarget& target, const ToldLanguage& language, Values values, Unit& unit) {
    const std::string folder = folder_of(target);
    const std::string begin = beginning_of(unit, language);
    std::set<std::string> taken;
    std::string main;
    auto& objects = values.listed["objects"];
    for (const auto& source : unit.sources) {
      const std::string stem = std::filesystem::path(source.path).stem().string();
      std::string place = folder;
      for (int n = 2; !taken.insert(place + "/" + stem).second; ++n) place = folder + "/" + std::to_string(n);
      if (place != folder) {
        auto& folders = values.listed["object-folder"];
        if (std::find(folders.begin(), folders.end(), place) == folders.end()) folders.push_back(place);
      }
      const std::string object = place + "/" + stem + ".o";
      Values own = values;
      own.single["source"] = source.path;
      own.single["stem"] = stem;
      own.single["output"] = object;
      model::Rule one = rule(language, own, {source.path});
      one.place = source.place;
      one.outputs = {object};
      for (const auto& ending : language.also) one.byproducts.push_back(place + "/" + stem + ending);
      std::vector<std::string> words = {own.single["compiler"]};
      for (auto& word : filled(language.command, own)) words.push_back(std::move(word));
      one.actions = {model::make_folder(place, request_.work), command(std::move(words), folder)};
      if (!language.reads.empty()) one.dependency_file = filled({language.reads}, own).front();
      unit.whole->rules.push_back(std::move(one));
      objects.push_back(object);
      if (source.path == begin) main = place + "/" + stem;
    }
    values.single["output"] = unit.result.file;
    values.single["main"] = main;
    values.single["stem"] = std::filesystem::path(main).filename().string();
    values.single["source"] = unit.sources.front().path;
    model::Rule last = rule(language, values, objects);
    for (const auto& rule : unit.whole->rules)
      last.inputs.insert(last.inputs.end(), rule.byproducts.begin(), rule.byproducts.end());
    for (const auto& used : values.listed["uses"]) last.inputs.push_back(used);
    last.outputs = {unit.result.file};
    if (unit.kind == model::TargetKind::static_library) {
      std::vector<std::string> words = {request_.locator.toolchain().archiver, "rcsD", unit.result.file};
      words.insert(words.end(), objects.begin(), objects.end());
      last.actions = {{model::Action::How::builtin, {"rm", "-f", unit.result.file}, request_.work, {}},
                      command(std::move(words), folder)};
    } else if (language.link.empty()) {
      std::vector<std::string> words = {request_.locator.toolchain().compiler("C").path, "-o", unit.result.file};
      for (const char* list : {"objects", "uses"})
        words.insert(words.end(), values.listed[list].begin(), values.listed[list].end());
      // Others are for the compiler alone.
      for (const auto& library : values.listed["library"]) {
        if (library.starts_with('-') || library.ends_with(".a") || library.ends_with(".o") ||
            library.find(".so") != std::string::npos)
          words.push_back(library);
      }
      last.actions = {command(std::move(words), folder)};
    }
    for (const auto& one : language.link) {
      if (unit.kind == model::TargetKind::static_library) break;
      auto words = filled(one, values);
      if (words.empty()) continue;
      if (!words.front().starts_with('/')) words.front() = program(words.front(), language);
      last.actions.push_back(command(std::move(words), folder));
    }
    unit.whole->rules.push_back(std::move(last));
    if (unit.kind == model::TargetKind::program) install_program(unit);
  }

  // One command makes the program, or a folder that something else starts.
  void add_whole(const SourceTarget& target, const ToldLanguage& language, Values values, Unit& unit) {
    const std::string folder = folder_of(target);
    const std::string source = beginning_of(unit, language);
    const bool started = !language.start.empty();
    const bool makes_folder = language.makes == Makes::folder;
    const std::string made = makes_folder ? folder + "/made" : started ? folder + "/" + target.name : unit.result.file;
    values.single["source"] = source;
    values.single["stem"] = std::filesystem::path(source).stem().string();
    values.single["output"] = made;
    values.single["main"] = made;
    for (const auto& one : unit.sources) values.listed["sources"].push_back(one.path);
    model::Rule one = rule(language, values, values.listed["sources"]);
    for (const auto& used : values.listed["uses"]) one.inputs.push_back(used);
    const std::string scratch = folder + "/scratch";
    values.single["folder"] = scratch;
    std::vector<std::string> words = {values.single["compiler"]};
    for (auto& word : filled(language.command, values)) words.push_back(std::move(word));
    // What compilers leave there would be taken for new the next time, whatever became of the sources.
    one.actions = {{model::Action::How::builtin, {"rm", "-rf", scratch}, request_.work, {}},
                   model::make_folder(scratch, request_.work)};
    if (makes_folder) {
      one.output_folder = made;
      one.outputs = {folder + "/compiled"};
    } else {
      one.outputs = {made};
    }
    one.actions.push_back(command(std::move(words), scratch));
    if (makes_folder)
      one.actions.push_back({model::Action::How::builtin, {"touch", one.outputs.front()}, request_.work, {}});
    if (!language.reads.empty()) one.dependency_file = filled({language.reads}, values).front();
    const std::string first = one.outputs.front();
    unit.whole->rules.push_back(std::move(one));
    if (!started) return install_program(unit);
    auto start = filled(language.start, values);
    if (!start.front().starts_with('/')) start.front() = program(start.front(), language);
    model::Rule starter;
    starter.inputs = {first};
    starter.outputs = {unit.result.file};
    starter.actions = {
        {model::Action::How::builtin,
         {"write-starter", unit.result.file, script(target.name, start, made, "/" + files::below(made, request_.work))},
         request_.work,
         {}}};
    unit.whole->rules.push_back(std::move(starter));
    unit.whole->entry = values.single["stem"];
    install_started(unit, start, made, makes_folder);
  }

  // The script that starts it, where what was made lies at `below` from the script's own folder.
  [[nodiscard]] static std::string script(const std::string& name, const std::vector<std::string>& start,
                                          const std::string& made, const std::string& below) {
    std::vector<std::string> words;
    for (const auto& word : start) {
      const auto at = word.find(made);
      if (at == std::string::npos)
        words.push_back(text::shell_quote(word));
      else
        words.push_back((at > 0 ? text::shell_quote(word.substr(0, at)) : std::string{}) +
                        from_script(below.substr(1) + word.substr(at + made.size())));
    }
    return starter_script(name, words);
  }

  void install_program(const Unit& unit) {
    if (!unit.installed) return;
    model::InstallItem item;
    item.from = unit.result.file;
    item.to = "bin/" + unit.name;
    item.mode = 0755;
    item.target = unit.name;
    item.place = unit.place;
    build_.install.push_back(std::move(item));
    build_.installed[unit.name] = "bin";
  }

  void install_started(const Unit& unit, const std::vector<std::string>& start, const std::string& made, bool folder) {
    if (!unit.installed) return;
    const std::string below = "lib/" + unit.name + "/" + std::filesystem::path(made).filename().string();
    model::InstallItem item;
    item.kind = folder ? model::InstallItem::Kind::folder : model::InstallItem::Kind::file;
    item.from = made;
    item.to = below;
    item.keep_mode = true;
    item.place = unit.place;
    item.target = unit.name;
    build_.install.push_back(item);
    model::InstallItem starter;
    starter.kind = model::InstallItem::Kind::text;
    starter.from = script(unit.name, start, made, "/../" + below);
    starter.to = "bin/" + unit.name;
    starter.mode = 0755;
    starter.target = unit.name;
    starter.place = unit.place;
    build_.install.push_back(std::move(starter));
  }

  const std::vector<SourceTarget>& targets_;
  const std::vector<SourceTarget>& others_;
  const ReadRequest& request_;
  const model::Settings& settings_;
  model::Project& project_;
  model::Build& build_;
  std::map<std::string, Values> common_;  // by language
};

}  // namespace

bool is_told(const SourceTarget& target, const model::Settings& settings) {
  std::string language;
  std::string other;
  for (const auto& source : sources_of(target)) {
    const auto* told = language_of_named(source, settings);
    // What this program compiles itself is only of another when that says so.
    (told == nullptr ? other : language) = told == nullptr ? source : told->name;
    if (told != nullptr && told->name != language) other = source;
  }
  if (!language.empty() && !other.empty())
    wrong(target.place,
          "the target '" + target.name + "' has sources in " + language + ", and '" + text::printable_line(other) +
              "' is in another language",
          "make a target of each, and let one use the other");
  return !language.empty();
}

std::vector<SourceTarget> told_targets(const ReadRequest& request) {
  const auto& settings = request.locator.settings();
  std::vector<SourceTarget> out;
  if (settings.languages.empty()) return out;
  const Tree tree(request.survey.tree, settings, [](const std::string&) { return false; });
  std::set<std::string> names;
  for (const auto& language : settings.languages) {
    std::vector<std::string> sources, entries, rest;
    for (const auto& file : tree.files()) {
      if (file.role == survey::FolderRole::own && settings.told_language_of(file.path) == &language)
        sources.push_back(file.path);
    }
    if (sources.empty()) continue;
    for (const auto& source : sources)
      (begins_program(tree.absolute(source), language) ? entries : rest).push_back(source);
    if (entries.empty() && sources.size() == 1 && language.makes != Makes::object) entries = std::exchange(rest, {});
    if (entries.empty() && language.makes != Makes::object)
      wrong(language.place,
            "nothing tells in which of the " + text::count(sources.size(), "source") + " in " + language.name +
                " a program begins",
            language.entry.empty() ? "write entry = \"PATTERN\" for the line, or name targets with [[target]]"
                                   : "no line is like the pattern of entry: mend it, or name targets with [[target]]");
    const auto add = [&](std::string name, SourceTarget::Kind kind, std::vector<std::string> list, std::string why) {
      const std::string plain = name;
      for (int n = 2; !names.insert(name).second; ++n) name = plain + "-" + std::to_string(n);
      SourceTarget target;
      target.name = std::move(name);
      target.kind = kind;
      target.parts.emplace_back();
      target.parts.front().sources = std::move(list);
      target.why = std::move(why);
      target.place = {target.parts.front().sources.front(), 0, 0};
      out.push_back(std::move(target));
    };
    for (const auto& entry : entries) {
      std::vector<std::string> list = {entry};
      list.insert(list.end(), rest.begin(), rest.end());
      add(std::filesystem::path(entry).stem().string(), SourceTarget::Kind::program, std::move(list),
          "a program begins in " + entry);
    }
    if (entries.empty())
      add(std::filesystem::path(request.survey.tree).filename().string(), SourceTarget::Kind::archive, rest,
          "no source in " + language.name + " begins a program");
  }
  return out;
}

void add_told_units(const std::vector<SourceTarget>& targets, const std::vector<SourceTarget>& others,
                    const ReadRequest& request, model::Project& project, model::Build& build) {
  ToldUnits(targets, others, request, project, build).run();
}

}  // namespace coctilis::describe::sources
