#include "describe/listfile/lower/install.h"

#include <set>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/lower/exports.h"

namespace coctilis::describe::listfile::lower {

using model::InstallItem;

using model::TargetKind;

namespace {

constexpr unsigned program_mode = 0755;
constexpr unsigned file_mode = 0644;

unsigned mode_of(const std::vector<std::string>& words) {
  static const std::map<std::string, unsigned> bits = {
      {"OWNER_READ", 0400}, {"OWNER_WRITE", 0200}, {"OWNER_EXECUTE", 0100},
      {"GROUP_READ", 0040}, {"GROUP_WRITE", 0020}, {"GROUP_EXECUTE", 0010},
      {"WORLD_READ", 0004}, {"WORLD_WRITE", 0002}, {"WORLD_EXECUTE", 0001}};
  unsigned mode = 0;
  for (const auto& word : words) {
    // The bits that change who a program runs as are not set on the word of a tree.
    if (const auto it = bits.find(word); it != bits.end()) mode |= it->second;
  }
  return mode;
}

// The words of a rule, taken apart at keywords.
struct Parsed {
  std::vector<std::string> operands;
  std::string destination;
  std::string rename;
  std::string type;
  std::vector<std::string> permissions;
  std::vector<std::string> configurations;
  bool optional = false;
  bool excluded = false;
};

class Installer {
 public:
  Installer(const Declared& project, const Artifacts& artifacts, const Expressions& expressions, model::Build& build)
      : project_(project),
        artifacts_(artifacts),
        expressions_(expressions),
        build_(build),
        exports_(project, artifacts) {}

  void run() {
    // Names under which targets are handed on are needed by every export.
    for (const auto& rule : project_.install_rules) gather_exports(rule);
    for (const auto& rule : project_.install_rules) one(rule);
    for (auto& item : build_.install) {
      if (item.relink) add_run_path(*project_.target(item.target), item);
    }
    for (const auto& [target, place] : exports_.installed) {
      if (target->kind == TargetKind::shared_library) build_.installed[target->name] = place;
    }
  }

 private:
  [[noreturn]] static void fail(const Place& place, const std::string& what, const std::string& remedy) {
    throw Fault({Exit::description, place, what, {}, remedy, {}});
  }

  ExpressionContext context(const InstallRule& rule) const {
    ExpressionContext out;
    out.installing = true;
    if (!rule.words.empty()) out.place = rule.words.front().place;
    return out;
  }

  std::vector<std::string> words_of(const InstallRule& rule) const {
    std::vector<std::string> out;
    for (const auto& word : rule.words) {
      for (auto& element : list_elements(expressions_.evaluate(word.text, context(rule)), false))
        out.push_back(std::move(element));
    }
    return out;
  }

  void gather_exports(const InstallRule& rule) {
    const auto words = words_of(rule);
    if (words.empty() || rule.for_build_folder) return;
    if (words[0] == "TARGETS") {
      const auto at = std::find(words.begin(), words.end(), "EXPORT");
      if (at == words.end() || at + 1 == words.end()) return;
      for (std::size_t i = 1; i < words.size(); ++i) {
        if (words[i] == "EXPORT" || is_keyword(words[i])) break;
        if (const Target* target = project_.target(words[i])) exports_.sets[*(at + 1)].push_back(target);
      }
    } else if (words[0] == "EXPORT" && words.size() > 1) {
      const auto at = std::find(words.begin(), words.end(), "NAMESPACE");
      if (at != words.end() && at + 1 != words.end()) exports_.name_spaces[words[1]] = *(at + 1);
    }
  }

  static bool is_keyword(const std::string& word) {
    static const std::set<std::string> words = {"ARCHIVE",
                                                "LIBRARY",
                                                "RUNTIME",
                                                "OBJECTS",
                                                "FRAMEWORK",
                                                "BUNDLE",
                                                "PUBLIC_HEADER",
                                                "PRIVATE_HEADER",
                                                "RESOURCE",
                                                "INCLUDES",
                                                "FILE_SET",
                                                "DESTINATION",
                                                "PERMISSIONS",
                                                "CONFIGURATIONS",
                                                "COMPONENT",
                                                "OPTIONAL",
                                                "EXCLUDE_FROM_ALL",
                                                "NAMELINK_ONLY",
                                                "NAMELINK_SKIP",
                                                "NAMELINK_COMPONENT",
                                                "EXPORT",
                                                "RENAME",
                                                "TYPE",
                                                "RUNTIME_DEPENDENCIES",
                                                "RUNTIME_DEPENDENCY_SET",
                                                "CXX_MODULES_BMI"};
    return words.contains(word);
  }

  void one(const InstallRule& rule) {
    const auto words = words_of(rule);
    if (words.empty()) return;
    if (rule.for_build_folder) return exported_here(rule, words);
    const std::string& kind = words[0];
    if (kind == "TARGETS")
      targets(rule, words);
    else if (kind == "FILES" || kind == "PROGRAMS")
      some_files(rule, words, kind == "PROGRAMS");
    else if (kind == "DIRECTORY")
      folders(rule, words);
    else if (kind == "EXPORT")
      exported(rule, words);
    else
      build_.not_installed.push_back({"install rule", kind, rule.words.front().place});
  }

  std::string default_folder(const InstallRule& rule, const std::string& type) const {
    const auto it = rule.folders.find(type);
    return it == rule.folders.end() ? std::string{} : it->second;
  }

  // Relative to the prefix; what lies outside of it stays absolute.
  std::string under_prefix(const std::string& destination) const {
    if (!destination.starts_with('/')) return destination;
    const std::string plain = files::absolute(destination);
    if (files::is_below(plain, project_.install_prefix)) {
      const std::string below = files::below(plain, project_.install_prefix);
      return below == "." ? std::string{} : below;
    }
    return plain;
  }

  bool counts(const Parsed& parsed) const {
    if (parsed.excluded) return false;
    return parsed.configurations.empty() ||
           std::any_of(parsed.configurations.begin(), parsed.configurations.end(),
                       [&](const auto& c) { return text::lower(c) == text::lower(project_.configuration); });
  }

  static std::string joined(const std::string& folder, const std::string& name) {
    return folder.empty() || folder == "." ? name : folder + "/" + name;
  }

  void add(InstallItem item, const InstallRule& rule) {
    item.place = rule.words.front().place;
    build_.install.push_back(std::move(item));
  }

  // ---- targets -----------------------------------------------------------------------------------------------------
  struct Part {
    std::string destination;
    bool has_destination = false;
    std::vector<std::string> permissions;
    std::vector<std::string> configurations;
    bool optional = false;
    bool excluded = false;
    bool name_link_only = false;
    bool name_link_skip = false;
  };

  void targets(const InstallRule& rule, const std::vector<std::string>& words) {
    static const std::set<std::string> part_names = {"ARCHIVE",   "LIBRARY",        "RUNTIME",       "OBJECTS",
                                                     "FRAMEWORK", "BUNDLE",         "PUBLIC_HEADER", "PRIVATE_HEADER",
                                                     "RESOURCE",  "CXX_MODULES_BMI"};
    std::vector<const Target*> named;
    std::map<std::string, Part> parts;
    std::string current;  // the part that words belong to; empty: all
    std::vector<std::string>* list = nullptr;
    std::vector<std::string> ignored;
    bool names = true;
    for (std::size_t i = 1; i < words.size(); ++i) {
      const std::string& word = words[i];
      if (part_names.contains(word)) {
        names = false;
        list = nullptr;
        current = word;
        parts[current];
      } else if (word == "INCLUDES") {
        names = false;
        current = "INCLUDES";
        list = nullptr;
      } else if (word == "FILE_SET" && i + 1 < words.size()) {
        names = false;
        current = "FILE_SET " + words[++i];
        parts[current];
        list = nullptr;
      } else if (word == "EXPORT" || word == "COMPONENT" || word == "NAMELINK_COMPONENT" || word == "TYPE") {
        // The kind of a target says where it goes; a type that is named has no say here.
        names = false;
        list = nullptr;
        ++i;
      } else if (word == "DESTINATION" && i + 1 < words.size()) {
        names = false;
        list = nullptr;
        if (current == "INCLUDES") {
          while (i + 1 < words.size() && !is_keyword(words[i + 1])) {
            for (const Target* target : named) exports_.include_folders[target].push_back(under_prefix(words[i + 1]));
            ++i;
          }
        } else {
          parts[current].destination = words[++i];
          parts[current].has_destination = true;
        }
      } else if (word == "PERMISSIONS") {
        names = false;
        list = &parts[current].permissions;
      } else if (word == "CONFIGURATIONS") {
        names = false;
        list = &parts[current].configurations;
      } else if (word == "OPTIONAL" || word == "EXCLUDE_FROM_ALL" || word == "NAMELINK_ONLY" ||
                 word == "NAMELINK_SKIP") {
        names = false;
        list = nullptr;
        Part& part = parts[current];
        part.optional = part.optional || word == "OPTIONAL";
        part.excluded = part.excluded || word == "EXCLUDE_FROM_ALL";
        part.name_link_only = part.name_link_only || word == "NAMELINK_ONLY";
        part.name_link_skip = part.name_link_skip || word == "NAMELINK_SKIP";
      } else if (word == "RUNTIME_DEPENDENCIES" || word == "RUNTIME_DEPENDENCY_SET") {
        names = false;
        list = &ignored;
      } else if (names) {
        const Target* target = project_.target(word);
        if (target == nullptr)
          fail(rule.words.front().place, "a target '" + word + "' is to be installed that is not declared",
               "check the spelling");
        named.push_back(target);
      } else if (list != nullptr) {
        list->push_back(word);
      }
    }
    for (const Target* target : named) one_target(rule, *target, parts);
  }

  Part part_for(const InstallRule& rule, const std::map<std::string, Part>& parts, const std::string& name,
                bool& wanted) const {
    const auto all = parts.find("");
    const auto own = parts.find(name);
    Part part = own != parts.end() ? own->second : all != parts.end() ? all->second : Part{};
    const bool any_named = std::any_of(parts.begin(), parts.end(), [](const auto& p) { return !p.first.empty(); });
    if (!part.has_destination && all != parts.end() && all->second.has_destination) {
      part.destination = all->second.destination;
      part.has_destination = true;
    }
    if (all != parts.end() && part.permissions.empty()) part.permissions = all->second.permissions;
    if (all != parts.end()) {
      part.optional = part.optional || all->second.optional;
      part.excluded = part.excluded || all->second.excluded;
      if (part.configurations.empty()) part.configurations = all->second.configurations;
    }
    if (!part.has_destination) part.destination = default_folder(rule, name);
    // Parts that are not named are installed where no part is, or where everything has a destination.
    wanted = own != parts.end() || !any_named || (all != parts.end() && all->second.has_destination) ||
             !default_folder(rule, name).empty();
    return part;
  }

  void one_target(const InstallRule& rule, const Target& target, const std::map<std::string, Part>& parts) {
    const std::string name = target.kind == TargetKind::program          ? "RUNTIME"
                             : target.kind == TargetKind::static_library ? "ARCHIVE"
                             : target.kind == TargetKind::shared_library || target.kind == TargetKind::module_library
                                 ? "LIBRARY"
                             : target.kind == TargetKind::object_set ? "OBJECTS"
                                                                     : "";
    headers(rule, target, parts);
    if (name.empty() || target.imported) return;
    if (name == "OBJECTS") {
      // Objects are of use within a build only; who says where they go is told that they do not.
      if (parts.contains(name)) build_.not_installed.push_back({"objects", target.name, rule.words.front().place});
      return;
    }
    bool wanted = false;
    const Part part = part_for(rule, parts, name, wanted);
    Parsed parsed;
    parsed.configurations = part.configurations;
    parsed.excluded = part.excluded;
    if (!wanted || !counts(parsed)) return;
    const auto& artifact = artifacts_.of(target);
    const std::string folder = under_prefix(part.destination);
    const std::string base = std::filesystem::path(artifact.file).filename().string();
    if (!part.name_link_only || artifact.names.empty()) {
      InstallItem item;
      item.kind = InstallItem::Kind::file;
      item.from = artifact.file;
      item.to = joined(folder, base);
      item.optional = part.optional;
      item.target = target.name;
      item.mode = !part.permissions.empty() ? mode_of(part.permissions)
                  : target.kind == TargetKind::static_library || target.kind == TargetKind::shared_library ||
                          target.kind == TargetKind::module_library
                      ? file_mode
                      : program_mode;
      item.relink = target.kind != TargetKind::static_library;
      exports_.installed[&target] = item.to;
      add(std::move(item), rule);
    }
    for (const auto& link : artifact.names) {
      const std::string link_name = std::filesystem::path(link).filename().string();
      // The name that others link with is the one that is neither the file nor the name programs look for.
      const bool plain = link == artifact.linker_file;
      if ((plain && part.name_link_skip) || (!plain && part.name_link_only)) continue;
      InstallItem item;
      item.kind = InstallItem::Kind::link;
      item.from =
          &link == &artifact.names.front() ? base : std::filesystem::path(artifact.names.front()).filename().string();
      item.to = joined(folder, link_name);
      item.target = target.name;
      add(std::move(item), rule);
    }
  }

  void headers(const InstallRule& rule, const Target& target, const std::map<std::string, Part>& parts) {
    for (const auto& [property, name] : {std::pair{"PUBLIC_HEADER", "PUBLIC_HEADER"},
                                         {"PRIVATE_HEADER", "PRIVATE_HEADER"},
                                         {"RESOURCE", "RESOURCE"}}) {
      const auto* values = target.property(property);
      if (values == nullptr) continue;
      bool wanted = false;
      const Part part = part_for(rule, parts, name, wanted);
      if (!wanted || part.destination.empty()) continue;
      for (const auto& value : *values) {
        for (const auto& file : list_elements(expressions_.evaluate(value.text, context(rule)), false))
          add_file(rule, files::absolute(file, target.folder), under_prefix(part.destination), {}, file_mode, false);
      }
    }
    for (const auto& [name, part] : parts) {
      if (!name.starts_with("FILE_SET ")) continue;
      const std::string set = name.substr(9);
      const auto* list = target.property("HEADER_SET" + (set == "HEADERS" ? "" : "_" + set));
      const auto* bases = target.property("HEADER_DIRS" + (set == "HEADERS" ? "" : "_" + set));
      if (list == nullptr) continue;
      const std::string folder =
          under_prefix(part.has_destination ? part.destination : default_folder(rule, "PUBLIC_HEADER"));
      for (const auto& value : *list) {
        for (const auto& file : list_elements(expressions_.evaluate(value.text, context(rule)), false)) {
          const std::string path = files::absolute(file, target.folder);
          std::string base = target.folder;
          for (const auto& candidate : bases == nullptr ? Values{} : *bases) {
            for (const auto& element : list_elements(expressions_.evaluate(candidate.text, context(rule)), false)) {
              const std::string absolute = files::absolute(element, target.folder);
              if (files::is_below(path, absolute) && (base == target.folder || absolute.size() > base.size()))
                base = absolute;
            }
          }
          const std::string inner = std::filesystem::path(files::below(path, base)).parent_path().string();
          add_file(rule, path, inner.empty() ? folder : joined(folder, inner), {}, file_mode, part.optional);
        }
      }
    }
  }

  // ---- files and folders -------------------------------------------------------------------------------------------
  void add_file(const InstallRule& rule, const std::string& from, const std::string& folder, const std::string& rename,
                unsigned mode, bool optional) {
    InstallItem item;
    item.kind = InstallItem::Kind::file;
    item.from = from;
    if (const auto it = project_.overlaid.find(from); it != project_.overlaid.end()) item.from = it->second;
    item.to = joined(folder, rename.empty() ? std::filesystem::path(from).filename().string() : rename);
    item.mode = mode;
    item.optional = optional;
    add(std::move(item), rule);
  }

  std::string destination_of(const InstallRule& rule, const Parsed& parsed) const {
    if (!parsed.destination.empty()) return under_prefix(parsed.destination);
    static const std::map<std::string, std::string> types = {{"BIN", "RUNTIME"},
                                                             {"LIB", "LIBRARY"},
                                                             {"INCLUDE", "PUBLIC_HEADER"},
                                                             {"SYSCONF", "SYSCONF"},
                                                             {"SBIN", "SBIN"},
                                                             {"DATA", "DATA"},
                                                             {"DOC", "DOC"},
                                                             {"MAN", "MAN"},
                                                             {"INFO", "INFO"},
                                                             {"LOCALE", "LOCALE"},
                                                             {"LOCALSTATE", "LOCALSTATE"},
                                                             {"RUNSTATE", "RUNSTATE"},
                                                             {"SHAREDSTATE", "SHAREDSTATE"}};
    const auto it = types.find(parsed.type);
    const std::string folder = it == types.end() ? std::string{} : default_folder(rule, it->second);
    if (folder.empty())
      fail(rule.words.front().place, "files are to be installed without DESTINATION", "name the folder");
    return under_prefix(folder);
  }

  void some_files(const InstallRule& rule, const std::vector<std::string>& words, bool programs) {
    Parsed parsed;
    std::vector<std::string>* list = &parsed.operands;
    for (std::size_t i = 1; i < words.size(); ++i) {
      const std::string& word = words[i];
      if (word == "DESTINATION" || word == "RENAME" || word == "TYPE" || word == "COMPONENT") {
        const std::string next = i + 1 < words.size() ? words[++i] : std::string{};
        if (word == "DESTINATION") parsed.destination = next;
        if (word == "RENAME") parsed.rename = next;
        if (word == "TYPE") parsed.type = next;
        list = nullptr;
      } else if (word == "PERMISSIONS") {
        list = &parsed.permissions;
      } else if (word == "CONFIGURATIONS") {
        list = &parsed.configurations;
      } else if (word == "OPTIONAL" || word == "EXCLUDE_FROM_ALL") {
        (word == "OPTIONAL" ? parsed.optional : parsed.excluded) = true;
        list = nullptr;
      } else if (list != nullptr) {
        list->push_back(word);
      }
    }
    if (!counts(parsed) || parsed.operands.empty()) return;
    const std::string folder = destination_of(rule, parsed);
    const unsigned mode = !parsed.permissions.empty() ? mode_of(parsed.permissions)
                          : programs                  ? program_mode
                                                      : file_mode;
    for (const auto& operand : parsed.operands)
      add_file(rule, files::absolute(operand, rule.folder), folder, parsed.rename, mode, parsed.optional);
  }

  void folders(const InstallRule& rule, const std::vector<std::string>& words) {
    Parsed parsed;
    InstallItem item;
    item.kind = InstallItem::Kind::folder;
    std::vector<std::string> folder_permissions;
    std::vector<std::string>* list = &parsed.operands;
    for (std::size_t i = 1; i < words.size(); ++i) {
      const std::string& word = words[i];
      if (word == "DESTINATION" || word == "TYPE" || word == "COMPONENT") {
        const std::string next = i + 1 < words.size() ? words[++i] : std::string{};
        if (word == "DESTINATION") parsed.destination = next;
        if (word == "TYPE") parsed.type = next;
        list = nullptr;
      } else if ((word == "PATTERN" || word == "REGEX") && i + 1 < words.size()) {
        item.patterns.push_back({word == "REGEX", words[++i], false, 0});
        list = nullptr;
      } else if (word == "EXCLUDE" && !item.patterns.empty()) {
        item.patterns.back().exclude = true;
      } else if (word == "FILES_MATCHING") {
        item.only_matching = true;
        list = nullptr;
      } else if (word == "FILE_PERMISSIONS" || word == "PERMISSIONS") {
        list = &parsed.permissions;
      } else if (word == "DIRECTORY_PERMISSIONS") {
        list = &folder_permissions;
      } else if (word == "CONFIGURATIONS") {
        list = &parsed.configurations;
      } else if (word == "OPTIONAL" || word == "EXCLUDE_FROM_ALL" || word == "MESSAGE_NEVER" ||
                 word == "USE_SOURCE_PERMISSIONS") {
        if (word == "OPTIONAL") parsed.optional = true;
        if (word == "EXCLUDE_FROM_ALL") parsed.excluded = true;
        if (word == "USE_SOURCE_PERMISSIONS") item.keep_mode = true;
        list = nullptr;
      } else if (list == &parsed.permissions && !item.patterns.empty()) {
        item.patterns.back().mode |= mode_of({word});
      } else if (list != nullptr) {
        list->push_back(word);
      }
    }
    if (!counts(parsed)) return;
    item.mode = mode_of(parsed.permissions);
    item.optional = parsed.optional;
    const std::string destination = destination_of(rule, parsed);
    if (parsed.operands.empty()) {
      // An empty folder of that name.
      item.to = destination;
      add(item, rule);
    }
    for (const auto& operand : parsed.operands) {
      // "a/b/" installs what is in b, "a/b" the folder itself.
      const bool content = operand.ends_with('/');
      item.from = files::absolute(operand, rule.folder);
      item.to = content ? destination : joined(destination, std::filesystem::path(item.from).filename().string());
      add(item, rule);
    }
  }

  // ---- files by which other trees find this one --------------------------------------------------------------------
  void exported(const InstallRule& rule, const std::vector<std::string>& words) {
    std::string file;
    Parsed parsed;
    for (std::size_t i = 2; i + 1 < words.size(); ++i) {
      if (words[i] == "FILE") file = words[i + 1];
      if (words[i] == "DESTINATION") parsed.destination = words[i + 1];
    }
    parsed.excluded = std::find(words.begin(), words.end(), "EXCLUDE_FROM_ALL") != words.end();
    if (words.size() < 2 || !counts(parsed)) return;
    const auto it = exports_.sets.find(words[1]);
    if (it == exports_.sets.end())
      fail(rule.words.front().place, "nothing is installed with EXPORT " + words[1], "check the name of the export");
    const std::string folder = under_prefix(parsed.destination);
    InstallItem item;
    item.kind = InstallItem::Kind::text;
    item.to = joined(folder, file.empty() ? words[1] + ".cmake" : file);
    item.mode = file_mode;
    item.from = exports_.text(it->second, exports_.name_spaces[words[1]], true, folder);
    add(std::move(item), rule);
  }

  void exported_here(const InstallRule& rule, const std::vector<std::string>& words) {
    // TARGETS names..., or EXPORT name, or PACKAGE name.
    if (words[0] == "PACKAGE") return;
    std::vector<const Target*> named;
    std::string name_space;
    std::string file;
    std::string append;
    for (std::size_t i = 1; i < words.size(); ++i) {
      if (words[i] == "NAMESPACE" && i + 1 < words.size())
        name_space = words[++i];
      else if (words[i] == "FILE" && i + 1 < words.size())
        file = words[++i];
      else if (words[i] == "APPEND" || words[i] == "EXPORT_LINK_INTERFACE_LIBRARIES")
        append = words[i];
      else if (words[0] == "TARGETS") {
        if (const Target* target = project_.target(words[i])) named.push_back(target);
      }
    }
    if (words[0] == "EXPORT" && words.size() > 1) {
      named = exports_.sets[words[1]];
      if (file.empty()) file = words[1] + ".cmake";
    }
    if (named.empty() || file.empty()) return;
    const std::string path = files::absolute(file, rule.binary_folder);
    // It may be in any place that is written to; anywhere else nobody of this build reads it.
    if (!files::is_below(path, project_.binary_root)) return;
    const std::string text = exports_.text(named, name_space, false, {});
    for (auto& known : build_.files) {
      if (known.path != path) continue;
      known.content = append == "APPEND" ? known.content + text : text;
      return;
    }
    build_.files.push_back({path, text, false});
  }

  // ---- run paths ---------------------------------------------------------------------------------------------------
  // Where an installed program or library looks for those it needs, as far as the description says it.
  void add_run_path(const Target& target, InstallItem& item) const {
    for (const auto& entry :
         list_elements(expressions_.evaluate(property_text(target, "INSTALL_RPATH"), ExpressionContext{}), false)) {
      for (const auto& one : text::split(entry, ':')) {
        if (!one.empty() && std::find(item.run_path.begin(), item.run_path.end(), one) == item.run_path.end())
          item.run_path.push_back(one);
      }
    }
    item.link_folders_too = property_on(target, "INSTALL_RPATH_USE_LINK_PATH");
  }

  const Declared& project_;
  const Artifacts& artifacts_;
  const Expressions& expressions_;
  model::Build& build_;
  Exports exports_;
};

}  // namespace

void lower_install(const Declared& project, const Artifacts& artifacts, const Expressions& expressions,
                   model::Build& build) {
  Installer(project, artifacts, expressions, build).run();
}

}  // namespace coctilis::describe::listfile::lower
