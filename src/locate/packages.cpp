#include "locate/packages.h"

#include <dirent.h>

#include <algorithm>
#include <cstring>

#include "base/archive_library.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"
#include "locate/known.h"

namespace coctilis::locate {

namespace {

// Hands on every line of a file, unpacked however it is packed (lz4, gz, xz, zst, bz2 or not at all).
template <class F>
void each_line(const std::string& path, F&& handle) {
  observe::content(path);
  archive* reader = archive_read_new();
  archive_read_support_filter_all(reader);
  archive_read_support_format_raw(reader);
  archive_read_support_format_empty(reader);
  archive_entry* entry = nullptr;
  std::string rest;
  if (archive_read_open_filename(reader, path.c_str(), 1U << 18U) == ARCHIVE_OK &&
      archive_read_next_header(reader, &entry) == ARCHIVE_OK) {
    std::vector<char> buffer(1U << 20U);
    for (la_ssize_t size = 0; (size = archive_read_data(reader, buffer.data(), buffer.size())) > 0;) {
      const char* at = buffer.data();
      const char* const end = at + size;
      while (at < end) {
        const auto* stop = static_cast<const char*>(std::memchr(at, '\n', static_cast<std::size_t>(end - at)));
        if (stop == nullptr) {
          rest.append(at, end);
          if (rest.size() > (1U << 20U)) rest.clear();  // no list has such lines
          break;
        }
        if (rest.empty()) {
          handle(std::string_view(at, static_cast<std::size_t>(stop - at)));
        } else {
          rest.append(at, stop);
          handle(std::string_view(rest));
          rest.clear();
        }
        at = stop + 1;
      }
    }
    if (!rest.empty()) handle(std::string_view(rest));
  }
  archive_read_free(reader);
}

// "1:1.2.13.dfsg-1+b2" -> "1.2.13": the author's version (Debian Policy 5.6.12).
std::string author_version(std::string version) {
  if (const auto colon = version.find(':'); colon != std::string::npos) version.erase(0, colon + 1);
  if (const auto dash = version.rfind('-'); dash != std::string::npos) version.resize(dash);
  for (const char* mark : {"+dfsg", ".dfsg", "+ds", "~dfsg", "+really"}) {
    if (const auto at = version.find(mark); at != std::string::npos) {
      version = std::string(mark) == "+really" ? version.substr(at + 7) : version.substr(0, at);
    }
  }
  return version;
}

}  // namespace

std::string debian_architecture(const std::string& triplet) {
  static const std::map<std::string, std::string> table = {
      {"x86_64", "amd64"}, {"aarch64", "arm64"},     {"i386", "i386"},          {"i486", "i386"},
      {"i586", "i386"},    {"i686", "i386"},         {"riscv64", "riscv64"},    {"powerpc64le", "ppc64el"},
      {"s390x", "s390x"},  {"mips64el", "mips64el"}, {"loongarch64", "loong64"}};
  const std::string processor = triplet.substr(0, triplet.find('-'));
  if (processor == "arm") return triplet.ends_with("hf") ? "armhf" : "armel";
  const auto it = table.find(processor);
  return it == table.end() ? std::string{} : it->second;
}

Packages::Packages(std::string root, Answers* answers) : root_(std::move(root)), answers_(answers) {
  while (root_.ends_with('/')) root_.pop_back();
}

std::string Packages::usual_root() {
  const char* root = std::getenv("COCTILIS_SYSTEM_ROOT");
  return root == nullptr ? "/" : root;
}

void Packages::read_status() {
  if (status_read_) return;
  status_read_ = true;
  std::string name;
  std::string version;
  std::string architecture;
  bool there = false;
  const auto flush = [&] {
    if (there && !name.empty()) {
      installed_.emplace(name, version);
      installed_[name + ":" + architecture] = version;
    }
    name.clear();
    there = false;
  };
  each_line(status_path(), [&](std::string_view line) {
    if (line.empty())
      flush();
    else if (line.starts_with("Package: "))
      name = line.substr(9);
    else if (line.starts_with("Version: "))
      version = line.substr(9);
    else if (line.starts_with("Architecture: "))
      architecture = line.substr(14);
    else if (line.starts_with("Status: "))
      there = line.ends_with(" installed");
  });
  flush();
}

void Packages::read_lists() {
  if (lists_read_) return;
  lists_read_ = true;
  const std::string folder = lists_folder();
  for (const auto& name : files::names_in(folder)) {
    if (name.find("_Packages") == std::string::npos) continue;
    std::string package;
    each_line(folder + "/" + name, [&](std::string_view line) {
      if (line.starts_with("Package: ")) {
        package = line.substr(9);
        available_.emplace(package, "");
      } else if (line.starts_with("Version: ") && !package.empty()) {
        auto& newest = available_[package];
        const std::string version = author_version(std::string(line.substr(9)));
        if (newest.empty() || text::compare_versions(version, newest) > 0) newest = version;
      }
    });
  }
}

std::string Packages::kept(const std::string& question, const std::string& watched,
                           const std::function<std::string()>& work_out) {
  if (answers_ == nullptr) return work_out();
  const std::string asked = "packages 1\n" + question + "\n" + watched;
  if (auto known = answers_->get(asked)) return *known;
  std::string out = work_out();
  answers_->put(asked, out, {{watched, true}});
  return out;
}

std::string Packages::owner(const std::string& path) {
  const std::string folder = root_ + "/var/lib/dpkg/info";
  return kept("owner " + path, folder, [&]() -> std::string {
    if (owners_.empty()) {
      owners_.emplace("", "");
      for (const auto& name : files::names_in(folder)) {
        if (!name.ends_with(".list")) continue;
        const std::string package = name.substr(0, name.size() - 5);
        each_line(folder + "/" + name, [&](std::string_view line) {
          // Libraries, headers and programs are all that is asked for.
          if (line.find("/lib") != std::string_view::npos || line.find("/include/") != std::string_view::npos ||
              line.find("bin/") != std::string_view::npos)
            owners_.emplace(line, package);
        });
      }
    }
    std::error_code error;
    observe::content(path);
    const auto real = std::filesystem::canonical(path, error);
    for (std::string candidate : {path, error ? path : real.string()}) {
      if (!root_.empty() && files::is_below(candidate, root_)) candidate.erase(0, root_.size());
      // Since /lib and /usr/lib are one folder, lists may have either name.
      for (const auto& name : {candidate, candidate.starts_with("/usr/") ? candidate.substr(4) : "/usr" + candidate}) {
        if (const auto it = owners_.find(name); it != owners_.end()) return it->second;
      }
    }
    return {};
  });
}

std::string Packages::version(const std::string& package) {
  return kept("version " + package, status_path(), [&] {
    read_status();
    const auto it = installed_.find(package);
    return it == installed_.end() ? std::string{} : author_version(it->second);
  });
}
bool Packages::installed(const std::string& package) {
  return !kept("installed " + package, status_path(), [&]() -> std::string {
            read_status();
            return installed_.contains(package) ? "yes" : "";
          }).empty();
}
bool Packages::available(const std::string& package) {
  return !kept("available " + package, lists_folder(), [&]() -> std::string {
            read_lists();
            return available_.contains(package.substr(0, package.find(':'))) ? "yes" : "";
          }).empty();
}
std::string Packages::available_version(const std::string& package) {
  return kept("available version " + package, lists_folder(), [&]() -> std::string {
    read_lists();
    const auto it = available_.find(package.substr(0, package.find(':')));
    return it == available_.end() ? std::string{} : it->second;
  });
}
bool Packages::takes_architecture(const std::string& architecture) {
  // Without either nothing is known, and nothing is said.
  const auto added = files::read(root_ + "/var/lib/dpkg/arch");
  if (added) {
    const auto lines = text::split(*added, '\n');
    if (std::find(lines.begin(), lines.end(), architecture) != lines.end()) return true;
  }
  return !kept("architecture " + architecture, status_path(), [&]() -> std::string {
            read_status();
            const bool any = std::any_of(installed_.begin(), installed_.end(), [&](const auto& package) {
              return package.first.ends_with(":" + architecture);
            });
            return any || installed_.empty() ? "yes" : "";
          }).empty();
}
bool Packages::has_lists() {
  return !kept("lists", lists_folder(), [&]() -> std::string {
            read_lists();
            return available_.empty() ? "" : "yes";
          }).empty();
}

std::vector<std::string> Packages::with_files(const std::vector<std::vector<std::string>>& questions,
                                              const std::string& architecture) {
  std::vector<std::string> out(questions.size());
  const std::string folder = lists_folder();
  std::vector<std::string> lists;
  for (const auto& name : files::names_in(folder)) {
    const auto at = name.find("_Contents-");
    if (at == std::string::npos) continue;
    const std::string which = name.substr(at + 10, name.find('.', at + 10) - at - 10);
    if (which == architecture || which == "all") lists.push_back(folder + "/" + name);
  }
  if (lists.empty()) return out;
  // By the last part of the path, so that a line costs one look.
  std::map<std::string, std::vector<std::pair<std::size_t, std::string>>, std::less<>> by_name;
  std::vector<std::string> asked(questions.size());
  std::vector<Watched> watched = {{folder, true}};
  for (const auto& list : lists) watched.push_back({list, false});
  bool all_known = answers_ != nullptr;
  for (std::size_t i = 0; i < questions.size(); ++i) {
    asked[i] = "contents 1\n" + architecture + "\n" + text::join(questions[i], "\n") + "\n" + text::join(lists, "\n");
    if (answers_ != nullptr) {
      if (const auto kept = answers_->get(asked[i])) {
        out[i] = *kept;
        continue;
      }
    }
    all_known = false;
    for (const auto& ending : questions[i]) by_name[ending.substr(ending.rfind('/') + 1)].emplace_back(i, ending);
  }
  if (all_known) return out;
  std::vector<std::tuple<bool, std::size_t, std::string>> best(questions.size(), {true, SIZE_MAX, {}});
  for (const auto& list : lists) {
    each_line(list, [&](std::string_view line) {
      // "usr/include/zlib.h      libdevel/zlib1g-dev": the packages are the last word.
      const auto blank = line.find_last_of(" \t");
      if (blank == std::string_view::npos) return;
      const std::string_view path = line.substr(0, line.find_last_not_of(" \t", blank) + 1);
      const auto it = by_name.find(path.substr(path.rfind('/') + 1));
      if (it == by_name.end()) return;
      const std::string whole = "/" + std::string(path);
      for (const auto& [question, ending] : it->second) {
        if (!whole.ends_with(ending)) continue;
        for (const auto& entry : text::split(line.substr(blank + 1), ',')) {
          std::string package = entry.substr(entry.rfind('/') + 1);
          std::tuple<bool, std::size_t, std::string> rank{!package.ends_with("-dev"), whole.size(), package};
          if (rank < best[question]) best[question] = std::move(rank);
        }
      }
    });
  }
  for (std::size_t i = 0; i < questions.size(); ++i) {
    if (!std::get<2>(best[i]).empty()) out[i] = std::get<2>(best[i]);
    if (answers_ != nullptr) answers_->put(asked[i], out[i], watched);
  }
  return out;
}

namespace {

std::vector<std::string> endings_of(const model::Finding& finding, const std::string& machine) {
  const auto& name = finding.requirement.name;
  std::vector<std::string> out;
  const auto* known = known_library(name);
  switch (finding.requirement.kind) {
    case model::RequirementKind::header: out = {"/include/" + name, "/include/" + machine + "/" + name}; break;
    case model::RequirementKind::library:
    case model::RequirementKind::package:
      for (const auto& module : known != nullptr ? known->modules : std::vector<std::string>{name})
        out.push_back("/pkgconfig/" + module + ".pc");
      for (const auto& library : known != nullptr ? known->libraries : std::vector<std::string>{name}) {
        for (const char* ending : {".so", ".a"}) out.push_back("/lib" + library + ending);
      }
      for (const auto& file : {name + "Config.cmake", text::lower(name) + "-config.cmake"}) out.push_back("/" + file);
      break;
    case model::RequirementKind::program: out = {"usr/bin/" + name, "usr/sbin/" + name, "usr/games/" + name}; break;
    default: break;
  }
  for (auto& ending : out) {
    if (!ending.starts_with('/')) ending = "/" + ending;
  }
  return out;
}

}  // namespace

Advice advice_for(const std::string& package, Packages& packages, const std::string& constraint, bool listed) {
  Advice out;
  const auto colon = package.find(':');
  const std::string architecture = colon == std::string::npos ? "" : package.substr(colon + 1);
  if (packages.installed(package)) {
    out.reason = "the package " + package +
                 " is installed, but what is looked for was not found; installing it anew may mend it "
                 "(apt-get install --reinstall " +
                 package + ")";
  } else if (!architecture.empty() && !packages.takes_architecture(architecture)) {
    out.reason = "the package " + package + " can be installed once this system takes packages for " + architecture +
                 ": dpkg --add-architecture " + architecture + ", then apt-get update";
  } else if (!listed && packages.has_lists() && !packages.available(package)) {
    out.reason = "a package " + package + " would have it, but none can be installed from the package lists here";
  } else if (const std::string version = packages.has_lists() ? packages.available_version(package) : "";
             !constraint.empty() && !version.empty() && !text::version_meets(version, constraint)) {
    out.reason =
        "the package " + package + " that can be installed has version " + version + ", required is " + constraint;
  } else {
    out.command = "apt-get install " + package;
  }
  return out;
}

namespace {
// The package of a finding stays where installing it helps; elsewhere the finding says why it would not.
void settle_package(model::Finding& finding, Packages& packages, bool listed) {
  if (finding.found || finding.package.empty()) return;
  const bool versioned = finding.requirement.kind == model::RequirementKind::library ||
                         finding.requirement.kind == model::RequirementKind::package;
  const Advice advice = advice_for(finding.package, packages, versioned ? finding.requirement.constraint : "", listed);
  if (!advice.command.empty()) return;
  finding.refused = true;
  finding.reason = finding.reason.empty() ? advice.reason : finding.reason + "; " + advice.reason;
  finding.package.clear();
}
}  // namespace

void check_packages(std::vector<model::Finding>& findings, Packages& packages) {
  for (auto& finding : findings) {
    if (finding.found || finding.refused || finding.package.empty()) continue;
    if (finding.requirement.kind != model::RequirementKind::toolchain || !packages.installed(finding.package)) {
      settle_package(finding, packages, false);
      continue;
    }
    const std::string reason =
        "the package " + finding.package + " is installed, but no folder of PATH has its programs";
    finding.refused = true;
    finding.reason = finding.reason.empty() ? reason : finding.reason + "; " + reason;
    finding.package.clear();
  }
}

void name_packages(std::vector<model::Finding>& findings, const model::Toolchain& toolchain, Packages& packages) {
  const std::string architecture = debian_architecture(toolchain.machine);
  std::vector<model::Finding*> missing;
  std::vector<std::vector<std::string>> questions;
  for (auto& finding : findings) {
    if (finding.found || finding.how == "probe" || finding.refused) continue;
    auto endings = endings_of(finding, toolchain.machine);
    if (endings.empty()) continue;
    missing.push_back(&finding);
    questions.push_back(std::move(endings));
  }
  if (missing.empty()) return;
  const auto answers = packages.with_files(questions, architecture);
  for (std::size_t i = 0; i < missing.size(); ++i) {
    auto& finding = *missing[i];
    if (!answers[i].empty()) finding.package = answers[i];
    const std::string& name = finding.requirement.name;
    if (finding.package.empty() && packages.has_lists()) {
      // By the naming customs of development packages, where such a package exists.
      std::vector<std::string> guesses;
      const std::string lower = text::lower(name);
      if (finding.requirement.kind == model::RequirementKind::program)
        guesses = {lower};
      else if (finding.requirement.kind != model::RequirementKind::header)
        guesses = {"lib" + lower + "-dev", lower + "-dev", lower.starts_with("lib") ? lower + "-dev" : ""};
      for (const auto& guess : guesses) {
        if (finding.package.empty() && !guess.empty() && packages.available(guess)) finding.package = guess;
      }
    }
    if (finding.package.empty()) continue;
    const bool machine_bound = finding.requirement.kind != model::RequirementKind::program;
    if (toolchain.foreign && machine_bound && !architecture.empty() && finding.package.find(':') == std::string::npos)
      finding.package += ":" + architecture;
    settle_package(finding, packages, !answers[i].empty());
  }
}

std::vector<std::string> install_command(const std::vector<model::Finding>& findings) {
  std::vector<std::string> out;
  for (const auto& finding : findings) {
    if (finding.found || !finding.requirement.required || finding.refused || finding.package.empty()) continue;
    if (std::find(out.begin(), out.end(), finding.package) == out.end()) out.push_back(finding.package);
  }
  if (!out.empty()) out.insert(out.begin(), {"apt-get", "install"});
  return out;
}

}  // namespace coctilis::locate
