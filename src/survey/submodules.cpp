#include "survey/submodules.h"

#include <algorithm>

#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"
#include "survey/ssh_transport.h"

namespace coctilis::survey {

namespace {
struct Library {
  Library() {
    git_libgit2_init();
    // Only read from, or written as asked: who owns the folder makes no difference.
    git_libgit2_opts(GIT_OPT_SET_OWNER_VALIDATION, 0);
    use_ssh_program();
  }
  ~Library() { git_libgit2_shutdown(); }
};

std::string digits_of(const git_oid& id) {
  char digits[GIT_OID_HEXSZ + 1];
  return git_oid_tostr(digits, sizeof digits, &id);
}

// A value of a settings file: quotes and backslashes taken away, a comment at its end cut off (git-config(1), Syntax).
std::string setting_value(std::string_view raw) {
  std::string out;
  std::size_t solid = 0;  // what stands in quotes or is no blank is kept
  bool quoted = false;
  for (std::size_t i = 0; i < raw.size(); ++i) {
    const char c = raw[i];
    if (c == '\\' && i + 1 < raw.size()) {
      const char next = raw[++i];
      out += next == 'n' ? '\n' : next == 't' ? '\t' : next;
      solid = out.size();
    } else if (c == '"') {
      quoted = !quoted;
    } else if (!quoted && (c == '#' || c == ';')) {
      break;
    } else {
      out += c;
      if (quoted || (c != ' ' && c != '\t')) solid = out.size();
    }
  }
  out.resize(solid);
  return out;
}

// A path that could stand for something else than a folder of the tree.
bool plain_path(const std::string& path) {
  if (path.empty() || path.front() == '/' || path.find('\0') != std::string::npos) return false;
  for (const auto& part : text::split(path, '/')) {
    if (part == ".." || text::lower(part) == ".git") return false;
  }
  return true;
}

constexpr int deepest_nesting = 16;

void add_nested(const std::string& tree, const std::string& within, int depth, std::vector<model::Submodule>& out,
                std::vector<model::Hazard>& hazards) {
  for (auto& module : submodules_of(tree, within, hazards)) {
    const std::string path = module.path;
    const bool there = module.state != model::SubmoduleState::empty;
    out.push_back(std::move(module));
    if (!there) continue;
    if (depth >= deepest_nesting)
      hazards.push_back({"submodules nested too deep", path, "not followed further"});
    else
      add_nested(tree, path, depth + 1, out, hazards);
  }
}
}  // namespace

void use_git_library() { static const Library library; }

namespace {
// The library reads these by itself: what it says of a repository hangs on them (gitrepository-layout(5)).
void tell_of(git_repository* repository) {
  const std::string own = git_repository_path(repository);  // ends with a slash
  const std::string shared = git_repository_commondir(repository);
  for (const char* name : {"HEAD", "index", "config.worktree"}) observe::content(own + name);
  for (const char* name : {"packed-refs", "config", "info/exclude", "reftable/tables.list"})
    observe::content(shared + name);
  git_reference* raw = nullptr;
  if (git_reference_lookup(&raw, repository, "HEAD") == 0) {
    const GitHandle<git_reference> head(raw);
    if (const char* name = git_reference_symbolic_target(head.get()); name != nullptr) observe::content(shared + name);
  }
  git_buf path = GIT_BUF_INIT;
  for (const auto find : {git_config_find_global, git_config_find_xdg, git_config_find_system}) {
    if (find(&path) == 0) observe::content(path.ptr);
  }
  git_buf_dispose(&path);
}
}  // namespace

Repository open_repository(const std::string& folder) {
  // Starting the library takes longer than looking.
  std::error_code error;
  observe::content(folder + "/.git");
  if (!std::filesystem::exists(folder + "/.git", error)) return {};
  use_git_library();
  git_repository* raw = nullptr;
  if (git_repository_open_ext(&raw, folder.c_str(), GIT_REPOSITORY_OPEN_NO_SEARCH, nullptr) != 0) raw = nullptr;
  if (raw != nullptr)
    tell_of(raw);
  else
    observe::spoil("a repository that cannot be opened");
  return Repository(raw);
}

std::string head_of(git_repository* repository) {
  git_oid id;
  if (repository == nullptr || git_reference_name_to_id(&id, repository, "HEAD") != 0) return {};
  return digits_of(id);
}

std::string repository_revision(const std::string& folder) { return head_of(open_repository(folder).get()); }

std::string resolve_revision(git_repository* repository, const std::string& name) {
  if (repository == nullptr || name.empty() ||
      name.find_first_not_of("0123456789abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ._/-+") !=
          std::string::npos ||
      name.front() == '-')
    return {};
  for (const std::string& candidate : {"refs/tags/" + name, "refs/remotes/origin/" + name, name}) {
    git_object* object = nullptr;
    if (git_revparse_single(&object, repository, candidate.c_str()) != 0) continue;
    const GitHandle<git_object> holder(object);
    git_object* commit = nullptr;
    if (git_object_peel(&commit, object, GIT_OBJECT_COMMIT) != 0) continue;
    const GitHandle<git_object> commit_holder(commit);
    return digits_of(*git_object_id(commit));
  }
  return {};
}

bool has_changes(git_repository* repository) {
  if (repository == nullptr || git_repository_is_bare(repository) == 1) return false;
  git_status_options options = GIT_STATUS_OPTIONS_INIT;
  options.show = GIT_STATUS_SHOW_INDEX_AND_WORKDIR;
  options.flags = GIT_STATUS_OPT_EXCLUDE_SUBMODULES;
  git_status_list* list = nullptr;
  if (git_status_list_new(&list, repository, &options) != 0) return false;
  const GitHandle<git_status_list> holder(list);
  return git_status_list_entrycount(list) > 0;
}

bool is_empty_folder(const std::string& path) {
  std::error_code error;
  if (!files::is_folder(path)) return true;
  observe::entries(path);
  for (const auto& entry : std::filesystem::directory_iterator(path, error)) {
    if (entry.path().filename() != ".git") return false;
  }
  return true;
}

bool stays_inside(const std::string& tree, const std::string& path) {
  if (!plain_path(path)) return false;
  std::string at = tree;
  for (const auto& part : text::split(path, '/')) {
    if (part.empty() || part == ".") continue;
    at += "/" + part;
    std::error_code error;
    if (std::filesystem::is_symlink(at, error)) return false;
  }
  return at != tree;
}

std::vector<model::Submodule> submodules_of(const std::string& tree, const std::string& within,
                                            std::vector<model::Hazard>& hazards) {
  std::vector<model::Submodule> found;
  const std::string base = within.empty() ? tree : tree + "/" + within;
  const auto content = files::read(base + "/.gitmodules");
  if (!content) return found;
  for (const auto& raw : text::split(*content, '\n')) {
    const std::string line(text::trim(raw));
    if (line.empty() || line.front() == '#' || line.front() == ';') continue;
    if (line.front() == '[') {
      found.emplace_back();
      const auto quote = line.find('"');
      const auto end = line.rfind('"');
      // Sections of other kinds end up without a path and are dropped.
      if (line.starts_with("[submodule") && quote != std::string::npos && end > quote)
        found.back().name = setting_value(std::string_view(line).substr(quote, end - quote + 1));
    } else if (!found.empty() && !found.back().name.empty()) {
      const auto equals = line.find('=');
      if (equals == std::string::npos) continue;
      const std::string key = text::lower(text::trim(line.substr(0, equals)));
      const std::string value = setting_value(text::trim(line.substr(equals + 1)));
      if (key == "path") found.back().path = value;
      if (key == "url") found.back().url = value;
    }
  }
  std::set<std::string> seen;
  std::erase_if(found, [&](model::Submodule& module) {
    if (module.path.empty()) return true;
    while (module.path.size() > 1 && module.path.back() == '/') module.path.pop_back();
    const std::string path = within.empty() ? module.path : within + "/" + module.path;
    if (!stays_inside(tree, path) || !plain_path(module.name)) {
      hazards.push_back({"submodule outside the tree", path, "left alone"});
      return true;
    }
    module.within = within;
    return !seen.insert(module.path).second;
  });
  if (found.empty()) return found;
  const Repository repository = open_repository(base);
  git_index* index = nullptr;
  if (repository && git_repository_index(&index, repository.get()) != 0) index = nullptr;
  const GitHandle<git_index> index_holder(index);
  for (auto& module : found) {
    if (index != nullptr) {
      const git_index_entry* entry = git_index_get_bypath(index, module.path.c_str(), 0);
      if (entry != nullptr && entry->mode == GIT_FILEMODE_COMMIT) module.pinned = digits_of(entry->id);
    }
    if (!within.empty()) module.path = within + "/" + module.path;
    const std::string path = tree + "/" + module.path;
    if (is_empty_folder(path)) {
      module.state = model::SubmoduleState::empty;
      continue;
    }
    const Repository inner = open_repository(path);
    module.actual = head_of(inner.get());
    if (module.pinned.empty() || module.actual.empty())
      module.state = model::SubmoduleState::unknown;
    else
      module.state = module.pinned == module.actual ? model::SubmoduleState::pinned : model::SubmoduleState::elsewhere;
    module.changed = has_changes(inner.get());
  }
  return found;
}

std::vector<model::Submodule> read_submodules(const std::string& tree, const model::Settings& settings,
                                              std::vector<model::Hazard>& hazards) {
  std::vector<model::Submodule> found;
  add_nested(tree, "", 0, found, hazards);
  for (const auto& source : settings.sources) {
    if (source.url.empty()) continue;  // it comes with the tree
    model::Submodule module;
    module.path = source.folder;
    module.name = source.folder;
    module.url = source.url;
    module.pinned = source.revision;
    module.place = source.place;
    if (!stays_inside(tree, module.path)) {
      hazards.push_back({"[[source]] outside the tree", source.folder, "left alone; " + source.place.text()});
      continue;
    }
    const std::string path = tree + "/" + module.path;
    if (!is_empty_folder(path)) {
      const Repository inner = open_repository(path);
      module.actual = head_of(inner.get());
      const std::string wanted = resolve_revision(inner.get(), source.revision);
      module.state = module.actual.empty()     ? model::SubmoduleState::unknown
                     : wanted == module.actual ? model::SubmoduleState::pinned
                                               : model::SubmoduleState::elsewhere;
      module.changed = has_changes(inner.get());
      if (module.state != model::SubmoduleState::unknown) {
        found.push_back(module);
        add_nested(tree, module.path, 1, found, hazards);
        continue;
      }
    } else {
      module.state = model::SubmoduleState::empty;
    }
    found.push_back(std::move(module));
  }
  return found;
}

}  // namespace coctilis::survey
