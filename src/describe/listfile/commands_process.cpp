// execute_process: programs that a description runs while it is read.
#include "base/file_operations.h"
#include "base/files.h"
#include "base/lists.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/inner_tree.h"
#include "describe/listfile/tool.h"
#include "describe/readers.h"
#include "locate/pc_file.h"

namespace coctilis::describe::listfile {

namespace {

struct How {
  bool merge_errors = false;
  double limit_seconds = 600;
  std::string input;  // a file that the first command reads
};
struct Done {
  std::string output;
  std::string errors;
  std::string result;  // the exit status, or why there is none
  bool good = false;
  bool started = true;
};

// An operation of the description's own tool.
Done run_tool(Evaluator& e, const Invocation& i, const std::vector<std::string>& command,
              const Surroundings& surroundings) {
  Done out;
  int status = 0;
  const auto before = e.environment;
  for (const auto& [name, value] : surroundings.environment) e.environment[name] = value;
  if (!run_description_tool(e, command, surroundings.folder, i, out.output, status))
    e.not_understood(i, i.name + " running '" + text::join(command, " ") + "'");
  e.environment = before;
  out.result = std::to_string(status);
  out.good = status == 0;
  return out;
}

Done run_commands(Evaluator& e, const Invocation& i, const std::vector<std::vector<std::string>>& given,
                  const std::string& folder, const How& how);

// Commands among which are operations of the tool: one after the other, the output of each kept for the next.
Done run_in_turn(Evaluator& e, const Invocation& i, const std::vector<std::vector<std::string>>& commands,
                 const std::string& folder, How how) {
  const files::ScratchFolder scratch("input");
  const std::string kept = (scratch.path() / "output").string();
  Done out;
  std::string errors;
  for (const auto& command : commands) {
    out = run_commands(e, i, {command}, folder, how);
    errors += out.errors;
    files::write(kept, out.output);
    how.input = kept;
  }
  out.errors = errors;
  return out;
}

// Runs commands, the output of each going to the next; those of the description's own tool are done here.
Done run_commands(Evaluator& e, const Invocation& i, const std::vector<std::vector<std::string>>& given,
                  const std::string& folder, const How& how) {
  std::vector<std::vector<std::string>> commands = given;
  Done out;
  std::vector<Surroundings> surroundings;
  bool tools = false;
  for (auto& command : commands) {
    surroundings.push_back(take_surroundings(command, folder));
    if (command.empty()) e.fail(i, "a command has no program to run", "the tool's operation changes what it runs in");
    if (command.front().starts_with("--"))
      e.not_understood(i, "'" + command.front() + "' of the operation 'env' of the tool in a command");
    tools = tools || command.front() == tool_word;
    // One that is not here cannot be started in any case: the description gets to know that.
    if (is_build_program(command.front()) && !find_program(command.front()).empty())
      e.not_understood(i, i.name + " running '" + command.front() + "', a build program of its own");
  }
  if (tools && commands.size() == 1) return run_tool(e, i, commands.front(), surroundings.front());
  if (tools) return run_in_turn(e, i, given, folder, how);
  coctilis::Command process;
  if (commands.size() == 1 && how.input.empty()) {
    process.argv = commands.front();
  } else {
    std::string line;
    for (std::size_t k = 0; k < commands.size(); ++k) {
      std::vector<std::string> words = {"env"};
      if (k > 0 && surroundings[k].folder != surroundings.front().folder)
        words.insert(words.end(), {"-C", surroundings[k].folder});
      for (const auto& [name, value] : surroundings[k].environment) {
        if (value)
          words.push_back(name + "=" + *value);
        else
          words.insert(words.begin() + 1, {"-u", name});
      }
      if (words.size() == 1) words.clear();
      words.insert(words.end(), commands[k].begin(), commands[k].end());
      line += (line.empty() ? "" : " | ") + text::shell_join(words);
      if (k == 0 && !how.input.empty()) line += " <" + text::shell_quote(how.input);
    }
    process.argv = {"/bin/sh", "-c", line};
  }
  process.folder = surroundings.front().folder;
  process.merge_errors = how.merge_errors;
  process.limit_seconds = how.limit_seconds;
  process.writable = e.confinement().writable;
  for (const auto& [name, value] : e.confinement().environment) process.environment[name] = value;
  for (const auto& [name, value] : e.environment) process.environment[name] = value;
  if (commands.size() == 1) {
    for (const auto& [name, value] : surroundings.front().environment) process.environment[name] = value;
  }
  process.output_limit = most_text_bytes;
  const Ended ended = observe::run(process);
  if (ended.truncated)
    e.fail(i, "'" + text::join(commands.front(), " ") + "' says more than " + text::size(most_text_bytes),
           "look for a command without end");
  if (tells_of_refused_writing(ended.output, e.tree) || tells_of_refused_writing(ended.errors, e.tree))
    e.kept_from_writing("'" + text::join(commands.front(), " ") + "' writes", i.place);
  out.output = ended.output;
  out.errors = ended.errors;
  out.started = ended.how != Ended::How::not_started;
  out.result = ended.how == Ended::How::exited ? std::to_string(ended.code) : ended.text();
  if (!out.started) out.result = "No such file or directory";
  out.good = ended.good();
  return out;
}

void command_execute_process(Evaluator& e, const Invocation& i) {
  static const std::set<std::string> one = {"WORKING_DIRECTORY", "TIMEOUT",         "RESULT_VARIABLE",
                                            "RESULTS_VARIABLE",  "OUTPUT_VARIABLE", "ERROR_VARIABLE",
                                            "INPUT_FILE",        "OUTPUT_FILE",     "ERROR_FILE",
                                            "COMMAND_ECHO",      "ENCODING",        "COMMAND_ERROR_IS_FATAL"};
  static const std::set<std::string> flags = {"OUTPUT_QUIET",
                                              "ERROR_QUIET",
                                              "OUTPUT_STRIP_TRAILING_WHITESPACE",
                                              "ERROR_STRIP_TRAILING_WHITESPACE",
                                              "ECHO_OUTPUT_VARIABLE",
                                              "ECHO_ERROR_VARIABLE"};
  std::map<std::string, std::string> values;
  std::set<std::string> set;
  std::vector<std::vector<std::string>> commands;
  for (std::size_t k = 0; k < i.size(); ++k) {
    const std::string& word = i[k];
    if (word == "COMMAND")
      commands.emplace_back();
    else if (one.contains(word) && k + 1 < i.size())
      values[word] = i[++k];
    else if (flags.contains(word))
      set.insert(word);
    else if (!commands.empty())
      commands.back().push_back(word);
    else
      e.fail(i, "'" + word + "' is not expected in execute_process(...)");
  }
  std::erase_if(commands, [](const auto& c) { return c.empty(); });
  if (commands.empty()) return;
  const std::string folder =
      values["WORKING_DIRECTORY"].empty() ? e.directory().binary : e.source_path(values["WORKING_DIRECTORY"]);
  How how;
  how.merge_errors = !values["ERROR_VARIABLE"].empty() && values["ERROR_VARIABLE"] == values["OUTPUT_VARIABLE"];
  if (!values["TIMEOUT"].empty()) how.limit_seconds = std::max(0.1, std::atof(values["TIMEOUT"].c_str()));
  if (!values["INPUT_FILE"].empty()) how.input = e.source_path(values["INPUT_FILE"]);
  auto [output, errors, result, good, started] = run_commands(e, i, commands, folder, how);
  const auto stripped = [](std::string text) {
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.back())) != 0) text.pop_back();
    return text;
  };
  if (set.contains("OUTPUT_STRIP_TRAILING_WHITESPACE")) output = stripped(output);
  if (set.contains("ERROR_STRIP_TRAILING_WHITESPACE")) errors = stripped(errors);
  if (!values["OUTPUT_FILE"].empty()) {
    const std::string path = e.writable(files::absolute(values["OUTPUT_FILE"], folder), i.place);
    files::write_if_different(path, output);
  }
  if (!values["OUTPUT_VARIABLE"].empty()) e.set(values["OUTPUT_VARIABLE"], output);
  if (!values["ERROR_VARIABLE"].empty() && values["ERROR_VARIABLE"] != values["OUTPUT_VARIABLE"])
    e.set(values["ERROR_VARIABLE"], errors);
  for (const char* name : {"RESULT_VARIABLE", "RESULTS_VARIABLE"}) {
    if (!values[name].empty()) e.set(values[name], result);
  }
  if (!values["COMMAND_ERROR_IS_FATAL"].empty() && !good) {
    e.fail(i.place, "the command '" + text::printable_line(text::shell_join(commands.front())) + "' failed: " + result,
           "the description wants it to succeed", text::printable(errors.empty() ? output : errors));
  }
}

// The older form: one command line, whose output is one text.
void command_exec_program(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "exec_program(PROGRAM [FOLDER] [ARGS words...])");
  const auto words = keywords(i.texts(1), {}, {"OUTPUT_VARIABLE", "RETURN_VALUE"}, {"ARGS"});
  std::vector<std::string> command = text::shell_words(i[0]);
  for (const auto& word : words.list("ARGS")) {
    for (auto& part : text::shell_words(word)) command.push_back(std::move(part));
  }
  if (command.empty()) e.fail(i, "exec_program(...) names no program", "a variable for it may be empty");
  const std::string folder = words.rest.empty() ? e.directory().binary : e.source_path(words.rest.front());
  const auto done = run_commands(e, i, {command}, folder, {true, 600, {}});
  const auto first = done.output.find_first_not_of(" \n\t\r");
  const std::string output = first == std::string::npos
                                 ? std::string{}
                                 : done.output.substr(first, done.output.find_last_not_of(" \n\t\r") - first + 1);
  if (!words.get("OUTPUT_VARIABLE").empty()) e.set(words.get("OUTPUT_VARIABLE"), output);
  if (!words.get("RETURN_VALUE").empty()) e.set(words.get("RETURN_VALUE"), done.started ? done.result : "-1");
}

// Questions about .pc modules, as descriptions put them to a program for that: answered from the files.
bool answer_module_query(Evaluator& e, const std::vector<std::string>& words, std::string& output, int& status) {
  static const std::set<std::string> known = {
      "--exists",       "--modversion",   "--cflags",         "--cflags-only-I",   "--cflags-only-other",
      "--libs",         "--libs-only-l",  "--libs-only-L",    "--libs-only-other", "--static",
      "--print-errors", "--short-errors", "--silence-errors", "--errors-to-stdout"};
  std::set<std::string> asked;
  std::string variable;
  std::vector<std::string> modules;
  for (std::size_t k = 1; k < words.size(); ++k) {
    if (words[k].starts_with("--variable="))
      variable = words[k].substr(11);
    else if (words[k] == "--variable" && k + 1 < words.size())
      variable = words[++k];
    else if (known.contains(words[k]))
      asked.insert(words[k]);
    else if (words[k].starts_with("-"))
      return false;
    else
      modules.push_back(words[k]);
  }
  const auto& settings = e.locator.settings();
  const auto search = locate::pc_search(settings.prefixes, e.locator.toolchain().machine, settings.sysroot);
  status = 0;
  std::vector<std::string> out;
  const auto requirements = locate::pc_requirements(text::join(modules, " "));
  for (const auto& requirement : requirements) {
    if (variable == "pc_path") {
      out.push_back(text::join(search.folders, ":"));
      continue;
    }
    const auto module = locate::find_pc(requirement, search, asked.contains("--static"));
    if (!module.found || !module.problem.empty()) {
      status = 1;
      continue;
    }
    if (!variable.empty()) {
      const auto it = module.file.variables.find(variable);
      out.push_back(it == module.file.variables.end() ? "" : it->second);
    }
    if (asked.contains("--modversion")) out.push_back(module.file.version);
    if (asked.contains("--cflags") || asked.contains("--cflags-only-I")) {
      for (const auto& folder : module.usage.include_folders) out.push_back("-I" + folder);
    }
    if (asked.contains("--cflags") || asked.contains("--cflags-only-other")) {
      for (const auto& definition : module.usage.definitions) out.push_back("-D" + definition);
      for (const auto& option : module.usage.compile_options) out.push_back(option);
    }
    if (asked.contains("--libs") || asked.contains("--libs-only-L")) {
      for (const auto& folder : module.usage.link_folders) out.push_back("-L" + folder);
    }
    for (const auto& item : module.usage.link_items) {
      const bool name = item.starts_with("-l");
      if (asked.contains("--libs") || asked.contains(name ? "--libs-only-l" : "--libs-only-other")) out.push_back(item);
    }
  }
  output = text::join(out, " ") + (out.empty() ? "" : "\n");
  return true;
}

}  // namespace

bool run_description_tool(Evaluator& e, const std::vector<std::string>& words, const std::string& folder,
                          const Invocation& i, std::string& output, int& status) {
  if (words.size() < 2 || words[0] != tool_word) return false;
  InnerCall call;
  if (understand_inner({words.begin() + 1, words.end()}, folder, call)) {
    const auto done = run_inner(e, i, call);
    output += done.output;
    status = done.status;
    return true;
  }
  // Trees ask which level of the language is spoken.
  if (words.size() == 2 && (words[1] == "--version" || words[1] == "-version" || words[1] == "-V")) {
    output += std::string("cmake version ") + language_level + "\n";
    status = 0;
    return true;
  }
  if (words.size() < 3) return false;
  if (const auto script = script_call({words.begin() + 1, words.end()})) {
    if (e.script_depth >= 20)
      e.fail(i, "scripts run each other more than 20 deep", "look for a script that runs itself");
    Evaluator inner(e.locator, e.survey, e.binary_root);
    inner.script_depth = e.script_depth + 1;
    inner.in_copy = e.in_copy;
    inner.environment = e.environment;
    try {
      for (const auto& line :
           inner.run_script(files::absolute(script->file, folder), folder, script->definitions, script->arguments))
        output += line + "\n";
      status = 0;
    } catch (const Fault& fault) {
      output += fault.problem().place.text() + ": " + fault.problem().what + "\n";
      status = 1;
    }
    return true;
  }
  if (words[1] != "-E") return answer_module_query(e, words, output, status);
  if (!files::is_operation(words[2])) e.not_understood(i, "the operation '" + words[2] + "' of the tool in a command");
  // These tell what they look at and write; the others change what is there in ways of their own.
  static const std::set<std::string> told = {
      "copy", "copy_if_different", "make_directory", "echo", "echo_append", "touch", "compare_files", "cat", "true",
      "false"};
  if (!told.contains(words[2]) && !words[2].ends_with("sum")) observe::spoil("'" + words[2] + "' was run");
  status = files::run_operation({words.begin() + 2, words.end()}, folder,
                                e.in_copy ? kiln_of(e.binary_root) : e.binary_root, output);
  if (output.find(outside_output_folder) != std::string::npos)
    e.kept_from_writing("'" + text::join({words.begin() + 2, words.end()}, " ") + "' writes", i.place);
  return true;
}

void add_process_commands(CommandTable& table) {
  table["execute_process"] = command_execute_process;
  table["exec_program"] = command_exec_program;
}

}  // namespace coctilis::describe::listfile
