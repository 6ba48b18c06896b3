// The stages in their order. Each function needs what those above it left in the run, adds its own, and returns true;
// or it sets the run's problem and returns false. The command line calls as many as it needs.
#pragma once

#include <functional>
#include <map>
#include <memory>

#include "base/answers.h"
#include "base/files.h"
#include "engine/engine.h"
#include "engine/kiln.h"
#include "model/run.h"
#include "pipeline/keeping.h"
#include "pipeline/repeating.h"
#include "survey/fill.h"

namespace coctilis::pipeline {

// What the stages of one run hold on to.
struct Session {
  std::shared_ptr<engine::KilnLock> lock;
  std::unique_ptr<Answers> answers;                  // of compilers, kept between runs
  std::map<std::string, std::string> environment;    // of the tree's commands
  Keeping keeping;                                   // of what the description comes to
  Repeating repeating;                               // of a run that has nothing to do
  std::function<void(const std::string&)> progress;  // is told what goes on while a description is read; may be empty
};

// Ends a stage with that problem; false.
bool stop(model::Run& run, Problem problem);
// The tree's place. An archive is unpacked beside itself and its folder taken; `unpacked` is told the bytes so far.
bool open_tree(model::Run& run, const std::function<void(std::uint64_t)>& unpacked);
// coctilis.toml and the options of the command line.
bool settings(model::Run& run);
// Looks whether an earlier run that found everything up to date would come upon the same now. Then the stages up to
// `build` take what it came to, and the run has `repeats`. To be called before `survey`, by who goes on to `build`, or
// beyond that to make checks; the record of such a run is short.
bool repeat(model::Run& run, bool checks, Session& session);
// What is in the tree.
bool survey(model::Run& run, Session& session);
// Brings in the submodules and sources that are missing, and surveys the tree again. Only when the user asked for it.
bool fill(model::Run& run, Session& session, survey::FillObserver& observer);
// True when a submodule or source is empty and something says at which revision it is wanted.
[[nodiscard]] bool can_be_filled(const model::Run& run);
// The tool chain and the kiln, which is locked from here on.
bool toolchain(model::Run& run, Session& session);
// When the description that was followed cannot be understood, and the user named none: follows the next one that can
// be. False when there is none. After it the stages from `locate` on have to be run again; `note` gets what happened.
bool follow_another(model::Run& run, Session& session, std::string& note);
// When the build failed because commands of the description may not write into the tree: sees to it that a copy of the
// tree in the kiln is read and built. False when it did not fail for that. After it the stages from `locate` on have to
// be run again; `note` gets what happened.
bool build_a_copy(model::Run& run, Session& session, std::string& note);
// Reads the description, locating what it asks for. Fails with Exit::missing when required ones are missing.
bool locate(model::Run& run, Session& session);
// Runs the command that installs what is missing: as it is for the administrator, with sudo on a terminal. After it the
// stages from `toolchain` on have to be run again. Fails with what the command said.
bool install(model::Run& run, Session& session, bool on_terminal);
// Steps, and the compile database.
bool plan(model::Run& run, Session& session);
// Finds out what build would do, for run.due; does nothing of it.
bool look_what_is_due(model::Run& run);
// Runs the steps; shows the results in bin/ and lib/.
bool build(model::Run& run, Session& session, engine::Observer& observer);
// Installs into the prefix of the command line; recipes that do it may write there and in the kiln only.
bool stage(model::Run& run);
// Keeps the record of the run; after it `run.number` is set. A record that cannot be written is a problem only if
// there is none yet.
void record(model::Run& run, Session& session);

}  // namespace coctilis::pipeline
