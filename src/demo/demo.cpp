#include "demo/demo.h"

#include <algorithm>

#include "base/embedded.h"
#include "base/files.h"
#include "base/text.h"
#include "survey/git_library.h"
#include "survey/submodules.h"

namespace coctilis::demo {

namespace {

constexpr const char* submodule = "modules/textline";

void check(int code, const char* what) {
  if (code >= 0) return;
  const git_error* error = git_error_last();
  throw Fault({Exit::kiln,
               {},
               std::string("the demo repository cannot be made: ") + what,
               error == nullptr ? "" : error->message,
               "",
               {}});
}

// Adds everything to the index and commits it under a fixed name and time, so that the demo is the same everywhere.
git_oid commit_all(git_repository* repository, const char* message, const std::vector<std::string>& leave_out) {
  git_index* index = nullptr;
  check(git_repository_index(&index, repository), "no index");
  const GitHandle<git_index> index_holder(index);
  struct Skip {
    const std::vector<std::string>& names;
  } skip{leave_out};
  const auto wanted = [](const char* path, const char*, void* payload) -> int {
    for (const auto& name : static_cast<Skip*>(payload)->names) {
      if (files::is_below(path, name)) return 1;
    }
    return 0;
  };
  check(git_index_add_all(index, nullptr, GIT_INDEX_ADD_DEFAULT, wanted, &skip), "files cannot be added");
  check(git_index_write(index), "the index cannot be written");
  git_oid tree_id;
  check(git_index_write_tree(&tree_id, index), "the tree cannot be written");
  git_tree* tree = nullptr;
  check(git_tree_lookup(&tree, repository, &tree_id), "no tree");
  const GitHandle<git_tree> tree_holder(tree);
  git_signature* signature = nullptr;
  check(git_signature_new(&signature, "Brickyard", "office@brickyard.example", 1700000000, 0), "no signature");
  const GitHandle<git_signature> signature_holder(signature);
  git_oid id;
  check(git_commit_create(&id, repository, "HEAD", signature, signature, nullptr, message, tree, 0, nullptr),
        "no commit");
  return id;
}

git_repository* make_repository(const std::string& work_folder, const std::string& git_folder) {
  git_repository_init_options options = GIT_REPOSITORY_INIT_OPTIONS_INIT;
  options.flags = GIT_REPOSITORY_INIT_MKPATH | GIT_REPOSITORY_INIT_NO_REINIT | GIT_REPOSITORY_INIT_NO_DOTGIT_DIR;
  options.workdir_path = work_folder.c_str();
  options.initial_head = "main";
  git_repository* repository = nullptr;
  check(git_repository_init_ext(&repository, git_folder.c_str(), &options), git_folder.c_str());
  return repository;
}

}  // namespace

const std::vector<Tree>& trees() {
  static const std::vector<Tree> list = {
      {"brickyard", "listfiles, libraries and programs in C and C++, a submodule, tests"},
      {"yard-sources", "no description: what belongs together is found out from the sources"},
      {"yard-glazes", "meson.build: options, what configuring finds, a table that becomes a source, tests in words"},
      {"yard-heat", "a model in Fortran: modules, alternatives that exclude each other, MPI by an option"},
      {"yard-csharp", "a solution in C#: two projects, a resource, a table that lies beside the program"},
      {"yard-go", "a module in Go: two programs, tags, a package in vendor, pages that are part of a server"},
      {"yard-java", "modules in Java, told by pom.xml: archives of classes, resources that are filled in, a program"},
      {"yard-office", "checks of each kind: a server with its client, numbers, programs in a row, a log, a window"},
      {"yard-packages", "a workspace: packages that need each other, with descriptions of several kinds"}};
  return list;
}

namespace {

void commit_with_submodule(const std::string& tree) {
  const std::string module_folder = tree + "/" + submodule;
  const GitHandle<git_repository> outer(make_repository(tree, tree + "/.git"));
  const GitHandle<git_repository> inner(make_repository(module_folder, tree + "/.git/modules/" + submodule));
  const git_oid pinned = commit_all(inner.get(), "Lines of text", {});
  git_index* index = nullptr;
  check(git_repository_index(&index, outer.get()), "no index");
  const GitHandle<git_index> index_holder(index);
  git_index_entry entry{};
  entry.path = submodule;
  entry.mode = GIT_FILEMODE_COMMIT;
  entry.id = pinned;
  check(git_index_add(index, &entry), "the submodule cannot be added");
  check(git_index_write(index), "the index cannot be written");
  commit_all(outer.get(), "Software of the brickyard", {submodule});
}

}  // namespace

Result<std::string> write_tree(const std::string& name, const std::string& folder) {
  return guarded("writing the demo", [&] {
    if (std::none_of(trees().begin(), trees().end(), [&](const auto& one) { return one.name == name; })) {
      std::vector<std::string> names;
      for (const auto& one : trees()) names.push_back(one.name);
      throw Fault({Exit::usage,
                   {},
                   "there is no demo tree '" + text::printable_line(name) + "'",
                   "there are " + text::join(names, ", "),
                   "'coctilis demo --list' says what each shows",
                   {}});
    }
    const std::string tree = files::absolute(folder);
    std::error_code error;
    if (std::filesystem::exists(tree) && !std::filesystem::is_empty(tree, error)) {
      throw Fault(
          {Exit::usage, {}, "the folder '" + tree + "' is not empty", "", "name a folder that does not exist yet", {}});
    }
    bool has_submodule = false;
    for (const auto& file : embedded::demo_tree) {
      const std::string below = std::string(file.path);
      if (!below.starts_with(name + "/")) continue;
      const std::string path = tree + "/" + below.substr(name.size() + 1);
      files::write(path, file.content);
      has_submodule = has_submodule || path == tree + "/.gitmodules";
      if (path.ends_with(".sh") || path.ends_with("/configure"))
        std::filesystem::permissions(path, std::filesystem::perms::owner_exec, std::filesystem::perm_options::add);
    }
    survey::use_git_library();
    if (has_submodule) {
      commit_with_submodule(tree);
    } else {
      const GitHandle<git_repository> repository(make_repository(tree, tree + "/.git"));
      commit_all(repository.get(), "Software of the brickyard", {});
    }
    return tree;
  });
}

}  // namespace coctilis::demo
