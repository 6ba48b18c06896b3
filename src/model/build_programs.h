// Programs that would do Coctilis's own work in its place. They are never started, whatever a tree asks for.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace coctilis::model {
// True when `program` (a name or a path) is one of them.
[[nodiscard]] bool is_build_program(const std::string& program);
// The name by which readers hand on calls of the tool whose small operations (copying, making folders, ...) the engine
// does itself: the first word of such a command; the second is "-E", the third the operation.
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

}  // namespace coctilis::model
