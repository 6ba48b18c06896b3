// Small git repositories for tests, made through libgit2.
#pragma once

#include <map>
#include <string>

namespace coctilis::test {

// Makes a repository in `folder` (or takes the one there), writes the files, commits all of it and gives the revision.
std::string commit(const std::string& folder, const std::map<std::string, std::string>& files);

// Writes a submodule into .gitmodules and the index of the repository in `folder`, at a revision, and commits that.
// The submodule's own folder is left empty.
std::string add_submodule(const std::string& folder, const std::string& path, const std::string& url,
                          const std::string& revision);

// Clones without submodules.
void clone(const std::string& from, const std::string& to);

}  // namespace coctilis::test
