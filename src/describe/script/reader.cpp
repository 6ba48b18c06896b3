#include "describe/script/reader.h"

#include <cstdio>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/hash.h"
#include "base/shared_count.h"
#include "base/text.h"
#include "describe/commands.h"
#include "describe/mirror.h"
#include "survey/languages.h"

namespace coctilis::describe::script {

namespace {

using nlohmann::json;

std::string state_path(const std::string& work) {
  return std::filesystem::path(work).parent_path().string() + "/script.json";
}

// Every file of the mirror that came from the tree, with its content; sources apart from the rest.
struct Contents {
  std::map<std::string, std::string> sources;
  std::string rest;
};
Contents contents_of(const std::string& tree, const std::string& work) {
  Contents out;
  std::string all;
  for (const auto& path : mirrored_files(work)) {
    const auto hash = hash_file(tree + "/" + path);
    const std::string text = hash ? hash->text() : "";
    if (!survey::compiled_language(path).empty())
      out.sources[path] = text;
    else
      all += path + " " + text + "\n";
  }
  for (const auto& [path, text] : out.sources) all += path + "\n";  // one more or less is more than a change
  out.rest = hash_bytes(all).text();
  return out;
}

std::vector<std::string> interpreter_of(const std::string& content) {
  if (content.starts_with("#!")) {
    auto words = text::words(content.substr(2, content.find('\n') - 2));
    if (!words.empty() && files::is_program(words[0])) return words;
  }
  return {"/bin/sh"};
}

json to_json(const model::Recipe& recipe) {
  return {{"name", recipe.name},
          {"outputs", recipe.outputs},
          {"inputs", recipe.inputs},
          {"folder", recipe.folder},
          {"environment", recipe.environment.values()},
          {"line", recipe.lines.at(0).command}};
}

}  // namespace

namespace {

enum class Role {
  other,
  step,    // compiles, archives or links
  within,  // part of what a step does
};

// `before`: the roles of the programs that started before it.
Role role_of(const WatchedRun& run, std::size_t index, const std::vector<Role>& before) {
  const auto& program = run.programs[index];
  if (program.parent >= 0 && before[static_cast<std::size_t>(program.parent)] != Role::other) return Role::within;
  if (program.argv.empty()) return Role::other;
  const auto done = understand(std::vector<std::vector<std::string>>{program.argv}, program.folder);
  return done.empty() || done.front().output.empty() ? Role::other : Role::step;
}

}  // namespace

Learned learn(const WatchedRun& run, const std::string& work) {
  // Programs that change nothing of what was made.
  static const std::set<std::string> harmless = {
      "sh",      "bash", "dash",  "mkdir", "echo", "printf", "test",   "[",   "true", "uname", "date", "basename",
      "dirname", "expr", "which", "grep",  "sed",  "awk",    "cat",    "ls",  "find", "wc",    "head", "tail",
      "sort",    "tr",   "cut",   "nproc", "pwd",  "env",    "ranlib", "git", "id",   "tput",  "sleep"};
  Learned out;
  out.replayable = true;
  std::vector<Role> roles;
  std::set<std::string> made;
  bool any = false;
  for (std::size_t i = 0; i < run.programs.size(); ++i) {
    const auto& program = run.programs[i];
    roles.push_back(role_of(run, i, roles));
    if (roles.back() == Role::within || program.argv.empty()) continue;
    if (roles.back() == Role::other) {
      const std::string name = std::filesystem::path(program.argv.front()).filename().string();
      if (any && i > 0 && out.replayable && !harmless.contains(name)) {
        out.replayable = false;
        out.why_not = "it runs " + name + " on what was made";
      }
      continue;
    }
    if (program.exit != 0) continue;
    any = true;
    const auto done = understand(std::vector<std::vector<std::string>>{program.argv}, program.folder);
    const auto& one = done.front();
    model::Recipe recipe;
    recipe.name = files::below(one.output, work);
    recipe.outputs = {one.output};
    recipe.inputs = one.sources;
    for (std::size_t k = 1; k < program.argv.size(); ++k) {
      const std::string path = files::absolute(program.argv[k], program.folder);
      if (program.argv[k].starts_with('-') || path == one.output || !files::is_file(path)) continue;
      if (std::find(recipe.inputs.begin(), recipe.inputs.end(), path) == recipe.inputs.end() &&
          (made.contains(path) || path.ends_with(".o") || path.ends_with(".a")))
        recipe.inputs.push_back(path);
    }
    recipe.folder = program.folder;
    recipe.environment = program.environment;
    recipe.shell = {"/bin/sh", "-c"};
    recipe.lines = {{text::shell_join(program.argv), false, false, false}};
    if (!made.insert(one.output).second) {
      out.replayable = false;
      out.why_not = "it makes " + recipe.name + " twice";
    }
    out.recipes.push_back(std::move(recipe));
  }
  for (const auto& recipe : out.recipes) {
    if (files::is_file(recipe.outputs.front())) continue;
    out.replayable = false;
    out.why_not = recipe.name + " is not there any more at its end";
  }
  if (out.recipes.empty()) {
    out.replayable = false;
    out.why_not = "nothing that it runs is understood";
  }
  return out;
}

std::vector<model::Compilation> learned_compilations(const std::string& work) {
  std::vector<model::Compilation> out;
  const json learned = json::parse(files::read(state_path(work)).value_or("{}"), nullptr, false);
  if (!learned.is_object() || !learned.contains("recipes")) return out;
  for (const auto& item : learned["recipes"]) {
    for (const auto& one : understand(item.value("line", ""), item.value("folder", work))) {
      for (const auto& source : one.sources) out.push_back({source, one.output, one.folder, one.argv});
    }
  }
  return out;
}

int run_script(const std::vector<std::string>& argv, const std::string& work, const std::string& state,
               const std::string& count) {
  const std::string kiln = std::filesystem::path(work).parent_path().string();
  SharedCount steps(count);
  const json before = json::parse(files::read(state).value_or("{}"), nullptr, false);
  if (before.is_object() && before.contains("recipes"))
    steps.add(0, static_cast<std::int64_t>(before["recipes"].size()));
  std::vector<Role> roles;
  WatchedRunObserver observer;
  observer.started = [&](const WatchedRun& run, std::size_t index) { roles.push_back(role_of(run, index, roles)); };
  observer.ended = [&](const WatchedRun& run, std::size_t index) {
    if (roles[index] == Role::step && run.programs[index].exit == 0) steps.add(1, 0);
  };
  const WatchedRun run = run_watched(argv, work, {kiln, std::filesystem::temp_directory_path().string()}, observer);
  if (!run.failure.empty()) {
    std::fprintf(stderr, "%s\n", run.failure.c_str());
    return 126;
  }
  if (run.exit != 0) return run.exit;
  const Learned learned = learn(run, work);
  json noted = {{"replayable", learned.replayable}, {"why_not", learned.why_not}, {"confined", run.confined}};
  noted["recipes"] = json::array();
  for (const auto& recipe : learned.recipes) noted["recipes"].push_back(to_json(recipe));
  files::write(state, noted.dump(1, ' ', false, json::error_handler_t::replace) + "\n");
  return 0;
}

Result<model::Project> read(const std::string& file, const model::Survey& survey, locate::Locator& locator,
                            const std::string& work) {
  return guarded("reading a script", [&] {
    if (auto mirrored = mirror(survey.tree, work); !mirrored) throw Fault(mirrored.problem());
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
    argv.push_back("./" + name);
    for (const auto& word : locator.settings().arguments) argv.push_back(word);
    const Contents now = contents_of(survey.tree, work);
    const std::string identity =
        hash_bytes(text::join(argv, "\n") + "\n" + hash_bytes(content).text() + "\n" + now.rest + "\n" +
                   locator.toolchain().c.identity + locator.toolchain().cxx.identity)
            .text();
    // What the last run learned counts only for the tree it ran on.
    const std::string learned_path = state_path(work);
    const std::string seen_path = learned_path + ".seen";
    json learned = json::parse(files::read(learned_path).value_or("{}"), nullptr, false);
    const json seen = json::parse(files::read(seen_path).value_or("{}"), nullptr, false);
    model::Project project;
    project.name = std::filesystem::path(survey.tree).filename().string();
    project.tree = survey.tree;
    project.binary_root = work;
    project.install_prefix = "/usr/local";
    project.by_recipes = true;
    const bool known = !locator.settings().rerun && learned.is_object() && seen.is_object() &&
                       learned.value("replayable", false) && seen.value("identity", "") == identity;
    if (known) {
      for (const auto& item : learned["recipes"]) {
        model::Recipe recipe;
        recipe.name = item.value("name", "");
        recipe.outputs = item.value("outputs", std::vector<std::string>{});
        recipe.inputs = item.value("inputs", std::vector<std::string>{});
        recipe.folder = item.value("folder", work);
        recipe.environment = item.value("environment", std::map<std::string, std::string>{});
        recipe.shell = {"/bin/sh", "-c"};
        recipe.lines = {{item.value("line", ""), false, false, false}};
        recipe.place = {name, 0, 0};
        recipe.key = project.recipes.size();
        project.recipes.push_back(std::move(recipe));
      }
      project.messages.push_back("the script's own steps are replayed: only sources may have changed");
    } else {
      std::error_code error;
      model::Recipe recipe;
      recipe.name = name;
      // A mark that stands for the whole; what it hangs on is told by its content.
      const std::string kiln = std::filesystem::path(work).parent_path().string();
      recipe.outputs = {learned_path};
      for (const auto& path : mirrored_files(work)) recipe.inputs.push_back(work + "/" + path);
      recipe.folder = work;
      recipe.shell = {"/bin/sh", "-c"};
      std::vector<std::string> call = {std::filesystem::read_symlink("/proc/self/exe", error).string(),
                                       "run-watched",
                                       "--work",
                                       work,
                                       "--state",
                                       learned_path,
                                       "--"};
      call.insert(call.end(), argv.begin(), argv.end());
      recipe.lines = {{text::shell_join(call), false, false, false}};
      recipe.place = {name, 0, 0};
      recipe.phony = locator.settings().rerun;
      project.recipes.push_back(std::move(recipe));
      files::write_if_different(seen_path, json{{"identity", identity}}.dump() + "\n");
      if (learned.is_object() && learned.contains("why_not") && !learned.value("replayable", false) &&
          !learned.value("why_not", "").empty())
        project.warnings.push_back(
            {Exit::done,
             {name, 0, 0},
             "the script runs as a whole when something changes: " + learned.value("why_not", ""),
             {},
             {},
             {}});
    }
    project.read_files = {file};
    return project;
  });
}

}  // namespace coctilis::describe::script
