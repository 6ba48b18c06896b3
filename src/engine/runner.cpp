#include "engine/runner.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include "base/confine.h"
#include "base/dependency_file.h"
#include "base/file_operations.h"
#include "base/files.h"
#include "base/text.h"
#include "locate/known.h"
#include "plan/languages/language.h"
#include "plan/operations.h"

namespace coctilis::engine {

using model::Action;
using model::Reads;
using model::Step;
using model::StepKind;

namespace {

std::string parent_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }

// A line that goes to a shell as it was written, others as a shell would read them.
std::string as_written(const Action& action) {
  const bool by_shell = action.argv.size() == 3 && action.argv[0].ends_with("sh") && action.argv[1].starts_with('-');
  return by_shell ? action.argv.back() : action.text();
}

// Beside the file that one compiler adds its headers to, the one for another.
std::string headers_file(const Step& step) { return step.dependency_file + ".headers"; }

}  // namespace

std::string Runner::folder_of(const Step& step) const {
  return step.actions.empty() ? plan_.work : step.actions.front().folder;
}

void Runner::prepare(Running& running) const {
  const Step& step = plan_.steps[running.step];
  const auto make = [&](const std::string& folder) {
    // What a description says it makes elsewhere is its own business: nothing is made outside the kiln for it.
    if (files::lies_below(folder + "/x", plan_.kiln)) files::make_folder(folder);
  };
  for (const auto* list : {&step.outputs, &step.byproducts}) {
    for (const auto& output : *list) make(parent_of(output));
  }
  for (const auto& action : step.actions) {
    if (!action.folder.empty() && (files::is_below(action.folder, plan_.work) || action.folder == plan_.finished()))
      make(action.folder);
  }
  if (!step.calls.empty()) {
    make(parent_of(step.calls));
    ::unlink(step.calls.c_str());
  }
  if (step.dependency_file.empty()) return;
  make(parent_of(step.dependency_file));
  if (running.reads == Reads::noted) {
    ::unlink(step.dependency_file.c_str());
  } else if (running.reads == Reads::asked) {
    // Compilers add to these.
    ::unlink(step.dependency_file.c_str());
    ::unlink(headers_file(step).c_str());
  } else if (running.reads == Reads::kept &&
             (files::lies_below(step.dependency_file, plan_.kiln) || plan_.lies_among_results(step.dependency_file))) {
    // Compilers write into the file that is there: it is held by this program while its recipe moves it about.
    struct stat info {};
    running.kept_file_is_ours = ::lstat(step.dependency_file.c_str(), &info) != 0;
    running.kept_file =
        ::open(step.dependency_file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK, 0666);
    if (running.kept_file >= 0 && ::ftruncate(running.kept_file, 0) != 0) {
      ::close(running.kept_file);
      running.kept_file = -1;
    }
  }
}

Command Runner::command_for(const Running& running, const Action& action) const {
  const Step& step = plan_.steps[running.step];
  Command command;
  command.folder = action.folder;
  for (const auto& [name, value] : plan_.environment) command.environment[name] = value;
  for (const auto& [name, value] : action.environment) command.environment[name] = value;
  if (running.reads == Reads::asked) {
    // The headers that are read are added to these files, the system's among them: the first is GCC's ("Environment
    // Variables Affecting GCC"), the others are clang's.
    command.environment["SUNPRO_DEPENDENCIES"] = step.dependency_file + " x";
    command.environment["CC_PRINT_HEADERS"] = "1";
    command.environment["CC_PRINT_HEADERS_FILE"] = headers_file(step);
  } else if (running.reads == Reads::opened) {
    command.watch = WatchFor::opening;
  } else if (running.reads == Reads::watched) {
    command.watch = WatchFor::all;
  }
  // Where inner makes note how they were called.
  if (!step.calls.empty()) command.environment["COCTILIS_MAKE_STEP"] = step.calls;
  if (!options_.open_makes.empty()) command.environment["COCTILIS_MAKE_OPEN"] = options_.open_makes;
  if (action.how == Action::How::shell) {
    command.argv = {"/bin/sh", "-c", action.argv.at(0)};
  } else {
    command.argv = action.argv;
    const bool compiler = step.kind == StepKind::compile || step.kind == StepKind::link;
    if (compiler && !step.by_time && options_.colours && plan::has_colours(step.language))
      command.argv.insert(command.argv.begin() + 1, "-fdiagnostics-color=always");
  }
  // Messages are read by the doctor, who speaks one language.
  if (!step.language.empty()) command.environment["LC_ALL"] = "C.UTF-8";
  if (options_.hands_on_output) command.output_limit = files::most_bytes;
  command.writable = plan_.writable;
  if (!command.writable.empty() && !step.language.empty()) {
    for (auto& folder : locate::compiler_cache_folders()) command.writable.push_back(std::move(folder));
  }
  return command;
}

void Runner::note_refusal(Running& running, std::string_view output) const {
  if (plan_.in_copy() || plan_.writable.empty()) return;
  running.result.refused = running.result.refused || tells_of_refused_writing(output, plan_.tree);
}

int Runner::do_operation(const Step& step, const Action& action, std::string& output) const {
  // What is made after linking lies beside the folder of results, or in it.
  const std::string& root = step.kind == StepKind::finish ? plan_.kiln : plan_.output_root();
  if (const auto operation = plan::step_operation(action.argv.front())) {
    try {
      return operation({action.argv.begin() + 1, action.argv.end()}, root, output);
    } catch (const Fault& fault) {
      output += fault.problem().what + ": " + fault.problem().cause + "\n";
      return 1;
    }
  }
  return files::run_operation(action.argv, action.folder, root, output);
}

Runner::State Runner::go_on(Running& running) const {
  while (running.action < running.actions.size()) {
    const Action& action = running.actions[running.action];
    const auto failed = [&](const std::string& end) {
      if (action.may_fail) {
        running.result.ignored.push_back({end, as_written(action)});
        ++running.action;
        return false;
      }
      running.result.end = end;
      running.result.command = action.text();
      return true;
    };
    if (action.how == Action::How::builtin) {
      if (running.reads == Reads::watched)
        files::add_read_by_operation(action.argv, action.folder, running.files.read, running.files.listed);
      const int code = do_operation(plan_.steps[running.step], action, running.result.output);
      if (code == 0) {
        ++running.action;
        continue;
      }
      note_refusal(running, running.result.output);
      if (failed("exit code " + std::to_string(code))) return State::failed;
      continue;
    }
    running.process = Process::start(command_for(running, action));
    if (running.process.running()) return State::running;
    const Ended never = running.process.take();
    if (failed(never.text())) return State::failed;
  }
  return State::good;
}

Runner::State Runner::take(Running& running) const {
  Ended end = running.process.take();
  running.result.output += end.output;
  // A shell says 126 of a command that is there and may not be run: that is no refused writing.
  if (end.how != Ended::How::exited || end.code != 126) note_refusal(running, end.output);
  running.result.seconds += end.seconds;
  running.result.cpu_seconds += end.cpu_seconds;
  running.result.peak_kilobytes = std::max(running.result.peak_kilobytes, end.peak_kilobytes);
  if (running.reads == Reads::opened || running.reads == Reads::watched) {
    running.watched = running.watched && end.watched;
    running.files.add(std::move(end.files));
  }
  const Action& action = running.actions[running.action];
  if (end.truncated && options_.hands_on_output) {
    running.result.end = "it prints more than " + text::size(files::most_bytes);
    running.result.command = action.text();
    return State::failed;
  }
  if (!end.good()) {
    if (!action.may_fail) {
      running.result.end = end.text();
      running.result.command = action.text();
      return State::failed;
    }
    running.result.ignored.push_back({end.text(), as_written(action)});
  }
  ++running.action;
  if (running.reads == Reads::noted) {
    const auto noted = files::read(plan_.steps[running.step].dependency_file);
    running.watched = noted.has_value();
    if (noted) running.files.add(WatchedFiles::from(*noted));
  }
  return go_on(running);
}

std::optional<std::vector<std::string>> Runner::told(Running& running) const {
  const Step& step = plan_.steps[running.step];
  std::vector<std::string> out;
  if (step.dependency_file.empty()) return out;
  std::optional<std::string> content;
  if (running.kept_file >= 0) {
    struct stat info {};
    if (::fstat(running.kept_file, &info) == 0 && info.st_size > 0 &&
        static_cast<std::uint64_t>(info.st_size) <= files::most_bytes) {
      content.emplace(static_cast<std::size_t>(info.st_size), '\0');
      const ssize_t n = ::pread(running.kept_file, content->data(), content->size(), 0);
      content->resize(n > 0 ? static_cast<std::size_t>(n) : 0);
    }
  }
  if (!content || content->empty()) content = files::read(step.dependency_file);
  std::string folder = folder_of(step);
  if (!step.compilations.empty()) folder = step.compilations.front().folder;
  bool any = false;
  if (content && !content->empty()) {
    any = true;
    for (const auto& name : parse_dependency_file(*content)) out.push_back(files::absolute(name, folder));
  }
  if (running.reads == Reads::asked) {
    // A name a line; those of files that are read more than once come again.
    if (const auto names = files::read(headers_file(step)); names && !names->empty()) {
      any = true;
      for (const auto& name : text::split(*names, '\n')) {
        if (!name.empty()) out.push_back(files::absolute(name, folder));
      }
    }
  }
  if (!any && (running.reads == Reads::asked || running.reads == Reads::kept)) return std::nullopt;
  return out;
}

void Runner::finish(Running& running, bool good) const {
  if (running.kept_file < 0) return;
  struct stat info {};
  // What was only made to be held, and nobody wrote, goes again.
  const std::string& path = plan_.steps[running.step].dependency_file;
  if (!good && running.kept_file_is_ours && ::fstat(running.kept_file, &info) == 0 && info.st_size == 0) {
    struct stat named {};
    if (::lstat(path.c_str(), &named) == 0 && named.st_ino == info.st_ino) ::unlink(path.c_str());
  }
  ::close(running.kept_file);
  running.kept_file = -1;
}

}  // namespace coctilis::engine
