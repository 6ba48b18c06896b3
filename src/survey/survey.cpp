#include "survey/survey.h"

#include <dirent.h>
#include <fcntl.h>
#include <re2/re2.h>
#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <set>
#include <thread>

#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "survey/descriptions.h"
#include "survey/languages.h"
#include "survey/relations.h"
#include "survey/submodules.h"

namespace coctilis::survey {

bool is_kiln(const std::string& folder) {
  return files::read_beginning(folder + "/.gitignore", 4096).starts_with(kiln_mark);
}

bool is_left_out(const model::Settings& settings, const std::string& path) {
  return std::any_of(settings.leave_out.begin(), settings.leave_out.end(), [&](const std::string& pattern) {
    return (pattern.ends_with("/**") && files::is_below(path, pattern.substr(0, pattern.size() - 3))) ||
           files::matches(pattern, path);
  });
}

namespace {

// What a package says of itself besides a description: coctilis.toml, package.xml. `path` is relative.
bool is_mark(const std::string& path) {
  const std::string name = path.substr(path.rfind('/') + 1);
  return name == "coctilis.toml" || name == manifest_name;
}

struct SourceFile {
  std::string path;                 // relative
  const LanguageSyntax* language;   // how it is written; null: nobody knows
  const model::ToldLanguage* told;  // that coctilis.toml has it for; or null
  LineCount count;
  bool unreadable = false;
  [[nodiscard]] std::string_view name() const {
    return told != nullptr ? std::string_view(told->name) : language->name;
  }
};

// Lines of a language whose way of writing is not known, and where programs begin as its user tells.
void count_told(const std::string& content, SourceFile& source) {
  if (source.language != nullptr) {
    source.count = count_lines(content, *source.language);
  } else {
    for (const auto& line : text::split(content, '\n'))
      ++(text::trim(line).empty() ? source.count.blank : source.count.code);
    if (content.ends_with('\n') && source.count.blank > 0) --source.count.blank;
  }
  source.count.entry_lines.clear();
  if (source.told->entry.empty()) return;
  const RE2 entry(source.told->entry);
  int number = 0;
  for (const auto& line : text::split(content, '\n')) {
    ++number;
    if (RE2::PartialMatch(line, entry)) source.count.entry_lines.push_back(number);
  }
}

class Walk {
 public:
  Walk(model::Survey& survey, const model::Settings& settings, const DescriptionFormats& formats, Sights* sights)
      : survey_(survey), settings_(settings), formats_(formats), sights_(sights) {}

  void folder(const std::string& relative) {
    const std::string path = relative.empty() ? survey_.tree : survey_.tree + "/" + relative;
    // Before it is read: what changes meanwhile is seen the next time.
    if (sights_ != nullptr) sights_->look(Sights::Kind::file, path);
    DIR* stream = ::opendir(path.c_str());
    if (stream == nullptr) {
      if (sights_ != nullptr) sights_->spoil();
      hazard("unreadable", relative, std::strerror(errno));
      return;
    }
    std::vector<std::string> folders;
    std::map<std::string, std::string> folded;
    const int fd = ::dirfd(stream);
    const std::int64_t when = file_clock();
    while (const dirent* entry = ::readdir(stream)) {
      const std::string name = entry->d_name;
      if (name == "." || name == "..") continue;
      const std::string below = relative.empty() ? name : relative + "/" + name;
      struct stat info {};
      if (::fstatat(fd, entry->d_name, &info, AT_SYMLINK_NOFOLLOW) != 0) continue;
      if (S_ISDIR(info.st_mode) && (name == ".git" || is_kiln(path + "/" + name))) continue;
      if (is_left_out(settings_, below)) continue;
      check_name(name, below, folded);
      if (S_ISDIR(info.st_mode)) {
        folders.push_back(below);
      } else if (sights_ != nullptr) {
        see(path + "/" + name, info, when);
      }
      if (S_ISLNK(info.st_mode)) {
        struct stat target {};
        if (::fstatat(fd, entry->d_name, &target, 0) != 0) {
          char to[4096];
          const ssize_t n = ::readlinkat(fd, entry->d_name, to, sizeof to);
          hazard(errno == ELOOP ? "link in a circle" : "dangling link", below,
                 n > 0 ? "points to " + std::string(to, static_cast<std::size_t>(n)) : "");
        } else if (leaves_tree(path + "/" + name)) {
          hazard("link out of the tree", below, "leads to what lies outside");
        }
      } else if (S_ISREG(info.st_mode)) {
        file(below, name, static_cast<std::uint64_t>(info.st_size), fd);
      }
    }
    ::closedir(stream);
    std::sort(folders.begin(), folders.end());
    survey_.folders += folders.size();
    for (const auto& below : folders) this->folder(below);
  }

  std::vector<SourceFile> sources;
  std::vector<model::Description> further_down;  // descriptions in folders further down

 private:
  void note_description(const std::string& path, const std::string& name) {
    const bool top = path == name;
    if (!top && (std::count(path.begin(), path.end(), '/') > most_depth || path.find("/.") != path.npos ||
                 path.starts_with('.')))
      return;
    // A folder with settings or a manifest of its own is a member of its own, if only by its sources.
    if (!top && is_mark(path)) {
      for (const auto& one : formats_) {
        if (one.by_sources) further_down.push_back({path, std::string(one.format), false, false, {}});
      }
      return;
    }
    const DescriptionFormat* format = nullptr;
    if (description_name(formats_, name, &format) == nullptr || (!top && format->is_hint)) return;
    if (format->counts != nullptr && !format->counts(survey_.tree + "/" + path)) return;
    (top ? survey_.descriptions : further_down).push_back({path, std::string(format->format), false, false, {}});
  }

  static constexpr int most_depth = 3;  // folders, in which descriptions are looked for

  void see(const std::string& path, const struct stat& info, std::int64_t when) {
    const FileStamp stamp = FileStamp::of(info);
    const bool link = S_ISLNK(info.st_mode);
    if (!stamp.tells_since(when)) return sights_->spoil();
    sights_->add(link ? Sights::Kind::link : Sights::Kind::file, path, stamp);
    struct stat target {};
    if (link) sights_->look(::stat(path.c_str(), &target) == 0 ? Sights::Kind::presence : Sights::Kind::dangling, path);
  }

  void hazard(std::string kind, std::string path, std::string detail) {
    survey_.hazards.push_back({std::move(kind), std::move(path), std::move(detail)});
  }

  [[nodiscard]] bool leaves_tree(const std::string& link) const {
    std::error_code error;
    const auto real = std::filesystem::canonical(link, error);
    return !error && !files::is_below(real.string(), survey_.tree);
  }

  void check_name(const std::string& name, const std::string& below, std::map<std::string, std::string>& folded) {
    if (name.find_first_of(" \t") != std::string::npos) hazard("blank in the path", below, "some tools split it");
    if (std::any_of(name.begin(), name.end(),
                    [](char c) { return static_cast<unsigned char>(c) < 0x20 || c == 0x7F; })) {
      hazard("control character in the path", below, "shown without it");
    } else if (std::any_of(name.begin(), name.end(), [](char c) { return static_cast<unsigned char>(c) >= 0x80; })) {
      hazard("letters outside ASCII in the path", below,
             text::is_utf8(name) ? "some tools do not take them" : "not even UTF-8");
    }
    const auto [it, fresh] = folded.emplace(text::lower(name), name);
    if (!fresh) hazard("names differ only in case", below, "from " + it->second);
  }

  void file(const std::string& below, const std::string& name, std::uint64_t size, int fd) {
    ++survey_.files;
    survey_.bytes += size;
    note_description(below, name);
    const bool readable = ::faccessat(fd, name.c_str(), R_OK, 0) == 0;
    if (!readable) {
      hazard("unreadable", below, "permission denied");
      if (sights_ != nullptr) sights_->spoil();
    }
    const auto* language = language_of(name);
    const auto* told = settings_.told_language_of(name);
    if ((language != nullptr || told != nullptr) && readable) sources.push_back({below, language, told, {}, false});
  }

  model::Survey& survey_;
  const model::Settings& settings_;
  const DescriptionFormats& formats_;
  Sights* sights_;
};

void count_all(const std::string& tree, std::vector<SourceFile>& sources) {
  std::atomic<std::size_t> next{0};
  const auto work = [&] {
    const observe::Apart seen_by_the_walk;
    for (std::size_t i = next++; i < sources.size(); i = next++) {
      const auto content = files::read(tree + "/" + sources[i].path);
      if (content && sources[i].told != nullptr)
        count_told(*content, sources[i]);
      else if (content)
        sources[i].count = count_lines(*content, *sources[i].language);
      else
        sources[i].unreadable = true;
    }
  };
  const unsigned workers = sources.size() < 64 ? 1 : std::max(1U, std::thread::hardware_concurrency());
  std::vector<std::thread> threads;
  for (unsigned i = 1; i < workers; ++i) threads.emplace_back(work);
  work();
  for (auto& thread : threads) thread.join();
}

// What says how the tree is built when its top folder does not.
void look_below(model::Survey& survey, std::vector<model::Description>& below, const DescriptionFormats& formats) {
  std::sort(below.begin(), below.end(), [](const auto& a, const auto& b) { return a.path < b.path; });
  // Settings and manifests alone are no reason to look no further.
  const auto marks = [](const auto& d) { return is_mark(d.path); };
  if (std::all_of(below.begin(), below.end(), marks)) return;
  const auto folders = folders_with_descriptions(survey.descriptions, below, formats, survey.tree);
  std::erase_if(below, marks);
  if (folders.size() == 1) follow_in_folder(survey.descriptions, below, folders.front(), formats, survey.tree);
  if (folders.size() > 1) survey.parts = folders;
}

// A tree with sources can be built from these alone, where nothing else tells how, or its user wants that.
void offer_sources(model::Survey& survey, const model::Settings& settings, const DescriptionFormats& formats) {
  const auto format = std::find_if(formats.begin(), formats.end(), [](const auto& one) { return one.by_sources; });
  if (format == formats.end() || !settings.description.empty()) return;
  const bool any = std::any_of(survey.languages.begin(), survey.languages.end(), [&](const auto& language) {
    static const std::set<std::string> known = {"C", "C++", "Fortran", "Java", "Go"};
    return known.contains(language.language) ||
           std::any_of(settings.languages.begin(), settings.languages.end(),
                       [&](const auto& told) { return told.name == language.language; });
  });
  if (!any) return;
  const bool alone = survey.followed() == nullptr && survey.parts.empty();
  const bool unread = alone && std::any_of(survey.descriptions.begin(), survey.descriptions.end(), [](const auto& d) {
                        return !d.readable && d.path.find('/') == std::string::npos;
                      });
  model::Description sources{std::string(format->format), std::string(format->format), true, alone, {}};
  sources.reason = unread  ? "no description can be read: what it says beyond the sources may be missing"
                   : alone ? "nothing else says how the tree is built"
                           : "a description comes first; [tree] description in coctilis.toml chooses";
  if (alone)
    survey.descriptions.insert(survey.descriptions.begin(), std::move(sources));
  else
    survey.descriptions.push_back(std::move(sources));
}

}  // namespace

std::string kiln_root(const std::string& tree, const std::string& asked) {
  if (!asked.empty()) return files::absolute(asked);
  const std::string usual = tree + "/kiln";
  std::error_code error;
  if (!files::is_folder(usual) || std::filesystem::is_empty(usual, error)) return usual;
  const bool ours = is_kiln(usual);
  return ours ? usual : tree + "/.kiln";
}

Result<model::Survey> survey(const std::string& tree, const model::Settings& settings,
                             const DescriptionFormats& formats, Sights* sights) {
  return guarded("survey", [&] {
    const double begin = now();
    struct stat info {};
    if (::stat(tree.c_str(), &info) != 0) {
      throw Fault({Exit::usage,
                   {tree, 0, 0},
                   "there is no tree '" + tree + "'",
                   std::strerror(errno),
                   "name a folder that holds a source tree",
                   {}});
    }
    if (!S_ISDIR(info.st_mode)) {
      throw Fault({Exit::usage,
                   {tree, 0, 0},
                   "'" + tree + "' is a file, not a folder",
                   "",
                   "name the folder that holds the source tree; an archive has to be unpacked first",
                   {}});
    }
    if (::access(tree.c_str(), R_OK | X_OK) != 0) {
      throw Fault({Exit::usage,
                   {tree, 0, 0},
                   "the folder '" + tree + "' cannot be read",
                   std::strerror(errno),
                   "give yourself permission to read it",
                   {}});
    }
    model::Survey out;
    out.tree = tree;
    Walk walk(out, settings, formats, sights);
    walk.folder("");
    count_all(tree, walk.sources);
    std::map<std::string_view, model::LanguageCount> languages;
    std::map<std::string_view, model::FolderCount> by_folder;
    for (const auto& source : walk.sources) {
      const auto slash = source.path.find('/');
      const std::string_view top =
          slash == std::string::npos ? std::string_view(".") : std::string_view(source.path).substr(0, slash);
      auto& folder = by_folder[top];
      folder.folder = top;
      ++folder.files;
      folder.code += source.count.code;
      folder.comment += source.count.comment;
      folder.blank += source.count.blank;
      auto& entry = languages[source.name()];
      entry.language = source.name();
      ++entry.files;
      entry.code += source.count.code;
      entry.comment += source.count.comment;
      entry.blank += source.count.blank;
      for (const int line : source.count.entry_lines) out.entry_points.push_back({{source.path, line, 0}});
    }
    for (auto& [name, entry] : languages) out.languages.push_back(std::move(entry));
    std::stable_sort(out.languages.begin(), out.languages.end(),
                     [](const auto& a, const auto& b) { return a.code > b.code; });
    for (auto& [name, entry] : by_folder) out.lines_by_folder.push_back(std::move(entry));
    std::stable_sort(out.lines_by_folder.begin(), out.lines_by_folder.end(),
                     [](const auto& a, const auto& b) { return a.code > b.code; });
    std::sort(out.entry_points.begin(), out.entry_points.end(),
              [](const auto& a, const auto& b) { return a.place.file < b.place.file; });
    std::stable_sort(out.hazards.begin(), out.hazards.end(),
                     [](const auto& a, const auto& b) { return std::tie(a.kind, a.path) < std::tie(b.kind, b.path); });
    std::sort(out.descriptions.begin(), out.descriptions.end(),
              [](const auto& a, const auto& b) { return a.path < b.path; });
    const auto chosen = choose_description(out.descriptions, settings.description, formats, tree);
    if (!chosen) throw Fault(chosen.problem());
    if (out.followed() == nullptr && settings.components.empty()) look_below(out, walk.further_down, formats);
    offer_sources(out, settings, formats);
    out.submodules = read_submodules(tree, settings, out.hazards);
    out.revision = repository_revision(tree);
    out.seconds = now() - begin;
    return out;
  });
}

}  // namespace coctilis::survey
