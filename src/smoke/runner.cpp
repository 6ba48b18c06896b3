#include "smoke/runner.h"

#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>

#include "base/confine.h"
#include "base/elf.h"
#include "base/own_program.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "smoke/excuses.h"
#include "smoke/processes.h"

namespace coctilis::smoke {

Answers& Runner::kept() {
  if (!kept_) kept_ = std::make_unique<Answers>(plan_.kiln + "/checked/answers", true);
  return *kept_;
}

bool Runner::is_own_tree() const {
  struct stat info {};
  return ::stat(plan_.tree.c_str(), &info) == 0 && info.st_uid == ::geteuid();
}

bool Observing::ended() {
  if (interrupted_by != 0) process_.stop(Ended::How::interrupted);
  if (process_.running() && !seen_.waited && (process_.age() > seen_.limit || serves())) {
    seen_.waited = true;
    // A server that waits for somebody is not one that hangs.
    seen_.listening = !listening_ports(process_.pid()).empty();
    seen_.waits_for = what_it_waits_for(process_.pid());
    process_.stop(Ended::How::timed_out);
  }
  return process_.poll();
}

// Whether it has waited for connections for a second: a server that has started is not waited for any longer.
bool Observing::serves() {
  constexpr double between = 0.25;
  if (!ends_when_serving_ || process_.age() < next_look_) return false;
  next_look_ = process_.age() + between;
  if (!what_it_waits_for(process_.pid()).starts_with("connections"))
    serves_since_ = 0;
  else if (serves_since_ == 0)
    serves_since_ = process_.age();
  return serves_since_ > 0 && process_.age() - serves_since_ >= 1;
}

Observation Observing::take() {
  seen_.ended = process_.take();
  return std::move(seen_);
}

Observing Runner::begin(Command& command, double limit, bool all_rights) const {
  // Where the tree is someone else's, the superuser needs its rights to read it at all.
  command.modes_count = !all_rights && is_own_tree();
  // Where nothing can be shown, programs that know this word draw into memory.
  if (!has_display() && std::getenv("QT_QPA_PLATFORM") == nullptr)
    command.environment.try_emplace("QT_QPA_PLATFORM", "offscreen");
  Observing out;
  out.seen_.limit = limit;
  out.process_ = Process::start(command);
  return out;
}

Observation Runner::observe(Command& command, double limit, bool all_rights, bool ends_when_serving) const {
  Observing observing = begin(command, limit, all_rights);
  observing.ends_when_serving_ = ends_when_serving;
  while (!observing.ended()) {
    look_beside();
    ::usleep(2000);
  }
  return observing.take();
}

bool Runner::is_emulated(const std::vector<std::string>& argv) const {
  return toolchain_ != nullptr && !toolchain_->launcher.empty() && !argv.empty() &&
         argv.front() == toolchain_->launcher.front();
}

bool Runner::is_foreign(const std::string& program) const {
  if (toolchain_ == nullptr || !toolchain_->foreign) return false;
  const auto facts = read_elf(program);
  return facts && fits_machine(*facts, toolchain_->machine);
}

std::vector<std::string> Runner::launched(std::vector<std::string> argv) const {
  if (!is_foreign(argv.front())) return argv;
  argv.insert(argv.begin(), toolchain_->launcher.begin(), toolchain_->launcher.end());
  return argv;
}

std::string Runner::cannot_start(const std::string& program) const {
  if (!is_foreign(program) || !toolchain_->launcher.empty()) return {};
  return "it is for " + toolchain_->machine +
         ", and there is no emulator for that here (the package qemu-user has one)";
}

std::vector<std::string> Runner::foreign_folders() const {
  if (toolchain_ == nullptr || !toolchain_->foreign) return {};
  return toolchain_->any().link_folders;
}

std::vector<std::string> Runner::library_folders() const {
  std::vector<std::string> out;
  for (const auto& target : plan_.targets) {
    const std::string folder = std::filesystem::path(target.output).parent_path().string();
    if (target.kind == model::TargetKind::shared_library && std::find(out.begin(), out.end(), folder) == out.end())
      out.push_back(folder);
  }
  return out;
}

std::string Runner::program_path(const std::string& name) const {
  // Of several results of one name, one that is there is meant.
  std::string out;
  for (const bool by_name : {true, false}) {
    for (const auto& target : plan_.targets) {
      if (target.output.empty()) continue;
      if ((by_name ? target.name : std::filesystem::path(target.output).filename().string()) != name) continue;
      if (files::is_program(started_by(target))) return started_by(target);
      if (out.empty()) out = started_by(target);
    }
  }
  if (!out.empty()) return out;
  if (name.find('/') != std::string::npos) return files::absolute(name, plan_.tree);
  return find_program(name);
}

std::string Runner::with_folders(std::string text) const {
  const std::pair<const char*, std::string> folders[] = {
      {"${tree}", plan_.tree}, {"${kiln}", plan_.kiln}, {"${finished}", plan_.finished()}};
  for (const auto& [name, folder] : folders) text = text::replace_all(std::move(text), name, folder);
  return text;
}

std::string Runner::in_copy(const std::string& folder) {
  if (!copy_) {
    copy_ = std::make_unique<files::ScratchFolder>("tree");
    copy_tree(plan_.tree, copy_->path().string());
  }
  const std::string below = files::below(folder, plan_.tree);
  return below == "." ? copy_->path().string() : copy_->path().string() + "/" + below;
}

std::string Runner::with_copy(const std::string& words) {
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

Command Runner::in_place(Command command) {
  const std::string copy = in_copy(plan_.tree);
  if (!home_) home_ = std::make_unique<files::ScratchFolder>("home");
  std::vector<std::string> call = {own_program(), "run-confined"};
  for (const auto& folder : plan_.writable) call.insert(call.end(), {"--write", folder});
  if (sandbox::allowed().network) call.emplace_back("--network");
  for (const auto& device : sandbox::allowed().devices) call.insert(call.end(), {"--device", device});
  call.insert(call.end(), {"--limits", sandbox::to_word(sandbox::allowed().limits)});
  // With the tree out of reach, it may use the folders for temporary files that the tree lies in as well: what
  // tmpfile(3) makes lies in one, whatever the environment says.
  for (const auto& folder : temporary_folders_without({})) call.insert(call.end(), {"--write", folder});
  for (const auto& folder : {plan_.tree, home_->path().string()}) call.insert(call.end(), {"--write", folder});
  call.insert(call.end(), {"--in-place-of", plan_.tree, "--copy", copy, "--kiln", plan_.kiln, "--"});
  command.argv.insert(command.argv.begin(), call.begin(), call.end());
  command.environment["HOME"] = home_->path().string();
  return command;
}

void Runner::copy_tree(const std::string& from, const std::string& to) const {
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

}  // namespace coctilis::smoke
