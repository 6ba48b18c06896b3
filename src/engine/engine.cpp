#include "engine/engine.h"

#include <poll.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cassert>
#include <cstring>
#include <mutex>
#include <queue>
#include <set>
#include <unordered_set>

#include "base/disk.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "engine/contents.h"
#include "engine/diagnostics.h"
#include "engine/documents.h"
#include "engine/freshness.h"
#include "engine/graph.h"
#include "engine/header_costs.h"
#include "engine/journal.h"
#include "engine/learned.h"
#include "engine/lookups.h"
#include "engine/read_files.h"
#include "engine/runner.h"
#include "engine/sweep.h"
#include "engine/time_left.h"

namespace coctilis::engine {

using model::Step;
using model::StepKind;
using model::StepResult;
using model::StepState;

namespace {

class Engine {
 public:
  Engine(const model::Plan& plan, const Request& request, Observer& observer)
      : plan_(plan),
        request_(request),
        observer_(observer),
        journal_(journal_of(plan), request.tidy),
        contents_(journal_),
        lookups_(plan, journal_, contents_),
        freshness_(plan, journal_, contents_, lookups_, {request.settled, request.given}, &learned_),
        graph_(plan, request.selection, [this](std::size_t step) { return estimate(step); }),
        runner_(plan, {request.colours, request.hands_on_output, request.open_makes}),
        read_files_(plan, journal_, contents_, lookups_, graph_, learned_),
        time_left_(request.jobs) {
    outcome_.steps.resize(plan.steps.size());
    finished_.resize(plan.steps.size());
    expected_.resize(plan.steps.size());
    for (std::size_t i = 0; i < plan.steps.size(); ++i) {
      const auto& step = plan.steps[i];
      if (!request.selection[i] || (step.kind != StepKind::custom && step.kind != StepKind::generate)) continue;
      for (const auto* list : {&step.outputs, &step.byproducts}) promised_.insert(list->begin(), list->end());
    }
  }

  bool anything_to_do() {
    for (const auto& file : plan_.files) {
      if (files::read(file.path) != file.content) return true;
    }
    for (std::size_t i = 0; i < plan_.steps.size(); ++i) {
      if (request_.selection[i] && !freshness_.reason_to_run(i, false).empty()) return true;
    }
    return false;
  }

  std::vector<DueStep> due() {
    std::unordered_set<std::string_view> rewritten;
    for (const auto& file : plan_.files) {
      if (files::read(file.path) != file.content) rewritten.insert(file.path);
    }
    std::vector<std::string> reasons(plan_.steps.size());
    std::vector<DueStep> out;
    std::vector<std::size_t> ready;
    std::vector<std::size_t> waits(plan_.steps.size(), 0);
    for (std::size_t i = 0; i < graph_.size(); ++i) {
      waits[i] = graph_[i].waits;
      if (request_.selection[i] && waits[i] == 0) ready.push_back(i);
    }
    // By what they need, and else as the plan has them.
    for (std::size_t at = 0; at < ready.size(); ++at) {
      const std::size_t index = ready[at];
      const auto& step = plan_.steps[index];
      std::string reason = freshness_.reason_to_run(index, false);
      for (const auto& input : step.inputs) {
        if (reason.empty() && rewritten.contains(input)) reason = freshness_.shown(input) + " is written anew";
      }
      const bool perhaps = reason.empty();
      if (perhaps) reason = reasons[index];
      if (!reason.empty()) out.push_back({index, reason, perhaps});
      for (const auto user : graph_[index].users) {
        if (!reason.empty() && reasons[user].empty() && needs_result(user, index))
          reasons[user] = "if what " + step.subject + " comes to is another";
        if (--waits[user] == 0) ready.push_back(user);
      }
    }
    return out;
  }

  model::Outcome run() {
    begin_ = now();
    if (const auto it = plan_.environment.find("TMPDIR"); it != plan_.environment.end()) files::make_folder(it->second);
    for (const auto& file : plan_.files) {
      files::write_if_different(file.path, file.content);
      if (file.executable) files::set_mode(file.path, 0755);
    }
    if (request_.sweeps) sweep_what_is_gone();
    for (std::size_t i = 0; i < graph_.size(); ++i) {
      if (!request_.selection[i]) continue;
      ++total_;
      const double recorded = recorded_seconds(i);
      time_left_.expect(i, plan_.steps[i].kind, recorded > 0 ? recorded : usual_seconds(i), recorded > 0);
      if (graph_[i].waits == 0) ready_.push({graph_[i].weight, i});
    }
    while (!ready_.empty() || !running_.empty()) {
      fill();
      if (running_.empty()) continue;
      wait();
      poll_all();
      give_back();
      if (interrupted_by != 0) {
        stop_all();
        break;
      }
      tell();
    }
    finish();
    outcome_.headers = header_costs_.dearest();
    return std::move(outcome_);
  }

 private:
  double recorded_seconds(std::size_t step) {
    const auto* record = journal_.step(freshness_.key(step), plan_.maker);
    return record != nullptr ? record->seconds : 0;
  }
  double estimate(std::size_t step) {
    const double recorded = recorded_seconds(step);
    return recorded > 0 ? recorded : usual_seconds(step);
  }
  [[nodiscard]] double usual_seconds(std::size_t step) const {
    return plan_.steps[step].kind == StepKind::compile ? 0.5 : 0.1;
  }

  // Whether a step reads what another makes, and does not only wait for it.
  [[nodiscard]] bool needs_result(std::size_t user, std::size_t maker) const {
    const auto& step = plan_.steps[user];
    const auto reads = [&](const std::string& path) { return graph_.maker_of(path) == maker; };
    return std::any_of(step.inputs.begin(), step.inputs.end(), reads) ||
           std::any_of(step.input_folders.begin(), step.input_folders.end(), reads) ||
           std::any_of(step.after.begin(), step.after.end(), reads);
  }

  void sweep_what_is_gone() {
    std::unordered_set<PathId> made;
    for (const auto& step : plan_.steps) {
      for (const auto* list : {&step.outputs, &step.byproducts}) {
        for (const auto& output : *list) made.insert(journal_.id(output));
      }
    }
    const auto removed = sweep(plan_, journal_, [&](const Journal::Entry& entry) {
      return entry.maker == plan_.maker && !made.contains(entry.key);
    });
    if (removed > 0) contents_.forget_all();
  }

  // ---- what runs when ------------------------------------------------------------------------------------------
  // What needs the results of a step that runs will run, as likely as not.
  void expect_users(std::size_t index) {
    std::vector<std::size_t> next = {index};
    while (!next.empty()) {
      const std::size_t step = next.back();
      next.pop_back();
      for (const auto user : graph_[step].users) {
        if (expected_[user]) continue;
        expected_[user] = true;
        time_left_.likely(user);
        next.push_back(user);
      }
    }
  }

  // Leave to run one more process.
  bool may_start() {
    if (running_.size() >= std::max(1U, request_.jobs)) return false;
    if (request_.load > 0 && !running_.empty() && is_loaded()) return false;
    return request_.tokens == nullptr || running_.size() <= request_.tokens->taken() || request_.tokens->take();
  }
  // The load follows what is started by seconds: right after a start nothing more is begun.
  bool is_loaded() {
    constexpr double between = 0.5;
    if (now() - load_asked_ < between) return loaded_;
    load_asked_ = now();
    double load = 0;
    loaded_ = ::getloadavg(&load, 1) == 1 && load > request_.load;
    return loaded_;
  }
  void give_back() {
    if (request_.tokens != nullptr) request_.tokens->give_back_all_but(running_.empty() ? 0 : running_.size() - 1);
  }

  void fill() {
    while (!ready_.empty() && may_start()) {
      if (interrupted_by != 0 || (outcome_.failed > 0 && !request_.keep_going)) {
        ready_ = {};
        return;
      }
      const std::size_t index = ready_.top().second;
      ready_.pop();
      const std::string reason = freshness_.reason_to_run(index, true);
      if (reason.empty()) {
        if (!learn(index, outcome_.steps[index])) {
          cannot_be_ordered(index);
          continue;
        }
        auto& result = outcome_.steps[index];
        result.state = StepState::up_to_date;
        ++outcome_.up_to_date;
        --total_;
        time_left_.not_needed(index);
        release(index);
        continue;
      }
      start(index, reason);
    }
  }

  void start(std::size_t index, const std::string& reason) {
    const Step& step = plan_.steps[index];
    assert(graph_[index].waits == 0 && !finished_[index]);
    Running running;
    running.step = index;
    running.result.reason = reason;
    running.result.started = now() - begin_;
    running.reads = read_files_.how(index, freshness_.key(index));
    time_left_.began(index);
    expect_users(index);
    observer_.step_begun(index, running.result);
    const auto fail = [&](const std::string& end, const std::string& output) {
      running.result.end = end;
      running.result.output = output;
      ended(std::move(running), false);
    };
    // What is known to be read is looked at before the step runs: what is changed meanwhile makes it run again.
    for (const auto& input : step.inputs) {
      const auto& is = contents_.now(journal_.id(input));
      if (is.state == Contents::Now::State::unreadable)
        return fail(freshness_.shown(input) + " cannot be read", std::string(std::strerror(EACCES)) + "\n");
      // In a makefile a name may be needed that no file bears.
      if (is.state == Contents::Now::State::there || step.by_time) continue;
      // Commands of a description may make another file than the one it names; what needs it shows whether it matters.
      if (promised_.contains(input)) continue;
      return fail(
          freshness_.shown(input) + " is not there, and nothing makes it",
          "needed by " + step.subject + (step.place.file.empty() ? "" : ", declared at " + step.place.text()) + "\n");
    }
    for (const auto& folder : step.input_folders) {
      const auto& is = contents_.take(journal_.id(folder), Form::tree);
      if (is.hash.empty() || is.hash == unknown_hash)
        return fail("the folder " + freshness_.shown(folder) + (is.hash.empty() ? " is not there" : " cannot be read"),
                    "needed by " + step.subject + "\n");
    }
    std::error_code size_unknown;
    if (const auto size = step.source.empty() ? 0 : std::filesystem::file_size(step.source, size_unknown);
        !size_unknown && size > files::most_bytes)
      return fail("the source " + freshness_.shown(step.source) + " has " + text::size(size),
                  "no source that people or tools write has more than " + text::size(files::most_bytes) + "\n");
    for (const auto& tool : step.tools) static_cast<void>(contents_.now(journal_.id(tool)));
    auto spoilt = freshness_.spoilt_outputs(index);
    // What another step makes now is that one's.
    std::erase_if(spoilt, [&](const std::string& path) {
      const auto maker = graph_.maker_of(path);
      return maker != Graph::none && maker != index;
    });
    remove(spoilt);
    try {
      empty(step.output_folders);
      runner_.prepare(running);
    } catch (const Fault& fault) {
      return fail(fault.problem().what, fault.problem().cause);
    }
    running.actions = step.actions;
    if (request_.touches && step.calls.empty()) {
      // Makes that it calls are told the same.
      running.actions.clear();
      for (const auto& output : step.outputs) {
        if (!step.always)
          running.actions.push_back({model::Action::How::builtin, {"touch", output}, plan_.work, {}, false, false});
      }
    } else if (step.late) {
      try {
        // A plan that was kept has nobody who could; it is only taken when no such step is to be run.
        if (!request_.late)
          throw Fault({Exit::step, step.place, "it became out of date while the build began", {}, "run it again", {}});
        running.actions = request_.late(step);
      } catch (const Fault& fault) {
        return fail(fault.problem().what, fault.problem().cause + "\n" + fault.problem().remedy + "\n");
      }
    }
    // From here on what it makes may be half made: whatever happens, it has no record until it has ended.
    journal_.begin_step(freshness_.key(index), plan_.maker);
    journal_.flush();
    running.began = Moment::now();
    go_on(std::move(running), &Runner::go_on);
  }

  void go_on(Running running, Runner::State (Runner::*by)(Running&) const) {
    const auto state = (runner_.*by)(running);
    if (state == Runner::State::running)
      running_.push_back(std::move(running));
    else
      ended(std::move(running), state == Runner::State::good);
  }

  void wait() {
    std::vector<pollfd> fds;
    for (const auto& running : running_) {
      if (running.process.output_fd() >= 0) fds.push_back({running.process.output_fd(), POLLIN, 0});
    }
    // A process whose output is closed but which has not been reaped yet is asked again soon.
    ::poll(fds.data(), fds.size(), fds.size() < running_.size() ? 2 : 100);
  }

  void poll_all() {
    std::vector<Running> finished;
    for (std::size_t i = 0; i < running_.size();) {
      if (!running_[i].process.poll()) {
        ++i;
        continue;
      }
      finished.push_back(std::move(running_[i]));
      running_.erase(running_.begin() + static_cast<std::ptrdiff_t>(i));
    }
    for (auto& running : finished) go_on(std::move(running), &Runner::take);
  }

  void ended(Running running, bool good) {
    const std::size_t index = running.step;
    const Step& step = plan_.steps[index];
    auto& result = running.result;
    for (const auto* list : {&step.outputs, &step.byproducts}) {
      for (const auto& output : *list) freshness_.forget(journal_.id(output));
    }
    for (const auto* list : {&learned_.of(index).makes, &learned_.of(index).may_make}) {
      for (const auto& output : *list) freshness_.forget(journal_.id(output));
    }
    for (const auto& folder : step.output_folders) freshness_.forget_tree(journal_.id(folder));
    for (const auto& path : running.files.written) {
      if (const PathId id = journal_.find_id(path); id != Journal::none) freshness_.forget(id);
    }
    if (good && step.kind != StepKind::generate && step.kind != StepKind::custom) {
      for (const auto& output : step.outputs) {
        if (!files::exists(output) && !files::is_link(output)) {
          good = false;
          result.end = "its command succeeded, but " + freshness_.shown(output) + " is not there";
          result.command = running.actions.empty() ? "" : running.actions.back().text();
        }
      }
    }
    if (const auto link = good ? link_that_leads_out(step) : std::string(); !link.empty()) {
      good = false;
      result.end = "what it made leads out of the kiln: " + link;
      remove(step.outputs);
      remove(step.byproducts);
      result.command = running.actions.empty() ? "" : running.actions.back().text();
    }
    if (good) good = learn(index, result);
    const bool leave_out =
        !good && request_.leave_out_documents && step.by_time && interrupted_by == 0 && makes_documents(step);
    if (good) {
      remember(running);
    } else if (leave_out) {
      // What needs it goes on; it is tried again the next time.
      result.state = StepState::left_out;
      result.reason = missing_tool(result);
      journal_.forget_step(freshness_.key(index), plan_.maker);
      remove(step.outputs);
      ++outcome_.left_out;
    } else {
      result.state = StepState::failed;
      journal_.forget_step(freshness_.key(index), plan_.maker);
      // Half-written results must not pass for whole ones.
      if (step.kind != StepKind::custom) remove(step.outputs);
      remove_folders(step.output_folders);
      ++outcome_.failed;
      outcome_.failures.push_back(index);
    }
    runner_.finish(running, good);
    ++done_;
    time_left_.ended(index, result.seconds);
    outcome_.compile_seconds += result.seconds;
    outcome_.ignored += result.ignored.size();
    auto found = find_diagnostics(result.output, index);
    std::erase_if(found, [](const auto& d) { return d.severity != "warning"; });
    outcome_.warnings.insert(outcome_.warnings.end(), found.begin(), found.end());
    outcome_.steps[index] = std::move(result);
    observer_.step_ended(index, outcome_.steps[index]);
    if (good) ++outcome_.ran;
    if (good || leave_out) release(index);
    journal_.flush();
  }

  // A result that is a link to something which this user can write to, beside tree and kiln: whoever writes to the
  // result later would write there. Empty: there is none.
  [[nodiscard]] std::string link_that_leads_out(const Step& step) const {
    if (plan_.writable.empty()) return {};
    for (const auto* list : {&step.outputs, &step.byproducts}) {
      for (const auto& output : *list) {
        if (!files::is_link(output)) continue;
        std::error_code error;
        const std::string to = std::filesystem::weakly_canonical(output, error).string();
        static constexpr std::string_view of_system[] = {"/usr", "/lib", "/lib64", "/bin", "/sbin", "/etc", "/opt"};
        const auto has = [&](std::string_view folder) { return !folder.empty() && files::is_below(to, folder); };
        if (error || has(plan_.tree) || has(plan_.kiln) || has(plan_.work) ||
            std::any_of(std::begin(of_system), std::end(of_system), has) ||
            std::any_of(plan_.prefixes.begin(), plan_.prefixes.end(), has))
          continue;
        const bool may_write =
            ::access(to.c_str(), W_OK) == 0 || ::access(std::filesystem::path(to).parent_path().c_str(), W_OK) == 0;
        if (may_write) return freshness_.shown(output) + " is a link to " + text::printable_line(to);
      }
    }
    return {};
  }

  // Takes files away that lie in the folder of results.
  void remove(const std::vector<std::string>& paths) {
    std::error_code error;
    for (const auto& path : paths) {
      if (!plan_.lies_among_results(path)) continue;
      std::filesystem::remove(path, error);
      freshness_.forget(journal_.id(path));
    }
  }

  void remove_folders(const std::vector<std::string>& folders) {
    for (const auto& folder : folders) {
      std::error_code error;
      if (plan_.lies_among_results(folder)) std::filesystem::remove_all(folder, error);
      freshness_.forget_tree(journal_.id(folder));
    }
  }
  // Leaves folders that a step fills there with nothing in them: what it made the last time and does not make now, and
  // what anybody else has put there, is no result. Throws Fault.
  void empty(const std::vector<std::string>& folders) {
    for (const auto& folder : folders) {
      freshness_.forget_tree(journal_.id(folder));
      if (!plan_.lies_among_results(folder))
        throw Fault({Exit::step,
                     {},
                     "the folder " + freshness_.shown(folder) + " does not lie among the results any more",
                     "a link on the way to it leads elsewhere",
                     "take the link away",
                     {}});
      std::error_code error;
      std::filesystem::remove_all(folder, error);
      if (error)
        throw Fault({Exit::kiln,
                     {folder, 0, 0},
                     "the folder " + freshness_.shown(folder) + " cannot be emptied",
                     error.message(),
                     remedy_for_writing(error.value()),
                     {}});
      files::make_folder(folder);
    }
  }

  void remember(Running& running) {
    const std::size_t index = running.step;
    const Step& step = plan_.steps[index];
    const PathId key = freshness_.key(index);
    StepRecord record = read_files_.record(running, runner_, finished_);
    record.command = freshness_.command(index).command;
    record.words = freshness_.command(index).words;
    record.maker = plan_.maker;
    record.seconds = running.result.seconds;
    record.recorded = wall_clock();
    std::vector<ContentId> outputs;
    for (const auto& output : step.outputs)
      outputs.push_back(journal_.content(contents_.take_result(journal_.id(output), running.tells_what_it_writes())));
    for (const auto& folder : step.output_folders)
      outputs.push_back(journal_.content(contents_.take(journal_.id(folder), Form::tree)));
    for (const auto* list : {&learned_.of(index).makes, &learned_.of(index).may_make}) {
      for (const auto& output : *list) {
        if (files::is_file(output))
          outputs.push_back(journal_.content(contents_.take(journal_.id(output), Form::output)));
      }
    }
    record.outputs.insert(record.outputs.begin(), outputs.begin(), outputs.end());
    const auto before = journal_.last_outputs(key, plan_.maker);
    const bool same = !step.always && before.size() == record.outputs.size() &&
                      std::equal(before.begin(), before.end(), record.outputs.begin());
    running.result.state = same ? StepState::unchanged : StepState::done;
    remove_former(step, before, record);
    journal_.put_step(key, record);
    header_costs_.add(step, record, running.result.seconds);
    finished_[index] = true;
  }

  // Takes away what the step made when it was another, and does not make any more.
  void remove_former(const Step& step, const Journal::Ids& before, const StepRecord& record) {
    if (!request_.sweeps || (step.kind != StepKind::finish && step.kind != StepKind::generate)) return;
    std::set<PathId> made;
    for (const ContentId id : record.outputs) made.insert(journal_.content(id).path);
    for (const ContentId id : before) {
      const auto& content = journal_.content(id);
      if (made.contains(content.path)) continue;
      const std::string path(journal_.path(content.path));
      // The graph knows what lies in folders that steps fill.
      if (graph_.maker_of(path) != Graph::none) continue;
      if (form_of(content.form) == Form::tree)
        remove_folders({path});
      else if (!files::is_folder(path))
        remove({path});
    }
  }

  // Takes in what a step that looked into sources tells of others, before these are released. False, with the reason in
  // `result`, when they cannot be ordered.
  bool learn(std::size_t index, StepResult& result) {
    if (!plan_.steps[index].teaches) return true;
    std::unordered_map<std::string_view, std::size_t> users;
    for (const auto user : graph_[index].users) users.emplace(plan_.steps[user].outputs.front(), user);
    const auto lessons = Learned::read(plan_.steps[index].outputs.front());
    const auto each = [&](const auto& what) {
      for (const auto& lesson : lessons) {
        // Only what waits for this step is sure not to have begun.
        if (const auto it = users.find(lesson.step); it != users.end()) what(it->second, lesson);
      }
    };
    each([&](std::size_t step, const Learned::Lesson& lesson) {
      learned_.put(step, lesson);
      for (const auto& path : lesson.makes) {
        if (graph_.add_output(step, path)) continue;
        result.end = freshness_.shown(path) + " is made by two steps";
        result.output += "by " + plan_.steps[step].subject + " for '" + plan_.steps[step].target + "' and by " +
                         plan_.steps[graph_.maker_of(path)].subject + " for '" +
                         plan_.steps[graph_.maker_of(path)].target + "'\n";
      }
      for (const auto& path : lesson.may_make) static_cast<void>(graph_.add_output(step, path));
    });
    if (!result.end.empty()) return false;
    bool waits = false;
    each([&](std::size_t step, const Learned::Lesson& lesson) {
      for (const auto& path : lesson.needs) {
        const auto maker = graph_.maker_of(path);
        if (maker != Graph::none && !finished_[maker]) waits = graph_.add_wait(step, maker) || waits;
      }
    });
    if (!waits) return true;
    try {
      graph_.weigh_again([this](std::size_t step) { return estimate(step); }, finished_);
    } catch (const Fault& fault) {
      result.end = fault.problem().what;
      result.output += fault.problem().cause + "\n";
      return false;
    }
    return true;
  }

  // A step that was up to date tells of others what cannot be.
  void cannot_be_ordered(std::size_t index) {
    auto& result = outcome_.steps[index];
    result.state = StepState::failed;
    ++outcome_.failed;
    outcome_.failures.push_back(index);
    observer_.step_ended(index, result);
  }

  void release(std::size_t index) {
    finished_[index] = true;
    for (const auto user : graph_[index].users) {
      assert(graph_[user].waits > 0);  // else it has been released before all that it needs
      if (--graph_[user].waits == 0) ready_.push({graph_[user].weight, user});
    }
  }

  void stop_all() {
    for (auto& running : running_) running.process.signal(interrupted_by == 2 ? 2 : 15);
    const double until = now() + 0.5;
    bool left = true;
    while (left && now() < until) {
      left = false;
      for (auto& running : running_) left = !running.process.poll() || left;
      if (left) ::usleep(5000);
    }
    for (auto& running : running_) {
      if (running.process.running()) running.process.stop(Ended::How::interrupted);
      // It was begun and has no record; what it made is taken away where that may be.
      runner_.finish(running, false);
      const Step& step = plan_.steps[running.step];
      if (step.kind != StepKind::custom) remove(step.outputs);
      remove_folders(step.output_folders);
    }
    running_.clear();
    give_back();
  }

  // ---- telling -------------------------------------------------------------------------------------------------
  // Adds what is new since the last time to the count that others read.
  void share() {
    if (request_.own == nullptr) return;
    request_.own->add(static_cast<std::int64_t>(done_) - static_cast<std::int64_t>(shared_done_),
                      static_cast<std::int64_t>(total_) - static_cast<std::int64_t>(shared_total_));
    shared_done_ = done_;
    shared_total_ = total_;
  }

  void tell() {
    if (now() - told_ < 0.1) return;
    told_ = now();
    share();
    Progress progress;
    progress.done = done_;
    progress.total = total_;
    std::size_t others_left = 0;
    if (request_.others != nullptr) {
      const auto others = request_.others->values();
      others_left = others.total > others.done ? others.total - others.done : 0;
      progress.done += others.done;
      progress.total += std::max(others.done, others.total);
      progress.open = others.total < others.done;
    }
    for (const auto& running : running_) {
      progress.running.emplace_back(running.step, now() - begin_ - running.result.started);
    }
    std::sort(progress.running.begin(), progress.running.end(),
              [](const auto& a, const auto& b) { return a.second > b.second; });
    double longest = ready_.empty() ? 0 : ready_.top().first;
    for (const auto& [step, age] : progress.running) {
      progress.last_time.push_back(time_left_.last_time(step));
      longest = std::max(longest, graph_[step].weight - age);
    }
    if (!progress.open) progress.seconds_left = time_left_.told(now() - begin_, progress.running, longest, others_left);
    observer_.progress(progress);
  }

  void finish() {
    // Also when nothing was running: what had not begun must not count as done.
    outcome_.interrupted_by = interrupted_by;
    for (std::size_t i = 0; i < plan_.steps.size(); ++i) {
      if (!request_.selection[i] || outcome_.steps[i].state != StepState::not_run) continue;
      ++outcome_.not_run;
      outcome_.steps[i].reason =
          outcome_.interrupted_by != 0 ? "interrupted" : "something it needs failed, or the build had stopped";
    }
    outcome_.seconds = now() - begin_;
    share();
    journal_.flush();
    if (request_.tell_observation) tell_observation();
    if (request_.sights != nullptr) show(*request_.sights);
  }

  void show(Sights& sights) {
    const auto each = [&](const Journal::Ids& ids) {
      for (const ContentId id : ids) {
        const auto& content = journal_.content(id);
        if (form_of(content.form) == Form::tree)
          contents_.each_below(content.path, [&](PathId one) { contents_.show(one, sights); });
        else
          contents_.show(content.path, sights);
      }
    };
    for (const auto& file : plan_.files) sights.look(Sights::Kind::file, file.path);
    for (std::size_t i = 0; i < plan_.steps.size() && !sights.spoilt(); ++i) {
      if (!request_.selection[i]) continue;
      const auto* record = journal_.step(freshness_.key(i), plan_.maker);
      if (outcome_.steps[i].state != StepState::up_to_date || record == nullptr) return sights.spoil();
      each(journal_.inputs(*record));
      each(journal_.outputs(*record));
      if (record->searched != 0) each(journal_.list(record->searched));
    }
  }

  void tell_observation() {
    for (std::size_t i = 0; i < plan_.steps.size(); ++i) {
      const auto* record = request_.selection[i] ? journal_.step(freshness_.key(i), plan_.maker) : nullptr;
      if (record == nullptr) continue;
      for (const auto& ids : {journal_.inputs(*record), journal_.outputs(*record)}) {
        for (const ContentId id : ids) {
          const PathId of = journal_.content(id).path;
          const std::string path(journal_.path(of));
          switch (form_of(journal_.content(id).form)) {
            case Form::names: observe::entries(path); break;
            case Form::tree:
              contents_.each_below(of, [&](PathId one) {
                const std::string below(journal_.path(one));
                contents_.now(one).is_folder ? observe::entries(below) : observe::content(below);
              });
              break;
            default: observe::content(path);
          }
        }
      }
    }
  }

  const model::Plan& plan_;
  const Request& request_;
  Observer& observer_;
  Journal journal_;
  Contents contents_;
  Lookups lookups_;
  Learned learned_;
  Freshness freshness_;
  Graph graph_;
  Runner runner_;
  ReadFiles read_files_;
  TimeLeft time_left_;
  HeaderCosts header_costs_{journal_};
  std::vector<bool> expected_;  // steps that need what one makes that has begun
  std::priority_queue<std::pair<double, std::size_t>> ready_;
  std::vector<Running> running_;
  std::vector<bool> finished_;  // steps that have ended well, or need not run
  double load_asked_ = 0;
  bool loaded_ = false;
  model::Outcome outcome_;
  double begin_ = 0;
  double told_ = 0;
  std::size_t done_ = 0;
  std::size_t total_ = 0;
  std::size_t shared_done_ = 0;
  std::size_t shared_total_ = 0;
  std::unordered_set<std::string_view> promised_;  // results of the description's own commands
};

}  // namespace

Result<bool> anything_to_do(const model::Plan& plan, const Request& request) {
  return guarded("looking what is out of date", [&] {
    struct Nobody : Observer {
      void step_ended(std::size_t, const model::StepResult&) override {}
      void progress(const Progress&) override {}
    } nobody;
    return Engine(plan, request, nobody).anything_to_do();
  });
}

Result<std::vector<DueStep>> due(const model::Plan& plan, const Request& request) {
  return guarded("looking what is out of date", [&] {
    struct Nobody : Observer {
      void step_ended(std::size_t, const model::StepResult&) override {}
      void progress(const Progress&) override {}
    } nobody;
    return Engine(plan, request, nobody).due();
  });
}

Result<model::Outcome> build(const model::Plan& plan, const Request& request, Observer& observer) {
  return guarded("building", [&] { return Engine(plan, request, observer).run(); });
}

}  // namespace coctilis::engine
