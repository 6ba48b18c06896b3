#include "describe/listfile/lower/compilation.h"

#include <set>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/lower/artifacts.h"
#include "survey/languages.h"

namespace coctilis::describe::listfile::lower {

using model::TargetKind;

namespace {

// The standards of a language, oldest first.
const std::vector<std::string>& standards(const std::string& language) {
  static const std::vector<std::string> c = {"90", "99", "11", "17", "23"};
  static const std::vector<std::string> cxx = {"98", "11", "14", "17", "20", "23", "26"};
  return language == "C" ? c : cxx;
}
int standard_rank(const std::string& language, const std::string& standard) {
  const auto& list = standards(language);
  const auto it = std::find(list.begin(), list.end(), standard);
  return it == list.end() ? -1 : static_cast<int>(it - list.begin());
}

std::optional<model::Standard> standard_of(const Target& target, const std::string& language,
                                           const std::vector<std::string>& features) {
  if (language != "C" && language != "C++") return std::nullopt;
  const std::string lang = key_of_language(language);
  const std::string prefix = language == "C" ? "c_std_" : "cxx_std_";
  const std::string compiler_default = "17";  // of all compilers that are supported
  std::string wanted = property_text(target, lang + "_STANDARD");
  bool raised = false;
  for (const auto& feature : features) {
    if (!feature.starts_with(prefix)) continue;
    const std::string number = feature.substr(prefix.size());
    const std::string base = wanted.empty() ? compiler_default : wanted;
    if (standard_rank(language, number) > standard_rank(language, base)) {
      wanted = number;
      raised = true;
    }
  }
  const bool extensions = target.property(lang + "_EXTENSIONS") == nullptr || property_on(target, lang + "_EXTENSIONS");
  if (wanted.empty() && !raised) {
    const bool asked = std::any_of(features.begin(), features.end(),
                                   [&](const auto& f) { return f.starts_with(language == "C" ? "c_" : "cxx_"); });
    if (extensions || !asked) return std::nullopt;
    wanted = compiler_default;
  }
  if (standard_rank(language, wanted) < 0) {
    throw Fault({Exit::description,
                 target.place,
                 "'" + target.name + "' asks for " + language + " standard '" + wanted + "'",
                 "known are " + text::join(standards(language), ", "),
                 "check the property",
                 {}});
  }
  return model::Standard{wanted, extensions};
}

}  // namespace

model::SourceForm source_form(const std::string& property) {
  const std::string word = text::upper(property);
  return word == "FIXED"  ? model::SourceForm::fixed
         : word == "FREE" ? model::SourceForm::free
                          : model::SourceForm::by_name;
}

model::Preprocessing preprocessing(const std::string& property) {
  if (property.empty()) return model::Preprocessing::by_name;
  return is_false(property) ? model::Preprocessing::no : model::Preprocessing::yes;
}

// The configuration's own property goes before the general one.
bool Compilations::optimises_when_linking(const Target& target) const {
  if (target.no_link_time_optimisation) return false;
  const std::string own = "INTERPROCEDURAL_OPTIMIZATION_" + text::upper(project_.configuration);
  return property_on(target, target.property(own) != nullptr ? own : "INTERPROCEDURAL_OPTIMIZATION");
}

void Compilations::take_properties(const Target& target, const std::string& language,
                                   model::CompileSettings& out) const {
  const std::string lang = language == "C" ? "C" : "CXX";
  const bool shared = target.kind == TargetKind::shared_library || target.kind == TargetKind::module_library;
  const bool said = target.property("POSITION_INDEPENDENT_CODE") != nullptr;
  if (said ? property_on(target, "POSITION_INDEPENDENT_CODE") : shared)
    out.position_independence = target.kind == TargetKind::program ? model::PositionIndependence::program
                                                                   : model::PositionIndependence::library;
  if ((language == "C" || language == "C++") && (shared || target.visibility_for_all)) {
    out.visibility = property_text(target, lang + "_VISIBILITY_PRESET");
    out.inlines_hidden = language == "C++" && property_on(target, "VISIBILITY_INLINES_HIDDEN");
  }
  out.link_time_optimisation = optimises_when_linking(target);
  out.warnings_are_errors = property_on(target, "COMPILE_WARNING_AS_ERROR");
  if (language == "Fortran") {
    out.source_form = source_form(property_text(target, "Fortran_FORMAT"));
    out.preprocessing = preprocessing(property_text(target, "Fortran_PREPROCESS"));
    if (const std::string folder = property_text(target, "Fortran_MODULE_DIRECTORY"); !folder.empty()) {
      out.module_folder = files::absolute(folder, target.binary_folder);
      // Nothing is written into the tree: its mirror is.
      if (!files::is_below(out.module_folder, project_.binary_root))
        out.module_folder = files::is_below(out.module_folder, project_.tree)
                                ? files::absolute(files::below(out.module_folder, project_.tree), project_.binary_root)
                                : "";
    }
  }
  for (const auto& word : text::shell_words(property_text(target, "COMPILE_FLAGS"))) out.options.push_back(word);
}

model::CompileSettings Compilations::of(const Target& target, const std::string& language) const {
  using Kind = model::IncludeFolder::Kind;
  model::CompileSettings out;
  const CompileUsage usage = usage_.compile(target, language);
  std::vector<std::string> definitions = usage.definitions;
  if (target.kind == TargetKind::shared_library || target.kind == TargetKind::module_library) {
    std::string symbol =
        target.property("DEFINE_SYMBOL") != nullptr ? property_text(target, "DEFINE_SYMBOL") : target.name + "_EXPORTS";
    for (auto& c : symbol) {
      if (std::isalnum(static_cast<unsigned char>(c)) == 0) c = '_';
    }
    if (!symbol.empty()) definitions.insert(definitions.begin(), symbol);
  }
  for (const auto& definition : definitions)
    out.definitions.push_back(definition.starts_with("-D") ? definition.substr(2) : definition);
  const auto add_folders = [&](const std::vector<std::string>& list, Kind kind) {
    for (const auto& folder : list) {
      if (const std::string before = overlay_of(folder); !before.empty())
        out.include_folders.push_back({Kind::before, before});
      out.include_folders.push_back({kind, folder});
    }
  };
  add_folders(usage.include_folders, Kind::plain);
  add_folders(usage.system_include_folders, Kind::system);
  // A header that another of its folder includes is found there by the compiler itself; written by the description, it
  // lies elsewhere.
  std::set<std::string> after;
  for (const auto& [from, to] : project_.overlaid) {
    if (survey::is_header(to)) after.insert(std::filesystem::path(to).parent_path().string());
  }
  for (const auto& folder : after) out.include_folders.push_back({Kind::after, folder});
  if (const auto it = target.language_options.find(key_of_language(language)); it != target.language_options.end())
    out.first_options = text::shell_words(it->second);
  if (project_.other_compilers.contains(language)) return out;
  out.standard = standard_of(target, language, usage.features);
  take_properties(target, language, out);
  for (const auto& option : usage.options) {
    if (option.starts_with("SHELL:")) {
      for (const auto& word : text::shell_words(option.substr(6))) out.options.push_back(word);
    } else {
      out.options.push_back(option);
    }
  }
  out.first_headers = usage.first_headers;
  return out;
}

std::string Compilations::overlay_of(const std::string& folder) const {
  if (project_.overlaid.empty() || !files::is_below(folder, project_.tree)) return {};
  const std::string below = folder == project_.tree ? "" : "/" + files::below(folder, project_.tree);
  const std::string before = project_.binary_root + "/.tree" + below;
  return files::is_folder(before) ? before : "";
}

}  // namespace coctilis::describe::listfile::lower
