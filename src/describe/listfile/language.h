// The text of CMakeLists.txt and *.cmake files, taken apart: calls with their arguments, and the blocks they form.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"

namespace coctilis::describe::listfile {

struct Argument {
  enum class Kind { unquoted, quoted, bracket };
  Kind kind = Kind::unquoted;
  std::string text;  // as written, escapes and references still in it (bracket: final)
  int line = 0;
  bool plain = false;  // one word that stands for itself: nothing in it is to be replaced
};

class Evaluator;
struct Invocation;
// What a command of the language does.
using Command = void (*)(Evaluator&, const Invocation&);

struct Call {
  std::string name;     // in small letters
  std::string written;  // as in the file
  std::vector<Argument> arguments;
  int line = 0;
  int column = 0;
  // The command that the name stood for when it was called last, and how many functions had been defined by then: with
  // no more of them it still does.
  mutable Command command = nullptr;
  mutable std::size_t functions_then = 0;
};

struct Node;
using Body = std::vector<Node>;

// One call, or a block that a call opens.
struct Node {
  Call call;
  bool block = false;  // the call opens one
  Body body;           // of if, foreach, while, function, macro, block
  struct Branch {
    Call call;  // elseif or else
    Body body;
  };
  std::vector<Branch> branches;
};

struct File {
  std::string path;
  Body body;
};

// Parses a whole file. Throws Fault (Exit::description) with place for anything that is not well formed: an argument
// without end, a missing parenthesis, a block without end.
[[nodiscard]] std::shared_ptr<const File> parse(std::string_view content, const std::string& path);

}  // namespace coctilis::describe::listfile
