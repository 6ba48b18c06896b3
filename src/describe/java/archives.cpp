#include "describe/java/archives.h"

#include <algorithm>
#include <functional>

#include "base/files.h"
#include "base/text.h"
#include "locate/java.h"

namespace coctilis::describe::java {

namespace {
std::string whose(const Module& module) {
  return module.tests_of.empty() ? "'" + module.name + "'" : "the tests of '" + module.tests_of + "'";
}
}  // namespace

// Folders of the tree that archives lie in.
Archives::Archives(const ReadRequest& request, const std::vector<Module>& modules, const SourcesByModule& sources,
                   const std::vector<model::Unit>& units, SourcesRead& facts)
    : request_(request), modules_(modules), sources_(sources), units_(units), facts_(facts) {
  std::set<std::string> folders;
  for (const auto& module : modules_) {
    for (const auto& base : {module.folder, request_.survey.tree}) {
      for (const char* name : {"lib", "libs", "jars", "vendor", "third_party", "ext", "repo"})
        folders.insert(base + "/" + name);
      folders.insert(base);
    }
  }
  for (const auto& prefix : request_.locator.settings().wished_prefixes()) {
    for (const char* name : {"/share/java", "/lib", ""}) jar_folders_.push_back(prefix + name);
  }
  for (const auto& folder : folders) {
    if (files::is_folder(folder)) jar_folders_.push_back(folder);
  }
}

// Looks for it, and tells what came of it. False: it is not here. So do those that follow.
bool Archives::take_package(const WantedPackage& wanted, const Module& module, model::Whole& whole) {
  const auto found = locate::java_archive(wanted.group, wanted.name, wanted.version, jar_folders_);
  model::Finding finding;
  finding.requirement = {model::RequirementKind::package,
                         (wanted.group.empty() ? "" : wanted.group + ":") + wanted.name,
                         {},
                         !wanted.optional && module.tests_of.empty(),
                         whose(module),
                         wanted.place,
                         {}};
  finding.found = !found.path.empty();
  finding.where = found.path;
  finding.version = found.version == "debian" ? "" : found.version;
  finding.looked = found.looked;
  finding.how = "archive of classes";
  if (finding.found) {
    whole.libraries.push_back(found.path);
  } else {
    finding.reason = "no archive " + wanted.name + (wanted.version.empty() ? "" : "-" + wanted.version) +
                     ".jar is here; nothing is fetched: put it into lib/ of the tree, or name its prefix by --with";
    for (const auto& package : {"lib" + wanted.name + "-java", wanted.name, "lib" + wanted.name + "java"}) {
      if (!request_.locator.packages().available(package)) continue;
      finding.package = package;
      break;
    }
  }
  const bool found_it = finding.found;
  request_.locator.keep(std::move(finding));
  return found_it;
}

bool Archives::take_archive(const std::string& path, const Module& module, model::Whole& whole) {
  if (files::is_folder(path)) {
    for (const auto& name : files::names_in(path)) {
      if (name.ends_with(".jar")) whole.libraries.push_back(path + "/" + name);
    }
    return true;
  }
  model::Finding finding;
  finding.requirement = {model::RequirementKind::file,
                         files::below(path, request_.survey.tree),
                         {},
                         module.tests_of.empty(),
                         whose(module),
                         module.place,
                         {}};
  finding.found = files::is_file(path);
  finding.where = path;
  finding.looked = {path};
  finding.how = "archive of classes";
  if (!finding.found) finding.reason = "the description names it, and it is not there";
  if (finding.found) whole.libraries.push_back(path);
  // Those that lie where they are expected are nobody's worry.
  if (finding.found) return true;
  request_.locator.keep(std::move(finding));
  return false;
}

// Archives that are named and here; then what its sources import and nothing has is looked for, and only what of that
// is not found is missing where archives are named that are not here.
bool Archives::take_for_imports(const Module& module, const std::vector<std::string>& sources, model::Whole& whole) {
  std::vector<const WantedPackage*> absent;
  for (const auto& package : module.packages) {
    if (!package.only_for_imports || (!module.tests_of.empty() && is_of_framework(package.name))) continue;
    const auto found = locate::java_archive(package.group, package.name, package.version, jar_folders_);
    if (found.path.empty())
      absent.push_back(&package);
    else
      static_cast<void>(take_package(package, module, whole));
  }
  const auto nowhere = module.finds_packages ? find_packages(module, sources, whole) : Nowhere{};
  // What nobody names may be made by what is not followed: then the compiler tells.
  if (nowhere.empty() || absent.empty()) return true;
  std::vector<std::string> names;
  for (const auto* package : absent) names.push_back(package->name + ".jar");
  for (const auto& [missing, place] : nowhere) {
    model::Finding finding;
    finding.requirement = {
        model::RequirementKind::package, missing, {}, module.tests_of.empty(), whose(module), place, {}};
    finding.how = "archive of classes";
    finding.looked = {"/usr/share/java"};
    finding.reason =
        "no archive that is here has it, and nothing is fetched; the description names some that are not "
        "here: " +
        text::join(names, ", ") + ". Put it into lib/ of the tree, or name its prefix by --with";
    for (const auto* package : absent) {
      if (missing.find(package->name) == std::string::npos) continue;
      const std::string debian = "lib" + package->name + "-java";
      if (request_.locator.packages().available(debian)) finding.package = debian;
    }
    request_.locator.keep(std::move(finding));
  }
  return false;
}

// Archives of the system that have what its sources import and nothing else does. Gives the packages that are
// nowhere.
Archives::Nowhere Archives::find_packages(const Module& module, const std::vector<std::string>& sources,
                                          model::Whole& whole) {
  if (own_packages_.empty()) {
    for (const auto& [name, paths] : sources_) {
      for (const auto& path : paths) own_packages_.insert(facts_.of(path).package);
    }
  }
  std::set<std::string> known = own_packages_;
  std::set<std::string> seen;
  const std::function<void(const model::Whole&)> add_known = [&](const model::Whole& one) {
    for (const auto& library : one.libraries) known.merge(locate::java_packages_of(library));
    for (const auto& name : one.units) {
      for (const auto& other : units_) {
        if (other.name == name && other.whole && seen.insert(name).second) add_known(*other.whole);
      }
    }
  };
  bool read = false;
  Nowhere out;
  for (const auto& path : sources) {
    const auto& facts = facts_.of(path);
    for (std::size_t i = 0; i < facts.imports.size(); ++i) {
      const auto& import = facts.imports[i];
      // The package of a class, or of one inside another; "a.b.*" is the package itself.
      std::string package = import;
      bool found = false;
      bool nowhere = true;
      for (int part = 0; part < 3 && !found && package.find('.') != std::string::npos; ++part) {
        package.resize(package.rfind('.'));
        nowhere = false;
        if (locate::is_package_of_kits(package)) break;
        if (!std::exchange(read, true)) add_known(whole);
        if (known.contains(package)) break;
        found = take_package_of_system(package, module, path, whole);
        if (found) known.insert(package);
        nowhere = !found;
      }
      const std::string missing = import.substr(0, std::min(import.rfind('.'), import.size()));
      if (nowhere && i < facts.imported) out.emplace(missing, Place{files::below(path, request_.survey.tree), 0, 0});
    }
  }
  return out;
}
bool Archives::take_package_of_system(const std::string& package, const Module& module, const std::string& source,
                                      model::Whole& whole) {
  if (!system_packages_) {
    std::vector<std::string> folders;
    for (const auto& prefix : request_.locator.settings().wished_prefixes()) folders.push_back(prefix + "/share/java");
    folders.emplace_back("/usr/share/java");
    system_packages_ = locate::java_packages_in(folders, request_.locator.answers());
  }
  const auto it = system_packages_->find(package);
  if (it == system_packages_->end()) return false;
  const std::string& archive = it->second.front();
  if (std::find(whole.libraries.begin(), whole.libraries.end(), archive) == whole.libraries.end())
    whole.libraries.push_back(archive);
  model::Finding finding;
  finding.requirement = {model::RequirementKind::package,
                         package,
                         {},
                         module.tests_of.empty(),
                         whose(module),
                         {files::below(source, request_.survey.tree), 0, 0},
                         {}};
  finding.found = true;
  finding.where = archive;
  finding.how = "archive of classes";
  request_.locator.keep(std::move(finding));
  return true;
}

// What runs the tests, and what they are written with.
bool Archives::take_frameworks(const TestFrameworks& frameworks, const Module& module, model::Whole& whole) {
  model::Finding finding;
  finding.requirement = {model::RequirementKind::package, "JUnit", {}, false, whose(module), module.place, {}};
  finding.how = "archives of classes";
  std::vector<std::string> absent;
  for (const auto& name : archives_for(frameworks)) {
    const auto found = locate::java_archive({}, name, {}, jar_folders_);
    finding.looked.insert(finding.looked.end(), found.looked.begin(), found.looked.end());
    if (found.path.empty())
      absent.push_back(name + ".jar");
    else
      whole.libraries.push_back(found.path);
    if (name == "junit-platform-console") finding.where = found.path;
  }
  for (const auto& name : further_archives()) {
    if (const auto found = locate::java_archive({}, name, {}, jar_folders_); !found.path.empty())
      whole.libraries.push_back(found.path);
  }
  finding.found = absent.empty();
  if (!finding.found) {
    finding.where.clear();
    finding.reason = "what runs the tests is not here: " + text::join(absent, ", ");
    if (request_.locator.packages().available("junit5")) finding.package = "junit5";
  }
  request_.locator.keep(std::move(finding));
  return absent.empty();
}

}  // namespace coctilis::describe::java
