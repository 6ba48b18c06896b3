#include "pipeline/dependencies.h"

#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <functional>
#include <map>
#include <set>
#include <utility>

#include "base/answers.h"
#include "base/digest.h"
#include "base/files.h"
#include "base/folder_stamps.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/readers.h"
#include "model/environment_variables.h"
#include "pipeline/member_schedule.h"
#include "pipeline/submodules.h"
#include "survey/relations.h"
#include "survey/submodules.h"
#include "survey/survey.h"

namespace coctilis::pipeline {

namespace {

// A source that needs name.
struct Dependency {
  const model::Source* source = nullptr;
  std::string folder;  // absolute
  survey::Placed place;
  std::string prefix;
};

// All that lies in a folder, by name, mode and content; not what version control or a run of ours has put there. The
// digest is one that nobody can aim at: what is built of one tree's files is used for others.
class FolderDigest {
 public:
  [[nodiscard]] static std::string of(const std::string& folder) {
    FolderDigest all;
    all.add(folder, "", 0);
    return *digest("SHA256", all.text_);
  }

 private:
  void add(const std::string& folder, const std::string& below, int depth) {
    if (depth > 64) return;
    for (const auto& name : files::names_in(folder)) {
      const std::string path = folder + "/" + name;
      if (name == ".git" || survey::is_kiln(path)) continue;
      struct stat info {};
      if (::lstat(path.c_str(), &info) != 0) continue;
      text_ += below + name + '\0' + std::to_string(info.st_mode) + '\0';
      std::error_code error;
      if (S_ISLNK(info.st_mode))
        text_ += std::filesystem::read_symlink(path, error).string();
      else if (S_ISREG(info.st_mode))
        text_ += content_of(path, info);
      text_ += '\n';
      if (S_ISDIR(info.st_mode)) add(path, below + name + "/", depth + 1);
    }
  }
  // One that cannot be read, or is larger than any that is, counts by what the system tells of it.
  static std::string content_of(const std::string& path, const struct stat& info) {
    if (const auto content = files::read(path)) return *digest("SHA256", *content);
    return std::to_string(info.st_dev) + " " + std::to_string(info.st_ino) + " " + std::to_string(info.st_size) + " " +
           std::to_string(info.st_ctim.tv_sec) + "." + std::to_string(info.st_ctim.tv_nsec);
  }
  std::string text_;
};

// Held while a prefix in the cache is made: another run that needs the same waits, and finds it there.
class PrefixLock {
 public:
  PrefixLock(const std::string& prefix, const std::function<void()>& waiting) {
    const std::string path = prefix + ".lock";
    fd_ = ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW, 0600);
    if (fd_ < 0)
      throw Fault({Exit::kiln,
                   {},
                   "what is built from source first cannot be kept: " + path + " cannot be written",
                   std::strerror(errno),
                   "make room, or see to the rights of that folder",
                   {}});
    if (::flock(fd_, LOCK_EX | LOCK_NB) == 0) return;
    waiting();
    while (::flock(fd_, LOCK_EX) != 0) {
      if (errno == EINTR && interrupted_by == 0) continue;
      ::close(fd_);
      throw Fault({Exit::step, {}, "interrupted", {}, "run it again: what was finished stays finished", {}});
    }
  }
  ~PrefixLock() {
    if (fd_ >= 0) ::close(fd_);
  }
  PrefixLock(PrefixLock&& other) noexcept : fd_(std::exchange(other.fd_, -1)) {}
  PrefixLock& operator=(PrefixLock&&) = delete;
  PrefixLock(const PrefixLock&) = delete;
  PrefixLock& operator=(const PrefixLock&) = delete;

 private:
  int fd_ = -1;
};

class Dependencies {
 public:
  Dependencies(model::Run& run, Watcher* watcher) : run_(run), watcher_(watcher) {}

  void provide() {
    find();
    if (dependencies_.empty()) return;
    order();
    std::vector<ScheduledMember> members;
    bool any = false;
    for (std::size_t i = 0; i < dependencies_.size(); ++i) {
      auto& one = dependencies_[i];
      one.prefix = cache() + "/" + key_of(one);
      ScheduledMember member;
      member.name = one.source->name;
      member.place = one.place;
      member.wanted = !is_whole(one);
      member.task = [this, i](const auto&) { return task_of(dependencies_[i]); };
      any = any || member.wanted;
      members.push_back(std::move(member));
    }
    if (any && watcher_ != nullptr) build(members);
    for (auto& need : run_.settings.needs) {
      const auto* one = dependency_of(need);
      if (one == nullptr || !need.prefix.empty() || !is_whole(*one)) continue;
      need.prefix = one->prefix;
      need.places["prefix"] = one->source->place;
    }
    // What a dependency was built with is looked at for it, too.
    for (const auto& one : dependencies_) {
      if (is_whole(one) && std::find(run_.settings.prefixes.begin(), run_.settings.prefixes.end(), one.prefix) ==
                               run_.settings.prefixes.end())
        run_.settings.prefixes.push_back(one.prefix);
    }
  }

 private:
  [[nodiscard]] static std::string cache() {
    const std::string answers = Answers::usual_path();
    if (answers.empty())
      throw Fault({Exit::kiln,
                   {},
                   "there is no place for what is built from source first",
                   "neither HOME nor XDG_CACHE_HOME names a folder",
                   "set one of them",
                   {}});
    return std::filesystem::path(answers).parent_path().string() + "/built";
  }

  void find() {
    for (const auto& need : run_.settings.needs) {
      if (need.source.empty() || !need.prefix.empty()) continue;
      const auto& sources = run_.settings.sources;
      const auto source =
          std::find_if(sources.begin(), sources.end(), [&](const auto& s) { return s.name == need.source; });
      if (source == sources.end()) {
        std::vector<std::string> names;
        for (const auto& one : sources) names.push_back(one.name);
        throw Fault({Exit::usage,
                     need.places.contains("source") ? need.places.at("source") : need.place,
                     "there is no [[source]] '" + text::printable_line(need.source) + "'",
                     names.empty() ? "there is none at all" : "there are " + text::join(names, ", "),
                     "name one of them, or add it",
                     {}});
      }
      const bool known = std::any_of(dependencies_.begin(), dependencies_.end(),
                                     [&](const auto& one) { return one.source == &*source; });
      if (known) continue;
      if (!source->archive.empty())
        throw Fault(
            {Exit::usage,
             source->place,
             "the source '" + source->name + "' is an archive that lies beside a program: nothing is built from it",
             {},
             "unpack it into a folder of the tree, and name that",
             {}});
      Dependency one;
      one.source = &*source;
      one.folder = files::absolute(source->folder, run_.tree);
      if (!survey::stays_inside(run_.tree, source->folder))
        throw Fault({Exit::usage,
                     source->place,
                     "the source '" + source->name + "' lies outside of the tree, or behind a link",
                     {},
                     "name a folder of the tree",
                     {}});
      if (!files::is_folder(one.folder) || files::names_in(one.folder).empty())
        throw Fault({Exit::missing,
                     source->place,
                     "the source '" + source->name + "' is not there: " + source->folder +
                         (files::is_folder(one.folder) ? " is empty" : " is no folder"),
                     "the need for " + need.name() + " is built from it first",
                     source->url.empty() ? "put it there" : fill_command(run_),
                     {}});
      dependencies_.push_back(std::move(one));
    }
  }

  void order() {
    std::vector<std::string> folders;
    std::vector<std::vector<std::string>> names;
    for (const auto& one : dependencies_) {
      folders.push_back(files::relative(one.folder, run_.tree));
      names.emplace_back();
      for (const auto& need : run_.settings.needs) {
        if (need.source == one.source->name) names.back().push_back(need.name());
      }
    }
    auto relations = survey::relations_between(run_.tree, folders, describe::description_formats(), false, names);
    if (!relations) throw Fault(relations.problem());
    std::vector<Dependency> ordered;
    for (auto& place : relations->order) {
      ordered.push_back(dependencies_[place.package]);
      ordered.back().place = std::move(place);
    }
    dependencies_ = std::move(ordered);
  }

  [[nodiscard]] const Dependency* dependency_of(const model::Need& need) const {
    for (const auto& one : dependencies_) {
      if (one.source->name == need.source) return &one;
    }
    return nullptr;
  }

  // By all that has a say in what comes out. Those that it needs have keys before it.
  [[nodiscard]] std::string key_of(const Dependency& one) const {
    const auto& settings = run_.settings;
    std::string text = FolderDigest::of(one.folder) + run_.label + '\0' + settings.sysroot + '\0' + settings.machine +
                       '\0' + settings.linker;
    for (const char* language : {"C", "C++", "Fortran"}) {
      const auto& compiler = run_.toolchain.compiler(language);
      text += '\0' + compiler.path + '\0' + compiler.identity;
    }
    // CFLAGS and the like have a say in makefiles and configure scripts.
    for (const auto& variable : model::environment_variables) {
      const char* value = std::getenv(variable.name);
      const bool has_a_say = (variable.roles & (model::for_compilers | model::for_choices)) != 0;
      if (value != nullptr && has_a_say && std::string_view(variable.name) != "PATH")
        text += std::string(1, '\0') + variable.name + '=' + value;
    }
    for (const auto& [name, value] : one.source->options) text += '\0' + name + '=' + value;
    if (const auto variant = settings.variants.find(settings.variant); variant != settings.variants.end()) {
      // Who looks into a program by its debugging information has to find these very sources.
      const auto& words = variant->second.compile;
      const bool names_sources =
          variant->second.debug() ||
          std::any_of(words.begin(), words.end(), [](const auto& word) { return word.starts_with("-g"); });
      if (names_sources) text += '\0' + one.folder;
      text += '\0' + text::join(variant->second.compile, " ") + '\0' + text::join(variant->second.link, " ");
    }
    for (const auto other : one.place.sees) text += '\0' + dependencies_[other].prefix;
    for (const auto& prefix : settings.prefixes) text += '\0' + prefix;
    return one.source->name + "-" + *digest("SHA256", text);
  }

  // The listing of a prefix lies beside it and is written last.
  [[nodiscard]] static bool is_whole(const Dependency& one) {
    const auto noted = files::read(one.prefix + ".whole");
    return noted && !noted->empty() && *noted == listing_of(one.prefix);
  }

  [[nodiscard]] MemberTask task_of(const Dependency& one) const {
    MemberTask task;
    auto& member = task.member = part_of(run_, one.source->name, one.folder, run_.kiln + "/needed/" + one.source->name);
    member.as_member.settings_folder = one.folder;
    member.options.prefix = one.prefix;
    // Values on the command line are for the description of the tree.
    member.options.sets.clear();
    member.options.unsets.clear();
    auto& settings = *member.as_member.inherited;
    settings.options = one.source->options;
    for (auto i = one.place.sees.rbegin(); i != one.place.sees.rend(); ++i)
      settings.prefixes.push_back(dependencies_[*i].prefix);
    settings.prefixes.insert(settings.prefixes.end(), run_.settings.prefixes.begin(), run_.settings.prefixes.end());
    task.wish.goal = Goal::build;
    task.for_others = true;
    task.whole_tree = run_.tree;
    task.whole_kiln = run_.options.kiln;
    return task;
  }

  void build(std::vector<ScheduledMember> members) {
    files::make_folder(cache());
    // In one order in all runs, so that none waits for another that waits for it.
    std::map<std::string, std::size_t> by_prefix;
    for (std::size_t i = 0; i < members.size(); ++i) {
      if (members[i].wanted) by_prefix.emplace(dependencies_[i].prefix, i);
    }
    std::vector<PrefixLock> locks;
    for (const auto& [prefix, i] : by_prefix) {
      locks.emplace_back(prefix, [&, &name = dependencies_[i].source->name] {
        watcher_->doing("waiting for another run, which builds " + name);
      });
      members[i].wanted = !is_whole(dependencies_[i]);
    }
    // What is there already nobody waits for.
    for (auto& member : members) {
      const auto is_there = [&](std::size_t other) { return !members[other].wanted; };
      std::erase_if(member.place.needs, is_there);
      std::erase_if(member.place.waits, is_there);
    }
    // Whatever a run that was cut off has left there is no part of it.
    for (std::size_t i = 0; i < members.size(); ++i) {
      std::error_code error;
      if (!members[i].wanted) continue;
      std::filesystem::remove(dependencies_[i].prefix + ".whole", error);
      std::filesystem::remove_all(dependencies_[i].prefix, error);
    }
    const unsigned jobs = run_.options.install ? 1 : run_.settings.jobs;
    auto ended = bring_up_in_order(members, jobs, run_.kiln + "/needed", *watcher_);
    // What came out well is kept, whatever became of the others.
    std::optional<Problem> first;
    for (std::size_t i = 0; i < members.size(); ++i) {
      if (!ended[i]) continue;
      if (auto problem = keep(dependencies_[i], *ended[i]); problem && !first) first = std::move(problem);
    }
    if (first) throw Fault(*first);
  }

  // Why a dependency is not there after it was brought up.
  std::optional<Problem> keep(const Dependency& one, const model::Run& member) {
    if (member.problem && member.as_member.not_begun) return std::nullopt;  // what it needs has a problem
    if (member.problem) {
      auto problem = *member.problem;
      problem.what = "the need '" + member.as_member.name + "', which is built from source first: " + problem.what;
      if (member.outcome.interrupted_by != 0) run_.outcome.interrupted_by = member.outcome.interrupted_by;
      return problem;
    }
    const std::string listing = listing_of(one.prefix);
    if (listing.empty())
      return Problem{Exit::description,
                     one.source->place,
                     "'" + member.as_member.name + "' is built, but installs nothing",
                     "its description says nothing of what others are to find of it",
                     "name what the tree needs of it by --with, or bring it up as a member ([tree] components)",
                     {}};
    files::write(one.prefix + ".whole", listing);
    return std::nullopt;
  }

  model::Run& run_;
  Watcher* watcher_;
  std::vector<Dependency> dependencies_;
};

}  // namespace

bool build_dependencies(model::Run& run, Watcher* watcher) {
  if (run.repeats) return true;
  const observe::Apart apart;  // what comes of it is in the settings, on which a kept plan hangs
  const auto done = guarded("what is built from source first", [&] {
    Dependencies(run, watcher).provide();
    return true;
  });
  if (!done) run.problem = done.problem();
  return done.ok();
}

}  // namespace coctilis::pipeline
