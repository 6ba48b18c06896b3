#include "describe/pro/evaluator.h"

#include <algorithm>
#include <cstdlib>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::describe::pro {

namespace {

// A project that takes more than this is one without an end.
constexpr std::size_t most_steps = 150'000;
constexpr std::size_t most_bytes = 16U << 20U;
constexpr int most_depth = 400;

// Names of scopes that this system goes by.
bool is_of_this_system(const std::string& name) {
  static const std::set<std::string> names = {"unix",      "linux",        "posix", "gcc",
                                              "linux-g++", "linux-g++-64", "elf",   "gnu"};
  return names.contains(name);
}

bool is_name(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_' || c == '.'; }

}  // namespace

Evaluator::Evaluator(const Surroundings& surroundings, std::string file, int depth)
    : out_(surroundings), file_(std::move(file)), depth_(depth) {
  folder_ = std::filesystem::path(file_).parent_path().string();
  const std::string below = files::below(folder_, out_.tree);
  work_folder_ = folder_ == out_.tree ? out_.work : out_.work + "/" + below;
  frames_.emplace_back();
  auto& variables = frames_.front().variables;
  variables = out_.initial;
  variables["_PRO_FILE_"] = {file_};
  variables["_PRO_FILE_PWD_"] = {folder_};
  variables["OUT_PWD"] = {work_folder_};
  std::string stem = std::filesystem::path(file_).stem().string();
  variables["TARGET"] = {stem};
}

void Evaluator::run() {
  // Settings for the whole tree lie in its top folder, or in one on the way there.
  std::vector<std::string> before;
  for (std::string at = folder_; files::is_below(at, out_.tree);
       at = std::filesystem::path(at).parent_path().string()) {
    if (files::is_file(at + "/.qmake.conf")) before.insert(before.begin(), at + "/.qmake.conf");
    if (at == out_.tree || at == "/") break;
  }
  for (const auto& file : before) static_cast<void>(read_file(file, true));
  static_cast<void>(read_file(file_, true));
  // Features that the tree itself brings are what CONFIG loads.
  std::set<std::string> done;
  for (bool again = true; again;) {
    again = false;
    const Values config = values("CONFIG");
    for (auto it = config.rbegin(); it != config.rend(); ++it) {
      if (!done.insert(*it).second) continue;
      load_feature(*it);
      again = true;
      break;
    }
  }
}

void Evaluator::fail(const std::string& what, const std::string& remedy) const {
  Place where = place();
  where.file = files::below(where.file, out_.tree);
  throw Fault({Exit::description, where, what, {}, remedy, {}});
}

// Once at each place, however often it comes by there.
void Evaluator::warn(const std::string& what) {
  const Place where = place();
  if (warned_.insert(where.text() + what).second) out_.warn(where, what);
}

Evaluator::Deeper::Deeper(Evaluator& evaluator) : evaluator_(evaluator) {
  if (evaluator.depth_ >= most_depth)
    evaluator.fail(
        "files, functions and values are worked out within each other deeper than " + std::to_string(most_depth),
        "look for one that calls, includes or expands itself");
  ++evaluator.depth_;
}

void Evaluator::count_step() {
  if (++steps_ > most_steps)
    fail("the project takes more than " + text::grouped(most_steps) + " steps", "look for a loop that does not end");
}

std::string Evaluator::here() const {
  return files_.empty() ? folder_ : std::filesystem::path(files_.back()).parent_path().string();
}

const Values& Evaluator::values(const std::string& name) const {
  static const Values none;
  for (auto it = frames_.rbegin(); it != frames_.rend(); ++it) {
    const auto found = it->variables.find(name);
    if (found != it->variables.end()) return found->second;
  }
  return none;
}
std::string Evaluator::value(const std::string& name) const { return text::join(values(name), " "); }

Values* Evaluator::find(const std::string& name) {
  for (auto it = frames_.rbegin(); it != frames_.rend(); ++it) {
    const auto found = it->variables.find(name);
    if (found != it->variables.end()) return &found->second;
  }
  return nullptr;
}

// The variable in the innermost frame: what is changed within a function is changed for it alone.
Values& Evaluator::own(const std::string& name) {
  auto& variables = frames_.back().variables;
  const auto it = variables.find(name);
  if (it != variables.end()) return it->second;
  const Values* outer = find(name);
  return variables[name] = outer == nullptr ? Values{} : *outer;
}

Place Evaluator::place_of(const std::string& name) const {
  const auto it = first_set_.find(name);
  if (it == first_set_.end()) return {files::below(file_, out_.tree), 0, 0};
  return it->second;
}

bool Evaluator::has_config(const std::string& name) const {
  if (is_of_this_system(name)) return true;
  const auto matches = [&](const std::string& other) {
    return other == name || (name.find('*') != std::string::npos && files::matches(name, other));
  };
  if (name.find('*') != std::string::npos && (matches("linux-g++") || matches("linux"))) return true;
  const auto& config = values("CONFIG");
  return std::any_of(config.begin(), config.end(), matches);
}

std::string Evaluator::source_path(const std::string& path) const { return files::absolute(path, folder_); }

std::string Evaluator::result_path(const std::string& path) const {
  std::string full = files::absolute(path, work_folder_);
  if (!files::is_below(full, out_.work) && files::is_below(full, out_.tree))
    full = full == out_.tree ? out_.work : out_.work + "/" + files::below(full, out_.tree);
  return full;
}

// ---- files
// -----------------------------------------------------------------------------------------------------------
bool Evaluator::read_file(const std::string& path, bool must) {
  if (std::find(files_.begin(), files_.end(), path) != files_.end())
    fail("the file includes itself", "take the include out");
  const auto content = files::read(path);
  if (!content) {
    if (must)
      throw Fault({Exit::description,
                   {files::below(path, out_.tree), 0, 0},
                   "the project file cannot be read: it " + files::why_not_read(path),
                   {},
                   "name another one under [tree] of coctilis.toml",
                   {}});
    return false;
  }
  read_.insert(path);
  const auto nodes = parse(*content, files::below(path, out_.tree));
  kept_.push_back(nodes);
  files_.push_back(path);
  const int line = line_;
  const Values pwd = values("PWD");
  frames_.front().variables["PWD"] = {here()};
  frames_.front().variables["_FILE_"] = {path};
  static_cast<void>(run_nodes(*nodes));
  files_.pop_back();
  line_ = line;
  if (!files_.empty()) {
    frames_.front().variables["PWD"] = pwd;
    frames_.front().variables["_FILE_"] = {files_.back()};
  }
  return true;
}

void Evaluator::load_feature(const std::string& name) {
  if (name.empty() || name.find('/') != std::string::npos || !loaded_.insert(name).second) return;
  std::vector<std::string> folders;
  for (const auto& value : values("QMAKEFEATURES")) folders.push_back(files::absolute(value, folder_));
  for (std::string at = folder_; files::is_below(at, out_.tree);
       at = std::filesystem::path(at).parent_path().string()) {
    folders.push_back(at + "/features");
    folders.push_back(at + "/mkspecs/features");
    if (at == out_.tree || at == "/") break;
  }
  for (const auto& folder : folders) {
    const std::string path = folder + "/" + name + ".prf";
    if (files::is_file(path)) {
      static_cast<void>(read_file(path, false));
      return;
    }
  }
  if (const std::string path = out_.installed_feature(name); !path.empty()) static_cast<void>(read_file(path, false));
}

// ---- statements
// --------------------------------------------------------------------------------------------------------
Evaluator::Flow Evaluator::run_nodes(const Nodes& nodes) {
  const Deeper deeper(*this);
  for (const auto& node : nodes) {
    const Flow flow = run_node(node);
    if (flow != Flow::goes_on) return flow;
  }
  return Flow::goes_on;
}

Evaluator::Flow Evaluator::run_node(const Node& node) {
  count_step();
  line_ = node.line;
  switch (node.kind) {
    case Node::Kind::assignment: assign(node); return Flow::goes_on;
    case Node::Kind::function: (node.gives_value ? replacers_ : tests_)[node.name] = {&node}; return Flow::goes_on;
    case Node::Kind::loop: return run_loop(node);
    case Node::Kind::condition: break;
  }
  // What steers is written like a test.
  if (node.tests.size() == 1 && !node.tests[0].negated) {
    const std::string& text = node.tests[0].text;
    const std::string word = text.substr(0, text.find('('));
    if (word == "return") {
      const auto open = text.find('(');
      returned_ = open == std::string::npos ? Values{} : expand(text.substr(open + 1, text.rfind(')') - open - 1));
      return Flow::returns;
    }
    if (text == "break" || text == "break()") return Flow::leaves_loop;
    if (text == "next" || text == "next()") return Flow::next_round;
  }
  // "a:next()": what steers may also stand behind conditions.
  if (node.body.empty() && node.tests.size() > 1 && !node.tests.back().alternative) {
    const auto& last = node.tests.back();
    const std::string word = last.text.substr(0, last.text.find('('));
    if (word == "return" || word == "next" || word == "break") {
      if (!holds(std::vector<Test>(node.tests.begin(), node.tests.end() - 1)))
        return node.otherwise.empty() ? Flow::goes_on : run_nodes(node.otherwise);
      Node inner;
      inner.kind = Node::Kind::condition;
      inner.line = node.line;
      inner.tests = {{last.text, false, false}};
      return run_node(inner);
    }
  }
  if (holds(node.tests)) return run_nodes(node.body);
  return run_nodes(node.otherwise);
}

Evaluator::Flow Evaluator::run_loop(const Node& node) {
  Values list;
  const bool ever = node.name.empty() && (node.value == "ever" || node.value == "forever");
  if (!ever) {
    list = expand(node.value);
    // A list may be named without $$.
    if (list.size() == 1 && list[0] == node.value && find(node.value) != nullptr) list = values(node.value);
    // "1..9"
    if (list.size() == 1) {
      const auto dots = list[0].find("..");
      if (dots != std::string::npos && dots > 0) {
        const long from = std::atol(list[0].substr(0, dots).c_str());
        const long to = std::atol(list[0].substr(dots + 2).c_str());
        const std::string digits = "0123456789-";
        if (list[0].find_first_not_of("0123456789-.") == std::string::npos && std::labs(to - from) < 100000) {
          list.clear();
          for (long i = from; from <= to ? i <= to : i >= to; i += from <= to ? 1 : -1)
            list.push_back(std::to_string(i));
        }
      }
    }
  }
  for (std::size_t i = 0; ever || i < list.size(); ++i) {
    count_step();
    if (!node.name.empty()) own(node.name) = {list[i]};
    const Flow flow = run_nodes(node.body);
    if (flow == Flow::leaves_loop) break;
    if (flow == Flow::returns) return flow;
  }
  return Flow::goes_on;
}

void Evaluator::assign(const Node& node) {
  Values name_values = expand(node.name);
  const std::string name = text::join(name_values, "");
  if (name.empty()) fail("an assignment without a variable", "name the variable before the '='");
  Values given = expand(node.value);
  // "" alone is nothing.
  std::erase_if(given, [](const auto& one) { return one.empty(); });
  for (const auto& one : given) bytes_ += one.size() + 8;
  if (bytes_ > most_bytes)
    fail("the values take more than " + text::size(most_bytes), "look for a list that grows without end");
  Place where = place();
  where.file = files::below(where.file, out_.tree);
  first_set_.emplace(name, where);
  Values& now = own(name);
  if (node.operation == "=") {
    now = given;
  } else if (node.operation == "+=") {
    now.insert(now.end(), given.begin(), given.end());
  } else if (node.operation == "*=") {
    for (auto& one : given) {
      if (std::find(now.begin(), now.end(), one) == now.end()) now.push_back(one);
    }
  } else if (node.operation == "-=") {
    std::erase_if(now, [&](const auto& one) { return std::find(given.begin(), given.end(), one) != given.end(); });
  } else {
    // s/x/y/flags
    const std::string change = text::join(given, " ");
    if (change.size() < 4 || change[0] != 's')
      fail("'" + text::clip(change, 40) + "' is no replacement", "write s/this/that/");
    const auto parts = text::split(change.substr(1), change[1]);
    if (parts.size() < 3) fail("'" + text::clip(change, 40) + "' is no replacement", "write s/this/that/");
    for (auto& one : now) {
      const auto changed = built_in_value("replace", {{one}, {parts[1]}, {parts[2]}});
      if (changed) one = text::join(*changed, " ");
    }
  }
}

// ---- conditions
// --------------------------------------------------------------------------------------------------------
bool Evaluator::holds(const std::vector<Test>& tests) {
  bool state = true;
  for (std::size_t i = 0; i < tests.size(); ++i) {
    const auto& test = tests[i];
    if (i == 0) {
      state = holds(test.text) != test.negated;
    } else if (test.alternative) {
      state = state || holds(test.text) != test.negated;
    } else {
      state = state && holds(test.text) != test.negated;
    }
  }
  return state;
}

bool Evaluator::holds(const std::string& text) {
  const Deeper deeper(*this);
  count_step();
  const auto open = text.find('(');
  if (open != std::string::npos && text.ends_with(')') && open > 0) {
    const std::string name = std::string(text::trim(text.substr(0, open)));
    if (std::all_of(name.begin(), name.end(), [](char c) { return is_name(c) || c == '-'; }))
      return call_test(name, text.substr(open + 1, text.size() - open - 2));
  }
  const std::string word = text::join(expand(text), "");
  if (word == "true") return true;
  if (word == "false") return false;
  return has_config(word);
}

bool Evaluator::call_test(const std::string& name, const std::string& arguments) {
  const auto raw = arguments_in(arguments);
  if (const auto it = tests_.find(name); it != tests_.end()) {
    std::vector<Values> lists;
    for (const auto& one : raw) lists.push_back(expand(one));
    const Function function = it->second;
    const Values result = call(function, lists);
    // Without a word it holds.
    return result.empty() || (result[0] != "false" && result[0] != "0");
  }
  if (name == "if") {
    const auto nodes = parse(arguments + "\n", files::below(files_.empty() ? file_ : files_.back(), out_.tree));
    return std::all_of(nodes->begin(), nodes->end(), [&](const auto& node) { return holds(node.tests); });
  }
  std::vector<Values> lists;
  for (const auto& one : raw) lists.push_back(expand(one));
  const auto result = built_in_test(name, raw, lists);
  if (result) return *result;
  warn("the test '" + text::printable_line(name) + "' is not known: it does not hold");
  return false;
}

Values Evaluator::call(const Function& function, const std::vector<Values>& arguments) {
  Frame frame;
  Values all;
  for (std::size_t i = 0; i < arguments.size(); ++i) {
    frame.variables[std::to_string(i + 1)] = arguments[i];
    all.insert(all.end(), arguments[i].begin(), arguments[i].end());
  }
  frame.variables["ARGS"] = all;
  frame.variables["ARGC"] = {std::to_string(arguments.size())};
  frames_.push_back(std::move(frame));
  returned_.clear();
  const Flow flow = run_nodes(function.node->body);
  frames_.pop_back();
  Values out = flow == Flow::returns ? returned_ : Values{};
  returned_.clear();
  return out;
}

Values Evaluator::call_value(const std::string& name, const std::string& arguments) {
  const auto raw = arguments_in(arguments);
  std::vector<Values> lists;
  for (const auto& one : raw) lists.push_back(expand(one));
  if (const auto it = replacers_.find(name); it != replacers_.end()) {
    const Function function = it->second;
    return call(function, lists);
  }
  if (auto result = built_in_value(name, lists)) return *result;
  warn("the function '" + text::printable_line(name) + "' is not known: it gives nothing");
  return {};
}

// ---- values
// ------------------------------------------------------------------------------------------------------------
Values Evaluator::expand(const std::string& text) {
  const Deeper deeper(*this);
  Values out;
  steps_ += text.size() / 64;  // long texts take their time
  std::string current;
  bool any = false;  // something stands in `current`, if only quotation marks
  char quote = 0;
  const auto finish = [&] {
    if (any) out.push_back(current);
    current.clear();
    any = false;
  };
  const auto take = [&](const Values& values) {
    bytes_ += values.size();
    if (quote != 0) {
      current += text::join(values, " ");
      any = true;
      return;
    }
    for (std::size_t i = 0; i < values.size(); ++i) {
      if (i > 0) finish();
      current += values[i];
      any = any || !values[i].empty() || values.size() > 1;
    }
  };
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (c == '\\' && i + 1 < text.size() &&
        std::string_view("\\\"'$# \t").find(text[i + 1]) != std::string_view::npos) {
      if (text[i + 1] == ' ' || text[i + 1] == '\t') {
        current += c;
        any = true;
        continue;
      }
      current += text[++i];
      any = true;
      continue;
    }
    if (quote != 0 && c == quote) {
      quote = 0;
      continue;
    }
    if (quote == 0 && (c == '"' || c == '\'')) {
      quote = c;
      any = true;
      continue;
    }
    if (quote == 0 && (c == ' ' || c == '\t')) {
      finish();
      continue;
    }
    if (c != '$' || i + 1 >= text.size()) {
      current += c;
      any = true;
      continue;
    }
    // $(NAME): of the environment when it is built, which is now.
    if (text[i + 1] == '(') {
      const auto close = text.find(')', i);
      if (close == std::string::npos) {
        current += c;
        any = true;
        continue;
      }
      const std::string name = text.substr(i + 2, close - i - 2);
      const char* found = std::getenv(name.c_str());
      // What makefiles are meant to fill in is the business of those who use the value.
      if (found == nullptr && values("make:" + name).empty()) {
        current += text.substr(i, close - i + 1);
        any = true;
      } else {
        take(found != nullptr ? Values{found} : values("make:" + name));
      }
      i = close;
      continue;
    }
    if (text[i + 1] != '$') {
      current += c;
      any = true;
      continue;
    }
    std::size_t at = i + 2;
    const bool braced = at < text.size() && text[at] == '{';
    if (braced) ++at;
    const auto closing = [&](char open, char shut) {
      int depth = 0;
      for (std::size_t k = at; k < text.size(); ++k) {
        if (text[k] == '\\') {
          ++k;
          continue;
        }
        if (text[k] == open) ++depth;
        if (text[k] == shut && --depth == 0) return k;
      }
      return std::string::npos;
    };
    Values found;
    if (at < text.size() && text[at] == '(') {
      const auto close = closing('(', ')');
      if (close == std::string::npos) fail("'$$(' is not closed", "close the bracket");
      const char* variable = std::getenv(text.substr(at + 1, close - at - 1).c_str());
      if (variable != nullptr) found = {variable};
      at = close + 1;
    } else if (at < text.size() && text[at] == '[') {
      const auto close = closing('[', ']');
      if (close == std::string::npos) fail("'$$[' is not closed", "close the bracket");
      std::string name = text.substr(at + 1, close - at - 1);
      name = name.substr(0, name.find('/'));
      const auto it = out_.properties.find(name);
      if (it != out_.properties.end())
        found = {it->second};
      else
        warn("the property '" + text::printable_line(name) + "' is not known");
      at = close + 1;
    } else {
      const std::size_t begin = at;
      while (at < text.size() && is_name(text[at])) ++at;
      const std::string name = text.substr(begin, at - begin);
      if (at < text.size() && text[at] == '(') {
        const auto close = closing('(', ')');
        if (close == std::string::npos)
          fail("the call of '" + text::clip(name, 40) + "' is not closed", "close the bracket");
        found = call_value(name, text.substr(at + 1, close - at - 1));
        at = close + 1;
      } else {
        found = values(name);
      }
    }
    if (braced && at < text.size() && text[at] == '}') ++at;
    take(found);
    i = at - 1;
  }
  finish();
  return out;
}

std::string Evaluator::substituted(const std::string& text) {
  std::string out;
  for (std::size_t i = 0; i < text.size();) {
    if (text.compare(i, 2, "$$") != 0) {
      out += text[i++];
      continue;
    }
    std::size_t end = i + 2;
    const auto past = [&](char close) {
      const auto found = text.find(close, end);
      return found == std::string::npos ? text.size() : found + 1;
    };
    if (end < text.size() && text[end] == '{')
      end = past('}');
    else if (end < text.size() && text[end] == '[')
      end = past(']');
    else if (end < text.size() && text[end] == '(')
      end = past(')');
    else
      while (end < text.size() && is_name(text[end])) ++end;
    out += text::join(expand(text.substr(i, end - i)), " ");
    i = end;
  }
  return out;
}

int compare_versions(const std::string& a, const std::string& b) {
  const auto x = text::split(a, '.');
  const auto y = text::split(b, '.');
  for (std::size_t i = 0; i < std::max(x.size(), y.size()); ++i) {
    const long p = i < x.size() ? std::atol(x[i].c_str()) : 0;
    const long q = i < y.size() ? std::atol(y[i].c_str()) : 0;
    if (p != q) return p < q ? -1 : 1;
  }
  return 0;
}

}  // namespace coctilis::describe::pro
