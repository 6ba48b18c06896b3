#include "plan/languages/whole.h"

#include "base/files.h"
#include "base/starter_script.h"
#include "plan/operations.h"

namespace coctilis::plan {

model::Step whole_step(const model::Unit& unit, model::StepKind kind, const std::string& subject) {
  model::Step out;
  out.kind = kind;
  out.target = unit.name;
  out.subject = subject;
  out.place = unit.place;
  out.language = unit.parts.front().language;
  return out;
}

model::Step starter_step(const Planning& planning, const model::Unit& unit, const std::string& what,
                         const std::vector<std::string>& words) {
  model::Step out =
      whole_step(unit, model::StepKind::link, files::below(unit.result.file, planning.project.binary_root));
  out.outputs = {unit.result.file};
  out.actions = {{model::Action::How::builtin,
                  {"write-starter", unit.result.file, starter_script(what, words)},
                  unit.work_folder,
                  {}}};
  return out;
}

int write_starter(const std::vector<std::string>& words, const std::string& root, std::string& output) {
  if (!may_write(words[0], root, output)) return 1;
  files::write(words[0], words[1]);
  files::set_mode(words[0], 0755);
  return 0;
}

}  // namespace coctilis::plan
