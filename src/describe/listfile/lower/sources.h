// The sources of targets: found, with their languages and what is said of each by itself.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "describe/listfile/declared.h"
#include "describe/listfile/lower/expression.h"
#include "describe/listfile/lower/rules.h"
#include "describe/listfile/lower/usage.h"

namespace coctilis::describe::listfile::lower {

// A source of a target, found.
struct Source {
  std::string path;      // absolute
  std::string language;  // empty: not compiled
  Place place;
  [[nodiscard]] bool is_object() const { return path.ends_with(".o"); }
};

class Sources {
 public:
  // All must outlive this.
  Sources(const Declared& project, const Expressions& expressions, const Usage& usage, const Rules& rules)
      : project_(project), expressions_(expressions), usage_(usage), rules_(rules) {}

  // The sources of a target and those that what it uses hands on, each once. Throws Fault (Exit::description) for one
  // that is not there and that nothing makes.
  [[nodiscard]] std::vector<Source> of(const Target& target) const;
  // Options for this source alone, in the order of the command.
  [[nodiscard]] std::vector<std::string> options(const Target& target, const Source& source) const;
  // Files besides it whose content matters, absolute.
  [[nodiscard]] std::vector<std::string> inputs(const Target& target, const Source& source) const;
  // A property of the source, elements joined with ';'; "" when it is not set.
  [[nodiscard]] std::string property(const std::string& path, const std::string& name) const;
  // All objects of a target, absolute.
  [[nodiscard]] std::vector<std::string> objects(const Target& target) const;

 private:
  [[nodiscard]] Source resolve(const Target& target, const std::string& text, const Value& from) const;
  // The file that is meant; `plain` gets the name as written, where it turns out to be that of another file.
  [[nodiscard]] std::string find(const std::vector<std::string>& candidates, const std::string& text,
                                 std::string& plain) const;
  [[nodiscard]] bool is_generated(const std::string& path) const;
  [[nodiscard]] bool language_enabled(const std::string& language) const;
  // What properties of a source are kept under: its path, or its name as written without an ending.
  [[nodiscard]] const SourceProperties* properties(const std::string& path) const;

  const Declared& project_;
  const Expressions& expressions_;
  const Usage& usage_;
  const Rules& rules_;
  mutable std::map<std::string, std::string> written_as_;
};

}  // namespace coctilis::describe::listfile::lower
