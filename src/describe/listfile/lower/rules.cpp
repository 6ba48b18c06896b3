#include "describe/listfile/lower/rules.h"

#include <re2/re2.h>

#include "base/file_operations.h"
#include "base/files.h"
#include "base/lists.h"
#include "base/own_program.h"
#include "base/text.h"
#include "describe/listfile/tool.h"
#include "describe/readers.h"

namespace coctilis::describe::listfile::lower {

using model::Action;

using model::TargetKind;

Rules::Rules(const Declared& project, const Artifacts& artifacts, const Expressions& expressions,
             std::string output_root)
    : project_(project), artifacts_(artifacts), expressions_(expressions), output_root_(std::move(output_root)) {
  for (const auto& rule : project.rules) {
    for (const auto* list : {&rule.outputs, &rule.byproducts}) {
      for (const auto& output : *list) {
        for (const auto& path : list_elements(output.text, false)) outputs_.insert(path);
      }
    }
  }
  for (const auto& target : project.targets) {
    for (const auto& rule : target.commands) {
      for (const auto& product : rule.byproducts) outputs_.insert(product.text);
    }
  }
}

std::string Rules::stamp(const Target& target) const {
  return project_.binary_root + "/.targets/" + text::replace_all(target.name, "/", "_") + ".done";
}

// The file that a word in DEPENDS means: one of a target, an output of a rule, a source.
std::string Rules::file_of(const std::string& word, const Rule& rule) const {
  if (const Target* target = project_.target(word)) {
    if (target->kind == TargetKind::custom) return stamp(*target);
    return artifacts_.of(*target).file;
  }
  const std::string in_binary = files::absolute(word, rule.binary_folder);
  const std::string in_source = files::absolute(word, rule.source_folder);
  // What the description writes into the tree lies elsewhere.
  if (const auto it = project_.overlaid.find(in_source); it != project_.overlaid.end() && outputs_.contains(it->second))
    return it->second;
  if (outputs_.contains(in_binary)) return in_binary;
  if (outputs_.contains(in_source) || files::is_file(in_source)) return in_source;
  if (files::is_file(in_binary)) return in_binary;
  if (artifacts_.maker(in_binary) != nullptr) return in_binary;
  return in_source;
}

namespace {
// Words that only a shell understands: a command with one of them goes through /bin/sh.
const std::set<std::string>& shell_operators() {
  static const std::set<std::string> operators = {">",  ">>",   "<",  "|", "&&",          "||",
                                                  "2>", "2>&1", "&>", ";", "2>/dev/null", ">/dev/null"};
  return operators;
}

// What a shell makes something else of, inside a word.
bool for_the_shell(const std::string& word) { return word.find_first_of("\"'`$*") != std::string::npos; }

// A word that a shell is to read, as one word still: without VERBATIM only its spaces are kept from the shell.
std::string with_spaces_kept(const std::string& word) {
  std::string out;
  char quote = '\0';
  for (const char c : word) {
    if (c == ' ' && quote == '\0') out += '\\';
    if (c == quote)
      quote = '\0';
    else if (quote == '\0' && (c == '"' || c == '\''))
      quote = c;
    out += c;
  }
  return out;
}
}  // namespace

namespace {

// `text` with the path `to` where it names the path `from`, and not one that only begins like it.
std::string with_path(std::string text, const std::string& from, const std::string& to) {
  const auto goes_on = [](unsigned char c) { return std::isalnum(c) != 0 || c == '_' || c == '-' || c == '+'; };
  for (std::size_t at = text.find(from); at != std::string::npos; at = text.find(from, at)) {
    const std::size_t end = at + from.size();
    // A dot ends a sentence, or goes on with an ending.
    const bool more = end < text.size() &&
                      (goes_on(text[end]) || (text[end] == '.' && end + 1 < text.size() && goes_on(text[end + 1])));
    if (more) {
      at = end;
      continue;
    }
    text.replace(at, from.size(), to);
    at += to.size();
  }
  return text;
}

}  // namespace

void Rules::add_actions(const Rule& rule, model::Rule& into) const {
  for (const auto& command : rule.commands) {
    ExpressionContext context;
    context.place = rule.place;
    std::vector<std::string> named;
    context.named_targets = &named;
    std::vector<std::string> argv;
    for (const auto& word : command.words) {
      std::string text = expressions_.evaluate(word.text, context);
      if (text.empty() && !word.text.empty()) continue;
      for (const auto& [from, to] : project_.overlaid) text = with_path(std::move(text), from, to);
      if (rule.expand_lists) {
        for (auto& element : list_elements(text, false)) argv.push_back(std::move(element));
      } else {
        argv.push_back(text);
      }
    }
    // "A && B" with an operation of the tool in it are two commands, one after the other, as commands of a step are
    // anyway. Everything else is the shell's, which may change folders on the way.
    std::vector<std::vector<std::string>> parts(1);
    bool divide = false;
    for (std::size_t k = 0; k < argv.size(); ++k) {
      if (k == 0 || shell_operators().contains(argv[k - 1])) name_tool(argv, k);
    }
    for (std::size_t k = 0; k < argv.size(); ++k)
      divide = divide || (argv[k] == tool_word && (k == 0 || argv[k - 1] == "&&"));
    for (const auto& word : argv)
      divide = divide && (word == "&&" || !shell_operators().contains(word)) && word != "cd";
    for (auto& word : argv) {
      if (word == "&&" && divide)
        parts.emplace_back();
      else
        parts.back().push_back(std::move(word));
    }
    for (auto& part : parts) add_action(rule, std::move(part), named, context, into);
  }
}

void Rules::resolve_programs(std::vector<std::string>& argv, std::vector<std::string>& named, model::Rule& into) const {
  // The first word may be a program of the tree.
  const Target* program = project_.target(argv[0]);
  if (program != nullptr && program->kind == TargetKind::program) {
    argv[0] = artifacts_.of(*program).file;
    named.push_back(program->name);
  }
  for (const auto& name : named) {
    const Target* target = project_.target(name);
    if (target == nullptr || target->imported) continue;
    if (const auto& file = artifacts_.of(*target).file;
        !file.empty() && std::find(into.outputs.begin(), into.outputs.end(), file) == into.outputs.end())
      into.inputs.push_back(file);
  }
}

bool Rules::add_call_of_tool(const Rule& rule, std::vector<std::string>& argv, bool shell, model::Action& action,
                             model::Rule& into) const {
  const auto script = std::find(argv.begin(), argv.end(), "-P");
  if (script != argv.end() && argv.size() > 1 && argv[1].starts_with("-") && argv[1] != "-E") {
    // A script of the language: this program runs it, in a process of its own so that it can run beside others.
    action.argv = {own_program(), "run-script", "--tree", project_.tree, "--output", output_root_, "--"};
    action.argv.insert(action.argv.end(), argv.begin() + 1, argv.end());
    if (script + 1 != argv.end()) {
      const std::string file = files::absolute(*(script + 1), action.folder);
      if (files::is_file(file)) into.inputs.push_back(file);
    }
    return true;
  }
  if (shell && argv.size() > 2 && argv[1] == "-E") {
    // Its output goes somewhere: this program does the operation as a part of the shell's line.
    std::vector<std::string> call = {own_program(), "run-operation", "--output", output_root_, "--"};
    call.insert(call.end(), argv.begin() + 2, argv.end());
    argv = std::move(call);
    return false;
  }
  if (argv.size() < 3 || argv[1] != "-E" || !files::is_operation(argv[2])) {
    throw Fault({Exit::description,
                 rule.place,
                 "the command '" +
                     text::clip(text::printable_line(text::join({argv.begin() + 1, argv.end()}, " ")), 100) +
                     "' of the description's own tool is not understood yet",
                 "",
                 "",
                 {}});
  }
  argv.erase(argv.begin(), argv.begin() + 2);
  action.how = Action::How::builtin;
  return false;
}

void Rules::add_action(const Rule& rule, std::vector<std::string> argv, std::vector<std::string> named,
                       const ExpressionContext& context, model::Rule& into) const {
  if (argv.empty() || (argv.size() == 1 && argv[0].empty())) return;
  // What this program does itself sees the words as a shell would hand them on.
  if (argv[0] == tool_word && !rule.verbatim) {
    for (auto& word : argv) {
      if (word.find_first_of("\"'") == std::string::npos) continue;
      const auto words = text::shell_words(with_spaces_kept(word));
      if (words.size() == 1) word = words.front();
    }
  }
  const bool shell = std::any_of(argv.begin(), argv.end(), [&](const std::string& word) {
    return shell_operators().contains(word) || (!rule.verbatim && for_the_shell(word));
  });
  Action action;
  action.folder = expressions_.evaluate(rule.folder, context);
  // A shell, which runs such commands elsewhere, takes words in front of the program for its environment.
  static const RE2 assignment(R"(([A-Za-z_][A-Za-z0-9_]*)=((?s).*))");
  std::string variable;
  std::string value;
  while (argv.size() > 1 && RE2::FullMatch(argv.front(), assignment, &variable, &value)) {
    action.environment[variable] = value;
    argv.erase(argv.begin());
  }
  resolve_programs(argv, named, into);
  // Operations of the tool that start a program: what they change goes into the action, then the program runs as any
  // other.
  const bool wrapped = argv[0] == tool_word;
  const auto surroundings = take_surroundings(argv, action.folder);
  if (argv.empty()) return;
  if (wrapped && argv[0].starts_with("--")) {
    throw Fault({Exit::description,
                 rule.place,
                 "'" + text::clip(text::printable_line(argv[0]), 100) +
                     "' of the operation 'env' of the tool in a command is not understood yet",
                 "",
                 "leave the target out if it is not needed",
                 {}});
  }
  action.folder = surroundings.folder;
  for (const auto& [name, text] : surroundings.environment) action.environment[name] = text;
  if (const Target* inner = wrapped ? project_.target(argv[0]) : nullptr;
      inner != nullptr && inner->kind == TargetKind::program) {
    argv[0] = artifacts_.of(*inner).file;
    into.inputs.push_back(argv[0]);
  }
  if (is_build_program(argv[0])) {
    throw Fault({Exit::description,
                 rule.place,
                 "a command runs '" + argv[0] + "', a build program of its own",
                 "Coctilis does this work itself and never starts another build program",
                 "leave the target out if it is not needed",
                 {}});
  }
  if (argv[0] == tool_word && add_call_of_tool(rule, argv, shell, action, into)) {
    into.actions.push_back(std::move(action));
    return;
  }
  if (shell && action.how == Action::How::process) {
    std::string line;
    for (const auto& word : argv)
      line += (line.empty() ? "" : " ") + (shell_operators().contains(word)        ? word
                                           : !rule.verbatim && for_the_shell(word) ? with_spaces_kept(word)
                                                                                   : text::shell_quote(word));
    action.how = Action::How::shell;
    argv = {line};
  }
  action.argv = std::move(argv);
  into.actions.push_back(std::move(action));
}

std::vector<model::Rule> Rules::all() {
  std::vector<model::Rule> out;
  for (const auto& rule : project_.rules) {
    ExpressionContext context;
    context.place = rule.place;
    model::Rule made;
    made.place = rule.place;
    made.outputs = expressions_.evaluate(rule.outputs, context);
    made.byproducts = expressions_.evaluate(rule.byproducts, context);
    if (made.outputs.empty()) continue;
    for (auto& output : made.outputs) {
      output = files::absolute(output, rule.binary_folder);
      outputs_.insert(output);
    }
    // Ready made in the tree, it is taken as it is while it is newer than what it is made from.
    made.by_time = files::is_below(made.outputs.front(), project_.tree) &&
                   !files::is_below(made.outputs.front(), project_.binary_root);
    made.dependency_file = rule.dependency_file;
    for (const auto& word : expressions_.evaluate(rule.depends, context)) {
      const Target* target = project_.target(word);
      const std::string file = file_of(word, rule);
      if (file.empty()) continue;
      (target != nullptr && target->kind == TargetKind::custom ? made.after : made.inputs).push_back(file);
    }
    add_actions_or_refuse(rule, made);
    out.push_back(std::move(made));
  }
  return out;
}

void Rules::add_actions_or_refuse(const Rule& rule, model::Rule& into) const {
  try {
    add_actions(rule, into);
  } catch (const Fault& fault) {
    if (!into.refused) into.refused = fault.problem();
  }
}

model::Rule Rules::of_target(const Target& target) const {
  model::Rule out;
  out.place = target.place;
  out.outputs = {stamp(target)};
  ExpressionContext context;
  context.place = target.place;
  Rule here;
  here.source_folder = target.folder;
  here.binary_folder = target.binary_folder;
  for (const auto& word : expressions_.evaluate(target.dependencies, context)) {
    const std::string file = file_of(word, here);
    if (!file.empty()) out.inputs.push_back(file);
  }
  // What is to be done before and behind it goes with its own commands.
  for (const auto* rules : {&target.before_compile, &target.before_link, &target.commands, &target.after_link}) {
    for (const auto& rule : *rules) {
      add_actions_or_refuse(rule, out);
      for (const auto& product : rule.byproducts) out.byproducts.push_back(product.text);
    }
  }
  // Sources that rules make are made with it.
  for (const auto& source : expressions_.evaluate(target.sources, context)) {
    if (const std::string file = file_of(source, here); makes(file)) out.inputs.push_back(file);
  }
  return out;
}

model::UnitCommands Rules::commands(const std::vector<std::vector<Rule>>& rules,
                                    const std::vector<std::string>& outputs) const {
  model::Rule all;
  all.outputs = outputs;
  for (const auto& list : rules) {
    for (const auto& rule : list) add_actions(rule, all);
  }
  return {std::move(all.actions), std::move(all.inputs)};
}

}  // namespace coctilis::describe::listfile::lower
