#include "locate/needs.h"

#include <re2/re2.h>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::locate {

namespace {

std::string place_of(const model::Need& need, const std::string& key) {
  const auto it = need.places.find(key);
  return (it == need.places.end() ? need.place : it->second).text();
}

// The version of a vendor's folder: a file of that name, else its own name ("firekit-3.2").
std::string version_of_folder(const std::string& prefix, std::string& source) {
  for (const char* name : {"VERSION", "version", "version.txt", "VERSION.txt"}) {
    std::string version;
    const auto content = files::read(prefix + "/" + name);
    if (content && RE2::PartialMatch(content->substr(0, 4096), R"(([0-9]+(?:\.[0-9A-Za-z]+)+|[0-9]+))", &version)) {
      source = std::string("file ") + name;
      return version;
    }
  }
  std::string version;
  if (RE2::PartialMatch(std::filesystem::path(prefix).filename().string(), R"(([0-9]+(?:\.[0-9]+)+))", &version))
    source = "name of the folder";
  return version;
}

model::Finding find_kit(const model::Need& need, const model::Requirement& want, const Locator& locator) {
  model::Finding finding;
  finding.requirement = want;
  finding.requirement.kind = model::RequirementKind::package;
  finding.how = "kit";
  if (need.prefix.empty()) {
    finding.refused = true;
    finding.reason = "nothing says where it is; write its prefix into coctilis.local.toml:  [[need]]  kit = \"" +
                     need.kit + "\"  prefix = \"...\"";
    return finding;
  }
  finding.looked = {need.prefix};
  finding.where = need.prefix;
  finding.why_here = "the prefix at " + place_of(need, "prefix");
  if (!files::is_folder(need.prefix)) {
    finding.refused = true;
    finding.reason = "its prefix " + need.prefix + " (" + place_of(need, "prefix") + ") is no folder";
    return finding;
  }
  finding.found = true;
  auto by_module = locator.module(want);
  if (by_module.found && files::is_below(by_module.where, need.prefix)) {
    finding.version = by_module.version;
    finding.version_source = ".pc file";
    finding.usage = by_module.usage;
  } else {
    finding.version = version_of_folder(need.prefix, finding.version_source);
  }
  if (!want.constraint.empty() && !text::version_meets(finding.version, want.constraint)) {
    finding.found = false;
    finding.refused = true;
    finding.reason =
        (finding.version.empty() ? "its version cannot be told"
                                 : "version " + finding.version + " at " + need.prefix + " is not usable") +
        "; required is " + want.constraint + " (" + place_of(need, "version") + ")";
  }
  return finding;
}

model::Finding find_file(const model::Need& need, const model::Requirement& want, const std::string& tree) {
  model::Finding finding;
  finding.requirement = want;
  finding.requirement.kind = model::RequirementKind::file;
  finding.how = "file";
  const std::string path = files::absolute(need.file, need.prefix.empty() ? tree : need.prefix);
  finding.looked = {path};
  std::error_code error;
  finding.found = files::exists(path);
  if (finding.found) {
    finding.where = path;
  } else {
    const bool link = files::is_link(path);
    finding.refused = true;
    finding.reason = link ? "the link " + path + " points to " + std::filesystem::read_symlink(path, error).string() +
                                ", which is not there"
                          : "the file is not there; put it at " + path;
  }
  return finding;
}

// The first two numbers agree, as far as both have them.
bool agree(const std::string& a, const std::string& b) {
  const auto one = text::split(a, '.');
  const auto two = text::split(b, '.');
  for (std::size_t i = 0; i < 2 && i < one.size() && i < two.size(); ++i) {
    if (one[i] != two[i]) return false;
  }
  return !a.empty() && !b.empty();
}

}  // namespace

void locate_needs(const model::Settings& settings, const std::string& tree, Locator& locator) {
  std::vector<model::Finding> found;
  for (const auto& need : settings.needs) {
    model::Requirement want{
        model::RequirementKind::library, need.name(), need.constraint, true, "coctilis.toml", need.place, {}};
    want.form = need.form;
    model::Finding finding;
    if (!need.program.empty()) {
      want.kind = model::RequirementKind::program;
      finding = locator.program(want, {need.program}, {});
    } else if (!need.kit.empty()) {
      finding = find_kit(need, want, locator);
    } else if (!need.file.empty()) {
      finding = find_file(need, want, tree);
    } else {
      finding = locator.library(want);
    }
    std::vector<std::string> absent;
    for (const auto& file : need.files) {
      const std::string path = files::absolute(file, need.prefix.empty() ? "/usr" : need.prefix);
      if (!files::exists(path)) absent.push_back(path);
    }
    if (!absent.empty() && (finding.found || need.prefix.empty() || files::is_folder(need.prefix))) {
      finding.found = false;
      finding.refused = true;
      finding.looked.insert(finding.looked.end(), absent.begin(), absent.end());
      const std::string missing = (absent.size() == 1 ? "the file " : "the files ") + text::join(absent, ", ") +
                                  (absent.size() == 1 ? " is not there" : " are not there") + " (asked for at " +
                                  place_of(need, "files") + ")";
      finding.reason = finding.reason.empty() ? missing : finding.reason + "; " + missing;
    }
    found.push_back(std::move(finding));
  }
  for (std::size_t i = 0; i < found.size(); ++i) {
    const auto& need = settings.needs[i];
    for (const auto& partner : need.goes_with) {
      const auto it = std::find_if(settings.needs.begin(), settings.needs.end(),
                                   [&](const model::Need& other) { return other.name() == partner; });
      auto& finding = found[i];
      std::string fault;
      if (it == settings.needs.end()) {
        fault = "it goes with '" + partner + "', but no [[need]] of that name is there (" +
                place_of(need, "goes-with") + ")";
      } else {
        const auto& other = found[static_cast<std::size_t>(it - settings.needs.begin())];
        if (!finding.found || !other.found || agree(finding.version, other.version)) continue;
        fault = "version " + (finding.version.empty() ? "unknown" : finding.version) + " does not go with " + partner +
                " " + (other.version.empty() ? "of unknown version" : other.version) + " at " + other.where + " (" +
                place_of(need, "goes-with") + ")";
      }
      finding.found = false;
      finding.refused = true;
      finding.reason = fault;
    }
  }
  for (auto& finding : found) locator.keep(std::move(finding));
}

}  // namespace coctilis::locate
