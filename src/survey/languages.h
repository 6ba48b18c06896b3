// Programming languages by file name, and the counting of their lines.
#pragma once

#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace coctilis::survey {

// How a language writes its comments and strings; empty strings where it has none.
struct LanguageSyntax {
  std::string_view name;
  std::vector<std::string_view> extensions;  // with the dot, case counts; a name without a dot is a whole file name
  std::string_view line_comment;
  std::string_view second_line_comment;
  std::string_view block_begin;
  std::string_view block_end;
  std::string_view quotes;  // characters that open and close a string on one line, backslash escapes
  bool compiled = true;     // sources that a compiler turns into objects
  bool header = false;
  // How a program begins in it: in a function called main, with a PROGRAM statement (ISO/IEC 1539-1:2018, 14.1), in a
  // static method of a class called main or Main, or in a function that is said to be one ("func main").
  enum class Entry { unknown, main_function, program_statement, static_method, main_func } entry = Entry::unknown;
  // Its sources become objects that are linked, by the compiler of the language that comes last in this order among
  // those that are linked together. 0: no objects, or of a language that is not compiled here.
  int link_rank = 0;
};

// All languages known; the first one that has the file's extension counts.
[[nodiscard]] const std::vector<LanguageSyntax>& languages();
// The language of a file by its name; nullptr when it is none.
[[nodiscard]] const LanguageSyntax* language_of(std::string_view file_name);
// The language that a compiler driver uses for a source file: "C", "C++", "Fortran", "Assembler", or "" if it is none
// it compiles.
[[nodiscard]] std::string compiled_language(std::string_view file_name);
// Of languages whose objects are linked together the one whose compiler links; "C" when none is known.
[[nodiscard]] std::string linking_language(const std::set<std::string>& languages);
// True for files that are included, not compiled.
[[nodiscard]] bool is_header(std::string_view file_name);

struct LineCount {
  std::size_t code = 0;
  std::size_t comment = 0;
  std::size_t blank = 0;
  std::vector<int> entry_lines;  // lines in which a program begins
};

// Counts the lines of a file's content. A line with code and comment counts as code.
[[nodiscard]] LineCount count_lines(std::string_view content, const LanguageSyntax& language);

}  // namespace coctilis::survey
