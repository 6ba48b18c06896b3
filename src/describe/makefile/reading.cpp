// Takes makefiles apart: lines, conditionals, assignments, rules, and what is to be read besides.
#include <algorithm>

#include "base/files.h"
#include "base/machine.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/makefile/make.h"
#include "describe/makefile/words.h"

namespace coctilis::describe::makefile {

namespace {

bool odd_backslashes(std::string_view text) {
  std::size_t count = 0;
  while (count < text.size() && text[text.size() - 1 - count] == '\\') ++count;
  return count % 2 == 1;
}

// The line without its comment; "\#" stands for "#". A recipe behind ';' belongs to the shell.
std::string without_comment(std::string_view line) {
  if (line.find('#') == std::string_view::npos) return std::string(line);
  std::string out;
  bool rule = false;
  for (std::size_t i = 0; i < line.size(); ++i) {
    const char c = line[i];
    if (c == '$' && i + 1 < line.size()) {
      const std::size_t end = end_of_reference(line, i);
      out += line.substr(i, end - i);
      i = end - 1;
    } else if (c == '\\' && i + 1 < line.size() && line[i + 1] == '#') {
      out += '#';
      ++i;
    } else if (c == '#') {
      break;
    } else {
      if (c == ':' && line.substr(i, 2) != ":=" && line.substr(i, 3) != "::=" && line.substr(i, 4) != ":::=")
        rule = true;
      if (c == ';' && rule) {
        out += line.substr(i);
        break;
      }
      out += c;
    }
  }
  return out;
}

}  // namespace

Make::Make(Call call, std::string tree, const Limits& limits)
    : call_(std::move(call)), tree_(std::move(tree)), limits_(limits) {}

Place Make::place_of(const std::string& path, int line) const { return {shown(path), line, 0}; }
std::string Make::shown(const std::string& path) const { return files::below(path, tree_); }

Problem Make::problem_of(const Place& place, const std::string& what, const std::string& remedy,
                         const std::string& cause) const {
  Problem problem{Exit::description, place, what, cause, remedy, {}};
  for (auto it = chain_.rbegin(); it != chain_.rend() && problem.trail.size() < 12; ++it)
    problem.trail.push_back("needed for '" + **it + "'");
  return problem;
}
void Make::fail(const Place& place, const std::string& what, const std::string& remedy,
                const std::string& cause) const {
  throw Fault(problem_of(place, what, remedy, cause));
}
void Make::warn(const Place& place, const std::string& what) {
  if (warnings_.size() < 200) warnings_.push_back({Exit::done, place, what, {}, {}, {}});
}

void Make::count_text(std::size_t bytes, std::size_t more, const Place& place) {
  if (bytes > most_text_bytes)
    fail(place, "a text grows beyond " + text::size(most_text_bytes), "look for a variable that grows without end");
  // Only what is added counts: a large text may be made of millions of small pieces, and asking costs a system call.
  if (more > (1U << 16U) && (text_since_ += more) > most_text_bytes) check_memory(place);
}

void Make::check_memory(const Place& place) {
  text_since_ = 0;
  if (resident_bytes() > limits_.memory_bytes)
    fail(place, "the makefile takes more than " + text::size(limits_.memory_bytes) + " of memory",
         "look for a variable that grows without end");
}

void Make::count_work(const Place& place) {
  if (++work_ > limits_.expansions)
    fail(place, "the makefile works out more than " + text::grouped(limits_.expansions) + " references",
         "look for a loop without end");
  if (work_ % 4096 == 0) {
    check_memory(place);
    if (interrupted_by != 0) fail(place, "interrupted");
  }
}

void Make::start_variables() {
  const auto set = [&](const std::string& name, const std::string& value, Origin origin, bool recursive = false) {
    variables_[name] = {value, recursive, origin, std::nullopt};
  };
  for (const auto& [name, value] : call_.environment) {
    if (name == "SHELL" || name == "MAKEFLAGS" || name == "MAKELEVEL") continue;
    set(name, value, call_.environment_wins ? Origin::environment_override : Origin::environment, true);
    variables_[name].exported = true;
  }
  set("CURDIR", call_.folder, Origin::file);
  set("MAKE", call_.program, Origin::built_in);
  set("MAKE_COMMAND", call_.program, Origin::built_in);
  set("MAKE_VERSION", "4.3", Origin::built_in);
  set("MAKE_HOST", host_processor() + "-pc-linux-gnu", Origin::built_in);
  set("MAKECMDGOALS", text::join(call_.goals, " "), Origin::built_in);
  set("MAKELEVEL", std::to_string(call_.level), Origin::environment);
  set("MAKEFLAGS", flags_text(call_), Origin::environment);
  set("MFLAGS", "", Origin::built_in);
  set("MAKEFILE_LIST", "", Origin::file);
  set("SHELL", "/bin/sh", Origin::built_in);
  set(".SHELLFLAGS", "-c", Origin::built_in);
  set(".RECIPEPREFIX", "", Origin::built_in);
  set(".LIBPATTERNS", "lib%.so lib%.a", Origin::built_in);
  set(".INCLUDE_DIRS", "/usr/local/include /usr/include", Origin::built_in);
  set(".FEATURES",
      "target-specific order-only second-expansion else-if shortest-stem undefine oneshell nocomment grouped-target "
      "check-symlink jobserver",
      Origin::built_in);
  set("SUFFIXES", text::join(suffixes_, " "), Origin::built_in);
  if (!call_.include_folders.empty()) set(".INCLUDE_DIRS", text::join(call_.include_folders, " "), Origin::built_in);
}

void Make::read() {
  constexpr int most_rounds = 20;
  for (int round = 0;; ++round) {
    variables_.clear();
    entries_.clear();
    mentioned_.clear();
    named_ends_.reset();
    patterns_.clear();
    pattern_assignments_.clear();
    for (auto* names : {&phony_, &silent_, &ignored_}) names->clear();
    all_silent_ = all_ignored_ = one_shell_ = posix_ = not_parallel_ = second_expansion_ = export_all_ = false;
    suffixes_.clear();
    first_target_.clear();
    last_resort_.reset();
    vpaths_.clear();
    files_.clear();
    included_.clear();
    forget_what_was_found();
    options_.clear();
    warnings_.clear();
    left_out_.clear();
    told_unset_.clear();
    messages_.clear();
    recipe_prefix_ = '\t';
    pending_ = {};
    read_all();
    if (!remake_makefiles()) break;
    if (round == most_rounds)
      fail(files_.empty() ? Place{} : place_of(files_.front(), 0),
           "a makefile was made anew " + std::to_string(most_rounds) + " times, and is still out of date",
           "look for a rule that makes a makefile and does not bring it up to date");
  }
  forget_what_was_found();
}

void Make::forget_what_was_found() {
  nodes_.clear();
  members_.clear();
  members_taken_.clear();
  environment_.reset();
  shell_.reset();
  times_.clear();
  folders_.clear();
}

void Make::read_all() {
  start_variables();
  if (!call_.no_rules || !call_.no_variables) {
    read_text(built_in_rules(), "built in", 1);
    end_rule();
    for (auto& [name, variable] : variables_) {
      if (variable.origin == Origin::file && name != "CURDIR" && name != "MAKEFILE_LIST")
        variable.origin = Origin::built_in;
    }
    first_target_.clear();
  }
  if (call_.no_rules) {
    suffixes_.clear();
    entries_.clear();
    patterns_.clear();
  }
  // The command line counts before the makefiles are read: they see its values.
  for (const auto& text : call_.assignments) {
    Assignment assignment;
    if (!split_assignment(text, assignment.name, assignment.how, assignment.value)) continue;
    assign_into(variables_, assignment, Origin::command_line, nullptr, {"command line", 0, 0});
    variables_[assignment.name].exported = true;
  }
  for (const auto& text : call_.texts) read_text(text, "command line", 1);
  if (const auto it = call_.environment.find("MAKEFILES"); it != call_.environment.end()) {
    for (const auto& name : text::words(it->second)) include(name, true, {"environment", 0, 0});
  }
  auto makefiles = call_.makefiles;
  if (makefiles.empty()) {
    for (const char* name : {"GNUmakefile", "makefile", "Makefile"}) {
      if (makefiles.empty() && files::is_file(absolute(name))) makefiles = {name};
    }
    if (makefiles.empty() && call_.goals.empty()) {
      fail({shown(call_.folder), 0, 0}, "there is no makefile", "name one, or a folder that has one");
    }
  }
  for (const auto& name : makefiles) {
    if (name == "-" || name == "/dev/stdin") {
      read_text(call_.standard_input, absolute("standard input"), 1);
      end_rule();
      continue;
    }
    if (!files::is_file(absolute(name))) {
      included_.push_back({name, false, false, {"command line", 0, 0}});
      continue;
    }
    read_file(absolute(name), name);
  }
  finish_reading();
}

void Make::read_file(const std::string& path, const std::string& name) {
  if (++file_depth_ > 200)
    fail(place_of(path, 0), "makefiles include each other more than 200 deep", "look for one that includes itself");
  struct Leave {
    int& depth;
    ~Leave() { --depth; }
  } leave{file_depth_};
  if (files_.size() > 100'000)
    fail(place_of(path, 0), "more than 100,000 makefiles are read", "look for an include without end");
  const auto content = files::read(path);
  if (!content) fail(place_of(path, 0), "the makefile " + files::why_not_read(path), "check what it is");
  if (content->size() > most_file_bytes)
    fail(place_of(path, 0),
         "the makefile has " + text::size(content->size()) + ": none has more than " + text::size(most_file_bytes),
         "check what it is");
  if (content->find('\0') != std::string::npos)
    fail(place_of(path, 0), "the makefile holds a byte of value 0", "it is no text file");
  files_.push_back(path);
  included_.push_back({name, false, true, place_of(path, 0)});
  auto& list = variables_["MAKEFILE_LIST"];
  list.value += (list.value.empty() ? " " : " ") + name;
  read_text(*content, path, 1);
}

namespace {
std::vector<std::string_view> lines_in(const std::string& text) {
  std::vector<std::string_view> lines;
  for (std::size_t at = 0; at < text.size();) {
    auto end = text.find('\n', at);
    if (end == std::string::npos) end = text.size();
    std::string_view line(text.data() + at, end - at);
    if (line.ends_with('\r')) line.remove_suffix(1);
    lines.push_back(line);
    at = end + 1;
  }
  return lines;
}

// A line with those that continue it, which become one; moves `i` behind them.
std::string joined_line(const std::vector<std::string_view>& lines, std::size_t& i) {
  std::string joined(lines[i]);
  while (odd_backslashes(joined) && i + 1 < lines.size()) {
    joined.pop_back();
    joined.erase(joined.find_last_not_of(" \t") + 1);
    std::string_view next = lines[++i];
    next.remove_prefix(std::min(next.find_first_not_of(" \t"), next.size()));
    joined += ' ';
    joined += next;
  }
  ++i;
  return joined;
}
}  // namespace

// A recipe line with those that continue it, as they are; moves `i` behind them.
std::string Make::recipe_line(const std::vector<std::string_view>& lines, std::size_t& i) const {
  std::string command(lines[i].substr(1));
  while (odd_backslashes(command) && i + 1 < lines.size()) {
    std::string_view next = lines[++i];
    if (!next.empty() && next[0] == recipe_prefix_) next.remove_prefix(1);
    command += '\n';
    command += next;
  }
  ++i;
  return command;
}

// The lines up to the 'endef' that belongs to a 'define'; moves `i` behind it. Nothing: there is no such.
std::optional<std::string> Make::definition_body(const std::vector<std::string_view>& lines, std::size_t& i) const {
  int nested = 1;
  std::string body;
  for (bool first = true; i < lines.size(); ++i, first = false) {
    std::string_view trimmed = lines[i];
    if (trimmed.empty() || trimmed[0] != recipe_prefix_) {
      trimmed = text::trim(trimmed);
      if (trimmed.starts_with("define ") || trimmed.starts_with("define\t")) ++nested;
      const bool ends = trimmed == "endef" || trimmed.starts_with("endef ") || trimmed.starts_with("endef\t") ||
                        trimmed.starts_with("endef#");
      if (ends && --nested == 0) {
        ++i;
        return body;
      }
    }
    if (!first) body += '\n';
    body += lines[i];
  }
  return std::nullopt;
}

// True when the line begins a definition of several lines, which is then read; it counts only where `active`.
bool Make::definition(const std::string& plain, const std::vector<std::string_view>& lines, std::size_t& i,
                      const Place& place, bool active) {
  std::string rest = plain;
  std::string word = first_word(rest);
  Assignment assignment;
  while ((word == "override" || word == "export" || word == "private") && !starts_with_operator(rest) &&
         rest.starts_with("define")) {
    assignment.override_ = assignment.override_ || word == "override";
    if (word == "export") assignment.exported = true;
    word = first_word(rest);
  }
  if (word != "define" || starts_with_operator(rest)) return false;
  std::string name;
  std::string nothing;
  if (!split_assignment(rest, name, assignment.how, nothing)) {
    name = std::string(text::trim(rest));
    assignment.how = Assign::recursive;
  }
  auto body = definition_body(lines, i);
  if (!body) fail(place, "'define' without 'endef'", "close the definition");
  if (!active) return true;
  end_rule();
  assignment.name = expand(name, place);
  if (assignment.name.empty()) fail(place, "a definition without a name", "write: define NAME");
  assignment.value = std::move(*body);
  assign(assignment, place);
  return true;
}

// A recipe line without a rule: only assignments and the like may stand there.
void Make::check_stray_line(const std::string& plain, const Place& place) const {
  std::string name;
  Assign how{};
  std::string value;
  if (colon_of_rule(plain) == std::string_view::npos && !split_assignment(plain, name, how, value) &&
      plain.find('$') == std::string::npos && !plain.starts_with("include") && !plain.starts_with("export") &&
      !plain.starts_with("-include"))
    fail(place, "a recipe line stands before any rule: '" + text::clip(text::printable_line(plain), 60) + "'",
         "a line that begins with a tab belongs to the rule above it; take the tab away if it is none");
}

void Make::read_text(const std::string& text, const std::string& path, int first_line) {
  const auto lines = lines_in(text);
  // 0: read; 1: not read, an else may change that; 2: not read any more.
  std::vector<int> states;
  std::vector<int> opened;
  const auto active = [&] { return std::all_of(states.begin(), states.end(), [](int s) { return s == 0; }); };
  for (std::size_t i = 0; i < lines.size();) {
    const int number = first_line + static_cast<int>(i);
    const Place place = place_of(path, number);
    const std::string_view line = lines[i];
    if (pending_.open && !line.empty() && line[0] == recipe_prefix_) {
      std::string command = recipe_line(lines, i);
      if (!active()) continue;
      if (!pending_.recipe) pending_.recipe = std::make_shared<RecipeText>(RecipeText{{}, place});
      pending_.recipe->lines.push_back(std::move(command));
      continue;
    }
    std::string plain = without_comment(joined_line(lines, i));
    plain.erase(0, std::min(plain.find_first_not_of(" \t"), plain.size()));
    if (plain.empty()) continue;
    // A form feed, or a mark of byte order at the start.
    if (number == 1 && plain.starts_with("\xEF\xBB\xBF")) plain.erase(0, 3);
    const std::size_t before = states.size();
    if (conditional(plain, place, states)) {
      if (states.size() > before) opened.push_back(number);
      if (states.size() < before) opened.pop_back();
      continue;
    }
    if (definition(plain, lines, i, place, active()) || !active()) continue;
    if (!line.empty() && line[0] == '\t' && !pending_.open) check_stray_line(plain, place);
    statement({plain, std::string(line), number}, place);
  }
  if (!states.empty()) {
    fail(place_of(path, opened.empty() ? first_line : opened.back()), "a condition that begins here is never closed",
         "add 'endif'");
  }
}

bool Make::conditional(const std::string& line, const Place& place, std::vector<int>& states) {
  std::string rest = line;
  const auto end = std::min(rest.find_first_of(" \t("), rest.size());
  const std::string word = rest.substr(0, end);
  if (word != "ifeq" && word != "ifneq" && word != "ifdef" && word != "ifndef" && word != "else" && word != "endif")
    return false;
  rest = std::string(text::trim(rest.substr(end)));
  if (starts_with_operator(rest) && word != "else") return false;
  const bool outer_active = [&] {
    for (std::size_t i = 0; i + (word == "else" || word == "endif" ? 1 : 0) < states.size(); ++i) {
      if (states[i] != 0) return false;
    }
    return true;
  }();
  const auto holds = [&](const std::string& test, std::string text) {
    if (test == "ifdef" || test == "ifndef") {
      const std::string name(text::trim(expand(text, place)));
      const Variable* variable = find(name);
      return (variable != nullptr && !variable->value.empty()) == (test == "ifdef");
    }
    std::string left;
    std::string right;
    if (text.starts_with('(')) {
      const auto close = end_of_bracket(text, 0);
      if (close == std::string_view::npos) fail(place, "'" + test + "' without ')'", "write " + test + " (a,b)");
      const std::string inside = text.substr(1, close - 2);
      const auto comma = comma_outside(inside);
      if (comma == std::string_view::npos) fail(place, "'" + test + "' without a comma", "write " + test + " (a,b)");
      left = expand(text::trim(inside.substr(0, comma)), place);
      right = expand(text::trim(inside.substr(comma + 1)), place);
    } else {
      const auto take = [&]() -> std::string {
        if (text.empty() || (text[0] != '"' && text[0] != '\''))
          fail(place, "'" + test + "' without its two texts", "write " + test + " (a,b) or " + test + " \"a\" \"b\"");
        const auto close = text.find(text[0], 1);
        if (close == std::string::npos) fail(place, "a text in quotes is never closed", "add the quote");
        std::string out = text.substr(1, close - 1);
        text.erase(0, std::min(text.find_first_not_of(" \t", close + 1), text.size()));
        return out;
      };
      left = expand(take(), place);
      right = expand(take(), place);
    }
    return (left == right) == (test == "ifeq");
  };
  if (word == "endif") {
    if (states.empty()) fail(place, "'endif' closes nothing", "remove it, or add what opens the condition");
    states.pop_back();
  } else if (word == "else") {
    if (states.empty()) fail(place, "'else' without a condition", "remove it, or add what opens the condition");
    int& state = states.back();
    if (state != 1) {
      state = 2;
      return true;
    }
    if (rest.empty()) {
      state = 0;
      return true;
    }
    const auto stop = std::min(rest.find_first_of(" \t("), rest.size());
    const std::string test = rest.substr(0, stop);
    if (test != "ifeq" && test != "ifneq" && test != "ifdef" && test != "ifndef")
      fail(place, "'" + text::printable_line(rest) + "' stands behind 'else'", "only another condition may");
    if (!outer_active) return true;
    if (holds(test, std::string(text::trim(rest.substr(stop))))) state = 0;
  } else {
    if (states.size() > 1000) fail(place, "conditions are nested more than 1000 deep");
    if (!outer_active)
      states.push_back(2);
    else
      states.push_back(holds(word, rest) ? 0 : 1);
  }
  return true;
}

void Make::statement(const Line& line, const Place& place) {
  count_work(place);
  std::string rest = line.text;
  Assignment assignment;
  bool modified = false;
  // Words that may stand before an assignment.
  for (;;) {
    std::string after = rest;
    const std::string word = first_word(after);
    if (starts_with_operator(after)) break;
    if (word == "override" && !after.empty()) {
      assignment.override_ = true;
    } else if (word == "private" && !after.empty()) {
      assignment.private_ = true;
    } else if (word == "export" || word == "unexport") {
      std::string name;
      Assign how{};
      std::string value;
      if (!split_assignment(after, name, how, value)) {
        end_rule();
        if (after.empty())
          export_all_ = word == "export";
        else
          export_names(expand(after, place), word == "export");
        return;
      }
      assignment.exported = word == "export";
    } else {
      break;
    }
    modified = true;
    rest = after;
  }
  if (split_assignment(rest, assignment.name, assignment.how, assignment.value)) {
    end_rule();
    assignment.name = expand(assignment.name, place);
    if (assignment.name.empty()) fail(place, "a value is given to a name that is empty", "look at the left side");
    assign(assignment, place);
    return;
  }
  std::string after = rest;
  const std::string word = first_word(after);
  if (word == "undefine" && !after.empty()) {
    end_rule();
    const auto it = variables_.find(std::string(text::trim(expand(after, place))));
    if (it != variables_.end() && (it->second.origin < Origin::command_line || assignment.override_))
      variables_.erase(it);
    return;
  }
  if (!modified && !starts_with_operator(after)) {
    if (word == "include" || word == "-include" || word == "sinclude") {
      end_rule();
      include(expand(after, place), word != "include", place);
      return;
    }
    if (word == "vpath") {
      end_rule();
      vpath(expand(after, place));
      return;
    }
    if (word == "endef") fail(place, "'endef' closes nothing", "remove it, or add 'define'");
  }
  rule_line(rest, place, line.raw.starts_with(' '));
}

void Make::export_names(const std::string& words, bool yes) {
  for (const auto& name : text::words(words)) {
    auto [it, fresh] = variables_.try_emplace(name);
    if (fresh) it->second = {"", true, Origin::undefined, std::nullopt};
    it->second.exported = yes;
  }
}

void Make::assign(const Assignment& assignment, const Place& place) {
  const Origin origin = assignment.override_ ? Origin::override_ : Origin::file;
  const auto it = variables_.find(assignment.name);
  // The environment comes before what is built in (POSIX.1-2024, XCU make, "Macros").
  if (place.file == "built in" && it != variables_.end() &&
      (it->second.origin == Origin::environment || it->second.origin == Origin::environment_override))
    return;
  if (it != variables_.end() && it->second.origin > origin && it->second.origin != Origin::automatic &&
      (it->second.origin == Origin::command_line || it->second.origin == Origin::environment_override ||
       it->second.origin == Origin::override_)) {
    if (assignment.exported) it->second.exported = assignment.exported;
    if (it->second.origin == Origin::command_line || it->second.origin == Origin::environment_override) return;
    if (it->second.origin == Origin::override_ && !assignment.override_) return;
  }
  assign_into(variables_, assignment, origin, nullptr, place);
  if (assignment.exported) variables_[assignment.name].exported = assignment.exported;
  if (assignment.name == ".RECIPEPREFIX") {
    const std::string prefix = value(".RECIPEPREFIX");
    recipe_prefix_ = prefix.empty() ? '\t' : prefix[0];
  }
  // What the outside may set is what the makefile gives a default, where no place says it more plainly.
  if (place.file != "built in" && !assignment.override_ &&
      assignment.name.find_first_not_of("ABCDEFGHIJKLMNOPQRSTUVWXYZ_0123456789") == std::string::npos) {
    auto [option, fresh] = options_.try_emplace(assignment.name);
    if (fresh) option->second = {assignment.name, "text", {}, assignment.value, {}, place};
  }
}

void Make::assign_into(Variables& into, const Assignment& assignment, Origin origin, const Scope* scope,
                       const Place& place) {
  const std::string& name = assignment.name;
  const Scope* outer = scope_;
  if (scope != nullptr) scope_ = scope;
  const auto keep_export = [&]() -> std::optional<bool> {
    const auto it = into.find(name);
    if (it != into.end()) return it->second.exported;
    const Variable* seen = find(name);
    return seen == nullptr ? std::nullopt : seen->exported;
  };
  switch (assignment.how) {
    case Assign::recursive: into[name] = {assignment.value, true, origin, keep_export()}; break;
    case Assign::simple: {
      std::string value = expand(assignment.value, place);
      into[name] = {std::move(value), false, origin, keep_export()};
      break;
    }
    case Assign::expanded_once: {
      std::string value = text::replace_all(expand(assignment.value, place), "$", "$$");
      into[name] = {std::move(value), true, origin, keep_export()};
      break;
    }
    case Assign::if_unset: {
      const Variable* seen = find(name);
      if (seen == nullptr || seen->origin == Origin::undefined)
        into[name] = {assignment.value, true, origin, keep_export()};
      break;
    }
    case Assign::shell: {
      std::string value = run_shell(expand(assignment.value, place), place);
      into[name] = {text::replace_all(std::move(value), "$", "$$"), true, origin, keep_export()};
      break;
    }
    case Assign::append: {
      const Variable* seen = find(name);
      const auto it = into.find(name);
      if (it != into.end()) seen = &it->second;
      if (seen == nullptr || seen->origin == Origin::undefined) {
        into[name] = {assignment.value, true, origin, keep_export()};
      } else {
        Variable grown = *seen;
        const std::string more = grown.recursive ? assignment.value : expand(assignment.value, place);
        if (!grown.value.empty() && !more.empty()) grown.value += ' ';
        grown.value += more;
        if (grown.origin < origin || grown.origin == Origin::environment) grown.origin = origin;
        into[name] = std::move(grown);
      }
      break;
    }
  }
  scope_ = outer;
}

void Make::include(const std::string& names, bool optional, const Place& place) {
  for (const auto& word : text::words(names)) {
    std::vector<std::string> found =
        word.find_first_of("*?[") != std::string::npos ? matching(word) : std::vector<std::string>{word};
    if (found.empty()) found = {word};
    for (const auto& name : found) {
      std::string path = absolute(name);
      if (!files::is_file(path) && !name.starts_with('/')) {
        for (const auto& folder : call_.include_folders) {
          const std::string candidate = files::absolute(name, absolute(folder));
          if (!files::is_file(path) && files::is_file(candidate)) path = candidate;
        }
      }
      if (files::is_file(path)) {
        read_file(path, name);
        end_rule();
      } else {
        included_.push_back({name, optional, false, place});
      }
    }
  }
}

void Make::vpath(const std::string& words) {
  const auto list = text::words(words);
  if (list.empty()) {
    vpaths_.clear();
    return;
  }
  if (list.size() == 1) {
    std::erase_if(vpaths_, [&](const auto& v) { return v.first == list[0]; });
    return;
  }
  std::vector<std::string> folders;
  for (std::size_t i = 1; i < list.size(); ++i) {
    for (const auto& folder : text::split(list[i], ':')) {
      if (!folder.empty()) folders.push_back(folder);
    }
  }
  vpaths_.emplace_back(list[0], folders);
}

std::string Make::default_goal() const {
  const auto it = variables_.find(".DEFAULT_GOAL");
  if (it != variables_.end() && it->second.origin != Origin::built_in) {
    const std::string name(text::trim(it->second.value));
    if (!name.empty()) return name;
  }
  return first_target_;
}

std::vector<std::string> Make::targets() const {
  std::vector<std::string> out;
  for (const auto& [name, entry] : entries_) {
    if (entry.rules.empty() || entry.rules.front()->place.file == "built in") continue;
    if (name.starts_with('.') && name.find('/') == std::string::npos) continue;
    out.push_back(name);
  }
  std::sort(out.begin(), out.end());
  return out;
}

bool Make::has_target(const std::string& name) const {
  const auto it = entries_.find(name);
  return it != entries_.end() && !it->second.rules.empty();
}

std::vector<model::Option> Make::options() const {
  std::vector<model::Option> out;
  for (const auto& [name, option] : options_) {
    model::Option shown = option;
    const auto it = variables_.find(name);
    shown.value = it == variables_.end() ? "" : it->second.value;
    out.push_back(std::move(shown));
  }
  return out;
}

}  // namespace coctilis::describe::makefile
