// Trees that a description configures, builds or installs while it is read: each is brought up by this program itself,
// as a tree of its own with a kiln of its own.
#pragma once

#include <string>
#include <vector>

namespace coctilis::describe::listfile {

class Evaluator;
struct Invocation;

struct InnerCall {
  enum class Kind { configure, build, install };
  Kind kind = Kind::configure;
  std::string source;                // absolute; empty: the one that `binary` was configured for
  std::string binary;                // absolute, in the output folder
  std::vector<std::string> sets;     // NAME=VALUE
  std::vector<std::string> targets;  // empty: the default ones
  std::string prefix;                // to install to
};

// Takes "-DNAME=VALUE" or "-DNAME:TYPE=VALUE" in; false when it is neither.
bool add_setting(InnerCall& call, const std::string& word);

// The call that these words of the description's own tool (without its name) are, given in `folder`: to configure a
// folder, "--build FOLDER ..." or "--install FOLDER ...". False when they are none of these.
[[nodiscard]] bool understand_inner(const std::vector<std::string>& words, const std::string& folder, InnerCall& call);

struct InnerDone {
  int status = 0;  // 0: good; else the exit code of this program, 1 when it was stopped
  std::string output;
};
// Does it. Throws Fault with the inner tree's own words when something that it needs is missing (Exit::missing), which
// the description cannot know how to tell.
[[nodiscard]] InnerDone run_inner(Evaluator& e, const Invocation& i, InnerCall call);

}  // namespace coctilis::describe::listfile
