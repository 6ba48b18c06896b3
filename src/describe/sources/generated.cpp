#include "describe/sources/generated.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::describe::sources {

HeaderValues::HeaderValues(Outside& outside, const std::set<std::string>& libc,
                           std::map<std::string, std::string> macros, std::string tree_name, std::string version,
                           std::map<std::string, std::string> told)
    : outside_(outside),
      libc_(libc),
      macros_(std::move(macros)),
      tree_name_(std::move(tree_name)),
      version_(std::move(version)),
      told_(std::move(told)) {}

namespace {

// "SYS_TYPES_H" may be "sys/types.h", "sys_types.h" or "sys-types.h": all ways to read it, the likelier first.
std::vector<std::string> headers_called(const std::string& name) {
  std::string lower = text::lower(name.substr(0, name.size() - 2));
  std::vector<std::string> out = {lower + ".h"};
  const auto first = lower.find('_');
  if (first != std::string::npos) {
    std::string slash = lower;
    slash[first] = '/';
    out.push_back(slash + ".h");
    out.push_back(text::replace_all(lower, "_", "/") + ".h");
    out.push_back(text::replace_all(lower, "_", "-") + ".h");
  }
  return out;
}

bool is_standard_type(const std::string& lower) {
  static const std::set<std::string> names = {"int8_t",       "int16_t",       "int32_t",
                                              "int64_t",      "uint8_t",       "uint16_t",
                                              "uint32_t",     "uint64_t",      "intptr_t",
                                              "uintptr_t",    "intmax_t",      "uintmax_t",
                                              "size_t",       "ssize_t",       "pid_t",
                                              "off_t",        "mode_t",        "uid_t",
                                              "gid_t",        "ptrdiff_t",     "wchar_t",
                                              "socklen_t",    "long_long",     "long_double",
                                              "_bool",        "long_long_int", "unsigned_long_long_int",
                                              "sig_atomic_t", "stdbool_t",     "u_int32_t",
                                              "u_int8_t",     "u_int16_t",     "sigset_t"};
  return names.contains(lower);
}

}  // namespace

std::optional<std::string> HeaderValues::value(const std::string& name) const {
  if (const auto it = told_.find(name); it != told_.end()) return it->second;
  const auto ends = [&](const char* with) { return name.ends_with(with); };
  const auto part = [&](std::size_t which) {
    const auto parts = text::split(version_, '.');
    return which < parts.size() && !parts[which].empty() ? parts[which] : std::string("0");
  };
  if (name == "PACKAGE" || name == "PACKAGE_NAME" || name == "PACKAGE_TARNAME" || name == "PROJECT_NAME")
    return "\"" + tree_name_ + "\"";
  if (name == "PACKAGE_STRING") return "\"" + tree_name_ + " " + version_ + "\"";
  if (name == "PACKAGE_BUGREPORT" || name == "PACKAGE_URL") return "\"\"";
  if (ends("VERSION_MAJOR") || ends("MAJOR_VERSION")) return part(0);
  if (ends("VERSION_MINOR") || ends("MINOR_VERSION")) return part(1);
  if (ends("VERSION_PATCH") || ends("PATCH_VERSION") || ends("VERSION_MICRO") || ends("MICRO_VERSION") ||
      ends("VERSION_REVISION") || ends("VERSION_RELEASE"))
    return part(2);
  if (name == "VERSION" || ends("_VERSION") || ends("VERSION_STRING")) return "\"" + version_ + "\"";
  if (name == "STDC_HEADERS" || name == "_GNU_SOURCE" || name == "TIME_WITH_SYS_TIME" || name == "_ALL_SOURCE" ||
      name == "_POSIX_PTHREAD_SEMANTICS" || name == "_TANDEM_SOURCE" || name == "__EXTENSIONS__")
    return "1";
  if (name == "RETSIGTYPE") return "void";
  if (name == "LT_OBJDIR") return "\".libs/\"";
  if (name.starts_with("SIZEOF_")) {
    static const std::map<std::string, std::string> macros = {
        {"INT", "__SIZEOF_INT__"},           {"LONG", "__SIZEOF_LONG__"},           {"SHORT", "__SIZEOF_SHORT__"},
        {"SIZE_T", "__SIZEOF_SIZE_T__"},     {"LONG_LONG", "__SIZEOF_LONG_LONG__"}, {"VOID_P", "__SIZEOF_POINTER__"},
        {"FLOAT", "__SIZEOF_FLOAT__"},       {"DOUBLE", "__SIZEOF_DOUBLE__"},       {"UNSIGNED_INT", "__SIZEOF_INT__"},
        {"UNSIGNED_LONG", "__SIZEOF_LONG__"}};
    const auto it = macros.find(name.substr(7));
    if (it == macros.end()) return std::nullopt;
    const auto macro = macros_.find(it->second);
    return macro == macros_.end() ? std::nullopt : std::optional(macro->second);
  }
  if (!name.starts_with("HAVE_")) return std::nullopt;
  std::string rest = name.substr(5);
  const bool declaration = rest.starts_with("DECL_");
  if (declaration) rest = rest.substr(5);
  if (rest.ends_with("_H") && rest.size() > 2) {
    for (const auto& header : headers_called(rest)) {
      if (outside_.system_has(header)) return "1";
    }
    return std::nullopt;
  }
  const std::string lower = text::lower(rest);
  if (libc_.contains(lower) || libc_.contains(rest) || is_standard_type(lower)) return "1";
  return declaration ? std::optional<std::string>("0") : std::nullopt;
}

// A place of a template: its name may be in lower case and have the tree's name before it ("clay_have_long_long").
std::string HeaderValues::in_template(const std::string& name) const {
  if (const auto known = value(name)) return *known;
  const std::string upper = text::upper(name);
  if (const auto known = value(upper)) return *known;
  if (upper.find("INLINE") != std::string::npos) return "inline";
  if (const auto have = upper.find("HAVE_"); have != std::string::npos) return value(upper.substr(have)).value_or("0");
  for (const char* asks : {"HAS_", "USE_", "ENABLE_", "WITH_", "IS_"}) {
    if (upper.find(asks) != std::string::npos) return "0";
  }
  return {};
}

std::string HeaderValues::filled(const std::string& text) const {
  static const RE2 undef(R"(^\s*#\s*undef\s+([A-Za-z_][A-Za-z0-9_]*)\s*(?:/\*.*)?$)");
  static const RE2 define(R"(^\s*#\s*(?:cmake|meson)define(01)?\s+([A-Za-z_][A-Za-z0-9_]*)[ \t]*(.*)$)");
  static const RE2 at(R"(@([A-Za-z_][A-Za-z0-9_]*)@)");
  static const RE2 braces(R"(\$\{([A-Za-z_][A-Za-z0-9_]*)\})");
  const auto bare = [](std::string value) {
    if (value.size() >= 2 && value.front() == '"' && value.back() == '"') value = value.substr(1, value.size() - 2);
    return value;
  };
  std::string out;
  for (auto line : text::split(text, '\n')) {
    std::string name;
    std::string numbered;
    std::string rest;
    if (RE2::FullMatch(line, undef, &name)) {
      const auto known = value(name);
      line = known ? "#define " + name + " " + *known : "/* #undef " + name + " */";
    } else if (RE2::FullMatch(line, define, &numbered, &name, &rest)) {
      const auto known = value(name);
      const bool on = known && *known != "0";
      if (!numbered.empty())
        line = "#define " + name + (on ? " 1" : " 0");
      else if (!known)
        line = "/* #undef " + name + " */";
      else
        line = "#define " + name +
               (rest.empty() ? (known->starts_with('"') || *known != "1" ? " " + *known : "") : " " + rest);
    }
    for (const RE2* pattern : {&at, &braces}) {
      re2::StringPiece found;
      for (int guard = 0; guard < 1000 && RE2::PartialMatch(line, *pattern, &found); ++guard) {
        const auto begin = static_cast<std::size_t>(found.data() - line.data()) - (pattern == &at ? 1 : 2);
        const std::string of(found);
        line.replace(begin, of.size() + (pattern == &at ? 2 : 3), bare(in_template(of)));
      }
    }
    out += line + "\n";
  }
  if (!text.ends_with('\n') && !out.empty())
    out.pop_back();
  else if (text.ends_with('\n') && out.ends_with("\n\n"))
    out.pop_back();
  return out;
}

std::string HeaderValues::header(const std::set<std::string>& names) const {
  std::string out = "/* What this system has, of what the sources ask for. */\n";
  auto all = names;
  for (const auto& [name, value] : told_) all.insert(name);
  for (const auto& name : all) {
    const auto known = value(name);
    out += known ? "#define " + name + " " + *known + "\n" : "/* #undef " + name + " */\n";
  }
  return out;
}

bool is_grammar(const std::string& path) {
  static const std::set<std::string> endings = {".y", ".yy", ".ypp", ".l", ".ll", ".lex", ".lpp"};
  const auto dot = path.rfind('.');
  return dot != std::string::npos && endings.contains(path.substr(dot));
}

std::vector<std::string> command_words(const Grammar& grammar, const std::string& input,
                                       const std::vector<std::string>& outputs) {
  std::vector<std::string> out;
  for (auto word : grammar.words) {
    word = text::replace_all(word, "{in}", input);
    for (std::size_t i = 0; i < outputs.size(); ++i)
      word = text::replace_all(word, "{" + std::to_string(i) + "}", outputs[i]);
    out.push_back(std::move(word));
  }
  return out;
}

std::vector<std::string> template_names(const std::string& header) {
  const auto dot = header.rfind('.');
  const std::string stem = dot == std::string::npos ? header : header.substr(0, dot);
  const std::string ending = dot == std::string::npos ? "" : header.substr(dot + 1);
  return {header + ".in",       stem + ".in." + ending, stem + "." + ending + "in",  header + ".cmake",
          header + ".cmake.in", header + "_in",         stem + "-" + ending + ".in", header + ".template",
          header + ".tmpl",     stem + ".in",           stem + "_" + ending + ".in", header + "-in",
          header + "in"};
}

namespace {

bool is_there(const Tree& tree, const std::string& folder, const std::string& name) {
  const std::string path = folder.empty() ? name : folder + "/" + name;
  return files::is_file(tree.absolute(path));
}

}  // namespace

std::vector<Grammar> grammars_of(const Tree& tree, const std::set<std::string>& absent) {
  std::vector<Grammar> out;
  std::set<std::string> asked;  // without folders
  for (const auto& name : absent) asked.insert(name.substr(name.rfind('/') + 1));
  // Parsers first: their headers are none of the scanners'.
  for (const bool parsers : {true, false})
    for (const auto& file : tree.files()) {
      const auto dot = file.path.rfind('.');
      if (dot == std::string::npos || file.role == survey::FolderRole::elsewhere) continue;
      const std::string ending = file.path.substr(dot);
      const std::string name = file.path.substr(file.path.rfind('/') + 1);
      const std::string stem = name.substr(0, name.rfind('.'));
      const std::string folder = folder_of(file.path);
      const bool parser = ending == ".y" || ending == ".yy" || ending == ".ypp";
      const bool lexer = ending == ".l" || ending == ".ll" || ending == ".lex" || ending == ".lpp";
      if (parsers ? !parser : !lexer) continue;
      const std::string text = files::read(tree.absolute(file.path)).value_or("");
      if (text.find("%%") == std::string::npos) continue;  // something else is called like that
      const bool in_cpp = ending == ".yy" || ending == ".ypp" || ending == ".ll" || ending == ".lpp" ||
                          text.find("%language \"c++\"") != std::string::npos ||
                          text.find("%option c++") != std::string::npos || text.find("lalr1.cc") != std::string::npos;
      const std::string source = in_cpp ? (ending == ".yy" || ending == ".ll" ? ".cc" : ".cpp") : ".c";
      std::vector<std::string> usual =
          parser ? std::vector<std::string>{stem + ".tab" + source, stem + source, "y.tab" + source}
                 : std::vector<std::string>{"lex.yy" + source, stem + source, stem + ".yy" + source,
                                            stem + ".lex" + source};
      for (const char* other : {".c", ".cc", ".cpp", ".cxx"}) {
        usual.push_back(stem + other);
        usual.push_back(stem + ".tab" + other);
      }
      if (std::any_of(usual.begin(), usual.end(), [&](const auto& made) { return is_there(tree, folder, made); }))
        continue;
      Grammar one;
      one.input = file.path;
      if (parser) {
        one.program = "bison";
        std::string header;
        for (const auto& candidate :
             {std::string("y.tab.h"), stem + ".tab.h", stem + ".tab.hh", stem + ".tab.hpp", stem + ".h", stem + ".hh",
              stem + ".hpp", stem + "_tab.h", std::string("parser.h"), std::string("grammar.h")}) {
          if (asked.contains(candidate)) header = candidate;
          if (!header.empty()) break;
        }
        if (header.empty()) header = stem + ".tab" + (in_cpp ? (source == ".cc" ? ".hh" : ".hpp") : ".h");
        const std::string made = header.substr(0, header.rfind('.')) + source;
        one.compiled = !asked.contains(made);
        one.outputs = {made, header};
        if (header == "y.tab.h") one.words = {"-y"};
        one.words.insert(one.words.end(), {"--defines={1}", "-o", "{0}", "{in}"});
      } else {
        one.program = "flex";
        std::string made = stem + ".lex" + source;
        for (const auto& candidate : {"lex.yy" + source, stem + source, stem + ".yy" + source}) {
          if (!asked.contains(candidate)) continue;
          made = candidate;
          one.compiled = false;
        }
        one.outputs = {made};
        one.words = {"-o", "{0}"};
        for (const auto& header : {stem + ".lex.h", stem + ".yy.h", std::string("lex.yy.h"), stem + ".h"}) {
          const bool of_parser = std::any_of(out.begin(), out.end(), [&](const auto& other) {
            return std::find(other.outputs.begin(), other.outputs.end(), header) != other.outputs.end();
          });
          if (!asked.contains(header) || of_parser) continue;
          one.outputs.push_back(header);
          one.words.emplace_back("--header-file={1}");
          break;
        }
        one.words.emplace_back("{in}");
      }
      out.push_back(std::move(one));
    }
  return out;
}

}  // namespace coctilis::describe::sources
