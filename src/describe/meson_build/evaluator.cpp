#include "describe/meson_build/evaluator.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"

namespace coctilis::describe::meson_build {

namespace {

// How far a description may go before it is taken for one without end.
constexpr std::uint64_t most_text_bytes = 64ULL << 20U;   // of one text
constexpr std::uint64_t most_bytes_in_all = 4ULL << 30U;  // that were put together, one after the other
constexpr std::size_t most_items = 1'000'000;             // of one list
constexpr int most_open_files = 100;
constexpr std::size_t most_file_bytes = 16U << 20U;

constexpr const char* usual_remedy = "correct the description there, or name another one under [tree] of coctilis.toml";

}  // namespace

const Value* Arguments::find(const std::string& key) const {
  for (const auto& [held, value] : named) {
    if (held == key) return value.nothing() ? nullptr : &value;
  }
  return nullptr;
}

void ConfigurationData::set(const std::string& name, Value value) {
  for (auto& [key, held] : values) {
    if (key != name) continue;
    held = std::move(value);
    return;
  }
  values.emplace_back(name, std::move(value));
}

const FunctionTable& functions() {
  static const FunctionTable table = [] {
    FunctionTable out;
    add_basic_functions(out);
    add_target_functions(out);
    add_custom_functions(out);
    add_outside_functions(out);
    add_install_functions(out);
    return out;
  }();
  return table;
}

// ---- files and statements
// ----------------------------------------------------------------------------------------------

void Evaluator::read_file(const std::string& path) {
  const std::string shown = shown_path(path);
  if (!files::is_below(path, tree))
    throw Fault({Exit::description,
                 {file_, 0, 0},
                 "'" + text::printable_line(shown) + "' lies outside of the tree",
                 {},
                 usual_remedy,
                 {}});
  const auto content = files::read(path);
  if (!content || content->size() > most_file_bytes)
    throw Fault({Exit::description,
                 {shown, 0, 0},
                 content ? "'" + shown + "' is too large for a description"
                         : "the description '" + text::printable_line(shown) + "' " + files::why_not_read(path),
                 {},
                 usual_remedy,
                 {}});
  if (open_files_ >= most_open_files)
    throw Fault(
        {Exit::description, {shown, 0, 0}, "descriptions lead into each other without end", {}, usual_remedy, {}});
  if (files_read_.insert(path).second) project.read_files.push_back(path);
  const auto statements = parse(*content, shown);
  const bool begins = !statements.empty() && statements.front().kind == Statement::Kind::expression &&
                      statements.front().value->kind == Node::Kind::call && statements.front().value->text == "project";
  if (!scope_->begun && !begins)
    throw Fault({Exit::description,
                 {shown, statements.empty() ? 0 : statements.front().line, 0},
                 "the first thing of a description is project(...)",
                 {},
                 usual_remedy,
                 {}});
  const std::string outer_file = std::exchange(file_, shown);
  const std::string outer_folder = std::exchange(scope_->at_folder, path.substr(0, path.rfind('/')));
  ++open_files_;
  // Faults leave the place as it is: nothing goes on after them.
  try {
    run_statements(statements);
  } catch (const LeaveFile&) {
    // The rest of it is not for this one.
  }
  --open_files_;
  file_ = outer_file;
  scope_->at_folder = outer_folder;
}

void Evaluator::run_statements(const std::vector<Statement>& statements) {
  for (const auto& statement : statements) run_statement(statement);
}

void Evaluator::count(const Place& place, std::uint64_t steps) {
  if ((counted_ += steps) > most_steps)
    throw Fault({Exit::description,
                 place,
                 "the description takes more than " + text::grouped(most_steps) + " steps: it seems to have no end",
                 {},
                 usual_remedy,
                 {}});
}

void Evaluator::run_statement(const Statement& statement) {
  try {
    run_one(statement);
  } catch (const TooLong&) {
    fail_at(statement.line, "a list or a text gets too long");
  }
}

void Evaluator::run_one(const Statement& statement) {
  count(place_of(statement.line));
  switch (statement.kind) {
    case Statement::Kind::expression: static_cast<void>(evaluate(*statement.value)); return;
    case Statement::Kind::assign: {
      Value value = evaluate(*statement.value);
      if (value.nothing()) fail_at(statement.line, "what is assigned to '" + statement.names[0] + "' gives nothing");
      scope_->variables[statement.names[0]] = std::move(value);
      return;
    }
    case Statement::Kind::add: {
      const auto it = scope_->variables.find(statement.names[0]);
      if (it == scope_->variables.end())
        fail_at(statement.line, "'" + statement.names[0] + "' is added to before it has a value");
      const Value more = evaluate(*statement.value);
      Value& held = scope_->variables[statement.names[0]];
      held = sum(held, more, statement.line);
      return;
    }
    case Statement::Kind::branch:
      for (const auto& [condition, body] : statement.bodies) {
        if (condition) {
          const Value value = evaluate(*condition);
          if (value.as<Disabler>()) return;
          if (!truth(value, *condition)) continue;
        }
        run_statements(body);
        return;
      }
      return;
    case Statement::Kind::loop: loop(statement); return;
    case Statement::Kind::leave_loop: throw LeaveLoop{};
    case Statement::Kind::next_round: throw NextRound{};
  }
}

void Evaluator::loop(const Statement& statement) {
  const Value over = evaluate(*statement.value);
  const auto& body = statement.bodies.front().second;
  const auto round = [&] {
    count(place_of(statement.line));
    try {
      run_statements(body);
    } catch (const NextRound&) {
      return true;
    } catch (const LeaveLoop&) {
      return false;
    }
    return true;
  };
  if (const auto* array = over.array(); array != nullptr && statement.names.size() == 1) {
    for (const auto& one : *array) {
      scope_->variables[statement.names[0]] = one;
      if (!round()) return;
    }
  } else if (const auto* dictionary = over.dictionary(); dictionary != nullptr && statement.names.size() == 2) {
    for (const auto& [key, value] : *dictionary) {
      scope_->variables[statement.names[0]] = Value(key);
      scope_->variables[statement.names[1]] = value;
      if (!round()) return;
    }
  } else {
    fail_at(statement.line,
            std::string(over.kind()) + " is not gone over with " + text::count(statement.names.size(), "name"));
  }
}

// ---- expressions
// -------------------------------------------------------------------------------------------------------

void Evaluator::fail_at(int line, const std::string& what) const {
  throw Fault({Exit::description, place_of(line), what, {}, usual_remedy, {}});
}

bool Evaluator::truth(const Value& value, const Node& node) {
  if (const auto* boolean = value.boolean()) return *boolean;
  fail_at(node.line, std::string(value.kind()) + " stands where true or false is expected");
}

std::string with_places(const std::string& text, const RE2& place,
                        const std::function<std::string(const std::string& group)>& value) {
  std::string out;
  re2::StringPiece rest(text);
  re2::StringPiece found[2];
  while (place.Match(rest, 0, rest.size(), RE2::UNANCHORED, found, 2)) {
    const auto at = static_cast<std::size_t>(found[0].data() - rest.data());
    out.append(rest.data(), at);
    out += value(std::string(found[1]));
    rest.remove_prefix(at + found[0].size());
    if (out.size() > most_text_bytes) throw TooLong{};
  }
  return out.append(rest.data(), rest.size());
}

std::string Evaluator::formatted(const std::string& text, const Node& node) {
  static const RE2 place(R"(@([A-Za-z_][A-Za-z0-9_]*)@)");
  std::string out = with_places(text, place, [&](const std::string& name) {
    const auto it = scope_->variables.find(name);
    if (it == scope_->variables.end()) fail_at(node.line, "'" + name + "' has no value");
    return shown(it->second);
  });
  grow(out.size(), out.size(), most_text_bytes, node.line);
  return out;
}

// Notes what was put together: `by` more, into something that is now `to` large.
void Evaluator::grow(std::size_t by, std::size_t to, std::size_t most, int line) {
  text_bytes_ += by;
  if (to > most || text_bytes_ > most_bytes_in_all) fail_at(line, "a list or a text gets too long");
}

Value Evaluator::sum(const Value& left, const Value& right, int line) {
  if (left.number() != nullptr && right.number() != nullptr)
    return static_cast<std::int64_t>(static_cast<std::uint64_t>(*left.number()) +
                                     static_cast<std::uint64_t>(*right.number()));
  if (left.text() != nullptr && right.text() != nullptr) {
    const std::size_t size = left.text()->size() + right.text()->size();
    grow(size, size, most_text_bytes, line);
    return *left.text() + *right.text();
  }
  if (const auto* array = left.array()) {
    const auto* other = right.array();
    const std::size_t size = array->size() + (other != nullptr ? other->size() : 1);
    grow(size, size, most_items, line);
    Array out = *array;
    if (other != nullptr)
      out.insert(out.end(), other->begin(), other->end());
    else
      out.push_back(right);
    return out;
  }
  if (left.dictionary() != nullptr && right.dictionary() != nullptr) {
    Dictionary out = *left.dictionary();
    grow(out.size() + right.dictionary()->size(), out.size(), most_items, line);
    for (const auto& [key, value] : *right.dictionary()) {
      const auto at = std::find_if(out.begin(), out.end(), [&](const auto& one) { return one.first == key; });
      if (at != out.end())
        at->second = value;
      else
        out.emplace_back(key, value);
    }
    return out;
  }
  fail_at(line, std::string(left.kind()) + " + " + right.kind() + " means nothing");
}

Value Evaluator::evaluate(const Node& node) {
  count(place_of(node.line));
  switch (node.kind) {
    case Node::Kind::boolean: return node.number != 0;
    case Node::Kind::number: return node.number;
    case Node::Kind::text: return node.text;
    case Node::Kind::format: return formatted(node.text, node);
    case Node::Kind::name: {
      const auto it = scope_->variables.find(node.text);
      if (it == scope_->variables.end()) fail_at(node.line, "'" + text::printable_line(node.text) + "' has no value");
      return it->second;
    }
    case Node::Kind::array: {
      Array out;
      for (const auto& child : node.children) out.push_back(evaluate(*child));
      return out;
    }
    case Node::Kind::dictionary: {
      Dictionary out;
      for (const auto& [key, value] : node.keyed) {
        const Value name = evaluate(*key);
        if (name.text() == nullptr) fail_at(node.line, "a key of a dictionary is a text");
        if (find(out, *name.text()) != nullptr)
          fail_at(node.line, "the key '" + text::printable_line(*name.text()) + "' is there twice");
        out.emplace_back(*name.text(), evaluate(*value));
      }
      return out;
    }
    case Node::Kind::call: return call_node(node);
    case Node::Kind::method: return method_node(node);
    case Node::Kind::index: return index_node(node);
    case Node::Kind::operation: return operation(node);
    case Node::Kind::choice: {
      const Value value = evaluate(*node.children[0]);
      if (value.as<Disabler>()) return value;
      return evaluate(*node.children[truth(value, node) ? 1 : 2]);
    }
  }
  return {};
}

Value Evaluator::operation(const Node& node) {
  const std::string& sign = node.text;
  const Value left = evaluate(*node.children[0]);
  if (sign == "()") return left;
  if (left.as<Disabler>()) return left;
  if (sign == "not") return !truth(left, node);
  if (sign == "and" && !truth(left, node)) return false;
  if (sign == "or" && truth(left, node)) return true;
  if (node.children.size() == 1) {
    if (left.number() == nullptr) fail_at(node.line, "only a number can be negative");
    return static_cast<std::int64_t>(0 - static_cast<std::uint64_t>(*left.number()));
  }
  const Value right = evaluate(*node.children[1]);
  if (right.as<Disabler>()) return right;
  if (sign == "and" || sign == "or") return truth(right, node);
  if (sign == "==") return equal(left, right);
  if (sign == "!=") return !equal(left, right);
  if (sign == "in" || sign == "not in") {
    bool is_in = false;
    if (const auto* array = right.array())
      is_in = std::any_of(array->begin(), array->end(), [&](const auto& one) { return equal(one, left); });
    else if (right.dictionary() != nullptr && left.text() != nullptr)
      is_in = find(*right.dictionary(), *left.text()) != nullptr;
    else if (right.text() != nullptr && left.text() != nullptr)
      is_in = right.text()->find(*left.text()) != std::string::npos;
    else
      fail_at(node.line, std::string(left.kind()) + " cannot be in " + right.kind());
    return is_in == (sign == "in");
  }
  if (sign == "+") return sum(left, right, node.line);
  if (left.number() != nullptr && right.number() != nullptr) {
    const std::int64_t a = *left.number();
    const std::int64_t b = *right.number();
    const auto wide = [](std::int64_t value) { return static_cast<std::uint64_t>(value); };
    if (sign == "-") return static_cast<std::int64_t>(wide(a) - wide(b));
    if (sign == "*") return static_cast<std::int64_t>(wide(a) * wide(b));
    if (sign == "<") return a < b;
    if (sign == ">") return a > b;
    if (sign == "<=") return a <= b;
    if (sign == ">=") return a >= b;
    if (b == 0) fail_at(node.line, "a number is divided by nothing");
    if (b == -1) return sign == "/" ? static_cast<std::int64_t>(0 - wide(a)) : std::int64_t{0};
    // Towards minus infinity, and the rest has the sign of what it is divided by.
    const std::int64_t rest = a % b;
    const bool away = rest != 0 && (rest < 0) != (b < 0);
    if (sign == "/") return a / b - (away ? 1 : 0);
    return away ? rest + b : rest;
  }
  if (left.text() != nullptr && right.text() != nullptr) {
    const std::string& a = *left.text();
    const std::string& b = *right.text();
    if (sign == "/") {
      grow(a.size() + b.size(), a.size() + b.size(), most_text_bytes, node.line);
      return b.starts_with('/') || a.empty() ? b : a.ends_with('/') ? a + b : a + "/" + b;
    }
    if (sign == "<") return a < b;
    if (sign == ">") return a > b;
    if (sign == "<=") return a <= b;
    if (sign == ">=") return a >= b;
  }
  fail_at(node.line, std::string(left.kind()) + " " + sign + " " + right.kind() + " means nothing");
}

Value Evaluator::index_node(const Node& node) {
  const Value of = evaluate(*node.children[0]);
  const Value at = evaluate(*node.children[1]);
  if (of.as<Disabler>()) return of;
  if (const auto* dictionary = of.dictionary(); dictionary != nullptr && at.text() != nullptr) {
    if (const auto* value = find(*dictionary, *at.text())) return *value;
    fail_at(node.line, "the dictionary has no '" + text::printable_line(*at.text()) + "'");
  }
  if (at.number() != nullptr) {
    const auto within = [&](std::size_t size) {
      const std::int64_t number = *at.number() < 0 ? *at.number() + static_cast<std::int64_t>(size) : *at.number();
      if (number < 0 || number >= static_cast<std::int64_t>(size))
        fail_at(node.line, "there is no item " + std::to_string(*at.number()) + " of " + std::to_string(size));
      return static_cast<std::size_t>(number);
    };
    if (const auto* array = of.array()) return (*array)[within(array->size())];
    if (const auto* text = of.text()) return std::string(1, (*text)[within(text->size())]);
    if (const auto custom = of.as<CustomTarget>()) {
      auto out = std::make_shared<CustomOutput>();
      out->of = custom;
      out->path = custom->outputs[within(custom->outputs.size())];
      return object(out);
    }
  }
  fail_at(node.line, std::string(of.kind()) + " has no item by " + at.kind());
}

Arguments Evaluator::arguments_of(const Node& node, std::size_t first) {
  Arguments out;
  out.name = node.text;
  out.place = place_of(node.line);
  for (std::size_t i = first; i < node.children.size(); ++i) out.positional.push_back(evaluate(*node.children[i]));
  for (const auto& [key, value] : node.named) {
    Value held = evaluate(*value);
    if (key != "kwargs") {
      out.named.emplace_back(key, std::move(held));
      continue;
    }
    if (held.dictionary() == nullptr) fail_at(node.line, "'kwargs' is a dictionary");
    for (const auto& one : *held.dictionary()) out.named.push_back(one);
  }
  return out;
}

namespace {
// What is given nothing comes to nothing.
bool has_disabler(const Value& value, std::size_t& left) {
  if (left-- == 0) throw TooLong{};
  if (value.as<Disabler>()) return true;
  const auto* array = value.array();
  return array != nullptr &&
         std::any_of(array->begin(), array->end(), [&](const auto& one) { return has_disabler(one, left); });
}
bool has_disabler(const Arguments& a) {
  std::size_t left = 2'000'000;
  return std::any_of(a.positional.begin(), a.positional.end(),
                     [&](const auto& one) { return has_disabler(one, left); }) ||
         std::any_of(a.named.begin(), a.named.end(), [&](const auto& one) { return has_disabler(one.second, left); });
}
}  // namespace

Value Evaluator::call(const std::string& name, Arguments& a) {
  const auto it = functions().find(name);
  if (it == functions().end())
    unknown(a, "the function " + text::clip(text::printable_line(name), 60) + "() is not known here");
  return it->second(*this, a);
}

Value Evaluator::call_node(const Node& node) {
  Arguments a = arguments_of(node, 0);
  static const std::set<std::string> take_disablers = {"is_disabler", "set_variable", "get_variable", "is_variable"};
  if (!take_disablers.contains(node.text) && has_disabler(a)) return object(std::make_shared<Disabler>());
  return call(node.text, a);
}

Value Evaluator::method_node(const Node& node) {
  const Value self = evaluate(*node.children[0]);
  Arguments a = arguments_of(node, 1);
  if (self.as<Disabler>()) return node.text == "found" ? Value(false) : self;
  if (has_disabler(a)) return object(std::make_shared<Disabler>());
  if (const auto* held = std::get_if<std::shared_ptr<Object>>(&self.is)) {
    const auto method = method_of(**held, node.text);
    if (method == nullptr)
      unknown(a, std::string((*held)->kind()) + " has no method " + text::clip(text::printable_line(node.text), 60) +
                     "() that is known here");
    return method(*this, *held, a);
  }
  bool known = true;
  Value out = plain_method(*this, self, a, known);
  if (!known)
    unknown(a, std::string(self.kind()) + " has no method " + text::clip(text::printable_line(node.text), 60) +
                   "() that is known here");
  if (const auto* text = out.text()) grow(text->size(), text->size(), most_text_bytes, node.line);
  return out;
}

// ---- what functions and methods are lent
// --------------------------------------------------------------------------------

void Evaluator::fail(const Arguments& a, const std::string& what, const std::string& remedy) const {
  throw Fault({Exit::description, a.place, what, {}, remedy.empty() ? usual_remedy : remedy, {}});
}

void Evaluator::unknown(const Arguments& a, const std::string& what) const {
  Problem problem{Exit::description, a.place, what, {}, usual_remedy, {}};
  problem.not_understood = true;
  throw Fault(problem);
}

void Evaluator::warn(const Place& place, const std::string& what) {
  const auto known = std::any_of(project.warnings.begin(), project.warnings.end(), [&](const auto& one) {
    return one.what == what && one.place.file == place.file && one.place.line == place.line;
  });
  if (!known) project.warnings.push_back({Exit::done, place, what, {}, {}, {}});
}

void Evaluator::check_names(const Arguments& a, const std::set<std::string>& known) {
  for (const auto& [name, value] : a.named) {
    if (!known.contains(name))
      warn(a.place, "'" + text::clip(text::printable_line(name), 60) + "' of " + a.name + "() is not followed");
  }
}

std::string Evaluator::text(const Arguments& a, std::size_t index) const {
  if (index >= a.positional.size())
    fail(a, a.name + "() needs more than " + text::count(a.positional.size(), "argument"));
  if (const auto* text = a.positional[index].text()) return *text;
  if (const auto file = a.positional[index].as<File>()) return file->path;
  fail(a, std::string(a.positional[index].kind()) + " stands where " + a.name + "() expects a text");
}

std::string Evaluator::text_or(const Arguments& a, const std::string& key, const std::string& other) const {
  const auto* value = a.find(key);
  if (value == nullptr) return other;
  // A list of one is taken for what is in it.
  const auto all = flattened(*value);
  if (all.empty()) return other;
  if (all.size() == 1 && all[0].text() != nullptr) return *all[0].text();
  if (all.size() == 1 && all[0].as<File>()) return all[0].as<File>()->path;
  fail(a, "'" + key + "' of " + a.name + "() is a text, and not " + value->kind());
}

bool Evaluator::truth_or(const Arguments& a, const std::string& key, bool other) const {
  const auto* value = a.find(key);
  if (value == nullptr) return other;
  if (const auto* boolean = value->boolean()) return *boolean;
  if (const auto feature = value->as<Feature>()) return feature->state != Feature::State::disabled;
  fail(a, "'" + key + "' of " + a.name + "() is true or false, and not " + value->kind());
}

std::int64_t Evaluator::number_or(const Arguments& a, const std::string& key, std::int64_t other) const {
  const auto* value = a.find(key);
  if (value == nullptr) return other;
  if (const auto* number = value->number()) return *number;
  fail(a, "'" + key + "' of " + a.name + "() is a number, and not " + value->kind());
}

std::vector<Value> Evaluator::list(const Arguments& a, const std::string& key) const {
  const auto* value = a.find(key);
  return value == nullptr ? std::vector<Value>{} : flattened(*value);
}

std::vector<std::string> Evaluator::texts(const std::vector<Value>& values, const Arguments& a) const {
  std::vector<std::string> out;
  for (const auto& value : values) {
    if (const auto* text = value.text())
      out.push_back(*text);
    else if (const auto file = value.as<File>())
      out.push_back(file->path);
    else
      fail(a, std::string(value.kind()) + " stands where " + a.name + "() expects texts");
  }
  return out;
}

std::vector<std::string> Evaluator::texts(const Arguments& a, const std::string& key) const {
  return texts(list(a, key), a);
}

Evaluator::Wanted Evaluator::wanted(const Arguments& a) const {
  const auto* value = a.find("required");
  if (value == nullptr) return {};
  if (const auto* boolean = value->boolean()) return {*boolean, false};
  if (const auto feature = value->as<Feature>())
    return {feature->state == Feature::State::enabled, feature->state == Feature::State::disabled};
  fail(a, "'required' of " + a.name + "() is true, false or a feature, and not " + value->kind());
}

std::string Evaluator::result_folder_of(const std::string& folder) const {
  return folder == tree ? work : work + "/" + files::below(folder, tree);
}
std::string Evaluator::result_folder() const { return result_folder_of(scope_->at_folder); }

std::string Evaluator::source_path(const std::string& path) const { return files::absolute(path, scope_->at_folder); }

std::string Evaluator::result_path(const std::string& name, const Arguments& a) const {
  const std::string path = files::absolute(name, result_folder());
  // Commands of the tree write there as well, and may have put links in its way.
  if (path == work || !files::is_below(path, work) || !files::lies_below(path, work))
    fail(a, "'" + text::printable_line(name) + "' is not among the results",
         "name a file below the folder for results, and see that no link on the way leads out of it");
  return path;
}

std::string Evaluator::shown_path(const std::string& path) const {
  return files::is_below(path, tree) ? files::below(path, tree) : path;
}

std::string Evaluator::unit_name(const std::string& name) {
  std::string out = name;
  for (int n = 2; !unit_names_.insert(out).second; ++n) out = name + "-" + std::to_string(n);
  return out;
}

}  // namespace coctilis::describe::meson_build
