#include "describe/commands.h"

#include <algorithm>
#include <set>
#include <unordered_set>

#include "base/files.h"
#include "base/text.h"
#include "survey/languages.h"

namespace coctilis::describe {

namespace {

std::string base_name(const std::string& path) { return path.substr(path.rfind('/') + 1); }

// "gcc", "x86_64-linux-gnu-gcc-12", "clang++", "c++", "cc": the family of the program's name.
enum class Tool { none, compiler, compiler_cxx, archiver, libtool, wrapper };
Tool tool_of(const std::string& program) {
  std::string name = base_name(program);
  // A version behind, a machine before.
  while (!name.empty() && (std::isdigit(static_cast<unsigned char>(name.back())) != 0 || name.back() == '.'))
    name.pop_back();
  if (name.ends_with('-')) name.pop_back();
  const auto ends = [&](const std::string& word) { return name == word || name.ends_with("-" + word); };
  if (name == "ccache" || name == "distcc" || name == "env" || name == "nice") return Tool::wrapper;
  if (ends("libtool")) return Tool::libtool;
  if (ends("g++") || ends("c++") || ends("clang++")) return Tool::compiler_cxx;
  if (ends("gcc") || ends("cc") || ends("clang") || ends("c99") || ends("c89")) return Tool::compiler;
  if (ends("ar")) return Tool::archiver;
  return Tool::none;
}

// Whether a command that begins so may compile something or change the folder: most programs do neither.
bool may_matter(const std::string& program) {
  const std::string name = base_name(program);
  return name == "cd" || name == "sh" || name == "bash" || program.find('=') != std::string::npos ||
         tool_of(program) != Tool::none;
}

bool is_of_the_shell(const std::string& program) {
  static const std::unordered_set<std::string> of_the_shell = {
      ".",    ":",    "alias",    "bg",      "break",   "case",  "cd",    "command", "continue", "do",
      "done", "echo", "elif",     "else",    "esac",    "eval",  "exec",  "exit",    "export",   "false",
      "fg",   "fi",   "for",      "getopts", "hash",    "if",    "jobs",  "kill",    "let",      "printf",
      "pwd",  "read", "readonly", "return",  "set",     "shift", "test",  "then",    "times",    "trap",
      "true", "type", "ulimit",   "umask",   "unalias", "unset", "until", "wait",    "while"};
  return of_the_shell.contains(program);
}

Understood compiler_run(std::vector<std::string> all, bool cxx, const std::string& folder) {
  Understood out;
  out.folder = folder;
  out.argv = std::move(all);
  const auto& words = out.argv;
  bool compile_only = false;
  bool other = false;  // preprocesses, or only tells something
  std::string language;
  std::string output;
  bool writes_dependencies = false;
  std::vector<std::string> objects;
  static const std::unordered_set<std::string> with_value = {
      "-I", "-isystem", "-iquote",   "-idirafter", "-include",       "-imacros",    "-D",     "-U",
      "-L", "-l",       "-T",        "-Xlinker",   "-Xpreprocessor", "-Xassembler", "-MT",    "-MQ",
      "-u", "-z",       "-aux-info", "--param",    "-framework",     "-arch",       "-target"};
  for (std::size_t i = 1; i < words.size(); ++i) {
    const std::string& word = words[i];
    if (word.empty() || word[0] != '-') {
      if (word.empty()) continue;
      if (!survey::compiled_language(word).empty())
        out.sources.push_back(files::absolute(word, folder));
      else
        objects.push_back(word);
    } else if (word == "-c") {
      compile_only = true;
    } else if (word == "-E" || word == "-S" || word == "-M" || word == "-MM" || word == "--version" ||
               word == "-fsyntax-only" || word.starts_with("-print-") || word == "-dumpversion") {
      other = true;
    } else if (word == "-o" && i + 1 < words.size()) {
      output = words[++i];
    } else if (word.starts_with("-o") && word.size() > 2) {
      output = word.substr(2);
    } else if (word == "-MF" && i + 1 < words.size()) {
      out.dependency_file = words[++i];
    } else if (word.starts_with("-MF") && word.size() > 3) {
      out.dependency_file = word.substr(3);
    } else if (word == "-MD" || word == "-MMD") {
      writes_dependencies = out.asks = true;
      out.tells_all = word == "-MD";
    } else if (word.starts_with("-Wp,-MD,") || word.starts_with("-Wp,-MMD,")) {
      out.dependency_file = word.substr(word.find(',', 4) + 1);
      out.asks = true;
      out.tells_all = word.starts_with("-Wp,-MD,");
    } else if (word == "-x" && i + 1 < words.size()) {
      language = words[++i];
    } else if (word == "-shared" || word == "-dynamiclib") {
      out.shared = true;
    } else if (i + 1 < words.size() && with_value.contains(word)) {
      ++i;
    }
  }
  if (other || (out.sources.empty() && objects.empty())) return out;
  if (compile_only) {
    if (out.sources.empty()) return out;
    out.kind = model::StepKind::compile;
    out.language = language == "c" ? "C" : language == "c++" ? "C++" : survey::compiled_language(out.sources.front());
    if (cxx && out.language == "C") out.language = "C++";
    if (output.empty()) {
      output = base_name(out.sources.front());
      output = output.substr(0, output.rfind('.')) + ".o";
    }
  } else {
    out.kind = model::StepKind::link;
    if (output.empty()) output = "a.out";
  }
  out.output = files::absolute(output, folder);
  if (writes_dependencies && out.dependency_file.empty()) {
    const auto slash = output.rfind('/');
    const auto dot = output.rfind('.');
    out.dependency_file =
        (dot != std::string::npos && (slash == std::string::npos || dot > slash) ? output.substr(0, dot) : output) +
        ".d";
  }
  if (!out.dependency_file.empty()) out.dependency_file = files::absolute(out.dependency_file, folder);
  return out;
}

}  // namespace

Divided divide(const std::string& line) {
  Divided out;
  auto& commands = out.commands;
  commands.emplace_back();
  std::string word;
  bool any = false;
  bool plain = true;  // nothing so far that only a shell can do
  const auto flush = [&] {
    if (any) commands.back().push_back(std::move(word));
    word.clear();
    any = false;
  };
  const auto unknown = [&] {
    out.commands.clear();
    return out;
  };
  for (std::size_t i = 0; i < line.size(); ++i) {
    const char c = line[i];
    const char next = i + 1 < line.size() ? line[i + 1] : '\0';
    if (c == ' ' || c == '\t') {
      flush();
    } else if (c == '\\') {
      // A line end behind a backslash is taken away (POSIX.1-2024, XCU 2.2.1).
      if (next == '\0') plain = false;
      if (next != '\0' && next != '\n') {
        word += next;
        any = true;
      }
      ++i;
    } else if (c == '\'' || c == '"') {
      any = true;
      for (++i; i < line.size() && line[i] != c; ++i) {
        if (c == '"' && line[i] == '\\' && i + 1 < line.size() &&
            std::string_view("$`\"\\\n").find(line[i + 1]) != std::string_view::npos) {
          if (line[++i] == '\n') continue;
        } else if (c == '"' && (line[i] == '`' || line[i] == '$')) {
          if (line[i] == '`' || (i + 1 < line.size() && line[i + 1] == '(')) return unknown();
          plain = false;
        }
        word += line[i];
      }
      if (i >= line.size()) return unknown();
    } else if (c == ';' || c == '\n' || (c == '&' && next == '&') || (c == '|' && next == '|')) {
      flush();
      plain = false;
      if (!commands.back().empty()) commands.emplace_back();
      if (c == '&' || c == '|') ++i;
    } else if (c == '`' || c == '(' || c == ')' || c == '{' || c == '}' || c == '&' || c == '|' || c == '$') {
      return unknown();
    } else if (c == '<' || c == '>') {
      // Redirections have no say in what is compiled: their file is no word of the command.
      plain = false;
      if (!word.empty() && word.find_first_not_of("0123456789") != std::string::npos) flush();
      word.clear();
      any = false;
      while (i + 1 < line.size() && (line[i + 1] == '>' || line[i + 1] == '&')) ++i;
      while (i + 1 < line.size() && (line[i + 1] == ' ' || line[i + 1] == '\t')) ++i;
      while (i + 1 < line.size() && std::string_view(" \t;|&\n").find(line[i + 1]) == std::string_view::npos) ++i;
    } else {
      if (std::string_view("#*?[]^~!").find(c) != std::string_view::npos) plain = false;
      word += c;
      any = true;
    }
  }
  flush();
  if (commands.back().empty()) commands.pop_back();
  static constexpr std::string_view steering[] = {"if",   "for",  "while", "case", "until",
                                                  "then", "else", "do",    "fi",   "done"};
  for (const auto& words : commands) {
    if (std::find(std::begin(steering), std::end(steering), words.front()) != std::end(steering)) return unknown();
  }
  // An assignment before the command is for the shell; one behind it is a word.
  out.plain = plain && commands.size() == 1 && !commands.front().front().empty() &&
              commands.front().front().find('=') == std::string::npos && !is_of_the_shell(commands.front().front());
  return out;
}

std::string without_empty_quotes(const std::string& command) {
  if (command.find("''") == std::string::npos && command.find("\"\"") == std::string::npos) return command;
  std::string out;
  char quote = '\0';
  for (std::size_t i = 0; i < command.size(); ++i) {
    const char c = command[i];
    const char next = i + 1 < command.size() ? command[i + 1] : '\0';
    if (c == '\\' && quote != '\'') {
      out += c;
      if (next != '\0') out += command[++i];
      continue;
    }
    if (quote == '\0' && (c == '\'' || c == '"') && next == c && !out.empty() &&
        (std::isalnum(static_cast<unsigned char>(out.back())) != 0 ||
         std::string_view("=_-./,:+").find(out.back()) != std::string_view::npos)) {
      ++i;
      continue;
    }
    if (quote == c)
      quote = '\0';
    else if (quote == '\0' && (c == '\'' || c == '"'))
      quote = c;
    out += c;
  }
  return out;
}

std::vector<Understood> understand(const std::vector<std::vector<std::string>>& commands, const std::string& start) {
  std::vector<Understood> out;
  std::string folder = start;
  for (const auto& whole : commands) {
    if (whole.empty() || !may_matter(whole.front())) continue;
    auto words = whole;
    // Values given to one command.
    std::size_t at = 0;
    while (at < words.size() && words[at].find('=') != std::string::npos && words[at][0] != '-' &&
           words[at].find('/') > words[at].find('='))
      ++at;
    words.erase(words.begin(), words.begin() + static_cast<std::ptrdiff_t>(at));
    bool wrapped = false;
    while (words.size() > 1 && tool_of(words.front()) == Tool::wrapper) {
      wrapped = wrapped || base_name(words.front()) == "ccache" || base_name(words.front()) == "distcc";
      words.erase(words.begin());
      while (words.size() > 1 && words.front().find('=') != std::string::npos) words.erase(words.begin());
    }
    if (words.empty()) continue;
    if (words.front() == "cd" && words.size() == 2) {
      folder = files::absolute(words[1], folder);
      continue;
    }
    // The shell that runs libtool is no part of what is compiled.
    if (words.size() > 2 && (base_name(words[0]) == "sh" || base_name(words[0]) == "bash") &&
        tool_of(words[1]) == Tool::libtool)
      words.erase(words.begin());
    if (tool_of(words.front()) == Tool::libtool) {
      const auto tool = std::find_if(words.begin() + 1, words.end(), [](const std::string& word) {
        return !word.starts_with('-') && tool_of(word) != Tool::none;
      });
      if (tool == words.end()) continue;
      words.erase(words.begin(), tool);
    }
    const Tool tool = tool_of(words.front());
    if (tool == Tool::compiler || tool == Tool::compiler_cxx) {
      Understood one = compiler_run(std::move(words), tool == Tool::compiler_cxx, folder);
      one.wrapped = wrapped;
      if (one.kind != model::StepKind::custom) out.push_back(std::move(one));
    } else if (tool == Tool::archiver && words.size() > 3 && words[1].find_first_of("rq") != std::string::npos) {
      Understood one;
      one.kind = model::StepKind::archive;
      one.argv = words;
      one.folder = folder;
      one.output = files::absolute(words[2], folder);
      out.push_back(std::move(one));
    }
  }
  return out;
}

std::vector<Understood> understand(const std::string& line, const std::string& folder) {
  return understand(divide(line).commands, folder);
}

}  // namespace coctilis::describe
