// The functions that project files may call: tests, and those that give values.
#include <re2/re2.h>

#include <algorithm>
#include <cstdlib>
#include <filesystem>

#include "base/files.h"
#include "base/text.h"
#include "describe/pro/evaluator.h"

namespace coctilis::describe::pro {

namespace {

std::string joined(const std::vector<Values>& lists, std::size_t which) {
  return which < lists.size() ? text::join(lists[which], " ") : std::string{};
}

bool is_true(const std::string& text) {
  const std::string lower = text::lower(text);
  return lower == "1" || lower == "true" || lower == "yes" || lower == "on";
}

// Numbers count as numbers.
int compare(const std::string& a, const std::string& b) {
  static const RE2 number(R"(-?[0-9]+)");
  if (RE2::FullMatch(a, number) && RE2::FullMatch(b, number) && a.size() < 18 && b.size() < 18) {
    const long x = std::atol(a.c_str());
    const long y = std::atol(b.c_str());
    return x < y ? -1 : x > y ? 1 : 0;
  }
  return a < b ? -1 : a > b ? 1 : 0;
}

// A whole match as a regular expression, or the same text.
bool matches_whole(const std::string& text, const std::string& pattern) {
  if (text == pattern) return true;
  const RE2 expression(pattern, RE2::Quiet);
  return expression.ok() && RE2::FullMatch(text, expression);
}

bool is_pattern(const std::string& name) { return name.find_first_of("*?[") != std::string::npos; }

// Files by a pattern in the last part of the path.
void add_files(const std::string& pattern, bool deep, Values& out, int depth = 0) {
  const auto slash = pattern.rfind('/');
  const std::string folder = pattern.substr(0, slash);
  const std::string name = pattern.substr(slash + 1);
  if (depth > 32 || out.size() > 100'000) return;
  for (const auto& file : files::names_in(folder)) {
    const std::string path = folder + "/" + file;
    if (files::matches(name, file) && files::is_file(path)) out.push_back(path);
    if (deep && !files::is_link(path) && files::is_folder(path)) add_files(path + "/" + name, deep, out, depth + 1);
  }
}

std::string shell_word(const std::string& word) { return text::shell_quote(word); }

}  // namespace

std::optional<bool> Evaluator::built_in_test(const std::string& name, const std::vector<std::string>& raw,
                                             const std::vector<Values>& lists) {
  // Variables are named as they are, or by what expands to the name.
  const auto variable = [&](std::size_t which) { return joined(lists, which); };
  const auto list_of = [&](std::size_t which) -> const Values& { return values(variable(which)); };
  if (name == "equals" || name == "isEqual") return text::join(list_of(0), " ") == joined(lists, 1);
  if (name == "isEmpty") return list_of(0).empty();
  if (name == "contains") {
    const std::string wanted = joined(lists, 1);
    const Values& list = list_of(0);
    if (lists.size() > 2) {
      // The last of several that exclude each other.
      const auto among = text::split(joined(lists, 2), '|');
      for (auto it = list.rbegin(); it != list.rend(); ++it) {
        if (std::find(among.begin(), among.end(), *it) != among.end()) return matches_whole(*it, wanted);
      }
      return false;
    }
    return std::any_of(list.begin(), list.end(), [&](const auto& one) { return matches_whole(one, wanted); });
  }
  if (name == "CONFIG") {
    const std::string wanted = joined(lists, 0);
    if (lists.size() < 2) return has_config(wanted);
    const auto among = text::split(joined(lists, 1), '|');
    const Values& config = values("CONFIG");
    for (auto it = config.rbegin(); it != config.rend(); ++it) {
      if (std::any_of(among.begin(), among.end(), [&](const auto& one) { return text::trim(one) == *it; }))
        return *it == wanted;
    }
    return false;
  }
  if (name == "isActiveConfig") return has_config(joined(lists, 0));
  if (name == "count") {
    const auto have = static_cast<long>(list_of(0).size());
    const long wanted = std::atol(joined(lists, 1).c_str());
    const std::string how = joined(lists, 2);
    if (how == ">" || how == "greaterThan") return have > wanted;
    if (how == ">=") return have >= wanted;
    if (how == "<" || how == "lessThan") return have < wanted;
    if (how == "<=") return have <= wanted;
    return have == wanted;
  }
  if (name == "greaterThan") return compare(text::join(list_of(0), " "), joined(lists, 1)) > 0;
  if (name == "lessThan") return compare(text::join(list_of(0), " "), joined(lists, 1)) < 0;
  if (name == "versionAtLeast") return compare_versions(text::join(list_of(0), ""), joined(lists, 1)) >= 0;
  if (name == "versionAtMost") return compare_versions(text::join(list_of(0), ""), joined(lists, 1)) <= 0;
  if (name == "minQtVersion")
    return compare_versions(value("QT_VERSION"), joined(lists, 0) + "." + joined(lists, 1) + "." + joined(lists, 2)) >=
           0;
  if (name == "exists") {
    const std::string path = files::absolute(joined(lists, 0), here());
    if (!is_pattern(path)) return files::exists(path);
    Values found;
    add_files(path, false, found);
    return !found.empty();
  }
  if (name == "include") {
    const std::string given = joined(lists, 0);
    const std::string path = files::absolute(given, here());
    if (!files::is_file(path)) {
      const bool quietly = lists.size() > 2 && is_true(joined(lists, 2));
      if (!quietly) warn("the file '" + text::printable_line(given) + "' that is included is not there");
      return false;
    }
    if (lists.size() > 1 && !joined(lists, 1).empty()) {
      // Its variables get a name before theirs.
      Evaluator other(out_, path, depth_ + 20);
      other.run();
      for (const auto& [key, list] : other.frames_.front().variables) own(joined(lists, 1) + "." + key) = list;
      return true;
    }
    return read_file(path, false);
  }
  if (name == "load") {
    load_feature(joined(lists, 0));
    return true;
  }
  if (name == "message" || name == "log") {
    out_.say(joined(lists, 0));
    return true;
  }
  if (name == "warning") {
    warn(joined(lists, 0));
    return true;
  }
  if (name == "error")
    fail(lists.empty() ? "the project says that it cannot be built" : joined(lists, 0),
         "it is the project's own word: see what it asks for there");
  if (name == "requires" || name == "assert") {
    for (std::size_t i = 0; i < raw.size(); ++i) {
      const auto nodes = parse(raw[i] + "\n", file_);
      const bool met = std::all_of(nodes->begin(), nodes->end(), [&](const auto& node) { return holds(node.tests); });
      if (!met)
        fail("the project requires '" + text::printable_line(raw[i]) + "'",
             "it is the project's own word: see what it asks for there");
    }
    return true;
  }
  if (name == "defined") {
    const std::string what = joined(lists, 0);
    const std::string kind = joined(lists, 1);
    if (kind == "test") return tests_.contains(what);
    if (kind == "replace") return replacers_.contains(what);
    if (kind == "var") return find(what) != nullptr;
    return tests_.contains(what) || replacers_.contains(what);
  }
  if (name == "eval") {
    const auto nodes = parse(joined(lists, 0) + "\n", files::below(files_.empty() ? file_ : files_.back(), out_.tree));
    kept_.push_back(nodes);
    static_cast<void>(run_nodes(*nodes));
    return true;
  }
  if (name == "export") {
    frames_.front().variables[variable(0)] = list_of(0);
    return true;
  }
  if (name == "clear") {
    own(variable(0)).clear();
    return true;
  }
  if (name == "unset") {
    for (auto& frame : frames_) frame.variables.erase(variable(0));
    return true;
  }
  if (name == "system") {
    return out_.run(joined(lists, 0), here()).second;
  }
  if (name == "qtHaveModule") return out_.has_module(text::replace_all(joined(lists, 0), "-", ""));
  if (name == "qtConfig") {
    const std::string feature = joined(lists, 0);
    const Values& known = values("QT_CONFIG");
    if (std::find(known.begin(), known.end(), feature) != known.end() || out_.has_module(feature)) return true;
    warn("whether the toolkit has '" + text::printable_line(feature) + "' is not known: it counts as there");
    return true;
  }
  if (name == "packagesExist") {
    return std::all_of(lists.begin(), lists.end(), [&](const auto& list) {
      return std::all_of(list.begin(), list.end(), [&](const auto& one) { return out_.has_package(one); });
    });
  }
  if (name == "infile") {
    const auto content = files::read(files::absolute(joined(lists, 0), here()));
    if (!content) return false;
    const std::string key = joined(lists, 1);
    return RE2::PartialMatch(*content, "(?m)^\\s*" + RE2::QuoteMeta(key) + "\\s*[+*-]?=");
  }
  // Results may be written, below the folder for them.
  if (name == "write_file" || name == "touch" || name == "mkpath") {
    const std::string path = result_path(joined(lists, 0));
    if (!files::is_below(path, out_.work)) {
      warn("'" + text::printable_line(path) + "' is not written: it lies outside of the folder for results");
      return false;
    }
    if (name == "mkpath") files::make_folder(path);
    if (name == "write_file") files::write_if_different(path, text::join(values(joined(lists, 1)), "\n") + "\n");
    if (name == "touch" && !files::exists(path)) files::write(path, "");
    return true;
  }
  if (name == "cache" || name == "debug" || name == "prompt" || name == "option" || name == "discard_from" ||
      name == "haveQtModule" || name == "reload_properties" || name == "equalTo" || name == "jsonToken")
    return true;
  // A project of the tree that tells by being compiled whether something is there.
  if (name == "qtCompileTest") {
    const std::string what = joined(lists, 0);
    std::string folder = value("QMAKE_CONFIG_TESTS_DIR");
    if (folder.empty()) folder = "config.tests";
    const std::string project =
        files::absolute(folder, folder_) + "/" + what + "/" + what.substr(what.rfind('/') + 1) + ".pro";
    if (!files::is_below(project, out_.tree) || !files::is_file(project)) {
      warn("the test project '" + text::printable_line(what) + "' is not there: what it looks for counts as not there");
      return false;
    }
    const bool good = out_.compiles(what, project);
    if (good) frames_.front().variables["CONFIG"].push_back("config_" + what);
    return good;
  }
  return std::nullopt;
}

std::optional<Values> Evaluator::built_in_value(const std::string& name, const std::vector<Values>& lists) {
  const auto list_of = [&](std::size_t which) -> Values { return values(joined(lists, which)); };
  const auto each = [&](const auto& change) {
    Values out;
    for (const auto& list : lists) {
      for (const auto& one : list) out.push_back(change(one));
    }
    return out;
  };
  const auto number = [&](std::size_t which, long otherwise) {
    return which < lists.size() ? std::atol(joined(lists, which).c_str()) : otherwise;
  };
  if (name == "quote" || name == "escape_expand")
    return Values{text::replace_all(text::replace_all(joined(lists, 0), "\\n", "\n"), "\\t", "\t")};
  if (name == "lower") return each([](const auto& one) { return text::lower(one); });
  if (name == "upper") return each([](const auto& one) { return text::upper(one); });
  if (name == "title")
    return each([](std::string one) {
      if (!one.empty()) one[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(one[0])));
      return one;
    });
  if (name == "basename" || name == "dirname") {
    Values out;
    for (const auto& path : lists.empty() ? Values{} : list_of(0).empty() ? lists[0] : list_of(0)) {
      const auto slash = path.rfind('/');
      out.push_back(name == "basename" ? path.substr(slash == std::string::npos ? 0 : slash + 1)
                                       : path.substr(0, slash == std::string::npos ? 0 : slash));
    }
    return out;
  }
  if (name == "absolute_path")
    return Values{files::absolute(joined(lists, 0), lists.size() > 1 ? joined(lists, 1) : here())};
  if (name == "clean_path") return Values{std::filesystem::path(joined(lists, 0)).lexically_normal().string()};
  if (name == "relative_path")
    return Values{files::relative(files::absolute(joined(lists, 0), here()),
                                  lists.size() > 1 ? files::absolute(joined(lists, 1), here()) : here())};
  if (name == "shell_path" || name == "system_path") return Values{joined(lists, 0)};
  if (name == "shell_quote" || name == "system_quote") return Values{shell_word(joined(lists, 0))};
  if (name == "shadowed") {
    const std::string path = files::absolute(joined(lists, 0), here());
    return Values{files::is_below(path, out_.tree) && !files::is_below(path, out_.work)
                      ? (path == out_.tree ? out_.work : out_.work + "/" + files::below(path, out_.tree))
                      : path};
  }
  if (name == "first" || name == "take_first") {
    const auto list = list_of(0);
    if (name == "take_first" && !list.empty()) own(joined(lists, 0)).erase(own(joined(lists, 0)).begin());
    return list.empty() ? Values{} : Values{list.front()};
  }
  if (name == "last" || name == "take_last") {
    const auto list = list_of(0);
    if (name == "take_last" && !list.empty()) own(joined(lists, 0)).pop_back();
    return list.empty() ? Values{} : Values{list.back()};
  }
  if (name == "size") return Values{std::to_string(list_of(0).size())};
  if (name == "str_size") return Values{std::to_string(joined(lists, 0).size())};
  if (name == "member" || name == "str_member") {
    Values list;
    if (name == "member") {
      list = list_of(0);
    } else {
      for (const char c : joined(lists, 0)) list.emplace_back(1, c);
    }
    long from = number(1, 0);
    long to = number(2, from);
    if (lists.size() > 1) {
      const std::string range = joined(lists, 1);
      const auto dots = range.find("..");
      if (dots != std::string::npos) {
        from = std::atol(range.substr(0, dots).c_str());
        to = std::atol(range.substr(dots + 2).c_str());
      }
    }
    const auto count = static_cast<long>(list.size());
    if (from < 0) from += count;
    if (to < 0) to += count;
    Values out;
    for (long i = from; from <= to ? i <= to : i >= to; i += from <= to ? 1 : -1) {
      if (i >= 0 && i < count) out.push_back(list[static_cast<std::size_t>(i)]);
      if (out.size() > 100'000) break;
    }
    return name == "member" ? out : Values{text::join(out, "")};
  }
  if (name == "join") {
    const auto list = list_of(0);
    if (list.empty()) return Values{};
    return Values{joined(lists, 2) + text::join(list, joined(lists, 1)) + joined(lists, 3)};
  }
  if (name == "split") {
    Values out;
    const std::string by = lists.size() > 1 && !joined(lists, 1).empty() ? joined(lists, 1) : " ";
    for (const auto& one : list_of(0)) {
      std::size_t at = 0;
      for (auto found = one.find(by); found != std::string::npos; found = one.find(by, at)) {
        out.push_back(one.substr(at, found - at));
        at = found + by.size();
      }
      out.push_back(one.substr(at));
    }
    return out;
  }
  if (name == "section") {
    Values out;
    const std::string by = joined(lists, 1);
    for (const auto& one : list_of(0)) {
      if (by.empty()) continue;
      std::vector<std::string> parts;
      std::size_t at = 0;
      for (auto found = one.find(by); found != std::string::npos; found = one.find(by, at)) {
        parts.push_back(one.substr(at, found - at));
        at = found + by.size();
      }
      parts.push_back(one.substr(at));
      const auto count = static_cast<long>(parts.size());
      long from = number(2, 0);
      long to = number(3, -1);
      if (from < 0) from += count;
      if (to < 0) to += count;
      std::vector<std::string> taken;
      for (long i = std::max(0L, from); i <= to && i < count; ++i) taken.push_back(parts[static_cast<std::size_t>(i)]);
      out.push_back(text::join(taken, by));
    }
    return out;
  }
  if (name == "find") {
    Values out;
    for (const auto& one : list_of(0)) {
      const RE2 expression(joined(lists, 1), RE2::Quiet);
      if (expression.ok() && RE2::PartialMatch(one, expression)) out.push_back(one);
    }
    return out;
  }
  if (name == "replace") {
    // `~=` hands the value itself.
    Values list = lists.empty() ? Values{} : find(joined(lists, 0)) != nullptr ? list_of(0) : lists[0];
    const RE2 expression(joined(lists, 1), RE2::Quiet);
    if (!expression.ok()) return list;
    for (auto& one : list) RE2::GlobalReplace(&one, expression, joined(lists, 2));
    return list;
  }
  if (name == "unique" || name == "sorted" || name == "reverse") {
    Values list = list_of(0);
    if (name == "sorted") std::sort(list.begin(), list.end());
    if (name == "reverse") std::reverse(list.begin(), list.end());
    if (name != "unique") return list;
    Values out;
    for (auto& one : list) {
      if (std::find(out.begin(), out.end(), one) == out.end()) out.push_back(one);
    }
    return out;
  }
  if (name == "list") {
    Values all;
    for (const auto& list : lists) all.insert(all.end(), list.begin(), list.end());
    const std::string key = "list " + std::to_string(++lists_);
    frames_.front().variables[key] = all;
    return Values{key};
  }
  if (name == "files") {
    Values out;
    const bool deep = is_true(joined(lists, 1));
    const std::string given = joined(lists, 0);
    add_files(files::absolute(given, here()), deep, out);
    // Relative ones stay so.
    if (!given.starts_with('/')) {
      for (auto& one : out) one = files::relative(one, here());
    }
    std::sort(out.begin(), out.end());
    return out;
  }
  if (name == "cat" || name == "fromfile") {
    const auto content = files::read(files::absolute(joined(lists, 0), here()));
    if (!content) {
      warn("the file '" + text::printable_line(joined(lists, 0)) + "' is not there");
      return Values{};
    }
    if (name == "fromfile") {
      Evaluator other(out_, files::absolute(joined(lists, 0), here()), depth_ + 20);
      other.run();
      return other.values(joined(lists, 1));
    }
    const std::string how = joined(lists, 1);
    if (how == "blob") return Values{*content};
    if (how == "lines") {
      auto lines = text::split(*content, '\n');
      if (!lines.empty() && lines.back().empty()) lines.pop_back();
      return lines;
    }
    return text::words(*content);
  }
  if (name == "system") {
    const auto [output, good] = out_.run(joined(lists, 0), here());
    const std::string how = joined(lists, 1);
    if (lists.size() > 2) own(joined(lists, 2)) = {good ? "0" : "1"};
    if (how == "blob") return Values{output};
    if (how == "lines" || how == "singleLine") {
      auto lines = text::split(output, '\n');
      while (!lines.empty() && lines.back().empty()) lines.pop_back();
      return lines;
    }
    return text::words(output);
  }
  if (name == "getenv") {
    const char* found = std::getenv(joined(lists, 0).c_str());
    return found == nullptr ? Values{} : Values{found};
  }
  if (name == "sprintf") {
    std::string out = joined(lists, 0);
    for (std::size_t i = 1; i < lists.size(); ++i)
      out = text::replace_all(out, "%" + std::to_string(i), joined(lists, i));
    return Values{out};
  }
  if (name == "format_number") {
    const long value = number(0, 0);
    long base = 10;
    std::size_t width = 0;
    bool zero = false;
    for (const auto& one : lists.size() > 1 ? lists[1] : Values{}) {
      if (one.starts_with("obase=")) base = std::atol(one.substr(6).c_str());
      if (one.starts_with("width="))
        width = static_cast<std::size_t>(std::clamp(std::atol(one.substr(6).c_str()), 0L, 64L));
      if (one == "zeropad") zero = true;
    }
    std::string digits;
    for (long rest = std::labs(value); base > 1 && base <= 16 && (rest > 0 || digits.empty()); rest /= base)
      digits.insert(digits.begin(), "0123456789abcdef"[rest % base]);
    while (digits.size() < width) digits.insert(digits.begin(), zero ? '0' : ' ');
    return Values{(value < 0 ? "-" : "") + digits};
  }
  if (name == "num_add") {
    long sum = 0;
    for (std::size_t i = 0; i < lists.size(); ++i) sum += number(i, 0);
    return Values{std::to_string(sum)};
  }
  if (name == "re_escape") return each([](const auto& one) { return RE2::QuoteMeta(one); });
  if (name == "val_escape") return each([](const auto& one) { return text::replace_all(one, "$", "$$"); });
  if (name == "enumerate_vars") {
    std::set<std::string> names;
    for (const auto& frame : frames_) {
      for (const auto& [key, list] : frame.variables) names.insert(key);
    }
    return Values(names.begin(), names.end());
  }
  if (name == "qtLibraryTarget") return Values{joined(lists, 0)};
  if (name == "read_registry" || name == "prompt" || name == "resolve_depends") return Values{};
  if (name == "sort_depends") return list_of(0);
  return std::nullopt;
}

}  // namespace coctilis::describe::pro
