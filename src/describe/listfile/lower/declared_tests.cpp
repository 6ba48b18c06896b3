#include "describe/listfile/lower/declared_tests.h"

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"

namespace coctilis::describe::listfile {


using model::TargetKind;

std::vector<model::TestCase> lower_tests(const Declared& project, const Artifacts& artifacts,
                                           const Expressions& expressions) {
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
    planned.sets_up = values("FIXTURES_SETUP");
    planned.requires_ = values("FIXTURES_REQUIRED");
    planned.cleans_up = values("FIXTURES_CLEANUP");
    // "NAME=OPERATION:VALUE" with set, unset, and putting before or behind what is there.
    for (const auto& entry : values("ENVIRONMENT_MODIFICATION")) {
      const auto equals = entry.find('=');
      const auto colon = entry.find(':', equals == std::string::npos ? 0 : equals);
      if (equals == std::string::npos || colon == std::string::npos) continue;
      const std::string name = entry.substr(0, equals);
      const std::string operation = entry.substr(equals + 1, colon - equals - 1);
      const std::string value = entry.substr(colon + 1);
      const char* outer = std::getenv(name.c_str());
      const auto known = planned.environment.find(name);
      const std::string before = known != planned.environment.end() ? known->second.value_or("")
                                 : outer == nullptr                 ? ""
                                                                    : outer;
      const std::string divider = operation.starts_with("path_list")    ? ":"
                                  : operation.starts_with("cmake_list") ? ";"
                                                                        : "";
      if (operation == "set")
        planned.environment[name] = value;
      else if (operation == "unset")
        planned.environment[name] = std::nullopt;
      else if (operation == "reset")
        planned.environment.erase(name);
      else if (operation.ends_with("append"))
        planned.environment[name] = before.empty() ? value : before + divider + value;
      else if (operation.ends_with("prepend"))
        planned.environment[name] = before.empty() ? value : value + divider + before;
    }
    planned.pass_patterns = values("PASS_REGULAR_EXPRESSION");
    planned.fail_patterns = values("FAIL_REGULAR_EXPRESSION");
    planned.skip_patterns = values("SKIP_REGULAR_EXPRESSION");
    if (const auto code = values("SKIP_RETURN_CODE"); !code.empty())
      planned.skip_code = std::atoi(code.front().c_str());
    for (const auto& file : values("REQUIRED_FILES"))
      planned.needs_files.push_back(files::absolute(file, planned.folder));
    out.push_back(std::move(planned));
  }
  return out;
}

}  // namespace coctilis::describe::listfile
