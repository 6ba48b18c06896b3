#include "survey/descriptions.h"

#include "base/files.h"
#include "base/text.h"

namespace coctilis::survey {

const std::vector<DescriptionFormat>& description_formats() {
  static const std::vector<DescriptionFormat> table = {
      {"CMakeLists.txt", "CMakeLists.txt", true, 1},
      {"meson.build", "meson.build", true, 2},
      {"*.pro", "*.pro", true, 3},
      {"configure", "configure", true, 4},
      {"configure.ac", "configure.ac", true, 12},
      {"configure.in", "configure.ac", true, 12},
      // In the order in which they are looked for (POSIX.1-2024, XCU make, "-f").
      {"GNUmakefile", "Makefile", true, 5},
      {"makefile", "Makefile", true, 6},
      {"Makefile", "Makefile", true, 7},
      {"build.ninja", "build.ninja", true, 7},
      {"SConstruct", "SConstruct", true, 8},
      {"wscript", "wscript", true, 8},
      {"BUILD.bazel", "BUILD.bazel", true, 8},
      {"WORKSPACE", "WORKSPACE", true, 9},
      {"BUILD.gn", "BUILD.gn", true, 8},
      {"xmake.lua", "xmake.lua", true, 8},
      {"premake5.lua", "premake5.lua", true, 8},
      {"go.mod", "go.mod", true, 8},
      {"Cargo.toml", "Cargo.toml", true, 8},
      {"build.zig", "build.zig", true, 8},
      {"dub.json", "dub.json", true, 8},
      {"*.sln", "*.sln", true, 9},
      {"*.vcxproj", "*.vcxproj", true, 9},
      {"*.gpr", "*.gpr", true, 9},
      {"Imakefile", "Imakefile", true, 9},
      {"Jamfile", "Jamfile", true, 9},
      {"Jamroot", "Jamfile", true, 9},
      {"build.sh", "build.sh", true, 9},
      {"setup.py", "setup.py", true, 10},
      // Written by hand for systems like this one, beside those for others.
      {"Makefile.linux", "Makefile", true, 11},
      {"makefile.linux", "Makefile", true, 11},
      {"Makefile.unix", "Makefile", true, 11},
      {"makefile.unix", "Makefile", true, 11},
      {"Makefile.posix", "Makefile", true, 11},
      {"Makefile.gnu", "Makefile", true, 11},
      {"Makefile.gcc", "Makefile", true, 11},
      {"makefile.gcc", "Makefile", true, 11},
  };
  return table;
}

const DescriptionFormat* description_format(std::string_view relative_path) {
  const bool root = relative_path.find('/') == std::string_view::npos;
  for (const auto& format : description_formats()) {
    if (format.root_only && !root) continue;
    const bool hit = format.name.find('*') == std::string_view::npos
                         ? relative_path == format.name
                         : files::matches(std::string(format.name), std::string(relative_path));
    if (hit) return &format;
  }
  return nullptr;
}

bool is_generated_script(std::string_view beginning) {
  return beginning.find(generated_mark) != std::string_view::npos;
}

Result<bool> choose_description(std::vector<model::Description>& found, const std::string& wanted,
                                const std::vector<std::string>& readable, const std::string& tree) {
  // A script that is named is a description, whatever it is called.
  if (!wanted.empty() && std::none_of(found.begin(), found.end(), [&](const auto& d) { return d.path == wanted; }) &&
      (wanted.ends_with(".sh") || files::read_beginning(tree + "/" + wanted, 2) == "#!")) {
    model::Description script;
    script.path = wanted;
    script.format = "build.sh";
    if (files::is_file(tree + "/" + wanted)) found.push_back(std::move(script));
  }
  // So is a makefile of another name.
  const std::string name = text::lower(wanted.substr(wanted.rfind('/') + 1));
  if (!wanted.empty() && std::none_of(found.begin(), found.end(), [&](const auto& d) { return d.path == wanted; }) &&
      (name.ends_with(".mk") || name.starts_with("makefile") || name.starts_with("gnumakefile")) &&
      files::is_file(tree + "/" + wanted)) {
    model::Description makefile;
    makefile.path = wanted;
    makefile.format = "Makefile";
    found.push_back(std::move(makefile));
  }
  const auto is_readable = [&](const model::Description& d) {
    return std::find(readable.begin(), readable.end(), d.format) != readable.end();
  };
  const auto rank = [](const model::Description& d) {
    const auto* format = description_format(d.path);
    return format == nullptr ? 100 : format->rank;
  };
  std::stable_sort(found.begin(), found.end(), [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
  model::Description* chosen = nullptr;
  for (auto& d : found) {
    d.readable = is_readable(d);
    if (!wanted.empty() ? d.path == wanted : (d.readable && chosen == nullptr)) chosen = &d;
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
