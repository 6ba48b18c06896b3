#include "locate/locator.h"

#include <re2/re2.h>
#include <unistd.h>

#include <cerrno>

#include "base/elf.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "locate/known.h"
#include "locate/told.h"

namespace coctilis::locate {

namespace {

void check_version(model::Finding& finding) {
  if (!finding.found || finding.requirement.constraint.empty() ||
      text::version_meets(finding.version, finding.requirement.constraint))
    return;
  finding.found = false;
  finding.refused = true;
  finding.reason = finding.version.empty() ? "its version cannot be told; required is " + finding.requirement.constraint
                                           : "version " + finding.version + " at " + finding.where +
                                                 " is not usable; required is " + finding.requirement.constraint;
}

// The version that a header states as text, by the macro that holds it.
std::string version_in_header(const std::string& path, const std::string& macro) {
  const auto content = files::read(path);
  if (!content || macro.empty()) return {};
  std::string version;
  const RE2 pattern("#\\s*define\\s+" + RE2::QuoteMeta(macro) + "\\s+\"([0-9][0-9A-Za-z.+-]*)");
  RE2::PartialMatch(*content, pattern, &version);
  return version;
}

// "libz.so.1.2.13" -> "1.2.13"; empty when the name has no more than one number, which counts interfaces, not releases.
std::string version_in_name(const std::string& library) {
  std::error_code error;
  observe::content(library);
  const auto real = std::filesystem::canonical(library, error);
  std::string version;
  static const RE2 pattern(R"(.*\.so\.([0-9]+(?:\.[0-9]+)+))");
  static const RE2 before(R"(.*-([0-9]+(?:\.[0-9]+)+)\.so)");
  if (error || (!RE2::FullMatch(real.string(), pattern, &version) && !RE2::FullMatch(real.string(), before, &version)))
    return {};
  return version;
}

std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }

// "/opt/x/lib/x86_64-linux-gnu/libclay.so" -> "/opt/x"; also from folders of headers.
std::string prefix_of(const std::string& folder) {
  for (const char* part : {"/include", "/lib64", "/lib"}) {
    const auto at = (folder + "/").find(std::string(part) + "/");
    if (at != std::string::npos) return folder.substr(0, at);
  }
  return folder;
}

bool is_system(const std::string& prefix) { return prefix.empty() || prefix == "/usr"; }
}  // namespace

Locator::Locator(const model::Toolchain& toolchain, const model::Settings& settings, Answers* answers)
    : toolchain_(toolchain),
      settings_(settings),
      answers_(answers),
      packages_(std::make_shared<Packages>(Packages::usual_root(), answers)),
      search_(pc_search(settings.wished_prefixes(), toolchain.machine, toolchain.any().sysroot)),
      ahead_(toolchain, answers, settings.jobs) {}

std::vector<std::string> Locator::prefixes() const {
  std::vector<std::string> out = settings_.wished_prefixes();
  for (const char* prefix : {"/usr/local", "/usr", ""}) out.emplace_back(prefix);
  return out;
}

std::vector<std::string> Locator::include_folders() const {
  std::vector<std::string> out;
  for (const auto& prefix : settings_.wished_prefixes()) out.push_back(prefix + "/include");
  const auto& compiler = toolchain_.compiler_or_any("C++");
  out.insert(out.end(), compiler.include_folders.begin(), compiler.include_folders.end());
  return out;
}

std::vector<std::string> Locator::link_folders() const {
  std::vector<std::string> out;
  for (const auto& prefix : settings_.wished_prefixes()) {
    for (const auto& name : {"lib/" + toolchain_.machine, std::string("lib64"), std::string("lib")})
      out.push_back(prefix + "/" + name);
  }
  const auto& compiler = toolchain_.any();
  out.insert(out.end(), compiler.link_folders.begin(), compiler.link_folders.end());
  return out;
}

std::string Locator::why(const std::string& path) const {
  for (const auto& prefix : settings_.prefixes) {
    if (files::is_below(path, prefix)) return settings_.origin_of_prefix(prefix) + " " + prefix;
  }
  for (const auto& need : settings_.needs) {
    if (need.prefix.empty() || !files::is_below(path, need.prefix)) continue;
    const auto place = need.places.find("prefix");
    return "the prefix at " + (place == need.places.end() ? need.place : place->second).text();
  }
  for (const char* name : {"PKG_CONFIG_PATH", "PKG_CONFIG_LIBDIR", "CPATH", "C_INCLUDE_PATH", "CPLUS_INCLUDE_PATH",
                           "LIBRARY_PATH", "CMAKE_PREFIX_PATH"}) {
    const char* value = std::getenv(name);
    for (const auto& folder : text::split(value == nullptr ? "" : value, ':')) {
      if (!folder.empty() && files::is_below(path, files::absolute(folder))) return name;
    }
  }
  return {};
}

std::vector<std::string> Locator::search_order() const {
  std::vector<std::string> out;
  for (const auto& prefix : settings_.prefixes)
    out.push_back("the prefix " + prefix + " (" + settings_.origin_of_prefix(prefix) + ")");
  for (const auto& need : settings_.needs) {
    if (!need.prefix.empty()) out.push_back("the prefix " + need.prefix + " (" + need.place.text() + ")");
  }
  for (const char* name :
       {"PKG_CONFIG_PATH", "PKG_CONFIG_LIBDIR", "CPATH", "C_INCLUDE_PATH", "CPLUS_INCLUDE_PATH", "LIBRARY_PATH"}) {
    const char* value = std::getenv(name);
    if (value != nullptr && *value != '\0') out.push_back(std::string(value) + " (" + name + ")");
  }
  const auto list = [&](const char* what, const std::vector<std::string>& folders) {
    for (const auto& folder : folders) out.push_back(what + folder);
  };
  list("headers: ", include_folders());
  list("libraries: ", link_folders());
  list(".pc files: ", search_.folders);
  return out;
}

// Why a file is no library to link with here; empty when it is one.
std::string Locator::no_library(const std::string& path) const {
  if (const auto facts = read_elf(path)) {
    if (facts->machine == 0 || fits_machine(*facts, toolchain_.machine)) return {};
    return path + " is for another machine (" + machine_text(*facts) + ", wanted is " + toolchain_.machine + ")";
  }
  const auto content = files::read(path);
  if (!content) return path + " cannot be read";
  // A script for the linker, or an archive without code.
  if (content->starts_with("!<arch>\n") || content->starts_with("!<thin>\n")) return {};
  for (const char* word : {"INPUT", "GROUP", "OUTPUT_FORMAT"}) {
    if (content->substr(0, 4096).find(word) != std::string::npos) return {};
  }
  return path + " is no library";
}

model::Finding Locator::module(const model::Requirement& want, bool statically) const {
  model::Finding finding;
  finding.requirement = want;
  auto requirements = pc_requirements(want.name);
  if (requirements.empty()) return finding;
  const PcModule module = find_pc(requirements.front(), search_, statically || want.form == "static");
  finding.looked = module.looked;
  finding.version = module.file.version;
  finding.version_source = ".pc file";
  finding.usage = module.usage;
  finding.where = module.file.path;
  finding.how = ".pc file";
  finding.found = module.found && module.problem.empty();
  finding.refused = module.found && !finding.found;
  finding.reason = module.problem;
  check_version(finding);
  if (!finding.found) finding.package = package_of_module(requirements.front().name);
  if (!module.found) return finding;
  finding.looked.clear();
  finding.why_here = why(finding.where);
  std::set<std::string> seen = {finding.where};
  for (const auto& folder : search_.folders) {
    const std::string path = folder + "/" + requirements.front().name + ".pc";
    std::error_code error;
    if (!files::is_file(path) || std::filesystem::equivalent(path, finding.where, error) || !seen.insert(path).second)
      continue;
    const auto other = parse_pc(files::read(path).value_or(""), path);
    finding.others.push_back(path + (other && !other->version.empty() ? " (version " + other->version + ")" : ""));
  }
  return finding;
}

model::Finding Locator::header(const model::Requirement& want, const std::vector<std::string>& folders) const {
  std::vector<std::string> all = folders;
  const auto builtin = include_folders();
  all.insert(all.end(), builtin.begin(), builtin.end());
  return file_in(want, all);
}

model::Finding Locator::file_in(const model::Requirement& want, const std::vector<std::string>& folders) const {
  model::Finding finding;
  finding.requirement = want;
  for (const auto& folder : folders) {
    const std::string path = folder + "/" + want.name;
    finding.looked.push_back(path);
    if (!files::exists(path) || (want.kind == model::RequirementKind::file && files::is_folder(path))) continue;
    finding.found = true;
    finding.where = finding.looked.back();
    finding.how = "header";
    finding.why_here = why(finding.where);
    finding.looked.clear();
    return finding;
  }
  finding.package = package_of_header(want.name);
  return finding;
}

// What programs run with is there, what they are linked with is not: said with the package that has it.
std::string Locator::runtime_only(const std::string& name, const std::vector<std::string>& folders) const {
  for (const auto& folder : folders) {
    for (const auto& file : files::names_in(folder)) {
      if (!file.starts_with("lib" + name + ".so.")) continue;
      const std::string path = folder + "/" + file;
      const auto facts = read_elf(path);
      if (!facts || !fits_machine(*facts, toolchain_.machine)) continue;
      const std::string package = packages_->owner(path);
      return "only the run-time library is there, " + path + (package.empty() ? "" : " of the package " + package) +
             "; the development files (headers and lib" + name + ".so) are missing";
    }
  }
  return {};
}

std::vector<std::string> SearchFolders::with(const std::vector<std::string>& places) const {
  std::vector<std::string> all = first;
  if (usual) all.insert(all.end(), places.begin(), places.end());
  all.insert(all.end(), last.begin(), last.end());
  return all;
}

model::Finding Locator::link_name(const model::Requirement& want, const SearchFolders& folders) const {
  model::Finding finding;
  finding.requirement = want;
  const std::vector<std::string> all = folders.with(link_folders());
  std::vector<std::string> names;
  if (want.name.starts_with(':')) {
    names = {want.name.substr(1)};
  } else {
    if (want.form != "static") names.push_back("lib" + want.name + ".so");
    if (want.form != "shared") names.push_back("lib" + want.name + ".a");
  }
  for (const auto& folder : all) {
    for (const auto& name : names) {
      const std::string path = folder + "/" + name;
      finding.looked.push_back(path);
      if (!files::is_file(path)) continue;
      if (const std::string fault = no_library(path); !fault.empty()) {
        if (finding.reason.empty()) finding.reason = fault;
        continue;
      }
      finding.found = true;
      finding.where = path;
      finding.how = "library";
      finding.why_here = why(path);
      finding.usage.link_items = {path};
      finding.looked.clear();
      finding.reason.clear();
      return finding;
    }
  }
  if (finding.reason.empty() && !want.name.starts_with(':')) finding.reason = runtime_only(want.name, all);
  if (const auto* known = known_by_link_name(want.name)) finding.package = known->package;
  return finding;
}

// Without a .pc file: every header and every library must be there, and all in one prefix: a header of one copy with
// the library of another is how programs come to crash.
model::Finding Locator::by_header_and_library(const model::Requirement& want, const KnownLibrary* known) const {
  model::Finding finding;
  finding.requirement = want;
  finding.how = known == nullptr ? "library" : "header and library";
  const std::vector<std::string> headers = known != nullptr ? known->headers : std::vector<std::string>{};
  const std::vector<std::string> libraries = known != nullptr ? known->libraries : std::vector<std::string>{want.name};
  std::vector<std::string> prefixes;
  const auto add = [&](const std::string& prefix) {
    if (std::find(prefixes.begin(), prefixes.end(), prefix) == prefixes.end()) prefixes.push_back(prefix);
  };
  const auto includes = include_folders();
  const auto links = link_folders();
  std::vector<std::string> header_places;
  for (const auto& folder : includes) {
    header_places.push_back(folder);
    if (known == nullptr) continue;
    for (const auto& inner : known->header_folders) header_places.push_back(folder + "/" + inner);
  }
  for (const auto& folder : includes) add(prefix_of(folder));
  for (const auto& folder : links) add(prefix_of(folder));
  std::string half;  // a prefix that has one side only
  for (const auto& prefix : prefixes) {
    model::Finding here = finding;
    std::size_t found_headers = 0;
    std::size_t found_libraries = 0;
    std::string header_folder;
    std::string fault;
    const auto in_prefix = [&](const std::string& folder) {
      const std::string own = prefix_of(folder);
      return own == prefix || (is_system(own) && is_system(prefix));
    };
    for (const auto& name : headers) {
      for (const auto& folder : header_places) {
        if (!in_prefix(folder)) continue;
        finding.looked.push_back(folder + "/" + name);
        if (!files::is_file(finding.looked.back())) continue;
        ++found_headers;
        header_folder = folder;
        const auto& system = search_.system_include_folders;
        const auto& builtin = toolchain_.any().include_folders;
        if (std::find(system.begin(), system.end(), folder) == system.end() &&
            std::find(builtin.begin(), builtin.end(), folder) == builtin.end())
          here.usage.include_folders.push_back(folder);
        break;
      }
    }
    for (const auto& name : libraries) {
      std::vector<std::string> names;
      if (want.form != "static") names.push_back("lib" + name + ".so");
      if (want.form != "shared") names.push_back("lib" + name + ".a");
      std::string found;
      for (const auto& folder : links) {
        if (!in_prefix(folder)) continue;
        for (const auto& file : names) {
          const std::string path = folder + "/" + file;
          finding.looked.push_back(path);
          if (!found.empty() || !files::is_file(path)) continue;
          fault = no_library(path);
          if (fault.empty())
            found = path;
          else if (finding.reason.empty())
            finding.reason = fault;
        }
      }
      if (found.empty()) continue;
      ++found_libraries;
      if (here.where.empty()) here.where = found;
      here.usage.link_items.push_back(found);
    }
    if (found_headers == headers.size() && found_libraries == libraries.size()) {
      here.found = true;
      here.why_here = why(here.where);
      tell_version(here, known, header_folder);
      if (!known || known->headers.empty()) {
        // A library that is not in the table: the folder of headers beside it goes with it.
        const std::string beside = prefix + "/include";
        if (!is_system(prefix) && prefix != "/usr/local" && files::is_folder(beside))
          here.usage.include_folders.push_back(beside);
      }
      check_version(here);
      if (here.found) return here;
      finding.refused = true;
      if (finding.reason.empty()) finding.reason = here.reason;
      continue;
    }
    if (found_headers > 0 && half.empty() && finding.reason.empty())
      half = "the header is there, " + header_folder + "/" + headers.front() + ", but no library lib" +
             libraries.front() + (want.form == "static" ? ".a" : ".so") + " in the same prefix";
    else if (found_libraries > 0 && !headers.empty() && half.empty() && finding.reason.empty())
      half = "the library is there, " + here.where + ", but not its header " + headers.front() + " in the same prefix";
  }
  if (finding.reason.empty() && half.empty() && !libraries.empty()) half = runtime_only(libraries.front(), links);
  if (finding.reason.empty()) finding.reason = half;
  return finding;
}

void Locator::tell_version(model::Finding& finding, const KnownLibrary* known, const std::string& header_folder) const {
  if (known != nullptr && !known->version_header.empty() && !header_folder.empty()) {
    finding.version = version_in_header(header_folder + "/" + known->version_header, known->version_macro);
    finding.version_source = "header " + known->version_header;
  }
  if (finding.version.empty()) {
    finding.version = version_in_name(finding.where);
    finding.version_source = "file name";
  }
  if (finding.version.empty() && is_system(prefix_of(folder_of(finding.where)))) {
    const std::string package = packages_->owner(finding.where);
    finding.version = package.empty() ? "" : packages_->version(package);
    finding.version_source = "package " + package;
  }
  if (finding.version.empty()) finding.version_source.clear();
}

// Copies of the library further back in the search.
void Locator::tell_others(model::Finding& finding, const KnownLibrary* known) const {
  const std::vector<std::string> names =
      known != nullptr ? known->libraries : std::vector<std::string>{finding.requirement.name};
  if (names.empty()) return;
  const std::string own = prefix_of(folder_of(finding.where));
  std::set<std::string> seen = {own};
  for (const auto& folder : link_folders()) {
    const std::string prefix = prefix_of(folder);
    if (seen.contains(prefix) || (is_system(own) && is_system(prefix))) continue;
    for (const char* ending : {".so", ".a"}) {
      const std::string path = folder + "/lib" + names.front() + ending;
      if (!files::is_file(path) || !no_library(path).empty()) continue;
      seen.insert(prefix);
      const std::string version = version_in_name(path);
      if (std::none_of(finding.others.begin(), finding.others.end(),
                       [&](const auto& other) { return files::is_below(other, prefix) && !is_system(prefix); }))
        finding.others.push_back(path + (version.empty() ? "" : " (version " + version + ")"));
      break;
    }
  }
}

// The header of one copy with the library of another: what the compiler and the linker would really take, by their own
// order of looking.
std::string Locator::mixed(const model::Finding& finding, const KnownLibrary* known) const {
  if (known == nullptr || known->headers.empty() || known->libraries.empty()) return {};
  const auto first_of = [](std::vector<std::string> folders, const std::vector<std::string>& behind,
                           const std::vector<std::string>& names) {
    folders.insert(folders.end(), behind.begin(), behind.end());
    for (const auto& folder : folders) {
      for (const auto& name : names) {
        if (files::is_file(folder + "/" + name)) return folder;
      }
    }
    return std::string{};
  };
  const auto& compiler = toolchain_.compiler_or_any("C++");
  const std::string headers =
      first_of(finding.usage.include_folders, compiler.include_folders, {known->headers.front()});
  std::vector<std::string> given = finding.usage.link_folders;
  for (const auto& item : finding.usage.link_items) {
    if (item.starts_with('/')) given.insert(given.begin(), folder_of(item));
  }
  const std::string name = "lib" + known->libraries.front();
  const std::string libraries = first_of(given, toolchain_.any().link_folders, {name + ".so", name + ".a"});
  if (headers.empty() || libraries.empty()) return {};
  const auto side = [&](const std::string& folder) {
    const std::string prefix = prefix_of(folder);
    const bool system = is_system(prefix) ||
                        (files::is_below(prefix, "/usr") && !files::is_below(prefix, "/usr/local")) ||
                        (!settings_.sysroot.empty() && files::is_below(prefix, settings_.sysroot));
    return system ? std::string("/usr") : prefix;
  };
  if (side(headers) == side(libraries)) return {};
  const std::string by = why(headers);
  return "two copies would be mixed: the compiler takes the header " + headers + "/" + known->headers.front() +
         (by.empty() ? "" : " (first by " + by + ")") + ", the linker the library in " + libraries +
         "; name the prefix of the one that is wanted with --with, or take the other out of the search";
}

std::string Locator::told_by(const std::vector<std::string>& command, const LooksAt& looks_at) const {
  const std::string question = "told 1\n" + text::join(command, "\n");
  if (answers_ != nullptr) {
    if (const auto kept = answers_->get(question)) return *kept;
  }
  Command ask;
  ask.argv = command;
  ask.limit_seconds = 20;
  ask.sandboxed = true;
  ask.environment = {{"LC_ALL", "C"}};
  const observe::Apart apart;
  const Ended ended = coctilis::run(ask);
  std::error_code error;
  const auto real = std::filesystem::canonical(command.front(), error);
  std::vector<Watched> watched = {{command.front(), false}};
  if (!error) watched.push_back({real.string(), false});
  for (const auto& folder : looks_at(ended.output)) watched.push_back({folder, true});
  if (answers_ != nullptr && ended.how == Ended::How::exited) answers_->put(question, ended.output, watched);
  return ended.output;
}

std::string Locator::version_of_program(const std::string& path) const {
  std::string version;
  for (const auto& word : text::words(told_by({path, "--version"}).substr(0, 500))) {
    const auto digit = word.find_first_of("0123456789");
    if (version.empty() && word.find('.') != std::string::npos && digit != std::string::npos && digit < 3)
      version = word.substr(digit, word.find_first_not_of("0123456789.", digit) - digit);
  }
  while (version.ends_with('.')) version.pop_back();
  return version;
}

// By what the library's own program tells: wrappers of compilers among these.
std::optional<model::Finding> Locator::told_library(const model::Requirement& want, const KnownLibrary& known) const {
  const auto& told = known.told;
  // One that does not tell its version is no answer to who wants a certain one.
  if (told.program.empty() || toolchain_.foreign || (told.version.empty() && !want.constraint.empty()))
    return std::nullopt;
  model::Requirement program_want;
  program_want.kind = model::RequirementKind::program;
  program_want.name = told.program;
  const auto tool = program(program_want, {told.program}, {});
  if (!tool.found) return std::nullopt;
  const auto flags = [&](std::vector<std::string> words) {
    words.insert(words.begin(), tool.where);
    return sorted_flags(std::string(text::trim(told_by(words))));
  };
  const auto compile = flags({told.compile});
  const auto link =
      flags(told.part.empty() ? std::vector<std::string>{told.link} : std::vector<std::string>{told.link, told.part});
  if (!compile.good || !link.good || link.items.empty()) return std::nullopt;
  model::Finding out;
  out.requirement = want;
  out.found = true;
  out.where = tool.where;
  out.how = told.program;
  out.why_here = why(tool.where);
  if (!told.version.empty()) out.version = text::trim(told_by({tool.where, told.version}));
  check_version(out);
  out.usage.include_folders = compile.include_folders;
  out.usage.definitions = compile.definitions;
  out.usage.compile_options = compile.options;
  out.usage.link_folders = link.link_folders;
  out.usage.link_items = link.items;
  return out;
}

model::Finding Locator::library(const model::Requirement& want) const {
  const KnownLibrary* known = known_library(want.name);
  if (known != nullptr) {
    if (auto told = told_library(want, *known)) return *told;
  }
  std::vector<std::string> modules = known != nullptr ? known->modules : std::vector<std::string>{want.name};
  model::Finding first;
  first.requirement = want;
  std::optional<model::Finding> by_module;
  for (const auto& name : modules) {
    model::Requirement asked = want;
    asked.name = name;
    model::Finding finding = module(asked);
    finding.requirement = want;
    if (finding.found) {
      by_module = std::move(finding);
      break;
    }
    if (!finding.reason.empty() && first.reason.empty()) first.reason = finding.reason;
    first.refused = first.refused || finding.refused;
    first.looked.insert(first.looked.end(), finding.looked.begin(), finding.looked.end());
  }
  model::Finding parts = by_header_and_library(want, known);
  // A .pc file further back must not win over a copy in a prefix that was named to come first.
  const bool prefer_parts = parts.found && (!by_module || (!parts.why_here.empty() && by_module->why_here.empty()));
  if (by_module || prefer_parts) {
    const auto& chosen = prefer_parts ? parts : *by_module;
    if (std::string fault = mixed(chosen, known); !fault.empty()) {
      first = chosen;
      first.found = false;
      first.refused = true;
      first.reason = std::move(fault);
      return first;
    }
  }
  if (by_module && !prefer_parts) {
    if (parts.found && !files::is_below(by_module->where, prefix_of(folder_of(parts.where))))
      tell_others(*by_module, known);
    return *by_module;
  }
  if (prefer_parts) {
    if (by_module)
      parts.others.push_back(by_module->where +
                             (by_module->version.empty() ? "" : " (version " + by_module->version + ")"));
    tell_others(parts, known);
    return parts;
  }
  first.found = false;
  first.refused = first.refused || parts.refused;
  if (first.reason.empty()) first.reason = parts.reason;
  first.looked.insert(first.looked.end(), parts.looked.begin(), parts.looked.end());
  first.package = known != nullptr ? known->package : package_of_module(want.name);
  return first;
}

model::Finding Locator::program(const model::Requirement& want, const std::vector<std::string>& names,
                                const SearchFolders& folders) const {
  model::Finding finding;
  finding.requirement = want;
  const char* path = std::getenv("PATH");
  std::vector<std::string> usual;
  for (const auto& prefix : settings_.wished_prefixes()) usual.push_back(prefix + "/bin");
  for (const auto& folder : text::split(path != nullptr ? path : "/usr/local/bin:/usr/bin:/bin", ':')) {
    if (!folder.empty()) usual.push_back(folder);
  }
  const std::vector<std::string> all = folders.with(usual);
  for (const auto& name : names) {
    if (name.starts_with('/')) {
      finding.looked.push_back(name);
    } else {
      for (const auto& folder : all) finding.looked.push_back(folder + "/" + name);
    }
  }
  const auto candidates = finding.looked;
  std::string refused;
  for (const auto& candidate : candidates) {
    if (!files::is_program(candidate)) continue;
    finding.found = true;
    finding.where = candidate;
    finding.why_here = why(candidate);
    finding.how = finding.why_here.empty() ? "on PATH" : "in a prefix";
    if (!want.constraint.empty()) {
      finding.version = version_of_program(candidate);
      finding.version_source = "program itself";
      if (!text::version_meets(finding.version, want.constraint)) {
        // A later one may do; what is wrong with the first is told if none does.
        if (refused.empty())
          refused = (finding.version.empty() ? "its version cannot be told" : "version " + finding.version) + " at " +
                    candidate + " is not usable; required is " + want.constraint;
        continue;
      }
    }
    finding.looked.clear();
    return finding;
  }
  finding.found = false;
  finding.reason = refused;
  finding.refused = !refused.empty();
  for (const auto& name : names) {
    if (finding.package.empty() && refused.empty()) finding.package = package_of_program(name);
  }
  return finding;
}

namespace {
// Folders that were looked in but may not be: what is wanted may well be there.
std::string unreadable(const std::vector<std::string>& looked) {
  std::set<std::string> folders;
  std::vector<std::string> out;
  for (const auto& path : looked) {
    const std::string folder = path.starts_with('/') ? folder_of(path) : "";
    if (folder.empty() || !folders.insert(folder).second) continue;
    observe::presence(folder);
    if (::access(folder.c_str(), X_OK) != 0 && errno == EACCES) out.push_back(folder);
  }
  if (out.empty()) return {};
  return (out.size() == 1 ? "the folder " : "the folders ") + text::join(out, ", ") +
         " cannot be read (permission denied); it may be there";
}
}  // namespace

void Locator::keep(model::Finding finding) {
  if (!finding.found && finding.reason.empty()) finding.reason = unreadable(finding.looked);
  for (auto& known : findings_) {
    if (known.requirement.kind != finding.requirement.kind || known.requirement.name != finding.requirement.name)
      continue;
    // Asked for again, and met this time or needed more: the newer answer counts.
    const bool better =
        (finding.found && !known.found) ||
        (finding.found == known.found && finding.requirement.required && !known.requirement.required) ||
        (!finding.found && known.found && finding.requirement.required && !finding.requirement.constraint.empty());
    if (better) {
      const bool required = known.requirement.required || finding.requirement.required;
      known = std::move(finding);
      known.requirement.required = required;
    }
    return;
  }
  findings_.push_back(std::move(finding));
}

Answer Locator::ask(const Probe& probe, model::Question asked) {
  auto ahead = ahead_.take(probe);
  Answer answer = ahead ? std::move(*ahead) : locate::ask(probe, toolchain_, answers_);
  asked.language = probe.language;
  asked.source = probe.source;
  asked.command = text::shell_join(command_of(probe, toolchain_));
  asked.output = answer.output + answer.run_output;
  asked.kept = answer.kept;
  if (!answer.compiled)
    asked.end = probe.how == Probe::How::compile ? "did not compile" : "did not compile or link";
  else if (probe.how == Probe::How::run)
    asked.end = answer.ran ? "ran, exit code " + std::to_string(answer.exit) : "compiled, but did not run to its end";
  else
    asked.end = probe.how == Probe::How::compile ? "compiled" : "compiled and linked";
  // A description that is read again asks the same once more.
  std::erase_if(questions_, [&](const auto& known) {
    return known.name == asked.name && known.place.line == asked.place.line && known.place.file == asked.place.file &&
           known.source == asked.source;
  });
  questions_.push_back(std::move(asked));
  return answer;
}

bool Locator::knows(const Probe& probe) {
  return ahead_.has(probe) || (answers_ != nullptr && kept_answer(probe, toolchain_, *answers_).has_value());
}

void Locator::ask_ahead(const std::vector<Probe>& probes) {
  for (const auto& probe : probes) {
    if (!knows(probe)) ahead_.start(probe);
  }
}

bool Locator::any_required_missing() const {
  return std::any_of(findings_.begin(), findings_.end(),
                     [](const auto& f) { return f.requirement.required && !f.found; });
}

}  // namespace coctilis::locate
