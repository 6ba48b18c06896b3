#include "describe/toolkit.h"

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "locate/known.h"
#include "locate/pc_file.h"

namespace coctilis::describe {

namespace {

std::string plain(const std::string& name) {
  for (const char* ending : {"-private", "_private"}) {
    if (name.ends_with(ending)) return name.substr(0, name.size() - std::string(ending).size());
  }
  return name;
}

}  // namespace

Toolkit::Toolkit(locate::Locator& locator, const std::string& wanted) : locator_(locator) {
  const auto& toolchain = locator.toolchain();
  for (const char* major : {"5", "6"}) {
    if (!wanted.empty() && wanted != major) continue;
    const std::string core = std::string("Qt") + major + "Core";
    const auto search = locate::pc_search(locator.settings().prefixes, toolchain.machine, locator.settings().sysroot);
    const auto module = locate::find_pc({core, {}, {}}, search);
    if (!module.found) continue;
    major_ = major;
    version_ = module.file.version;
    const auto variable = [&](const char* name) {
      const auto it = module.file.variables.find(name);
      return it == module.file.variables.end() ? std::string{} : it->second;
    };
    const std::string libraries = variable("libdir");
    const std::string inner = std::string("/qt") + major;
    for (const char* name : {"host_bins", "libexecdir", "bindir"}) {
      if (const std::string folder = variable(name); !folder.empty()) program_folders_.push_back(folder);
    }
    program_folders_.push_back("/usr/lib" + inner + "/bin");
    program_folders_.push_back("/usr/lib" + inner + "/libexec");
    const std::string prefix = variable("prefix");
    properties_ = {{"QT_VERSION", version_},
                   {"QMAKE_VERSION", "3.1"},
                   {"QMAKE_SPEC", "linux-g++"},
                   {"QMAKE_XSPEC", "linux-g++"},
                   {"QT_SYSROOT", ""},
                   {"QT_INSTALL_PREFIX", prefix},
                   {"QT_INSTALL_ARCHDATA", libraries + inner},
                   {"QT_INSTALL_DATA", prefix + "/share" + inner},
                   {"QT_INSTALL_DOCS", prefix + "/share" + inner + "/doc"},
                   {"QT_INSTALL_HEADERS", variable("includedir")},
                   {"QT_INSTALL_LIBS", libraries},
                   {"QT_INSTALL_LIBEXECS", libraries + inner + "/libexec"},
                   {"QT_INSTALL_BINS", program_folders_.front()},
                   {"QT_INSTALL_PLUGINS", libraries + inner + "/plugins"},
                   {"QT_INSTALL_IMPORTS", libraries + inner + "/imports"},
                   {"QT_INSTALL_QML", libraries + inner + "/qml"},
                   {"QT_INSTALL_TRANSLATIONS", prefix + "/share" + inner + "/translations"},
                   {"QT_INSTALL_CONFIGURATION", "/etc/xdg"},
                   {"QT_INSTALL_EXAMPLES", libraries + inner + "/examples"},
                   {"QT_INSTALL_TESTS", libraries + inner + "/tests"},
                   {"QMAKE_MKSPECS", libraries + inner + "/mkspecs"},
                   {"QT_HOST_PREFIX", prefix},
                   {"QT_HOST_BINS", program_folders_.front()},
                   {"QT_HOST_LIBS", libraries},
                   {"QT_HOST_DATA", libraries + inner}};
    for (const auto& folder : search.folders) {
      for (const auto& file : files::names_in(folder)) {
        const std::string beginning = std::string("Qt") + major;
        if (file.starts_with(beginning) && file.ends_with(".pc"))
          modules_.emplace(text::lower(file.substr(3, file.size() - 6)), file.substr(0, file.size() - 3));
      }
    }
    return;
  }
  if (major_.empty()) major_ = wanted.empty() ? "5" : wanted;
}

std::string Toolkit::module_file(const std::string& name) const {
  const std::string base = plain(name);
  if (const auto* entry = locate::known_toolkit_module(base); entry != nullptr) return "Qt" + major_ + entry->name;
  const auto it = modules_.find(base);
  return it == modules_.end() ? std::string{} : it->second;
}

bool Toolkit::has_module(const std::string& name) const {
  const std::string file = module_file(name);
  return std::any_of(modules_.begin(), modules_.end(), [&](const auto& one) { return one.second == file; }) ||
         module_of_other_package(name).has_value();
}

// Libraries of other packages that go by a name in QT say what they need in a file of their own, where they have no .pc
// file.
std::optional<model::Finding> Toolkit::module_of_other_package(const std::string& name) const {
  const auto folder = properties_.find("QMAKE_MKSPECS");
  if (folder == properties_.end() || name.find('/') != std::string::npos) return std::nullopt;
  const std::string path = folder->second + "/modules/qt_" + name + ".pri";
  const auto content = files::read(path);
  if (!content) return std::nullopt;
  std::map<std::string, std::vector<std::string>> values;
  const std::string beginning = "QT." + name + ".";
  const std::string here = std::filesystem::path(path).parent_path().string();
  for (const auto& line : text::split(*content, '\n')) {
    const auto equals = line.find('=');
    if (equals == std::string::npos || !line.starts_with(beginning)) continue;
    const std::string key(text::trim(line.substr(beginning.size(), equals - beginning.size())));
    values[key] = text::words(text::replace_all(line.substr(equals + 1), "$$PWD", here));
  }
  model::Finding out;
  out.found = true;
  out.where = path;
  out.how = "module file";
  out.version = text::join(values["VERSION"], "");
  out.requirement.kind = model::RequirementKind::package;
  out.requirement.name = name;
  for (const auto& one : values["includes"]) out.usage.include_folders.push_back(files::absolute(one));
  out.usage.definitions = values["defines"];
  for (const auto& one : values["libs"]) out.usage.link_folders.push_back(files::absolute(one));
  for (const auto& one : values["module"]) out.usage.link_items.push_back("-l" + one);
  for (const auto& one : values["depends"]) {
    if (one == name) continue;
    const auto other = module(one, {}, {}, true);
    const auto add = [](auto& to, const auto& from) { to.insert(to.end(), from.begin(), from.end()); };
    add(out.usage.include_folders, other.usage.include_folders);
    add(out.usage.link_items, other.usage.link_items);
  }
  return out;
}

std::string Toolkit::installed_feature(const std::string& name) const {
  const auto folder = properties_.find("QMAKE_MKSPECS");
  if (folder == properties_.end() || name.find('/') != std::string::npos) return {};
  const std::string path = folder->second + "/features/" + name + ".prf";
  if (!files::is_file(path)) return {};
  const std::string owner = locator_.packages().owner(path);
  for (const char* own : {"qt5-qmake", "qtbase5", "qt6-base", "qmake6", "qt5-default", "libqt5core", "libqt6core"}) {
    if (owner.empty() || owner.starts_with(own)) return {};
  }
  return path;
}

model::Finding Toolkit::module(const std::string& name, const std::string& required_by, const Place& place,
                               bool required) const {
  model::Requirement want;
  want.kind = model::RequirementKind::package;
  want.name = module_file(name);
  if (want.name.empty()) want.name = "Qt" + major_ + " module " + name;
  want.required_by = required_by;
  want.place = place;
  want.required = required;
  auto finding = locator_.module(want);
  if (!finding.found) {
    if (auto other = module_of_other_package(name)) {
      other->requirement.required_by = required_by;
      other->requirement.place = place;
      other->requirement.required = required;
      return *other;
    }
  }
  const auto* entry = locate::known_toolkit_module(plain(name));
  if (!finding.found && entry != nullptr) finding.package = major_ == "6" ? entry->package6 : entry->package5;
  if (finding.found && name != plain(name)) {
    // What is private lies in folders by version.
    const auto folders = finding.usage.include_folders;
    const std::string own = "/Qt" + want.name.substr(3);
    for (const auto& folder : folders) {
      if (!folder.ends_with(own)) continue;
      for (const auto& inner : {folder + "/" + version_, folder + "/" + version_ + own}) {
        if (files::is_folder(inner)) {
          finding.usage.include_folders.push_back(inner);
          continue;
        }
        finding.found = false;
        finding.reason = "its private headers are not there";
        finding.package = major_ == "6" ? "qt6-base-private-dev" : "qtbase5-private-dev";
      }
    }
  }
  return finding;
}

std::string Toolkit::generator(const std::string& name, const std::string& required_by, const Place& place) const {
  for (const auto& folder : program_folders_) {
    if (files::is_program(folder + "/" + name)) return folder + "/" + name;
  }
  model::Requirement want;
  want.kind = model::RequirementKind::program;
  want.name = name;
  want.required_by = required_by;
  want.place = place;
  auto finding = locator_.program(want, {name}, {});
  if (finding.found) return finding.where;
  finding.package = name.starts_with("l") ? (major_ == "6" ? "qt6-l10n-tools" : "qttools5-dev-tools")
                                          : (major_ == "6" ? "qt6-base-dev-tools" : "qtbase5-dev-tools");
  locator_.keep(std::move(finding));
  return {};
}

bool Toolkit::is_only_in_newer(const std::string& module) {
  const auto* entry = locate::known_toolkit_module(plain(module));
  return entry != nullptr && entry->package5.empty();
}

std::string Toolkit::macro_of(const std::string& module) {
  std::string name = text::upper(plain(module));
  for (auto& c : name) {
    if (std::isalnum(static_cast<unsigned char>(c)) == 0) c = '_';
  }
  return "QT_" + name + "_LIB";
}

}  // namespace coctilis::describe
