#include "describe/script/reader.h"

#include <re2/re2.h>

#include <cstdio>
#include <cstdlib>
#include <set>

#include "base/confine.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/kept_value.h"
#include "base/own_program.h"
#include "base/shared_count.h"
#include "base/text.h"
#include "describe/mirror.h"
#include "describe/script/arguments.h"
#include "survey/languages.h"

namespace coctilis::describe::script {

namespace {

std::string identities_of(const model::Toolchain& toolchain) {
  std::string out;
  for (const auto& [language, compiler] : toolchain.compilers) out += compiler.identity;
  return out;
}

std::string beside(const std::string& work, const char* name) {
  return std::filesystem::path(work).parent_path().string() + "/watched/" + name;
}
std::string state_path(const std::string& work) { return beside(work, "script.state"); }

// Every file of the mirror that came from the tree: the names of all, and the content of what is no source. Sources may
// change without the script having to run, as far as it does not read them itself.
std::string contents_of(const std::string& tree, const std::string& work) {
  std::string all;
  for (const auto& path : mirrored_files(work)) {
    const bool source = !survey::compiled_language(path).empty();
    const auto hash = source ? std::nullopt : hash_file(tree + "/" + path);
    all += path + " " + (hash ? hash->text() : "") + "\n";
  }
  return hash_bytes(all).text();
}

// The values of the variables that the script refers to.
std::string environment_for(const std::string& script) {
  std::set<std::string> names = text::variables_in(script);
  names.insert({"PATH", "CPATH", "LIBRARY_PATH", "C_INCLUDE_PATH", "CPLUS_INCLUDE_PATH", "LANG", "LC_ALL"});
  std::string out;
  for (const auto& name : names) {
    if (name == "PWD" || name == "OLDPWD" || name == "SHLVL") continue;
    if (const char* value = std::getenv(name.c_str()); value != nullptr) out += name + "=" + value + "\n";
  }
  return out;
}

std::vector<std::string> interpreter_of(const std::string& content) {
  if (content.starts_with("#!")) {
    auto words = text::words(content.substr(2, content.find('\n') - 2));
    if (!words.empty() && files::is_program(words[0])) return words;
  }
  return {"/bin/sh"};
}

}  // namespace

Learned last_run(const std::string& work) { return learned_from(state_path(work)); }

int run_script(const ScriptRun& script) {
  const std::string kiln = std::filesystem::path(script.work).parent_path().string();
  SharedCount steps(script.count);
  const Learned before = learned_from(script.state);
  steps.add(0, static_cast<std::int64_t>(before.recipes.size()));
  std::error_code error;
  std::filesystem::remove(script.state, error);
  // A script may build on what it finds: what it made last time may be of sources that are no more.
  if (const auto cleaned = take_away_what_was_made(script.tree, script.work); !cleaned) {
    std::fprintf(stderr, "%s: %s\n", cleaned.problem().what.c_str(), cleaned.problem().cause.c_str());
    return 126;
  }
  std::vector<Role> roles;
  WatchedRunObserver observer;
  observer.started = [&](const WatchedRun& run, std::size_t index) { roles.push_back(role_of(run, index, roles)); };
  observer.ended = [&](const WatchedRun& run, std::size_t index) {
    if (roles[index] == Role::step && run.programs[index].exit == 0) steps.add(1, 0);
  };
  const WatchedRun run = run_watched(script.argv, script.folder.empty() ? script.work : script.folder,
                                     confinement_of(script.work, kiln).writable, observer);
  if (!run.failure.empty()) {
    std::fprintf(stderr, "%s\n", run.failure.c_str());
    return 126;
  }
  if (run.exit != 0) return run.exit;
  const auto mirrored = mirrored_files(script.work);
  const Learned learned = learn(run, script.work, {mirrored.begin(), mirrored.end()});
  if (run.files_seen) {
    WatchedFiles all;
    for (const auto& program : run.programs) {
      WatchedFiles copy = program.files;
      all.add(std::move(copy));
    }
    files::write(script.notes, all.text());
  }
  keep_value(script.state, learned);
  return 0;
}

Result<model::Project> read(const ReadRequest& request) {
  const auto& file = request.file;
  const auto& survey = request.survey;
  const auto& locator = request.locator;
  const auto& work = request.work;
  const auto& services = request.services;
  return guarded("reading a script", [&] {
    files::make_folder(std::filesystem::path(state_path(work)).parent_path());
    if (auto mirrored = mirror(survey.tree, work, services.made_by_step); !mirrored) throw Fault(mirrored.problem());
    const std::string name = files::below(file, survey.tree);
    const std::string content = files::read(work + "/" + name).value_or("");
    const auto end = content.find('\n');
    if (end != std::string::npos && end > 0 && content[end - 1] == '\r')
      throw Fault({Exit::description,
                   {name, 1, 0},
                   "the script has line ends of another system (CR LF), which no shell takes",
                   {},
                   "check the tree out without changing line ends",
                   {}});
    if (text::trim(content).empty())
      throw Fault(
          {Exit::description, {name, 1, 0}, "the script is empty", {}, "name another with [tree] description", {}});
    std::vector<std::string> argv = interpreter_of(content);
    const std::string folder = std::filesystem::path(work + "/" + name).parent_path().string();
    argv.push_back("./" + std::filesystem::path(name).filename().string());
    const Arguments arguments =
        arguments_for(name, content, survey.tree, locator.settings().arguments, locator.settings().variant);
    for (const auto& word : arguments.words) argv.push_back(word);
    const std::string identity =
        hash_bytes(text::join(argv, "\n") + "\n" + hash_bytes(content).text() + "\n" + contents_of(survey.tree, work) +
                   "\n" + environment_for(content) + identities_of(locator.toolchain()))
            .text();
    const std::string learned_path = state_path(work);
    const std::string seen_path = learned_path + ".seen";
    Learned learned = last_run(work);
    model::Project project;
    project.name = std::filesystem::path(survey.tree).filename().string();
    project.tree = survey.tree;
    project.binary_root = work;
    project.by_recipes = true;
    project.complete = false;  // the script, or the steps that were learned of it
    project.read_files = {file};
    // What the last run learned counts only for the tree it ran on.
    if (!locator.settings().rerun && learned.replayable && files::read(seen_path) == identity + "\n" &&
        is_as_learned(learned, survey.tree, work)) {
      for (auto& recipe : learned.recipes) {
        recipe.place = {name, 0, 0};
        project.recipes.push_back(std::move(recipe));
      }
      project.messages.push_back("the script's own steps are replayed: only sources may have changed");
      return project;
    }
    std::error_code error;
    // Whether the script has to run is for its step to say; where that could do without it, its notes are the result
    // that is missing.
    if (learned.replayable) std::filesystem::remove(learned_path, error);
    model::Recipe recipe;
    recipe.name = name;
    // A mark that stands for the whole; what it hangs on is told by its notes.
    recipe.outputs = {learned_path};
    recipe.inputs = {work + "/" + name};
    if (!FileWatch::possible()) {
      for (const auto& path : mirrored_files(work)) recipe.inputs.push_back(work + "/" + path);
    }
    recipe.folder = folder;
    recipe.shell = {"/bin/sh", "-c"};
    recipe.notes = beside(work, "script.notes");
    std::vector<std::string> call = {own_program(), "run-watched", "--tree", survey.tree, "--work",
                                     work,          "--folder",    folder,   "--state",   learned_path,
                                     "--notes",     recipe.notes,  "--"};
    call.insert(call.end(), argv.begin(), argv.end());
    recipe.lines = {{text::shell_join(call), false, false, false}};
    recipe.place = {name, 0, 0};
    recipe.phony = locator.settings().rerun;
    project.recipes.push_back(std::move(recipe));
    files::write_if_different(seen_path, identity + "\n");
    if (!arguments.from.file.empty())
      project.warnings.push_back({Exit::done,
                                  arguments.from,
                                  "the script is called as it stands there: " + text::shell_join(argv),
                                  {},
                                  {},
                                  {}});
    if (!learned.replayable && !learned.why_not.empty())
      project.warnings.push_back({Exit::done,
                                  {name, 0, 0},
                                  "the script runs as a whole when something changes: " + learned.why_not,
                                  {},
                                  {},
                                  {}});
    return project;
  });
}

namespace {
// Names like "build" and "compile" are those of folders, of data and of helpers, too.
bool is_script(const std::string& path) {
  const std::string beginning = files::read_beginning(path, 4096);
  // Helpers that generators of configure scripts put into trees tell their date in this form.
  if (beginning.find("scriptversion=") != std::string::npos) return false;
  if (path.ends_with(".sh") || path.ends_with(".bash")) return true;
  if (beginning.starts_with("#!")) return true;
  // A few lines for a shell, which starts them as it would any.
  static const RE2 compiles(R"((?m)^[ \t]*(?:cc|gcc|g\+\+|c\+\+|clang|clang\+\+|gfortran)[ \t]+-?\w)");
  return files::is_program(path) && beginning.find('\0') == std::string::npos && RE2::PartialMatch(beginning, compiles);
}
}  // namespace

Reader reader() {
  Reader out;
  out.format = {"build.sh",
                {{"build.sh", 9},        {"Build.sh", 9},        {"build", 9},           {"Build", 9},
                 {"compile.sh", 10},     {"compile", 10},        {"make.sh", 10},        {"Make.sh", 10},
                 {"makeall", 10},        {"makeall.sh", 10},     {"makeit", 10},         {"makeit.sh", 10},
                 {"mk.sh", 10},          {"mkall", 10},          {"mkall.sh", 10},       {"buildall", 10},
                 {"buildall.sh", 10},    {"build-all.sh", 10},   {"build_all.sh", 10},   {"buildit.sh", 10},
                 {"compile-all.sh", 10}, {"compile_all.sh", 10}, {"build-linux.sh", 10}, {"build_linux.sh", 10},
                 {"build.bash", 10},     {"build.pl", 10},       {"build-unix.sh", 10},  {"build_unix.sh", 10}},
                true,
                [](const std::string& path) { return path.ends_with(".sh") || files::read_beginning(path, 2) == "#!"; },
                {}};
  out.format.counts = is_script;
  out.format.is_often_helper = true;
  out.runs_recipes = true;
  out.keeps_plan = false;  // a script tells what it does only by running
  out.read = read;
  return out;
}

}  // namespace coctilis::describe::script
