#include "locate/pc_file.h"

#include "base/files.h"
#include "base/text.h"

namespace coctilis::locate {

bool PcRequirement::met_by(const std::string& have) const {
  if (operation.empty()) return true;
  return text::version_meets(have, operation + " " + version);
}

std::vector<PcRequirement> pc_requirements(const std::string& list) {
  std::string spaced;
  for (std::size_t i = 0; i < list.size(); ++i) {
    const bool operation = std::string_view("<>=!").find(list[i]) != std::string_view::npos;
    if (list[i] == ',') {
      spaced += ' ';
    } else if (operation) {
      spaced += ' ';
      while (i < list.size() && std::string_view("<>=!").find(list[i]) != std::string_view::npos) spaced += list[i++];
      --i;
      spaced += ' ';
    } else {
      spaced += list[i];
    }
  }
  std::vector<PcRequirement> out;
  const auto words = text::words(spaced);
  for (std::size_t i = 0; i < words.size(); ++i) {
    if (words[i].find_first_of("<>=!") == std::string::npos) {
      out.push_back({words[i], "", ""});
    } else if (!out.empty() && i + 1 < words.size()) {
      out.back().operation = words[i];
      out.back().version = words[++i];
    }
  }
  return out;
}

namespace {

std::string expand(const std::string& value, const std::map<std::string, std::string>& variables, const Place& place) {
  std::string out;
  for (std::size_t i = 0; i < value.size(); ++i) {
    if (value[i] == '$' && i + 1 < value.size() && value[i + 1] == '$') {
      out += '$';
      ++i;
    } else if (value[i] == '$' && i + 1 < value.size() && value[i + 1] == '{') {
      const auto end = value.find('}', i);
      if (end == std::string::npos) {
        throw Fault(
            {Exit::missing, place, "'${' without '}'", "", "mend the .pc file, or install the library anew", {}});
      }
      const std::string name = value.substr(i + 2, end - i - 2);
      const auto it = variables.find(name);
      if (it == variables.end()) {
        throw Fault({Exit::missing,
                     place,
                     "the variable '" + name + "' is not set",
                     "",
                     "mend the .pc file, or install the library anew",
                     {}});
      }
      out += it->second;
      i = end;
    } else {
      out += value[i];
    }
    // Each variable was expanded when it was set, so a chain of them can double its length line by line.
    if (out.size() > (1U << 20U))
      throw Fault({Exit::missing, place, "a value grows beyond 1 MB", "", "this .pc file is not to be trusted", {}});
  }
  return out;
}

struct Line {
  std::string text;
  int number = 0;
};

std::vector<Line> logical_lines(const std::string& content) {
  std::vector<Line> lines;
  bool open = false;
  int number = 0;
  for (auto raw : text::split(content, '\n')) {
    ++number;
    if (!raw.empty() && raw.back() == '\r') raw.pop_back();
    for (std::size_t i = 0; i < raw.size(); ++i) {
      if (raw[i] == '#' && (i == 0 || raw[i - 1] != '\\')) {
        raw.resize(i);
        break;
      }
    }
    raw = text::replace_all(raw, "\\#", "#");
    const bool goes_on = !raw.empty() && raw.back() == '\\';
    if (goes_on) raw.pop_back();
    if (open)
      lines.back().text += raw;
    else
      lines.push_back({raw, number});
    open = goes_on;
  }
  return lines;
}

}  // namespace

Result<PcFile> parse_pc(const std::string& content, const std::string& path) {
  return guarded("reading a .pc file", [&] {
    PcFile file;
    file.path = path;
    file.module = std::filesystem::path(path).stem().string();
    const std::string folder = std::filesystem::path(path).parent_path().string();
    // Set by the format itself: where the file is, and what its folders count from.
    file.variables["pcfiledir"] = folder;
    file.variables["pc_sysrootdir"] = "/";
    for (const auto& [line, number] : logical_lines(content)) {
      const std::string_view trimmed = text::trim(line);
      const auto end = trimmed.find_first_of(":=");
      if (trimmed.empty()) continue;
      const Place place{path, number, 0};
      const std::string key(text::trim(trimmed.substr(0, end)));
      const bool name_ok = !key.empty() && std::all_of(key.begin(), key.end(), [](unsigned char c) {
        return std::isalnum(c) != 0 || c == '_' || c == '.' || c == '-';
      });
      if (end == std::string_view::npos || !name_ok) continue;  // the format has such lines passed over
      const std::string value = expand(std::string(text::trim(trimmed.substr(end + 1))), file.variables, place);
      if (trimmed[end] == '=') {
        file.variables[key] = value;
        continue;
      }
      const std::string field = text::lower(key);
      if (field == "name")
        file.name = value;
      else if (field == "description")
        file.description = value;
      else if (field == "version")
        file.version = value;
      else if (field == "requires")
        file.requires_ = pc_requirements(value);
      else if (field == "requires.private")
        file.requires_private = pc_requirements(value);
      else if (field == "conflicts")
        file.conflicts = pc_requirements(value);
      else if (field == "provides")
        file.provides = pc_requirements(value);
      else if (field == "cflags")
        file.compile_flags = text::shell_words(value);
      else if (field == "libs")
        file.link_flags = text::shell_words(value);
      else if (field == "libs.private")
        file.link_flags_private = text::shell_words(value);
    }
    return file;
  });
}

PcSearch pc_search(const std::vector<std::string>& prefixes, const std::string& machine, const std::string& sysroot) {
  PcSearch search;
  const auto add = [&](const std::string& folder) {
    if (!folder.empty() && std::find(search.folders.begin(), search.folders.end(), folder) == search.folders.end())
      search.folders.push_back(folder);
  };
  const auto add_prefix = [&](const std::string& prefix) {
    for (const auto& middle : {"lib/" + machine, std::string("lib64"), std::string("lib"), std::string("share")})
      add(prefix + "/" + middle + "/pkgconfig");
  };
  const auto add_list = [&](const char* list) {
    for (const auto& folder : text::split(list, ':')) add(folder);
  };
  for (const auto& prefix : prefixes) add_prefix(prefix);
  if (const char* path = std::getenv("PKG_CONFIG_PATH")) add_list(path);
  const char* root = std::getenv("PKG_CONFIG_SYSROOT_DIR");
  search.sysroot = !sysroot.empty() ? sysroot : root != nullptr ? root : "";
  if (search.sysroot == "/") search.sysroot.clear();
  if (const char* only = std::getenv("PKG_CONFIG_LIBDIR")) {
    add_list(only);
  } else {
    for (const char* prefix : {"/usr/local", "/usr"}) add_prefix(search.sysroot + prefix);
  }
  search.system_include_folders = {"/usr/include", "/usr/include/" + machine};
  search.system_link_folders = {"/usr/lib", "/usr/lib/" + machine, "/lib", "/lib/" + machine, "/usr/lib64", "/lib64"};
  return search;
}

namespace {

class Resolver {
 public:
  Resolver(const PcSearch& search, bool statically) : search_(search), statically_(statically) {}

  PcModule find(const PcRequirement& wanted) {
    PcModule module = load(wanted);
    if (!module.found) return module;
    std::vector<std::string> trail;
    collect(module.file, module.usage, module.problem, trail, true);
    // Two that conflict may both be installed; they may not be used together.
    for (const auto& [name, used] : used_) {
      for (const auto& conflict : used.conflicts) {
        const auto other = used_.find(conflict.name);
        if (other != used_.end() && conflict.met_by(other->second.version) && module.problem.empty())
          module.problem = name + " does not go together with " + conflict.name + " " + other->second.version;
      }
    }
    // Link order: what is used comes after its users, so of repeated words the last one counts.
    keep_last(module.usage.link_items);
    return module;
  }

 private:
  PcModule load(const PcRequirement& wanted) {
    PcModule module;
    for (const auto& folder : search_.folders) {
      const std::string path = folder + "/" + wanted.name + ".pc";
      module.looked.push_back(path);
      const auto content = files::read(path);
      if (!content) continue;
      const auto parsed = parse_pc(*content, path);
      if (!parsed) {
        module.problem = parsed.problem().place.text() + ": " + parsed.problem().what;
        module.found = true;
        module.file.path = path;
        return module;
      }
      module.file = *parsed;
      module.found = true;
      if (!wanted.met_by(module.file.version)) {
        module.problem = "'" + path + "' has version " + module.file.version + ", required is " + wanted.operation +
                         " " + wanted.version;
      }
      return module;
    }
    return module;
  }

  void collect(const PcFile& file, model::Usage& usage, std::string& problem, std::vector<std::string>& trail,
               bool link) {
    // Reached again only for linking when it was reached only for compiling before.
    auto [it, fresh] = done_.emplace(file.module, link);
    if (!fresh && (it->second || !link)) return;
    it->second = it->second || link;
    trail.push_back(file.module);
    add_compile_flags(file, usage);
    if (link) add_link_flags(file.link_flags, usage);
    if (link && statically_) add_link_flags(file.link_flags_private, usage);
    for (const auto* list : {&file.requires_, &file.requires_private}) {
      const bool is_private = list == &file.requires_private;
      for (const auto& wanted : *list) {
        const PcModule next = load(wanted);
        if (!next.found || !next.problem.empty()) {
          // A private requirement that is absent only matters to those who link statically.
          if (is_private && !next.found && !statically_) continue;
          if (problem.empty())
            problem = text::join(trail, " requires ") + " requires " + wanted.name +
                      (next.found ? ": " + next.problem : ", which is not there");
          continue;
        }
        collect(next.file, usage, problem, trail, link && (!is_private || statically_));
      }
    }
    used_[file.module] = {file.version, file.conflicts};
    trail.pop_back();
  }

  [[nodiscard]] std::string rooted(const std::string& folder) const {
    if (search_.sysroot.empty() || files::is_below(folder, search_.sysroot)) return folder;
    return search_.sysroot + folder;
  }

  template <class T>
  static void once(std::vector<T>& list, const T& item) {
    if (std::find(list.begin(), list.end(), item) == list.end()) list.push_back(item);
  }
  static void keep_last(std::vector<std::string>& list) {
    std::vector<std::string> out;
    for (auto it = list.rbegin(); it != list.rend(); ++it) {
      if (std::find(out.begin(), out.end(), *it) == out.end() || !it->starts_with("-l")) out.push_back(*it);
    }
    std::reverse(out.begin(), out.end());
    list = out;
  }

  void add_compile_flags(const PcFile& file, model::Usage& usage) const {
    const auto& flags = file.compile_flags;
    for (std::size_t i = 0; i < flags.size(); ++i) {
      std::string folder;
      if (flags[i].starts_with("-I"))
        folder = flags[i].size() > 2 ? flags[i].substr(2) : i + 1 < flags.size() ? flags[++i] : "";
      else if (flags[i] == "-isystem" && i + 1 < flags.size())
        folder = flags[++i];
      if (!folder.empty()) {
        folder = files::absolute(folder);
        const auto& system = search_.system_include_folders;
        if (std::find(system.begin(), system.end(), folder) == system.end())
          once(usage.include_folders, rooted(folder));
      } else if (flags[i].starts_with("-D") && flags[i].size() > 2) {
        once(usage.definitions, flags[i].substr(2));
      } else {
        once(usage.compile_options, flags[i]);
      }
    }
  }
  void add_link_flags(const std::vector<std::string>& flags, model::Usage& usage) const {
    for (std::size_t i = 0; i < flags.size(); ++i) {
      if (flags[i].starts_with("-L")) {
        std::string folder = flags[i].size() > 2 ? flags[i].substr(2) : i + 1 < flags.size() ? flags[++i] : "";
        if (folder.empty()) continue;
        folder = files::absolute(folder);
        const auto& system = search_.system_link_folders;
        if (std::find(system.begin(), system.end(), folder) == system.end()) once(usage.link_folders, rooted(folder));
      } else if ((flags[i] == "-framework" || flags[i] == "-Xlinker") && i + 1 < flags.size()) {
        usage.link_items.push_back(flags[i]);
        usage.link_items.push_back(flags[++i]);
      } else {
        usage.link_items.push_back(flags[i]);
      }
    }
  }

  const PcSearch& search_;
  bool statically_;
  struct Used {
    std::string version;
    std::vector<PcRequirement> conflicts;
  };
  std::map<std::string, bool> done_;
  std::map<std::string, Used> used_;
};

}  // namespace

PcModule find_pc(const PcRequirement& wanted, const PcSearch& search, bool statically) {
  if (wanted.name.find('/') != std::string::npos) return {};
  return Resolver(search, statically).find(wanted);
}

}  // namespace coctilis::locate
