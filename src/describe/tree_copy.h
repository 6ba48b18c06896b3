// The copy of a tree that lies in the kiln because something of the tree writes where its sources lie, and the note
// that it is needed.
#pragma once

#include <string>

#include "base/result.h"

namespace coctilis::describe {

// Thrown while a description is read that can only be followed in a copy.
struct NeedsCopy {
  Problem why;
};

// Where the copy lies for a folder for results.
[[nodiscard]] std::string copy_of(const std::string& work);
[[nodiscard]] bool is_copy_needed(const std::string& work);
// From the next time on the copy is used: place and words of what needs it are noted.
void use_copy(const std::string& work, const Problem& why);
void forget_copy(const std::string& work);
// The remark for the user, from the note; empty `what` when there is none.
[[nodiscard]] Problem why_copy(const std::string& work);

}  // namespace coctilis::describe
