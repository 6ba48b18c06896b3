// A tree in a temporary folder, and the program to drive on it.
#pragma once

#include <gtest/gtest.h>

#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "base/files.h"
#include "base/process.h"

namespace coctilis::test {

class TreeFolder {
 public:
  TreeFolder();
  // The tree; beside it lies the kiln.
  [[nodiscard]] std::string path(const std::string& below = {}) const;
  void write(const std::string& below, const std::string& text) const;
  [[nodiscard]] std::string read(const std::string& below) const;
  [[nodiscard]] std::string kiln() const { return scratch_.path().string() + "/out"; }
  // The only label in the kiln.
  [[nodiscard]] std::string label_folder() const;
  [[nodiscard]] std::string scratch() const { return scratch_.path().string(); }
  // The record of the newest run there; an empty one when there is none.
  [[nodiscard]] nlohmann::json record() const;
  // What that run did, by its subject; what was up to date is not among it.
  [[nodiscard]] std::set<std::string> ran() const;
  // The texts with the tree's path called TREE.
  [[nodiscard]] std::vector<std::string> named(std::vector<std::string> texts) const;

 private:
  files::ScratchFolder scratch_;
};

// A text that is read, and what it says; the name is the test's.
struct Saying {
  const char* name;
  const char* text;
  std::vector<std::string> says;
};
inline std::string name_of_saying(const testing::TestParamInfo<Saying>& info) { return info.param.name; }

struct Said {
  int exit = -1;
  std::string out;
  std::string err;
  [[nodiscard]] nlohmann::json json() const { return nlohmann::json::parse(out); }
  // Both, with line breaks of the layout taken out: what was said, however it was wrapped.
  [[nodiscard]] std::string all() const;
};

// Runs the program with `arguments` and no terminal.
Said coctilis(const std::vector<std::string>& arguments,
              const std::map<std::string, std::optional<std::string>>& environment = {},
              const std::string& folder = "/");
// The same as a user for whom the modes of files count, also when this is the superuser.
Said coctilis_by_modes(const std::vector<std::string>& arguments);

// From now on the modes of files count for this thread as for any user, also when it is the superuser's. False when
// that cannot be brought about.
[[nodiscard]] bool obey_modes();

// A tree that the program is driven on, with a kiln beside it.
class DrivenTree : public testing::Test {
 protected:
  Said run(const std::string& command, const std::vector<std::string>& more = {}) const;
  // Builds the tree on a terminal that shows colours; what stands there in the end.
  [[nodiscard]] Said built_on_a_terminal() const;
  // What a program that was built says.
  [[nodiscard]] std::string said_by(const std::string& name) const;
  [[nodiscard]] bool is_built(const std::string& name) const;
  TreeFolder tree;
};

// A brickyard of one program, enough to be brought up.
void write_small_tree(const TreeFolder& tree);

}  // namespace coctilis::test
