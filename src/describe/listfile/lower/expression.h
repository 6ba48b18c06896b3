// Expressions $<...> in words of a description: what they stand for is known once all targets are.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "describe/listfile/declared.h"
#include "model/toolchain.h"

namespace coctilis::describe::listfile::lower {

// What an expression may ask of the plan.
struct ExpressionHost {
  // "FILE", "LINKER_FILE" or "SONAME_FILE" of a target: its absolute path. Empty when it has none.
  std::function<std::string(const Target&, const std::string&)> file;
  // All objects of a target.
  std::function<std::vector<std::string>(const Target&)> objects;
  // A property as it counts with all that linked targets hand on; nothing when it is not one of that kind.
  std::function<bool(const Target&, const std::string&, std::string&)> gathered;
};

// Where an expression stands.
struct ExpressionContext {
  const Target* target = nullptr;  // whose words are worked out: the one that is made
  std::string language;            // of the compilation: "C", "C++", "Assembler"; empty outside of one
  bool linking = false;            // link items for the linker, not for usage requirements
  bool installing = false;
  Place place;
  int depth = 0;
  // Targets whose files an expression named: they have to be made first.
  std::vector<std::string>* named_targets = nullptr;
};

class Expressions {
 public:
  Expressions(const Declared& project, const model::Toolchain& toolchain, ExpressionHost host)
      : project_(project), toolchain_(toolchain), host_(std::move(host)) {}

  // The text with every expression replaced. Throws Fault (Exit::description) for what is not understood.
  [[nodiscard]] std::string evaluate(const std::string& text, const ExpressionContext& context) const;
  // Every value worked out and divided at semicolons; empty elements are left out.
  [[nodiscard]] std::vector<std::string> evaluate(const Values& values, const ExpressionContext& context) const;

 private:
  std::string one(const std::string& name, const std::string& raw, const ExpressionContext& context) const;
  std::string target_property(const std::vector<std::string>& args, const ExpressionContext& context) const;
  [[nodiscard]] const Target& target(const std::string& name, const ExpressionContext& context) const;
  [[noreturn]] static void fail(const ExpressionContext& context, const std::string& what,
                                const std::string& remedy = {});
  [[noreturn]] static void not_understood(const ExpressionContext& context, const std::string& what);

  const Declared& project_;
  const model::Toolchain& toolchain_;
  ExpressionHost host_;
};

}  // namespace coctilis::describe::listfile::lower
