// The tool that belongs to the language of CMakeLists.txt, as commands call it: its small operations are done by this
// program itself.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace coctilis::describe::listfile {
// The name that stands for it once it is known: the first word of such a command. An operation (copying, making
// folders,
// ...) has "-E" for its second word and its name for the third.
inline constexpr const char* tool_word = "coctilis-tool";
// The description's own tool called by its plain name, as trees do that do not ask a variable for it: the first word
// becomes tool_word.
void name_tool(std::vector<std::string>& words, std::size_t at = 0);

// What stands in front of a program and changes what it runs in: the tool's operations "env" and "chdir".
struct Surroundings {
  std::map<std::string, std::optional<std::string>> environment;  // a value sets, nothing unsets
  std::string folder;                                             // absolute
};
// Takes such words off the front of a command that would run in `folder` (absolute), and names the tool if it comes
// next. Nothing may be left; an option of "env" that is not known is left in front.
[[nodiscard]] Surroundings take_surroundings(std::vector<std::string>& words, const std::string& folder);

}  // namespace coctilis::describe::listfile
