#include "survey/descriptions.h"

#include <algorithm>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::survey {

const DescriptionFormats& unread_formats() {
  static const DescriptionFormats table = {
      {"meson.build", {{"meson.build", 2}}, false, nullptr, {"meson", "muon"}},
      {"*.pro", {{"*.pro", 3}}, false, nullptr, {"qmake", "qmake6"}},
      {"build.ninja", {{"build.ninja", 7}}, false, nullptr, {"ninja", "samu"}},
      {"SConstruct", {{"SConstruct", 8}}, false, nullptr, {"scons"}},
      {"wscript", {{"wscript", 8}}, false, nullptr, {"waf"}},
      {"BUILD.bazel", {{"BUILD.bazel", 8}, {"WORKSPACE", 9}}, false, nullptr, {"bazel", "bazelisk", "buck", "buck2"}},
      {"BUILD.gn", {{"BUILD.gn", 8}}, false, nullptr, {"gn"}},
      {"xmake.lua", {{"xmake.lua", 8}}, false, nullptr, {"xmake"}},
      {"premake5.lua", {{"premake5.lua", 8}}, false, nullptr, {"premake5"}},
      {"go.mod", {{"go.mod", 8}}},
      {"Cargo.toml", {{"Cargo.toml", 8}}, false, nullptr, {"cargo"}},
      {"build.zig", {{"build.zig", 8}}},
      {"dub.json", {{"dub.json", 8}}, false, nullptr, {"dub"}},
      {"*.sln", {{"*.sln", 9}}, false, nullptr, {"msbuild"}},
      {"*.vcxproj", {{"*.vcxproj", 9}}},
      {"*.gpr", {{"*.gpr", 9}}, false, nullptr, {"gprbuild"}},
      {"Imakefile", {{"Imakefile", 9}}, false, nullptr, {"xmkmf", "imake"}},
      {"Jamfile", {{"Jamfile", 9}, {"Jamroot", 9}}, false, nullptr, {"b2", "bjam", "jam"}},
      {"setup.py", {{"setup.py", 10}}},
  };
  return table;
}

const DescriptionName* description_name(const DescriptionFormats& formats, std::string_view file_name,
                                        const DescriptionFormat** format) {
  for (const auto& one : formats) {
    for (const auto& name : one.names) {
      const bool hit = name.pattern.find('*') == std::string_view::npos
                           ? file_name == name.pattern
                           : files::matches(std::string(name.pattern), std::string(file_name));
      if (!hit) continue;
      if (format != nullptr) *format = &one;
      return &name;
    }
  }
  return nullptr;
}

Result<bool> choose_description(std::vector<model::Description>& found, const std::string& wanted,
                                const DescriptionFormats& formats, const std::string& tree) {
  const auto is_wanted = [&](const model::Description& d) { return d.path == wanted; };
  // What is named is a description, whatever it is called.
  if (!wanted.empty() && std::none_of(found.begin(), found.end(), is_wanted) && files::is_file(tree + "/" + wanted)) {
    const auto format = std::find_if(formats.begin(), formats.end(), [&](const auto& one) {
      return one.is_one != nullptr && one.is_one(tree + "/" + wanted);
    });
    if (format != formats.end()) found.push_back({wanted, std::string(format->format), false, false, {}});
  }
  const auto is_readable = [&](const model::Description& d) {
    return std::any_of(formats.begin(), formats.end(),
                       [&](const auto& format) { return format.readable && format.format == d.format; });
  };
  const auto rank = [&](const model::Description& d) {
    const auto* name = description_name(formats, d.path);
    return name == nullptr ? 100 : name->rank;
  };
  std::stable_sort(found.begin(), found.end(), [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
  model::Description* chosen = nullptr;
  for (auto& d : found) {
    d.readable = is_readable(d);
    if (!wanted.empty() ? is_wanted(d) : (d.readable && chosen == nullptr)) chosen = &d;
  }
  if (!wanted.empty() && (chosen == nullptr || !chosen->readable)) {
    std::vector<std::string> names;
    for (const auto& d : found) {
      if (d.readable) names.push_back(d.path);
    }
    return Problem{Exit::usage,
                   {},
                   "the description '" + wanted + "' named under [tree] " +
                       (chosen == nullptr ? "is not in the tree" : "has no reader"),
                   names.empty() ? "the tree has none that can be followed" : "the tree has " + text::join(names, ", "),
                   "name a file that is there, relative to the tree",
                   {}};
  }
  for (auto& d : found) {
    d.followed = &d == chosen;
    if (d.followed)
      d.reason = !wanted.empty()     ? "named in coctilis.toml"
                 : found.size() == 1 ? "the only one"
                                     : "the first that can be followed";
    else if (!d.readable)
      d.reason = "no reader for this format yet";
    else
      d.reason = !wanted.empty() ? "coctilis.toml names another"
                                 : "another one comes first; [tree] description in coctilis.toml chooses";
  }
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.followed && !b.followed; });
  return true;
}

}  // namespace coctilis::survey
