// Variables of makefiles (POSIX.1-2024, XCU make, "Macros").
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

namespace coctilis::describe::makefile {

// Where a value comes from; a later one wins over an earlier one.
enum class Origin { undefined, built_in, environment, file, environment_override, command_line, override_, automatic };
[[nodiscard]] constexpr const char* name_of(Origin origin) {
  switch (origin) {
    case Origin::undefined: return "undefined";
    case Origin::built_in: return "default";
    case Origin::environment: return "environment";
    case Origin::file: return "file";
    case Origin::environment_override: return "environment override";
    case Origin::command_line: return "command line";
    case Origin::override_: return "override";
    case Origin::automatic: return "automatic";
  }
  return "";
}

struct Variable {
  std::string value;
  bool recursive = true;  // expanded each time it is used; else its value is final
  Origin origin = Origin::file;
  std::optional<bool> exported;  // nothing: as the rule for all says
};

using Variables = std::unordered_map<std::string, Variable>;

// Variables of one target, and behind them those of the target that wants it.
struct Scope {
  Variables variables;
  std::unordered_map<std::string, bool> own_only;  // not seen by prerequisites
  std::shared_ptr<const Scope> parent;
};

// How a value is given: "=", ":=", ":::=", "+=", "?=", "!=".
enum class Assign { recursive, simple, expanded_once, append, if_unset, shell };

struct Assignment {
  std::string name;
  Assign how = Assign::recursive;
  std::string value;  // as written; of a simple one of a target: expanded where it stood
  bool override_ = false;
  bool private_ = false;
  std::optional<bool> exported;
};

}  // namespace coctilis::describe::makefile
