#include "describe/script/learning.h"

#include <sys/stat.h>

#include <algorithm>
#include <filesystem>

#include "base/file_stamp.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/kept_value.h"
#include "base/text.h"
#include "describe/commands.h"

namespace coctilis::describe::script {

namespace {

std::string hash_text(const std::string& path) {
  const auto hash = hash_file(path);
  return hash ? hash->text() : "";
}

}  // namespace

std::string state_text(const std::string& path) {
  struct stat info {};
  if (::stat(path.c_str(), &info) != 0) return {};
  return FileStamp::of(info).text();
}

Role role_of(const WatchedRun& run, std::size_t index, const std::vector<Role>& before) {
  const auto& program = run.programs[index];
  if (program.parent >= 0 && before[static_cast<std::size_t>(program.parent)] != Role::other) return Role::within;
  if (program.argv.empty()) return Role::other;
  const auto done = understand(std::vector<std::vector<std::string>>{program.argv}, program.folder);
  return done.empty() || done.front().output.empty() ? Role::other : Role::step;
}

namespace {

class Learning {
 public:
  Learning(const WatchedRun& run, const std::string& work, const std::set<std::string>& from_tree)
      : run_(run), work_(work), from_tree_(from_tree) {}

  Learned learn() {
    out_.replayable = true;
    if (!run_.files_seen) refuse("which files it reads cannot be watched here");
    for (std::size_t i = 0; i < run_.programs.size(); ++i) roles_.push_back(role_of(run_, i, roles_));
    std::vector<int> recipe_of(run_.programs.size(), -1);
    for (std::size_t i = 0; i < run_.programs.size(); ++i) {
      const auto& program = run_.programs[i];
      add_programs(program);
      if (roles_[i] == Role::step) {
        if (program.exit == 0) recipe_of[i] = add_step(program);
      } else if (roles_[i] == Role::within && program.parent >= 0) {
        recipe_of[i] = recipe_of[static_cast<std::size_t>(program.parent)];
        if (recipe_of[i] >= 0) add_read(static_cast<std::size_t>(recipe_of[i]), program.files);
      }
    }
    for (std::size_t i = 0; i < run_.programs.size(); ++i) {
      if (roles_[i] == Role::other) add_other(run_.programs[i]);
    }
    for (const auto& path : written_by_others_) {
      if (files::is_file(path) && !made_.contains(path)) out_.written_besides[shown(path)] = hash_text(path);
    }
    for (const auto& recipe : out_.recipes) {
      if (!files::is_file(recipe.outputs.front())) refuse(recipe.name + " is not there any more at its end");
    }
    if (out_.recipes.empty()) refuse("nothing that it runs is understood");
    return std::move(out_);
  }

 private:
  void refuse(const std::string& why) {
    if (out_.replayable) out_.why_not = why;
    out_.replayable = false;
  }
  [[nodiscard]] std::string shown(const std::string& path) const { return files::below(path, work_); }

  void add_programs(const StartedProgram& program) {
    for (const auto& path : program.files.programs) {
      if (!path.empty() && !files::is_below(path, work_)) out_.programs.emplace(path, state_text(path));
    }
  }

  int add_step(const StartedProgram& program) {
    const auto done = understand(std::vector<std::vector<std::string>>{program.argv}, program.folder);
    const auto& one = done.front();
    model::Recipe recipe;
    recipe.name = shown(one.output);
    recipe.outputs = {one.output};
    recipe.inputs = one.sources;
    for (std::size_t k = 1; k < program.argv.size(); ++k) {
      const std::string path = files::absolute(program.argv[k], program.folder);
      if (program.argv[k].starts_with('-') || path == one.output || !files::is_file(path)) continue;
      if (std::find(recipe.inputs.begin(), recipe.inputs.end(), path) == recipe.inputs.end() &&
          (made_.contains(path) || path.ends_with(".o") || path.ends_with(".a")))
        recipe.inputs.push_back(path);
    }
    recipe.folder = program.folder;
    recipe.environment = program.environment;
    recipe.shell = {"/bin/sh", "-c"};
    recipe.lines = {{text::shell_join(program.argv), false, false, false}};
    if (!made_.insert(one.output).second) refuse("it makes " + recipe.name + " twice");
    out_.recipes.push_back(std::move(recipe));
    out_.read.emplace_back();
    const auto index = out_.recipes.size() - 1;
    add_read(index, program.files);
    return static_cast<int>(index);
  }

  void add_read(std::size_t recipe, const WatchedFiles& files) {
    auto& list = out_.read[recipe];
    for (const auto& path : files.read) {
      const bool own = files.written.contains(path) || path == out_.recipes[recipe].outputs.front();
      if (!own && may_have_a_say(path) && files::is_file(path) &&
          std::find(list.begin(), list.end(), path) == list.end())
        list.push_back(path);
    }
    // What a step leaves besides its result is of the step.
    for (const auto& path : files.written) {
      if (files::is_below(path, work_) && files::is_file(path)) made_.insert(path);
    }
  }

  void add_other(const StartedProgram& program) {
    const std::string name =
        program.argv.empty() ? "" : std::filesystem::path(program.argv.front()).filename().string();
    // What puts archives together has made the index that this makes again.
    if (name == "ranlib") return;
    for (const auto* list : {&program.files.read, &program.files.written}) {
      for (const auto& path : *list) {
        if (made_.contains(path)) refuse("it runs " + (name.empty() ? "something" : name) + " on what was made");
      }
    }
    for (const auto& path : program.files.written) {
      if (files::is_below(path, work_)) written_by_others_.insert(path);
    }
    for (const auto& path : program.files.read) {
      if (program.files.written.contains(path) || !files::is_file(path)) continue;
      if (files::is_below(path, work_)) {
        if (from_tree_.contains(shown(path))) out_.read_besides[shown(path)] = hash_text(path);
      } else if (may_have_a_say(path) && !files::is_below(path, std::filesystem::path(work_).parent_path().string())) {
        out_.read_besides[path] = state_text(path);
      }
    }
  }

  const WatchedRun& run_;
  const std::string& work_;
  const std::set<std::string>& from_tree_;
  Learned out_;
  std::vector<Role> roles_;
  std::set<std::string> made_;  // by steps
  std::set<std::string> written_by_others_;
};

}  // namespace

Learned learn(const WatchedRun& run, const std::string& work, const std::set<std::string>& from_tree) {
  return Learning(run, work, from_tree).learn();
}

bool is_as_learned(const Learned& learned, const std::string& tree, const std::string& work) {
  for (const auto& [path, was] : learned.read_besides) {
    if ((path.starts_with('/') ? state_text(path) : hash_text(tree + "/" + path)) != was) return false;
  }
  for (const auto& [path, was] : learned.written_besides) {
    if (hash_text(files::absolute(path, work)) != was) return false;
  }
  return std::all_of(learned.programs.begin(), learned.programs.end(),
                     [](const auto& program) { return state_text(program.first) == program.second; });
}

Learned learned_from(const std::string& path) {
  auto out = kept_value<Learned>(path).value_or(Learned{});
  if (out.read.size() != out.recipes.size()) return {};
  for (std::size_t i = 0; i < out.recipes.size(); ++i) {
    auto& recipe = out.recipes[i];
    if (recipe.outputs.empty() || recipe.lines.size() != 1) return {};
    recipe.shell = {"/bin/sh", "-c"};
    recipe.key = i;
  }
  return out;
}

}  // namespace coctilis::describe::script
