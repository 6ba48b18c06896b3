#include "plan/compilation.h"

#include <set>

#include "base/files.h"
#include "base/text.h"
#include "plan/artifacts.h"
#include "survey/languages.h"

namespace coctilis::plan {

using model::Target;
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

std::vector<std::string> standard_option(const Target& target, const std::string& language,
                                         const std::vector<std::string>& features) {
  if (language == "ASM") return {};
  const std::string lang = language == "C" ? "C" : "CXX";
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
    if (extensions || !asked) return {};
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
  std::string number = wanted;
  if (language == "C" && wanted == "23") number = "2x";
  if (language == "C++" && wanted == "26") number = "2c";
  if (language == "C++" && wanted == "23") number = "2b";
  return {std::string("-std=") + (extensions ? "gnu" : "c") + (language == "C" ? "" : "++") + number};
}

}  // namespace

Compilations::Compilations(const model::Project& project, const model::Toolchain& toolchain,
                           const model::Settings& settings, const Usage& usage, std::vector<std::string>& notes)
    : project_(project),
      toolchain_(toolchain),
      usage_(usage),
      notes_(notes),
      warnings_as_errors_(settings.warnings_as_errors) {
  if (const auto it = settings.variants.find(settings.variant); it != settings.variants.end()) variant_ = it->second;
}

// The configuration's own property goes before the general one.
bool Compilations::optimises_when_linking(const Target& target) const {
  if (target.property("__no_link_time_optimisation") != nullptr) return false;
  const std::string own = "INTERPROCEDURAL_OPTIMIZATION_" + text::upper(project_.configuration);
  return property_on(target, target.property(own) != nullptr ? own : "INTERPROCEDURAL_OPTIMIZATION");
}

std::vector<std::string> Compilations::property_options(const Target& target, const std::string& language) const {
  std::vector<std::string> out;
  const std::string lang = language == "C" ? "C" : "CXX";
  const bool shared = target.kind == TargetKind::shared_library || target.kind == TargetKind::module_library;
  const bool pic = shared || property_on(target, "POSITION_INDEPENDENT_CODE");
  if (pic &&
      (target.property("POSITION_INDEPENDENT_CODE") == nullptr || property_on(target, "POSITION_INDEPENDENT_CODE")))
    out.push_back(target.kind == TargetKind::program ? "-fPIE" : "-fPIC");
  if (language != "ASM" && (shared || target.property("__visibility_for_all") != nullptr)) {
    const std::string preset = property_text(target, lang + "_VISIBILITY_PRESET");
    if (!preset.empty()) out.push_back("-fvisibility=" + preset);
    if (language == "C++" && property_on(target, "VISIBILITY_INLINES_HIDDEN"))
      out.emplace_back("-fvisibility-inlines-hidden");
  }
  if (optimises_when_linking(target)) out.emplace_back("-flto");
  if (property_on(target, "COMPILE_WARNING_AS_ERROR")) out.emplace_back("-Werror");
  for (const auto& word : text::shell_words(property_text(target, "COMPILE_FLAGS"))) out.push_back(word);
  return out;
}

Compilation Compilations::of(const Target& target, const std::string& language) {
  Compilation out;
  out.usage = usage_.compile(target, language);
  const auto& compiler = toolchain_.compiler(language == "ASM" ? "C" : language);
  const std::set<std::string> builtin(compiler.include_folders.begin(), compiler.include_folders.end());
  std::vector<std::string> definitions = out.usage.definitions;
  if (target.kind == TargetKind::shared_library || target.kind == TargetKind::module_library) {
    std::string symbol =
        target.property("DEFINE_SYMBOL") != nullptr ? property_text(target, "DEFINE_SYMBOL") : target.name + "_EXPORTS";
    for (auto& c : symbol) {
      if (std::isalnum(static_cast<unsigned char>(c)) == 0) c = '_';
    }
    if (!symbol.empty()) definitions.insert(definitions.begin(), symbol);
  }
  for (const auto& definition : definitions)
    out.definitions.push_back(definition.starts_with("-D") ? definition : "-D" + definition);
  // Built-in folders named again would change the order in which system headers find each other.
  const auto add_folders = [&](const std::vector<std::string>& list, const std::string& option) {
    for (const auto& folder : list) {
      if (builtin.contains(folder)) continue;
      if (const std::string before = overlay_of(folder); !before.empty()) out.folders.push_back("-I" + before);
      if (option == "-isystem") out.folders.push_back(option);
      out.folders.push_back(option == "-isystem" ? folder : option + folder);
    }
  };
  add_folders(out.usage.include_folders, "-I");
  add_folders(out.usage.system_include_folders, "-isystem");
  // A header that another of its folder includes is found there by the compiler itself; written by the description, it
  // lies elsewhere.
  std::set<std::string> after;
  for (const auto& [from, to] : project_.overlaid) {
    if (survey::is_header(to)) after.insert(std::filesystem::path(to).parent_path().string());
  }
  for (const auto& folder : after) out.folders.insert(out.folders.end(), {"-idirafter", folder});
  const std::string key = language == "C++" ? "CXX" : language;
  if (const auto it = target.language_options.find(key); it != target.language_options.end())
    out.options = text::shell_words(it->second);
  if (project_.other_compilers.contains(language)) return out;
  for (const auto& option : variant_.compile) out.options.push_back(option);
  for (const auto& option : standard_option(target, language, out.usage.features)) out.options.push_back(option);
  for (const auto& option : property_options(target, language)) out.options.push_back(option);
  for (const auto& option : out.usage.options) {
    if (option.starts_with("SHELL:")) {
      for (const auto& word : text::shell_words(option.substr(6))) out.options.push_back(word);
    } else if (option.starts_with("-include") && option.size() > 8 && option[8] != ' ') {
      out.ahead.push_back(option.substr(8));
    } else {
      out.options.push_back(option);
    }
  }
  if (!warnings_as_errors_ && std::find(out.options.begin(), out.options.end(), "-Werror") != out.options.end()) {
    out.options.emplace_back("-Wno-error");
    if (!told_of_warnings_) {
      notes_.push_back(
          "the description treats warnings as errors; here they stay warnings (to have it otherwise: [tree] "
          "warnings-as-errors = true in coctilis.toml)");
    }
    told_of_warnings_ = true;
  }
  return out;
}

std::string Compilations::overlay_of(const std::string& folder) const {
  if (project_.overlaid.empty() || !files::is_below(folder, project_.tree)) return {};
  const std::string below = folder == project_.tree ? "" : "/" + files::below(folder, project_.tree);
  const std::string before = project_.binary_root + "/.tree" + below;
  return files::is_folder(before) ? before : "";
}

}  // namespace coctilis::plan
