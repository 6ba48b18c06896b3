#include "survey/submodules.h"

#include <git2.h>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::survey {

namespace {
struct Library {
  Library() {
    git_libgit2_init();
    // Only read from: who owns the folder makes no difference.
    git_libgit2_opts(GIT_OPT_SET_OWNER_VALIDATION, 0);
  }
  ~Library() { git_libgit2_shutdown(); }
};
}  // namespace

void use_git_library() { static const Library library; }

namespace {
using Repository = std::unique_ptr<git_repository, void (*)(git_repository*)>;

// The repository whose working folder is exactly `folder`.
Repository open(const std::string& folder) {
  // Starting the library takes longer than looking.
  std::error_code error;
  if (!std::filesystem::exists(folder + "/.git", error)) return {nullptr, git_repository_free};
  use_git_library();
  git_repository* raw = nullptr;
  if (git_repository_open_ext(&raw, folder.c_str(), GIT_REPOSITORY_OPEN_NO_SEARCH, nullptr) != 0) raw = nullptr;
  return {raw, git_repository_free};
}

std::string head_of(git_repository* repository) {
  git_oid id;
  if (repository == nullptr || git_reference_name_to_id(&id, repository, "HEAD") != 0) return {};
  char digits[GIT_OID_HEXSZ + 1];
  return git_oid_tostr(digits, sizeof digits, &id);
}

bool is_empty_folder(const std::string& path) {
  std::error_code error;
  if (!files::is_folder(path)) return true;
  for (const auto& entry : std::filesystem::directory_iterator(path, error)) {
    if (entry.path().filename() != ".git") return false;
  }
  return true;
}
}  // namespace

std::string repository_revision(const std::string& folder) { return head_of(open(folder).get()); }

std::vector<model::Submodule> read_submodules(const std::string& tree, std::vector<model::Hazard>& hazards) {
  std::vector<model::Submodule> found;
  const auto content = files::read(tree + "/.gitmodules");
  if (!content) return found;
  for (const auto& raw : text::split(*content, '\n')) {
    const std::string line(text::trim(raw));
    if (line.starts_with("[submodule")) {
      found.emplace_back();
    } else if (!found.empty() && !line.starts_with('[')) {
      const auto equals = line.find('=');
      if (equals == std::string::npos) continue;
      const std::string key = text::lower(text::trim(line.substr(0, equals)));
      std::string value(text::trim(line.substr(equals + 1)));
      if (value.size() > 1 && value.front() == '"' && value.back() == '"') value = value.substr(1, value.size() - 2);
      if (key == "path") found.back().path = value;
      if (key == "url") found.back().url = value;
    }
  }
  std::erase_if(found, [&](const model::Submodule& module) {
    if (module.path.empty()) return true;
    const bool outside = !files::is_below(files::absolute(module.path, tree), tree) || module.path.front() == '/';
    if (outside) hazards.push_back({"submodule outside the tree", module.path, "left alone"});
    return outside;
  });
  const Repository repository = open(tree);
  git_index* index = nullptr;
  if (repository && git_repository_index(&index, repository.get()) != 0) index = nullptr;
  for (auto& module : found) {
    if (index != nullptr) {
      const git_index_entry* entry = git_index_get_bypath(index, module.path.c_str(), 0);
      if (entry != nullptr && entry->mode == GIT_FILEMODE_COMMIT) {
        char digits[GIT_OID_HEXSZ + 1];
        module.pinned = git_oid_tostr(digits, sizeof digits, &entry->id);
      }
    }
    const std::string path = tree + "/" + module.path;
    module.actual = repository_revision(path);
    if (is_empty_folder(path))
      module.state = model::SubmoduleState::empty;
    else if (module.pinned.empty() || module.actual.empty())
      module.state = model::SubmoduleState::unknown;
    else
      module.state = module.pinned == module.actual ? model::SubmoduleState::pinned : model::SubmoduleState::elsewhere;
  }
  if (index != nullptr) git_index_free(index);
  return found;
}

}  // namespace coctilis::survey
