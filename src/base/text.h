// Small pure functions on text: splitting, quoting, and making foreign bytes safe to show.
#pragma once

#include <cstdint>
#include <ctime>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace coctilis::text {

// Removes blanks, tabs and line ends at both ends.
[[nodiscard]] std::string_view trim(std::string_view s);
// The pieces between separators, empty ones included; "" gives one empty piece.
[[nodiscard]] std::vector<std::string> split(std::string_view s, char separator);
// The pieces between runs of white space; none are empty.
[[nodiscard]] std::vector<std::string> words(std::string_view s);
[[nodiscard]] std::string join(const std::vector<std::string>& parts, std::string_view separator);
[[nodiscard]] std::string lower(std::string_view s);
[[nodiscard]] std::string upper(std::string_view s);
// Replaces every occurrence of `from` (not empty).
[[nodiscard]] std::string replace_all(std::string s, std::string_view from, std::string_view to);

// Splits a command line as POSIX shells split words (POSIX.1-2017, XCU 2.2 quoting, 2.6.5 field splitting): single and
// double quotes and backslashes; no expansion of any kind.
[[nodiscard]] std::vector<std::string> shell_words(std::string_view s);
// One word, quoted so that a POSIX shell reads it back unchanged.
[[nodiscard]] std::string shell_quote(std::string_view s);
[[nodiscard]] std::string shell_join(const std::vector<std::string>& argv);
// The names of variables that a text refers to as a shell would take them: $NAME, ${NAME...} (POSIX.1-2024, XCU 2.6.2).
[[nodiscard]] std::set<std::string> variables_in(std::string_view text);

enum class Colour { strip, keep };
// Foreign bytes made safe for a terminal, a log or a document: valid UTF-8, no control characters except line end and
// tab, no escape sequences (with Colour::keep, those that set weights, and colours that show on any ground, stay).
[[nodiscard]] std::string printable(std::string_view s, Colour colour = Colour::strip);
// The same on one line: line ends and tabs become blanks.
[[nodiscard]] std::string printable_line(std::string_view s);
// True when all of `s` is valid UTF-8 (RFC 3629).
[[nodiscard]] bool is_utf8(std::string_view s);
// Columns that `s` takes on a terminal, counting code points; escape sequences count nothing.
[[nodiscard]] std::size_t columns(std::string_view s);
// Shortens `s` to `width` columns; an ellipsis marks the cut.
[[nodiscard]] std::string clip(std::string_view s, std::size_t width);
// "1 file", "3 files".
[[nodiscard]] std::string count(std::size_t n, std::string_view singular, std::string_view plural = {});
// Decimal with a thin separator: 12345 -> "12,345".
[[nodiscard]] std::string grouped(std::uint64_t n);
// "480 B", "3.2 kB", "14 MB": powers of 1000.
[[nodiscard]] std::string size(std::uint64_t bytes);
// A time in a form of strftime(3), in UTC (`universal`) or as it is at this place.
[[nodiscard]] std::string time_in_form(std::time_t when, const std::string& form, bool universal);
// "40 ms", "3.2 s", "4 min 05 s", "2 h 10 min".
[[nodiscard]] std::string duration(double seconds);
// Escapes the five special characters of HTML and XML; foreign bytes are made printable first.
[[nodiscard]] std::string html(std::string_view s);
// Bytes in letters (RFC 4648, section 4).
[[nodiscard]] std::string base64(std::string_view bytes);

// Compares versions: runs of digits as numbers, the rest as text, pieces divided by anything else. Returns <0, 0 or >0.
// Missing pieces count as 0, so 1.2 equals 1.2.0.
[[nodiscard]] int compare_versions(std::string_view a, std::string_view b);
// True when `version` meets a constraint such as ">= 2.1, < 3", "= 4" or "2.1" (which means at least). An empty
// constraint is always met; an unreadable one never.
[[nodiscard]] bool version_meets(std::string_view version, std::string_view constraint);

// How many single-letter edits lead from a to b (Levenshtein); used to propose what was meant.
[[nodiscard]] std::size_t edit_distance(std::string_view a, std::string_view b);

}  // namespace coctilis::text
