#include "repository.h"

#include <git2.h>

#include <stdexcept>

#include "base/files.h"
#include "survey/submodules.h"

namespace coctilis::test {

namespace {
void check(int code) {
  if (code >= 0) return;
  const git_error* error = git_error_last();
  throw std::runtime_error(error == nullptr ? "git" : error->message);
}

std::string commit_index(git_repository* repository, git_index* index) {
  git_oid tree_id;
  git_oid id;
  check(git_index_write(index));
  check(git_index_write_tree(&tree_id, index));
  git_tree* tree = nullptr;
  check(git_tree_lookup(&tree, repository, &tree_id));
  git_signature* signature = nullptr;
  check(git_signature_new(&signature, "Brickyard", "office@brickyard.example", 1700000000, 0));
  git_commit* parent = nullptr;
  git_oid head;
  if (git_reference_name_to_id(&head, repository, "HEAD") == 0) check(git_commit_lookup(&parent, repository, &head));
  const git_commit* parents[] = {parent};
  check(git_commit_create(&id, repository, "HEAD", signature, signature, nullptr, "bricks", tree,
                          parent == nullptr ? 0 : 1, parents));
  git_commit_free(parent);
  git_signature_free(signature);
  git_tree_free(tree);
  char digits[GIT_OID_HEXSZ + 1];
  return git_oid_tostr(digits, sizeof digits, &id);
}

survey::Repository open_or_make(const std::string& folder) {
  survey::use_git_library();
  if (auto there = survey::open_repository(folder)) return there;
  git_repository* raw = nullptr;
  git_repository_init_options options = GIT_REPOSITORY_INIT_OPTIONS_INIT;
  options.flags = GIT_REPOSITORY_INIT_MKPATH;
  options.initial_head = "main";
  check(git_repository_init_ext(&raw, folder.c_str(), &options));
  return survey::Repository(raw);
}
}  // namespace

std::string commit(const std::string& folder, const std::map<std::string, std::string>& content) {
  const auto repository = open_or_make(folder);
  for (const auto& [path, text] : content) files::write(folder + "/" + path, text);
  git_index* index = nullptr;
  check(git_repository_index(&index, repository.get()));
  const GitHandle<git_index> holder(index);
  for (const auto& [path, text] : content) check(git_index_add_bypath(index, path.c_str()));
  return commit_index(repository.get(), index);
}

std::string add_submodule(const std::string& folder, const std::string& path, const std::string& url,
                          const std::string& revision) {
  const auto repository = open_or_make(folder);
  files::write(folder + "/.gitmodules", files::read(folder + "/.gitmodules").value_or("") + "[submodule \"" + path +
                                            "\"]\n\tpath = " + path + "\n\turl = " + url + "\n");
  files::make_folder(folder + "/" + path);
  git_index* index = nullptr;
  check(git_repository_index(&index, repository.get()));
  const GitHandle<git_index> holder(index);
  check(git_index_add_bypath(index, ".gitmodules"));
  git_index_entry entry{};
  entry.path = path.c_str();
  entry.mode = GIT_FILEMODE_COMMIT;
  check(git_oid_fromstr(&entry.id, revision.c_str()));
  check(git_index_add(index, &entry));
  return commit_index(repository.get(), index);
}

void clone(const std::string& from, const std::string& to) {
  survey::use_git_library();
  git_repository* raw = nullptr;
  check(git_clone(&raw, from.c_str(), to.c_str(), nullptr));
  git_repository_free(raw);
}

}  // namespace coctilis::test
