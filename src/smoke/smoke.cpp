#include "smoke/smoke.h"

#include <re2/re2.h>
#include <sys/stat.h>
#include <unistd.h>

#include <set>

#include "base/confine.h"
#include "base/elf.h"
#include "base/file_operations.h"
#include "base/files.h"
#include "base/loader.h"
#include "base/process.h"
#include "base/text.h"
#include "model/build_programs.h"
#include "smoke/excuses.h"
#include "smoke/patterns.h"

namespace coctilis::smoke {

using model::Check;
using model::CheckKind;
using model::Verdict;

namespace {

// True when the process, or one of its group, listens on a socket: a server that waits is not one that hangs.
bool listens(pid_t pid) {
  std::set<std::string> sockets;
  std::error_code error;
  for (const auto& entry : std::filesystem::directory_iterator("/proc/" + std::to_string(pid) + "/fd", error)) {
    const std::string to = std::filesystem::read_symlink(entry.path(), error).string();
    if (to.starts_with("socket:[")) sockets.insert(to.substr(8, to.size() - 9));
  }
  if (sockets.empty()) return false;
  for (const char* table : {"tcp", "tcp6"}) {
    // /proc files have no size: they are read line by line.
    FILE* file = ::fopen(("/proc/" + std::to_string(pid) + "/net/" + table).c_str(), "re");
    if (file == nullptr) continue;
    char line[512];
    bool found = false;
    while (::fgets(line, sizeof line, file) != nullptr) {
      const auto words = text::words(line);
      if (words.size() > 9 && words[3] == "0A" && sockets.contains(words[9])) found = true;
    }
    ::fclose(file);
    if (found) return true;
  }
  return false;
}

struct Started {
  Ended ended;
  bool waited = false;  // still running at the limit
  bool listening = false;
};

Started start_and_wait(const Command& command, double limit) {
  Started out;
  Process process = Process::start(command);
  while (!process.poll()) {
    if (interrupted_by != 0) process.stop(Ended::How::interrupted);
    if (process.age() > limit && !out.waited) {
      out.waited = true;
      out.listening = listens(process.pid());
      process.stop(Ended::How::timed_out);
    }
    ::usleep(2000);
  }
  out.ended = process.take();
  return out;
}

class Checks {
 public:
  Checks(const model::Plan& plan, const model::Settings& settings, const Request& request,
         const std::function<void(const Check&)>& ended)
      : plan_(plan), settings_(settings), request_(request), ended_(ended) {}

  std::vector<Check> run() {
    check_names();
    for (const auto& target : plan_.targets) anything_installed_ = anything_installed_ || target.installed;
    std::set<std::string> proven;
    for (const auto& test : plan_.tests) {
      if (!test.program.empty() && !test.disabled) proven.insert(test.program);
    }
    for (const auto& target : plan_.targets) {
      const bool library = target.kind == model::TargetKind::shared_library;
      const bool program = target.kind == model::TargetKind::program;
      if ((!library && !program) || !files::is_file(target.output)) continue;
      if (interrupted_by != 0) return std::move(out_);
      if (wanted(target.name + " loads", target.name)) loads(target);
      // A program that a declared test runs is shown to start there, with the arguments it expects.
      if (program && !proven.contains(target.name) && wanted(target.name + " starts", target.name)) starts(target);
    }
    for (const auto& check : settings_.smoke) {
      if (interrupted_by == 0 && wanted(check.name, check.run.front())) smoke(check);
    }
    for (const auto* test : in_order()) {
      if (interrupted_by == 0) declared(*test);
    }
    return std::move(out_);
  }

 private:
  void check_names() const {
    for (const auto& name : request_.only) {
      bool known = plan_.target(name) != nullptr;
      for (const auto& check : settings_.smoke) known = known || check.name == name;
      for (const auto& test : plan_.tests) known = known || test.name == name;
      for (const auto& target : plan_.targets)
        known = known || name == target.name + " loads" || name == target.name + " starts";
      if (!known)
        throw Fault({Exit::usage,
                     {},
                     "there is no check '" + name + "'",
                     "",
                     "name a program, a [[smoke]] check or a declared test",
                     {}});
    }
  }
  [[nodiscard]] bool wanted(const std::string& name, const std::string& program) const {
    const auto& only = request_.only;
    return only.empty() || std::find(only.begin(), only.end(), name) != only.end() ||
           std::find(only.begin(), only.end(), program) != only.end();
  }
  // The declared tests that are asked for with the fixtures they need, in an order in which what a test waits for comes
  // before it: tests it names, those that set up its fixtures; and those that take a fixture away come last.
  std::vector<const model::TestCase*> in_order() const {
    const auto& tests = plan_.tests;
    const auto shares = [](const std::vector<std::string>& a, const std::vector<std::string>& b) {
      return std::any_of(a.begin(), a.end(),
                         [&](const auto& name) { return std::find(b.begin(), b.end(), name) != b.end(); });
    };
    std::map<std::string, std::vector<std::size_t>> setting_up;
    std::map<std::string, std::vector<std::size_t>> using_it;
    std::map<std::string, std::size_t> by_name;
    for (std::size_t k = 0; k < tests.size(); ++k) {
      by_name.emplace(tests[k].name, k);
      for (const auto& fixture : tests[k].sets_up) setting_up[fixture].push_back(k);
      for (const auto& fixture : tests[k].requires_) using_it[fixture].push_back(k);
    }
    std::vector<bool> chosen(tests.size());
    for (std::size_t k = 0; k < tests.size(); ++k) chosen[k] = wanted(tests[k].name, tests[k].program);
    for (std::size_t k = 0; k < tests.size(); ++k) {
      if (!chosen[k]) continue;
      for (std::size_t other = 0; other < tests.size(); ++other)
        chosen[other] = chosen[other] || shares(tests[k].requires_, tests[other].sets_up) ||
                        shares(tests[k].requires_, tests[other].cleans_up);
    }
    std::vector<const model::TestCase*> out;
    std::vector<int> state(tests.size(), 0);  // 1: being placed (a circle is cut there), 2: placed
    const std::function<void(std::size_t)> place = [&](std::size_t k) {
      if (state[k] != 0) return;
      state[k] = 1;
      for (const auto& name : tests[k].after) {
        if (const auto it = by_name.find(name); it != by_name.end()) place(it->second);
      }
      for (const auto& fixture : tests[k].requires_) {
        for (const auto other : setting_up[fixture]) place(other);
      }
      for (const auto& fixture : tests[k].cleans_up) {
        for (const auto other : setting_up[fixture]) place(other);
        for (const auto other : using_it[fixture]) place(other);
      }
      state[k] = 2;
      if (chosen[k]) out.push_back(&tests[k]);
    };
    for (std::size_t k = 0; k < tests.size(); ++k) place(k);
    return out;
  }

  void done(Check check) {
    out_.push_back(std::move(check));
    ended_(out_.back());
  }

  // ---- programs of another machine -----------------------------------------------------------------------------
  [[nodiscard]] bool is_foreign(const std::string& program) const {
    if (request_.toolchain == nullptr || !request_.toolchain->foreign) return false;
    const auto facts = read_elf(program);
    return facts && fits_machine(*facts, request_.toolchain->machine);
  }
  [[nodiscard]] std::vector<std::string> launched(std::vector<std::string> argv) const {
    if (!is_foreign(argv.front())) return argv;
    argv.insert(argv.begin(), request_.toolchain->launcher.begin(), request_.toolchain->launcher.end());
    return argv;
  }
  [[nodiscard]] std::string cannot_start(const std::string& program) const {
    if (!is_foreign(program) || !request_.toolchain->launcher.empty()) return {};
    return "it is for " + request_.toolchain->machine +
           ", and there is no emulator for that here (the package qemu-user has one)";
  }
  // Where the system of the other machine has its libraries.
  [[nodiscard]] std::vector<std::string> foreign_folders() const {
    if (request_.toolchain == nullptr || !request_.toolchain->foreign) return {};
    return request_.toolchain->any().link_folders;
  }

  // Folders of the shared libraries that the tree makes.
  [[nodiscard]] std::vector<std::string> library_folders() const {
    std::vector<std::string> out;
    for (const auto& target : plan_.targets) {
      const std::string folder = std::filesystem::path(target.output).parent_path().string();
      if (target.kind == model::TargetKind::shared_library && std::find(out.begin(), out.end(), folder) == out.end())
        out.push_back(folder);
    }
    return out;
  }

  // What starts a program as its user does.
  [[nodiscard]] static const std::string& started_by(const model::PlannedTarget& target) {
    return target.starter.empty() ? target.output : target.starter;
  }

  void loads(const model::PlannedTarget& target) {
    Check check;
    check.kind = CheckKind::loads;
    check.name = target.name + " loads";
    check.place = target.place;
    const double begin = now();
    LoadResult result = resolve_libraries(target.output, foreign_folders());
    std::string how;
    if (!target.starter.empty()) {
      result = resolve_libraries(target.output, foreign_folders(), library_folders());
      how = "; it is started by " + files::below(target.starter, plan_.kiln) + ", which says where";
    } else if (target.kind == model::TargetKind::shared_library && !result.missing.empty()) {
      // Who loads a library may say where others are.
      const LoadResult with_own = resolve_libraries(target.output, foreign_folders(), library_folders());
      if (with_own.missing.empty()) {
        how = "; not by itself: whoever loads it has to say where " + result.missing.front().first + " is";
        result = with_own;
      }
    }
    check.seconds = now() - begin;
    if (!result.is_elf) {
      check.verdict = Verdict::failed;
      check.reason = "what was made is no program or library of this system";
    } else if (!result.missing.empty()) {
      check.verdict = Verdict::failed;
      std::vector<std::string> names;
      for (const auto& [name, user] : result.missing)
        names.push_back(name + " (needed by " + files::below(user, plan_.kiln) + ")");
      check.reason = "not found by the loader: " + text::join(names, ", ");
    } else {
      check.reason =
          result.found.empty()
              ? "needs no shared library"
              : "all " + text::count(result.found.size(), "shared library", "shared libraries") + " resolve" + how;
    }
    done(std::move(check));
  }

  void starts(const model::PlannedTarget& target) {
    Check check;
    check.kind = CheckKind::starts;
    check.name = target.name + " starts";
    check.place = target.place;
    const double begin = now();
    if (const std::string why = cannot_start(target.output); !why.empty()) {
      check.verdict = Verdict::skipped;
      check.reason = why;
      done(std::move(check));
      return;
    }
    for (const char* option : {"--version", "--help"}) {
      const files::ScratchFolder scratch("start");
      Command command;
      command.argv = launched({started_by(target), option});
      command.folder = scratch.path().string();
      command.output_limit = 1U << 20U;
      check.command = text::shell_join(command.argv);
      const Started started = start(command, request_.start_limit_seconds);
      check.output = started.ended.output;
      if (started.ended.how == Ended::How::signalled) {
        if (const std::string excuse = excuse_in(started.ended.output); !excuse.empty()) {
          check.verdict = Verdict::skipped;
          check.reason = excuse;
          break;
        }
      }
      const bool printed = !text::trim(started.ended.output).empty();
      if (started.waited) {
        const bool fine = printed || started.listening;
        check.verdict = fine ? Verdict::passed : Verdict::failed;
        check.reason = started.listening ? "waits for connections"
                       : fine ? std::string("ran until the limit of ") + text::duration(request_.start_limit_seconds) +
                                    " and was stopped; it had printed something"
                              : "no exit within " + text::duration(request_.start_limit_seconds) + ": started with " +
                                    std::string(option) + " it printed nothing and waits for nobody";
        if (check.verdict == Verdict::failed && !target.installed && anything_installed_) {
          check.verdict = Verdict::skipped;
          check.reason += "; it is not one that is installed";
        }
        break;
      }
      // The C++ runtime says so when nobody catches an exception: the program has started, and does not like its words.
      if (started.ended.how == Ended::How::signalled &&
          started.ended.output.find("terminate called after throwing") != std::string::npos) {
        check.verdict = Verdict::passed;
        check.reason = "with " + std::string(option) + ": it starts, and ends with an exception that it does not catch";
        break;
      }
      if (started.ended.how == Ended::How::signalled || started.ended.how == Ended::How::not_started) {
        check.verdict = Verdict::failed;
        check.reason = "with " + std::string(option) + ": " + started.ended.text();
        // A helper that nobody gets may well not know what it is asked; that it starts is shown all the same.
        if (started.ended.how == Ended::How::signalled && !target.installed && anything_installed_) {
          check.verdict = Verdict::skipped;
          check.reason += "; it is not one that is installed";
        }
        break;
      }
      if (started.ended.how == Ended::How::interrupted) {
        check.verdict = Verdict::skipped;
        check.reason = "interrupted";
        break;
      }
      // 126 and 127 are what loaders and shells answer when a program cannot run.
      if (started.ended.code == 127 &&
          started.ended.output.find("error while loading shared libraries") != std::string::npos) {
        check.verdict = Verdict::failed;
        check.reason = std::string(text::trim(text::printable_line(started.ended.output)));
        break;
      }
      check.verdict = Verdict::passed;
      check.reason = "with " + std::string(option) + ": " + started.ended.text();
      if (started.ended.code == 0) break;
    }
    check.seconds = now() - begin;
    done(std::move(check));
  }

  // Tests are written for users whom a file's mode can keep out. Where the tree is someone else's, the superuser needs
  // its rights to read it at all.
  Started start(Command& command, double limit, bool all_rights = false) const {
    struct stat info {};
    command.modes_count = !all_rights && ::stat(plan_.tree.c_str(), &info) == 0 && info.st_uid == ::geteuid();
    // Where nothing can be shown, programs that know this word draw into memory.
    if (!has_display() && std::getenv("QT_QPA_PLATFORM") == nullptr)
      command.environment.try_emplace("QT_QPA_PLATFORM", "offscreen");
    return start_and_wait(command, limit);
  }

  // The program that a check names: one of the tree, or a path, or one on PATH.
  std::string program_path(const std::string& name) const {
    const model::PlannedTarget* target = plan_.target(name);
    if (target != nullptr && !target->output.empty()) return started_by(*target);
    for (const auto& other : plan_.targets) {
      if (!other.output.empty() && std::filesystem::path(other.output).filename() == name) return started_by(other);
    }
    if (name.find('/') != std::string::npos) return files::absolute(name, plan_.tree);
    return find_program(name);
  }

  void smoke(const model::SmokeCheck& asked) {
    Check check;
    check.kind = CheckKind::smoke;
    check.name = asked.name;
    check.place = asked.place;
    const files::ScratchFolder scratch("check");
    Command command;
    command.argv = asked.run;
    for (auto& word : command.argv) word = with_folders(word);
    command.argv.front() = program_path(command.argv.front());
    command.folder = asked.folder.empty() ? scratch.path().string() : files::absolute(asked.folder, plan_.tree);
    for (const auto& [name, value] : asked.environment) command.environment[name] = with_folders(value);
    const std::string program = command.argv.front();
    if (!program.empty()) command.argv = launched(std::move(command.argv));
    check.command = text::shell_join(command.argv);
    if (program.empty() || !files::is_program(program)) {
      check.verdict = Verdict::failed;
      check.reason = "'" + asked.run.front() + "' is no program of the tree and none on PATH";
      done(std::move(check));
      return;
    }
    if (const std::string why = cannot_start(program); !why.empty()) {
      check.verdict = Verdict::skipped;
      check.reason = why;
      done(std::move(check));
      return;
    }
    const double begin = now();
    const Started started = start(command, asked.limit_seconds);
    check.seconds = now() - begin;
    check.output = started.ended.output;
    judge(check, started, asked.limit_seconds);
    if (check.verdict == Verdict::passed && started.ended.code != asked.exit) {
      check.verdict = Verdict::failed;
      check.reason = "exit code " + std::to_string(started.ended.code) + ", expected " + std::to_string(asked.exit);
    }
    if (check.verdict == Verdict::passed && asked.output && !RE2::PartialMatch(started.ended.output, *asked.output)) {
      check.verdict = Verdict::failed;
      check.reason = "its output does not contain '" + *asked.output + "'";
    } else if (check.verdict == Verdict::passed) {
      check.reason =
          "exit code " + std::to_string(asked.exit) + (asked.output ? ", output has '" + *asked.output + "'" : "");
    }
    done(std::move(check));
  }

  // ${tree} and ${kiln} in a check's words.
  std::string with_folders(std::string text) const {
    return text::replace_all(text::replace_all(std::move(text), "${tree}", plan_.tree), "${kiln}", plan_.kiln);
  }

  // Tests that run in a folder of the tree may write there: they get a copy of the tree, made once and gone afterwards.
  std::string in_copy(const std::string& folder) {
    if (!copy_) {
      copy_ = std::make_unique<files::ScratchFolder>("tree");
      copy_tree(plan_.tree, copy_->path().string());
    }
    const std::string below = files::below(folder, plan_.tree);
    return below == "." ? copy_->path().string() : copy_->path().string() + "/" + below;
  }
  // The same words with what they name of the tree replaced by its copy, so that a test may write beside what it reads;
  // what the kiln holds stays.
  std::string with_copy(const std::string& words) {
    if (files::is_below(plan_.tree, plan_.kiln)) return words;
    std::string out;
    std::size_t done = 0;
    for (auto at = words.find(plan_.tree); at != std::string::npos; at = words.find(plan_.tree, at + 1)) {
      const auto end = std::min(words.find_first_of(":;,\"' \n", at), words.size());
      const std::string path = files::absolute(words.substr(at, end - at));
      const bool begins = at == 0 || std::string_view("=:;,\"' \n").find(words[at - 1]) != std::string_view::npos ||
                          (at == 2 && words[0] == '-');
      if (!begins || !files::is_below(path, plan_.tree) || files::is_below(path, plan_.kiln)) continue;
      out.append(words, done, at - done);
      out += in_copy(path);
      done = end;
    }
    return out.append(words, done);
  }
  // The command as it runs where a copy lies in place of the tree.
  Command in_place(Command command) {
    const std::string copy = in_copy(plan_.tree);
    if (!home_) home_ = std::make_unique<files::ScratchFolder>("home");
    std::error_code error;
    std::vector<std::string> call = {std::filesystem::read_symlink("/proc/self/exe", error).string(), "run-confined"};
    for (const auto& folder : plan_.writable) call.insert(call.end(), {"--write", folder});
    // With the tree out of reach, it may use the folders for temporary files that the tree lies in as well: what
    // tmpfile(3) makes lies in one, whatever the environment says.
    for (const auto& folder : confinement_of(copy, copy).writable) call.insert(call.end(), {"--write", folder});
    for (const auto& folder : {plan_.tree, home_->path().string()}) call.insert(call.end(), {"--write", folder});
    call.insert(call.end(), {"--in-place-of", plan_.tree, "--copy", copy, "--kiln", plan_.kiln, "--"});
    command.argv.insert(command.argv.begin(), call.begin(), call.end());
    command.environment["HOME"] = home_->path().string();
    return command;
  }
  void copy_tree(const std::string& from, const std::string& to) const {
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(from, error)) {
      const std::string path = entry.path().string();
      const std::string name = entry.path().filename().string();
      // The kiln and the version control's own folder are no part of what a test needs.
      if (name == ".git" || files::is_below(plan_.kiln, path)) continue;
      if (entry.is_symlink(error)) {
        std::filesystem::copy_symlink(path, to + "/" + name, error);
      } else if (entry.is_directory(error)) {
        std::filesystem::create_directory(to + "/" + name, error);
        copy_tree(path, to + "/" + name);
      } else if (entry.is_regular_file(error)) {
        std::filesystem::copy_file(path, to + "/" + name, error);
      }
    }
  }

  static void judge(Check& check, const Started& started, double limit) {
    if (started.waited) {
      check.verdict = Verdict::failed;
      check.reason = "still running after " + text::duration(limit) + "; stopped" +
                     (check.command.find("/qemu-") != std::string::npos ? " (it ran under an emulator)" : "");
    } else if (started.ended.how == Ended::How::interrupted) {
      check.verdict = Verdict::skipped;
      check.reason = "interrupted";
    } else if (started.ended.how != Ended::How::exited) {
      check.verdict = Verdict::failed;
      check.reason = started.ended.text();
    }
  }

  // What run-script ends with when it does not understand the script.
  static constexpr int not_understood_code = static_cast<int>(Exit::description);
  static bool is_own_script(const Command& command) {
    return command.argv.size() > 1 && command.argv[1] == "run-script";
  }

  // "TOOL -E env NAME=VALUE ... PROGRAM" runs the program, and "TOOL -E chdir" in a folder; "TOOL ... -P SCRIPT" runs a
  // script of the language.
  void use_own_tool(Command& command) const {
    auto& argv = command.argv;
    const auto surroundings = model::take_surroundings(argv, command.folder);
    command.folder = surroundings.folder;
    for (const auto& [name, value] : surroundings.environment) command.environment[name] = value;
    if (argv.empty()) argv = {"true"};
    if (argv[0] == model::tool_word && std::find(argv.begin(), argv.end(), "-P") != argv.end()) {
      std::error_code error;
      const auto self = std::filesystem::read_symlink("/proc/self/exe", error);
      std::vector<std::string> call = {self.string(), "run-script",        "--tree", plan_.tree,
                                       "--output",    plan_.output_root(), "--"};
      call.insert(call.end(), argv.begin() + 1, argv.end());
      argv = std::move(call);
    }
  }

  // What a declared test's end means, by what the description says of it.
  static void judge_declared(Check& check, const model::TestCase& test, const Command& command,
                             const Started& started, double limit) {
    check.output = started.ended.output;
    check.verdict = Verdict::passed;
    judge(check, started, limit);
    const auto skip = [&](const std::string& reason) {
      check.verdict = Verdict::skipped;
      check.reason = reason;
    };
    if (check.verdict != Verdict::skipped && started.ended.how == Ended::How::exited && test.skip_code >= 0 &&
        started.ended.code == test.skip_code)
      return skip("it says so itself (exit code " + std::to_string(test.skip_code) + ")");
    if (check.verdict != Verdict::skipped && any_found(test.skip_patterns, started.ended.output))
      return skip("it says so itself");
    if (check.verdict == Verdict::passed) {
      if (any_found(test.fail_patterns, started.ended.output)) {
        check.verdict = Verdict::failed;
        check.reason = "its output has what must not be there";
      } else if (!test.pass_patterns.empty()) {
        check.verdict = any_found(test.pass_patterns, started.ended.output) ? Verdict::passed : Verdict::failed;
        check.reason = check.verdict == Verdict::passed
                           ? "its output has what is expected"
                           : "its output lacks what is expected: " + text::join(test.pass_patterns, " or ");
      } else {
        check.verdict = started.ended.code == 0 ? Verdict::passed : Verdict::failed;
        check.reason = started.ended.text();
      }
    }
    if (is_own_script(command) && check.verdict == Verdict::failed && started.ended.code == not_understood_code)
      return skip("its script asks for what is not understood yet");
    if (check.verdict == Verdict::failed) {
      if (const std::string excuse = excuse_in(started.ended.output); !excuse.empty()) return skip(excuse);
    }
    if (test.will_fail && !started.waited && check.verdict != Verdict::skipped) {
      check.verdict = check.verdict == Verdict::passed ? Verdict::failed : Verdict::passed;
      check.reason += check.verdict == Verdict::passed ? ", as the description expects"
                                                       : ", but the description expects it to fail";
    }
  }

  void declared(const model::TestCase& test) {
    Check check;
    check.kind = CheckKind::declared;
    check.name = test.name;
    check.place = test.place;
    Command command;
    command.argv = test.command;
    command.folder = test.folder;
    for (const auto& [name, value] : plan_.environment) command.environment[name] = value;
    for (const auto& [name, value] : test.environment) command.environment[name] = value;
    std::string with;
    // Tests of the description start programs without their starters.
    if (std::any_of(plan_.targets.begin(), plan_.targets.end(), [](const auto& t) { return !t.starter.empty(); }) &&
        !command.environment.contains("LD_LIBRARY_PATH")) {
      const auto folders = library_folders();
      const char* before = std::getenv("LD_LIBRARY_PATH");
      command.environment["LD_LIBRARY_PATH"] =
          text::join(folders, ":") + (before == nullptr ? std::string{} : ":" + std::string(before));
      with = "; with LD_LIBRARY_PATH, which the programs' starters set";
    }
    check.command = text::shell_join(test.command);
    const auto skip = [&](const std::string& reason) {
      check.verdict = Verdict::skipped;
      check.reason = reason;
      done(std::move(check));
    };
    if (test.disabled) return skip("the description disables it");
    for (const auto& fixture : test.requires_) {
      if (broken_.contains(fixture)) return skip("the fixture '" + fixture + "' that it needs was not set up");
    }
    use_own_tool(command);
    // The tree's own make program is this one.
    if (model::is_build_program(command.argv.front()) && !files::is_below(command.argv.front(), plan_.kiln))
      return skip("it runs a build program, which is never started");
    if (std::find(command.argv.begin() + 1, command.argv.end(), model::tool_word) != command.argv.end())
      return skip("it is to run the description's tool or a make program, which are never started");
    if (!test.program.empty()) {
      const auto* target = plan_.target(test.program);
      if (target != nullptr && !files::is_file(target->output))
        return skip("its program '" + test.program + "' was not made");
    }
    for (const auto& file : test.needs_files) {
      if (files::is_file(file)) continue;
      const auto made = std::find_if(plan_.targets.begin(), plan_.targets.end(),
                                     [&](const auto& target) { return target.output == file; });
      return skip(made != plan_.targets.end()
                      ? "'" + made->name + "', which it needs, was not made"
                      : "the file " + files::below(file, plan_.tree) + " that it needs is not there");
    }
    // A folder that a description names wrongly does no harm where the program lies beside its test.
    if (std::string& program = command.argv.front(); program.starts_with('/') && !files::exists(program)) {
      const std::string beside = command.folder + "/" + std::filesystem::path(program).filename().string();
      if (files::is_program(beside)) program = beside;
    }
    if (const std::string why = cannot_start(command.argv.front()); !why.empty()) return skip(why);
    command.argv = launched(std::move(command.argv));
    check.command = text::shell_join(command.argv);
    const Command as_declared = command;
    for (auto& word : command.argv) word = with_copy(word);
    for (auto& [name, value] : command.environment) {
      if (value) value = with_copy(*value);
    }
    std::error_code error;
    if (files::is_below(command.folder, plan_.work))
      std::filesystem::create_directories(command.folder, error);
    else if (files::is_below(command.folder, plan_.tree))
      command.folder = in_copy(command.folder);
    command.writable = plan_.writable;
    if (copy_) command.writable.push_back(copy_->path().string());
    const double limit = test.limit_seconds > 0 ? test.limit_seconds : request_.test_limit_seconds;
    const double begin = now();
    if (command.argv.front() == model::tool_word) {
      // A test that copies or compares files with the description's tool: done here, as in the build.
      if (command.argv.size() < 3 || command.argv[1] != "-E" || !files::is_operation(command.argv[2]))
        return skip("it asks the description's tool for what is not understood yet");
      Started started;
      started.ended.how = Ended::How::exited;
      started.ended.code =
          files::run_operation({command.argv.begin() + 2, command.argv.end()}, command.folder,
                               copy_ && files::is_below(command.folder, copy_->path().string()) ? copy_->path().string()
                                                                                                : plan_.output_root(),
                               started.ended.output);
      judge_declared(check, test, command, started, limit);
    } else {
      const Started started = start(command, limit);
      judge_declared(check, test, command, started, limit);
      // What fails may pass when it is run in another way; then that counts.
      const auto again = [&](bool all_rights, const char* how) {
        Check other = check;
        judge_declared(other, test, command, start(command, limit, all_rights), limit);
        if (other.verdict != Verdict::passed) return;
        check = std::move(other);
        check.command = text::shell_join(command.argv);
        check.reason += std::string("; ") + how;
      };
      const auto failed = [&] {
        return check.verdict == Verdict::failed && started.ended.how == Ended::How::exited && interrupted_by == 0;
      };
      // What it writes where it may not goes to a copy that it sees in place of the tree, and a home of its own.
      // One that is to fail has not failed as it is meant to when it was only kept from writing.
      const bool by_make = files::is_below(command.argv.front(), plan_.kiln + "/make");
      // Such a test may well end by abort(3).
      const bool broke = check.verdict == Verdict::failed && started.ended.how != Ended::How::timed_out &&
                         started.ended.how != Ended::How::interrupted && interrupted_by == 0;
      const bool told = tells_of_refused_writing(started.ended.output, plan_.tree);
      // Where the tree lies among temporary files, those are withheld from the first try; tests write there by a name
      // of their own, and do not say what went wrong.
      const bool withheld = confinement_of(plan_.kiln, plan_.kiln).writable.size() > plan_.writable.size();
      const bool refused =
          ((broke && (told || withheld)) || (test.will_fail && told)) && !by_make && !plan_.writable.empty();
      if (refused) {
        if (check.verdict == Verdict::passed) check.verdict = Verdict::failed;
        const Command usual = std::exchange(command, in_place(as_declared));
        again(false, "with a copy in place of the tree, into which it writes");
        if (check.verdict == Verdict::failed && told)
          check.reason += "; it may have wanted to write outside of the kiln";
        command = usual;
      }
      const auto may_differ = [&] { return failed() && !(refused && test.will_fail); };
      // Parts of a test target that use the same files fail when they run at once, as their authors do not run them.
      const auto jobs = plan_.environment.find("COCTILIS_MAKE_JOBS");
      if (may_differ() && by_make && jobs != plan_.environment.end() && jobs->second != "1") {
        command.argv.emplace_back("-j1");
        again(false, "one part after the other: at once they disturb each other");
      }
      // Some tests of archivers and the like are only for the superuser as it is.
      if (may_differ() && command.modes_count && ::geteuid() == 0) again(true, "with all rights of the superuser");
    }
    check.seconds = now() - begin;
    if (check.verdict == Verdict::passed) check.reason += with;
    if (check.verdict == Verdict::failed) broken_.insert(test.sets_up.begin(), test.sets_up.end());
    done(std::move(check));
  }

  const model::Plan& plan_;
  const model::Settings& settings_;
  const Request& request_;
  const std::function<void(const Check&)>& ended_;
  std::vector<Check> out_;
  std::unique_ptr<files::ScratchFolder> copy_;
  std::unique_ptr<files::ScratchFolder> home_;
  bool anything_installed_ = false;
  std::set<std::string> broken_;  // fixtures whose setting up failed
};

}  // namespace

Result<std::vector<model::Check>> run_checks(const model::Plan& plan, const model::Settings& settings,
                                             const Request& request,
                                             const std::function<void(const model::Check&)>& ended) {
  return guarded("checking", [&] { return Checks(plan, settings, request, ended).run(); });
}

}  // namespace coctilis::smoke
