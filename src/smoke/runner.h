// Runs programs for checks: as their user starts them, under an emulator where they are another machine's, in copies of
// what they may not write to.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <vector>

#include "base/answers.h"
#include "base/confine.h"
#include "base/files.h"
#include "base/loader.h"
#include "base/process.h"
#include "model/plan.h"
#include "model/toolchain.h"
#include "smoke/observation.h"

namespace coctilis::smoke {

// A program that is being observed.
class Observing {
 public:
  // Has it come to its end, by itself or at its limit? To be asked again and again.
  bool ended();
  [[nodiscard]] Observation take();

 private:
  friend class Runner;
  [[nodiscard]] bool serves();
  Process process_;
  Observation seen_;
  bool ends_when_serving_ = false;
  double next_look_ = 0.25;
  double serves_since_ = 0;
};

class Runner {
 public:
  // `toolchain`: of programs made for another machine; may be null. All must outlive this.
  Runner(const model::Plan& plan, const model::Toolchain* toolchain) : plan_(plan), toolchain_(toolchain) {}

  // Starts the command and waits for its end, at most `limit` seconds. The superuser goes without the right to override
  // the modes of files, as checks are written for users, unless it has `all_rights`. `ends_when_serving`: one that
  // waits for connections has shown what is asked of it.
  [[nodiscard]] Observation observe(Command& command, double limit, bool all_rights = false,
                                    bool ends_when_serving = false) const;

  // The same, begun only.
  [[nodiscard]] Observing begin(Command& command, double limit, bool all_rights = false) const;

  // What is to be called again and again while programs are waited for, under the name of `who`: those that run beside
  // are looked at there. Nothing: no more.
  void beside(const void* who, std::function<void()> look) {
    if (look)
      beside_[who] = std::move(look);
    else
      beside_.erase(who);
  }
  void look_beside() const {
    for (const auto& [who, look] : beside_) look();
  }
  // Whether failing programs are looked into by the debugger in depth.
  void debug(bool yes) { debugs_ = yes; }
  [[nodiscard]] bool debugs() const { return debugs_; }
  // Programs are started although it is known that they start.
  void start_anew(bool yes) { starts_anew_ = yes; }
  [[nodiscard]] bool starts_anew() const { return starts_anew_; }
  // A program whose shared libraries are not found: one failure is enough of that, so that no other check runs it.
  void cannot_load(const std::string& program) { unloadable_.insert(program); }
  [[nodiscard]] bool loads(const std::string& program) const { return !unloadable_.contains(program); }
  // What checks have come to, kept in the kiln together with the files that they hang on.
  [[nodiscard]] Answers& kept();
  // The shared libraries that a program needs; the tree's own are looked for in `first` as well.
  [[nodiscard]] LoadResult libraries_of(const std::string& program, const std::vector<std::string>& first = {}) {
    return resolve_libraries(program, foreign_folders(), first, &system_libraries_);
  }
  // The tree belongs to who runs this.
  [[nodiscard]] bool is_own_tree() const;

  // What a check may write to, whose own folder is `folder`.
  [[nodiscard]] std::vector<std::string> writable_with(const std::string& folder) const {
    auto out = plan_.writable.empty() ? confinement_of(plan_.tree, plan_.kiln).writable : plan_.writable;
    out.push_back(folder);
    return out;
  }

  // ---- programs
  // What starts a program as its user does.
  [[nodiscard]] static const std::string& started_by(const model::PlannedTarget& target) {
    return target.starter.empty() ? target.output : target.starter;
  }
  // The program that a check names: one of the tree, or a path, or one on PATH; empty when there is none.
  [[nodiscard]] std::string program_path(const std::string& name) const;
  // The words with the emulator before them, where the program is another machine's.
  [[nodiscard]] std::vector<std::string> launched(std::vector<std::string> argv) const;
  [[nodiscard]] bool is_emulated(const std::vector<std::string>& argv) const;
  // It is a program of another machine.
  [[nodiscard]] bool is_foreign(const std::string& program) const;
  // Why a program cannot be started here; empty when it can.
  [[nodiscard]] std::string cannot_start(const std::string& program) const;
  // Where the system of the other machine has its libraries.
  [[nodiscard]] std::vector<std::string> foreign_folders() const;
  // Folders of the shared libraries that the tree makes.
  [[nodiscard]] std::vector<std::string> library_folders() const;

  // ---- the tree and its copy
  // ${tree}, ${kiln} and ${finished} in a check's words.
  [[nodiscard]] std::string with_folders(std::string text) const;
  // A folder of the tree in the copy of it, which is made once and gone when this goes.
  [[nodiscard]] std::string in_copy(const std::string& folder);
  // The same words with what they name of the tree replaced by its copy, so that a test may write beside what it reads;
  // what the kiln holds stays.
  [[nodiscard]] std::string with_copy(const std::string& words);
  // The command as it runs where a copy lies in place of the tree, with a home of its own.
  [[nodiscard]] Command in_place(Command command);
  // The next that runs in it gets a new one.
  void forget_copy() { copy_.reset(); }
  // The folder of the copy; empty when there is none yet.
  [[nodiscard]] std::string copy() const { return copy_ ? copy_->path().string() : std::string{}; }

  [[nodiscard]] const model::Plan& plan() const { return plan_; }

 private:
  void copy_tree(const std::string& from, const std::string& to) const;

  const model::Plan& plan_;
  const model::Toolchain* toolchain_;
  std::unique_ptr<files::ScratchFolder> copy_;
  std::unique_ptr<files::ScratchFolder> home_;
  std::map<const void*, std::function<void()>> beside_;
  std::set<std::string> unloadable_;
  std::unique_ptr<Answers> kept_;
  SystemLibraries system_libraries_;
  bool debugs_ = false;
  bool starts_anew_ = false;
};

}  // namespace coctilis::smoke
