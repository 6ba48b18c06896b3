#include "describe/listfile/regex.h"

#include <re2/re2.h>

#include <stdexcept>

namespace coctilis::describe::listfile {

struct Regex::Engine {
  explicit Engine(const std::string& pattern, const RE2::Options& options) : re(pattern, options) {}
  RE2 re;
};

namespace {
// Writes the pattern in RE2's dialect: there, braces count repetitions and a backslash within brackets escapes.
std::string translate(const std::string& pattern) {
  std::string out;
  for (std::size_t i = 0; i < pattern.size(); ++i) {
    const char c = pattern[i];
    if (c == '\\') {
      if (i + 1 >= pattern.size()) throw std::invalid_argument("it ends in a backslash");
      const char next = pattern[++i];
      if (std::isalnum(static_cast<unsigned char>(next)) == 0) out += '\\';
      out += next;
    } else if (c == '[') {
      out += c;
      ++i;
      if (i < pattern.size() && pattern[i] == '^') out += pattern[i++];
      bool first = true;
      for (; i < pattern.size() && (first || pattern[i] != ']'); ++i, first = false) {
        if (pattern[i] == '\\' || pattern[i] == '[' || (pattern[i] == ']' && first)) out += '\\';
        out += pattern[i];
      }
      if (i >= pattern.size()) throw std::invalid_argument("'[' without ']'");
      out += ']';
    } else if (c == '{' || c == '}') {
      out += '\\';
      out += c;
    } else {
      out += c;
    }
  }
  return out;
}
}  // namespace

Regex::Regex(const std::string& pattern) {
  RE2::Options options;
  options.set_log_errors(false);
  options.set_dot_nl(true);
  options.set_encoding(RE2::Options::EncodingLatin1);
  engine_ = std::make_unique<Engine>(translate(pattern), options);
  if (!engine_->re.ok()) throw std::invalid_argument(engine_->re.error());
}

Regex::~Regex() = default;

bool Regex::search(std::string_view text, std::size_t from, Match& match, bool rebase) const {
  const int groups = engine_->re.NumberOfCapturingGroups() + 1;
  std::vector<re2::StringPiece> pieces(static_cast<std::size_t>(groups));
  const std::size_t base = rebase ? from : 0;
  const re2::StringPiece all(text.data() + base, text.size() - base);
  if (!engine_->re.Match(all, from - base, all.size(), RE2::UNANCHORED, pieces.data(), groups)) return false;
  match.groups.clear();
  for (const auto& piece : pieces)
    match.groups.emplace_back(piece.data() == nullptr ? std::string() : std::string(piece.data(), piece.size()));
  match.begin = static_cast<std::size_t>(pieces[0].data() - text.data());
  match.end = match.begin + pieces[0].size();
  return true;
}

std::unique_ptr<Regex> readable_regex(const std::string& pattern) {
  try {
    return std::make_unique<Regex>(pattern);
  } catch (const std::invalid_argument&) {
    return nullptr;
  }
}

std::string regex_replace(const Regex& regex, const std::string& replacement, std::string_view input) {
  std::string out;
  std::size_t at = 0;
  Regex::Match match;
  while (at <= input.size() && regex.search(input, at, match)) {
    if (match.end == match.begin) throw std::invalid_argument("it matches an empty text");
    out += input.substr(at, match.begin - at);
    for (std::size_t i = 0; i < replacement.size(); ++i) {
      if (replacement[i] != '\\' || i + 1 >= replacement.size()) {
        out += replacement[i];
        continue;
      }
      const char next = replacement[++i];
      if (next >= '0' && next <= '9') {
        const auto group = static_cast<std::size_t>(next - '0');
        if (group < match.groups.size()) out += match.groups[group];
      } else if (next == 'n') {
        out += '\n';
      } else {
        out += next;
      }
    }
    at = match.end;
    if (at == input.size()) break;
  }
  out += input.substr(std::min(at, input.size()));
  return out;
}

}  // namespace coctilis::describe::listfile
