// Variables, cache entries, options, numbers, and what is known of the machine.
#include <fmt/format.h>
#include <unistd.h>

#include <stdexcept>
#include <thread>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

void command_set(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "set(NAME values...)");
  const std::string& name = i[0];
  if (name.starts_with("ENV{") && name.ends_with('}')) {
    e.environment[name.substr(4, name.size() - 5)] = i.size() > 1 ? i[1] : "";
    return;
  }
  auto words = i.texts(1);
  if (words.empty()) {
    e.unset(name);
    return;
  }
  if (words.back() == "PARENT_SCOPE") {
    words.pop_back();
    e.set_in_parent(name, words.empty() ? std::nullopt : std::optional<std::string>(list_join(words)));
    return;
  }
  for (std::size_t at = 0; at < words.size(); ++at) {
    if (words[at] != "CACHE" || i.words[at + 1].quoted || at + 1 >= words.size()) continue;
    static const std::set<std::string> types = {"BOOL", "FILEPATH", "PATH", "STRING", "INTERNAL", "STATIC"};
    if (!types.contains(words[at + 1])) continue;
    const bool force = words.back() == "FORCE" || words[at + 1] == "INTERNAL";
    const std::string help = at + 2 < words.size() ? words[at + 2] : "";
    const std::string text = list_join({words.begin(), words.begin() + static_cast<std::ptrdiff_t>(at)});
    const bool fresh = !e.cache.contains(name) || e.cache[name].type.empty();
    // Under the old rule a new cache entry takes the place of a variable of that name.
    if ((fresh || force) && !e.policy_is_new(126)) {
      e.set_cache(name, text, words[at + 1], help, force, i.place);
      e.unset(name);  // what is unset is looked for in the cache
      return;
    }
    e.set_cache(name, text, words[at + 1], help, force, i.place);
    return;
  }
  e.set(name, list_join(words));
}

void command_unset(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "unset(NAME)");
  const std::string& name = i[0];
  if (name.starts_with("ENV{") && name.ends_with('}'))
    e.environment[name.substr(4, name.size() - 5)] = std::nullopt;
  else if (i.size() > 1 && i[1] == "CACHE")
    e.cache.erase(name);
  else if (i.size() > 1 && i[1] == "PARENT_SCOPE")
    e.set_in_parent(name, std::nullopt);
  else
    e.unset(name);
}

void command_option(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "option(NAME \"help\" value)");
  const std::string initial = i.size() > 2 && e.on(i[2]) ? "ON"
                              : i.size() > 2 && !is_false(i[2])
                                  ? (is_true(i[2]) || !e.value(i[2]).empty() ? "ON" : "OFF")
                                  : "OFF";
  // A variable that is set already keeps the option from being one (the rule since 3.13).
  const auto it = e.cache.find(i[0]);
  if (e.policy_is_new(77) && it == e.cache.end() && e.find(i[0]) != nullptr) return;
  e.set_cache(i[0], initial, "BOOL", i[1], false, i.place);
  if (!e.policy_is_new(77)) e.unset(i[0]);
}

void command_mark_as_advanced(Evaluator& e, const Invocation& i) { e.need(i, 1, "mark_as_advanced(NAME...)"); }

void command_get_cmake_property(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "get_cmake_property(NAME PROPERTY)");
  if (i[1] == "VARIABLES") {
    e.set(i[0], list_join(e.variable_names()));
  } else if (i[1] == "CACHE_VARIABLES") {
    std::vector<std::string> names;
    for (const auto& [name, entry] : e.cache) names.push_back(name);
    e.set(i[0], list_join(names));
  } else if (const auto it = e.global_properties.find(i[1]); it != e.global_properties.end()) {
    e.set(i[0], Evaluator::joined(it->second));
  } else {
    e.set(i[0], i[1] == "GENERATOR_IS_MULTI_CONFIG" ? "0"
                : i[1] == "ROLE"                    ? e.script_depth > 0 ? "SCRIPT" : "PROJECT"
                                                    : "NOTFOUND");
  }
}

// Whole numbers of 64 bits with the operators of C.
class Arithmetic {
 public:
  explicit Arithmetic(const std::string& s) : s_(s) {}
  long long whole() {
    const long long value = binary(0);
    space();
    if (at_ < s_.size()) throw std::invalid_argument("'" + s_.substr(at_, 1) + "' is not expected");
    return value;
  }

 private:
  void space() {
    while (at_ < s_.size() && std::isspace(static_cast<unsigned char>(s_[at_])) != 0) ++at_;
  }
  // The operator that stands next: '<' and '>' for the shifts, 0 for none. Its level is 0 then.
  char operation(int& level) {
    space();
    const char c = at_ < s_.size() ? s_[at_] : '\0';
    const bool doubled = at_ + 1 < s_.size() && s_[at_ + 1] == c;
    switch (c) {
      case '|': level = 1; return c;
      case '^': level = 2; return c;
      case '&': level = 3; return c;
      case '<':
      case '>': level = doubled ? 4 : 0; return doubled ? c : '\0';
      case '+':
      case '-': level = 5; return c;
      case '*':
      case '/':
      case '%': level = 6; return c;
      default: level = 0; return '\0';
    }
  }
  long long binary(int least) {
    long long left = unary();
    int level = 0;
    for (char sign = operation(level); level > least; sign = operation(level)) {
      at_ += level == 4 ? 2 : 1;
      const long long right = binary(level);
      const auto a = static_cast<unsigned long long>(left);
      const auto b = static_cast<unsigned long long>(right);
      switch (sign) {
        case '+': left = static_cast<long long>(a + b); break;
        case '-': left = static_cast<long long>(a - b); break;
        case '*': left = static_cast<long long>(a * b); break;
        case '|': left |= right; break;
        case '^': left ^= right; break;
        case '&': left &= right; break;
        case '<': left = static_cast<long long>(b < 64 ? a << b : 0); break;
        case '>': left = b < 64 ? left >> b : 0; break;
        default:
          if (right == 0) throw std::invalid_argument("division by 0");
          if (right == -1)
            left = sign == '/' ? static_cast<long long>(0ULL - a) : 0;
          else
            left = sign == '/' ? left / right : left % right;
      }
    }
    return left;
  }
  long long unary() {
    space();
    if (at_ >= s_.size()) throw std::invalid_argument("it ends too early");
    if (++depth_ > 500) throw std::invalid_argument("it is nested too deep");
    long long value = 0;
    const char c = s_[at_];
    if (c == '(') {
      ++at_;
      value = binary(0);
      space();
      if (at_ >= s_.size() || s_[at_] != ')') throw std::invalid_argument("a parenthesis is not closed");
      ++at_;
    } else if (c == '-' || c == '+' || c == '~') {
      ++at_;
      value = unary();
      if (c == '-') value = static_cast<long long>(0ULL - static_cast<unsigned long long>(value));
      if (c == '~') value = ~value;
    } else {
      char* end = nullptr;
      const bool hex = s_.compare(at_, 2, "0x") == 0 || s_.compare(at_, 2, "0X") == 0;
      value = static_cast<long long>(std::strtoull(s_.c_str() + at_, &end, hex ? 16 : 10));
      const auto length = static_cast<std::size_t>(end - s_.c_str()) - at_;
      if (length == 0 || std::isdigit(static_cast<unsigned char>(c)) == 0)
        throw std::invalid_argument("'" + s_.substr(at_, 1) + "' is no number");
      at_ += length;
    }
    --depth_;
    return value;
  }
  const std::string& s_;
  std::size_t at_ = 0;
  int depth_ = 0;
};

void command_math(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "math(EXPR NAME \"expression\")");
  if (i[0] != "EXPR") e.not_understood(i, "math(" + i[0] + ")");
  try {
    const long long value = Arithmetic(i[2]).whole();
    const bool hex = i.size() > 4 && i[3] == "OUTPUT_FORMAT" && i[4] == "HEXADECIMAL";
    e.set(i[1], hex ? fmt::format("0x{:x}", static_cast<unsigned long long>(value)) : std::to_string(value));
  } catch (const std::invalid_argument& error) {
    e.fail(i.place, "the expression '" + text::printable_line(i[2]) + "' cannot be worked out", "check it",
           error.what());
  }
}

void command_separate_arguments(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "separate_arguments(NAME)");
  if (i.size() == 1) {
    e.set(i[0], text::replace_all(e.value(i[0]), " ", ";"));
    return;
  }
  if (i[1] != "UNIX_COMMAND" && i[1] != "NATIVE_COMMAND") e.not_understood(i, "separate_arguments(... " + i[1] + ")");
  if (i.size() > 2 && i[2] == "PROGRAM") e.not_understood(i, "separate_arguments(... PROGRAM)");
  e.set(i[0], i.size() > 2 ? list_join(text::shell_words(i[2])) : "");
}

void command_site_name(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "site_name(NAME)");
  e.set(i[0], "localhost");
}

void command_host_information(Evaluator& e, const Invocation& i) {
  const auto words = keywords(i.texts(), {}, {"RESULT"}, {"QUERY"});
  std::vector<std::string> out;
  for (const auto& query : words.list("QUERY")) {
    if (query == "NUMBER_OF_LOGICAL_CORES" || query == "NUMBER_OF_PHYSICAL_CORES")
      out.push_back(std::to_string(std::max(1U, std::thread::hardware_concurrency())));
    else if (query == "HOSTNAME" || query == "FQDN")
      out.emplace_back("localhost");
    else if (query == "IS_64BIT")
      out.emplace_back("1");
    else if (query == "OS_NAME")
      out.emplace_back("Linux");
    else if (query == "OS_PLATFORM")
      out.push_back(e.value("CMAKE_SYSTEM_PROCESSOR"));
    else if (query == "OS_RELEASE" || query == "OS_VERSION")
      out.push_back(e.value("CMAKE_SYSTEM_VERSION"));
    else
      e.not_understood(i, "the question '" + query + "'");
  }
  e.set(words.get("RESULT"), list_join(out));
}

}  // namespace

void add_variable_commands(CommandTable& table) {
  table["set"] = command_set;
  table["unset"] = command_unset;
  table["option"] = command_option;
  table["mark_as_advanced"] = command_mark_as_advanced;
  table["get_cmake_property"] = command_get_cmake_property;
  table["math"] = command_math;
  table["separate_arguments"] = command_separate_arguments;
  table["site_name"] = command_site_name;
  table["cmake_host_system_information"] = command_host_information;
}

}  // namespace coctilis::describe::listfile
