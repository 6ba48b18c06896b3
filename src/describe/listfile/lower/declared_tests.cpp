#include "describe/listfile/lower/declared_tests.h"

#include "base/file_operations.h"
#include "base/files.h"
#include "base/lists.h"
#include "base/own_program.h"
#include "base/text.h"
#include "describe/listfile/tool.h"
#include "describe/readers.h"

namespace coctilis::describe::listfile::lower {

using model::TargetKind;

namespace {

// Whether the words name the description's tool somewhere behind the program.
bool hands_on_tool(const std::vector<std::string>& argv) {
  return std::find(argv.begin() + 1, argv.end(), tool_word) != argv.end();
}

// What the description's own tool does for a test this program does; other programs that build are not run.
void settle_command(model::TestCase& test, const Declared& project, const std::string& output_root) {
  auto& argv = test.command;
  const auto surroundings = take_surroundings(argv, test.folder);
  test.folder = surroundings.folder;
  for (const auto& [name, value] : surroundings.environment) test.environment[name] = value;
  if (argv.empty()) argv = {"true"};
  if (argv[0] == tool_word && std::find(argv.begin(), argv.end(), "-P") != argv.end()) {
    std::vector<std::string> call = {own_program(), "run-script", "--tree", project.tree,
                                     "--output",    output_root,  "--"};
    call.insert(call.end(), argv.begin() + 1, argv.end());
    argv = std::move(call);
    test.own_script = true;
  } else if (is_build_program(argv[0]) && !files::is_below(argv[0], project.binary_root)) {
    test.not_followed = "it runs a build program, which is never started";
  } else if (hands_on_tool(argv)) {
    test.not_followed = "it is to run the description's tool or a make program, which are never started";
  } else if (argv[0] == tool_word) {
    if (argv.size() < 3 || argv[1] != "-E" || !files::is_operation(argv[2])) {
      test.not_followed = "it asks the description's tool for what is not understood yet";
      return;
    }
    argv.erase(argv.begin(), argv.begin() + 2);
    test.operation = true;
  }
}

// "NAME=OPERATION:VALUE" with set, unset, and putting before or behind what is there.
void modify_environment(model::TestCase& test, const std::string& entry) {
  const auto equals = entry.find('=');
  const auto colon = entry.find(':', equals == std::string::npos ? 0 : equals);
  if (equals == std::string::npos || colon == std::string::npos) return;
  const std::string name = entry.substr(0, equals);
  const std::string operation = entry.substr(equals + 1, colon - equals - 1);
  const std::string value = entry.substr(colon + 1);
  const char* outer = std::getenv(name.c_str());
  const auto known = test.environment.find(name);
  const std::string before = known != test.environment.end() ? known->second.value_or("")
                             : outer == nullptr              ? ""
                                                             : outer;
  const std::string divider = operation.starts_with("path_list") ? ":" : operation.starts_with("cmake_list") ? ";" : "";
  if (operation == "set")
    test.environment[name] = value;
  else if (operation == "unset")
    test.environment[name] = std::nullopt;
  else if (operation == "reset")
    test.environment.erase(name);
  else if (operation.ends_with("append"))
    test.environment[name] = before.empty() ? value : before + divider + value;
  else if (operation.ends_with("prepend"))
    test.environment[name] = before.empty() ? value : value + divider + before;
}

}  // namespace

std::vector<model::TestCase> lower_tests(const Declared& project, const Artifacts& artifacts,
                                         const Expressions& expressions, const std::string& output_root) {
  std::vector<model::TestCase> out;
  for (const auto& test : project.tests) {
    model::TestCase planned;
    planned.name = test.name;
    planned.place = test.place;
    ExpressionContext here;
    here.place = test.place;
    const auto values = [&](const char* name) {
      const auto it = test.properties.find(name);
      return it == test.properties.end() ? std::vector<std::string>{} : expressions.evaluate(it->second, here);
    };
    if (const auto only = values("CONFIGURATIONS"); !only.empty()) {
      if (std::none_of(only.begin(), only.end(),
                       [&](const auto& c) { return text::lower(c) == text::lower(project.configuration); }))
        continue;
    }
    std::vector<std::string> named;
    auto in_command = here;
    in_command.named_targets = &named;
    for (const auto& word : test.command) {
      const std::string text = expressions.evaluate(word.text, in_command);
      if (text.empty() && !word.text.empty()) continue;
      planned.command.push_back(text);
    }
    if (planned.command.empty()) continue;
    if (const Target* target = project.target(planned.command.front());
        target != nullptr && target->kind == TargetKind::program) {
      planned.program = target->name;
      planned.command.front() = artifacts.of(*target).file;
    } else if (const Target* maker = artifacts.maker(files::absolute(planned.command.front(), test.folder))) {
      planned.program = maker->name;
    } else if (const auto beside = files::absolute(planned.command.front(), test.folder); files::is_file(beside)) {
      // A script that the description wrote to its folder is meant before one on PATH.
      planned.command.front() = beside;
    }
    // What a driver of tests is told to run may be none of the default targets.
    for (const auto& name : named) {
      const Target* target = project.target(name);
      if (target != nullptr && !target->imported && !artifacts.of(*target).file.empty())
        planned.needs_files.push_back(artifacts.of(*target).file);
    }
    planned.folder = expressions.evaluate(test.folder, here);
    if (const auto folder = values("WORKING_DIRECTORY"); !folder.empty())
      planned.folder = files::absolute(folder.front(), test.folder);
    for (const auto& entry : values("ENVIRONMENT")) {
      const auto equals = entry.find('=');
      if (equals != std::string::npos) planned.environment[entry.substr(0, equals)] = entry.substr(equals + 1);
    }
    if (const auto limit = values("TIMEOUT"); !limit.empty()) planned.limit_seconds = std::atof(limit.front().c_str());
    if (const auto fails = values("WILL_FAIL"); !fails.empty()) planned.will_fail = !is_false(fails.front());
    if (const auto disabled = values("DISABLED"); !disabled.empty()) planned.disabled = !is_false(disabled.front());
    planned.after = values("DEPENDS");
    if (const auto alone = values("RUN_SERIAL"); !alone.empty()) planned.alone = !is_false(alone.front());
    planned.locks = values("RESOURCE_LOCK");
    if (const auto jobs = values("PROCESSORS"); !jobs.empty())
      planned.jobs = static_cast<unsigned>(std::clamp(std::atoi(jobs.front().c_str()), 1, 4096));
    if (const auto cost = values("COST"); !cost.empty()) planned.cost = std::atof(cost.front().c_str());
    planned.sets_up = values("FIXTURES_SETUP");
    planned.requires_ = values("FIXTURES_REQUIRED");
    planned.cleans_up = values("FIXTURES_CLEANUP");
    for (const auto& entry : values("ENVIRONMENT_MODIFICATION")) modify_environment(planned, entry);
    planned.pass_patterns = values("PASS_REGULAR_EXPRESSION");
    planned.fail_patterns = values("FAIL_REGULAR_EXPRESSION");
    planned.skip_patterns = values("SKIP_REGULAR_EXPRESSION");
    if (const auto code = values("SKIP_RETURN_CODE"); !code.empty())
      planned.skip_code = std::atoi(code.front().c_str());
    for (const auto& file : values("REQUIRED_FILES"))
      planned.needs_files.push_back(files::absolute(file, planned.folder));
    settle_command(planned, project, output_root);
    out.push_back(std::move(planned));
  }
  return out;
}

}  // namespace coctilis::describe::listfile::lower
