// C#: all sources of a project are compiled in one go into an assembly; a program gets a script that starts the runtime
// with it.
#include <set>

#include "base/files.h"
#include "base/hash.h"
#include "base/starter_script.h"
#include "base/text.h"
#include "plan/languages/whole.h"

namespace coctilis::plan {

using model::Action;
using model::Step;
using model::StepKind;
using model::Unit;

namespace {

// A word of a file of options: in quotes, which cannot stand in one.
std::string option_word(const std::string& word) { return "\"" + text::replace_all(word, "\"", "") + "\""; }

class CsharpSteps {
 public:
  CsharpSteps(Planning& planning, const Unit& unit) : planning_(planning), unit_(unit), whole_(*unit.whole) {}

  std::vector<Step> steps() { return {whole_.entry.empty() ? compile() : starter()}; }

 private:
  Step compile() {
    Step out = whole_step(unit_, StepKind::compile, files::below(unit_.result.file, planning_.project.binary_root));
    out.outputs = {unit_.result.file};
    out.tools = {whole_.compiler};
    Action action;
    action.folder = unit_.work_folder;
    action.argv = {whole_.compiler, "-nologo", "-utf8output", "-out:" + unit_.result.file};
    action.argv.insert(action.argv.end(), whole_.options.begin(), whole_.options.end());
    std::set<std::string> seen;
    add_units(unit_, seen, action, out);
    for (const auto& library : whole_.libraries) {
      action.argv.push_back("-reference:" + library);
      out.inputs.push_back(library);
    }
    for (const auto& resource : whole_.resources) {
      action.argv.push_back("-resource:" + resource.from + "," + resource.name);
      out.inputs.push_back(resource.from);
    }
    std::string list;
    for (const auto& source : unit_.sources) {
      list += option_word(source.path) + "\n";
      out.inputs.push_back(source.path);
    }
    const std::string file = unit_.work_folder + "/.csharp/" + unit_.name + ".sources";
    planning_.plan.files.push_back({file, list, false});
    out.identity = whole_.compiler + "\n" + hash_bytes(list).text();
    action.argv.push_back("@" + file);
    out.actions = {std::move(action)};
    return out;
  }

  // Assemblies of the tree that it uses, with those behind them.
  void add_units(const Unit& unit, std::set<std::string>& seen, Action& action, Step& step) const {
    for (const auto& name : unit.whole->units) {
      const auto it = planning_.units.find(name);
      if (it == planning_.units.end() || !seen.insert(name).second) continue;
      action.argv.push_back("-reference:" + it->second->result.file);
      step.inputs.push_back(it->second->result.file);
      if (it->second->whole) add_units(*it->second, seen, action, step);
    }
  }

  Step starter() {
    const Unit& program = *planning_.units.at(whole_.units.front());
    const std::string folder = std::filesystem::path(unit_.result.file).parent_path().string();
    Step out =
        starter_step(planning_, unit_, whole_.entry,
                     {text::shell_quote(whole_.runtime), from_script(files::relative(program.result.file, folder))});
    out.inputs = {program.result.file};
    // What lies beside it is there before it starts.
    out.after = program.generated;
    return out;
  }

  Planning& planning_;
  const Unit& unit_;
  const model::Whole& whole_;
};

}  // namespace

std::vector<Step> csharp_steps(Planning& planning, const Unit& unit) { return CsharpSteps(planning, unit).steps(); }

}  // namespace coctilis::plan
