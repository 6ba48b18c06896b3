#include "survey/languages.h"

#include <algorithm>
#include <array>
#include <cctype>

#include "base/text.h"

namespace coctilis::survey {

const std::vector<LanguageSyntax>& languages() {
  using Entry = LanguageSyntax::Entry;
  static const std::vector<LanguageSyntax> table = {
      {"C", {".c"}, "//", "", "/*", "*/", "\"'", true, false, Entry::main_function, 1},
      {"C++",
       {".cpp", ".cc", ".cxx", ".c++", ".C", ".CPP", ".cppm", ".ixx"},
       "//",
       "",
       "/*",
       "*/",
       "\"'",
       true,
       false,
       Entry::main_function,
       3},
      {"C/C++ header",
       {".h", ".hpp", ".hh", ".hxx", ".h++", ".H", ".inl", ".ipp", ".tpp", ".inc"},
       "//",
       "",
       "/*",
       "*/",
       "\"'",
       true,
       true},
      {"Objective-C", {".m", ".mm"}, "//", "", "/*", "*/", "\"'", true, false, Entry::main_function},
      {"CUDA", {".cu", ".cuh"}, "//", "", "/*", "*/", "\"'", true, false, Entry::main_function},
      {"Assembler", {".s", ".S", ".asm", ".sx"}, "#", ";", "/*", "*/", "\""},
      {"Fortran",
       {".f", ".for", ".ftn", ".f77", ".f90", ".f95", ".f03", ".f08", ".F", ".FOR", ".FTN", ".F77", ".F90", ".F95",
        ".F03", ".F08", ".fpp", ".FPP"},
       "!",
       "",
       "",
       "",
       "",
       true,
       false,
       Entry::program_statement,
       2},
      {"Go", {".go"}, "//", "", "/*", "*/", "\"'", true, false, Entry::main_func},
      {"Rust", {".rs"}, "//", "", "/*", "*/", "\""},
      {"D", {".d"}, "//", "", "/*", "*/", "\"'"},
      {"Zig", {".zig"}, "//", "", "", "", "\"'"},
      {"Ada", {".adb", ".ads"}, "--", "", "", "", "\""},
      {"Pascal", {".pas", ".pp", ".dpr"}, "//", "", "{", "}", "'"},
      {"COBOL", {".cob", ".cbl"}, "*>", "", "", "", "\"'"},
      {"OCaml", {".ml", ".mli"}, "", "", "(*", "*)", "\""},
      {"Haskell", {".hs"}, "--", "", "{-", "-}", "\""},
      {"Swift", {".swift"}, "//", "", "/*", "*/", "\""},
      {"Vala", {".vala"}, "//", "", "/*", "*/", "\""},
      {"Yacc", {".y", ".yy", ".ypp"}, "//", "", "/*", "*/", "\"'"},
      {"Lex", {".l", ".ll", ".lex"}, "//", "", "/*", "*/", "\"'"},
      {"Protocol description", {".proto"}, "//", "", "/*", "*/", "\"'", false},
      {"Java", {".java"}, "//", "", "/*", "*/", "\"'", false, false, Entry::static_method},
      {"Kotlin", {".kt"}, "//", "", "/*", "*/", "\"", false},
      {"C#", {".cs"}, "//", "", "/*", "*/", "\"", false, false, Entry::static_method},
      {"JavaScript", {".js", ".mjs", ".ts"}, "//", "", "/*", "*/", "\"'", false},
      {"Python", {".py"}, "#", "", "", "", "\"'", false},
      {"Perl", {".pl", ".pm"}, "#", "", "", "", "\"'", false},
      {"Ruby", {".rb"}, "#", "", "", "", "\"'", false},
      {"Lua", {".lua"}, "--", "", "--[[", "]]", "\"'", false},
      {"Tcl", {".tcl"}, "#", "", "", "", "\"", false},
      {"Awk", {".awk"}, "#", "", "", "", "\"", false},
      {"Shell", {".sh", ".bash"}, "#", "", "", "", "\"'", false},
      {"SQL", {".sql"}, "--", "", "/*", "*/", "'", false},
  };
  return table;
}

namespace {
std::string_view extension_of(std::string_view name) {
  const auto slash = name.rfind('/');
  if (slash != std::string_view::npos) name.remove_prefix(slash + 1);
  const auto dot = name.rfind('.');
  return dot == std::string_view::npos || dot == 0 ? std::string_view{} : name.substr(dot);
}
}  // namespace

const LanguageSyntax* language_of(std::string_view file_name) {
  static const auto index = [] {
    std::unordered_map<std::string_view, const LanguageSyntax*> map;
    for (const auto& language : languages()) {
      for (const auto extension : language.extensions) map.emplace(extension, &language);
    }
    return map;
  }();
  const auto it = index.find(extension_of(file_name));
  return it == index.end() ? nullptr : it->second;
}

std::string compiled_language(std::string_view file_name) {
  const std::string_view extension = extension_of(file_name);
  if (extension == ".s" || extension == ".S" || extension == ".sx") return "Assembler";
  const LanguageSyntax* language = language_of(file_name);
  if (language == nullptr || language->header) return {};
  return language->link_rank > 0 ? std::string(language->name) : std::string{};
}

std::string linking_language(const std::set<std::string>& languages_used) {
  const LanguageSyntax* last = nullptr;
  for (const auto& language : languages()) {
    if (language.link_rank == 0 || !languages_used.contains(std::string(language.name))) continue;
    if (last == nullptr || language.link_rank > last->link_rank) last = &language;
  }
  return last == nullptr ? "C" : std::string(last->name);
}

bool is_header(std::string_view file_name) {
  const LanguageSyntax* language = language_of(file_name);
  return language != nullptr && language->header;
}

namespace {
bool is_word(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_'; }

// Finds definitions of main in code whose comments and strings are blanked out.
std::vector<int> find_entries(const std::string& code) {
  std::vector<int> lines;
  for (std::size_t at = code.find("main"); at != std::string::npos; at = code.find("main", at + 4)) {
    std::size_t after = at + 4;
    if ((at > 0 && (is_word(code[at - 1]) || code[at - 1] == ':' || code[at - 1] == '.' || code[at - 1] == '>')) ||
        (after < code.size() && is_word(code[after])))
      continue;
    while (after < code.size() && std::isspace(static_cast<unsigned char>(code[after])) != 0) ++after;
    if (after >= code.size() || code[after] != '(') continue;
    std::size_t before = at;
    while (before > 0 && std::isspace(static_cast<unsigned char>(code[before - 1])) != 0) --before;
    std::size_t begin = before;
    while (begin > 0 && is_word(code[begin - 1])) --begin;
    const std::string type = code.substr(begin, before - begin);
    if (type != "int" && type != "void" && type != "auto") continue;
    int depth = 0;
    for (; after < code.size(); ++after) {
      if (code[after] == '(') ++depth;
      if (code[after] == ')' && --depth == 0) break;
    }
    if (after < code.size()) ++after;
    while (after < code.size() && std::isspace(static_cast<unsigned char>(code[after])) != 0) ++after;
    if (after >= code.size() || code[after] == ';' || code[after] == ',') continue;
    lines.push_back(1 +
                    static_cast<int>(std::count(code.begin(), code.begin() + static_cast<std::ptrdiff_t>(at), '\n')));
  }
  return lines;
}

// Lines in which a word of `names` stands before "(", behind the words that make it the beginning of a program.
std::vector<int> find_methods(const std::string& code, LanguageSyntax::Entry entry) {
  std::vector<int> lines;
  int number = 0;
  for (const auto& line : text::split(code, '\n')) {
    ++number;
    for (const std::string_view name : {"main", "Main"}) {
      const auto at = line.find(name);
      if (at == std::string::npos || at == 0 || is_word(line[at - 1])) continue;
      const auto after = line.find_first_not_of(" \t", at + name.size());
      if (after == std::string::npos || line[after] != '(') continue;
      const auto words = text::words(line.substr(0, at));
      const auto has = [&](std::string_view word) {
        return std::find(words.begin(), words.end(), word) != words.end();
      };
      const bool found = entry == LanguageSyntax::Entry::main_func
                             ? name == "main" && words.size() == 1 && words.front() == "func"
                             : has("static") && (words.back() == "void" || words.back() == "int" ||
                                                 words.back() == "Task" || words.back().starts_with("Task<"));
      if (!found) continue;
      lines.push_back(number);
      break;
    }
  }
  return lines;
}

// Finds PROGRAM statements: each stands at the beginning of a line, whatever the form.
std::vector<int> find_program_statements(std::string_view content) {
  constexpr std::string_view keyword = "program";
  std::vector<int> lines;
  int line = 0;
  for (std::size_t at = 0; at < content.size();) {
    ++line;
    const auto end = std::min(content.find('\n', at), content.size());
    const auto statement = text::trim(content.substr(at, end - at));
    at = end + 1;
    if (statement.size() < keyword.size() + 2 || text::lower(statement.substr(0, keyword.size())) != keyword) continue;
    const auto rest = text::trim(statement.substr(keyword.size(), statement.find_first_of("!;") - keyword.size()));
    if (is_word(statement[keyword.size()]) || rest.empty() || !std::all_of(rest.begin(), rest.end(), is_word)) continue;
    lines.push_back(line);
  }
  return lines;
}
}  // namespace

LineCount count_lines(std::string_view content, const LanguageSyntax& language) {
  LineCount count;
  // Most characters neither begin anything nor are blanks: one look in a table tells.
  enum : unsigned char { plain, blank, special };
  std::array<unsigned char, 256> kinds{};
  for (const char c : {' ', '\t', '\n', '\v', '\f', '\r'}) kinds[static_cast<unsigned char>(c)] = blank;
  for (const auto token : {language.block_begin, language.line_comment, language.second_line_comment}) {
    if (!token.empty()) kinds[static_cast<unsigned char>(token.front())] = special;
  }
  for (const char c : language.quotes) kinds[static_cast<unsigned char>(c)] = special;
  // The code without comments and texts, where programs may start in it.
  const bool by_method =
      language.entry == LanguageSyntax::Entry::static_method || language.entry == LanguageSyntax::Entry::main_func;
  const bool keeps_code = content.find("main") != std::string_view::npos
                              ? language.entry == LanguageSyntax::Entry::main_function || by_method
                              : by_method && content.find("Main") != std::string_view::npos;
  std::string code;
  if (keeps_code) code.reserve(content.size());
  bool in_block = false;
  std::size_t at = 0;
  const auto starts = [&](std::string_view token) {
    return !token.empty() && content[at] == token.front() && content.substr(at, token.size()) == token;
  };
  while (at < content.size()) {
    bool has_code = false;
    bool has_comment = false;
    char quote = 0;
    for (; at < content.size() && content[at] != '\n'; ++at) {
      const char c = content[at];
      char keep = ' ';
      const unsigned char kind = kinds[static_cast<unsigned char>(c)];
      if (in_block) {
        has_comment = true;
        if (starts(language.block_end)) {
          in_block = false;
          at += language.block_end.size() - 1;
        }
      } else if (quote != 0) {
        if (c == '\\' && at + 1 < content.size() && content[at + 1] != '\n')
          ++at;
        else if (c == quote)
          quote = 0;
      } else if (kind == plain) {
        has_code = true;
        keep = c;
      } else if (kind == blank) {
        keep = ' ';
      } else if (starts(language.block_begin)) {
        in_block = true;
        has_comment = true;
        at += language.block_begin.size() - 1;
      } else if (starts(language.line_comment) || starts(language.second_line_comment)) {
        has_comment = true;
        at = std::min(content.find('\n', at), content.size()) - 1;
      } else {
        has_code = true;
        keep = c;
        if (language.quotes.find(c) != std::string_view::npos) {
          // 1'000'000: a digit separator opens nothing.
          const bool separator = c == '\'' && at > 0 && is_word(content[at - 1]);
          if (!separator) quote = c;
        }
      }
      if (keeps_code) code += keep;
    }
    if (keeps_code) code += '\n';
    ++at;
    if (has_code)
      ++count.code;
    else if (has_comment)
      ++count.comment;
    else
      ++count.blank;
  }
  if (keeps_code) count.entry_lines = by_method ? find_methods(code, language.entry) : find_entries(code);
  if (language.entry == LanguageSyntax::Entry::program_statement) count.entry_lines = find_program_statements(content);
  return count;
}

}  // namespace coctilis::survey
