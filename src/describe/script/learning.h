// What a script was seen to do, as recipes that can be run without it; and on what that hangs.
#pragma once

#include <map>
#include <set>
#include <string>
#include <vector>

#include "base/watched_run.h"
#include "model/project.h"

namespace coctilis::describe::script {

struct Learned {
  // Each compilation, archive and link, with its inputs and outputs; and what each of them read, absolute.
  std::vector<model::Recipe> recipes;
  std::vector<std::vector<std::string>> read;
  // They may be run without the script as long as nothing that the script does besides would come out otherwise: the
  // files that it, or what it starts besides, read; what it wrote besides; the programs that it started. Files below
  // the mirror are relative to it, others absolute; with what they were like: a hash, or what the system says of them.
  std::map<std::string, std::string> read_besides;
  std::map<std::string, std::string> written_besides;
  std::map<std::string, std::string> programs;
  bool replayable = false;
  std::string why_not;
};

// `work`: the mirror in which the script ran; `from_tree`: the files in it that came from the tree, relative. A script
// whose files could not be watched is not replayable.
[[nodiscard]] Learned learn(const WatchedRun& run, const std::string& work, const std::set<std::string>& from_tree);

enum class Role {
  other,
  step,    // compiles, archives or links
  within,  // part of what a step does
};
// The role of the program at `index`; `before`: the roles of the programs that started before it.
[[nodiscard]] Role role_of(const WatchedRun& run, std::size_t index, const std::vector<Role>& before);

// What the system says of a file, in one text: another file, or another state of it, has another. Empty: it is not
// there.
[[nodiscard]] std::string state_text(const std::string& path);

// True when all of it is as it was learned: the script need not run to know what is to be done. `tree`: the tree
// itself, whose files count where the mirror's came from it.
[[nodiscard]] bool is_as_learned(const Learned& learned, const std::string& tree, const std::string& work);

// What was kept in a file (base/kept_value.h); nothing where that is none of ours.
[[nodiscard]] Learned learned_from(const std::string& path);

}  // namespace coctilis::describe::script
