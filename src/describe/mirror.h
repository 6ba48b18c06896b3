// A copy of the tree in the kiln, for descriptions that build inside the tree. It is kept in step with the tree by
// content: what the build writes there stays until the tree has something else.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::describe {

struct Mirrored {
  std::size_t files = 0;
  std::size_t copied = 0;   // new or changed since the last time
  std::size_t removed = 0;  // gone from the tree
};

// Brings `to` (absolute) in step with `tree` (absolute). Repositories' own data, kilns, and objects that lie beside
// their sources (left by a build inside the tree) are not taken over. Times are those of the tree when it is copied
// first, as far as they do not lie in the future; what is changed afterwards is as new as the change is noticed,
// whatever its date says. Files that a release ships ready made (configure, Makefile.in, what yacc and lex write,
// manuals) count as newer than what they are made from. A file that cannot be read stands there empty, and cannot be
// read there either. A copy that is another than it was put there stays so when a script that configures the tree has
// written it, or a step of the build, which `made_by_step` tells of a file there (absolute); else it is put there anew.
// Without `made_by_step` it always stays. Errors: `to` cannot be written (Exit::kiln), a folder cannot be read
// (Exit::description).
[[nodiscard]] Result<Mirrored> mirror(const std::string& tree, const std::string& to,
                                      const std::function<bool(const std::string&)>& made_by_step = {});

// Paths of all files that a mirror has from its tree, relative, sorted.
[[nodiscard]] std::vector<std::string> mirrored_files(const std::string& to);

// Files below a mirror that did not come from the tree, or are not as they came: what a build made. Absolute.
[[nodiscard]] std::vector<std::string> made_in_mirror(const std::string& to);

// Takes everything out of a mirror that did not come from the tree, or is not as it came, and brings it in step again.
[[nodiscard]] Result<Mirrored> take_away_what_was_made(const std::string& tree, const std::string& to);

// What lies in a mirror before any step of a plan runs: what came from the tree, and what a script left that configures
// it. Knows of each file how it was put there.
class Given {
 public:
  explicit Given(const std::string& mirror);
  ~Given();
  Given(const Given&) = delete;
  Given& operator=(const Given&) = delete;
  // True when the file (absolute) is one of these, and nobody has touched it since.
  [[nodiscard]] bool contains(const std::string& path) const;
  // True when the file (absolute) was noted, and its content is what it was then.
  [[nodiscard]] bool was_noted(const std::string& path) const;
  // Notes what was written in the mirror since `when` (file_clock()) and did not come from the tree, or not as it is,
  // in place of what was noted before. Throws Fault (Exit::kiln).
  static void note_since(const std::string& mirror, std::int64_t when);
  // Files (absolute) that were noted and whose content is now another, or that are gone.
  [[nodiscard]] std::vector<std::string> changed() const;

 private:
  struct Files;
  [[nodiscard]] const Files& files() const;
  std::string mirror_;
  mutable std::unique_ptr<Files> files_;  // read when first asked for
};
// Given::contains of that mirror, as a function that can be handed on.
[[nodiscard]] std::function<bool(const std::string&)> given_in(const std::string& mirror);

}  // namespace coctilis::describe
