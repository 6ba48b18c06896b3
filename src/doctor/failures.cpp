// The table of failures: a pattern in what a failed step printed, and what it means.
#include <re2/re2.h>

#include "base/files.h"
#include "base/text.h"
#include "doctor/doctor.h"
#include "locate/known.h"

namespace coctilis::doctor {

namespace {

struct Case {
  const model::Plan& plan;
  const model::Step& step;
  const model::StepResult& result;
  std::string first;  // what the pattern caught
  std::string second;
};

struct Failure {
  const char* name;
  const char* pattern;  // RE2, multi-line
  model::Diagnosis (*explain)(const Case&);
};

model::Diagnosis missing_header(const Case& c) {
  model::Diagnosis out{"missing header", "the header '" + c.first + "' is in none of the include folders", {}};
  if (const std::string package = locate::package_of_header(c.first); !package.empty()) {
    out.remedy = "install it: apt-get install " + package;
    return out;
  }
  // A rule that would make it, under whatever folder?
  for (const auto& step : c.plan.steps) {
    for (const auto& output : step.outputs) {
      if (output.ends_with("/" + c.first)) {
        out.remedy = "it is generated (" + step.place.text() + "); '" + c.step.target +
                     "' neither depends on that nor has its folder";
        return out;
      }
    }
  }
  std::error_code error;
  std::size_t looked = 0;
  for (auto it = std::filesystem::recursive_directory_iterator(c.plan.tree, error);
       it != std::filesystem::recursive_directory_iterator() && looked < 200000; it.increment(error), ++looked) {
    if (it->path().string().ends_with("/" + c.first)) {
      const std::string folder = it->path().string().substr(0, it->path().string().size() - c.first.size() - 1);
      out.remedy = "the tree has it in '" + files::below(folder, c.plan.tree) + "', which is no include folder of '" +
                   c.step.target + "'";
      return out;
    }
  }
  // An include folder that is empty or not there at all is the first suspect.
  for (const auto& word : text::shell_words(c.result.command)) {
    if (!word.starts_with("-I")) continue;
    const std::string folder =
        files::absolute(word.substr(2), c.step.actions.empty() ? c.plan.tree : c.step.actions.front().folder);
    if (!files::is_below(folder, c.plan.tree) || files::is_below(folder, c.plan.kiln) ||
        std::filesystem::directory_iterator(folder, error) != std::filesystem::directory_iterator())
      continue;
    out.remedy = "its include folder '" + files::below(folder, c.plan.tree) +
                 "' is empty or not there: 'coctilis survey' tells whether that is a submodule, and how it is filled";
    return out;
  }
  out.remedy = "find the library it belongs to, and give its prefix with --with PREFIX if it is not in a usual place";
  return out;
}

model::Diagnosis missing_library(const Case& c) {
  model::Diagnosis out{"missing library", "the linker finds no library '" + c.first + "'", {}};
  const auto* known = locate::known_by_link_name(c.first);
  out.remedy = known != nullptr && !known->package.empty()
                   ? "install it: apt-get install " + known->package
                   : "install the library's development files, or give its prefix with --with PREFIX";
  return out;
}

model::Diagnosis undefined_reference(const Case& c) {
  model::Diagnosis out{
      "undefined reference", "'" + c.first + "' is used but no object or library on the link line defines it", {}};
  out.remedy = "add the source or the library that defines it to '" + c.step.target + "' (" + c.step.place.text() + ")";
  return out;
}

model::Diagnosis not_on_link_line(const Case& c) {
  const std::string file = std::filesystem::path(c.first).filename().string();
  std::string name = file.substr(0, file.find(".so"));
  if (name.starts_with("lib")) name.erase(0, 3);
  return {"library not on the link line", "what is used is in '" + file + "', which is not on the link line",
          "link '" + name + "' to '" + c.step.target + "' (" + c.step.place.text() + ")"};
}

model::Diagnosis multiple_definition(const Case& c) {
  return {"multiple definition", "'" + c.first + "' is defined more than once",
          "keep one of the definitions, or make it static or inline"};
}

model::Diagnosis not_position_independent(const Case&) {
  return {"not position independent", "an object that is linked into a shared library was compiled without -fPIC",
          "set POSITION_INDEPENDENT_CODE for the target it comes from"};
}

model::Diagnosis missing_command(const Case& c) {
  model::Diagnosis out{"missing command", "the program '" + c.first + "' is not there", {}};
  const std::string package = locate::package_of_program(c.first);
  out.remedy = package.empty() ? "install it, or put its folder on PATH" : "install it: apt-get install " + package;
  return out;
}

model::Diagnosis disk_full(const Case&) {
  return {"disk full", "there is no room left on the disk", "make room, or choose another disk with --kiln DIR"};
}

model::Diagnosis out_of_memory(const Case&) {
  return {"out of memory", "the compiler was stopped, most likely because memory ran out",
          "run fewer steps at once: -j 1"};
}

model::Diagnosis unknown_option(const Case& c) {
  return {"unknown option", "the compiler does not know the option '" + c.first + "'",
          "choose another tool chain with --toolchain, or take the option out of the description"};
}

const std::vector<Failure>& failures() {
  static const std::vector<Failure> table = {
      {"missing header", R"((?m)fatal error: '?([^\s':]+)'?(?:: No such file or directory| file not found))",
       missing_header},
      {"missing library", R"((?m)(?:cannot find -l|unable to find library -l)(?::)?([^\s:]+))", missing_library},
      {"not position independent", R"((?m)(recompile with -f(?:PIC|PIE)))", not_position_independent},
      {"library not on the link line", R"((?m)(\S+): error adding symbols: DSO missing from command line)",
       not_on_link_line},
      {"undefined reference", R"((?m)undefined reference to [`']([^'\n]+)')", undefined_reference},
      {"multiple definition", R"((?m)multiple definition of [`']([^'\n]+)')", multiple_definition},
      {"disk full", R"((?m)(No space left on device))", disk_full},
      {"out of memory", R"((?m)((?:Killed signal terminated program)|(?:out of memory)|(?:cannot allocate memory)))",
       out_of_memory},
      {"missing command", R"((?m)(?:sh: \d+: |bash: line \d+: |^)([A-Za-z0-9_.+-]+): (?:command )?not found)",
       missing_command},
      {"unknown option", R"((?m)(?:unrecognized command-line option|unknown argument:?) [‘'"]([^’'"\n]+))",
       unknown_option},
  };
  return table;
}

}  // namespace

std::vector<model::Diagnosis> diagnose(const model::Plan& plan, const model::Step& step,
                                       const model::StepResult& result) {
  std::vector<model::Diagnosis> out;
  const std::string output = text::printable(result.output);
  for (const auto& failure : failures()) {
    RE2::Options options;
    options.set_log_errors(false);
    const RE2 pattern(failure.pattern, options);
    Case found{plan, step, result, {}, {}};
    if (RE2::PartialMatch(output, pattern, &found.first)) out.push_back(failure.explain(found));
  }
  if (out.empty() && result.end.find("could not be started: No such file") != std::string::npos &&
      !result.command.empty()) {
    const auto words = text::shell_words(result.command);
    Case found{plan, step, result, words.empty() ? "" : words.front(), {}};
    out.push_back(missing_command(found));
  }
  if (out.empty() && result.refused)
    out.push_back(
        {"writing elsewhere", "it wanted to write outside of the kiln, which commands of a tree may not",
         "what installs is for 'coctilis stage'; another place for its results may be an option of the tree"});
  if (out.empty() && result.end.find("signal 9") != std::string::npos)
    out.push_back(out_of_memory({plan, step, result, {}, {}}));
  return out;
}

}  // namespace coctilis::doctor
