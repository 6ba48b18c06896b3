// Running: calls of commands, functions and macros; blocks and loops; files and folders.
#include "base/files.h"
#include "base/lists.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {
// More rounds than any description needs; a loop that passes it would not end, or not today.
constexpr std::size_t most_rounds = 100'000'000;  // of one loop
}  // namespace

bool Evaluator::is_command(const std::string& name) const {
  static const std::set<std::string> blocks = {"if",         "elseif",   "else",     "endif",    "foreach",
                                               "endforeach", "while",    "endwhile", "function", "endfunction",
                                               "macro",      "endmacro", "block",    "endblock"};
  const std::string lower = text::lower(name);
  return functions.contains(lower) || command_table().contains(lower) || blocks.contains(lower);
}

void Evaluator::define(Function function) {
  const std::string key = text::lower(function.name);
  // What is redefined stays reachable under its name with an underscore.
  if (const auto it = functions.find(key); it != functions.end()) functions["_" + key] = it->second;
  functions[key] = std::make_shared<const Function>(std::move(function));
  ++functions_defined;
}

void Evaluator::count_text(std::uint64_t bytes, std::uint64_t more, const Place& place) {
  if (bytes > most_text_bytes)
    fail(place, "a text grows beyond " + text::size(most_text_bytes),
         "look for a variable that is set from itself in a loop");
  // Only what is added counts: a large text may be made of millions of small pieces, and asking costs a system call.
  if (more < (1U << 16U)) return;
  text_since_ += more;
  if (text_since_ > most_text_bytes) check_memory(place);
}

void Evaluator::check_memory(const Place& place) {
  text_since_ = 0;
  if (resident_bytes() > limits_.memory_bytes)
    fail(place, "the description takes more than " + text::size(limits_.memory_bytes) + " of memory",
         "look for a text or list that grows without end");
}

void Evaluator::count_work(const Place& place) {
  if (++work_done_ > limits_.commands)
    fail(place, "the description runs more than " + text::grouped(limits_.commands) + " commands",
         "look for a loop or a function that goes on without end");
  if (work_done_ % 256 == 0) check_memory(place);
  if (interrupted_by != 0) fail(place, "interrupted");
}

void Evaluator::run_call(const Call& written, const Invocation& invocation) {
  if (written.command != nullptr && written.functions_then == functions_defined) {
    count_work(invocation.place);
    written.command(*this, invocation);
    return;
  }
  const std::size_t now = functions_defined;
  if (!functions.contains(written.name)) {
    if (const auto it = command_table().find(written.name); it != command_table().end()) {
      written.command = it->second;
      written.functions_then = now;
    }
  }
  call(written.name, invocation);
}

void Evaluator::count_names(std::size_t names, const Place& place) {
  names_seen_ += names;
  if (names_seen_ > limits_.names)
    fail(place, "patterns for file names look at more than " + text::grouped(limits_.names) + " names",
         "begin the pattern with a folder of the tree");
  if (interrupted_by != 0) fail(place, "interrupted");
}

void Evaluator::call(const Invocation& invocation) { call(text::lower(invocation.name), invocation); }

void Evaluator::call(const std::string& name, const Invocation& invocation) {
  count_work(invocation.place);
  if (const auto it = functions.find(name); it != functions.end()) {
    const auto function = it->second;  // held: it may redefine itself
    call_function(*function, invocation);
    return;
  }
  auto it = command_table().find(name);
  if (it == command_table().end() && name.starts_with('_')) it = command_table().find(name.substr(1));
  if (it == command_table().end()) {
    std::string nearest;
    std::size_t best = 3;
    const auto consider = [&](const std::string& known) {
      const auto distance = text::edit_distance(known, name);
      if (distance < best) {
        best = distance;
        nearest = known;
      }
    };
    for (const auto& [known, command] : command_table()) consider(known);
    for (const auto& [known, function] : functions) consider(known);
    fail(invocation.place, "unknown command '" + invocation.name + "'",
         nearest.empty() ? "it is neither a command of the language that is understood here nor a function of the tree"
                         : "did you mean '" + nearest + "'?");
  }
  it->second(*this, invocation);
}

void Evaluator::call_function(const Function& function, const Invocation& invocation) {
  const auto given = invocation.texts();
  if (given.size() < function.parameters.size()) {
    fail(invocation.place,
         "'" + invocation.name + "' takes " + std::to_string(function.parameters.size()) + " arguments, but gets " +
             std::to_string(given.size()),
         "its parameters are: " + text::join(function.parameters, ", "));
  }
  if (stack_.size() > 1000)
    fail(invocation.place, "calls are nested more than 1000 deep", "look for a function that calls itself");
  stack_.emplace_back("called by '" + invocation.name + "'", invocation.place);
  std::map<std::string, std::string> arguments;
  arguments["ARGC"] = std::to_string(given.size());
  arguments["ARGV"] = list_join(given);
  arguments["ARGN"] = list_join({given.begin() + static_cast<std::ptrdiff_t>(function.parameters.size()), given.end()});
  for (std::size_t i = 0; i < given.size(); ++i) arguments["ARGV" + std::to_string(i)] = given[i];
  for (std::size_t i = 0; i < function.parameters.size(); ++i) arguments[function.parameters[i]] = given[i];
  const auto* outer = macro_arguments_;
  if (function.macro) {
    macro_arguments_ = &arguments;
    const Flow flow = run_body(*function.body, function.file->path);
    macro_arguments_ = outer;
    flow_ = flow;  // return() and break() within a macro act where it is called
  } else {
    macro_arguments_ = nullptr;
    auto scope = push_scope();
    for (auto& [name, value] : arguments) scope->variables[name] = value;
    scope->variables["CMAKE_CURRENT_FUNCTION"] = function.name;
    scope->variables["CMAKE_CURRENT_FUNCTION_LIST_FILE"] = function.file->path;
    scope->variables["CMAKE_CURRENT_FUNCTION_LIST_DIR"] =
        std::filesystem::path(function.file->path).parent_path().string();
    run_body(*function.body, function.file->path);
    pop_scope(std::move(scope));
    macro_arguments_ = outer;
    flow_ = Flow::next;
  }
  stack_.pop_back();
}

void Evaluator::for_upcoming(const std::function<bool(const std::string&, const Invocation&)>& visit) {
  const Standing here = standing_;
  if (here.body == nullptr) return;
  const auto calls_from = [&](std::size_t at) {
    for (; at < here.body->size(); ++at) {
      const Node& node = (*here.body)[at];
      if (node.block) continue;
      Invocation invocation{node.call.written, {}, shown_place(*here.file, node.call.line, node.call.column)};
      invocation.words = expand_arguments(node.call.arguments, invocation.place);
      if (!visit(node.call.name, invocation)) return false;
    }
    return true;
  };
  try {
    if (!calls_from(here.at + 1) || here.loop == nullptr) return;
    const auto before = scope_->variables;
    try {
      const Loop& loop = *here.loop;
      for (std::size_t round = loop.round + 1; round < loop.rounds.size(); ++round) {
        for (std::size_t i = 0; i < loop.variables.size(); ++i) set(loop.variables[i], loop.rounds[round][i]);
        if (!calls_from(0)) break;
      }
    } catch (...) {
      scope_->variables = before;
      throw;
    }
    scope_->variables = before;
  } catch (const Fault&) {
    // It is told when its turn comes, if it still fails then.
  }
}

Flow Evaluator::run_body(const Body& body, const std::string& file, const Loop* loop) {
  const Standing outer = standing_;
  standing_ = {&body, 0, &file, loop};
  struct Leave {
    Standing& standing;
    const Standing& outer;
    ~Leave() { standing = outer; }
  } leave{standing_, outer};
  for (std::size_t at = 0; at < body.size(); ++at) {
    const Node& node = body[at];
    standing_.at = at;
    flow_ = Flow::next;
    if (node.block) {
      run_block(node, file);
    } else {
      Invocation invocation{node.call.written, {}, shown_place(file, node.call.line, node.call.column)};
      invocation.words = expand_arguments(node.call.arguments, invocation.place);
      run_call(node.call, invocation);
    }
    if (flow_ != Flow::next) return flow_;
  }
  return Flow::next;
}

void Evaluator::run_block(const Node& node, const std::string& file) {
  const std::string& name = node.call.name;
  const Place place = shown_place(file, node.call.line, node.call.column);
  if (name == "if") {
    if (condition(expand_arguments(node.call.arguments, place), place)) {
      flow_ = run_body(node.body, file);
      return;
    }
    for (const auto& branch : node.branches) {
      const Place here = shown_place(file, branch.call.line);
      if (branch.call.name == "elseif" && !condition(expand_arguments(branch.call.arguments, here), here)) continue;
      flow_ = run_body(branch.body, file);
      return;
    }
    return;
  }
  if (name == "foreach" || name == "while") {
    run_loop(node, file);
    return;
  }
  if (name == "function" || name == "macro") {
    const auto words = expand_arguments(node.call.arguments, place);
    if (words.empty()) fail(place, "'" + name + "' needs a name", "write " + name + "(NAME parameters...)");
    Function function{words[0].text, name == "macro", {}, &node.body, nullptr};
    for (std::size_t i = 1; i < words.size(); ++i) function.parameters.push_back(words[i].text);
    // Files are kept for as long as the evaluator lives, so the body may be pointed to.
    auto holder = std::make_shared<File>();
    holder->path = file;
    function.file = holder;
    define(std::move(function));
    return;
  }
  if (name == "block") {
    const auto words = keywords(
        [&] {
          std::vector<std::string> texts;
          for (auto& word : expand_arguments(node.call.arguments, place)) texts.push_back(word.text);
          return texts;
        }(),
        {}, {}, {"SCOPE_FOR", "PROPAGATE"});
    const auto kinds = words.list("SCOPE_FOR");
    const bool variables = kinds.empty() || std::find(kinds.begin(), kinds.end(), "VARIABLES") != kinds.end();
    if (!variables) {
      flow_ = run_body(node.body, file);
      return;
    }
    auto scope = push_scope();
    const Flow flow = run_body(node.body, file);
    for (const auto& variable : words.list("PROPAGATE")) {
      if (const auto it = scope->variables.find(variable); it != scope->variables.end())
        set_in_parent(variable, it->second);
    }
    pop_scope(std::move(scope));
    flow_ = flow;
    return;
  }
}

namespace {

// The values that the variables of a loop take, round by round.
struct Rounds {
  std::vector<std::string> variables;
  std::vector<std::vector<std::string>> values;
  // Ranges are counted off as the loop runs.
  bool counted = false;
  long long first = 0;
  long long step = 1;
  std::size_t count = 0;
};

}  // namespace

void Evaluator::run_while(const Node& node, const std::string& file, const Place& place) {
  for (std::size_t round = 0; condition(expand_arguments(node.call.arguments, place), place); ++round) {
    if (round == most_rounds)
      fail(place, "the loop goes round more than " + text::grouped(most_rounds) + " times", "mend its condition");
    const Flow flow = run_body(node.body, file);
    if (flow == Flow::leave_loop) break;
    if (flow == Flow::leave_function) {
      flow_ = flow;
      return;
    }
    count_work(place);
  }
  flow_ = Flow::next;
}

namespace {

// foreach(NAME RANGE [start] stop [step])
Rounds range_of(const Evaluator& e, const std::vector<Word>& words, const Place& place) {
  Rounds out;
  out.variables = {words[0].text};
  long long step = 1;
  const auto number = [&](const std::string& text) {
    char* end = nullptr;
    const long long value = std::strtoll(text.c_str(), &end, 10);
    if (text.empty() || *end != '\0')
      e.fail(place, "'" + text + "' is not a number", "foreach(NAME RANGE start stop step) takes numbers");
    return value;
  };
  long long start = 0;
  long long stop = 0;
  if (words.size() == 3)
    stop = number(words[2].text);
  else if (words.size() >= 4) {
    start = number(words[2].text);
    stop = number(words[3].text);
    if (words.size() > 4) step = number(words[4].text);
  } else {
    e.fail(place, "foreach(... RANGE) needs a stop", "write foreach(NAME RANGE start stop)");
  }
  if (step == 0 || (step > 0 && start > stop) || (step < 0 && start < stop))
    e.fail(place, "the range from " + std::to_string(start) + " to " + std::to_string(stop) + " has no end",
           "mend start, stop and step");
  // In unsigned arithmetic the distance of any two numbers fits.
  const auto distance = step > 0 ? static_cast<unsigned long long>(stop) - static_cast<unsigned long long>(start)
                                 : static_cast<unsigned long long>(start) - static_cast<unsigned long long>(stop);
  const auto stride = step > 0 ? static_cast<unsigned long long>(step) : 0ULL - static_cast<unsigned long long>(step);
  if (distance / stride >= most_rounds)
    e.fail(place, "the loop would go round more than " + text::grouped(most_rounds) + " times",
           "mend start, stop and step");
  out.first = start;
  out.step = step;
  out.count = distance / stride + 1;
  out.counted = true;
  return out;
}

// foreach(NAMES... IN ZIP_LISTS lists...); the lists' names stand behind `in` + 1.
Rounds zipped(Evaluator& e, const std::vector<Word>& words, std::size_t in, const Place& place) {
  Rounds out;
  auto& variables = out.variables;
  for (std::size_t i = 0; i < in; ++i) variables.push_back(words[i].text);
  std::vector<std::vector<std::string>> lists;
  std::size_t longest = 0;
  for (std::size_t i = in + 2; i < words.size(); ++i) {
    lists.push_back(list_elements(e.value(words[i].text)));
    longest = std::max(longest, lists.back().size());
  }
  if (variables.size() == 1) {
    const std::string base = variables[0];
    variables.clear();
    for (std::size_t i = 0; i < lists.size(); ++i) variables.push_back(base + "_" + std::to_string(i));
  }
  if (variables.size() != lists.size())
    e.fail(place, "foreach(... ZIP_LISTS) needs as many variables as lists", "name one or all");
  for (std::size_t i = 0; i < longest; ++i) {
    std::vector<std::string> round;
    for (const auto& list : lists) round.push_back(i < list.size() ? list[i] : "");
    out.values.push_back(std::move(round));
  }
  return out;
}

Rounds rounds_of(Evaluator& e, const std::vector<Word>& words, const Place& place) {
  if (words.size() > 1 && words[1].text == "RANGE" && !words[1].quoted) return range_of(e, words, place);
  std::size_t in = 1;
  while (in < words.size() && !(words[in].text == "IN" && !words[in].quoted)) ++in;
  if (in + 1 < words.size() && words[in + 1].text == "ZIP_LISTS") return zipped(e, words, in, place);
  Rounds out;
  out.variables = {words[0].text};
  const bool plain = in >= words.size();
  bool lists = false;
  for (std::size_t i = plain ? 1 : in + 1; i < words.size(); ++i) {
    const bool marks = !plain && !words[i].quoted;
    if (marks && words[i].text == "LISTS") {
      lists = true;
    } else if (marks && words[i].text == "ITEMS") {
      lists = false;
    } else if (lists) {
      for (auto& element : list_elements(e.value(words[i].text))) out.values.push_back({element});
    } else {
      out.values.push_back({words[i].text});
    }
  }
  return out;
}

}  // namespace

void Evaluator::run_loop(const Node& node, const std::string& file) {
  const Place place = shown_place(file, node.call.line, node.call.column);
  if (node.call.name == "while") return run_while(node, file, place);
  const auto words = expand_arguments(node.call.arguments, place);
  if (words.empty()) fail(place, "'foreach' needs a variable", "write foreach(NAME items...)");
  const Rounds rounds = rounds_of(*this, words, place);
  std::vector<std::optional<std::string>> before;
  for (const auto& variable : rounds.variables) {
    const auto it = scope_->variables.find(variable);
    before.push_back(it == scope_->variables.end() ? std::nullopt : it->second);
  }
  Flow flow = Flow::next;
  const std::size_t count = rounds.counted ? rounds.count : rounds.values.size();
  for (std::size_t round = 0; round < count; ++round) {
    if (rounds.counted)
      set(rounds.variables[0], std::to_string(rounds.first + static_cast<long long>(round) * rounds.step));
    else
      for (std::size_t i = 0; i < rounds.variables.size(); ++i) set(rounds.variables[i], rounds.values[round][i]);
    count_work(place);
    const Loop loop{rounds.variables, rounds.values, round};
    flow = run_body(node.body, file, &loop);
    if (flow == Flow::leave_loop || flow == Flow::leave_function) break;
  }
  for (std::size_t i = 0; i < rounds.variables.size(); ++i) {
    if (before[i])
      set(rounds.variables[i], *before[i]);
    else
      scope_->variables.erase(rounds.variables[i]);
  }
  flow_ = flow == Flow::leave_function ? flow : Flow::next;
}

namespace {
bool calls_project(const Body& body) {
  return std::any_of(body.begin(), body.end(), [](const Node& node) {
    if (node.call.name == "function" || node.call.name == "macro") return false;
    return node.call.name == "project" || calls_project(node.body) ||
           std::any_of(node.branches.begin(), node.branches.end(),
                       [](const auto& branch) { return calls_project(branch.body); });
  });
}
}  // namespace

// A tree that never says project(...) is one all the same, in C and C++.
void Evaluator::begin_project(const File& file) {
  if (calls_project(file.body)) return;
  const Place place = shown_place(file.path, 1);
  warn(place, "the description does not say project(...); it is taken for one in C and C++");
  call({"project", {{"Project", false}, {"C", false}, {"CXX", false}}, place});
}

void Evaluator::run_file(const std::string& path, const Invocation& from) {
  const auto content = files::read(path);
  if (!content) fail(from, "the file '" + shown(path) + "' " + files::why_not_read(path), "check the path");
  if (list_files.size() > 200)
    fail(from, "files include each other more than 200 deep", "look for a file that includes itself");
  if (content->size() > most_file_bytes)
    fail(from, "the file '" + shown(path) + "' has " + text::size(content->size()) + ": no description has more than " +
                   text::size(most_file_bytes));
  stack_.emplace_back("read from '" + from.name + "'", from.place);
  run_text(*content, path);
  stack_.pop_back();
}

void Evaluator::run_text(const std::string& content, const std::string& path) {
  std::shared_ptr<const File> file;
  try {
    file = parse(content, path);
  } catch (const Fault& fault) {
    Problem problem = fault.problem();
    problem.place.file = shown(path);
    for (auto it = stack_.rbegin(); it != stack_.rend(); ++it)
      problem.trail.push_back(it->first + " at " + it->second.text());
    throw Fault(problem);
  }
  files_.push_back(file);
  if (files::is_file(path)) read_files.insert(path);
  list_files.push_back(path);
  const std::string old_file = value("CMAKE_CURRENT_LIST_FILE");
  const std::string old_folder = value("CMAKE_CURRENT_LIST_DIR");
  Scope* scope = scope_;
  set("CMAKE_CURRENT_LIST_FILE", path);
  set("CMAKE_CURRENT_LIST_DIR", std::filesystem::path(path).parent_path().string());
  const auto* outer = macro_arguments_;
  macro_arguments_ = nullptr;
  if (list_files.size() == 1 && directory_->parent == nullptr && !project.description.empty()) begin_project(*file);
  run_body(file->body, file->path);
  flow_ = Flow::next;
  macro_arguments_ = outer;
  scope->variables["CMAKE_CURRENT_LIST_FILE"] = old_file;
  scope->variables["CMAKE_CURRENT_LIST_DIR"] = old_folder;
  list_files.pop_back();
}

void Evaluator::run_subfolder(const std::string& source, const std::string& binary, bool in_default,
                              const Invocation& from) {
  auto folder = std::make_unique<Directory>();
  folder->source = source;
  folder->binary = binary;
  folder->parent = directory_;
  folder->in_default = in_default && (directory_ == nullptr || directory_->in_default);
  folder->scope = std::make_unique<Scope>();
  folder->scope->parent = scope_;
  if (directory_ != nullptr) {
    for (const char* inherited : {"INCLUDE_DIRECTORIES", "COMPILE_DEFINITIONS", "COMPILE_OPTIONS", "LINK_OPTIONS",
                                  "LINK_DIRECTORIES", "LINK_LIBRARIES"}) {
      if (const auto it = directory_->properties.find(inherited); it != directory_->properties.end())
        folder->properties[inherited] = it->second;
    }
  }
  Directory* outer = directory_;
  Scope* outer_scope = scope_;
  const std::string outer_level = policy_level;
  const auto outer_policies = policy_stack;
  directory_ = folder.get();
  scope_ = folder->scope.get();
  directories.push_back(std::move(folder));
  set("CMAKE_CURRENT_SOURCE_DIR", source);
  set("CMAKE_CURRENT_BINARY_DIR", binary);
  files::make_folder(binary);
  const std::string file = source + "/CMakeLists.txt";
  run_file(file, from);
  finish_directory();
  directory_ = outer;
  scope_ = outer_scope;
  policy_level = outer_level;
  policy_stack = outer_policies;
}

// What counts as it stands at the end of a folder: variables with options, and definitions of the folder.
void Evaluator::finish_directory() {
  for (std::size_t i = 0; i < directory_->deferred.size(); ++i) {
    const Deferred deferred = directory_->deferred[i];
    if (deferred.cancelled) continue;
    list_files.push_back(deferred.file);
    call({deferred.command, expand_arguments(deferred.arguments, deferred.place), deferred.place});
    list_files.pop_back();
  }
  const std::string config = text::upper(configuration());
  for (const std::size_t index : directory_->targets) {
    auto& target = project.targets[index];
    add_automatic_sources(*this, target);
    for (const auto& language : {"C", "CXX", "Fortran", "ASM", "ASM_NASM"})
      target.language_options[language] = language_flags(language);
    for (const auto& [kind, name] : {std::pair{"EXE", "EXE"}, {"SHARED", "SHARED"}, {"MODULE", "MODULE"}}) {
      target.link_variables[kind] = value(std::string("CMAKE_") + name + "_LINKER_FLAGS") + " " +
                                    value(std::string("CMAKE_") + name + "_LINKER_FLAGS_" + config);
    }
    name_result(target);
    target.link_variables["STATIC"] = value("CMAKE_STATIC_LINKER_FLAGS");
    for (const std::string key : {"C", "CXX", "Fortran"})
      target.link_variables[key + "_STANDARD_LIBRARIES"] = value("CMAKE_" + key + "_STANDARD_LIBRARIES");
    if (const auto it = directory_->properties.find("COMPILE_DEFINITIONS"); it != directory_->properties.end()) {
      auto& own = target.properties["COMPILE_DEFINITIONS"];
      own.insert(own.begin(), it->second.begin(), it->second.end());
    }
  }
}

}  // namespace coctilis::describe::listfile
