#include "locate/go.h"

#include <algorithm>
#include <cstdlib>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"

namespace coctilis::locate {

namespace {

// "go1.19.8" of the file VERSION.
std::string go_version_of(const std::string& folder) {
  std::string first = text::split(files::read_beginning(folder + "/VERSION", 4096), '\n').front();
  first = std::string(text::trim(first));
  const auto words = text::words(first);
  for (const auto& word : words) {
    if (word.starts_with("go1.")) return word.substr(2);
  }
  return {};
}

int minor_of(const std::string& version) { return version.starts_with("1.") ? std::atoi(version.c_str() + 2) : 0; }

}  // namespace

std::vector<GoKit> go_kits(const std::vector<std::string>& prefixes) {
  std::vector<GoKit> out;
#if defined(__x86_64__)
  const std::string processor = "amd64";
#elif defined(__aarch64__)
  const std::string processor = "arm64";
#elif defined(__i386__)
  const std::string processor = "386";
#else
  const std::string processor = "unknown";
#endif
  const auto add = [&](const std::string& given, const std::string& origin) {
    std::error_code error;
    const std::string folder = std::filesystem::canonical(given, error).string();
    if (error || std::any_of(out.begin(), out.end(), [&](const auto& kit) { return kit.folder == folder; })) return;
    GoKit kit;
    kit.folder = folder;
    kit.version = go_version_of(folder);
    kit.minor = minor_of(kit.version);
    kit.system = "linux";
    kit.processor = processor;
    kit.tools = folder + "/pkg/tool/linux_" + processor;
    kit.packages = folder + "/pkg/linux_" + processor;
    kit.origin = origin;
    if (kit.minor > 0 && files::is_program(kit.tools + "/compile") && files::is_program(kit.tools + "/link"))
      out.push_back(std::move(kit));
  };
  if (const char* root = std::getenv("GOROOT")) add(root, "GOROOT");
  for (const auto& prefix : prefixes) add(prefix, "the prefix " + prefix);
  if (const std::string program = find_program("go"); !program.empty()) {
    std::error_code error;
    const auto real = std::filesystem::canonical(program, error);
    if (!error) add(real.parent_path().parent_path().string(), "PATH");
  }
  for (const char* folder : {"/usr/lib", "/usr/local"}) {
    for (const auto& name : files::names_in(folder)) {
      if (name == "go" || name.starts_with("go-")) add(std::string(folder) + "/" + name, std::string(folder));
    }
  }
  return out;
}

GoChoice choose_go(const std::vector<GoKit>& kits, int minor, const Place& place) {
  GoChoice out;
  auto& finding = out.finding;
  finding.requirement.kind = model::RequirementKind::program;
  finding.requirement.name = "Go";
  if (minor > 0) finding.requirement.constraint = ">= 1." + std::to_string(minor);
  finding.requirement.required = true;
  finding.requirement.required_by = "the description";
  finding.requirement.place = place;
  finding.how = "Go distribution";
  finding.looked = {"GOROOT", "PATH", "/usr/lib", "/usr/local"};
  const GoKit* best = nullptr;
  const auto has_library = [](const GoKit& kit) { return files::is_file(kit.packages + "/fmt.a"); };
  for (const auto& kit : kits) {
    if (!has_library(kit)) continue;
    // A newer one knows what is older. Of those that are too old the newest may do: sources say what they need by
    // failing to compile.
    if (best == nullptr || (best->minor < minor && kit.minor > best->minor)) best = &kit;
  }
  for (const auto& kit : kits) {
    if (&kit != best)
      finding.others.push_back(kit.version + " in " + kit.folder + " (" + kit.origin +
                               (has_library(kit) ? ")" : "; without its standard library compiled)"));
  }
  if (best == nullptr) {
    finding.refused = !kits.empty();
    finding.reason = kits.empty() ? "no distribution of Go is here"
                                  : "those that are here (" + finding.others.front() +
                                        ") have no compiled standard library, as those up to 1.19 do";
    if (kits.empty()) finding.package = "golang-go";
    return out;
  }
  out.kit = *best;
  finding.found = true;
  finding.where = best->tools + "/compile";
  finding.version = best->version;
  finding.version_source = "file VERSION";
  finding.why_here = best->origin;
  if (best->minor < minor)
    out.note = "Go 1." + std::to_string(minor) + " is wanted, and " + best->version +
               " is the newest here: what is newer in the language does not compile";
  return out;
}

}  // namespace coctilis::locate
