// How programs that a check ran came to their end: not begun, crashed, or still running.
#include <elf.h>
#include <signal.h>

#include <cerrno>
#include <cstring>

#include "base/elf.h"
#include "base/files.h"
#include "base/text.h"
#include "doctor/checks.h"
#include "doctor/limits.h"
#include "locate/known.h"

namespace coctilis::doctor {

namespace {

// Where a shared library of that name lies: in the tree's own folders, else somewhere in the kiln. Empty: nowhere.
std::string place_of_library(const CheckCase& c, const std::string& name) {
  for (const auto& folder : c.library_folders) {
    if (files::exists(folder + "/" + name)) return folder;
  }
  std::error_code error;
  std::size_t seen = 0;
  for (auto it = std::filesystem::recursive_directory_iterator(
           c.plan.kiln, std::filesystem::directory_options::skip_permission_denied, error);
       !error && it != std::filesystem::recursive_directory_iterator() && seen < 200000; it.increment(error), ++seen) {
    if (it->path().filename() == name) return it->path().parent_path().string();
  }
  return {};
}

}  // namespace

CheckDiagnosis not_startable(const CheckCase& c) {
  if (c.how != Ended::How::not_started) return std::nullopt;
  if (c.code == EACCES)
    return model::Diagnosis{"no right to run it", shown_file(c, c.program) + " is there, but may not be run",
                            "make it executable: chmod +x, or have the step that makes it do so"};
  if (c.code == ENOEXEC)
    return model::Diagnosis{"no program", shown_file(c, c.program) + " is no program that this machine can run",
                            "build it for this machine, or give the machine's emulator: machine in [toolchain]"};
  if (c.code != ENOENT || !files::exists(c.program)) return std::nullopt;
  const auto content = files::read(c.program);
  const std::string line = content ? content->substr(0, content->find('\n')).substr(0, 200) : std::string{};
  if (line.starts_with("#!"))
    return model::Diagnosis{"missing interpreter",
                            shown_file(c, c.program) + " is run by '" +
                                text::printable_line(std::string(text::trim(line.substr(2)))) + "', which is not there",
                            "install it, or name another in the first line of the script"};
  return model::Diagnosis{"missing loader", "the loader that " + shown_file(c, c.program) + " names is not there",
                          "it was linked for another system: build it for this one"};
}

CheckDiagnosis library_not_found(const CheckCase& c) {
  const std::string name =
      caught_in(c, R"(error while loading shared libraries: ([^\s:]+): cannot open shared object file)");
  if (name.empty()) return std::nullopt;
  model::Diagnosis out{"library not found", {}, {}};
  out.evidence.push_back(line_with(c, "error while loading shared libraries"));
  const std::string place = place_of_library(c, name);
  if (!place.empty()) {
    out.cause = "the loader does not find " + name + "; it lies in " + shown_file(c, place);
    out.remedy = "link the program with the run path " + place + ", or start it with LD_LIBRARY_PATH=" + place;
    return out;
  }
  out.cause = "the loader does not find " + name + ", and it is not among what was built";
  const auto dot = name.find(".so");
  const locate::KnownLibrary* known = name.starts_with("lib") && dot != std::string::npos
                                          ? locate::known_by_link_name(name.substr(3, dot - 3))
                                          : nullptr;
  const std::string package = known == nullptr ? std::string{} : known->package;
  out.remedy = install_or(package, "say where it is with --with PREFIX, or build it first: [[need]] with source");
  return out;
}

CheckDiagnosis symbol_not_found(const CheckCase& c) {
  const std::string symbol = caught_in(c, R"(symbol lookup error: [^\n]*undefined symbol: ([^\s,]+))");
  const std::string version =
      symbol.empty() ? caught_in(c, R"(: (version [`'][^']+' not found)[^\n]*)") : std::string{};
  if (symbol.empty() && version.empty()) return std::nullopt;
  model::Diagnosis out{"library of another version", {}, {}};
  out.cause = symbol.empty()
                  ? "a library that is found at run time is older than the one it was linked with: " + version
                  : "no library that is loaded has the symbol " + text::printable_line(symbol) +
                        ": another version is found at run time than when it was linked";
  out.remedy = "coctilis why " + std::filesystem::path(c.program).filename().string() +
               " shows which libraries it was linked with; take the other out of LD_LIBRARY_PATH and the run path";
  out.evidence.push_back(line_with(c, symbol.empty() ? version : symbol));
  return out;
}

CheckDiagnosis limit_reached(const CheckCase& c) {
  if (c.how != Ended::How::signalled) return std::nullopt;
  if (c.code == SIGXFSZ) return file_too_large();
  if (c.code != SIGKILL) return std::nullopt;
  if (!caught_in(c, took_too_much_memory).empty()) return too_much_memory();
  if (!caught_in(c, took_too_long).empty()) return too_long();
  return std::nullopt;
}

CheckDiagnosis crash(const CheckCase& c) {
  if (c.how != Ended::How::signalled || c.code == SIGTERM || c.code == SIGINT || c.code == SIGHUP) return std::nullopt;
  model::Diagnosis out{"crash", {}, {}};
  const std::string assertion = caught_in(c, R"((?m)^[^\n]*[Aa]ssertion [^\n]*failed[^\n]*$)");
  const std::string exception = caught_in(c, R"((?m)^terminate called after throwing[^\n]*$)");
  const std::string what = caught_in(c, R"((?m)^ *what\(\): ([^\n]*)$)");
  if (!assertion.empty()) {
    out.cause = "an assertion does not hold: " + text::clip(text::printable_line(assertion), 200);
  } else if (!exception.empty()) {
    out.cause = "it ends with an exception that nobody catches" +
                (what.empty() ? std::string{} : ": " + text::clip(text::printable_line(what), 200));
  } else if (c.code == SIGKILL) {
    out.cause = "it was ended from outside, most likely because memory ran out";
    out.remedy = "give it less to do, or the machine more memory";
  } else {
    out.cause = std::string("it crashed (") + ::strsignal(c.code) + ")";
  }
  if (!c.frames.empty()) {
    if (assertion.empty() && exception.empty()) out.cause += " in " + c.frames.front();
    for (const auto& frame : c.frames) out.evidence.push_back("in " + frame);
  }
  if (!out.remedy.empty()) return out;
  const bool lines = std::any_of(c.frames.begin(), c.frames.end(), [](const auto& frame) {
    return frame.find(':') != std::string::npos && frame.ends_with(')');
  });
  if (c.frames.empty())
    out.remedy = find_program("gdb").empty() ? "with gdb installed the function and line are told; " +
                                                   install_or(locate::package_of_program("gdb"), "install it")
                                             : "run it under gdb: " + text::shell_join(c.argv);
  else if (lines)
    out.remedy = "begin there; coctilis smoke --debug shows the way to it whole";
  else
    out.remedy = "for lines of the source, build it with debugging information: --variant debug";
  return out;
}

CheckDiagnosis hang(const CheckCase& c) {
  if (!c.waited) return std::nullopt;
  model::Diagnosis out{"hang", {}, {}};
  out.cause = c.waits_for.empty()                  ? "it did not end by itself"
              : c.waits_for.starts_with("nothing") ? "when it was stopped it waited for nothing: it was computing"
                                                   : "when it was stopped it waited for " + c.waits_for;
  if (c.waits_for.starts_with("standard input"))
    out.remedy = "give it something to read: input = \"...\" or input-file";
  else if (c.waits_for.starts_with("connections"))
    out.remedy = "it is a server: make it a [[service]]";
  else if (c.waits_for.starts_with("a connection") || c.waits_for.starts_with("an answer"))
    out.remedy = "start what it talks to beside it: a [[service]], named in services";
  else if (c.waits_for.starts_with("nothing"))
    out.remedy = "give it more time if it is right that it takes so long: expect = { within = \"1 min\" }";
  else
    out.remedy =
        "coctilis smoke --debug shows where it is; give it more time if it needs it: expect = { within = \"1 min\" }";
  return out;
}

}  // namespace coctilis::doctor
