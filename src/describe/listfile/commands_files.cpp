// file(...), configured files, and the parts of paths. Nothing outside the output folder is written.
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <ctime>
#include <stdexcept>

#include "base/digest.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/lists.h"
#include "base/observed.h"
#include "base/path_text.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/regex.h"

namespace coctilis::describe::listfile {

namespace fs = std::filesystem;

std::string configure_text(Evaluator& e, const std::string& text, bool at_only, bool escape_quotes,
                           const Place& place) {
  const auto escaped = [&](std::string value) {
    if (escape_quotes) value = text::replace_all(text::replace_all(value, "\\", "\\\\"), "\"", "\\\"");
    return value;
  };
  const auto name_end = [&](std::size_t from) {
    std::size_t end = from;
    while (end < text.size() && (std::isalnum(static_cast<unsigned char>(text[end])) != 0 ||
                                 std::string_view("_./+-").find(text[end]) != std::string_view::npos))
      ++end;
    return end;
  };
  const auto references = [&](std::string_view line) {
    std::string out;
    const std::size_t base = static_cast<std::size_t>(line.data() - text.data());
    for (std::size_t k = base; k < base + line.size();) {
      if (text[k] == '@') {
        const auto end = name_end(k + 1);
        if (end > k + 1 && end < base + line.size() && text[end] == '@') {
          out += escaped(e.value(text.substr(k + 1, end - k - 1)));
          k = end + 1;
          continue;
        }
      } else if (!at_only && text[k] == '$' && (text.compare(k, 2, "${") == 0 || text.compare(k, 5, "$ENV{") == 0)) {
        // References may be nested: find the brace that closes this one.
        int depth = 0;
        std::size_t end = text.find('{', k);
        for (; end < base + line.size(); ++end) {
          if (text[end] == '{') ++depth;
          if (text[end] == '}' && --depth == 0) break;
        }
        const std::string inner = end < base + line.size() ? text.substr(k, end + 1 - k) : "";
        const bool plain = !inner.empty() && inner.find_first_of(" \t\"'()\\;:,") == std::string::npos;
        if (plain) {
          out += escaped(e.expand(inner, place));
          k = end + 1;
          continue;
        }
      }
      out += text[k++];
    }
    return out;
  };
  static const Regex define("^([ \t]*#[ \t]*)cmakedefine(01)?[ \t]+([A-Za-z0-9_./+-]+)([^\r\n]*)");
  std::string out;
  std::size_t at = 0;
  while (at < text.size()) {
    auto end = text.find('\n', at);
    const bool last = end == std::string::npos;
    if (last) end = text.size();
    const std::string_view line(text.data() + at, end - at);
    Regex::Match match;
    if (line.find("cmakedefine") != std::string_view::npos && define.search(line, 0, match)) {
      const std::string& name = match.groups[3];
      const bool set = e.on(name);
      // Where the rest of the line begins within the text: references in it are replaced as elsewhere.
      const std::string_view rest = line.substr(match.end - match.groups[4].size());
      if (match.groups[2] == "01")
        out += match.groups[1] + "define " + name + (set ? " 1" : " 0") + references(rest);
      else if (set)
        out += match.groups[1] + "define " + name + references(rest);
      else
        out += "/* " + match.groups[1] + "undef " + name + " */";
    } else {
      out += references(line);
    }
    if (!last) out += '\n';
    at = end + 1;
  }
  return out;
}

namespace {

void command_configure_file(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "configure_file(INPUT OUTPUT)");
  const auto words =
      keywords(i.texts(2),
               {"@ONLY", "COPYONLY", "ESCAPE_QUOTES", "IMMEDIATE", "NO_SOURCE_PERMISSIONS", "USE_SOURCE_PERMISSIONS"},
               {"NEWLINE_STYLE"}, {"FILE_PERMISSIONS"});
  if (!words.rest.empty()) e.fail(i, "'" + words.rest.front() + "' is not expected in configure_file(...)");
  const std::string input = e.source_path(i[0]);
  std::string output = e.binary_path(i[1]);
  if (files::is_folder(output)) output += "/" + fs::path(input).filename().string();
  output = e.writable(output, i.place);
  const auto content = files::read(input);
  if (!content) e.fail(i, "the file '" + e.shown(input) + "' to configure is not there", "check the path");
  e.read_files.insert(input);
  std::string text = words.has("COPYONLY")
                         ? *content
                         : configure_text(e, *content, words.has("@ONLY"), words.has("ESCAPE_QUOTES"), i.place);
  const std::string style = words.get("NEWLINE_STYLE");
  if (style == "DOS" || style == "WIN32" || style == "CRLF")
    text = text::replace_all(text::replace_all(text, "\r\n", "\n"), "\n", "\r\n");
  else if (!style.empty())
    text = text::replace_all(text, "\r\n", "\n");
  files::write_if_different(output, text);
  struct stat info {};
  if (::stat(input.c_str(), &info) == 0 && !words.has("NO_SOURCE_PERMISSIONS"))
    files::set_mode(output, (info.st_mode & 0777U) | 0200U);
}

// ---- names that match --------------------------------------------------------------------------------------------

// Names are given back as the pattern has them: "../a/*.c" gives FOLDER/../a/b.c, as descriptions expect that take
// one such name out of the list again.
class Globber {
 public:
  Globber(Evaluator& e, const Place& place, bool recurse, bool folders, bool follow)
      : e_(e), place_(place), recurse_(recurse), folders_(folders), follow_(follow) {}

  void add(const std::string& pattern) {
    const auto parts = text::split(pattern, '/');
    walk("", parts, 1);
  }
  std::set<std::string> found;

 private:
  static bool is_pattern(const std::string& part) { return part.find_first_of("*?[") != std::string::npos; }
  // The output folder is no part of the tree, unless it is asked for by name.
  [[nodiscard]] bool is_output(const std::string& name) const {
    const std::string path = fs::path(name).lexically_normal().string();
    return path == e_.binary_root || (fs::path(e_.binary_root).parent_path().string() == path) ||
           (path == e_.tree + "/kiln" && files::is_below(e_.binary_root, path));
  }

  void walk(const std::string& folder, const std::vector<std::string>& parts, std::size_t at) {
    if (at >= parts.size()) return;
    const bool last = at + 1 == parts.size();
    if (!is_pattern(parts[at]) && !(last && recurse_)) {
      const std::string path = folder + "/" + parts[at];
      if (!last)
        walk(path, parts, at + 1);
      else if (files::is_file(path) || (folders_ && files::is_folder(path)))
        found.insert(path);
      return;
    }
    const auto names = files::names_in(folder.empty() ? "/" : folder);
    e_.count_names(names.size() + 1, place_);
    for (const auto& name : names) {
      const std::string path = folder + "/" + name;
      const bool is_folder = files::is_folder(path);
      const bool hidden = name.starts_with('.') && !parts[at].starts_with('.');
      if (files::matches(parts[at], name) && !(hidden && !last)) {
        if (!last && is_folder) walk(path, parts, at + 1);
        if (last && (!is_folder || folders_) && (is_folder || files::is_file(path))) found.insert(path);
      }
      if (last && recurse_ && is_folder && !is_output(path) && name != ".git" && (follow_ || !files::is_link(path)))
        walk(path, parts, at);
    }
  }

  Evaluator& e_;
  const Place& place_;
  bool recurse_;
  bool folders_;
  bool follow_;
};

void file_glob(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "file(" + i[0] + " RESULT patterns...)");
  const bool recurse = i[0] == "GLOB_RECURSE";
  bool folders = !recurse;
  bool follow = false;
  std::string relative;
  std::vector<std::string> patterns;
  for (std::size_t k = 2; k < i.size(); ++k) {
    if (i[k] == "RELATIVE" && k + 1 < i.size())
      relative = e.source_path(i[++k]);
    else if (i[k] == "LIST_DIRECTORIES" && k + 1 < i.size())
      folders = is_true(i[++k]);
    else if (i[k] == "FOLLOW_SYMLINKS")
      follow = true;
    else if (i[k] != "CONFIGURE_DEPENDS")
      patterns.push_back(i[k].starts_with('/') ? i[k] : e.directory().source + "/" + i[k]);
  }
  std::vector<std::string> all;
  Globber globber(e, i.place, recurse, folders, follow);
  for (const auto& pattern : patterns) globber.add(pattern);
  for (const auto& path : globber.found)
    all.push_back(relative.empty() ? path : files::relative(fs::path(path).lexically_normal().string(), relative));
  e.set(i[1], list_join(all));
}

// ---- copying -----------------------------------------------------------------------------------------------------

// Regular expressions on whole paths, with true for those that leave out.
using Expressions = std::vector<std::pair<std::shared_ptr<Regex>, bool>>;

void copy_path(Evaluator& e, const Invocation& i, const fs::path& from, const fs::path& asked,
               const std::vector<std::pair<std::string, bool>>& patterns, const Expressions& expressions,
               bool only_matching) {
  const fs::path to = e.writable(asked.string(), i.place);
  if (files::is_link(from)) {
    std::error_code error;
    observe::wrote(to);
    files::make_folder(to.parent_path());
    fs::remove(to, error);
    fs::copy_symlink(from, to, error);
  } else if (files::is_folder(from)) {
    if (!only_matching) files::make_folder(to);
    for (const auto& name : files::names_in(from)) {
      if (!files::is_below(e.binary_root, (from / name).string()))
        copy_path(e, i, from / name, asked / name, patterns, expressions, only_matching);
    }
  } else {
    const std::string name = from.filename().string();
    bool matched = false;
    for (const auto& [pattern, exclude] : patterns) {
      if (!files::matches(pattern, name)) continue;
      if (exclude) return;
      matched = true;
    }
    for (const auto& [expression, exclude] : expressions) {
      if (!expression->matches(from.string())) continue;
      if (exclude) return;
      matched = true;
    }
    if (only_matching && !matched) return;
    const auto content = files::read(from);
    if (!content) e.fail(i, "the file '" + e.shown(from.string()) + "' to copy " + files::why_not_read(from.string()));
    files::write_if_different(to, *content);
    files::set_mode(to, static_cast<unsigned>(fs::status(from).permissions() | fs::perms::owner_write));
  }
}

void file_copy(Evaluator& e, const Invocation& i) {
  std::vector<std::string> sources;
  std::string destination;
  std::vector<std::pair<std::string, bool>> patterns;
  Expressions expressions;
  bool only_matching = false;
  for (std::size_t k = 1; k < i.size(); ++k) {
    const std::string& word = i[k];
    if (word == "DESTINATION" && k + 1 < i.size())
      destination = e.binary_path(i[++k]);
    else if (word == "FILES_MATCHING")
      only_matching = true;
    else if (word == "PATTERN" && k + 1 < i.size()) {
      ++k;
      const bool exclude = k + 1 < i.size() && i[k + 1] == "EXCLUDE";
      patterns.emplace_back(i[k], exclude);
      if (exclude) ++k;
    } else if (word == "FILE_PERMISSIONS" || word == "DIRECTORY_PERMISSIONS") {
      while (k + 1 < i.size() &&
             (i[k + 1].starts_with("OWNER_") || i[k + 1].starts_with("GROUP_") || i[k + 1].starts_with("WORLD_")))
        ++k;
    } else if (word == "NO_SOURCE_PERMISSIONS" || word == "USE_SOURCE_PERMISSIONS" || word == "FOLLOW_SYMLINK_CHAIN") {
      continue;
    } else if (word == "REGEX" && k + 1 < i.size()) {
      ++k;
      const bool exclude = k + 1 < i.size() && i[k + 1] == "EXCLUDE";
      expressions.emplace_back(std::make_shared<Regex>(i[k]), exclude);
      if (exclude) ++k;
    } else {
      sources.push_back(word);
    }
  }
  if (destination.empty()) e.fail(i, "file(COPY ...) without DESTINATION");
  for (const auto& source : sources) {
    const bool content_only = source.ends_with('/');
    const std::string from = e.source_path(source);
    if (!files::is_link(from) && !files::exists(from))
      e.fail(i, "'" + e.shown(from) + "' to copy is not there", "check the path");
    copy_path(e, i, from, content_only ? fs::path(destination) : fs::path(destination) / fs::path(from).filename(),
              patterns, expressions, only_matching);
  }
}

void file_strings(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "file(STRINGS FILE RESULT)");
  const auto words = keywords(
      i.texts(3), {"NEWLINE_CONSUME", "NO_HEX_CONVERSION"},
      {"REGEX", "LIMIT_COUNT", "LENGTH_MINIMUM", "LENGTH_MAXIMUM", "LIMIT_INPUT", "LIMIT_OUTPUT", "ENCODING"}, {});
  const auto content = files::read(e.source_path(i[1]));
  if (!content)
    e.fail(i, "the file '" + e.shown(e.source_path(i[1])) + "' " + files::why_not_read(e.source_path(i[1])),
           "check the path");
  e.read_files.insert(e.source_path(i[1]));
  std::vector<std::string> lines;
  std::optional<Regex> regex;
  if (words.has("REGEX")) regex.emplace(words.get("REGEX"));
  const std::size_t limit =
      words.has("LIMIT_COUNT") ? static_cast<std::size_t>(std::atol(words.get("LIMIT_COUNT").c_str())) : SIZE_MAX;
  for (auto line : text::split(*content, '\n')) {
    std::erase_if(line, [](char c) { return (static_cast<unsigned char>(c) < 0x20 && c != '\t') || c == 0x7F; });
    if (line.empty() || (regex && !regex->matches(line)) || lines.size() >= limit) continue;
    lines.push_back(text::replace_all(line, ";", "\\;"));
  }
  e.set(i[2], list_join(lines));
}

void file_generate(Evaluator& e, const Invocation& i) {
  const auto words =
      keywords(i.texts(1), {"NO_SOURCE_PERMISSIONS", "USE_SOURCE_PERMISSIONS"},
               {"OUTPUT", "INPUT", "CONTENT", "CONDITION", "TARGET", "NEWLINE_STYLE"}, {"FILE_PERMISSIONS"});
  std::string content = words.get("CONTENT");
  if (words.has("INPUT")) {
    const auto read = files::read(e.source_path(words.get("INPUT")));
    if (!read)
      e.fail(i, "the file '" + words.get("INPUT") + "' " + files::why_not_read(e.source_path(words.get("INPUT"))));
    content = *read;
    e.read_files.insert(e.source_path(words.get("INPUT")));
  }
  const std::string output = words.get("OUTPUT");
  if (output.empty()) e.fail(i, "file(GENERATE) without OUTPUT");
  GeneratedFile file{e.word(output.starts_with("$<") ? output : e.binary_path(output), i), e.word(content, i),
                     e.word(words.get("CONDITION"), i), words.get("TARGET"), false};
  const auto permissions = words.list("FILE_PERMISSIONS");
  struct stat info {};
  file.executable = std::find(permissions.begin(), permissions.end(), "OWNER_EXECUTE") != permissions.end() ||
                    (permissions.empty() && words.has("INPUT") && !words.has("NO_SOURCE_PERMISSIONS") &&
                     ::stat(e.source_path(words.get("INPUT")).c_str(), &info) == 0 && (info.st_mode & 0100U) != 0);
  if (words.has("NEWLINE_STYLE")) {
    const std::string style = words.get("NEWLINE_STYLE");
    file.content.text = text::replace_all(file.content.text, "\r\n", "\n");
    if (style == "DOS" || style == "WIN32" || style == "CRLF")
      file.content.text = text::replace_all(file.content.text, "\n", "\r\n");
  }
  file.path.folder = e.directory().binary;
  if (!output.starts_with("$<")) file.path.text = e.writable(file.path.text, i.place);
  e.project.generated_files.push_back(std::move(file));
}

void run_file_command(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "file(OPERATION ...)");
  const std::string& operation = i[0];
  const auto usage = [&](std::size_t words) { e.need(i, words, "file(" + operation + " ...) with all its arguments"); };
  std::error_code error;
  if (operation == "READ") {
    usage(3);
    const auto words = keywords(i.texts(3), {"HEX"}, {"OFFSET", "LIMIT"}, {});
    const auto content = files::read(e.source_path(i[1]));
    if (!content)
      e.fail(i, "the file '" + e.shown(e.source_path(i[1])) + "' " + files::why_not_read(e.source_path(i[1])),
             "check the path");
    e.read_files.insert(e.source_path(i[1]));
    std::string part = content->substr(
        std::min(content->size(), static_cast<std::size_t>(std::max(0L, std::atol(words.get("OFFSET").c_str())))));
    if (words.has("LIMIT"))
      part = part.substr(0, static_cast<std::size_t>(std::max(0L, std::atol(words.get("LIMIT").c_str()))));
    if (words.has("HEX")) {
      std::string hex;
      for (const char c : part) hex += fmt::format("{:02x}", static_cast<unsigned char>(c));
      part = hex;
    }
    e.set(i[2], part);
  } else if (operation == "STRINGS") {
    file_strings(e, i);
  } else if (operation == "WRITE" || operation == "APPEND") {
    const std::string path = e.writable(e.source_path(i[1]), i.place);
    const std::string old = operation == "APPEND" ? files::read(path).value_or("") : "";
    files::write_if_different(path, old + text::join(i.texts(2), ""));
  } else if (operation == "TOUCH" || operation == "TOUCH_NOCREATE") {
    for (const auto& name : i.texts(1)) {
      const std::string path = e.writable(e.source_path(name), i.place);
      if (!files::is_file(path) && operation == "TOUCH") files::write(path, "");
    }
  } else if (operation == "GLOB" || operation == "GLOB_RECURSE") {
    file_glob(e, i);
  } else if (operation == "MAKE_DIRECTORY") {
    for (const auto& name : i.texts(1)) {
      if (files::is_folder(e.source_path(name))) continue;
      files::make_folder(e.writable(e.source_path(name), i.place));
    }
  } else if (operation == "REMOVE" || operation == "REMOVE_RECURSE") {
    for (const auto& name : i.texts(1)) {
      const std::string path = e.source_path(name);
      if (!files::is_link(path) && !files::exists(path)) continue;
      if (e.writable(path, i.place) != path) continue;  // what is in the tree stays there
      observe::wrote(path);
      if (operation == "REMOVE")
        fs::remove(path, error);
      else
        fs::remove_all(path, error);
    }
  } else if (operation == "RENAME") {
    usage(3);
    const std::string to = e.writable(e.source_path(i[2]), i.place);
    observe::content(e.source_path(i[1]));
    observe::wrote(to);
    if (const std::string from = e.source_path(i[1]); files::is_below(from, e.binary_root))
      fs::rename(from, to, error);
    else {
      // What is in the tree stays there.
      const auto content = files::read(from);
      if (!content) e.fail(i, "'" + e.shown(from) + "' to rename " + files::why_not_read(from), "check the path");
      files::write(to, *content);
    }
    if (error) e.fail(i, "'" + i[1] + "' cannot be renamed: " + error.message());
  } else if (operation == "COPY" || operation == "INSTALL") {
    file_copy(e, i);
  } else if (operation == "COPY_FILE") {
    usage(3);
    copy_path(e, i, e.source_path(i[1]), e.source_path(i[2]), {}, {}, false);
  } else if (operation == "SIZE") {
    usage(3);
    observe::content(e.source_path(i[1]));
    const auto size = fs::file_size(e.source_path(i[1]), error);
    if (error) e.fail(i, "the file '" + i[1] + "' is not there");
    e.set(i[2], std::to_string(size));
  } else if (operation == "RELATIVE_PATH") {
    usage(4);
    e.set(i[1], files::relative(files::absolute(i[3]), files::absolute(i[2])));
  } else if (operation == "TO_CMAKE_PATH" || operation == "TO_NATIVE_PATH") {
    usage(3);
    e.set(i[2], operation == "TO_CMAKE_PATH" ? text::replace_all(i[1], ":", ";") : i[1]);
  } else if (operation == "REAL_PATH") {
    usage(3);
    const auto words = keywords(i.texts(3), {"EXPAND_TILDE"}, {"BASE_DIRECTORY"}, {});
    std::string path = i[1];
    if (const char* home = std::getenv("HOME"); words.has("EXPAND_TILDE") && home != nullptr && path.starts_with('~'))
      path = home + path.substr(1);
    path = words.has("BASE_DIRECTORY") ? files::absolute(path, e.source_path(words.get("BASE_DIRECTORY")))
                                       : e.source_path(path);
    observe::content(path);
    const auto real = fs::weakly_canonical(path, error);
    e.set(i[2], error ? path : real.string());
  } else if (operation == "READ_SYMLINK") {
    usage(3);
    observe::link(e.source_path(i[1]));
    e.set(i[2], fs::read_symlink(e.source_path(i[1]), error).string());
  } else if (operation == "CREATE_LINK") {
    usage(3);
    const std::string link = e.writable(e.source_path(i[2]), i.place);
    files::make_folder(fs::path(link).parent_path());
    observe::wrote(link);
    fs::remove(link, error);
    fs::create_symlink(i[1], link, error);
  } else if (operation == "GENERATE") {
    file_generate(e, i);
  } else if (operation == "CONFIGURE") {
    const auto words = keywords(i.texts(1), {"@ONLY", "ESCAPE_QUOTES"}, {"OUTPUT", "CONTENT", "NEWLINE_STYLE"}, {});
    const std::string path = e.writable(e.binary_path(words.get("OUTPUT")), i.place);
    files::write_if_different(
        path, configure_text(e, words.get("CONTENT"), words.has("@ONLY"), words.has("ESCAPE_QUOTES"), i.place));
  } else if (operation == "TIMESTAMP") {
    usage(3);
    observe::content(e.source_path(i[1]));
    struct stat info {};
    if (::stat(e.source_path(i[1]).c_str(), &info) != 0) e.fail(i, "the file '" + i[1] + "' is not there");
    const auto [form, universal] = time_form(i.texts(), 3);
    e.set(i[2], text::time_in_form(info.st_mtim.tv_sec, form, universal));
  } else if (i.size() == 3 && digest(operation, "")) {
    const auto content = files::read(e.source_path(i[1]));
    if (!content) e.fail(i, "the file '" + i[1] + "' " + files::why_not_read(e.source_path(i[1])), "check the path");
    e.set(i[2], *digest(operation, *content));
  } else if (operation == "LOCK") {
    if (const auto words = keywords(i.texts(2), {}, {"RESULT_VARIABLE"}, {}); words.has("RESULT_VARIABLE"))
      e.set(words.get("RESULT_VARIABLE"), "0");  // the output folder is locked for the whole run
  } else if (operation == "DOWNLOAD" || operation == "UPLOAD") {
    e.fail(i, "the description loads '" + text::printable_line(i[1]) + "' from the network",
           "fetch it yourself and put it where the description looks first");
  } else {
    e.not_understood(i, "file(" + operation + ")");
  }
}

void command_file(Evaluator& e, const Invocation& i) {
  try {
    run_file_command(e, i);
  } catch (const std::invalid_argument& error) {
    e.fail(i.place, "a pattern in file(" + i[0] + ") cannot be used", "check the pattern", error.what());
  }
}

void command_get_filename_component(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "get_filename_component(RESULT PATH PART)");
  const auto words = keywords(i.texts(3), {"CACHE"}, {"BASE_DIR", "PROGRAM_ARGS"}, {});
  const std::string& part = i[2];
  std::string path = i[1];
  while (path.size() > 1 && path.ends_with('/')) path.pop_back();
  const auto slash = path.rfind('/');
  const std::string name = slash == std::string::npos ? path : path.substr(slash + 1);
  const auto first_dot = name.find('.');
  const auto last_dot = name.rfind('.');
  std::string out;
  if (part == "DIRECTORY" || part == "PATH")
    out = slash == std::string::npos ? "" : slash == 0 ? "/" : path.substr(0, slash);
  else if (part == "NAME")
    out = name;
  else if (part == "EXT")
    out = first_dot == std::string::npos ? "" : name.substr(first_dot);
  else if (part == "NAME_WE")
    out = name.substr(0, first_dot);
  else if (part == "LAST_EXT")
    out = last_dot == std::string::npos ? "" : name.substr(last_dot);
  else if (part == "NAME_WLE")
    out = name.substr(0, last_dot);
  else if (part == "ABSOLUTE" || part == "REALPATH") {
    out = files::absolute(path, words.has("BASE_DIR") ? e.source_path(words.get("BASE_DIR")) : e.directory().source);
    if (part == "REALPATH") {
      std::error_code error;
      const auto real = fs::weakly_canonical(out, error);
      if (!error) out = real.string();
    }
  } else if (part == "PROGRAM") {
    const auto argv = text::shell_words(i[1]);
    out = argv.empty() ? "" : argv.front();
  } else {
    e.not_understood(i, "get_filename_component(... " + part + ")");
  }
  if (words.has("CACHE"))
    e.set_cache(i[0], out, "STRING", "", false, {});
  else
    e.set(i[0], out);
}

// cmake_path(): operations that only look at the text of a path.
void command_cmake_path(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "cmake_path(OPERATION NAME ...)");
  const std::string& operation = i[0];
  const auto words = keywords(i.texts(2), {"NORMALIZE", "LAST_ONLY"}, {"OUTPUT_VARIABLE", "BASE_DIRECTORY"}, {});
  const bool normalize = words.has("NORMALIZE");
  const bool last_only = words.has("LAST_ONLY");
  const auto put = [&](const std::string& into, const std::string& value) {
    e.set(into, normalize ? paths::normal(value) : value);
  };
  const std::string path = e.value(i[1]);
  if (operation == "SET") return put(i[1], words.rest.empty() ? "" : words.rest.back());
  if (operation == "CONVERT") {
    // To this system's own form and back: both are the same, but for what divides lists.
    e.need(i, 4, "cmake_path(CONVERT input TO_CMAKE_PATH_LIST|TO_NATIVE_PATH_LIST RESULT)");
    const bool to_list = i[2] == "TO_CMAKE_PATH_LIST";
    return put(i[3], text::replace_all(i[1], to_list ? ":" : ";", to_list ? ";" : ":"));
  }
  if (operation == "COMPARE") {
    e.need(i, 5, "cmake_path(COMPARE path EQUAL|NOT_EQUAL path RESULT)");
    e.set(i[4], paths::are_equal(i[1], i[3]) == (i[2] == "EQUAL") ? "ON" : "OFF");
    return;
  }
  if (operation == "GET" || operation == "IS_PREFIX" || operation == "NATIVE_PATH" || operation == "HASH" ||
      operation.starts_with("IS_") || operation.starts_with("HAS_")) {
    e.need(i, 3, "cmake_path(" + operation + " NAME ... RESULT)");
    // What is looked at, where an operation has that, and the variable for the result.
    if (words.rest.size() < (operation == "GET" || operation == "IS_PREFIX" ? 2U : 1U))
      e.fail(i, "cmake_path(" + operation + " ...) lacks a word", "the last one is the variable for the result");
    const std::string& into = words.rest.back();
    if (operation == "NATIVE_PATH") return put(into, path);
    if (operation == "HASH") {
      e.set(into, hash_bytes(paths::normal(path)).text().substr(0, 16));
      return;
    }
    if (operation == "IS_PREFIX") {
      e.set(into, paths::is_prefix(path, words.rest.front(), normalize) ? "ON" : "OFF");
      return;
    }
    if (operation == "GET") {
      if (const auto part = paths::part_of(path, i[2], last_only)) {
        e.set(into, *part);
        return;
      }
      e.not_understood(i, "cmake_path(GET ... " + i[2] + ")");
    }
    if (const auto answer = paths::is_so(path, operation)) {
      e.set(into, *answer ? "ON" : "OFF");
      return;
    }
    e.not_understood(i, "cmake_path(" + operation + ")");
  }
  const std::string base =
      words.has("BASE_DIRECTORY") ? e.source_path(words.get("BASE_DIRECTORY")) : e.directory().source;
  const bool from_base = operation == "RELATIVE_PATH" || operation == "ABSOLUTE_PATH";
  const auto result =
      paths::changed(path, operation, from_base ? std::vector<std::string>{} : words.rest, last_only, base);
  if (!result || operation == "CMAKE_PATH") e.not_understood(i, "cmake_path(" + operation + ")");
  put(words.has("OUTPUT_VARIABLE") ? words.get("OUTPUT_VARIABLE") : i[1], *result);
}

}  // namespace

void add_file_commands(CommandTable& table) {
  table["file"] = command_file;
  table["configure_file"] = command_configure_file;
  table["get_filename_component"] = command_get_filename_component;
  table["cmake_path"] = command_cmake_path;
}

}  // namespace coctilis::describe::listfile
