#include "describe/script/arguments.h"

#include <re2/re2.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::describe::script {

namespace {

// It ends, or tells how it is called, when it gets no words.
bool insists(const std::string& content) {
  static const RE2 looks(R"re(\$#|\$\{?1\b|\$\{#|sys\.argv|\@ARGV|\$ARGV)re");
  static const RE2 usage(R"((?i)\busage\b|\bsyntax:)");
  return RE2::PartialMatch(content, looks) && RE2::PartialMatch(content, usage);
}

bool is_document(const std::string& name) {
  const std::string lower = text::lower(name);
  return lower.starts_with("readme") || lower.starts_with("install") || lower.starts_with("build") ||
         lower.starts_with("compil") || lower.starts_with("hacking") || lower.starts_with("contributing");
}

// Words as people write them in documents; nothing when a shell would do more with them.
std::vector<std::string> plain_words(std::string text) {
  for (const char* end : {"`", " #", "&&", ";", "|", "\"", "'", ">", "<", ",", ")"}) {
    if (const auto at = text.find(end); at != std::string::npos) text.resize(at);
  }
  std::vector<std::string> out = text::words(text);
  static const RE2 plain(R"([A-Za-z0-9_./=+:@%-]+)");
  if (out.size() > 8 ||
      !std::all_of(out.begin(), out.end(), [](const auto& word) { return RE2::FullMatch(word, plain); }))
    return {};
  return out;
}

Arguments from_documents(const std::string& name, const std::string& tree) {
  const std::string program = name.substr(name.rfind('/') + 1);
  const std::string folder = std::filesystem::path(tree + "/" + name).parent_path().string();
  // A call stands at the beginning of a line, behind a prompt or in backquotes.
  const RE2 call(
      R"((?m)(?:^[ \t]*(?:[$#%>]\s+)?|`)(?:sudo\s+)?(?:(?:sh|bash|ksh|perl|python3?)\s+)?(?:\./|[\w./-]+/)?)" +
      RE2::QuoteMeta(program) + R"([ \t]+([^\n]+))");
  Arguments out;
  std::set<std::vector<std::string>> all;
  for (const auto& where : folder == tree ? std::vector<std::string>{tree} : std::vector<std::string>{folder, tree}) {
    for (const auto& file : files::names_in(where)) {
      if (!is_document(file) || !files::is_file(where + "/" + file)) continue;
      const std::string text = files::read(where + "/" + file).value_or("");
      re2::StringPiece rest(text);
      re2::StringPiece found;
      while (RE2::FindAndConsume(&rest, call, &found)) {
        auto words = plain_words(std::string(found));
        if (words.empty()) continue;
        const auto line = std::count(text.data(), found.data(), '\n') + 1;
        if (all.insert(words).second && all.size() == 1)
          out = {words, {files::below(where + "/" + file, tree), static_cast<int>(line), 0}};
      }
    }
  }
  return all.size() == 1 ? out : Arguments{};
}

// "usage: $0 {linux|windows}", "Usage: build.sh release|debug": the one word that is left.
Arguments from_usage(const std::string& name, const std::string& content, const std::string& variant) {
  const std::string program = name.substr(name.rfind('/') + 1);
  const RE2 usage(
      R"((?i)usage:?\s*(?:\\n)?\s*(?:(?:sh|bash)\s+)?(?:\$\{?0\}?|\$\(basename [^)]*\)|`basename [^`]*`|(?:\./)?)" +
      RE2::QuoteMeta(program) + R"()["']?[ \t]+([^\n"'`]+))");
  re2::StringPiece found;
  if (!RE2::PartialMatch(content, usage, &found)) return {};
  const Place place{name, static_cast<int>(std::count(content.data(), found.data(), '\n')) + 1, 0};
  std::string text(found);
  for (const char* bracket : {"{", "}", "(", ")", "\\n"}) text = text::replace_all(text, bracket, " ");
  auto words = text::words(text::replace_all(text, " | ", "|"));
  // What stands in brackets may be left out.
  std::erase_if(words, [](const auto& word) {
    return word.find('[') != std::string::npos || word.find(']') != std::string::npos;
  });
  if (words.size() != 1) return {};
  const auto choices = text::split(words[0], '|');
  const auto means = [&](const std::string& word, std::initializer_list<std::string> names) {
    return std::find(names.begin(), names.end(), text::lower(word)) != names.end();
  };
  std::vector<std::string> fitting;
  for (const auto& choice : choices) {
    // A name for what is to be put there is no word; one that the script compares with is.
    static const RE2 plain(R"([a-z0-9][a-z0-9_.+-]*)");
    const RE2 compared(R"((?m)(^|[\s|("'=]))" + RE2::QuoteMeta(choice) + R"(\s*(\)|\||"|'|\]))");
    if (!RE2::FullMatch(choice, plain) || !RE2::PartialMatch(text::replace_all(content, words[0], ""), compared))
      continue;
    if (choices.size() == 1 || means(choice, {"linux", "unix", "posix", variant})) fitting.push_back(choice);
  }
  return fitting.size() == 1 ? Arguments{fitting, place} : Arguments{};
}

// A script that branches on the names of systems, this one's among them: "linux|l) ...".
Arguments from_branches(const std::string& name, const std::string& content) {
  static const RE2 branch(R"((?m)^[ \t]*(?:[\w.-]+[ \t]*\|[ \t]*)*linux(?:[ \t]*\|[ \t]*[\w.-]+)*[ \t]*\))");
  static const RE2 others(
      R"((?m)^[ \t]*(?:[\w.-]+[ \t]*\|[ \t]*)*(?:freebsd|solaris|darwin|aix|netbsd|macos|hpux)(?:[ \t]*\|[ \t]*[\w.-]+)*[ \t]*\))");
  re2::StringPiece found;
  if (!RE2::PartialMatch(content, others) || !RE2::PartialMatch(content, RE2("(" + branch.pattern() + ")"), &found))
    return {};
  return {{"linux"}, {name, static_cast<int>(std::count(content.data(), found.data(), '\n')) + 1, 0}};
}

}  // namespace

Arguments arguments_for(const std::string& name, const std::string& content, const std::string& tree,
                        const std::vector<std::string>& given, const std::string& variant) {
  if (!given.empty()) return {given, {}};
  if (!insists(content)) return {};
  if (auto found = from_documents(name, tree); !found.words.empty()) return found;
  if (auto found = from_usage(name, content, variant); !found.words.empty()) return found;
  return from_branches(name, content);
}

std::string usage_in(const std::string& output) {
  static const RE2 begin(R"((?i)(?:^|\n)[^\n]{0,60}\b(?:usage|syntax):?)");
  re2::StringPiece found;
  if (!RE2::PartialMatch(output, RE2("(" + begin.pattern() + ")"), &found)) return {};
  std::string text(output.substr(static_cast<std::size_t>(found.data() - output.data())));
  const auto lines = text::split(text::trim(text), '\n');
  std::vector<std::string> out;
  for (std::size_t i = 0; i < lines.size() && i < 12; ++i) out.push_back(text::printable_line(lines[i]));
  return text::join(out, "\n");
}

}  // namespace coctilis::describe::script
