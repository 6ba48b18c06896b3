#include "locate/java.h"

#include <algorithm>
#include <cstdlib>

#include "base/archive.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"

namespace coctilis::locate {

namespace {

// JAVA_VERSION="17.0.15" of the file that every kit has since release 7.
std::string java_version_of(const std::string& folder) {
  for (const auto& line : text::split(files::read_beginning(folder + "/release", 64U << 10U), '\n')) {
    if (!line.starts_with("JAVA_VERSION=\"")) continue;
    return line.substr(14, line.find('"', 14) - 14);
  }
  return {};
}

int release_of(const std::string& version) {
  const std::string plain = version.starts_with("1.") ? version.substr(2) : version;
  const int out = std::atoi(plain.c_str());
  return out > 0 && out < 1000 ? out : 0;
}

std::string described(const JavaKit& kit) { return kit.version + " in " + kit.folder + " (" + kit.origin + ")"; }

}  // namespace

std::vector<JavaKit> java_kits(const std::vector<std::string>& prefixes) {
  std::vector<JavaKit> out;
  const auto add = [&](const std::string& given, const std::string& origin) {
    std::error_code error;
    const std::string folder = std::filesystem::canonical(given, error).string();
    if (error || !files::is_program(folder + "/bin/javac")) return;
    if (std::any_of(out.begin(), out.end(), [&](const auto& kit) { return kit.folder == folder; })) return;
    JavaKit kit;
    kit.folder = folder;
    kit.version = java_version_of(folder);
    kit.release = release_of(kit.version);
    kit.compiler = folder + "/bin/javac";
    kit.runtime = folder + "/bin/java";
    kit.origin = origin;
    if (kit.release > 0) out.push_back(std::move(kit));
  };
  if (const char* home = std::getenv("JAVA_HOME")) add(home, "JAVA_HOME");
  for (const auto& prefix : prefixes) add(prefix, "the prefix " + prefix);
  if (const std::string compiler = find_program("javac"); !compiler.empty()) {
    std::error_code error;
    const auto real = std::filesystem::canonical(compiler, error);
    if (!error) add(real.parent_path().parent_path().string(), "PATH");
  }
  for (const char* folder : {"/usr/lib/jvm", "/usr/java", "/opt", "/usr/local"}) {
    auto names = files::names_in(folder);
    // The newest first.
    std::vector<std::pair<int, std::string>> found;
    for (const auto& name : names) {
      const std::string path = std::string(folder) + "/" + name;
      if (files::is_program(path + "/bin/javac")) found.emplace_back(-release_of(java_version_of(path)), path);
    }
    std::sort(found.begin(), found.end());
    for (const auto& [release, path] : found) add(path, std::string(folder));
  }
  return out;
}

int least_release_for(const JavaKit& kit) { return kit.release >= 20 ? 8 : kit.release >= 12 ? 7 : 6; }

JavaArchive java_archive(const std::string& group, const std::string& name, const std::string& version,
                         const std::vector<std::string>& folders) {
  JavaArchive out;
  const auto take = [&](const std::string& path, const std::string& of) {
    out.looked.push_back(path);
    if (!files::is_file(path)) return false;
    out.path = path;
    out.version = of;
    return true;
  };
  const auto any_in = [&](const std::string& folder) {
    if (!version.empty() && take(folder + "/" + name + "-" + version + ".jar", version)) return true;
    if (take(folder + "/" + name + ".jar", {})) return true;
    // Of any other version: clay-2.jar, but not clay-tools-2.jar.
    for (const auto& file : files::names_in(folder)) {
      const std::string start = name + "-";
      if (file.starts_with(start) && file.ends_with(".jar") && file.size() > start.size() + 4 &&
          std::isdigit(static_cast<unsigned char>(file[start.size()])) != 0)
        return take(folder + "/" + file, file.substr(start.size(), file.size() - start.size() - 4));
    }
    return false;
  };
  for (const auto& folder : folders) {
    if (any_in(folder)) return out;
  }
  const std::string place = text::replace_all(group, ".", "/") + "/" + name;
  std::vector<std::string> repositories;
  if (const char* home = std::getenv("HOME")) repositories.push_back(std::string(home) + "/.m2/repository");
  repositories.emplace_back("/usr/share/maven-repo");
  for (const auto& repository : repositories) {
    std::vector<std::string> versions = {version};
    if (repository.starts_with("/usr/")) {
      versions.emplace_back("debian");
      for (const auto& one : files::names_in(repository + "/" + place)) versions.push_back(one);
    }
    for (const auto& one : versions) {
      if (group.empty() || one.empty()) continue;
      if (take(repository + "/" + place + "/" + one + "/" + name + "-" + one + ".jar", one)) return out;
    }
  }
  static_cast<void>(any_in("/usr/share/java"));
  return out;
}

std::set<std::string> java_packages_of(const std::string& archive) {
  std::set<std::string> out;
  observe::content(archive);
  const auto names = files::names_in_archive(archive, false);
  if (!names.ok()) return out;
  for (const auto& name : *names) {
    const auto slash = name.rfind('/');
    if (slash != std::string::npos && name.ends_with(".class"))
      out.insert(text::replace_all(name.substr(0, slash), "/", "."));
  }
  return out;
}

namespace {
// "PACKAGE ARCHIVE" of each package of each archive in a folder.
std::vector<std::pair<std::string, std::string>> packages_in(const std::string& folder, Answers* answers) {
  const std::string question = "packages of Java 1\n" + folder;
  std::optional<std::string> kept = answers == nullptr ? std::nullopt : answers->get(question);
  if (!kept) {
    std::vector<std::string> names;
    for (const auto& name : files::names_in(folder)) {
      if (name.ends_with(".jar")) names.push_back(name);
    }
    std::stable_sort(names.begin(), names.end(), [](const auto& a, const auto& b) { return a.size() < b.size(); });
    std::vector<Watched> watched = {{folder, true}};
    std::set<std::string> seen;
    std::string lines;
    for (const auto& name : names) {
      const std::string path = folder + "/" + name;
      watched.push_back({path, false});
      std::error_code error;
      const auto real = std::filesystem::canonical(path, error);
      if (error || !seen.insert(real.string()).second) continue;
      watched.push_back({real.string(), false});
      for (const auto& package : java_packages_of(path)) lines += package + " " + path + "\n";
    }
    if (answers != nullptr) answers->put(question, lines, watched);
    kept = std::move(lines);
  }
  std::vector<std::pair<std::string, std::string>> out;
  for (const auto& line : text::split(*kept, '\n')) {
    if (const auto at = line.find(' '); at != std::string::npos)
      out.emplace_back(line.substr(0, at), line.substr(at + 1));
  }
  return out;
}
}  // namespace

std::map<std::string, std::vector<std::string>> java_packages_in(const std::vector<std::string>& folders,
                                                                 Answers* answers) {
  std::map<std::string, std::vector<std::string>> out;
  for (const auto& folder : folders) {
    for (auto& [package, archive] : packages_in(folder, answers)) out[package].push_back(std::move(archive));
  }
  return out;
}

bool is_package_of_kits(const std::string& package) {
  static const std::vector<std::string> begins = {"java",
                                                  "javax.swing",
                                                  "javax.xml",
                                                  "javax.net",
                                                  "javax.crypto",
                                                  "javax.imageio",
                                                  "javax.print",
                                                  "javax.sound",
                                                  "javax.sql",
                                                  "javax.naming",
                                                  "javax.management",
                                                  "javax.security",
                                                  "javax.script",
                                                  "javax.tools",
                                                  "javax.accessibility",
                                                  "javax.lang",
                                                  "javax.rmi.ssl",
                                                  "javax.transaction.xa",
                                                  "javax.annotation.processing",
                                                  "javax.smartcardio",
                                                  "jdk",
                                                  "sun",
                                                  "com.sun",
                                                  "org.w3c.dom",
                                                  "org.xml.sax",
                                                  "org.ietf.jgss",
                                                  "netscape.javascript"};
  // These left the kits with release 11, or were never in them.
  static const std::vector<std::string> others = {"javax.xml.bind", "javax.xml.ws",       "javax.xml.soap",
                                                  "javax.xml.rpc",  "javax.xml.registry", "com.sun.jna",
                                                  "com.sun.mail",   "com.sun.xml"};
  const auto is_below = [&](const std::string& name) {
    return package.starts_with(name) && (package.size() == name.size() || package[name.size()] == '.');
  };
  return std::any_of(begins.begin(), begins.end(), is_below) && std::none_of(others.begin(), others.end(), is_below);
}

JavaChoice choose_java(const std::vector<JavaKit>& kits, const JavaWish& wish) {
  JavaChoice out;
  auto& finding = out.finding;
  const int wanted = wish.exactly > 0 ? wish.exactly : wish.at_least;
  finding.requirement.kind = model::RequirementKind::program;
  finding.requirement.name = "Java";
  if (wanted > 0) finding.requirement.constraint = (wish.exactly > 0 ? "" : ">= ") + std::to_string(wanted);
  finding.requirement.required = true;
  finding.requirement.required_by = wish.required_by;
  finding.requirement.place = wish.place;
  finding.how = "Java kit";
  const JavaKit* best = nullptr;
  // One that still compiles for that release comes before one that is only new enough.
  for (const bool for_it : {true, false}) {
    for (const auto& kit : kits) {
      if (kit.release < wanted || (for_it && wanted > 0 && least_release_for(kit) > wanted)) continue;
      // The very one that is named, or the lowest that does what it would do; else the first.
      if (best == nullptr || (wish.exactly > 0 && kit.release < best->release)) best = &kit;
    }
    if (best != nullptr) break;
  }
  for (const auto& kit : kits) {
    if (&kit != best) finding.others.push_back(described(kit));
  }
  finding.looked = {"JAVA_HOME", "PATH", "/usr/lib/jvm", "/usr/java", "/opt", "/usr/local"};
  if (best == nullptr) {
    std::vector<std::string> there;
    for (const auto& kit : kits) there.push_back(std::to_string(kit.release));
    finding.refused = !kits.empty();
    finding.reason = kits.empty() ? "no Java development kit is here"
                                  : "wanted " + std::to_string(wanted) + ", there " +
                                        (there.size() == 1 ? "is " : "are ") + text::join(there, ", ");
    finding.package = kits.empty() && wanted == 0 ? "default-jdk-headless"
                      : wanted > 0                ? "openjdk-" + std::to_string(wanted) + "-jdk-headless"
                                                  : "default-jdk-headless";
    return out;
  }
  out.kit = *best;
  finding.found = true;
  finding.where = best->compiler;
  finding.version = best->version;
  finding.version_source = "file release";
  finding.why_here = best->origin;
  if (wish.exactly > 0 && best->release != wish.exactly)
    out.note = "Java " + std::to_string(wish.exactly) + " is named, and not here: " + best->version +
               (least_release_for(*best) <= wish.exactly ? " compiles for it" : " is taken in its place");
  return out;
}

}  // namespace coctilis::locate
