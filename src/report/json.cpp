// The run and its stages as JSON.
#include <nlohmann/json.hpp>

#include "base/elf.h"
#include "base/files.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "base/version.h"
#include "model/environment_json.h"
#include "report/critical.h"
#include "report/report.h"

namespace coctilis::report {

using nlohmann::ordered_json;

namespace {

std::string dump(const ordered_json& document) {
  return document.dump(2, ' ', false, ordered_json::error_handler_t::replace) + "\n";
}

ordered_json place(const Place& p) {
  if (p.file.empty()) return nullptr;
  ordered_json out = {{"file", p.file}};
  if (p.line > 0) out["line"] = p.line;
  if (p.column > 0) out["column"] = p.column;
  return out;
}

ordered_json survey_object(const model::Survey& s) {
  ordered_json out = {
      {"files", s.files}, {"folders", s.folders}, {"bytes", s.bytes}, {"revision", s.revision}, {"seconds", s.seconds}};
  for (const char* key : {"languages", "lines_by_folder", "entry_points", "descriptions", "submodules", "hazards"})
    out[key] = ordered_json::array();
  for (const auto& l : s.languages)
    out["languages"].push_back(
        {{"language", l.language}, {"files", l.files}, {"code", l.code}, {"comment", l.comment}, {"blank", l.blank}});
  for (const auto& f : s.lines_by_folder)
    out["lines_by_folder"].push_back(
        {{"folder", f.folder}, {"files", f.files}, {"code", f.code}, {"comment", f.comment}, {"blank", f.blank}});
  for (const auto& e : s.entry_points) out["entry_points"].push_back(place(e.place));
  for (const auto& d : s.descriptions)
    out["descriptions"].push_back({{"path", d.path},
                                   {"format", d.format},
                                   {"followed", d.followed},
                                   {"readable", d.readable},
                                   {"reason", d.reason}});
  for (const auto& m : s.submodules)
    out["submodules"].push_back({{"path", m.path},
                                 {"within", m.within},
                                 {"url", m.url},
                                 {"state", model::name_of(m.state)},
                                 {"pinned", m.pinned},
                                 {"actual", m.actual},
                                 {"changed", m.changed},
                                 {"source", place(m.place)}});
  for (const auto& h : s.hazards) out["hazards"].push_back({{"kind", h.kind}, {"path", h.path}, {"detail", h.detail}});
  return out;
}

ordered_json compiler_part(const model::Compiler& c) {
  return {{"path", c.path},
          {"version", c.version},
          {"default_standard", c.default_standard},
          {"include_folders", c.include_folders},
          {"link_folders", c.link_folders}};
}

ordered_json toolchain_part(const model::Toolchain& t) {
  ordered_json linkers = ordered_json::array();
  ordered_json compilers = ordered_json::object();
  for (const auto& [language, compiler] : t.compilers) compilers[language] = compiler_part(compiler);
  for (const auto& linker : t.linkers) linkers.push_back({{"name", linker.name}, {"path", linker.path}});
  return {{"name", t.name},
          {"family", t.family},
          {"version", t.version},
          {"machine", t.machine},
          {"compilers", compilers},
          {"linker", t.linker},
          {"linker_version", t.linker_version},
          {"assembler", t.assembler},
          {"archiver", t.archiver},
          {"c_library", t.c_library},
          {"c_library_version", t.c_library_version},
          {"linkers", linkers},
          {"sanitizers", t.sanitizers},
          {"launcher", t.launcher},
          {"origin", t.origin},
          {"verdict", t.verdict}};
}

ordered_json findings_part(const std::vector<model::Finding>& findings) {
  ordered_json out = ordered_json::array();
  for (const auto& f : findings) {
    ordered_json entry = {{"kind", model::name_of(f.requirement.kind)},
                          {"name", f.requirement.name},
                          {"constraint", f.requirement.constraint},
                          {"required", f.requirement.required},
                          {"required_by", f.requirement.required_by},
                          {"place", place(f.requirement.place)},
                          {"found", f.found},
                          {"version", f.version},
                          {"version_source", f.version_source},
                          {"where", f.where},
                          {"how", f.how},
                          {"first_by", f.why_here},
                          {"passed_over", f.others}};
    if (!f.found) {
      entry["searched"] = f.looked;
      entry["reason"] = f.reason;
      entry["package"] = f.package;
    } else {
      entry["usage"] = {{"include_folders", f.usage.include_folders},
                        {"definitions", f.usage.definitions},
                        {"compile_options", f.usage.compile_options},
                        {"link_folders", f.usage.link_folders},
                        {"link_items", f.usage.link_items}};
    }
    out.push_back(std::move(entry));
  }
  return out;
}

ordered_json options_part(const model::Project& project) {
  ordered_json out = ordered_json::array();
  for (const auto& o : project.options)
    out.push_back({{"name", o.name},
                   {"type", o.type},
                   {"value", o.value},
                   {"initial", o.initial},
                   {"help", o.help},
                   {"place", place(o.place)}});
  return out;
}

ordered_json targets_part(const model::Plan& plan) {
  ordered_json out = ordered_json::array();
  for (const auto& t : plan.targets) {
    out.push_back({{"name", t.name},
                   {"kind", model::name_of(t.kind)},
                   {"place", place(t.place)},
                   {"default", t.in_default},
                   {"output", t.output},
                   {"starter", t.starter},
                   {"names", t.names},
                   {"shared_name", t.shared_name},
                   {"sources", t.sources},
                   {"include_folders", t.include_folders},
                   {"system_include_folders", t.system_include_folders},
                   {"definitions", t.definitions},
                   {"compile_options", t.compile_options},
                   {"link_items", t.link_items},
                   {"run_path", t.run_path},
                   {"uses", t.uses},
                   {"steps", t.steps}});
  }
  return out;
}

// What the targets have come to, in files of the kiln.
ordered_json results_part(const model::Run& run) {
  ordered_json out = ordered_json::array();
  for (const auto& t : run.plan.targets) {
    if (!t.in_default || t.output.empty()) continue;
    const auto sizes = section_sizes(t.output);
    if (!sizes) continue;
    out.push_back({{"target", t.name},
                   {"path", files::below(files::below(t.output, run.plan.work), run.kiln)},
                   {"sections",
                    {{"code", sizes->code},
                     {"data", sizes->data},
                     {"room", sizes->room},
                     {"debug", sizes->debug},
                     {"rest", sizes->rest}}}});
  }
  return out;
}

ordered_json steps_part(const model::Plan& plan) {
  ordered_json out = ordered_json::array();
  static const char* const how[] = {"process", "shell", "builtin"};
  for (const auto& s : plan.steps) {
    ordered_json actions = ordered_json::array();
    for (const auto& a : s.actions)
      actions.push_back({{"how", how[static_cast<int>(a.how)]},
                         {"argv", a.argv},
                         {"folder", a.folder},
                         {"environment", model::environment_object<ordered_json>(a.environment)}});
    out.push_back({{"kind", model::name_of(s.kind)},
                   {"target", s.target},
                   {"subject", s.subject},
                   {"language", s.language},
                   {"actions", actions},
                   {"inputs", s.inputs},
                   {"after", s.after},
                   {"outputs", s.outputs},
                   {"input_folders", s.input_folders},
                   {"output_folders", s.output_folders},
                   {"dependency_file", s.dependency_file},
                   {"default", s.in_default},
                   {"always", s.always},
                   {"place", place(s.place)}});
  }
  return out;
}

ordered_json tests_part(const model::Plan& plan) {
  ordered_json out = ordered_json::array();
  for (const auto& t : plan.tests) {
    ordered_json environment = ordered_json::object();
    for (const auto& [name, value] : t.environment) environment[name] = value ? ordered_json(*value) : nullptr;
    out.push_back({{"name", t.name},
                   {"command", t.command},
                   {"program", t.program},
                   {"folder", t.folder},
                   {"environment", environment},
                   {"limit_seconds", t.limit_seconds},
                   {"will_fail", t.will_fail},
                   {"disabled", t.disabled},
                   {"passes_with", t.pass_patterns},
                   {"fails_with", t.fail_patterns},
                   {"skipped_with", t.skip_patterns},
                   {"skip_code", t.skip_code},
                   {"error_code", t.error_code},
                   {"test_lines", t.test_lines},
                   {"files", t.needs_files},
                   {"after", t.after},
                   {"place", place(t.place)}});
  }
  return out;
}

ordered_json install_part(const model::Plan& plan) {
  ordered_json out = ordered_json::array();
  static const char* const kinds[] = {"file", "folder", "link", "text"};
  for (const auto& i : plan.install)
    out.push_back({{"kind", kinds[static_cast<int>(i.kind)]},
                   {"from", i.from},
                   {"to", i.to},
                   {"mode", i.mode},
                   {"optional", i.optional},
                   {"target", i.target},
                   {"run_path", i.run_path},
                   {"place", place(i.place)}});
  return out;
}

ordered_json head(const model::Run& run) {
  ordered_json out = {{"schema", record_schema}, {"coctilis", version}, {"tree", run.own_tree()}};
  if (!run.label.empty()) {
    out["label"] = run.label;
    out["kiln"] = run.kiln;
  }
  out["exit"] = run.exit_code();
  out["problem"] = run.problem ? problem_document(*run.problem) : ordered_json(nullptr);
  return out;
}

void add_locate(ordered_json& out, const model::Run& run) {
  out["toolchain"] = run.toolchain.name.empty() ? ordered_json(nullptr) : toolchain_part(run.toolchain);
  out["toolchains"] = ordered_json::array();
  for (const auto& t : run.toolchains) out["toolchains"].push_back(toolchain_part(t));
  out["environment"] = ordered_json::array();
  for (const auto& use : run.environment)
    out["environment"].push_back({{"name", use.name}, {"value", use.value}, {"effect", use.effect}});
  out["search_order"] = run.search_order;
  out["install"] = run.install;
  out["mentions"] = ordered_json::array();
  for (const auto& m : run.mentions)
    out["mentions"].push_back(
        {{"name", m.name}, {"package", m.package}, {"installed", m.installed}, {"place", place(m.place)}});
  out["changes"] = run.compared ? ordered_json::array() : ordered_json(nullptr);
  for (const auto& c : run.changes)
    out["changes"].push_back(
        {{"what", c.what}, {"kind", c.kind}, {"name", c.name}, {"before", c.before}, {"after", c.after}});
  out["requirements"] = findings_part(run.findings);
}

}  // namespace

std::string survey_json(const model::Run& run) {
  auto out = head(run);
  out["survey"] = survey_object(run.survey);
  out["filled"] = ordered_json::array();
  for (const auto& f : run.filled)
    out["filled"].push_back({{"path", f.path},
                             {"outcome", model::name_of(f.outcome)},
                             {"revision", f.revision},
                             {"from", f.from},
                             {"reason", f.reason},
                             {"remedy", f.remedy}});
  return dump(out);
}

std::string locate_json(const model::Run& run) {
  auto out = head(run);
  add_locate(out, run);
  out["options"] = options_part(run.project);
  return dump(out);
}

namespace {
void add_plan(ordered_json& out, const model::Run& run) {
  out["project"] = {
      {"name", run.project.name}, {"version", run.project.version}, {"description", run.project.description}};
  out["targets"] = targets_part(run.plan);
  out["steps"] = steps_part(run.plan);
  out["tests"] = tests_part(run.plan);
  out["install"] = install_part(run.plan);
  out["files"] = ordered_json::array();
  for (const auto& file : run.plan.files)
    out["files"].push_back({{"path", file.path}, {"content", file.content}, {"executable", file.executable}});
  out["notes"] = run.plan.notes;
}
}  // namespace

namespace {
void add_due(ordered_json& out, const model::Run& run) {
  out["due"] = ordered_json::array();
  if (!run.due) return;
  for (const auto& one : run.due->steps) {
    const auto& step = run.plan.steps[one.step];
    out["due"].push_back({{"step", one.step},
                          {"kind", model::name_of(step.kind)},
                          {"subject", step.subject},
                          {"target", step.target},
                          {"reason", one.reason},
                          {"perhaps", one.perhaps}});
  }
  out["up_to_date"] = run.due->up_to_date;
}
}  // namespace

std::string due_json(const model::Run& run) {
  auto out = head(run);
  add_due(out, run);
  for (const auto& member : run.members) {
    ordered_json one = {{"name", member.as_member.name}, {"tree", member.tree}};
    one["problem"] = member.problem ? problem_document(*member.problem) : ordered_json(nullptr);
    add_due(one, member);
    out["members"].push_back(std::move(one));
  }
  return dump(out);
}

std::string plan_json(const model::Run& run) {
  auto out = head(run);
  if (run.members.empty()) {
    add_plan(out, run);
    return dump(out);
  }
  // One plan of all members, in the order in which they are brought up; each has steps of its own numbers.
  out["members"] = ordered_json::array();
  for (const auto& member : run.members) {
    ordered_json one = {{"name", member.as_member.name}, {"tree", member.tree}, {"kiln", member.kiln}};
    one["problem"] = member.problem ? problem_document(*member.problem) : ordered_json(nullptr);
    add_plan(one, member);
    out["members"].push_back(std::move(one));
  }
  return dump(out);
}

std::string picture_name(std::size_t check) { return "window-" + std::to_string(check + 1) + ".png"; }

namespace {

ordered_json checks_part(const std::vector<model::Check>& checks) {
  ordered_json out = ordered_json::array();
  for (const auto& c : checks) {
    out.push_back({{"kind", model::name_of(c.kind)},
                   {"name", c.name},
                   {"verdict", model::name_of(c.verdict)},
                   {"reason", c.reason},
                   {"command", c.command},
                   {"seconds", c.seconds},
                   {"place", place(c.place)},
                   {"output", text::printable(c.output.substr(0, 65536))}});
    auto& last = out.back();
    if (!c.picture.empty()) last["picture"] = picture_name(out.size() - 1);
    if (!c.cause.empty()) last["cause"] = c.cause;
    if (!c.remedy.empty()) last["remedy"] = c.remedy;
    if (!c.evidence.empty()) last["evidence"] = c.evidence;
    if (!c.error_lines.empty()) last["error_lines"] = c.error_lines;
    for (const auto& n : c.numbers)
      last["numbers"].push_back({{"name", n.name},
                                 {"value", n.text},
                                 {"recorded", n.recorded.empty() ? ordered_json(nullptr) : ordered_json(n.recorded)},
                                 {"before", n.before.empty() ? ordered_json(nullptr) : ordered_json(n.before)},
                                 {"agrees", n.agrees}});
  }
  return out;
}
}  // namespace

namespace {
// Members have records of their own.
ordered_json members_part(const model::Run& run) {
  ordered_json out = ordered_json::array();
  for (const auto& member : run.members) {
    const auto* followed = member.survey.followed();
    ordered_json targets = ordered_json::array();
    for (const auto& target : member.plan.targets) {
      if (target.in_default) targets.push_back({{"name", target.name}, {"kind", model::name_of(target.kind)}});
    }
    out.push_back({{"name", member.as_member.name},
                   {"tree", member.tree},
                   {"description", followed == nullptr ? ordered_json(nullptr) : ordered_json(followed->path)},
                   {"kiln", member.kiln},
                   {"run", member.number},
                   {"exit", member.exit_code()},
                   {"problem", member.problem ? problem_document(*member.problem) : ordered_json(nullptr)},
                   {"steps", member.count_steps()},
                   {"ran", member.outcome.ran},
                   {"up_to_date", member.outcome.up_to_date},
                   {"checks", member.checks.size()},
                   {"checks_failed", member.count_checks(model::Verdict::failed)},
                   {"installed", member.staged.files},
                   {"needs", member.as_member.needs},
                   {"targets", targets},
                   {"not_begun", member.as_member.not_begun},
                   {"began", member.as_member.began},
                   {"seconds", member.seconds}});
  }
  return out;
}
}  // namespace

ordered_json run_document(const model::Run& run) {
  auto out = head(run);
  out["command"] = run.command;
  out["started"] = run.started;
  out["seconds"] = run.seconds;
  out["run"] = run.number;
  const auto limits = sandbox::in_force(run.allowed.limits);
  out["edits"] = ordered_json::array();
  for (const auto& e : run.edits)
    out["edits"].push_back({{"file", e.file},
                            {"line", e.line},
                            {"before", e.before},
                            {"after", e.after},
                            {"places", e.places},
                            {"place", place(e.place)}});
  out["sandbox"] = {{"network", run.allowed.network},
                    {"devices", run.allowed.devices},
                    {"allowed_by", run.allowed.by},
                    {"limits",
                     {{"processes", limits.processes},
                      {"memory_bytes", limits.memory},
                      {"file_bytes", limits.file_size},
                      {"seconds", limits.seconds}}}};
  out["stages"] = ordered_json::array();
  for (const auto& one : run.stages) out["stages"].push_back({{"stage", one.stage}, {"seconds", one.seconds}});
  out["repeats"] = run.repeats ? ordered_json(run.repeats->run) : ordered_json(nullptr);
  if (run.repeats) {
    // Nothing of the rest is another than in that run.
    out["build"] = {{"ran", 0},     {"up_to_date", run.outcome.up_to_date}, {"failed", 0},
                    {"not_run", 0}, {"seconds", run.outcome.seconds},       {"steps", ordered_json::array()}};
    out["checks"] = checks_part(run.checks);
    return out;
  }
  out["variant"] = run.settings.variant;
  out["survey"] = survey_object(run.survey);
  add_locate(out, run);
  out["options"] = options_part(run.project);
  out["project"] = {
      {"name", run.project.name}, {"version", run.project.version}, {"description", run.project.description}};
  out["left_out"] = ordered_json::array();
  for (const auto& l : run.project.left_out)
    out["left_out"].push_back({{"kind", l.kind}, {"name", l.name}, {"place", place(l.place)}, {"reason", l.reason}});
  out["messages"] = run.project.messages;
  out["remarks"] = ordered_json::array();
  for (const auto& warning : run.project.warnings) out["remarks"].push_back(problem_document(warning));
  for (const auto& note : run.plan.notes) out["remarks"].push_back({{"what", note}});
  out["targets"] = targets_part(run.plan);
  out["plan"] = {{"kept", run.plan_kept},
                 {"worked_out_because", run.plan_kept ? "" : run.plan_why},
                 {"cannot_be_kept_because", run.plan_not_kept}};
  ordered_json options = ordered_json::array();
  for (const auto& option : run.options_in_force)
    options.push_back({{"name", option.name}, {"value", option.value}, {"kept", option.kept}});
  out["options_given"] = options;
  ordered_json build = {{"ran", run.outcome.ran},
                        {"ignored", run.outcome.ignored},
                        {"notes", run.outcome.notes},
                        {"up_to_date", run.outcome.up_to_date},
                        {"failed", run.outcome.failed},
                        {"not_run", run.outcome.not_run},
                        {"left_out", run.outcome.left_out},
                        {"seconds", run.outcome.seconds},
                        {"step_seconds", run.outcome.compile_seconds},
                        {"not_asked_for", ordered_json::array()},
                        {"steps", ordered_json::array()},
                        {"warnings", ordered_json::array()},
                        {"diagnoses", ordered_json::array()}};
  const auto critical = critical_steps(run.plan, run.outcome);
  for (std::size_t i = 0; i < run.outcome.steps.size(); ++i) {
    const auto& r = run.outcome.steps[i];
    const auto& s = run.plan.steps[i];
    // Of the many that need not run there is nothing to tell.
    if (r.state == model::StepState::up_to_date) continue;
    if (r.state == model::StepState::not_run && r.reason.empty()) {
      build["not_asked_for"].push_back(i);
      continue;
    }
    ordered_json entry = {{"step", i},
                          {"kind", model::name_of(s.kind)},
                          {"target", s.target},
                          {"subject", s.subject},
                          {"state", model::name_of(r.state)},
                          {"reason", r.reason},
                          {"started", r.started},
                          {"seconds", r.seconds},
                          {"cpu_seconds", r.cpu_seconds},
                          {"peak_kilobytes", r.peak_kilobytes}};
    if (critical[i]) entry["critical"] = true;
    if (!r.end.empty()) entry["end"] = r.end;
    if (!r.command.empty()) entry["command"] = r.command;
    if (r.state == model::StepState::failed) entry["output"] = text::printable(r.output);
    build["steps"].push_back(std::move(entry));
  }
  for (const auto& w : run.outcome.warnings)
    build["warnings"].push_back(
        {{"place", place(w.place)}, {"option", w.option}, {"message", w.message}, {"step", w.step}});
  build["headers"] = ordered_json::array();
  for (const auto& h : run.outcome.headers)
    build["headers"].push_back(
        {{"path", run.plan.short_path(h.path)}, {"sources", h.sources}, {"seconds", h.seconds}, {"told", h.told}});
  for (const auto& d : run.outcome.diagnoses)
    build["diagnoses"].push_back({{"failure", d.failure}, {"cause", d.cause}, {"remedy", d.remedy}});
  out["build"] = run.built ? build : ordered_json(nullptr);
  out["results"] = run.built ? results_part(run) : ordered_json::array();
  out["staged"] = run.staged.prefix.empty() ? ordered_json(nullptr)
                                            : ordered_json{{"prefix", run.staged.prefix},
                                                           {"files", run.staged.files},
                                                           {"written", run.staged.written},
                                                           {"outside", run.staged.outside},
                                                           {"starters", run.staged.starters}};
  out["checks"] = checks_part(run.checks);
  out["members"] = members_part(run);
  // Where programs that were built find what is not their own, the first first.
  auto prefixes = run.settings.wished_prefixes();
  for (const auto& member : run.members) {
    if (!member.staged.prefix.empty() &&
        std::find(prefixes.begin(), prefixes.end(), member.staged.prefix) == prefixes.end())
      prefixes.push_back(member.staged.prefix);
  }
  out["prefixes"] = prefixes;
  return out;
}

ordered_json problem_document(const Problem& p) {
  return {{"exit", static_cast<int>(p.exit)},
          {"place", place(p.place)},
          {"what", p.what},
          {"cause", p.cause},
          {"remedy", p.remedy},
          {"trail", p.trail}};
}

std::string run_json(const model::Run& run) { return dump(run_document(run)); }

std::string as_text(const ordered_json& document) { return dump(document); }

}  // namespace coctilis::report
