// The structure of project files (*.pro, *.pri, *.prf): assignments, conditions with what hangs on them, loops and
// functions. Values stay as they are written; the evaluator expands them.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::describe::pro {

struct Node;
using Nodes = std::vector<Node>;

// One condition of several: "win32", "!exists(clay.pri)".
struct Test {
  std::string text;  // a name, or a call with its arguments, as written
  bool negated = false;
  bool alternative = false;  // "|" stands before it, else ":"
};

struct Node {
  enum class Kind {
    assignment,
    condition,  // tests, and what is done when they hold; a call alone has nothing
    loop,       // for(name, list)
    function    // defineTest, defineReplace
  };
  Kind kind = Kind::assignment;
  int line = 0;
  std::string name;       // of the variable or function
  std::string operation;  // "=", "+=", "-=", "*=", "~="
  std::string value;      // as written; of a loop: the list
  std::vector<Test> tests;
  bool gives_value = false;  // of a function: defineReplace
  Nodes body;
  Nodes otherwise;           // behind "else"
  bool else_closed = false;  // that is a block: a further "else" is not about what is in it
};

// Throws Fault (Exit::description) with file and line of what is not balanced.
[[nodiscard]] std::shared_ptr<const Nodes> parse(const std::string& content, const std::string& file);

// The arguments of a call, or of a list that is separated by commas; as written, without blanks around them.
[[nodiscard]] std::vector<std::string> arguments_in(const std::string& text);

}  // namespace coctilis::describe::pro
