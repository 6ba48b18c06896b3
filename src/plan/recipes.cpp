#include "plan/recipes.h"

#include <re2/re2.h>
#include <sys/stat.h>

#include <fstream>
#include <set>
#include <unordered_map>
#include <unordered_set>

#include "base/elf.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/commands.h"
#include "plan/search_paths.h"

namespace coctilis::plan {

using model::Step;
using model::StepKind;

namespace {

model::Action action_of(const model::Recipe& recipe, const model::RecipeLine& line, const describe::Divided& divided) {
  model::Action action;
  action.folder = recipe.folder;
  action.environment = recipe.environment;
  action.may_fail = line.ignore_errors;
  action.silent = line.silent;
  const bool usual_shell = recipe.shell.size() == 2 && recipe.shell[0] == "/bin/sh";
  if (usual_shell && !recipe.one_shell && divided.plain) {
    action.argv = divided.commands.front();
  } else {
    action.argv = recipe.shell;
    action.argv.push_back(describe::without_empty_quotes(line.command));
  }
  return action;
}

}  // namespace

std::vector<model::Action> actions_of(const model::Recipe& recipe) {
  std::vector<model::Action> out;
  for (const auto& line : recipe.lines) out.push_back(action_of(recipe, line, describe::divide(line.command)));
  return out;
}

namespace {

constexpr const char* helper_words[] = {"test", "example", "bench", "fuzz", "demo", "sample", "check"};

// Makefiles do not say in a form of their own what is installed: what lies among tests and examples is not.
bool is_helper(const std::string& path, const std::string& root) {
  const std::string below = text::lower(files::below(path, root));
  return std::any_of(std::begin(helper_words), std::end(helper_words),
                     [&](const char* word) { return below.find(word) != std::string::npos; });
}

bool is_name_of_library(const std::string& name) { return name.find(".so") != std::string::npos; }

// How it is found out what the commands of a recipe read. Compilers tell; others are watched, unless they read nothing.
class Reading {
 public:
  void add(const describe::Divided& divided, const std::vector<describe::Understood>& all, const std::string& line) {
    if (divided.commands.empty()) {
      // Only a shell can work it out. One that compiles among other things asks about a great many names.
      static const RE2 compiles(
          R"((?:^|[\s;&|(`/"'-])(?:cc|gcc|c\+\+|g\+\+|clang|clang\+\+)(?:-[0-9.]+)?['"]?\s.*\s-c\s)");
      (RE2::PartialMatch(line, compiles) ? opens_ : other_) = true;
      return;
    }
    for (const auto& words : divided.commands) {
      const std::string name = std::filesystem::path(words.front()).filename().string();
      static const std::set<std::string> nothing = {"echo", "printf", "mkdir", "rm",    "mv",   "touch", ":",
                                                    "true", "test",   "[",     "rmdir", "exit", "cd",    "chmod"};
      // What is done to what a compiler wrote says nothing new.
      static const std::set<std::string> behind = {"cp", "sed", "cat", "grep", "tr", "fmt", "ranlib", "strip", "awk"};
      const bool compiled = !dependency_files_.empty() || asks_none_;
      makes_folders_ = makes_folders_ || name == "mkdir";
      puts_files_ = puts_files_ || name == "touch" || name == "mv";
      if (nothing.contains(name) || (compiled && behind.contains(name))) continue;
      // A pattern stands for names that only a shell finds.
      if (std::any_of(words.begin(), words.end(),
                      [](const auto& word) { return word.find_first_of("*?[") != std::string::npos; }))
        opens_ = true;
      if (all.empty()) other_ = true;
    }
    puts_files_ = puts_files_ || line.find('>') != std::string::npos;
    for (const auto& one : all) {
      if (one.kind == StepKind::archive) continue;
      if (one.kind == StepKind::link && one.sources.empty()) {
        opens_ = true;
        continue;
      }
      if (one.wrapped || (one.asks && !one.tells_all)) {
        opens_ = true;
      } else if (one.asks) {
        dependency_files_.insert(one.dependency_file);
      } else {
        asks_none_ = true;
      }
      links_ = links_ || one.kind == StepKind::link;
    }
  }
  [[nodiscard]] model::Reads how() const {
    if (other_) return model::Reads::watched;
    if (opens_ || links_ || dependency_files_.size() > 1 || (asks_none_ && !dependency_files_.empty()))
      return model::Reads::opened;
    if (asks_none_) return model::Reads::asked;
    if (!dependency_files_.empty()) return model::Reads::kept;
    // What it puts into a folder that it makes is seen by watching only.
    return makes_folders_ && puts_files_ ? model::Reads::watched : model::Reads::told;
  }

 private:
  bool other_ = false;
  bool opens_ = false;
  bool links_ = false;
  bool asks_none_ = false;
  bool makes_folders_ = false;
  bool puts_files_ = false;
  std::set<std::string> dependency_files_;
};

class Recipes {
 public:
  Recipes(const std::string& root, model::Plan& plan) : root_(root), plan_(plan) {}

  void add(const model::Recipe& recipe) {
    if (recipe.lines.empty() && !recipe.phony) return;
    Step step;
    step.kind = StepKind::custom;
    step.by_time = true;
    step.always = recipe.phony || recipe.always;
    step.late = recipe.late;
    step.key = recipe.key;
    step.place = recipe.place;
    step.subject = files::below(files::absolute(recipe.name, recipe.folder), root_);
    step.outputs = recipe.outputs;
    step.inputs = recipe.inputs;
    step.after = recipe.after;
    Reading reading;
    bool compiles = false;
    for (const auto& line : recipe.lines) {
      const auto divided = describe::divide(line.command);
      step.actions.push_back(action_of(recipe, line, divided));
      if (recipe.late) continue;
      const auto all = describe::understand(divided.commands, recipe.folder);
      reading.add(divided, all, line.command);
      look_into(all, step);
      add_tools(divided, all, recipe, step);
      compiles = compiles || std::any_of(all.begin(), all.end(), [](const auto& one) { return !one.sources.empty(); });
    }
    // Every line does nothing but start the make program again.
    step.again = !recipe.lines.empty() && std::all_of(recipe.lines.begin(), recipe.lines.end(), [](const auto& line) {
      return line.always || line.command.starts_with("echo ") || line.command == ":" || line.command == "true";
    }) && std::any_of(recipe.lines.begin(), recipe.lines.end(), [](const auto& line) { return line.always; });
    step.in_default = recipe.in_default;
    if (recipe.phony) step.kind = StepKind::custom;
    const std::string name = hash_bytes(step.outputs.front()).text();
    if (std::any_of(recipe.lines.begin(), recipe.lines.end(), [](const auto& line) { return line.always; }))
      step.calls = plan_.kiln + "/calls/" + name;
    step.reads = recipe.late ? model::Reads::watched : reading.how();
    // Makes that it starts watch their own steps.
    if (step.always || !step.calls.empty()) step.reads = model::Reads::told;
    if (!recipe.notes.empty()) {
      step.reads = model::Reads::noted;
      step.dependency_file = recipe.notes;
    }
    if (step.reads == model::Reads::asked) {
      // A name with a space in it cannot be told that way.
      if (plan_.kiln.find_first_of(" \t") == std::string::npos)
        step.dependency_file = plan_.kiln + "/dependencies/" + name + ".d";
      else
        step.reads = model::Reads::opened;
    }
    if (step.reads == model::Reads::opened || step.reads == model::Reads::watched || step.reads == model::Reads::told)
      step.dependency_file.clear();
    if ((step.reads == model::Reads::asked || step.reads == model::Reads::kept) && compiles && !searched_.empty())
      step.search = plan_.search_number(search_path_of(searched_, search_folder_, plan_.compiler_folders));
    searched_.clear();
    plan_.steps.push_back(std::move(step));
  }

 private:
  void look_into(const std::vector<describe::Understood>& all, Step& step) {
    for (const auto& done : all) {
      const bool makes_it = std::find(step.outputs.begin(), step.outputs.end(), done.output) != step.outputs.end();
      if (done.kind == StepKind::compile && makes_it && step.kind == StepKind::custom) {
        step.kind = StepKind::compile;
        step.language = done.language;
        step.source = done.sources.front();
        step.subject = files::below(step.source, root_);
      } else if (done.kind == StepKind::link || done.kind == StepKind::archive) {
        if (makes_it) step.kind = done.kind;
        target(done, step);
      }
      if (!done.sources.empty()) {
        if (!done.dependency_file.empty()) step.dependency_file = done.dependency_file;
        searched_ = done.argv;
        search_folder_ = done.folder;
      }
      for (const auto& source : done.sources)
        step.compilations.push_back({source, done.output, done.folder, done.argv});
    }
  }

  // The programs that a line starts, as far as they can be told.
  void add_tools(const describe::Divided& divided, const std::vector<describe::Understood>& all,
                 const model::Recipe& recipe, Step& step) {
    const auto add = [&](const std::string& word, const std::string& folder) {
      const std::string path = program_at(word, folder, recipe);
      if (!path.empty() && std::find(step.tools.begin(), step.tools.end(), path) == step.tools.end())
        step.tools.push_back(path);
    };
    for (const auto& one : all) add(one.argv.front(), one.folder);
    for (const auto& words : divided.commands) add(words.front(), recipe.folder);
  }

  std::string program_at(const std::string& word, const std::string& folder, const model::Recipe& recipe) {
    if (word.empty() || word.find_first_of("=$`") != std::string::npos) return {};
    // One that the tree makes may not be there yet.
    if (word.find('/') != std::string::npos) return files::absolute(word, folder);
    const auto own = recipe.environment.values().find("PATH");
    const std::string path = own == recipe.environment.values().end() ? std::string{} : own->second.value_or("");
    const auto [it, fresh] = programs_.try_emplace(path + '\0' + word);
    if (fresh) it->second = path.empty() ? find_program(word) : find_program(word, path);
    return it->second;
  }

  void target(const describe::Understood& done, const Step& step) {
    if (!known_.insert(done.output).second) return;
    model::PlannedTarget out;
    out.name = std::filesystem::path(done.output).filename().string();
    out.kind = done.kind == StepKind::archive                ? model::TargetKind::static_library
               : done.shared || is_name_of_library(out.name) ? model::TargetKind::shared_library
                                                             : model::TargetKind::program;
    out.place = step.place;
    out.output = done.output;
    out.installed = !is_helper(done.output, root_);
    out.link_items = {};
    for (std::size_t i = 1; i < done.argv.size(); ++i) {
      const std::string& word = done.argv[i];
      if (word.starts_with("-l") || word.ends_with(".a") || is_name_of_library(word)) out.link_items.push_back(word);
    }
    out.sources = done.sources.size();
    out.steps = {plan_.steps.size()};
    plan_.targets.push_back(std::move(out));
  }

  const std::string root_;
  model::Plan& plan_;
  std::set<std::string> known_;
  std::vector<std::string> searched_;  // the compiler's words of the recipe that is added
  std::string search_folder_;
  std::unordered_map<std::string, std::string> programs_;
};

}  // namespace

std::vector<std::string> header_folders(const model::Toolchain& toolchain, const model::Settings& settings) {
  std::vector<std::string> out;
  for (const auto& prefix : settings.wished_prefixes()) out.push_back(prefix + "/include");
  const auto& own = toolchain.compiler_or_any("C++").include_folders;
  out.insert(out.end(), own.begin(), own.end());
  return out;
}

void place_recipes(model::Plan& plan, const std::string& tree, const model::Toolchain& toolchain,
                   const model::Settings& settings) {
  plan.original = tree;
  plan.journal = plan.kiln + "/journal";
  plan.maker = hash_short("the description itself");
  plan.compiler_folders = header_folders(toolchain, settings);
}

void add_recipes(const std::vector<model::Recipe>& recipes, const std::string& root, model::Plan& plan) {
  Recipes adding(root, plan);
  plan.steps.reserve(plan.steps.size() + recipes.size());
  for (const auto& recipe : recipes) adding.add(recipe);
  // Include paths and definitions of a target are those of the compilations that it is made of.
  std::unordered_map<std::string_view, std::size_t> maker;
  maker.reserve(plan.steps.size());
  for (std::size_t i = 0; i < plan.steps.size(); ++i) {
    for (const auto& output : plan.steps[i].outputs) maker.emplace(output, i);
  }
  for (auto& target : plan.targets) {
    const auto& link = plan.steps[target.steps.front()];
    for (const auto& input : link.inputs) {
      const auto it = maker.find(input);
      if (it == maker.end()) continue;
      const auto& step = plan.steps[it->second];
      if (step.kind != StepKind::compile || step.compilations.empty()) continue;
      ++target.sources;
      target.steps.push_back(it->second);
      if (!target.compile_options.empty() || !target.include_folders.empty() || !target.definitions.empty()) continue;
      const auto& argv = step.compilations.front().argv;
      for (std::size_t k = 1; k < argv.size(); ++k) {
        const std::string& word = argv[k];
        if (word.starts_with("-I"))
          target.include_folders.push_back(files::absolute(word.size() > 2       ? word.substr(2)
                                                           : k + 1 < argv.size() ? argv[++k]
                                                                                 : "",
                                                           step.compilations.front().folder));
        else if (word.starts_with("-D") && word.size() > 2)
          target.definitions.push_back(word.substr(2));
        else if (word == "-o" || word == "-MF" || word == "-MT")
          ++k;
        else if (word.starts_with('-') && word != "-c")
          target.compile_options.push_back(word);
      }
    }
  }
}

namespace {

// An archive or an object, by its first bytes (ar(5); System V ABI, "ELF Header").
bool is_binary(const std::string& head) {
  return head.starts_with("!<arch>\n") || head.starts_with("!<thin>\n") || head.starts_with("\177ELF");
}
std::string head_of(const std::string& path) {
  std::string head(20, '\0');
  std::ifstream file(path, std::ios::binary);
  file.read(head.data(), static_cast<std::streamsize>(head.size()));
  return head;
}

}  // namespace

void add_found_targets(const std::vector<std::string>& made, model::Plan& plan) {
  // What looked like a link may have left a script that starts the program proper, or notes on a library.
  std::erase_if(plan.targets, [](const auto& t) { return files::is_file(t.output) && !is_binary(head_of(t.output)); });
  std::set<std::string> known;
  for (const auto& target : plan.targets) {
    known.insert(target.output);
    for (const auto& name : target.names) known.insert(name);
  }
  std::map<std::string, std::size_t> by_file;
  for (std::size_t i = 0; i < plan.targets.size(); ++i) by_file.emplace(plan.targets[i].output, i);
  std::vector<std::string> links;
  for (const auto& path : made) {
    struct stat info {};
    if (::lstat(path.c_str(), &info) != 0) continue;
    if (S_ISLNK(info.st_mode)) {
      links.push_back(path);
      continue;
    }
    if (!S_ISREG(info.st_mode) || known.contains(path)) continue;
    const std::string head = head_of(path);
    if (!is_binary(head)) continue;
    const bool elf = head.starts_with("\177ELF");
    const bool archive = !elf;
    // e_type: 2 is a program at a fixed address, 3 a program or a library (System V ABI, "ELF Header").
    const int type = static_cast<unsigned char>(head[16]) | static_cast<unsigned char>(head[17]) << 8;
    if (elf && type != 2 && type != 3) continue;
    model::PlannedTarget target;
    target.name = std::filesystem::path(path).filename().string();
    target.output = path;
    target.installed = !is_helper(path, plan.work);
    if (archive) {
      target.kind = model::TargetKind::static_library;
    } else {
      const auto facts = read_elf(path);
      const bool library = is_name_of_library(target.name) || (facts && !facts->shared_name.empty()) ||
                           (type == 3 && (info.st_mode & 0111U) == 0);
      target.kind = library ? model::TargetKind::shared_library : model::TargetKind::program;
      if (facts) target.shared_name = facts->shared_name;
      if (library && (!facts || facts->shared_name.empty())) target.kind = model::TargetKind::module_library;
    }
    by_file.emplace(path, plan.targets.size());
    plan.targets.push_back(std::move(target));
  }
  for (const auto& link : links) {
    std::error_code error;
    const auto real = std::filesystem::weakly_canonical(link, error).string();
    const auto it = by_file.find(real);
    if (it == by_file.end() || known.contains(link)) continue;
    plan.targets[it->second].names.push_back(link);
  }
}

void show_targets(model::Plan& plan) {
  plan.shown.clear();
  std::map<std::string, std::string> by_name;  // what a name shows, absolute
  std::set<std::string> folders;
  for (const auto& target : plan.targets) {
    if (target.output.empty()) continue;
    const std::string group = target.kind == model::TargetKind::program ? "bin/" : "lib/";
    std::vector<std::string> all = {target.output};
    all.insert(all.end(), target.names.begin(), target.names.end());
    const auto file_name = [](const std::string& path) { return std::filesystem::path(path).filename().string(); };
    const auto free_in = [&](const std::string& folder) {
      return std::all_of(all.begin(), all.end(), [&](const auto& path) {
        const std::string name = folder + file_name(path);
        return !plan.shown.contains(name) && !folders.contains(name + "/");
      });
    };
    // The same file twice, copied to another folder by the build, is shown once.
    if (const auto it = by_name.find(group + file_name(target.output));
        it != by_name.end() && hash_file(it->second) == hash_file(target.output) && files::is_file(target.output))
      continue;
    std::string folder = group;
    if (!free_in(folder)) {
      const std::string parent = std::filesystem::path(files::below(target.output, plan.work)).parent_path().string();
      folder = group + (parent.empty() ? target.name + "-2" : text::replace_all(parent, "/", "-")) + "/";
      while (!free_in(folder) || plan.shown.contains(folder.substr(0, folder.size() - 1)))
        folder.insert(folder.size() - 1, "_");
      folders.insert(folder);
    }
    for (const auto& path : all) {
      plan.shown[folder + file_name(path)] = files::below(path, plan.kiln);
      by_name.emplace(folder + file_name(path), path);
    }
  }
}

}  // namespace coctilis::plan
