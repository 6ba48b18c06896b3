#include "describe/listfile/lower/sources.h"

#include <set>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "survey/languages.h"

namespace coctilis::describe::listfile::lower {

namespace {
ExpressionContext context_of(const Target& target, const std::string& language = {}) {
  ExpressionContext out;
  out.target = &target;
  out.language = language;
  out.place = target.place;
  return out;
}
}  // namespace

std::vector<Source> Sources::of(const Target& target) const {
  std::vector<Source> out;
  std::set<std::string> seen;
  const auto add = [&](const std::string& text, const Value& from) {
    Source source = resolve(target, text, from);
    if (!source.path.empty() && seen.insert(source.path).second) out.push_back(std::move(source));
  };
  for (const auto& value : target.sources) {
    auto here = context_of(target);
    here.place = value.place;
    for (const auto& text : list_elements(expressions_.evaluate(value.text, here), false)) add(text, value);
  }
  for (const Target* used : usage_.used(target, "")) {
    for (const auto& value : used->handed_on.sources) {
      for (const auto& text : list_elements(expressions_.evaluate(value.text, context_of(target)), false))
        add(text, value);
    }
  }
  return out;
}

std::string Sources::find(const std::vector<std::string>& candidates, const std::string& text,
                          std::string& plain) const {
  for (const auto& candidate : candidates) {
    if (rules_.makes(candidate) || files::is_file(candidate)) {
      // What is said of a source by its name counts for the one that is made in the output folder.
      if (candidate != candidates.front() && !project_.sources.contains(candidate)) plain = candidates.front();
      return candidate;
    }
  }
  for (const auto& candidate : candidates) {
    if (is_generated(candidate) || files::is_folder(candidate)) {
      if (candidate != candidates.front() && !project_.sources.contains(candidate)) plain = candidates.front();
      return candidate;
    }
  }
  // A source may be named without its ending.
  for (const char* ending :
       {".c",   ".C",   ".c++", ".cc",  ".cpp", ".cxx", ".cu", ".m", ".M",   ".mm",  ".h",   ".hh",  ".h++", ".hm",
        ".hpp", ".hxx", ".in",  ".txx", ".S",   ".s",   ".f",  ".F", ".for", ".f77", ".f90", ".f95", ".f03"}) {
    for (const auto& candidate : candidates) {
      if (!files::is_file(candidate + ending)) continue;
      plain = candidate;
      return candidate + ending;
    }
  }
  return text.ends_with(".o") ? candidates.front() : std::string{};
}

Source Sources::resolve(const Target& target, const std::string& text, const Value& from) const {
  std::vector<std::string> candidates;
  if (text.starts_with('/')) {
    candidates = {files::absolute(text)};
  } else {
    candidates = {files::absolute(text, target.folder), files::absolute(text, target.binary_folder)};
  }
  if (!project_.overlaid.empty()) {
    for (auto& candidate : candidates) {
      if (const auto it = project_.overlaid.find(candidate); it != project_.overlaid.end()) candidate = it->second;
    }
  }
  Source source;
  source.place = from.place;
  std::string plain;
  source.path = find(candidates, text, plain);
  if (!plain.empty() && project_.sources.contains(plain)) written_as_[source.path] = plain;
  if (source.path.empty()) {
    if (survey::is_header(text)) return source;  // named for display only, and some trees name what is not there
    throw Fault(
        {Exit::description,
         from.place,
         "the source '" + text + "' of '" + target.name + "' is not there",
         "looked for " + text::join(candidates, " and "),
         target.in_default ? "check the name, or whether a submodule or a generated file is missing" : "check the name",
         {}});
  }
  if (!is_false(property(source.path, "HEADER_FILE_ONLY"))) return source;
  const std::string language = property(source.path, "LANGUAGE");
  source.language = !language.empty() ? language_named(language) : survey::compiled_language(source.path);
  // A source of a language that the description has not switched on is not compiled.
  if (source.language.empty() && (source.path.ends_with(".asm") || source.path.ends_with(".nasm")))
    source.language = plain_assembler;
  if (!language_enabled(source.language)) source.language.clear();
  return source;
}

const SourceProperties* Sources::properties(const std::string& path) const {
  const auto written = written_as_.find(path);
  const auto it = project_.sources.find(written == written_as_.end() ? path : written->second);
  return it == project_.sources.end() ? nullptr : &it->second;
}

std::string Sources::property(const std::string& path, const std::string& name) const {
  const auto* all = properties(path);
  std::string out;
  if (all == nullptr || !all->properties.contains(name)) return out;
  for (const auto& value : all->properties.at(name)) out += (out.empty() ? "" : ";") + value.text;
  return out;
}

bool Sources::is_generated(const std::string& path) const {
  const auto it = project_.sources.find(path);
  if (it == project_.sources.end() || !it->second.properties.contains("GENERATED")) return false;
  const auto& values = it->second.properties.at("GENERATED");
  return !values.empty() && !is_false(values.front().text);
}

bool Sources::language_enabled(const std::string& language) const {
  if (language == assembler || project_.other_compilers.contains(language)) return true;
  return std::find(project_.languages.begin(), project_.languages.end(), language) != project_.languages.end();
}

std::vector<std::string> Sources::objects(const Target& target) const {
  const auto sources = of(target);
  std::vector<std::string> compiled;
  for (const auto& source : sources) {
    if (!source.is_object() && !source.language.empty()) compiled.push_back(source.path);
  }
  auto objects = model::object_paths(project_, target.name, target.folder, target.binary_folder, compiled);
  std::vector<std::string> out;
  std::size_t next = 0;
  for (const auto& source : sources) {
    if (source.is_object())
      out.push_back(source.path);
    else if (!source.language.empty())
      out.push_back(std::move(objects[next++]));
  }
  return out;
}

std::vector<std::string> Sources::options(const Target& target, const Source& source) const {
  std::vector<std::string> out;
  const auto* all = properties(source.path);
  if (all == nullptr) return out;
  const auto values = [&](const char* name) {
    const auto found = all->properties.find(name);
    return found == all->properties.end() ? std::vector<std::string>{}
                                          : expressions_.evaluate(found->second, context_of(target, source.language));
  };
  for (const auto& definition : values("COMPILE_DEFINITIONS")) out.push_back("-D" + definition);
  for (const auto& folder : values("INCLUDE_DIRECTORIES")) out.push_back("-I" + files::absolute(folder, target.folder));
  for (const auto& flags : values("COMPILE_FLAGS")) {
    for (const auto& word : text::shell_words(flags)) out.push_back(word);
  }
  for (const auto& option : values("COMPILE_OPTIONS")) out.push_back(option);
  return out;
}

std::vector<std::string> Sources::inputs(const Target& target, const Source& source) const {
  std::vector<std::string> out;
  const auto* all = properties(source.path);
  if (all == nullptr || !all->properties.contains("OBJECT_DEPENDS")) return out;
  for (const auto& file :
       expressions_.evaluate(all->properties.at("OBJECT_DEPENDS"), context_of(target, source.language)))
    out.push_back(files::absolute(file, target.folder));
  return out;
}

}  // namespace coctilis::describe::listfile::lower
