#include "smoke/debugger.h"

#include <re2/re2.h>
#include <signal.h>
#include <unistd.h>

#include "base/confine.h"
#include "base/files.h"
#include "base/text.h"
#include "smoke/processes.h"

namespace coctilis::smoke {

namespace {

constexpr const char* marker = "coctilis-backtrace";

bool is_script(const std::string& program) { return files::read_beginning(program, 2) == "#!"; }

}  // namespace

std::string backtrace(const Runner& runner, Command command, const std::string& program, double limit) {
  const std::string debugger = find_program("gdb");
  auto at = std::find(command.argv.begin(), command.argv.end(), program);
  if (debugger.empty() || at == command.argv.end() || runner.is_foreign(program)) return {};
  // A program that has a starter is debugged itself, as its starter would start it.
  for (const auto& target : runner.plan().targets) {
    if (target.starter != program) continue;
    *at = target.output;
    command.environment["LD_LIBRARY_PATH"] = text::join(runner.library_folders(), ":");
  }
  if (is_script(*at)) return {};
  const std::vector<std::string> words = {debugger, "-q",
                                          "-nx",    "-batch",
                                          "-iex",   "set debuginfod enabled off",
                                          "-ex",    "set startup-with-shell off",
                                          "-ex",    "set width 0",
                                          "-ex",    "set print frame-arguments none",
                                          "-ex",    "run",
                                          "-ex",    std::string("echo ") + marker + "\\n",
                                          "-ex",    "bt 40",
                                          "-ex",    "info threads",
                                          "-ex",    "thread apply all bt 20",
                                          "--args"};
  command.argv.insert(at, words.begin(), words.end());
  command.watch = WatchFor::nothing;
  command.output_limit = 1U << 20U;
  Process process = Process::start(command);
  bool asked = false;
  while (!process.poll()) {
    if (interrupted_by != 0) process.stop(Ended::How::interrupted);
    if (process.age() > limit && !asked) {
      asked = true;
      // The debugger takes the signal for its program, and tells where that is.
      without_limit([&] { ::kill(with_descendants(process.pid()).back(), SIGINT); });
    }
    if (process.age() > limit + 20) process.stop(Ended::How::timed_out);
    ::usleep(5000);
  }
  const Ended ended = process.take();
  const auto begin = ended.output.find(std::string(marker) + "\n");
  if (begin == std::string::npos) return {};
  std::string out = ended.output.substr(begin + std::string_view(marker).size() + 1);
  return out.starts_with("#") ? text::printable(out) : std::string{};
}

std::vector<std::string> frames_in(const std::string& backtrace, const std::string& tree, std::size_t most) {
  // What stands between the trouble and the end that it comes to.
  static const RE2 ending(
      R"((?:__)?(?:GI_)?(?:raise|abort|pthread_kill|kill|assert_fail(?:_base)?|libc_message|malloc_printerr|fortify_fail|chk_fail|stack_chk_fail|terminate|throw|cxa_throw)[\w]*|__pthread_kill_implementation|__gnu_cxx::.*|__cxxabiv1::.*|std::terminate.*|std::__throw.*|__cxa_.*|\?\?)");
  std::vector<std::string> out;
  for (const auto& line : text::split(backtrace, '\n')) {
    if (!line.starts_with('#')) {
      if (!out.empty() || line.starts_with("Thread ")) break;
      continue;
    }
    auto rest = std::string(text::trim(line.substr(std::min(line.find(' '), line.size()))));
    if (rest.starts_with("0x")) {
      const auto in = rest.find(" in ");
      if (in == std::string::npos) continue;
      rest = rest.substr(in + 4);
    }
    const auto open = rest.rfind(" (");
    std::string function = rest.substr(0, open);
    if (open == std::string::npos || RE2::FullMatch(function, ending)) continue;
    const auto at = rest.rfind(") at ");
    if (at != std::string::npos) {
      std::string place = rest.substr(at + 5);
      const auto colon = place.rfind(':');
      const std::string file = place.substr(0, colon);
      if (file.starts_with('/'))
        place = files::below(files::absolute(file), tree) + place.substr(std::min(colon, place.size()));
      function += " (" + place + ")";
    } else if (rest.find(" from /lib") != std::string::npos && out.empty()) {
      // A function of the system was called with something that it cannot bear: who called it is what counts.
      continue;
    }
    out.push_back(text::clip(text::printable_line(function), 160));
    if (out.size() >= most || function.starts_with("main")) break;
  }
  return out;
}

}  // namespace coctilis::smoke
