// The text of meson.build files: what is read of them before anything is evaluated.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "base/result.h"

namespace coctilis::describe::meson_build {

struct Node;
using NodePtr = std::unique_ptr<Node>;

// A part of an expression. Which members mean something hangs on the kind.
struct Node {
  enum class Kind {
    boolean,     // number: 0 or 1
    number,      // number
    text,        // text
    format,      // text with @NAME@ for variables: f'...'
    name,        // text
    array,       // children
    dictionary,  // keyed: keys and values
    call,        // text(children, named)
    method,      // children[0].text(children from 1 on, named)
    index,       // children[0][children[1]]
    operation,   // text: "+", "not in" ...; one or two children
    choice       // children: condition, then, else
  };
  Kind kind = Kind::name;
  std::string text;
  std::int64_t number = 0;
  std::vector<NodePtr> children;
  std::vector<std::pair<NodePtr, NodePtr>> keyed;
  std::vector<std::pair<std::string, NodePtr>> named;
  int line = 0;
  int depth = 0;  // of what is evaluated within what
};

struct Statement {
  enum class Kind { expression, assign, add, branch, loop, leave_loop, next_round };
  Kind kind = Kind::expression;
  std::vector<std::string> names;  // that are assigned, or stand for what is gone over
  NodePtr value;                   // or what is gone over
  // Of a branch: conditions with what they lead to; the condition of "else" is null. Of a loop: one of them.
  std::vector<std::pair<NodePtr, std::vector<Statement>>> bodies;
  int line = 0;
};

// Throws Fault (Exit::description) with file and line: what is not closed, not expected, or nested without end.
// `shown`: how the file is called in messages.
[[nodiscard]] std::vector<Statement> parse(const std::string& text, const std::string& shown);

}  // namespace coctilis::describe::meson_build
