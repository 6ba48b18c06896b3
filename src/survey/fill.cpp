#include "survey/fill.h"

#include <algorithm>
#include <atomic>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "survey/submodules.h"

namespace coctilis::survey {

namespace {

using Remote = GitHandle<git_remote>;
using Commit = GitHandle<git_commit>;

std::string last_error() {
  const git_error* error = git_error_last();
  return error == nullptr || error->message == nullptr ? "" : text::printable_line(error->message);
}

std::string last_part(const std::string& url) {
  std::string out = url;
  while (out.ends_with('/')) out.pop_back();
  const auto cut = out.find_last_of("/:");
  if (cut != std::string::npos) out.erase(0, cut + 1);
  if (out.ends_with(".git")) out.resize(out.size() - 4);
  return out;
}

// What makes a URL unfit: a way of transport that could start programs, or a name that a tool would read as an option.
std::string url_fault(const std::string& url) {
  if (url.empty()) return "it has no URL";
  if (url.front() == '-') return "its URL begins with '-', as an option would";
  if (std::any_of(url.begin(), url.end(), [](char c) { return static_cast<unsigned char>(c) < 0x21 || c == 0x7F; }))
    return "its URL has blanks or control characters";
  if (url.find("::") != std::string::npos) return "its URL names a program for the transport; that is never started";
  const auto scheme_end = url.find("://");
  if (scheme_end != std::string::npos) {
    const std::string scheme = text::lower(url.substr(0, scheme_end));
    if (scheme != "https" && scheme != "ssh" && scheme != "file")
      return "its URL is " + scheme + "; https, ssh and file are used";
    if (url.size() > scheme_end + 3 && url[scheme_end + 3] == '-')
      return "its host begins with '-', as an option would";
    return {};
  }
  if (url.front() == '/') return {};
  // host:path, as ssh takes it.
  const auto colon = url.find(':');
  if (colon == std::string::npos || url.find('/') < colon) return "its URL '" + url + "' is of no form that is known";
  const auto at = url.find('@');
  if (at != std::string::npos && at + 1 < url.size() && url[at + 1] == '-')
    return "its host begins with '-', as an option would";
  return {};
}

// Where the user has a copy of what the address names; empty: nowhere. The rest of the address is the tree's word, and
// must not lead out of that place.
std::string mirror_of(const std::string& url, const std::vector<model::Mirror>& mirrors) {
  for (const auto& mirror : mirrors) {
    if (url.size() <= mirror.of.size() || !url.starts_with(mirror.of)) continue;
    const std::string rest = url.substr(mirror.of.size());
    const auto parts = text::split(rest, '/');
    if (std::find(parts.begin(), parts.end(), "..") != parts.end()) return {};
    return mirror.at + rest;
  }
  return {};
}

struct Task {
  model::Submodule module;
};

class Filler {
 public:
  Filler(const std::string& tree, const model::Settings& settings, FillObserver& observer)
      : tree_(tree), settings_(settings), observer_(observer) {}

  FillResult run(unsigned jobs) {
    use_git_library();
    std::vector<model::Hazard> hazards;
    for (auto& module : submodules_of(tree_, "", hazards)) add(std::move(module));
    for (const auto& source : settings_.sources) {
      if (source.url.empty()) continue;  // it comes with the tree
      model::Submodule module;
      module.path = module.name = source.folder;
      module.url = source.url;
      module.pinned = source.revision;
      module.place = source.place;
      if (stays_inside(tree_, module.path))
        add(std::move(module));
      else
        hazards.push_back({"", source.folder, source.place.text()});
    }
    for (const auto& hazard : hazards) refuse_outside(hazard);
    std::vector<std::thread> workers;
    for (unsigned i = 0; i < std::max(1U, jobs); ++i) workers.emplace_back([this] { work(); });
    // The observer is told from here, so that it needs no locks.
    while (true) {
      std::unique_lock lock(mutex_);
      changed_.wait_for(lock, std::chrono::milliseconds(100));
      std::vector<Filled> fresh(result_.entries.begin() + static_cast<std::ptrdiff_t>(told_), result_.entries.end());
      told_ = result_.entries.size();
      std::vector<Transfer> running;
      for (const auto& [path, transfer] : running_) running.push_back(transfer);
      const std::size_t done = result_.entries.size();
      const std::size_t known = known_;
      const bool over = done == known || (interrupted_by != 0 && running_.empty());
      lock.unlock();
      for (const auto& one : fresh) observer_.ended(one);
      observer_.progress(done, known, running);
      if (over) break;
    }
    {
      const std::scoped_lock lock(mutex_);
      over_ = true;
    }
    wake_.notify_all();
    for (auto& worker : workers) worker.join();
    result_.interrupted = interrupted_by != 0;
    return std::move(result_);
  }

 private:
  void add(model::Submodule module) {
    const std::scoped_lock lock(mutex_);
    ++known_;
    queue_.push_back({std::move(module)});
    wake_.notify_one();
  }
  void refuse_outside(const model::Hazard& hazard) {
    const std::scoped_lock lock(mutex_);
    ++known_;
    result_.entries.push_back({hazard.path,
                               FillOutcome::refused,
                               {},
                               {},
                               "its folder lies outside the tree, behind a link, or in version control's own folder",
                               "it is left alone"});
  }

  void work() {
    while (true) {
      Task task;
      {
        std::unique_lock lock(mutex_);
        wake_.wait(lock, [&] { return over_ || (!queue_.empty() && interrupted_by == 0); });
        if (over_) return;
        task = std::move(queue_.front());
        queue_.pop_front();
        running_[task.module.path] = {task.module.path, 0, 0, 0};
      }
      Filled filled = fill_one(task.module);
      std::vector<model::Submodule> inner;
      std::vector<model::Hazard> hazards;
      const auto depth = std::count(task.module.path.begin(), task.module.path.end(), '/');
      if ((filled.outcome == FillOutcome::filled || filled.outcome == FillOutcome::kept) && depth < 64)
        inner = submodules_of(tree_, task.module.path, hazards);
      for (auto& module : inner) add(std::move(module));
      for (const auto& hazard : hazards) refuse_outside(hazard);
      {
        const std::scoped_lock lock(mutex_);
        running_.erase(task.module.path);
        result_.entries.push_back(std::move(filled));
      }
      changed_.notify_all();
    }
  }

  Filled fill_one(const model::Submodule& module) {
    Filled out;
    out.path = module.path;
    const auto say = [&](FillOutcome outcome, const std::string& reason, const std::string& remedy = {}) {
      out.outcome = outcome;
      out.reason = reason;
      out.remedy = remedy;
      return out;
    };
    const std::string folder = tree_ + "/" + module.path;
    const std::string base = module.within.empty() ? tree_ : tree_ + "/" + module.within;
    if (!stays_inside(tree_, module.path))
      return say(FillOutcome::refused, "its folder lies outside the tree or behind a link", "it is left alone");
    Repository repository = open_repository(folder);
    const bool empty = is_empty_folder(folder);
    if (!empty && !repository)
      return say(module.pinned.empty() ? FillOutcome::kept : FillOutcome::refused,
                 "the folder holds files that are under no version control",
                 "move them away if the repository's own are wanted");
    if (repository && !empty) {
      const std::string wanted = resolve_revision(repository.get(), module.pinned);
      out.revision = head_of(repository.get());
      if (!wanted.empty() && wanted == out.revision) return say(FillOutcome::kept, "");
      if (has_changes(repository.get()))
        return say(FillOutcome::refused, "it is at " + out.revision.substr(0, 12) + " and has local changes",
                   "commit or undo them; then fill again");
    }
    if (module.pinned.empty())
      return say(FillOutcome::refused,
                 "nothing says which revision is wanted: the tree has no repository data (" +
                     (module.url.empty() ? "no URL either" : "URL " + module.url) + ")",
                 "take a clone of the repository, or an archive that has the submodules in it");
    std::string fault;
    const std::string url = resolve_url(module.url, base, fault);
    if (!repository) {
      repository = make_repository(module, folder, base, fault);
      if (!repository) return say(FillOutcome::refused, fault, "it is left alone");
    }
    // What an earlier run brought in is there still.
    std::string revision = resolve_revision(repository.get(), module.pinned);
    if (!revision.empty()) out.from = "what was there";
    std::vector<std::string> tried;
    if (revision.empty()) {
      for (const auto& mirror : mirrors(module, url)) {
        if (!revision.empty() || interrupted_by != 0) break;
        tried.push_back(mirror);
        if (!fetch(repository.get(), mirror, module, fault)) continue;
        revision = resolve_revision(repository.get(), module.pinned);
        if (!revision.empty()) out.from = mirror;
      }
    }
    if (revision.empty() && interrupted_by == 0) {
      if (url.empty()) return say(FillOutcome::refused, fault, "give a folder with a copy of it: --with FOLDER");
      tried.push_back(url);
      if (fetch(repository.get(), url, module, fault)) {
        revision = resolve_revision(repository.get(), module.pinned);
        if (revision.empty()) fault = "the revision " + module.pinned.substr(0, 12) + " is not in " + url;
        out.from = url;
      }
    }
    if (interrupted_by != 0) return say(FillOutcome::failed, "interrupted", "fill again: what is there stays");
    if (revision.empty())
      return say(FillOutcome::failed, fault,
                 "where there is no network, give a folder with copies of the repositories: --with FOLDER");
    if (!check_out(repository.get(), revision, folder, fault))
      return say(FillOutcome::failed, "its files cannot be written: " + fault, "check space and permissions");
    out.revision = revision;
    if (!url.empty()) git_remote_set_url(repository.get(), "origin", url.c_str());
    if (!module.is_source()) register_in(base, module.name, url.empty() ? out.from : url);
    return say(FillOutcome::filled, "");
  }

  // The repository that pins it knows from now on that it is in use (gitmodules(5), "active").
  void register_in(const std::string& base, const std::string& name, const std::string& url) {
    const std::scoped_lock lock(settings_mutex_);
    const Repository outer = open_repository(base);
    git_config* config = nullptr;
    if (!outer || git_repository_config(&config, outer.get()) != 0) return;
    git_config* own = nullptr;
    if (git_config_open_level(&own, config, GIT_CONFIG_LEVEL_LOCAL) == 0) {
      git_config_set_bool(own, ("submodule." + name + ".active").c_str(), 1);
      git_config_set_string(own, ("submodule." + name + ".url").c_str(), url.c_str());
      git_config_free(own);
    }
    git_config_free(config);
  }

  [[nodiscard]] bool no_links(const std::string& below) const {
    std::string at = tree_;
    std::error_code error;
    for (const auto& part : text::split(below, '/')) {
      at += "/" + part;
      if (std::filesystem::is_symlink(at, error)) return false;
    }
    return true;
  }

  // Where its data lie: in the repository that pins it, as for any clone; beside its files where that has none.
  Repository make_repository(const model::Submodule& module, const std::string& folder, const std::string& base,
                             std::string& fault) {
    const Repository outer = module.is_source() ? Repository{} : open_repository(base);
    std::string data = folder + "/.git";
    bool link = false;
    if (outer) {
      const char* own = git_repository_path(outer.get());
      const std::string kept =
          files::absolute(std::string(own == nullptr ? base + "/.git" : own) + "/modules/" + module.name);
      // A tree may point at a repository anywhere: only what lies in the tree itself is written to.
      if (files::is_below(kept, tree_) && no_links(files::below(kept, tree_))) {
        data = kept;
        link = true;
      }
    }
    git_repository_init_options options = GIT_REPOSITORY_INIT_OPTIONS_INIT;
    options.flags = GIT_REPOSITORY_INIT_MKPATH | GIT_REPOSITORY_INIT_NO_DOTGIT_DIR;
    options.workdir_path = folder.c_str();
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    git_repository* raw = nullptr;
    // Settings found in a folder of that name are somebody else's: they are not read, only its objects are.
    const bool known = link && files::is_file(data + "/HEAD");
    const int code =
        known ? git_repository_open_bare(&raw, data.c_str()) : git_repository_init_ext(&raw, data.c_str(), &options);
    if (code != 0) {
      fault = "its repository cannot be made: " + last_error();
      return {};
    }
    Repository repository(raw);
    if (known && git_repository_set_workdir(raw, folder.c_str(), 1) != 0) {
      fault = "its repository cannot be used: " + last_error();
      return {};
    }
    if (link) files::write(folder + "/.git", "gitdir: " + files::relative(data, folder) + "\n");
    return repository;
  }

  std::vector<std::string> mirrors(const model::Submodule& module, const std::string& url) const {
    std::vector<std::string> out;
    if (std::string at = mirror_of(url, settings_.mirrors); !at.empty()) out.push_back(std::move(at));
    const std::string name = last_part(url.empty() ? module.url : url);
    for (const auto& prefix : settings_.prefixes) {
      for (const auto& candidate : {name + ".git", name, module.path}) {
        const std::string path = prefix + "/" + candidate;
        std::error_code error;
        const bool repository = files::is_file(path + "/HEAD") || std::filesystem::exists(path + "/.git", error);
        if (!candidate.empty() && repository && std::find(out.begin(), out.end(), path) == out.end())
          out.push_back(path);
      }
    }
    return out;
  }

  struct Call {
    Filler* filler;
    std::string path;
  };

  static int on_transfer(const git_indexer_progress* stats, void* payload) {
    auto* call = static_cast<Call*>(payload);
    if (interrupted_by != 0) return GIT_EUSER;
    const std::scoped_lock lock(call->filler->mutex_);
    call->filler->running_[call->path] = {call->path, stats->received_objects, stats->total_objects,
                                          stats->received_bytes};
    return 0;
  }
  static int on_text(const char*, int, void*) { return interrupted_by != 0 ? GIT_EUSER : 0; }
  // Nobody is asked for a password; over ssh the user's own program brings its keys.
  static int on_credentials(git_credential**, const char*, const char*, unsigned, void*) { return GIT_EAUTH; }

  bool fetch(git_repository* repository, const std::string& from, const model::Submodule& module, std::string& fault) {
    git_remote* raw = nullptr;
    if (git_remote_lookup(&raw, repository, "origin") != 0)
      git_remote_create(&raw, repository, "origin", from.c_str());
    else
      git_remote_set_url(repository, "origin", from.c_str());
    git_remote_free(raw);
    raw = nullptr;
    if (git_remote_lookup(&raw, repository, "origin") != 0) {
      fault = last_error();
      return false;
    }
    const Remote remote(raw);
    Call call{this, module.path};
    git_fetch_options options = GIT_FETCH_OPTIONS_INIT;
    options.callbacks.transfer_progress = on_transfer;
    options.callbacks.sideband_progress = on_text;
    options.callbacks.credentials = on_credentials;
    options.callbacks.payload = &call;
    options.download_tags = GIT_REMOTE_DOWNLOAD_TAGS_ALL;
    options.update_fetchhead = 0;
    if (git_remote_fetch(remote.get(), nullptr, &options, nullptr) != 0) {
      fault = "it cannot be brought in from " + from + ": " + last_error();
      return false;
    }
    if (!resolve_revision(repository, module.pinned).empty()) return true;
    // A revision that no branch leads to any more may still be had by its own name.
    std::string exact = module.pinned;
    char* specs[] = {exact.data()};
    const git_strarray list{specs, 1};
    static_cast<void>(git_remote_fetch(remote.get(), &list, &options, nullptr));
    return true;
  }

  static bool check_out(git_repository* repository, const std::string& revision, const std::string& folder,
                        std::string& fault) {
    git_oid id;
    git_commit* raw = nullptr;
    if (git_oid_fromstr(&id, revision.c_str()) != 0 || git_commit_lookup(&raw, repository, &id) != 0) {
      fault = last_error();
      return false;
    }
    const Commit commit(raw);
    git_checkout_options options = GIT_CHECKOUT_OPTIONS_INIT;
    options.checkout_strategy = GIT_CHECKOUT_FORCE | GIT_CHECKOUT_RECREATE_MISSING;
    // Whatever settings say, the files go here.
    options.target_directory = folder.c_str();
    if (git_checkout_tree(repository, reinterpret_cast<const git_object*>(commit.get()), &options) != 0 ||
        git_repository_set_head_detached(repository, &id) != 0) {
      fault = last_error();
      return false;
    }
    return true;
  }

  std::string tree_;
  const model::Settings& settings_;
  FillObserver& observer_;
  std::mutex settings_mutex_;
  std::mutex mutex_;
  std::condition_variable wake_;
  std::condition_variable changed_;
  std::deque<Task> queue_;
  std::map<std::string, Transfer> running_;
  std::size_t known_ = 0;
  std::size_t told_ = 0;
  bool over_ = false;
  FillResult result_;
};

}  // namespace

std::size_t FillResult::count(FillOutcome outcome) const {
  return static_cast<std::size_t>(
      std::count_if(entries.begin(), entries.end(), [&](const Filled& f) { return f.outcome == outcome; }));
}
bool FillResult::complete() const {
  return !interrupted && count(FillOutcome::refused) == 0 && count(FillOutcome::failed) == 0;
}

std::string resolve_url(const std::string& url, const std::string& folder, std::string& fault) {
  std::string out = url;
  if (url.starts_with("./") || url.starts_with("../")) {
    std::string origin;
    if (const Repository repository = open_repository(folder)) {
      git_remote* raw = nullptr;
      if (git_remote_lookup(&raw, repository.get(), "origin") == 0) {
        const Remote remote(raw);
        if (const char* text = git_remote_url(remote.get())) origin = text;
      }
      // A repository that came from nowhere is its own origin.
      if (origin.empty()) origin = folder;
    }
    if (origin.empty()) {
      fault = "its URL '" + url + "' counts from the repository's own, which the tree does not have";
      return {};
    }
    std::string rest = url;
    while (origin.ends_with('/')) origin.pop_back();
    while (true) {
      if (rest.starts_with("./")) {
        rest.erase(0, 2);
      } else if (rest.starts_with("../")) {
        rest.erase(0, 3);
        const auto cut = origin.find_last_of("/:");
        const auto scheme = origin.find("://");
        if (cut == std::string::npos || (scheme != std::string::npos && cut < scheme + 3)) {
          fault = "its URL '" + url + "' leads out of '" + origin + "'";
          return {};
        }
        origin.resize(origin[cut] == ':' ? cut + 1 : cut);
      } else {
        break;
      }
    }
    out = origin.ends_with(':') ? origin + rest : origin + "/" + rest;
  }
  if (std::string why = url_fault(out); !why.empty()) {
    fault = why;
    return {};
  }
  return out;
}

Result<FillResult> fill(const std::string& tree, const model::Settings& settings, unsigned jobs,
                        FillObserver& observer) {
  return guarded("filling submodules", [&] {
    if (settings.sources.empty() && !files::is_file(tree + "/.gitmodules"))
      throw Fault({Exit::usage,
                   {tree, 0, 0},
                   "there is nothing to fill",
                   "the tree has no submodules, and coctilis.toml names no [[source]]",
                   "leave --fill out",
                   {}});
    return Filler(tree, settings, observer).run(jobs);
  });
}

}  // namespace coctilis::survey
