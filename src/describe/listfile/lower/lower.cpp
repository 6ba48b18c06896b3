#include "describe/listfile/lower/lower.h"

#include <set>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/lower/artifacts.h"
#include "describe/listfile/lower/compilation.h"
#include "describe/listfile/lower/declared_tests.h"
#include "describe/listfile/lower/expression.h"
#include "describe/listfile/lower/generated_files.h"
#include "describe/listfile/lower/install.h"
#include "describe/listfile/lower/rules.h"
#include "describe/listfile/lower/sources.h"
#include "describe/listfile/lower/usage.h"
#include "survey/languages.h"

namespace coctilis::describe::listfile::lower {

namespace {

// One lowering: a project for one tool chain.
class Lowering {
 public:
  Lowering(const Declared& project, const model::Toolchain& toolchain, const std::string& output_root)
      : project_(project),
        artifacts_(project, toolchain, build_.notes),
        expressions_(
            project, toolchain,
            {[this](const Target& t, const std::string& kind) { return target_file(t, kind); },
             [this](const Target& t) { return sources_.objects(t); },
             [this](const Target& t, const std::string& p, std::string& out) { return usage_.gathered(t, p, out); }}),
        usage_(project, artifacts_, expressions_),
        compilations_(project, usage_),
        rules_(project, artifacts_, expressions_, output_root),
        sources_(project, expressions_, usage_, rules_),
        output_root_(output_root) {}

  model::Build run() {
    note_installed();
    build_.compilers = project_.other_compilers;
    build_.rules = rules_.all();
    for (const auto& target : project_.targets) {
      if (target.alias_of.empty()) build_.units.push_back(unit_of(target));
    }
    build_.tests = lower_tests(project_, artifacts_, expressions_, output_root_);
    lower_generated_files(project_, expressions_, build_);
    lower_install(project_, artifacts_, expressions_, build_);
    return std::move(build_);
  }

 private:
  void note_installed() {
    for (const auto& rule : project_.install_rules) {
      if (rule.words.empty() || rule.for_build_folder || rule.words.front().text != "TARGETS") continue;
      for (const auto& word : rule.words) {
        if (const Target* target = project_.target(word.text)) installed_.insert(target->name);
      }
    }
  }

  std::string target_file(const Target& target, const std::string& kind) const {
    const auto& artifact = artifacts_.of(target);
    if (kind == "LINKER_FILE") return artifact.linker_file;
    if (kind == "SONAME_FILE" && !artifact.shared_name.empty())
      return std::filesystem::path(artifact.file).parent_path().string() + "/" + artifact.shared_name;
    return artifact.file;
  }

  model::Unit unit_of(const Target& target) {
    model::Unit unit;
    unit.name = target.name;
    unit.kind = target.kind;
    unit.place = target.place;
    unit.external = target.imported;
    unit.installed = installed_.contains(target.name);
    unit.in_default = target.in_default && target.kind != TargetKind::interface_library;
    unit.folder = target.folder;
    unit.work_folder = target.binary_folder;
    unit.result = artifacts_.of(target);
    unit.uses = usage_.uses(target);
    if (target.imported) return unit;
    if (target.kind == TargetKind::custom) {
      unit.command = rules_.of_target(target);
      return unit;
    }
    const auto sources = sources_.of(target);
    for (const auto& source : sources) {
      if (rules_.makes(source.path)) unit.generated.push_back(source.path);
      for (const auto& needed : sources_.inputs(target, source)) {
        if (rules_.makes(needed)) unit.generated.push_back(needed);
      }
    }
    if (target.kind == TargetKind::interface_library) return unit;
    for (const auto& source : sources) add_source(target, source, unit);
    if (target.kind == TargetKind::object_set) return unit;
    add_link(target, unit);
    std::vector<std::string> outputs = {unit.result.file};
    unit.before = rules_.commands({target.before_compile, target.before_link}, outputs);
    outputs.insert(outputs.end(), unit.result.names.begin(), unit.result.names.end());
    unit.behind = rules_.commands({target.after_link}, outputs);
    return unit;
  }

  void add_source(const Target& target, const Source& source, model::Unit& unit) {
    model::UnitSource out;
    out.path = source.path;
    out.place = source.place;
    if (source.is_object()) {
      unit.sources.push_back(std::move(out));
      return;
    }
    if (source.language.empty()) return;
    const auto known = std::find_if(unit.parts.begin(), unit.parts.end(),
                                    [&](const auto& part) { return part.language == source.language; });
    out.part = static_cast<std::size_t>(known - unit.parts.begin());
    if (known == unit.parts.end()) unit.parts.push_back({source.language, compilations_.of(target, source.language)});
    out.inputs = sources_.inputs(target, source);
    if (!project_.other_compilers.contains(source.language)) {
      out.options = sources_.options(target, source);
      out.quote_folder = compilations_.overlay_of(std::filesystem::path(source.path).parent_path().string());
    }
    if (source.language == "Fortran") {
      out.source_form = source_form(sources_.property(source.path, "Fortran_FORMAT"));
      out.preprocessing = preprocessing(sources_.property(source.path, "Fortran_PREPROCESS"));
    }
    unit.sources.push_back(std::move(out));
  }

  // The languages that a target's own sources are written in, as far as their names tell.
  static void add_languages(const Target& target, std::set<std::string>& into) {
    for (const auto& source : target.sources) {
      if (const std::string language = survey::compiled_language(source.text); !language.empty()) into.insert(language);
    }
  }

  void add_link(const Target& target, model::Unit& unit) const {
    std::set<std::string> languages = {"C"};
    for (const auto& part : unit.parts) languages.insert(part.language);
    const std::string own = survey::linking_language(languages);
    auto link = usage_.link(target, own);
    for (const auto& item : link.items) {
      const Target* used = item.unit.empty() ? nullptr : project_.target(item.unit);
      if (used != nullptr && used->kind == TargetKind::static_library) add_languages(*used, languages);
    }
    for (const auto& name : link.object_sets) add_languages(*project_.target(name), languages);
    const std::string forced = property_text(target, "LINKER_LANGUAGE");
    const std::string language = forced.empty() ? survey::linking_language(languages) : language_named(forced);
    if (language != own) link = usage_.link(target, language);
    link.language = language;
    link.languages.assign(languages.begin(), languages.end());
    const std::string key = key_of_language(language);
    if (const auto it = target.language_options.find(key); it != target.language_options.end())
      link.first_options = text::shell_words(it->second);
    link.link_time_optimisation = compilations_.optimises_when_linking(target);
    const std::string kind = target.kind == TargetKind::program          ? "EXE"
                             : target.kind == TargetKind::shared_library ? "SHARED"
                                                                         : "MODULE";
    if (const auto it = target.link_variables.find(kind); it != target.link_variables.end())
      link.kind_options = text::shell_words(it->second);
    for (auto& word : text::shell_words(property_text(target, "LINK_FLAGS"))) link.options.push_back(std::move(word));
    if (const auto it = target.link_variables.find(key + "_STANDARD_LIBRARIES"); it != target.link_variables.end())
      link.libraries = text::shell_words(it->second);
    link.exports_symbols =
        target.kind == TargetKind::program && (property_on(target, "ENABLE_EXPORTS") || target.exports_always);
    link.run_path = !property_on(target, "SKIP_BUILD_RPATH");
    link.run_folders = list_elements(property_text(target, "BUILD_RPATH"), false);
    unit.link = std::move(link);
  }

  const Declared& project_;
  model::Build build_;
  std::set<std::string> installed_;
  Artifacts artifacts_;
  Expressions expressions_;
  Usage usage_;
  Compilations compilations_;
  Rules rules_;
  Sources sources_;
  const std::string output_root_;
};

class ListfileFacts : public model::Facts {
 public:
  ListfileFacts(std::shared_ptr<const Declared> project, std::string output_root)
      : project_(std::move(project)), output_root_(std::move(output_root)) {}
  [[nodiscard]] model::Build build_with(const model::Toolchain& toolchain) const override {
    return Lowering(*project_, toolchain, output_root_).run();
  }

  [[nodiscard]] const Declared& declared() const { return *project_; }

 private:
  std::shared_ptr<const Declared> project_;
  std::string output_root_;
};

// The standards that a target cannot do without.
std::map<std::string, int> standards_of(const Target& target) {
  std::map<std::string, int> out;
  const auto age = [](int year) { return year >= 90 ? year - 100 : year; };
  const auto ask = [&](const std::string& language, const std::string& number) {
    if (number.empty() || number.find_first_not_of("0123456789") != std::string::npos || number.size() > 2) return;
    const int year = std::stoi(number);
    const auto it = out.find(language);
    if (it == out.end() || age(year) > age(it->second)) out[language] = year;
  };
  for (const auto& [property, language] : {std::pair{"C_STANDARD", "C"}, std::pair{"CXX_STANDARD", "C++"}}) {
    const auto* required = target.property(std::string(property) + "_REQUIRED");
    const auto* values = target.property(property);
    if (values != nullptr && !values->empty() && required != nullptr && !required->empty() &&
        is_true(required->front().text))
      ask(language, values->front().text);
  }
  for (const auto* list : {&target.own.compile_features, &target.handed_on.compile_features}) {
    for (const auto& feature : *list) {
      if (feature.text.starts_with("c_std_")) ask("C", feature.text.substr(6));
      if (feature.text.starts_with("cxx_std_")) ask("C++", feature.text.substr(8));
    }
  }
  return out;
}

}  // namespace

std::shared_ptr<const model::Facts> facts_of(std::shared_ptr<const Declared> project, std::string output_root) {
  return std::make_shared<ListfileFacts>(std::move(project), std::move(output_root));
}

const Declared* declared_by(const model::Project& project) {
  const auto* facts = dynamic_cast<const ListfileFacts*>(project.facts.get());
  return facts == nullptr ? nullptr : &facts->declared();
}

std::vector<model::Outline> outlines_of(const Declared& project) {
  std::vector<model::Outline> out;
  for (const auto& target : project.targets) {
    if (target.imported) continue;
    model::Outline outline;
    outline.name = target.name;
    outline.in_default = target.in_default;
    if (target.kind == TargetKind::custom) outline.kind = model::Outline::Kind::commands;
    outline.folder = target.folder;
    for (const auto& source : target.sources) outline.sources.push_back(files::absolute(source.text, target.folder));
    for (const auto& folder : target.own.include_folders)
      outline.include_folders.push_back(files::absolute(folder.text, target.folder));
    outline.standards = standards_of(target);
    out.push_back(std::move(outline));
  }
  for (const auto& test : project.tests) {
    model::Outline outline;
    outline.kind = model::Outline::Kind::test;
    outline.name = test.name;
    outline.in_default = false;
    outline.folder = test.folder;
    for (const auto& word : test.command) {
      if (!word.text.empty()) outline.sources.push_back(files::absolute(word.text, test.folder));
    }
    out.push_back(std::move(outline));
  }
  return out;
}

}  // namespace coctilis::describe::listfile::lower
