// The table of failures: a pattern in what a failed step printed, and what it means.
#include <re2/re2.h>

#include <algorithm>

#include "base/confine.h"
#include "base/disk.h"
#include "base/files.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "describe/script/arguments.h"
#include "doctor/case.h"
#include "doctor/limits.h"

namespace coctilis::doctor {

std::string how_to_install(const Case& c, const std::string& package, const std::string& otherwise) {
  if (package.empty()) return otherwise;
  const auto advice = locate::advice_for(package, c.packages);
  return advice.command.empty() ? advice.reason : "install it: " + advice.command;
}

const model::Step* maker_of(const model::Plan& plan, const std::string& name) {
  for (const auto& step : plan.steps) {
    for (const auto* list : {&step.outputs, &step.byproducts}) {
      for (const auto& output : *list) {
        if (output == name || output.ends_with("/" + name)) return &step;
      }
    }
  }
  return nullptr;
}

namespace {

struct Failure {
  const char* name;
  const char* pattern;  // RE2, multi-line
  Explanation (*explain)(const Case&);
};

Explanation missing_java_package(const Case& c) {
  return {
      "missing package of Java", "no archive that it is compiled with has the package " + c.first,
      "put the archive that has it into lib/ of the tree, or say where it is with --with PREFIX; Debian's packages of "
      "Java are called lib...-java"};
}

Explanation disk_full(const Case&) { return {"disk full", "there is no room left on the disk", remedy_for_full_disk}; }

Explanation out_of_memory(const Case&) {
  return {"out of memory", "the compiler was stopped, most likely because memory ran out",
          "run fewer parallel jobs: -j 1"};
}

// What commands of a tree do not get: the network, and devices that may do harm.
Explanation no_network(const Case& c) {
  if (!sandbox::why_not().empty() || sandbox::allowed().network) return {};
  const auto address = refused_address(c.result.output, c.result.command);
  if (address.empty()) return {};
  return {"no network", "it wanted to reach the network, which commands of a tree do not get: " + address,
          "bring in beforehand what it loads; or allow it: network = true in [sandbox] of coctilis.toml, or --trust"};
}

Explanation no_device(const Case& c) {
  const auto& devices = sandbox::allowed().devices;
  const bool allowed =
      std::any_of(devices.begin(), devices.end(), [&](const auto& one) { return files::is_below(c.first, one); });
  if (!sandbox::why_not().empty() || allowed || !files::exists(c.first)) return {};
  return {"no device", "it wanted to use " + c.first + ": commands of a tree get harmless devices only",
          "allow it: devices = [\"" + c.first + "\"] in [sandbox] of coctilis.toml, with --trust"};
}

Explanation unknown_option(const Case& c) {
  return {"unknown option", "the compiler does not know the option '" + c.first + "'",
          "choose another tool chain with --toolchain, or take the option out of the description"};
}

// A script of the tree that only told how it is called.
Explanation wants_arguments(const Case& c) {
  if (c.result.command.find(" run-watched ") == std::string::npos) return {};
  const std::string usage = describe::script::usage_in(c.result.output);
  if (usage.empty()) return {};
  return {"wants arguments",
          "the script wants to be called with words, and says: " + text::replace_all(usage, "\n", " | "),
          "give them in coctilis.toml: arguments = [\"...\"] in [tree]"};
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
      {"missing package of Java", R"((?m)error: package ([\w.]+) does not exist)", missing_java_package},
      {"disk full", R"((?m)(No space left on device))", disk_full},
      {"out of memory", R"((?m)((?:Killed signal terminated program)|(?:out of memory)|(?:cannot allocate memory)))",
       out_of_memory},
      {"limit of memory", took_too_much_memory, [](const Case&) { return too_much_memory(); }},
      {"limit of time", took_too_long, [](const Case&) { return too_long(); }},
      {"limit of a file's size", wrote_too_much, [](const Case&) { return file_too_large(); }},
      {"missing module", R"((?m)Cannot open module file [‘'"]([^’'"\n]+)\.mod)", missing_module},
      {"modules in a circle", R"((?m)^(modules use each other in a circle))", modules_in_circle},
      {"module defined twice", R"((?m)^the module '([^'\n]+)' is defined twice)", module_defined_twice},
      {"missing command", R"((?m)(?:sh: \d+: |bash: line \d+: |^)([A-Za-z0-9_.+-]+): (?:command )?not found)",
       missing_command},
      {"missing command", R"((?m)sh: (?:line )?\d+: (\S*/\S+): (?:not found|No such file or directory))",
       missing_command},
      {"missing interpreter", R"((?m)([^\s:]+): \S+: bad interpreter: No such file or directory)", missing_interpreter},
      {"missing interpreter", R"((?m)env: (?:[‘'"]|)([^’'"\n:]+?)(?:[’'"]|): No such file or directory)",
       missing_interpreter},
      {"no right to run it", R"((?m)sh: (?:line )?\d+: ([^\s:]+): Permission denied)", command_without_right},
      {"unreadable file", R"((?m)(?:fatal error: )?'?([^\s':]+)'?: Permission denied)", unreadable_file},
      {"no network", R"((?mi)(connect|resol|unreachable|name or service|no address|no route))", no_network},
      {"no device", R"((?m)(/dev/[A-Za-z0-9/_.-]*[A-Za-z0-9]).*No such (?:file|device))", no_device},
      {"wants arguments", R"((?mi)\b(usage|syntax)\b)", wants_arguments},
      {"unknown option", R"((?m)(?:unrecognized command-line option|unknown argument:?) [‘'"]([^’'"\n]+))",
       unknown_option},
  };
  return table;
}

}  // namespace

std::vector<model::Diagnosis> diagnose(const model::Plan& plan, const model::Step& step,
                                       const model::StepResult& result) {
  std::vector<model::Diagnosis> out;
  locate::Packages packages;
  const std::string output = text::printable(result.output);
  const auto add = [&](Explanation (*explain)(const Case&), const std::string& first) {
    Explanation said = explain({plan, step, result, packages, first, {}});
    const bool known = std::any_of(out.begin(), out.end(), [&](const auto& d) { return d.failure == said.failure; });
    if (!said.failure.empty() && !known) out.push_back(std::move(said));
  };
  for (const auto& failure : failures()) {
    RE2::Options options;
    options.set_log_errors(false);
    const RE2 pattern(failure.pattern, options);
    std::string first;
    if (RE2::PartialMatch(output, pattern, &first)) add(failure.explain, first);
  }
  const auto words = text::shell_words(result.command);
  const std::string program = words.empty() ? "" : words.front();
  if (out.empty() && !program.empty()) {
    if (result.end.find("could not be started: No such file") != std::string::npos) add(missing_command, program);
    if (result.end.find("could not be started: Permission denied") != std::string::npos)
      add(command_without_right, program);
  }
  if (out.empty() && result.end.ends_with(" is made by two steps")) add(made_by_two, {});
  if (out.empty() && result.end.ends_with(" cannot be read"))
    out.push_back({"unreadable file", "this user may not read it", "give yourself the right to read it"});
  const std::string place = refused_path(output);
  // A compiler that tells of errors in what it read was not kept from anything.
  static const RE2 in_sources(R"((?m)^\S+(?::\d+(?::\d+)?|\(\d+(?:,\d+)?\)): (?:fatal )?error\b)");
  if (out.empty() && result.refused && !RE2::PartialMatch(output, in_sources))
    out.push_back(
        {"writing elsewhere",
         "it wanted to write outside of the kiln, which commands of a tree may not" +
             (place.empty() ? "" : ": " + place),
         "what installs is for 'coctilis stage'; another place for its results may be an option of the tree"});
  if (out.empty() && result.end.find("signal 9") != std::string::npos) add(out_of_memory, {});
  return out;
}

}  // namespace coctilis::doctor
