// C#: all sources of a project are compiled in one go into an assembly; a program gets a script that starts the runtime
// with it.
#include "plan/languages/csharp.h"

#include <re2/re2.h>

#include <set>

#include "base/files.h"
#include "base/hash.h"
#include "base/starter_script.h"
#include "base/text.h"
#include "plan/languages/whole.h"
#include "plan/operations.h"

namespace coctilis::plan {

using model::Action;
using model::Step;
using model::StepKind;
using model::Unit;

namespace {

// A word of a file of options: in quotes, which cannot stand in one.
std::string option_word(const std::string& word) { return "\"" + text::replace_all(word, "\"", "") + "\""; }

std::string begun_name(const std::string& folder, std::size_t number) {
  return folder + "/" + std::to_string(number) + ".cs";
}

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
    const std::string file = unit_.work_folder + "/.csharp/" + unit_.name + ".sources";
    std::vector<std::string> begun = {"begin-sources", file + ".d", text::join(whole_.first_lines, "\n")};
    std::string list;
    for (const auto& source : unit_.sources) {
      out.inputs.push_back(source.path);
      std::string compiled = source.path;
      if (!whole_.first_lines.empty()) {
        compiled = begun_name(begun[1], begun.size() - 3);
        begun.push_back(source.path);
        out.byproducts.push_back(compiled);
      }
      list += option_word(compiled) + "\n";
    }
    if (!whole_.first_lines.empty())
      out.actions.push_back({Action::How::builtin, std::move(begun), unit_.work_folder, {}});
    planning_.plan.files.push_back({file, list, false});
    out.identity = whole_.compiler + "\n" + hash_bytes(list).text();
    action.argv.push_back("@" + file);
    out.actions.push_back(std::move(action));
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

int begin_sources(const std::vector<std::string>& words, const std::string& root, std::string& output) {
  std::error_code error;
  std::filesystem::create_directories(words[0], error);
  for (std::size_t i = 2; i < words.size(); ++i) {
    const std::string to = begun_name(words[0], i - 2);
    if (!may_write(to, root, output)) return 1;
    const auto content = files::read(words[i]);
    if (!content) {
      output += "'" + text::printable_line(words[i]) + "' cannot be read\n";
      return 1;
    }
    std::string rest = *content;
    if (rest.starts_with("\xef\xbb\xbf")) rest.erase(0, 3);
    std::string begin;
    // One that it says itself is not said twice.
    for (const auto& line : text::split(words[1], '\n')) {
      if (!RE2::PartialMatch(rest, "(?m)^\\s*" + RE2::QuoteMeta(line.substr(0, line.size() - 1)) + "\\s*;"))
        begin += line + " ";
    }
    files::write(to, begin + "\n#line 1 \"" + words[i] + "\"\n" + rest);
  }
  return 0;
}

std::vector<Step> csharp_steps(Planning& planning, const Unit& unit) { return CsharpSteps(planning, unit).steps(); }

}  // namespace coctilis::plan
