#include "base/text.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <clocale>
#include <cmath>
#include <cwchar>

namespace coctilis::text {

namespace {
bool is_space(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' || c == '\v'; }
bool is_digit(char c) { return c >= '0' && c <= '9'; }

// Length of the valid UTF-8 sequence at s[i], or 0 (RFC 3629: no surrogates, no overlong forms).
std::size_t utf8_length(std::string_view s, std::size_t i) {
  auto at = [&](std::size_t k) { return k < s.size() ? static_cast<unsigned char>(s[k]) : 0U; };
  auto tail = [&](std::size_t k) { return (at(k) & 0xC0U) == 0x80U; };
  const unsigned c = at(i);
  if (c < 0x80) return 1;
  if (c >= 0xC2 && c <= 0xDF) return tail(i + 1) ? 2 : 0;
  if (c >= 0xE0 && c <= 0xEF) {
    if (!tail(i + 1) || !tail(i + 2)) return 0;
    if (c == 0xE0 && at(i + 1) < 0xA0) return 0;
    if (c == 0xED && at(i + 1) > 0x9F) return 0;
    return 3;
  }
  if (c >= 0xF0 && c <= 0xF4) {
    if (!tail(i + 1) || !tail(i + 2) || !tail(i + 3)) return 0;
    if (c == 0xF0 && at(i + 1) < 0x90) return 0;
    if (c == 0xF4 && at(i + 1) > 0x8F) return 0;
    return 4;
  }
  return 0;
}

// End of the escape sequence that starts at s[i] == ESC (ECMA-48 5.4 control sequences, 5.6 control strings).
std::size_t escape_end(std::string_view s, std::size_t i) {
  std::size_t k = i + 1;
  if (k >= s.size()) return k;
  const char kind = s[k++];
  if (kind == '[') {
    while (k < s.size() && s[k] >= 0x20 && s[k] <= 0x3F) ++k;
    return k < s.size() && s[k] >= 0x40 && s[k] <= 0x7E ? k + 1 : k;
  }
  if (kind == ']' || kind == 'P' || kind == '^' || kind == '_' || kind == 'X') {
    for (; k < s.size(); ++k) {
      if (s[k] == '\a') return k + 1;
      if (s[k] == '\x1b' && k + 1 < s.size() && s[k + 1] == '\\') return k + 2;
      if (s[k] == '\n') return k;  // an unterminated string must not swallow the rest
    }
    return k;
  }
  return k;
}

// Of a sequence that sets colours and weights (ECMA-48 8.3.117, SGR) what makes letters red to cyan, or heavy, and what
// ends that; nothing that hides text: no conceal, no background, and no colour that a terminal's ground may have
// itself.
std::string harmless_part(std::string_view sequence) {
  if (sequence.size() < 3 || sequence[1] != '[' || sequence.back() != 'm') return {};
  std::string kept;
  const auto numbers = sequence.substr(2, sequence.size() - 3);
  for (std::size_t at = 0; at <= numbers.size();) {
    const auto end = std::min(numbers.find(';', at), numbers.size());
    std::string_view number = numbers.substr(at, end - at);
    at = end + 1;
    while (number.size() > 1 && number[0] == '0') number.remove_prefix(1);
    // What follows belongs to the number before it.
    if (number == "38" || number == "48" || number == "58") break;
    const bool ends = number.empty() || number == "0" || number == "22" || number == "39";
    const bool colour =
        number.size() == 2 && (number[0] == '3' || number[0] == '9') && number[1] >= '1' && number[1] <= '6';
    if (!ends && number != "1" && !colour) continue;
    kept += (kept.empty() ? "" : ";") + std::string(number.empty() ? "0" : number);
  }
  return kept.empty() ? kept : "\x1b[" + kept + "m";
}
}  // namespace

std::string_view trim(std::string_view s) {
  while (!s.empty() && is_space(s.front())) s.remove_prefix(1);
  while (!s.empty() && is_space(s.back())) s.remove_suffix(1);
  return s;
}

std::vector<std::string> split(std::string_view s, char separator) {
  std::vector<std::string> out;
  for (;;) {
    const auto at = s.find(separator);
    out.emplace_back(s.substr(0, at));
    if (at == std::string_view::npos) return out;
    s.remove_prefix(at + 1);
  }
}

std::vector<std::string> words(std::string_view s) {
  std::vector<std::string> out;
  std::size_t i = 0;
  while (i < s.size()) {
    while (i < s.size() && is_space(s[i])) ++i;
    const std::size_t start = i;
    while (i < s.size() && !is_space(s[i])) ++i;
    if (i > start) out.emplace_back(s.substr(start, i - start));
  }
  return out;
}

std::string join(const std::vector<std::string>& parts, std::string_view separator) {
  std::string out;
  for (std::size_t i = 0; i < parts.size(); ++i) {
    if (i != 0) out += separator;
    out += parts[i];
  }
  return out;
}

std::string lower(std::string_view s) {
  std::string out(s);
  for (char& c : out) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

std::string upper(std::string_view s) {
  std::string out(s);
  for (char& c : out) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  return out;
}

std::string replace_all(std::string s, std::string_view from, std::string_view to) {
  auto at = s.find(from);
  if (at == std::string::npos) return s;
  std::string out;
  std::size_t begin = 0;
  for (; at != std::string::npos; at = s.find(from, begin)) {
    out.append(s, begin, at - begin).append(to);
    begin = at + from.size();
  }
  return out.append(s, begin);
}

std::vector<std::string> shell_words(std::string_view s) {
  std::vector<std::string> out;
  std::string word;
  bool open = false;
  char quote = 0;
  for (std::size_t i = 0; i < s.size(); ++i) {
    const char c = s[i];
    if (quote == '\'') {
      if (c == '\'')
        quote = 0;
      else
        word += c;
    } else if (quote == '"') {
      if (c == '"') {
        quote = 0;
      } else if (c == '\\' && i + 1 < s.size() &&
                 std::string_view("\\\"$`\n").find(s[i + 1]) != std::string_view::npos) {
        word += s[++i];
      } else {
        word += c;
      }
    } else if (c == '\'' || c == '"') {
      quote = c;
      open = true;
    } else if (c == '\\' && i + 1 < s.size()) {
      word += s[++i];
      open = true;
    } else if (is_space(c)) {
      if (open) out.push_back(word);
      word.clear();
      open = false;
    } else {
      word += c;
      open = true;
    }
  }
  if (open) out.push_back(word);
  return out;
}

std::string shell_quote(std::string_view s) {
  constexpr std::string_view safe = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_@%+=:,./-";
  if (!s.empty() && s.find_first_not_of(safe) == std::string_view::npos) return std::string(s);
  return "'" + replace_all(std::string(s), "'", "'\\''") + "'";
}

std::set<std::string> variables_in(std::string_view text) {
  std::set<std::string> out;
  for (auto at = text.find('$'); at != std::string_view::npos; at = text.find('$', at)) {
    ++at;
    if (at < text.size() && text[at] == '{') ++at;
    const auto begin = at;
    while (at < text.size() && (std::isalnum(static_cast<unsigned char>(text[at])) != 0 || text[at] == '_')) ++at;
    if (at > begin) out.emplace(text.substr(begin, at - begin));
  }
  return out;
}

std::string shell_join(const std::vector<std::string>& argv) {
  std::string out;
  for (const auto& word : argv) {
    if (!out.empty()) out += ' ';
    out += shell_quote(word);
  }
  return out;
}

std::string printable(std::string_view s, Colour colour) {
  std::string out;
  out.reserve(s.size());
  bool coloured = false;
  for (std::size_t i = 0; i < s.size();) {
    const auto c = static_cast<unsigned char>(s[i]);
    if (c == 0x1B) {
      const std::size_t end = escape_end(s, i);
      const std::string_view sequence = s.substr(i, end - i);
      if (const auto kept = colour == Colour::keep ? harmless_part(sequence) : std::string(); !kept.empty()) {
        out += kept;
        coloured = true;
      }
      i = end;
    } else if (c == '\n' || c == '\t') {
      out += s[i++];
    } else if (c == '\r') {
      if (i + 1 >= s.size() || s[i + 1] != '\n') out += '\n';
      ++i;
    } else if (c < 0x20 || c == 0x7F) {
      ++i;
    } else {
      const std::size_t n = utf8_length(s, i);
      // U+0080..U+009F are control characters too (ECMA-48 C1), and the bidirectional overrides reorder what is shown.
      const bool c1 = n == 2 && c == 0xC2 && static_cast<unsigned char>(s[i + 1]) < 0xA0;
      const std::string_view three = n == 3 ? s.substr(i, 3) : std::string_view{};
      const bool bidi = (three >= "\xE2\x80\xAA" && three <= "\xE2\x80\xAE") ||
                        (three >= "\xE2\x81\xA6" && three <= "\xE2\x81\xA9") || three == "\xE2\x80\x8E" ||
                        three == "\xE2\x80\x8F" || s.substr(i, n) == "\xD8\x9C";
      if (n == 0) {
        out += "\xEF\xBF\xBD";
        ++i;
      } else {
        if (!c1 && !bidi) out += s.substr(i, n);
        i += n;
      }
    }
  }
  if (coloured) out += "\x1b[0m";
  return out;
}

std::string printable_line(std::string_view s) {
  std::string out = printable(s);
  std::replace(out.begin(), out.end(), '\n', ' ');
  std::replace(out.begin(), out.end(), '\t', ' ');
  return out;
}

bool is_utf8(std::string_view s) {
  for (std::size_t i = 0; i < s.size();) {
    const std::size_t n = utf8_length(s, i);
    if (n == 0) return false;
    i += n;
  }
  return true;
}

namespace {

// The columns of a terminal that the letter at `i` takes (wcwidth(3), by the C library's tables): 0 for one that goes
// on top of the letter before, 2 for a wide one.
std::size_t columns_at(std::string_view s, std::size_t i, std::size_t length) {
  const auto first = static_cast<unsigned char>(s[i]);
  if (first < 0x80 || length == 0) return 1;
  wchar_t letter = first & (0xFFU >> (length + 1));
  for (std::size_t k = 1; k < length; ++k) letter = (letter << 6) | (static_cast<unsigned char>(s[i + k]) & 0x3F);
  static const locale_t locale = ::newlocale(LC_CTYPE_MASK, "C.UTF-8", nullptr);
  if (locale == nullptr) return 1;
  const locale_t before = ::uselocale(locale);
  const int width = ::wcwidth(letter);
  ::uselocale(before);
  return width < 0 ? 1 : static_cast<std::size_t>(width);
}

}  // namespace

std::size_t columns(std::string_view s) {
  std::size_t n = 0;
  for (std::size_t i = 0; i < s.size();) {
    if (s[i] == '\x1b') {
      i = escape_end(s, i);
      continue;
    }
    const std::size_t length = utf8_length(s, i);
    n += columns_at(s, i, length);
    i += std::max<std::size_t>(1, length);
  }
  return n;
}

std::string clip(std::string_view s, std::size_t width) {
  if (columns(s) <= width) return std::string(s);
  std::string out;
  std::size_t n = 0;
  for (std::size_t i = 0; i < s.size();) {
    const std::size_t length = s[i] == '\x1b' ? 0 : utf8_length(s, i);
    const std::size_t end = s[i] == '\x1b' ? escape_end(s, i) : i + std::max<std::size_t>(1, length);
    const std::size_t more = s[i] == '\x1b' ? 0 : columns_at(s, i, length);
    if (n + more + 1 > width) break;  // room for the ellipsis stays
    n += more;
    out += s.substr(i, end - i);
    i = end;
  }
  return out + "…";
}

std::string count(std::size_t n, std::string_view singular, std::string_view plural) {
  if (n == 1) return fmt::format("1 {}", singular);
  return plural.empty() ? fmt::format("{} {}s", grouped(n), singular) : fmt::format("{} {}", grouped(n), plural);
}

std::string grouped(std::uint64_t n) {
  std::string digits = std::to_string(n);
  for (int at = static_cast<int>(digits.size()) - 3; at > 0; at -= 3) digits.insert(static_cast<std::size_t>(at), ",");
  return digits;
}

std::string size(std::uint64_t bytes) {
  static constexpr const char* units[] = {"B", "kB", "MB", "GB", "TB"};
  auto value = static_cast<double>(bytes);
  std::size_t unit = 0;
  while (value >= 999.5 && unit < 4) {
    value /= 1000;
    ++unit;
  }
  return unit == 0 || value >= 9.95 ? fmt::format("{:.0f} {}", value, units[unit])
                                    : fmt::format("{:.1f} {}", value, units[unit]);
}

std::string time_in_form(std::time_t when, const std::string& form, bool universal) {
  std::tm parts{};
  if (universal)
    ::gmtime_r(&when, &parts);
  else
    ::localtime_r(&when, &parts);
  char buffer[512];
  return {buffer, std::strftime(buffer, sizeof buffer, form.c_str(), &parts)};
}

std::string duration(double seconds) {
  if (seconds < 0.9995) return fmt::format("{:.0f} ms", seconds * 1000);
  if (seconds < 59.95) return fmt::format("{:.1f} s", seconds);
  const auto whole = static_cast<long>(std::lround(seconds));
  if (whole < 3600) return fmt::format("{} min {:02} s", whole / 60, whole % 60);
  return fmt::format("{} h {:02} min", whole / 3600, whole / 60 % 60);
}

std::string base64(std::string_view bytes) {
  static constexpr std::string_view letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string out;
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    std::uint32_t three = 0;
    const std::size_t count = std::min<std::size_t>(3, bytes.size() - i);
    for (std::size_t k = 0; k < 3; ++k)
      three = three << 8U | (k < count ? static_cast<unsigned char>(bytes[i + k]) : 0U);
    for (std::size_t k = 0; k < 4; ++k) out += k <= count ? letters[three >> (18 - 6 * k) & 63U] : '=';
  }
  return out;
}

std::string html(std::string_view s) {
  std::string out;
  for (const char c : printable(s)) {
    switch (c) {
      case '&': out += "&amp;"; break;
      case '<': out += "&lt;"; break;
      case '>': out += "&gt;"; break;
      case '"': out += "&quot;"; break;
      case '\'': out += "&#39;"; break;
      default: out += c;
    }
  }
  return out;
}

int compare_versions(std::string_view a, std::string_view b) {
  struct Piece {
    bool number = true;
    std::string_view text = "0";
  };
  auto next = [](std::string_view& s) {
    while (!s.empty() && std::isalnum(static_cast<unsigned char>(s.front())) == 0) s.remove_prefix(1);
    Piece piece;
    if (s.empty()) return piece;
    piece.number = is_digit(s.front());
    std::size_t n = 0;
    while (n < s.size() && std::isalnum(static_cast<unsigned char>(s[n])) != 0 && is_digit(s[n]) == piece.number) ++n;
    piece.text = s.substr(0, n);
    s.remove_prefix(n);
    if (piece.number) {
      while (piece.text.size() > 1 && piece.text.front() == '0') piece.text.remove_prefix(1);
    }
    return piece;
  };
  while (!a.empty() || !b.empty()) {
    const Piece x = next(a);
    const Piece y = next(b);
    if (x.number != y.number) return x.number ? 1 : -1;  // 1.2.0 is newer than 1.2.rc1
    if (x.number && x.text.size() != y.text.size()) return x.text.size() < y.text.size() ? -1 : 1;
    if (const int order = x.text.compare(y.text); order != 0) return order;
  }
  return 0;
}

bool version_meets(std::string_view version, std::string_view constraint) {
  if (trim(constraint).empty()) return true;
  for (const auto& part : split(constraint, ',')) {
    std::string_view rest = trim(part);
    const std::size_t n = std::min(rest.find_first_not_of("<>=!"), rest.size());
    const std::string_view operation = rest.substr(0, n);
    rest = trim(rest.substr(n));
    if (rest.empty() || version.empty() || std::isalnum(static_cast<unsigned char>(rest.front())) == 0) return false;
    const int order = compare_versions(version, rest);
    bool met = false;
    if (operation.empty() || operation == ">=")
      met = order >= 0;
    else if (operation == ">")
      met = order > 0;
    else if (operation == "<")
      met = order < 0;
    else if (operation == "<=")
      met = order <= 0;
    else if (operation == "=" || operation == "==")
      met = order == 0;
    else if (operation == "!=")
      met = order != 0;
    if (!met) return false;
  }
  return true;
}

std::size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> row(b.size() + 1);
  for (std::size_t j = 0; j <= b.size(); ++j) row[j] = j;
  for (std::size_t i = 1; i <= a.size(); ++i) {
    std::size_t diagonal = row[0];
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      const std::size_t above = row[j];
      row[j] = std::min({above + 1, row[j - 1] + 1, diagonal + (a[i - 1] == b[j - 1] ? 0 : 1)});
      diagonal = above;
    }
  }
  return row[b.size()];
}

}  // namespace coctilis::text
