#include "locate/mentions.h"

#include <re2/re2.h>

#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"
#include "locate/known.h"

namespace coctilis::locate {

namespace {

constexpr std::size_t most_documents = 40;
constexpr std::size_t most_bytes = 256U << 10U;

std::vector<std::string> documents(const std::string& tree) {
  static const RE2 name(
      R"((?i)(readme|install|build|building|compil|hacking|prerequisites|dependencies|requirements).*)");
  static const RE2 kind(R"((?i)[^.]*|.*\.(md|txt|rst|adoc|in|markdown|org))");
  // A document more is no reason to work a plan out again.
  const observe::Apart apart;
  std::vector<std::string> out;
  for (const char* folder : {"", "/doc", "/docs"}) {
    std::vector<std::string> here;
    for (const auto& file : files::names_in(tree + folder)) {
      const std::string path = tree + folder + "/" + file;
      if (RE2::FullMatch(file, name) && RE2::FullMatch(file, kind) && files::is_file(path) && !files::is_link(path))
        here.push_back(std::string(folder).empty() ? file : std::string(folder).substr(1) + "/" + file);
    }
    std::sort(here.begin(), here.end());
    out.insert(out.end(), here.begin(), here.end());
  }
  if (out.size() > most_documents) out.resize(most_documents);
  return out;
}

// Files by which others build the tree in a place of their own: recipes of containers, and what is done after each
// change. Systems of several kinds may be set up there; packages of this one are read.
std::vector<std::string> set_ups(const std::string& tree) {
  static const RE2 name(
      R"((?i)(docker|container)file.*|\.(gitlab-ci|travis|cirrus|drone|woodpecker)\.ya?ml|appveyor\.ya?ml|azure-pipelines\.ya?ml|\.?config\.yml)");
  const observe::Apart apart;
  std::vector<std::string> out;
  for (const char* folder : {"", "/docker", "/.docker", "/ci", "/.ci", "/.circleci", "/.github/workflows"}) {
    const bool flows = std::string_view(folder).ends_with("workflows");
    for (const auto& file : files::names_in(tree + folder)) {
      const std::string path = tree + folder + "/" + file;
      const bool counts = RE2::FullMatch(file, name) || (flows && (file.ends_with(".yml") || file.ends_with(".yaml")));
      if (counts && files::is_file(path) && !files::is_link(path))
        out.push_back((folder + std::string("/") + file).substr(1));
    }
  }
  if (out.size() > most_documents) out.resize(most_documents);
  return out;
}

struct Found {
  std::string name;
  std::string package;
  Place place;
};

// "apt-get install -y libpng-dev zlib1g-dev && ..." names two packages.
void read_command(const std::string& line, const Place& place, std::vector<Found>& out) {
  static const RE2 command(R"(\b(?:apt|apt-get|aptitude)\s+(?:-\S+\s+)*install\s+(.*))");
  std::string rest;
  if (!RE2::PartialMatch(line, command, &rest)) return;
  static const RE2 package(R"([a-z0-9][a-z0-9+.-]+)");
  for (const auto& word : text::words(rest.substr(0, rest.find_first_of("`&;|#'\"()<>")))) {
    if (word.starts_with('-') || word == "\\") continue;
    if (!RE2::FullMatch(word, package)) break;
    out.push_back({word, word, place});
  }
}

// "packages: [...]" of such a file, or a list below it: "- libpng-dev".
void read_lists(const std::vector<std::string>& lines, const std::string& file, std::vector<Found>& out) {
  static const RE2 key(R"(^\s*(?:-\s+)?(?:packages|apt_packages|apt-packages)\s*:\s*(.*)$)");
  static const RE2 entry(R"(^\s*-\s+['"]?([a-z0-9][a-z0-9+.-]+)['"]?\s*$)");
  bool inside = false;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    const Place place{file, static_cast<int>(i + 1), 0};
    std::string rest;
    std::string package;
    if (RE2::FullMatch(lines[i], key, &rest)) {
      inside = text::trim(rest).empty();
      continue;
    }
    if (!inside) continue;
    if (RE2::FullMatch(lines[i], entry, &package))
      out.push_back({package, package, place});
    else if (!text::trim(lines[i]).empty() && !text::trim(lines[i]).starts_with('#'))
      inside = false;
  }
}

bool is_heading(const std::string& line, const std::string& next) {
  if (line.empty()) return false;
  if (line.front() == '#' || (line.front() == '=' && line.size() > 2 && line[1] == ' ')) return true;
  if (line.ends_with(':') && line.size() < 60 && std::isupper(static_cast<unsigned char>(line.front())) != 0)
    return true;
  return next.size() >= 3 && next.find_first_not_of("=-~^*") == std::string::npos;
}

// Words of a list of requirements that are names in the tables.
void read_words(const std::string& line, const Place& place, std::vector<Found>& out) {
  re2::StringPiece rest(line);
  static const RE2 word(R"(([A-Za-z][A-Za-z0-9_+.-]*[A-Za-z0-9+]))");
  std::string found;
  while (RE2::FindAndConsume(&rest, word, &found)) {
    if (const auto* library = known_by_word(found))
      out.push_back({found, library->package, place});
    else if (const std::string package = package_of_program(text::lower(found)); !package.empty())
      out.push_back({found, package, place});
  }
}

}  // namespace

std::vector<model::Mention> mentions(const std::string& tree, const std::vector<model::Finding>& findings,
                                     Packages& packages, const std::function<bool(const std::string&)>& passed_over) {
  std::vector<Found> found;
  static const RE2 heading(R"((?i)\b(requirements?|prerequisites?|dependenc(y|ies)|requires|needed)\b)");
  auto all = documents(tree);
  const std::size_t prose = all.size();
  for (auto& file : set_ups(tree)) all.push_back(std::move(file));
  for (std::size_t number = 0; number < all.size(); ++number) {
    const auto& document = all[number];
    const auto content = files::read(tree + "/" + document);
    if (!content || content->find('\0') != std::string::npos) continue;
    const auto lines = text::split(std::string_view(*content).substr(0, most_bytes), '\n');
    if (number >= prose) read_lists(lines, document, found);
    bool section = false;
    for (std::size_t i = 0; i < lines.size(); ++i) {
      const Place place{document, static_cast<int>(i + 1), 0};
      const std::string line(text::trim(lines[i]));
      const std::string next = i + 1 < lines.size() ? std::string(text::trim(lines[i + 1])) : "";
      if (number >= prose)
        section = false;
      else if (is_heading(line, next))
        section = RE2::PartialMatch(line, heading);
      else if (section)
        read_words(line, place, found);
      std::string whole = line;
      for (std::size_t k = i; whole.ends_with('\\') && k + 1 < lines.size() && k < i + 30; ++k) {
        whole.pop_back();
        whole += " " + std::string(text::trim(lines[k + 1]));
      }
      read_command(whole, place, found);
    }
  }
  if (found.empty()) return {};
  // What findings are about, by name and by package.
  std::set<std::string> known;
  for (const auto& finding : findings) {
    known.insert(text::lower(finding.requirement.name));
    if (!finding.package.empty()) known.insert(finding.package);
    if (const auto* library = known_library(finding.requirement.name)) {
      known.insert(library->package);
      known.insert(text::lower(library->name));
    }
    if (finding.requirement.kind == model::RequirementKind::program)
      known.insert(package_of_program(finding.requirement.name));
  }
  static const RE2 compilers(R"(build-essential|(gcc|g\+\+|clang|libc6-dev|binutils)(-[0-9.]+)?)");
  std::vector<model::Mention> out;
  std::set<std::string> told;
  for (auto& one : found) {
    const std::string key = one.package.empty() ? text::lower(one.name) : one.package;
    if (known.contains(key) || known.contains(text::lower(one.name)) || RE2::FullMatch(one.name, compilers) ||
        RE2::FullMatch(one.package, compilers) || passed_over(one.name) || passed_over(one.package) ||
        !told.insert(key).second)
      continue;
    out.push_back({one.name, one.package, !one.package.empty() && packages.installed(one.package), one.place});
  }
  return out;
}

}  // namespace coctilis::locate
