#include "smoke/workplace.h"

#include <unistd.h>

#include "base/sandbox.h"
#include "base/text.h"
#include "doctor/checks.h"
#include "locate/known.h"
#include "smoke/excuses.h"

namespace coctilis::smoke {

using model::Verdict;

namespace {

// Copies a file, or a folder with all in it, where what is there already is not as new. False when that fails; `error`
// says why.
bool copy_newer(const std::string& from, const std::string& to, std::error_code& error) {
  namespace fs = std::filesystem;
  fs::create_directories(fs::path(to).parent_path(), error);
  if (error) return false;
  if (!fs::is_directory(from, error)) {
    fs::copy_file(from, to, fs::copy_options::update_existing, error);
    return !error;
  }
  fs::copy(from, to, fs::copy_options::recursive | fs::copy_options::update_existing | fs::copy_options::copy_symlinks,
           error);
  return !error;
}

}  // namespace

Workplace::Workplace(Runner& runner, const model::Surroundings& asked, const std::string& program,
                     std::map<std::string, std::string> values, bool shares_network)
    : runner_(runner), asked_(asked), values_(std::move(values)), shares_network_(shares_network), scratch_("check") {
  const std::string path = runner_.program_path(with_values(program));
  values_.emplace("program", std::filesystem::path(path).parent_path().string());
  folder_ = seen_folder_ = scratch_.path().string();
  if (!asked_.folder.empty()) {
    const auto& plan = runner_.plan();
    seen_folder_ = folder_ = files::absolute(with_values(asked_.folder), plan.tree);
    in_tree_ = files::is_below(folder_, plan.tree) && !files::is_below(folder_, plan.kiln);
    // What it writes there is written to a copy.
    if (in_tree_) folder_ = runner_.in_copy(folder_);
    if (!files::is_folder(folder_)) {
      obstacle_ = Judgement{Verdict::failed, "its working folder is not there: " + seen_folder_};
      obstacle_->remedy = "leave folder out for an empty one, or make " + seen_folder_;
      return;
    }
  }
  if (!asked_.folder.empty() && !in_tree_ && (!asked_.files.empty() || !asked_.folders.empty())) {
    obstacle_ =
        Judgement{Verdict::failed,
                  "files and folders are put into a folder of the tree, or an empty one, not into " + seen_folder_};
    obstacle_->remedy = "leave folder out";
    return;
  }
  put_files();
  find_devices();
}

void Workplace::put_files() {
  std::error_code error;
  for (const auto& name : asked_.folders) {
    std::filesystem::create_directories(file(with_values(name)), error);
    if (error && !obstacle_) cannot_put("the folder '" + name + "' cannot be made", error);
  }
  for (const auto& [from, to] : asked_.files) {
    const std::string path = files::absolute(with_values(from), runner_.plan().tree);
    if (!files::exists(path)) {
      obstacle_ =
          Judgement{Verdict::failed, "the file '" + from + "' that is to lie in its working folder is not there"};
      obstacle_->remedy = "bring it in, or name another in files";
      return;
    }
    if (!copy_newer(path, file(with_values(to)), error))
      return cannot_put("'" + from + "' cannot be put into its working folder", error);
  }
}

void Workplace::cannot_put(const std::string& what, const std::error_code& error) {
  obstacle_ = Judgement{Verdict::failed, what + ": " + error.message()};
  obstacle_->remedy = "see that it may be read, and that no file lies where a folder is to be";
}

void Workplace::find_devices() {
  for (const auto& device : asked_.devices) {
    if (device == "display" ? has_display() : files::exists(device)) continue;
    obstacle_ = Judgement{Verdict::skipped, device == "display" ? std::string(wants_display)
                                                                : "it wants " + device + ", which is not there"};
    return;
  }
}

std::string Workplace::made_file(const std::string& name) const {
  std::string path = files::absolute(name, folder_);
  return files::is_file(path) && !files::is_link(path) && files::lies_below(path, folder_) ? path : std::string{};
}

std::string Workplace::with_values(std::string text) const {
  text = runner_.with_folders(std::move(text));
  for (const auto& [name, value] : values_) text = text::replace_all(std::move(text), "${" + name + "}", value);
  return text;
}

std::string shell_of_user() {
  const char* own = std::getenv("SHELL");
  return own != nullptr && own[0] == '/' && files::is_program(own) ? own : "/bin/sh";
}

Workplace::Start Workplace::start_of_shell() {
  // What starts the check's program does not start a shell.
  starts_shell_ = true;
  Start out = start_of({shell_of_user()});
  starts_shell_ = false;
  out.command.watch = WatchFor::nothing;
  return out;
}

Workplace::Start Workplace::start_of(const std::vector<std::string>& run, const std::optional<std::string>& input,
                                     const std::string& input_file) {
  Start out;
  const auto cannot = [&](Verdict verdict, std::string reason, std::string remedy = {}) {
    out.obstacle = Judgement{verdict, std::move(reason)};
    out.obstacle->remedy = std::move(remedy);
    return std::move(out);
  };
  Command& command = out.command;
  for (const auto& word : run) command.argv.push_back(with_values(word));
  out.program = runner_.program_path(command.argv.front());
  if (out.program.empty() || !files::is_program(out.program))
    return cannot(Verdict::failed, "'" + command.argv.front() + "' is no program of the tree and none on PATH",
                  "coctilis plan lists the programs of the tree");
  command.argv.front() = out.program;
  command.argv = runner_.launched(std::move(command.argv));
  out.emulated = runner_.is_emulated(command.argv);
  if (const std::string why = runner_.cannot_start(out.program); !why.empty()) return cannot(Verdict::skipped, why);
  if (!runner_.loads(out.program))
    return cannot(Verdict::skipped, "the shared libraries of '" + run.front() + "' are not found");
  if (!asked_.launcher.empty() && !starts_shell_) {
    std::vector<std::string> launcher;
    for (const auto& word : asked_.launcher) launcher.push_back(with_values(word));
    const std::string path = runner_.program_path(launcher.front());
    if (path.empty()) {
      const std::string package = locate::package_of_program(launcher.front());
      return cannot(Verdict::skipped, "what starts it, '" + launcher.front() + "', is not installed",
                    doctor::install_or(package, ""));
    }
    launcher.front() = path;
    command.argv.insert(command.argv.begin(), launcher.begin(), launcher.end());
  }
  for (const auto& [name, value] : asked_.environment) command.environment[name] = with_values(value);
  if (input) {
    if (!inputs_) inputs_ = std::make_unique<files::ScratchFolder>("input");
    command.input = inputs_->path().string() + "/" + std::to_string(++input_);
    files::write(command.input, with_values(*input));
  } else if (!input_file.empty()) {
    const std::string here = made_file(with_values(input_file));
    command.input = !here.empty() ? here : files::absolute(with_values(input_file), runner_.plan().tree);
    if (!files::is_file(command.input))
      return cannot(Verdict::failed, "its input, the file '" + input_file + "', is not there");
  }
  out.shown = text::shell_join(command.argv);
  command.folder = seen_folder_;
  command.watch = WatchFor::opening;
  // In place of the tree a program has a network of its own.
  if (in_tree_ && !shares_network_ && sandbox::why_not().empty() && !sandbox::inside()) {
    command = runner_.in_place(std::move(command));
    // The home folder that goes with it is not what its user has asked for.
    for (const auto& [name, value] : asked_.environment) command.environment[name] = with_values(value);
  } else {
    // A folder that is named, wherever it is, is not one that it may write to.
    command.writable = runner_.writable_with(scratch_.path().string());
    if (in_tree_) {
      command.folder = folder_;
      command.writable.push_back(runner_.copy());
    }
  }
  return out;
}

}  // namespace coctilis::smoke
