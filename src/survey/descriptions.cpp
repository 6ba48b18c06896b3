#include "survey/descriptions.h"

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "survey/folders.h"
#include "survey/relations.h"

namespace coctilis::survey {

const DescriptionFormats& unread_formats() {
  static const DescriptionFormats table = {
      {"build.ninja", {{"build.ninja", 7}}, false, nullptr, {"ninja", "samu"}},
      {"SConstruct", {{"SConstruct", 8}}, false, nullptr, {"scons"}},
      {"wscript", {{"wscript", 8}}, false, nullptr, {"waf"}},
      {"BUILD.bazel", {{"BUILD.bazel", 8}, {"WORKSPACE", 9}}, false, nullptr, {"bazel", "bazelisk", "buck", "buck2"}},
      {"BUILD.gn", {{"BUILD.gn", 8}}, false, nullptr, {"gn"}},
      {"xmake.lua", {{"xmake.lua", 8}}, false, nullptr, {"xmake"}},
      {"premake5.lua", {{"premake5.lua", 8}}, false, nullptr, {"premake5"}},
      {"Cargo.toml", {{"Cargo.toml", 8}}, false, nullptr, {"cargo"}},
      {"build.zig", {{"build.zig", 8}}},
      {"dub.json", {{"dub.json", 8}}, false, nullptr, {"dub"}},
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
      // A pattern is an ending. Every file of a tree comes by here.
      const bool hit =
          name.pattern.starts_with('*') ? file_name.ends_with(name.pattern.substr(1)) : file_name == name.pattern;
      if (!hit) continue;
      if (format != nullptr) *format = &one;
      return &name;
    }
  }
  return nullptr;
}

namespace {

bool can_be_read(const model::Description& d, const DescriptionFormats& formats) {
  return std::any_of(formats.begin(), formats.end(),
                     [&](const auto& format) { return format.readable && format.format == d.format; });
}

bool is_often_helper(const model::Description& d, const DescriptionFormats& formats) {
  return std::any_of(formats.begin(), formats.end(),
                     [&](const auto& format) { return format.is_often_helper && format.format == d.format; });
}

// Lower comes first.
std::pair<int, int> rank_of(const model::Description& d, const DescriptionFormats& formats, const std::string& tree) {
  const DescriptionFormat* format = nullptr;
  const auto* name = description_name(formats, d.path.substr(d.path.rfind('/') + 1), &format);
  if (name == nullptr) return {100, 0};
  return {name->rank, format->among == nullptr ? 0 : format->among(tree + "/" + d.path)};
}

}  // namespace

Result<bool> choose_description(std::vector<model::Description>& found, const std::string& wanted,
                                const DescriptionFormats& formats, const std::string& tree) {
  const auto is_wanted = [&](const model::Description& d) { return d.path == wanted; };
  // What is named is a description, wherever it lies and whatever it is called.
  if (!wanted.empty() && std::none_of(found.begin(), found.end(), is_wanted) && files::is_file(tree + "/" + wanted)) {
    const DescriptionFormat* by_name = nullptr;
    static_cast<void>(description_name(formats, wanted.substr(wanted.rfind('/') + 1), &by_name));
    const auto format = std::find_if(formats.begin(), formats.end(), [&](const auto& one) {
      return by_name != nullptr ? &one == by_name : one.is_one != nullptr && one.is_one(tree + "/" + wanted);
    });
    if (format != formats.end()) found.push_back({wanted, std::string(format->format), false, false, {}});
  }
  const auto is_readable = [&](const model::Description& d) { return can_be_read(d, formats); };
  const auto rank = [&](const model::Description& d) { return rank_of(d, formats, tree); };
  std::stable_sort(found.begin(), found.end(), [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
  if (!wanted.empty() && std::none_of(found.begin(), found.end(), is_wanted)) {
    const auto by_sources = std::find_if(formats.begin(), formats.end(), [&](const auto& format) {
      return format.by_sources && format.readable && format.format == wanted;
    });
    if (by_sources != formats.end()) found.push_back({wanted, wanted, true, false, {}});
  }
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

namespace {

std::string folder_of(const std::string& path) { return path.substr(0, path.rfind('/')); }

// Whether the descriptions of a folder name one below it, or go through all that lie there.
bool speaks_of(const std::vector<model::Description>& below, const std::string& folder, const std::string& inner,
               const std::string& tree) {
  const std::string name = inner.substr(folder.size() + 1);
  const std::string first = name.substr(0, name.find('/'));
  return std::any_of(below.begin(), below.end(), [&](const auto& d) {
    if (folder_of(d.path) != folder) return false;
    const std::string text = files::read(tree + "/" + d.path).value_or("");
    return text.find(first) != std::string::npos || text.find("*/") != std::string::npos ||
           text.find("/*") != std::string::npos || text.find("find ") != std::string::npos;
  });
}

}  // namespace

std::vector<std::string> folders_with_descriptions(std::vector<model::Description>& found,
                                                   const std::vector<model::Description>& below,
                                                   const DescriptionFormats& formats, const std::string& tree) {
  std::vector<std::string> folders;
  for (const auto& d : below) {
    if (can_be_read(d, formats)) folders.push_back(folder_of(d.path));
  }
  std::sort(folders.begin(), folders.end());
  folders.erase(std::unique(folders.begin(), folders.end()), folders.end());
  std::vector<std::string> own;
  for (const auto& folder : folders) {
    const auto above = std::find_if(own.begin(), own.end(),
                                    [&](const auto& other) { return files::is_below("/" + folder, "/" + other); });
    // What lies below another is that one's business, unless that one says nothing of it.
    if (above != own.end() && (folder.size() - above->size() < 2 || speaks_of(below, *above, folder, tree))) continue;
    std::string which;
    const FolderRole role = role_of_path(folder, &which);
    // A package with a manifest is one whatever its folder is called.
    if (role == FolderRole::own || files::is_file(tree + "/" + folder + "/" + manifest_name)) {
      own.push_back(folder);
      continue;
    }
    for (const auto& d : below) {
      if (folder_of(d.path) == folder)
        found.push_back({d.path, d.format, can_be_read(d, formats), false, which + " is " + name_of(role)});
    }
  }
  // Where anything else says how the tree is built, what is as often a helper does not.
  const auto only_helpers = [&](const std::string& folder) {
    return std::all_of(below.begin(), below.end(), [&](const auto& d) {
      return folder_of(d.path) != folder || !can_be_read(d, formats) || is_often_helper(d, formats);
    });
  };
  if (!std::all_of(own.begin(), own.end(), only_helpers)) std::erase_if(own, only_helpers);
  return own;
}

void follow_in_folder(std::vector<model::Description>& found, const std::vector<model::Description>& below,
                      const std::string& folder, const DescriptionFormats& formats, const std::string& tree) {
  std::vector<model::Description> here;
  for (const auto& d : below) {
    if (folder_of(d.path) == folder) here.push_back(d);
  }
  std::stable_sort(here.begin(), here.end(),
                   [&](const auto& a, const auto& b) { return rank_of(a, formats, tree) < rank_of(b, formats, tree); });
  bool chosen = false;
  for (auto& d : here) {
    d.readable = can_be_read(d, formats);
    d.followed = d.readable && !chosen;
    d.reason = d.followed    ? "nothing above it says how the tree is built"
               : !d.readable ? "no reader for this format yet"
                             : "another one comes first; [tree] description in coctilis.toml chooses";
    chosen = chosen || d.followed;
  }
  found.insert(found.begin(), here.begin(), here.end());
  std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.followed && !b.followed; });
}

}  // namespace coctilis::survey
