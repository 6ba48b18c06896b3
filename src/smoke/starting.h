// What a program that was started with one word says, when it ends with a failing code: whether it has started, and
// does not like the word, or has come upon an error.
#pragma once

#include <string>

namespace coctilis::smoke {

struct Answer {
  enum class Kind {
    usage,   // it tells how it is called
    word,    // it speaks of the word that it was given, or of words that it lacks
    error,   // it tells of an error
    other,   // something else
    nothing  // it said nothing
  };
  Kind kind = Kind::nothing;
  std::string line;  // of an error: the first line that tells of it
};

// Judges the output of a program that was given `option`.
[[nodiscard]] Answer answer_of(const std::string& output, const std::string& option);

// A file that an error line says is not there, with its whole path; empty when it names none.
[[nodiscard]] std::string absent_file_in(const std::string& line);

}  // namespace coctilis::smoke
