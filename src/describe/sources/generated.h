// Files that a tree without a description has to make before it can be compiled: headers from templates, and sources
// from grammars.
#pragma once

#include <functional>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "describe/sources/outside.h"
#include "describe/sources/tree.h"
#include "model/build.h"

namespace coctilis::describe::sources {

// What names in templates of headers stand for.
class HeaderValues {
 public:
  // `libc`: the symbols that programs have without a word (locate::symbols_of_toolchain). `told`: values that the tree
  // itself gives names.
  HeaderValues(Outside& outside, const std::set<std::string>& libc, std::map<std::string, std::string> macros,
               std::string tree_name, std::string version, std::map<std::string, std::string> told);
  // The value of a name ("HAVE_UNISTD_H", "PACKAGE_VERSION"): its text; nothing when it is to stay undefined.
  [[nodiscard]] std::optional<std::string> value(const std::string& name) const;
  // A template with its places filled in: "#undef NAME", "#cmakedefine NAME", "@NAME@", "${NAME}".
  [[nodiscard]] std::string filled(const std::string& text) const;
  // A header that defines those of the names that have a value, and all that the tree itself gives one.
  [[nodiscard]] std::string header(const std::set<std::string>& names) const;

 private:
  [[nodiscard]] std::string in_template(const std::string& name) const;
  Outside& outside_;
  const std::set<std::string>& libc_;
  std::map<std::string, std::string> macros_;
  std::string tree_name_;
  std::string version_;
  std::map<std::string, std::string> told_;
};

// A source or header that a generator makes of a grammar.
struct Grammar {
  std::string input;                 // relative
  std::string program;               // "bison", "flex"
  std::vector<std::string> outputs;  // names without folders; the first is a source
  bool compiled = true;              // else another source includes it
  std::vector<std::string> words;  // the command behind the program, with "{in}", "{0}" and "{1}" for input and outputs
};
// The grammars of a tree that did not come with what is made of them. `absent`: names of headers that sources ask for
// and that are not there: they tell how results are called.
[[nodiscard]] std::vector<Grammar> grammars_of(const Tree& tree, const std::set<std::string>& absent);

// A small program of the tree that writes a file which sources include.
struct Maker {
  std::string source;                // relative
  std::string output;                // the file's name, as it is included
  std::string folder;                // relative: where it would lie
  bool on_output = false;            // it prints the file; else it writes it into the folder where it runs
  std::vector<std::string> include;  // absolute: where its headers lie
};

// Whether a file is called like a grammar.
[[nodiscard]] bool is_grammar(const std::string& path);
// What the generator gets behind its name.
[[nodiscard]] std::vector<std::string> command_words(const Grammar& grammar, const std::string& input,
                                                     const std::vector<std::string>& outputs);

// The names that a template of `header` may have: "clay.h.in", ...
[[nodiscard]] std::vector<std::string> template_names(const std::string& header);

}  // namespace coctilis::describe::sources
