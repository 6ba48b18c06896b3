// The words that a script insists on: those its user gives, those the tree's documents call it with, or the one that
// its own usage text leaves.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::describe::script {

struct Arguments {
  std::vector<std::string> words;
  Place from;  // where they stand; empty: its user gave them, or there are none
};

// `name`: the script, relative to `tree` (absolute); `content`: its text; `given`: what its user says, which is taken
// as it is. A script that does not insist on any gets none. Words are taken from documents (README, INSTALL, ...) when
// all that call it with words have the same, from its usage text when that leaves one word: the only one, that for this
// system, or that which names the variant.
[[nodiscard]] Arguments arguments_for(const std::string& name, const std::string& content, const std::string& tree,
                                      const std::vector<std::string>& given, const std::string& variant);

// The lines of an output, or of a script, that tell how a program is called; empty when there are none. At most 12.
[[nodiscard]] std::string usage_in(const std::string& output);

}  // namespace coctilis::describe::script
