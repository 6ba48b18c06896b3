// Works out references: variables, automatic variables, substitution references.
#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/makefile/functions.h"
#include "describe/makefile/make.h"
#include "describe/makefile/words.h"

namespace coctilis::describe::makefile {

namespace {
constexpr int most_depth = 300;                 // references within references
constexpr std::size_t most_text = 256U << 20U;  // bytes of one text
}  // namespace

std::string Make::expand(std::string_view text, const Place& place) {
  std::string out;
  expand_into(out, text, place);
  return out;
}

std::string Make::value(const std::string& name) { return expand("$(" + name + ")", {}); }

void Make::expand_into(std::string& out, std::string_view text, const Place& place) {
  std::size_t at = 0;
  while (at < text.size()) {
    const auto dollar = text.find('$', at);
    if (dollar == std::string_view::npos || dollar + 1 >= text.size()) {
      out += text.substr(at);
      break;
    }
    out += text.substr(at, dollar - at);
    const char next = text[dollar + 1];
    if (next == '$') {
      out += '$';
      at = dollar + 2;
      continue;
    }
    if (next == '(' || next == '{') {
      const auto end = end_of_bracket(text, dollar + 1);
      if (end == std::string_view::npos)
        fail(place, "a reference is never closed: '" + text::clip(text::printable_line(text.substr(dollar)), 60) + "'",
             std::string("add '") + (next == '(' ? ")" : "}") + "'");
      const auto before = out.size();
      reference(out, text.substr(dollar + 2, end - dollar - 3), place);
      count_text(out.size(), out.size() - std::min(before, out.size()), place);
      at = end;
      continue;
    }
    if (next == ' ' || next == '\t') {
      // A dollar on its own stands for nothing.
      at = dollar + 1;
      continue;
    }
    put_value(out, std::string(1, next), place);
    at = dollar + 2;
  }
  if (out.size() > most_text) fail(place, "a text grows beyond 256 MB", "look for a variable that holds itself twice");
}

void Make::reference(std::string& out, std::string_view inside, const Place& place) {
  count_work(place);
  if (++depth_ > most_depth)
    fail(place, "references are nested more than " + std::to_string(most_depth) + " deep", "look for one without end");
  struct Leave {
    int& depth;
    ~Leave() { --depth; }
  } leave{depth_};
  if (function(out, inside, place)) return;
  // NAME:FROM=TO
  for (std::size_t i = 0; i < inside.size(); ++i) {
    if (inside[i] == '$' && i + 1 < inside.size()) {
      i = end_of_reference(inside, i) - 1;
      continue;
    }
    if (inside[i] != ':') continue;
    std::size_t equals = i + 1;
    while (equals < inside.size() && inside[equals] != '=') {
      if (inside[equals] == '$' && equals + 1 < inside.size())
        equals = end_of_reference(inside, equals);
      else
        ++equals;
    }
    if (equals >= inside.size()) break;
    std::string from = expand(inside.substr(i + 1, equals - i - 1), place);
    std::string to = expand(inside.substr(equals + 1), place);
    const std::string name = expand(inside.substr(0, i), place);
    if (from.find('%') == std::string::npos) {
      from = "%" + from;
      to = "%" + to;
    }
    std::string text;
    put_value(text, name, place);
    bool first = true;
    for (const auto& word : text::words(text)) {
      if (!first) out += ' ';
      first = false;
      out += replace_pattern(word, from, to);
    }
    return;
  }
  if (inside.find('$') == std::string_view::npos)
    put_value(out, std::string(text::trim(inside)), place);
  else
    put_value(out, std::string(text::trim(expand(inside, place))), place);
}

const Variable* Make::find(const std::string& name) const {
  bool outer = false;
  for (const Scope* scope = scope_; scope != nullptr; scope = scope->parent.get()) {
    const auto it = scope->variables.find(name);
    if (it != scope->variables.end() && !(outer && scope->own_only.contains(name))) return &it->second;
    outer = true;
  }
  const auto it = variables_.find(name);
  return it == variables_.end() ? nullptr : &it->second;
}

bool Make::automatic(std::string& out, const std::string& name) const {
  if (automatic_ == nullptr || name.empty() || name.size() > 2) return false;
  const char kind = name[0];
  if (name.size() == 2 && name[1] != 'D' && name[1] != 'F') return false;
  if (std::string_view("@<^+?*|%").find(kind) == std::string_view::npos) return false;
  std::vector<std::string> words;
  const auto all = [&](const std::vector<std::string>* list, bool duplicates) {
    if (list == nullptr) return;
    std::unordered_set<std::string> seen;
    for (const auto& word : *list) {
      if (duplicates || seen.insert(word).second) words.push_back(word);
    }
  };
  switch (kind) {
    case '@':
      if (automatic_->target != nullptr) words = {*automatic_->target};
      break;
    case '*':
      if (automatic_->stem != nullptr) words = {*automatic_->stem};
      break;
    case '%':
      if (automatic_->member != nullptr) words = {*automatic_->member};
      break;
    case '<':
      if (automatic_->prerequisites != nullptr && !automatic_->prerequisites->empty())
        words = {automatic_->prerequisites->front()};
      break;
    case '+': all(automatic_->prerequisites, true); break;
    case '^': all(automatic_->prerequisites, false); break;
    case '|': all(automatic_->order_only, false); break;
    default:
      // Those that are newer than the target: only known when the recipe runs.
      automatic_->used_newer = true;
      all(automatic_->prerequisites, false);
      std::erase_if(words, [&](const std::string& word) {
        const auto it = times_.find(word);
        return automatic_->target_time >= 0 && it != times_.end() && it->second >= 0 &&
               it->second <= automatic_->target_time;
      });
  }
  for (auto& word : words) {
    if (name.size() < 2) break;
    const auto slash = word.rfind('/');
    if (name[1] == 'D')
      word = slash == std::string::npos ? "." : slash == 0 ? "/" : word.substr(0, slash);
    else
      word = slash == std::string::npos ? word : word.substr(slash + 1);
  }
  out += text::join(words, " ");
  return true;
}

void Make::put_value(std::string& out, const std::string& name, const Place& place) {
  if (automatic(out, name)) return;
  if (!arguments_.empty() && !name.empty() && name.find_first_not_of("0123456789") == std::string::npos) {
    const std::size_t index = name.size() > 4 ? arguments_.size() : std::stoul(name);
    if (index < arguments_.size()) out += *arguments_[index];
    return;
  }
  const Variable* variable = find(name);
  if (variable == nullptr) {
    if (name == ".VARIABLES") {
      std::vector<std::string> names;
      for (const auto& [key, value] : variables_) names.push_back(key);
      std::sort(names.begin(), names.end());
      out += text::join(names, " ");
    } else if (name == ".SHELLSTATUS") {
      out += "0";
    }
    return;
  }
  if (!variable->recursive) {
    out += variable->value;
    return;
  }
  if (variable->value.find('$') == std::string::npos) {
    out += variable->value;
    return;
  }
  // One that gives itself another value when it is first used has that only when things are worked out in earnest.
  if (forbid_late_ && used_late_ && expanding_.contains(name)) return;
  if (!expanding_.insert(name).second)
    fail(place, "the variable '" + text::printable_line(name) + "' refers to itself", "give it its value with ':='");
  struct Leave {
    std::unordered_set<std::string>& names;
    const std::string& name;
    ~Leave() { names.erase(name); }
  } leave{expanding_, name};
  count_work(place);
  if (++depth_ > most_depth)
    fail(place, "references are nested more than " + std::to_string(most_depth) + " deep", "look for one without end");
  struct Up {
    int& depth;
    ~Up() { --depth; }
  } up{depth_};
  const std::string text = variable->value;  // a copy: an $(eval) within may change it
  expand_into(out, text, place);
}

std::map<std::string, std::string> Make::environment(const Scope* scope, const Place& place) {
  std::map<std::string, std::string> out;
  const auto add = [&](const std::string& name, const Variable& variable) {
    const bool named =
        !name.empty() && std::isdigit(static_cast<unsigned char>(name[0])) == 0 &&
        std::all_of(name.begin(), name.end(), [](unsigned char c) { return std::isalnum(c) != 0 || c == '_'; });
    const bool from_outside = call_.environment.contains(name);
    bool yes = variable.exported.value_or(false) || variable.origin == Origin::command_line;
    if (!variable.exported && !yes) yes = (export_all_ && named && variable.origin != Origin::built_in) || from_outside;
    if (!yes || variable.origin == Origin::undefined) return;
    if (name == "MAKEFLAGS" || name == "MAKELEVEL" || name == "SHELL") return;
    if (expanding_.contains(name)) return;
    // What came from the environment goes back to it as it came.
    const bool as_it_came = variable.origin == Origin::environment || variable.origin == Origin::environment_override;
    std::string text = variable.recursive && !as_it_came ? expand(variable.value, place) : variable.value;
    const auto it = call_.environment.find(name);
    if (it == call_.environment.end() || it->second != text) out[name] = std::move(text);
  };
  const Scope* outer = scope_;
  scope_ = scope;
  for (const auto& [name, variable] : variables_) add(name, variable);
  std::vector<const Scope*> scopes;
  for (const Scope* s = scope; s != nullptr; s = s->parent.get()) scopes.push_back(s);
  for (auto it = scopes.rbegin(); it != scopes.rend(); ++it) {
    for (const auto& [name, variable] : (*it)->variables) add(name, variable);
  }
  scope_ = outer;
  const auto flags = variables_.find("MAKEFLAGS");
  std::string text = flags == variables_.end() ? std::string{} : expand(flags->second.value, place);
  if (!text.empty() && text[0] != '-' && text[0] != ' ') {
    // Letters come first, without a dash.
  }
  out["MAKEFLAGS"] = std::string(text::trim(text));
  out["MAKELEVEL"] = std::to_string(call_.level + 1);
  return out;
}

std::string Make::run_shell(const std::string& command, const Place& place) {
  used_late_ = true;
  if (forbid_late_) return {};
  Command start;
  start.argv = shell_words();
  start.argv.push_back(command);
  start.folder = call_.folder;
  start.merge_errors = false;
  start.limit_seconds = 600;
  start.writable = call_.writable;
  for (const auto& [name, text] : call_.environment) start.environment[name] = text;
  // Values in the making are left out: a variable may be asked for by the command that gives it.
  // A command within such a value does not get them again: it would ask for itself.
  if (!for_shell_) {
    for_shell_ = true;
    try {
      for (auto& [name, text] : environment(nullptr, place)) start.environment[name] = text;
    } catch (...) {
      for_shell_ = false;
      throw;
    }
    for_shell_ = false;
  }
  start.output_limit = most_text_bytes;
  const Ended ended = observe::run(start);
  if (ended.truncated)
    fail(place, "a command says more than " + text::size(most_text_bytes), "look for one without end");
  variables_[".SHELLSTATUS"] = {std::to_string(ended.how == Ended::How::exited ? ended.code : 127), false,
                                Origin::override_, std::nullopt};
  if (!ended.errors.empty()) messages_.push_back(std::string(text::trim(text::printable(ended.errors))));
  // Files may have come or gone.
  folders_.clear();
  times_.clear();
  std::string out = ended.output;
  while (!out.empty() && (out.back() == '\n' || out.back() == '\r')) out.pop_back();
  std::string flat;
  for (const char c : out) {
    if (c == '\r') continue;
    flat += c == '\n' ? ' ' : c;
  }
  return flat;
}

}  // namespace coctilis::describe::makefile
