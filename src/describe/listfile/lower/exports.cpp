#include "describe/listfile/lower/exports.h"

#include <algorithm>
#include <functional>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"

namespace coctilis::describe::listfile::lower {

using model::TargetKind;

namespace {

// A word of a target's own text that only readers of an exported file can work out stays; what depends on being
// installed or built here is decided.
class ForReaders {
 public:
  ForReaders(bool installed, std::function<std::string(const std::string&)> target_name)
      : installed_(installed), target_name_(std::move(target_name)) {}

  // `fold` is applied to every list element outside of expressions.
  std::string text(const std::string& input, const std::function<std::string(const std::string&)>& fold,
                   int depth = 0) {
    std::string out;
    if (depth > 60) return out;
    std::string plain;
    const auto flush = [&] {
      if (plain.empty()) return;
      std::vector<std::string> parts = text::split(plain, ';');
      for (auto& part : parts) {
        if (!part.empty()) part = fold(part);
      }
      out += text::join(parts, ";");
      plain.clear();
    };
    for (std::size_t i = 0; i < input.size();) {
      if (input.compare(i, 2, "$<") != 0) {
        plain += input[i++];
        continue;
      }
      int open = 1;
      std::size_t end = i + 2;
      std::size_t colon = std::string::npos;
      for (; end < input.size(); ++end) {
        if (input.compare(end, 2, "$<") == 0) {
          ++open;
          ++end;
        } else if (input[end] == '>' && --open == 0) {
          break;
        } else if (input[end] == ':' && open == 1 && colon == std::string::npos) {
          colon = end;
        }
      }
      if (end >= input.size()) break;
      const std::string name = input.substr(i + 2, std::min(colon, end) - i - 2);
      const std::string raw = colon == std::string::npos ? "" : input.substr(colon + 1, end - colon - 1);
      if (name == "BUILD_INTERFACE" || name == "BUILD_LOCAL_INTERFACE") {
        flush();
        if (!installed_) out += text(raw, fold, depth + 1);
      } else if (name == "INSTALL_INTERFACE") {
        flush();
        if (installed_) out += text(raw, fold, depth + 1);
      } else if (name == "INSTALL_PREFIX") {
        plain += "${_import_prefix}";
      } else if (name == "TARGET_NAME") {
        flush();
        out += target_name_(raw);
      } else {
        flush();
        // Within an expression words keep their form, but targets go by their new names.
        out += "$<" + (name.find("$<") == std::string::npos ? name : text(name, keep, depth + 1));
        if (colon != std::string::npos) out += ":" + text(raw, fold, depth + 1);
        out += ">";
      }
      i = end + 1;
    }
    flush();
    return out;
  }

  static std::string keep(const std::string& word) { return word; }

 private:
  bool installed_;
  std::function<std::string(const std::string&)> target_name_;
};

std::string quoted(const std::string& text) {
  std::string out = text::replace_all(text, "\\", "\\\\");
  out = text::replace_all(out, "\"", "\\\"");
  // "$" starts a reference only before "{": that of the import prefix is ours.
  return "\"" + out + "\"";
}

}  // namespace

std::string Exports::exported_name(const Target& target, const std::string& name_space) {
  const std::string own = property_text(target, "EXPORT_NAME");
  return name_space + (own.empty() ? target.name : own);
}

std::string Exports::name_for_readers(const std::string& word, const std::vector<const Target*>& here,
                                      const std::string& name_space) const {
  const Target* target = project_.target(word);
  if (target == nullptr || target->imported) return word;
  if (std::find(here.begin(), here.end(), target) != here.end()) return exported_name(*target, name_space);
  for (const auto& [name, list] : sets) {
    if (std::find(list.begin(), list.end(), target) == list.end()) continue;
    const auto it = name_spaces.find(name);
    return exported_name(*target, it == name_spaces.end() ? "" : it->second);
  }
  return word;
}

std::string Exports::text(const std::vector<const Target*>& targets, const std::string& name_space, bool for_installed,
                          const std::string& folder) const {
  std::string out =
      "# Targets of " + (project_.name.empty() ? std::string("this tree") : project_.name) + ", written by Coctilis.\n";
  if (for_installed) {
    // From the folder of this file up to the prefix.
    out += "get_filename_component(_import_prefix \"${CMAKE_CURRENT_LIST_FILE}\" PATH)\n";
    const auto depth = folder.empty() || folder == "." ? 0 : std::count(folder.begin(), folder.end(), '/') + 1;
    if (folder.starts_with('/'))
      out += "set(_import_prefix " + quoted(project_.install_prefix) + ")\n";
    else
      for (std::ptrdiff_t i = 0; i < depth; ++i)
        out += "get_filename_component(_import_prefix \"${_import_prefix}\" PATH)\n";
  }
  ForReaders readers(for_installed,
                     [&](const std::string& word) { return name_for_readers(word, targets, name_space); });
  const auto path = [&](const Target& target) {
    return [&, folder_of = target.folder](const std::string& word) {
      // Nothing of the tree itself is there where the installed files are used.
      if (for_installed && (files::is_below(word, project_.tree) || files::is_below(word, project_.binary_root)))
        return std::string{};
      if (word.starts_with('/') || word.starts_with("${")) return word;
      return for_installed ? "${_import_prefix}/" + word : files::absolute(word, folder_of);
    };
  };
  for (const Target* target : targets) {
    const std::string name = exported_name(*target, name_space);
    const auto values = [&](const Values& list, const std::function<std::string(const std::string&)>& fold) {
      std::vector<std::string> all;
      for (const auto& value : list) {
        for (auto& element : list_elements(readers.text(value.text, fold), false)) {
          if (std::find(all.begin(), all.end(), element) == all.end()) all.push_back(std::move(element));
        }
      }
      return text::join(all, ";");
    };
    const auto& handed = target->handed_on;
    std::vector<std::pair<std::string, std::string>> properties;
    const auto put = [&](const std::string& property, const std::string& text) {
      if (!text.empty()) properties.emplace_back(property, text);
    };
    std::string include = values(handed.include_folders, path(*target));
    if (for_installed) {
      if (const auto it = include_folders.find(target); it != include_folders.end()) {
        for (const auto& extra : it->second) include += (include.empty() ? "" : ";") + path(*target)(extra);
      }
    }
    put("INTERFACE_INCLUDE_DIRECTORIES", include);
    put("INTERFACE_SYSTEM_INCLUDE_DIRECTORIES", values(handed.system_include_folders, path(*target)));
    put("INTERFACE_COMPILE_DEFINITIONS", values(handed.definitions, ForReaders::keep));
    put("INTERFACE_COMPILE_OPTIONS", values(handed.compile_options, ForReaders::keep));
    put("INTERFACE_PRECOMPILE_HEADERS", values(handed.first_headers, [&](const std::string& header) {
          return header.starts_with('/') ? path(*target)(header) : header;
        }));
    put("INTERFACE_COMPILE_FEATURES", values(handed.compile_features, ForReaders::keep));
    put("INTERFACE_LINK_OPTIONS", values(handed.link_options, ForReaders::keep));
    put("INTERFACE_LINK_DIRECTORIES", values(handed.link_folders, path(*target)));
    put("INTERFACE_SOURCES", values(handed.sources, path(*target)));
    put("INTERFACE_LINK_LIBRARIES", values(handed.link_items, [&](const std::string& word) {
          return name_for_readers(word, targets, name_space);
        }));
    const auto& artifact = artifacts_.of(*target);
    std::string kind = "INTERFACE IMPORTED";
    if (target->kind == TargetKind::static_library) kind = "STATIC IMPORTED";
    if (target->kind == TargetKind::shared_library) kind = "SHARED IMPORTED";
    if (target->kind == TargetKind::module_library) kind = "MODULE IMPORTED";
    if (!artifact.file.empty() && target->kind != TargetKind::interface_library &&
        target->kind != TargetKind::object_set) {
      std::string location = artifact.file;
      if (for_installed) {
        const auto it = installed.find(target);
        location = it == installed.end()         ? ""
                   : it->second.starts_with('/') ? it->second
                                                 : "${_import_prefix}/" + it->second;
      }
      put("IMPORTED_LOCATION", location);
      put("IMPORTED_SONAME", artifact.shared_name);
    }
    out += "if(NOT TARGET " + name + ")\n";
    out += target->kind == TargetKind::program ? "  add_executable(" + name + " IMPORTED)\n"
                                               : "  add_library(" + name + " " + kind + ")\n";
    out += "endif()\n";
    if (properties.empty()) continue;
    out += "set_target_properties(" + name + " PROPERTIES\n";
    for (const auto& [property, text] : properties) out += "  " + property + " " + quoted(text) + "\n";
    out += ")\n";
  }
  if (for_installed) out += "unset(_import_prefix)\n";
  return out;
}

}  // namespace coctilis::describe::listfile::lower
