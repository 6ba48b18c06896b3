#include "pipeline/inner_make.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include "base/disk.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/job_tokens.h"
#include "base/notes.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/makefile/make.h"
#include "describe/mirror.h"
#include "engine/engine.h"
#include "engine/known_files.h"
#include "model/environment_variables.h"
#include "pipeline/keeping.h"
#include "pipeline/reached_makes.h"
#include "plan/recipes.h"
#include "record/kept.h"

namespace coctilis::pipeline {

namespace {

using describe::makefile::Call;
using describe::makefile::Make;

std::string value_of(const std::map<std::string, std::string>& environment, const char* name) {
  const auto it = environment.find(name);
  return it == environment.end() ? std::string{} : it->second;
}

InnerMake inner_of(const std::map<std::string, std::string>& environment) {
  InnerMake out;
  out.state = value_of(environment, "COCTILIS_MAKE");
  out.root = value_of(environment, "COCTILIS_MAKE_ROOT");
  out.tree = value_of(environment, "COCTILIS_MAKE_TREE");
  out.journal = value_of(environment, "COCTILIS_MAKE_JOURNAL");
  for (auto& folder : text::split(value_of(environment, "COCTILIS_MAKE_HEADERS"), ':')) {
    if (!folder.empty()) out.compiler_folders.push_back(std::move(folder));
  }
  out.jobs = static_cast<unsigned>(std::max(1, std::atoi(value_of(environment, "COCTILIS_MAKE_JOBS").c_str())));
  return out;
}

engine::Request request_for(PreparedMake& prepared, unsigned jobs) {
  engine::Request request;
  request.selection.assign(prepared.plan.steps.size(), true);
  request.jobs = jobs;
  request.given = describe::given_in(prepared.plan.work);
  if (prepared.make)
    request.late = [&prepared](const model::Step& step) {
      model::Recipe recipe = prepared.recipes.at(step.key);
      recipe.lines = prepared.make->late_lines(recipe);
      auto actions = plan::actions_of(recipe);
      if (!step.actions.empty()) {
        for (auto& action : actions) action.environment = step.actions.front().environment;
      }
      return actions;
    };
  request.settled = [](const model::Step& step) { return calls_are_settled(step.calls); };
  return request;
}

// All that a plan of this call hangs on besides files and commands, as one text.
std::string text_of(const Call& call, const std::string& root) {
  std::string out = call.folder + '\1' + call.standard_input + '\1' + root + '\1' + call.program;
  for (const auto* list : {&call.makefiles, &call.goals, &call.assignments, &call.include_folders, &call.texts}) {
    out += '\2';
    for (const auto& word : *list) out += word + '\1';
  }
  for (const bool set : {call.environment_wins, call.ignore_errors, call.no_rules, call.no_variables, call.silent,
                         call.all, call.print_folder})
    out += set ? '1' : '0';
  out += fmt::format("{} {}", call.jobs, call.level);
  for (const auto& [name, value] : call.environment) {
    if (!model::is_passing(name)) out += '\1' + name + '=' + value;
  }
  return out;
}

// What inner makes note of each step for the outermost run.
struct NotedStep {
  model::Step step;
  model::StepResult result;
};

// How an inner make was called, so that it can be asked whether it would do anything now.
struct NotedCall {
  std::string folder;
  std::vector<std::string> words;
  std::map<std::string, std::string> environment;
};

// Prints what a make prints: the commands that are not silent, and what they said.
class Printer : public engine::Observer {
 public:
  Printer(const PreparedMake& prepared, const Call& call, const InnerMake& inner,
          const std::function<void(const std::string&, bool)>& print)
      : prepared_(prepared), call_(call), inner_(inner), print_(print) {}

  void step_ended(std::size_t index, const model::StepResult& result) override {
    const auto& step = prepared_.plan.steps[index];
    std::string text;
    for (const auto& action : step.actions) {
      if (action.silent || call_.silent || step.late) continue;
      text += command_text(action) + "\n";
    }
    text += result.output;
    // What its caller may take as a value gets no line end that nobody printed.
    const bool failed = result.state == model::StepState::failed;
    if (failed && !text.empty() && !text.ends_with('\n')) text += '\n';
    print_(text, false);
    if (failed) print_(step.place.text() + ": making '" + step.subject + "' failed: " + result.end + "\n", true);
    note(step, result);
  }
  void progress(const engine::Progress&) override {}

  static std::string command_text(const model::Action& action) {
    // A line that went to a shell is shown as it was written.
    if (action.argv.size() >= 3 && action.argv[0].ends_with("sh") && action.argv[1].starts_with('-'))
      return action.argv.back();
    return action.text();
  }

 private:
  // For the outermost run, which looks at the commands themselves only.
  void note(const model::Step& step, const model::StepResult& result) const {
    NotedStep noted{step, result};
    // The record keeps as much of what a step prints as of any other.
    noted.result.output.resize(std::min(noted.result.output.size(), Command().output_limit));
    for (auto& action : noted.step.actions) action.environment = {};
    append_value(inner_.state + "/steps", noted);
  }

  const PreparedMake& prepared_;
  const Call& call_;
  const InnerMake& inner_;
  const std::function<void(const std::string&, bool)>& print_;
};

// How deep makes may start each other, and how often the same may be on the way. Trees that build the parts of parts
// get to ten; one that starts itself with another environment does so once or twice.
constexpr int most_levels = 60;
constexpr std::ptrdiff_t most_of_one = 8;

// Two makes with the same goals in the same folder wait for each other: they would write the same files.
class Turn {
 public:
  explicit Turn(const std::string& folder) {
    files::make_folder(folder);
    fd_ = ::open((folder + "/turn").c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    if (fd_ >= 0) ::flock(fd_, LOCK_EX);
  }
  ~Turn() {
    if (fd_ >= 0) ::close(fd_);
  }
  Turn(const Turn&) = delete;
  Turn& operator=(const Turn&) = delete;

 private:
  int fd_ = -1;
};

// -n: what would be run. Lines that start make again are run, to see what it would do.
int show_only(PreparedMake& prepared, const engine::Request& request,
              const std::function<void(const std::string&, bool)>& print) {
  for (const auto& step : prepared.plan.steps) {
    engine::Request one = request;
    one.selection.assign(prepared.plan.steps.size(), false);
    one.selection[static_cast<std::size_t>(&step - prepared.plan.steps.data())] = true;
    const auto due = engine::anything_to_do(prepared.plan, one);
    if (due && !*due) continue;
    auto recipe = prepared.recipes.at(step.key);
    if (recipe.late) recipe.lines = prepared.make->late_lines(recipe);
    for (const auto& action : plan::actions_of(recipe)) {
      print(Printer::command_text(action) + "\n", false);
    }
    for (const auto& line : recipe.lines) {
      if (!line.always) continue;
      Command command;
      command.argv = recipe.shell;
      command.argv.push_back(line.command);
      command.folder = recipe.folder;
      for (const auto& [name, value] : recipe.environment) command.environment[name] = value;
      print(run(command).output, false);
    }
  }
  return 0;
}

}  // namespace

describe::Services services_for(const model::Plan& plan) {
  struct Nobody : engine::Observer {
    void step_ended(std::size_t, const model::StepResult&) override {}
    void progress(const engine::Progress&) override {}
  };
  describe::Services out;
  out.run_recipes = [plan](const std::vector<model::Recipe>& recipes, const auto& lines) {
    model::Plan now = plan;
    now.maker = maker_while_reading(plan.maker);
    std::vector<model::Recipe> numbered = recipes;
    for (std::size_t i = 0; i < numbered.size(); ++i) numbered[i].key = i;
    plan::add_recipes(numbered, now.work, now);
    engine::Request request;
    request.selection.assign(now.steps.size(), true);
    request.given = describe::given_in(now.work);
    request.tell_observation = true;
    request.leave_out_documents = false;
    request.late = [&](const model::Step& step) {
      model::Recipe recipe = numbered.at(step.key);
      recipe.lines = lines(recipe);
      auto actions = plan::actions_of(recipe);
      for (auto& action : actions) action.environment = recipe.environment;
      return actions;
    };
    Nobody nobody;
    const auto outcome = engine::build(now, request, nobody);
    if (!outcome) throw Fault(outcome.problem());
    if (outcome->interrupted_by != 0) throw Fault({Exit::step, {}, "interrupted", {}, "run it again", {}});
    if (!outcome->failures.empty()) {
      const auto& step = now.steps[outcome->failures.front()];
      const auto& result = outcome->steps[outcome->failures.front()];
      throw Fault({Exit::step,
                   step.place,
                   "making '" + step.subject + "', which the description is read from, failed: " + result.end,
                   text::printable(result.output),
                   "command: " + text::printable_line(result.command),
                   {}});
    }
    return outcome->ran > 0;
  };
  const auto known = std::make_shared<engine::KnownFiles>(plan.journal);
  out.made_by_step = [known](const std::string& file) { return known->is_made(file); };
  out.read_by_step = [known](const std::string& file) { return known->is_read(file); };
  return out;
}

PreparedMake prepare_make(Call call, const InnerMake& inner, bool may_take) {
  const std::string& root = inner.root;
  const std::string& state = inner.state;
  std::string name = call.folder;
  name += call.standard_input;
  const auto add = [&](const std::vector<std::string>& words) {
    name += '\1';
    for (const auto& word : words) name += word + '\0';
  };
  add(call.makefiles);
  add(call.goals);
  // Who asks for the same with other values of the same variables is the same maker, whose commands have changed.
  std::string asked = name;
  for (const auto& variable : call.own_variables) asked += variable + '\0';
  const std::uint64_t maker = hash_short(asked);
  add(call.assignments);
  const std::string kiln = state + "/" + hash_bytes(name).text();
  const std::string key = record::key_of(text_of(call, root));
  const std::string path = kiln + "/kept";
  if (may_take) {
    // It has no folder that follows another: the copy of the tree is in step already.
    auto taken = record::take(path, key, [](const std::string&, const std::string&) { return false; });
    if (taken.kept) {
      PreparedMake out;
      out.plan = std::move(taken.kept->plan);
      out.messages = std::move(taken.kept->project.messages);
      out.warnings = std::move(taken.kept->project.warnings);
      if (!needs_the_reader(out.plan, request_for(out, 1))) return out;
    }
  }
  PreparedMake out;
  out.plan.tree = out.plan.work = root;
  out.plan.kiln = kiln;
  out.plan.original = inner.tree;
  out.plan.journal = inner.journal;
  out.plan.maker = maker;
  out.plan.compiler_folders = inner.compiler_folders;
  const auto goals = call.goals;
  Observed observed;
  {
    const Observation observation(observed);
    out.make = std::make_unique<Make>(std::move(call), root);
    out.make->run_recipes = services_for(out.plan).run_recipes;
    out.make->read();
    out.recipes = out.make->recipes(goals);
    for (std::size_t i = 0; i < out.recipes.size(); ++i) out.recipes[i].key = i;
    plan::add_recipes(out.recipes, root, out.plan);
  }
  out.messages = out.make->messages();
  out.warnings = out.make->warnings();
  if (may_take) {
    record::Kept kept;
    kept.project.messages = out.messages;
    kept.project.warnings = out.warnings;
    kept.plan = out.plan;
    record::keep(path, key, observed, kept);
  }
  return out;
}

void set_up_inner_make(const InnerMake& inner, const std::string& program,
                       std::map<std::string, std::string>& environment) {
  files::make_folder(inner.state + "/bin");
  std::error_code error;
  for (const char* name : {"make", "gmake"}) {
    const std::string link = inner.state + "/bin/" + name;
    if (std::filesystem::read_symlink(link, error) == program) continue;
    std::filesystem::remove(link, error);
    std::filesystem::create_symlink(program, link, error);
  }
  std::filesystem::remove(inner.state + "/steps", error);
  std::filesystem::remove(inner.count(), error);
  // What makes write beside that has to be there before the first is started: only so may they write there
  // (confinement_of).
  const auto kiln = std::filesystem::path(inner.state).parent_path();
  for (const char* part : {"calls", "dependencies"}) files::make_folder(kiln / part);
  if (!inner.journal.empty()) {
    const int fd = disk().open(inner.journal.c_str(), O_RDWR | O_CREAT | O_APPEND | O_NOFOLLOW, 0666);
    if (fd >= 0) ::close(fd);
  }
  // This run itself may always run one process. Where it is a part of another the leave is that one's: the same file,
  // under a name that the tree's commands may open.
  std::filesystem::remove(inner.tokens(), error);
  if (!inner.shared_tokens.empty()) std::filesystem::create_hard_link(inner.shared_tokens, inner.tokens(), error);
  if (inner.shared_tokens.empty() || error) JobTokens::make(inner.tokens(), inner.jobs > 1 ? inner.jobs - 1 : 0);
  const char* path = std::getenv("PATH");
  environment.try_emplace("PATH", path == nullptr ? "/usr/local/bin:/usr/bin:/bin" : path);
  environment["PATH"] = inner.state + "/bin:" + environment["PATH"];
  environment["COCTILIS_MAKE"] = inner.state;
  environment["COCTILIS_MAKE_ROOT"] = inner.root;
  environment["COCTILIS_MAKE_TREE"] = inner.tree;
  environment["COCTILIS_MAKE_JOURNAL"] = inner.journal;
  environment["COCTILIS_MAKE_HEADERS"] = text::join(inner.compiler_folders, ":");
  environment["COCTILIS_MAKE_COUNT"] = inner.count();
  environment["COCTILIS_MAKE_JOBS"] = std::to_string(inner.jobs);
}

int answer_make(const std::vector<std::string>& words, const std::map<std::string, std::string>& environment,
                const std::string& folder, const std::function<std::string()>& standard_input,
                const std::function<void(const std::string&, bool)>& print) {
  const InnerMake inner = inner_of(environment);
  const auto complain = [&](const Problem& problem) {
    std::string text = (problem.place.file.empty() ? "" : problem.place.text() + ": ") + problem.what + "\n";
    if (!problem.cause.empty()) text += "  cause: " + problem.cause + "\n";
    if (!problem.remedy.empty()) text += "  " + problem.remedy + "\n";
    for (const auto& trail : problem.trail) text += "  " + trail + "\n";
    print(text, true);
    return 2;
  };
  if (inner.state.empty() || inner.root.empty())
    return complain({Exit::usage, {}, "this make is for builds of Coctilis only", {}, "", {}});
  auto call = describe::makefile::parse_call(words, environment, folder);
  if (!call) return complain(call.problem());
  if (call->version) {
    print("make of Coctilis\n", false);
    return 0;
  }
  if (std::any_of(call->makefiles.begin(), call->makefiles.end(),
                  [](const auto& name) { return name == "-" || name == "/dev/stdin"; }))
    call->standard_input = standard_input();
  int status = 0;
  const auto done = guarded("answering make", [&] {
    call->program = inner.state + "/bin/make";
    call->output_root = inner.root;
    // What is only shown, or done in another way, needs the makefile itself.
    PreparedMake prepared = prepare_make(*call, inner, !call->dry && !call->touch);
    for (const auto& message : prepared.messages) print(message + "\n", false);
    for (const auto& warning : prepared.warnings)
      print((warning.place.file.empty() ? "" : warning.place.text() + ": ") + warning.what + "\n", true);
    const std::string open = value_of(environment, "COCTILIS_MAKE_OPEN");
    const std::string own = std::filesystem::path(prepared.plan.kiln).filename().string();
    const auto waiting = text::split(open, ':');
    const auto times = std::count(waiting.begin(), waiting.end(), own);
    if (call->level > most_levels || times >= most_of_one)
      throw Fault({Exit::step,
                   {},
                   "makes start each other without end: " + std::to_string(call->level) + " in a row",
                   "'" + text::clip(text::printable_line(text::join(call->goals, " ")), 80) + "' in " + call->folder +
                       " seems to start itself",
                   "look for a recipe that starts make for the target that it belongs to",
                   {}});
    // The same that waits for this one need not be waited for.
    std::optional<Turn> turn;
    if (times == 0) turn.emplace(prepared.plan.kiln);
    engine::Request request = request_for(prepared, call->jobs == 1 ? 1 : inner.jobs);
    request.keep_going = call->keep_going;
    request.hands_on_output = true;
    request.open_makes = open + (open.empty() ? "" : ":") + own;
    note_reached(inner.state, prepared.plan.maker);
    if (call->dry) {
      status = show_only(prepared, request, print);
      return true;
    }
    if (call->question) {
      const auto due = engine::anything_to_do(prepared.plan, request);
      if (!due) throw Fault(due.problem());
      status = *due ? 1 : 0;
      return true;
    }
    if (call->all) {
      for (auto& step : prepared.plan.steps) step.always = true;
    }
    request.touches = call->touch;
    request.sweeps = !call->touch;
    JobTokens tokens(inner.tokens());
    request.tokens = &tokens;
    SharedCount count(inner.count());
    request.own = &count;
    Printer printer(prepared, *call, inner, print);
    auto outcome = engine::build(prepared.plan, request, printer);
    if (!outcome) throw Fault(outcome.problem());
    status = outcome->good() ? 0 : 2;
    return true;
  });
  if (!done) return complain(done.problem());
  // What was asked, for the next time: if nothing in it is out of date then, nobody needs to be asked.
  if (const std::string calls = value_of(environment, "COCTILIS_MAKE_STEP"); status == 0 && !calls.empty()) {
    append_value(calls, NotedCall{folder, words, environment});
  }
  return status;
}

bool calls_are_settled(const std::string& calls) {
  const auto content = calls.empty() ? std::nullopt : files::read(calls);
  if (!content || content->empty()) return false;
  const auto settled = guarded("looking into inner makes", [&] {
    return each_value<NotedCall>(*content, [](const NotedCall& noted) {
      auto call = describe::makefile::parse_call(noted.words, noted.environment, noted.folder);
      if (!call || call->dry || call->question) return false;
      const InnerMake inner = inner_of(noted.environment);
      call->program = inner.state + "/bin/make";
      call->output_root = inner.root;
      PreparedMake prepared = prepare_make(*call, inner, true);
      note_reached(inner.state, prepared.plan.maker);
      const auto due = engine::anything_to_do(prepared.plan, request_for(prepared, 1));
      return due && !*due;
    });
  });
  return settled && *settled;
}

namespace {
// Commands of the tree can write where steps are noted: what has values that no step has is none.
bool is_sound(const NotedStep& noted) {
  const auto sound = [](const model::Action& action) {
    return action.how == model::Action::How::process || action.how == model::Action::How::shell ||
           action.how == model::Action::How::builtin;
  };
  return noted.step.kind >= model::StepKind::compile && noted.step.kind <= model::StepKind::scan &&
         noted.step.reads >= model::Reads::told && noted.step.reads <= model::Reads::noted &&
         noted.result.state >= model::StepState::up_to_date && noted.result.state <= model::StepState::left_out &&
         !noted.step.outputs.empty() && std::all_of(noted.step.actions.begin(), noted.step.actions.end(), sound);
}
}  // namespace

void take_inner_steps(const std::string& state, std::vector<model::Step>& steps,
                      std::vector<model::StepResult>& results) {
  const auto content = files::read(state + "/steps");
  if (!content) return;
  each_value<NotedStep>(*content, [&](NotedStep noted) {
    if (!is_sound(noted)) return true;
    noted.step.by_time = true;
    steps.push_back(std::move(noted.step));
    results.push_back(std::move(noted.result));
    return true;
  });
}

}  // namespace coctilis::pipeline
