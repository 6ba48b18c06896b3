#include "smoke/failing.h"

#include <signal.h>

#include "base/files.h"
#include "base/text.h"
#include "doctor/checks.h"
#include "smoke/debugger.h"

namespace coctilis::smoke {

namespace {

bool is_crash(const Observation& seen) {
  if (seen.ended.how != Ended::How::signalled) return false;
  const int number = seen.ended.code;
  return number == SIGSEGV || number == SIGABRT || number == SIGBUS || number == SIGFPE || number == SIGILL ||
         number == SIGTRAP || number == SIGSYS;
}

// What lies where the system or its tools look for their own, which no user has a hand in.
bool is_of_the_system(const std::string& path) {
  for (const char* folder : {"/usr", "/lib", "/lib64", "/etc", "/proc", "/sys", "/dev", "/run", "/bin", "/sbin"}) {
    if (files::is_below(path, folder)) return true;
  }
  return false;
}

}  // namespace

void find_cause(Judgement& judgement, const Runner& runner, const Command& command, const std::string& program,
                const std::string& folder, const Observation& seen, bool is_asked) {
  if (judgement.verdict != model::Verdict::failed || !judgement.cause.empty()) return;
  doctor::CheckCase c{runner.plan(),
                      program,
                      command.argv,
                      folder,
                      seen.ended.output,
                      seen.ended.how,
                      seen.ended.code,
                      seen.waited,
                      seen.waits_for,
                      {},
                      {},
                      {},
                      runner.library_folders(),
                      {},
                      is_asked};
  const auto absent = [](const std::string& path) { return !is_of_the_system(path) && !files::exists(path); };
  for (const auto& path : seen.ended.files.read) {
    if (absent(path)) c.in_vain.insert(path);
  }
  for (const auto& path : seen.ended.files.written) {
    if (absent(path)) c.unwritten.insert(path);
  }
  // What it made and took away again, and what lay in its own folder for temporary files, which is gone with it.
  std::error_code error;
  const std::string temporary = std::filesystem::temp_directory_path(error).string();
  const auto passing = [&](const std::string& path) {
    return !files::is_below(path, folder) && (files::is_below(path, "/tmp") || files::is_below(path, "/var/tmp") ||
                                              (!temporary.empty() && files::is_below(path, temporary)));
  };
  std::erase_if(c.in_vain, [&](const auto& path) { return passing(path) || seen.ended.files.written.contains(path); });
  std::erase_if(c.unwritten, passing);
  for (const auto& [name, value] : own_environment()) c.environment.insert(name);
  for (const auto& [name, value] : command.environment) {
    if (value) c.environment.insert(name);
  }
  const bool deep = runner.debugs();
  // One without a time in which it would crash again would run on.
  if (seen.limit > 0 && (is_crash(seen) || (deep && seen.waited))) {
    const std::string trace = backtrace(runner, command, program, std::min(seen.limit, 30.0));
    c.frames = frames_in(trace, runner.plan().tree, deep ? 40 : 5);
  }
  const auto diagnosis = doctor::diagnose_check(c);
  if (!diagnosis) {
    for (const auto& path : c.in_vain) {
      if (judgement.evidence.size() < 5)
        judgement.evidence.push_back("asked for in vain: " + doctor::shown_file(c, path));
    }
    return;
  }
  judgement.cause = diagnosis->cause;
  judgement.remedy = diagnosis->remedy;
  judgement.evidence = diagnosis->evidence;
  if (judgement.evidence.empty()) {
    for (const auto& frame : c.frames) judgement.evidence.push_back("in " + frame);
  }
  std::erase(judgement.evidence, std::string{});
}

}  // namespace coctilis::smoke
