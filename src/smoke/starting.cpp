#include "smoke/starting.h"

#include <re2/re2.h>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::smoke {

namespace {
// Foreign bytes are no text, and letter case does not count.
RE2::Options bytes() {
  RE2::Options options;
  options.set_encoding(RE2::Options::EncodingLatin1);
  options.set_case_sensitive(false);
  return options;
}
}  // namespace

Answer answer_of(const std::string& output, const std::string& option) {
  static const RE2 usage(
      R"((?m)^\W*(?:\w+\W+)?(?:usage|syntax|synopsis)\b|\busage: |\b(?:try|see|use|run|type)\b[^\n]{0,60}(?:--help|\s-h\b|-\?|/\?)|(?:^[ \t]*--?[a-z][\w-]*(?:[ \t=,][^\n]*)?\n(?:[ \t]*[^\s-][^\n]*\n)?){3,})",
      bytes());
  static const RE2 word(
      R"(\b(?:unknown|unrecogni[sz]ed|invalid|illegal|bad|unexpected|wrong|unsupported|too many|too few|missing|expected|not enough|requires?|need|needs|must (?:give|specify|have|supply))\b[^\n]{0,40}\b(?:options?|arguments?|args?|flags?|switch(?:es)?|parameters?|commands?|operands?|subcommand|keyword|input file|file ?names?)\b|\b(?:can't|can ?not|could ?n[o']t) (?:find|get)\b[^\n]{0,30}\b(?:options?|arguments?|parameters?)\b|\bno (?:input|output|arguments?|command|operands?|files?)\b[^\n]{0,30}\b(?:given|specified|supplied|provided|named)?)",
      bytes());
  static const RE2 error(
      R"((?m)^([^\n]*(?:\berrors?\b|\bfatal\b|\bfail(?:ed|ure|s)?\b|\bcannot\b|\bcan ?not\b|\bcan't\b|\bcould ?n(?:o|')t\b|\bunable to\b|\bno such (?:file|device)\b|\bnot found\b|\bdenied\b|\baborted\b|\bexception\b|^traceback\b|\bpanic(?:ked)?\b|\bundefined symbol\b|\bdoes not exist\b|\bnot there\b)[^\n]*)$)",
      bytes());
  if (text::trim(output).empty()) return {};
  if (RE2::PartialMatch(output, usage)) return {Answer::Kind::usage, {}};
  if (text::lower(output).find(text::lower(option)) != std::string::npos || RE2::PartialMatch(output, word))
    return {Answer::Kind::word, {}};
  std::string line;
  if (RE2::PartialMatch(output, error, &line))
    return {Answer::Kind::error, text::clip(text::printable_line(std::string(text::trim(line))), 200)};
  return {Answer::Kind::other, {}};
}

std::string absent_file_in(const std::string& line) {
  static const RE2 path(R"((?:^|[\s'"`(=:])(/[A-Za-z0-9_.+@%-]+(?:/[A-Za-z0-9_.+@%-]+)+))", bytes());
  re2::StringPiece rest(line);
  std::string found;
  while (RE2::FindAndConsume(&rest, path, &found)) {
    while (found.ends_with('.') || found.ends_with(':')) found.pop_back();
    if (!files::exists(found)) return found;
  }
  return {};
}

}  // namespace coctilis::smoke
