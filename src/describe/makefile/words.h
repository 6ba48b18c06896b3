// Small rules of the language of makefiles on texts: references, patterns, lists.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "describe/makefile/variables.h"

namespace coctilis::describe::makefile {

// One past the end of the reference that begins with '$' at `at`: "$x", "$(...)" or "${...}". An unclosed one ends with
// the text.
[[nodiscard]] std::size_t end_of_reference(std::string_view text, std::size_t at);
// One past the bracket that closes the one at `at`; npos when none does. Only brackets of the same kind count.
[[nodiscard]] std::size_t end_of_bracket(std::string_view text, std::size_t at);
// The first comma outside of references and brackets; npos when there is none.
[[nodiscard]] std::size_t comma_outside(std::string_view text, std::size_t from = 0);

// The text of a recipe line with line ends that a backslash hides turned into blanks within references; elsewhere they
// are the shell's.
[[nodiscard]] std::string joined_references(std::string_view text);

// Does `text` fit a pattern with at most one '%' ("\%" stands for itself)? The stem is what '%' stands for. A pattern
// without '%' fits only itself.
[[nodiscard]] bool match_pattern(const std::string& pattern, const std::string& text, std::string& stem);
// The texts before and behind the '%' of a pattern, unescaped.
[[nodiscard]] std::pair<std::string, std::string> divide_pattern(const std::string& pattern);
// The pattern with its first '%' replaced.
[[nodiscard]] std::string fill_pattern(const std::string& pattern, const std::string& stem);
// A text that is expanded a second time, with '%' of each word replaced by "$*".
[[nodiscard]] std::string late_with_stem(const std::string& text);
// patsubst for one word.
[[nodiscard]] std::string replace_pattern(const std::string& word, const std::string& pattern, const std::string& by);

// The last two letters of a name, as one number.
[[nodiscard]] constexpr std::uint16_t end_of(std::string_view name) {
  const auto letter = [&](std::size_t from_end) -> unsigned {
    return name.size() < from_end ? 0U : static_cast<unsigned char>(name[name.size() - from_end]);
  };
  return static_cast<std::uint16_t>(letter(2) << 8U | letter(1));
}

// Without "./" in front.
[[nodiscard]] std::string plain_name(std::string_view name);
// Takes "archive(member)" apart; false for any other name.
[[nodiscard]] bool split_member(const std::string& name, std::string& archive, std::string& member);
// The names in a list; "archive(a b)" stands for "archive(a)" and "archive(b)".
[[nodiscard]] std::vector<std::string> names_in(const std::string& list);
// Names before and behind '|'; ".WAIT" is left out.
void split_prerequisites(const std::string& list, std::vector<std::string>& normal,
                         std::vector<std::string>& order_only);

// What stands left and right of an assignment's operator; false when the text is none. `name` is not expanded.
[[nodiscard]] bool split_assignment(std::string_view text, std::string& name, Assign& how, std::string& value);
// The colon that divides targets from prerequisites, outside of references; npos when there is none.
[[nodiscard]] std::size_t colon_of_rule(std::string_view text);
// The first `wanted` outside of references; npos when there is none.
[[nodiscard]] std::size_t outside(std::string_view text, char wanted);
// Takes the first word off the text, with the blanks behind it.
std::string first_word(std::string& text);
// True when an operator of an assignment, or a colon, stands first.
[[nodiscard]] bool starts_with_operator(std::string_view rest);

}  // namespace coctilis::describe::makefile
