#include "plan/finishing.h"

#include <sys/stat.h>

#include <cstdlib>
#include <fstream>
#include <map>
#include <set>

#include "base/archive.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"
#include "model/makers.h"
#include "plan/operations.h"

namespace coctilis::plan {

using model::Action;
using model::Finish;
using model::Step;

namespace {

class Finishing {
 public:
  Finishing(model::Plan& plan, const model::Settings& settings, const model::Toolchain& toolchain, bool by_recipes)
      : plan_(plan), settings_(settings), toolchain_(toolchain), by_recipes_(by_recipes) {
    for (const auto& target : plan.targets) names_.insert(target.name);
    for (const auto& step : plan.steps) {
      if (step.in_default && !step.outputs.empty()) all_.push_back(step.outputs.front());
      for (const auto& output : step.outputs) made_.insert(output);
    }
  }

  void run() {
    for (const auto& source : settings_.sources) {
      if (!source.archive.empty()) unpack(source);
    }
    for (const auto& finish : settings_.finishes) add(finish);
  }

 private:
  // ---- what they take ----------------------------------------------------------------------------------------------
  struct Taken {
    std::string path;
    bool folder = false;
    std::string maker;  // the first output of the step that fills the folder; empty: none does
  };

  [[noreturn]] static void refuse(const Place& place, Exit exit, const std::string& what, const std::string& remedy) {
    throw Fault({exit, place, what, {}, remedy, {}});
  }

  [[nodiscard]] std::string finished(const std::string& path) const { return plan_.finished() + "/" + path; }

  // A result of the tree by the name of its target, or of its file.
  [[nodiscard]] std::string result(const std::string& name) const {
    for (const bool by_target : {true, false}) {
      for (const auto& target : plan_.targets) {
        if (target.output.empty() || files::is_below(target.output, plan_.finished())) continue;
        if ((by_target ? target.name : std::filesystem::path(target.output).filename().string()) == name)
          return target.output;
      }
    }
    return {};
  }

  // What a [[finish]] names.
  [[nodiscard]] Taken taken(const std::string& name, const Place& place) const {
    if (const auto it = finished_.find(std::filesystem::path(name).lexically_normal().string()); it != finished_.end())
      return it->second;
    if (std::string path = result(name); !path.empty()) return {path, false, {}};
    for (const auto& base : {plan_.work, plan_.kiln + "/work"}) {
      if (const std::string path = files::absolute(name, base); made_.contains(path)) return {path, false, {}};
    }
    const std::string tree = plan_.original.empty() ? plan_.tree : plan_.original;
    const std::string path = files::absolute(name, tree);
    if (files::exists(path)) {
      if (files::is_folder(path) && files::is_below(plan_.kiln, path))
        refuse(place, Exit::usage,
               "'" + text::printable_line(name) + "' holds the kiln, which grows with all that is made",
               "name the folders in it that are meant");
      return {path, files::is_folder(path), {}};
    }
    const bool inside = !name.starts_with('/') && files::is_below(files::absolute(name, plan_.work), plan_.work);
    if (by_recipes_ && inside && name.find('/') != std::string::npos)
      return {files::absolute(name, plan_.work), false, {}};
    refuse(place, Exit::usage,
           "'" + text::printable_line(name) +
               "' is no result of the tree, no file of it, and nothing that was finished before",
           by_recipes_ ? "results of makefiles and scripts are named by their path in the tree: src/" + name
                       : "'coctilis plan' lists the results; those are named by target or file name");
  }

  // ---- what they make ----------------------------------------------------------------------------------------------
  void name_output(Step& step, const std::string& path) {
    if (!made_.insert(path).second)
      refuse(step.place, Exit::usage, "'" + files::below(path, plan_.kiln) + "' is made twice",
             "give this one another place: to = \"...\"");
    step.outputs.push_back(path);
  }

  // A name that no other step has.
  std::string free_name(const std::string& name, const Place& place) {
    if (!names_.insert(name).second)
      refuse(place, Exit::usage, "there is a target '" + text::printable_line(name) + "' already",
             "give it a name of its own: name = \"...\"");
    return name;
  }

  Step begin(const std::string& name, const Place& place) const {
    Step step;
    step.kind = model::StepKind::finish;
    step.place = place;
    step.target = step.subject = name;
    if (by_recipes_) step.after = all_;
    return step;
  }

  void take(Step& step, const Taken& what) const {
    if (!what.folder) {
      step.inputs.push_back(what.path);
      return;
    }
    step.input_folders.push_back(what.path);
    if (!what.maker.empty()) step.after.push_back(what.maker);
  }

  // Its folders fill up: what fills them comes before whoever takes them.
  void know(const std::string& path, Taken what) { finished_[path] = std::move(what); }

  void end(Step step, model::TargetKind kind = model::TargetKind::finished) {
    model::PlannedTarget target;
    target.name = step.target;
    target.kind = kind;
    target.place = step.place;
    // Of one that only fills folders, the first of these: its file is but a mark.
    const bool marked = step.outputs.front().starts_with(finished(".copied/"));
    target.output = marked ? step.output_folders.front() : step.outputs.front();
    target.steps = {plan_.steps.size()};
    plan_.targets.push_back(std::move(target));
    plan_.steps.push_back(std::move(step));
  }

  [[nodiscard]] Action operation(std::vector<std::string> words) const {
    return {Action::How::builtin, std::move(words), plan_.finished(), {}};
  }

  [[nodiscard]] Action process(std::vector<std::string> words) const {
    return {Action::How::process, std::move(words), plan_.finished(), {}};
  }

  static void need_tool(Step& step, const std::string& tool, const char* what) {
    if (tool.empty())
      refuse(step.place, Exit::missing, std::string("the tool chain has no ") + what, "install its binutils");
    step.tools.push_back(tool);
    step.identity += tool + "\n";
  }

  // ---- the kinds ---------------------------------------------------------------------------------------------------
  void add(const Finish& finish) {
    Step step = begin(free_name(finish.name, finish.place), finish.place);
    switch (finish.kind) {
      case Finish::Kind::strip: strip(finish, step); break;
      case Finish::Kind::bind: bind(finish, step); break;
      case Finish::Kind::copy: copy(finish, step); break;
      case Finish::Kind::archive: pack(finish, step); break;
      case Finish::Kind::run: command(finish, step); break;
    }
    end(std::move(step));
  }

  [[nodiscard]] std::string file(Step& step, const std::string& name) const {
    const Taken what = taken(name, step.place);
    if (what.folder)
      refuse(step.place, Exit::usage, "'" + text::printable_line(name) + "' is a folder where a file is meant",
             "name the file in it");
    take(step, what);
    return what.path;
  }

  void strip(const Finish& finish, Step& step) {
    const std::string from = file(step, finish.from.front());
    const std::string to = finished(finish.to);
    name_output(step, to);
    know(finish.to, {to, false, {}});
    need_tool(step, toolchain_.symbol_stripper, "strip");
    if (finish.debug.empty()) {
      step.actions = {process({toolchain_.symbol_stripper, "-o", to, from})};
      return;
    }
    const std::string debug = finished(finish.debug);
    name_output(step, debug);
    know(finish.debug, {debug, false, {}});
    need_tool(step, toolchain_.object_copier, "objcopy");
    // The link is a name without folders and a sum: what reads it looks beside the program.
    Action link = process({toolchain_.object_copier, "--add-gnu-debuglink=" + debug, to});
    step.actions = {process({toolchain_.object_copier, "--only-keep-debug", from, debug}),
                    process({toolchain_.symbol_stripper, "-o", to, from}), std::move(link)};
  }

  void bind(const Finish& finish, Step& step) {
    const std::string program = file(step, finish.into);
    const std::string to = finished(finish.to);
    std::vector<std::string> parts;
    for (const auto& name : finish.from) parts.push_back(file(step, name));
    name_output(step, to);
    know(finish.to, {to, false, {}});
    if (finish.section.empty()) {
      std::vector<std::string> words = {"finish-join", program, to};
      words.insert(words.end(), parts.begin(), parts.end());
      step.actions = {operation(std::move(words))};
      return;
    }
    need_tool(step, toolchain_.object_copier, "objcopy");
    step.actions = {process({toolchain_.object_copier, "--add-section", finish.section + "=" + parts.front(),
                             "--set-section-flags", finish.section + "=readonly,data", program, to})};
  }

  void copy(const Finish& finish, Step& step) {
    std::vector<std::string> words = {"finish-copy"};
    std::vector<std::string> filled;
    for (const auto& name : finish.from) {
      const Taken what = taken(name, step.place);
      take(step, what);
      const std::string own = std::filesystem::path(what.path).filename().string();
      const std::string place = finish.to.empty() ? own : finish.to + "/" + own;
      const std::string to = finished(place);
      words.insert(words.end(), {what.path, to});
      if (!what.folder) {
        name_output(step, to);
        know(place, {to, false, {}});
        continue;
      }
      for (const auto& other : made_) {
        if (files::is_below(other, to))
          refuse(step.place, Exit::usage,
                 "'" + files::below(other, plan_.kiln) + "' is made in the folder that this fills",
                 "give this one another place: to = \"...\"");
      }
      step.output_folders.push_back(to);
      filled.push_back(place);
    }
    step.actions = {operation(words)};
    // A step has a file that tells of it.
    if (step.outputs.empty()) {
      name_output(step, finished(".copied/" + text::replace_all(step.target, "/", "-")));
      step.actions.push_back(operation({"touch", step.outputs.front()}));
    }
    for (const auto& place : filled) know(place, {finished(place), true, step.outputs.front()});
    if (!finish.to.empty()) know_folder(finish.to, step);
  }

  // The folder that several were put into, as a whole.
  void know_folder(const std::string& place, const Step& step) {
    know(place, {finished(place), true, step.outputs.front()});
  }

  void pack(const Finish& finish, Step& step) {
    const std::string to = finished(finish.to);
    std::vector<std::string> words = {"finish-pack", to};
    std::set<std::string> names;
    for (const auto& name : finish.from) {
      const Taken what = taken(name, step.place);
      take(step, what);
      std::string own = std::filesystem::path(what.path).filename().string();
      if (!finish.folder.empty()) own = finish.folder + "/" + own;
      if (!names.insert(own).second)
        refuse(step.place, Exit::usage, "two files of the archive would be called '" + own + "'",
               "copy one to another name first");
      words.insert(words.end(), {what.path, own});
    }
    if (const char* epoch = std::getenv("SOURCE_DATE_EPOCH")) step.identity += std::string("of ") + epoch + "\n";
    name_output(step, to);
    know(finish.to, {to, false, {}});
    step.actions = {operation(std::move(words))};
  }

  void command(const Finish& finish, Step& step) {
    for (const auto& name : finish.from) take(step, taken(name, step.place));
    std::vector<std::string> words;
    for (const auto& word : finish.command) words.push_back(with_values(word, step));
    std::string& program = words.front();
    if (const std::string own = result(program); !own.empty()) {
      program = own;
      step.inputs.push_back(own);
    } else if (const std::string path = files::absolute(program, plan_.tree);
               files::is_program(path) && !files::is_folder(path)) {
      program = path;
      step.inputs.push_back(path);
    } else if (const std::string found = find_program(program); !found.empty()) {
      program = found;
      step.tools.push_back(found);
    } else {
      refuse(step.place, Exit::missing,
             "'" + text::printable_line(program) + "' is no program of the tree and none on PATH",
             "install it, or name one of the tree");
    }
    for (const auto& path : finish.outputs) {
      name_output(step, finished(path));
      know(path, {finished(path), false, {}});
    }
    step.reads = model::Reads::watched;
    step.actions = {process(std::move(words))};
  }

  // ${tree}, ${kiln}, ${finished} and ${NAME} of a result.
  [[nodiscard]] std::string with_values(const std::string& word, Step& step) const {
    std::string out;
    std::size_t done = 0;
    for (auto at = word.find("${"); at != std::string::npos; at = word.find("${", at)) {
      const auto end = word.find('}', at);
      if (end == std::string::npos) break;
      const std::string name = word.substr(at + 2, end - at - 2);
      out.append(word, done, at - done);
      if (name == "tree")
        out += plan_.tree;
      else if (name == "kiln")
        out += plan_.kiln;
      else if (name == "finished")
        out += plan_.finished();
      else
        out += file(step, name);
      at = done = end + 1;
    }
    return out.append(word, done);
  }

  // ---- archives beside programs ------------------------------------------------------------------------------------
  void unpack(const model::Source& source) {
    const std::string program = result(source.beside);
    if (program.empty())
      refuse(source.place, Exit::usage,
             "there is no program '" + text::printable_line(source.beside) + "' to unpack " + source.name + " beside",
             "'coctilis plan' lists the programs");
    const std::string tree = plan_.original.empty() ? plan_.tree : plan_.original;
    const std::string archive = files::absolute(source.archive, tree);
    observe::content(archive);
    if (!files::is_file(archive))
      refuse(source.place, Exit::missing, "the archive of the source '" + source.name + "' is not there: " + archive,
             "put it there, or name it in archive");
    const bool content = !source.folder.empty();
    const std::string folder = files::absolute(source.folder, std::filesystem::path(program).parent_path().string());
    auto names = names_of(source, archive, content);
    Step step = begin(free_name("unpack " + source.name, source.place), source.place);
    step.inputs = {archive};
    for (const auto& name : names) {
      if (const std::string path = files::absolute(name, folder); path == program || made_.contains(path))
        refuse(source.place, Exit::usage,
               "the archive has '" + text::printable_line(name) + "', which the tree makes itself",
               "unpack it into a folder of its own: folder = \"...\"");
      name_output(step, files::absolute(name, folder));
    }
    step.actions = {operation({"make_directory", folder}),
                    operation({"finish-unpack", archive, folder, content ? "content" : "whole"})};
    end(std::move(step));
  }

  static std::vector<std::string> names_of(const model::Source& source, const std::string& archive, bool content) {
    auto names = files::names_in_archive(archive, content);
    if (!names) throw Fault(names.problem());
    if (names->empty())
      refuse(source.place, Exit::usage, "the archive of the source '" + source.name + "' has no files", "name another");
    return std::move(*names);
  }

  model::Plan& plan_;
  const model::Settings& settings_;
  const model::Toolchain& toolchain_;
  std::set<std::string> names_;            // of targets
  std::set<std::string> made_;             // outputs of steps
  std::map<std::string, Taken> finished_;  // by path from the folder
  std::vector<std::string> all_;           // an output of each step that is built by default
  const bool by_recipes_;
};

int say(std::string& output, const std::string& what) {
  output += text::printable_line(what) + "\n";
  return 1;
}

bool copy_one(const std::string& from, const std::string& to, const std::string& root, std::string& output) {
  if (!may_write(to, root, output)) return false;
  std::error_code error;
  std::filesystem::copy_file(from, to, std::filesystem::copy_options::overwrite_existing, error);
  if (error) say(output, "'" + from + "' cannot be copied: " + error.message());
  return !error;
}

bool copy_all(const std::string& from, const std::string& to, const std::string& root, std::string& output) {
  if (files::is_link(from)) {
    std::error_code error;
    std::filesystem::remove(to, error);
    if (!may_write(to, root, output)) return false;
    std::filesystem::copy_symlink(from, to, error);
    if (error) say(output, "'" + from + "' cannot be copied: " + error.message());
    return !error;
  }
  if (!files::is_folder(from)) return copy_one(from, to, root, output);
  if (!may_write(to, root, output)) return false;
  files::make_folder(to);
  const auto names = files::names_in(from);
  return std::all_of(names.begin(), names.end(),
                     [&](const auto& name) { return copy_all(from + "/" + name, to + "/" + name, root, output); });
}

}  // namespace

void add_finishing(model::Plan& plan, const model::Settings& settings, const model::Toolchain& toolchain,
                   bool by_recipes) {
  Finishing(plan, settings, toolchain, by_recipes).run();
}

int finish_by_copying(const std::vector<std::string>& words, const std::string& root, std::string& output) {
  for (std::size_t i = 0; i + 1 < words.size(); i += 2) {
    // A link that is named stands for what it leads to; one in a folder stays one.
    std::error_code error;
    const std::string from = std::filesystem::canonical(words[i], error).string();
    if (error) return say(output, "'" + words[i] + "': " + error.message());
    if (!copy_all(from, words[i + 1], root, output)) return 1;
  }
  return 0;
}

int finish_by_joining(const std::vector<std::string>& words, const std::string& root, std::string& output) {
  if (!copy_one(words[0], words[1], root, output)) return 1;
  std::error_code error;
  std::filesystem::permissions(words[1], std::filesystem::perms::owner_write, std::filesystem::perm_options::add,
                               error);
  std::ofstream whole(words[1], std::ios::binary | std::ios::app);
  for (std::size_t i = 2; i < words.size(); ++i) {
    std::ifstream part(words[i], std::ios::binary);
    if (!part) return say(output, "'" + words[i] + "' cannot be read");
    if (part.peek() != std::ifstream::traits_type::eof()) whole << part.rdbuf();
  }
  whole.close();
  return whole ? 0 : say(output, "'" + words[1] + "' cannot be written");
}

int finish_by_packing(const std::vector<std::string>& words, const std::string& root, std::string& output) {
  if (!may_write(words[0], root, output)) return 1;
  std::vector<files::Packed> what;
  for (std::size_t i = 1; i + 1 < words.size(); i += 2) what.push_back({words[i], words[i + 1]});
  std::string why;
  return files::pack_reproducibly(words[0], what, why) ? 0 : say(output, why);
}

int finish_by_unpacking(const std::vector<std::string>& words, const std::string& root, std::string& output) {
  if (!may_write(words[1], root, output)) return 1;
  std::string why;
  const bool good = words[2] == "content" ? files::unpack_content_into(words[0], words[1], why)
                                          : files::unpack_into(words[0], words[1], why);
  return good ? 0 : say(output, why);
}

}  // namespace coctilis::plan
