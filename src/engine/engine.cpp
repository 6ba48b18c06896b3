#include "engine/engine.h"

#include <poll.h>
#include <sys/stat.h>
#include <unistd.h>

#include <ctime>
#include <queue>
#include <unordered_set>

#include "base/confine.h"
#include "base/depfile.h"
#include "base/file_operations.h"
#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "engine/diagnostics.h"
#include "engine/documents.h"
#include "engine/journal.h"

namespace coctilis::engine {

using model::Action;
using model::Step;
using model::StepKind;
using model::StepResult;
using model::StepState;

namespace {

Hash command_hash(const Step& step) {
  static thread_local std::string all;
  all.clear();
  const auto add = [&](std::string_view text) { all.append(text).push_back('\0'); };
  for (const auto& action : step.actions) {
    all += static_cast<char>('0' + static_cast<int>(action.how));
    all += '\0';
    add(action.folder);
    for (const auto& word : action.argv) add(word);
    for (const auto& [name, value] : action.environment) {
      // How deep makes call each other says nothing of what is made: one make may be called from several places.
      if (name == "MAKELEVEL") continue;
      all.append(name).push_back('=');
      add(value);
    }
    all += '\1';
  }
  for (const auto& output : step.outputs) add(output);
  add(step.depfile);
  add(step.identity);
  return hash_bytes(all);
}

std::int64_t nanoseconds(const timespec& time) {
  return static_cast<std::int64_t>(time.tv_sec) * 1000000000 + time.tv_nsec;
}
std::int64_t wall_clock() {
  timespec time{};
  ::clock_gettime(CLOCK_REALTIME, &time);
  return nanoseconds(time);
}

// What is known of files' contents in this run.
class Contents {
 public:
  explicit Contents(Journal& journal) : journal_(journal) {}

  // The hash of the file's content now; empty when it is not there.
  Hash of(PathId id) {
    if (const auto it = known_.find(id); it != known_.end()) return it->second;
    return known_[id] = look(id);
  }
  void forget(PathId id) { known_.erase(id); }
  // The hash, or none when the file was written after `when` (nanoseconds since the epoch): then nobody can tell which
  // content a step that ran meanwhile has read.
  Hash of_before(PathId id, std::int64_t when) {
    if (known_.contains(id)) return known_[id];
    struct stat info {};
    if (::stat(journal_.path(id).c_str(), &info) != 0 || nanoseconds(info.st_mtim) > when) return {};
    return of(id);
  }

 private:
  Hash look(PathId id) {
    const std::string& path = journal_.path(id);
    struct stat info {};
    if (::stat(path.c_str(), &info) != 0) return {};
    const std::int64_t modified = nanoseconds(info.st_mtim);
    const FileState* before = journal_.file(id);
    if (before != nullptr && before->settled && before->size == static_cast<std::uint64_t>(info.st_size) &&
        before->modified == modified && before->inode == info.st_ino)
      return before->hash;
    const auto hash = hash_file(path);
    if (!hash) return {};
    // Times of files move in ticks of some milliseconds.
    journal_.put_file(id, {static_cast<std::uint64_t>(info.st_size), modified, info.st_ino, *hash,
                           wall_clock() - modified > 50000000});
    return *hash;
  }

  Journal& journal_;
  std::unordered_map<PathId, Hash> known_;
};

struct Node {
  std::vector<std::size_t> users;
  std::size_t waits = 0;  // selected steps that have to end before
  PathId key = 0;
  Hash command;
  double weight = 0;  // seconds on the longest way to the end
};

struct Running {
  std::size_t step = 0;
  std::size_t action = 0;
  std::vector<Action> actions;
  std::int64_t began = 0;  // wall clock, nanoseconds
  Process process;
  StepResult result;
};

class Engine {
 public:
  Engine(const model::Plan& plan, const Request& request, Observer& observer)
      : plan_(plan),
        request_(request),
        observer_(observer),
        journal_(plan.kiln + "/journal"),
        contents_(journal_),
        nodes_(plan.steps.size()) {
    outcome_.steps.resize(plan.steps.size());
  }

  bool anything_to_do() {
    looking_only_ = true;
    for (const auto& file : plan_.files) {
      if (files::read(file.path) != file.content) return true;
    }
    connect();
    weigh();
    for (std::size_t i = 0; i < nodes_.size(); ++i) {
      if (request_.selection[i] && !reason_to_run(i).empty()) return true;
    }
    return false;
  }

  model::Outcome run() {
    begin_ = now();
    if (const auto it = plan_.environment.find("TMPDIR"); it != plan_.environment.end()) files::make_folder(it->second);
    for (const auto& file : plan_.files) {
      files::write_if_different(file.path, file.content);
      if (file.executable) ::chmod(file.path.c_str(), 0755);
    }
    connect();
    weigh();
    for (std::size_t i = 0; i < nodes_.size(); ++i) {
      if (request_.selection[i]) {
        ++total_;
        if (nodes_[i].waits == 0) ready_.push({nodes_[i].weight, i});
      }
    }
    while (!ready_.empty() || !running_.empty()) {
      fill();
      if (running_.empty()) continue;
      wait();
      poll_all();
      if (request_.tokens >= 0) give_back();
      if (interrupted_by != 0) {
        stop_all();
        break;
      }
      tell();
    }
    finish();
    return std::move(outcome_);
  }

 private:
  // ---- the graph -----------------------------------------------------------------------------------------------
  void connect() {
    std::unordered_map<std::string_view, std::size_t> maker;
    for (std::size_t i = 0; i < plan_.steps.size(); ++i) {
      if (!request_.selection[i]) continue;
      for (const auto* list : {&plan_.steps[i].outputs, &plan_.steps[i].byproducts}) {
        for (const auto& output : *list) {
          const auto [it, fresh] = maker.emplace(output, i);
          if (plan_.steps[i].kind == StepKind::custom || plan_.steps[i].kind == StepKind::generate)
            promised_.insert(output);
          if (!fresh && list == &plan_.steps[i].outputs && it->second != i) {
            throw Fault({Exit::description,
                         plan_.steps[i].place,
                         "'" + files::below(output, plan_.kiln) + "' is made by two steps",
                         "the other stands at " + plan_.steps[it->second].place.text(),
                         "give one of the two another name",
                         {}});
          }
        }
      }
    }
    for (std::size_t i = 0; i < plan_.steps.size(); ++i) {
      if (!request_.selection[i]) continue;
      nodes_[i].key = journal_.id(plan_.steps[i].outputs.front());
      nodes_[i].command = command_hash(plan_.steps[i]);
      std::vector<std::size_t> before;
      for (const auto* list : {&plan_.steps[i].inputs, &plan_.steps[i].order_only}) {
        for (const auto& input : *list) {
          if (const auto it = maker.find(input); it != maker.end() && it->second != i) before.push_back(it->second);
        }
      }
      std::sort(before.begin(), before.end());
      before.erase(std::unique(before.begin(), before.end()), before.end());
      for (const auto other : before) nodes_[other].users.push_back(i);
      nodes_[i].waits = before.size();
    }
  }

  // Longest way to the end first, by the times of earlier runs. Finds circles on the way.
  void weigh() {
    std::vector<std::size_t> order;
    std::vector<std::size_t> waits(nodes_.size());
    std::size_t selected = 0;
    for (std::size_t i = 0; i < nodes_.size(); ++i) {
      waits[i] = nodes_[i].waits;
      if (!request_.selection[i]) continue;
      ++selected;
      if (waits[i] == 0) order.push_back(i);
    }
    for (std::size_t at = 0; at < order.size(); ++at) {
      for (const auto user : nodes_[order[at]].users) {
        if (--waits[user] == 0) order.push_back(user);
      }
    }
    if (order.size() < selected) {
      for (std::size_t i = 0; i < nodes_.size(); ++i) {
        if (request_.selection[i] && waits[i] > 0) {
          throw Fault({Exit::description,
                       plan_.steps[i].place,
                       "steps need each other in a circle",
                       "one of them is " + plan_.steps[i].subject,
                       "look at what its rule or target depends on",
                       {}});
        }
      }
    }
    for (auto it = order.rbegin(); it != order.rend(); ++it) {
      double longest = 0;
      for (const auto user : nodes_[*it].users) longest = std::max(longest, nodes_[user].weight);
      nodes_[*it].weight = longest + estimate(*it);
    }
  }

  double estimate(std::size_t step) const {
    const auto* record = journal_.step(nodes_[step].key);
    if (record != nullptr && record->seconds > 0) return record->seconds;
    return plan_.steps[step].kind == StepKind::compile ? 0.5 : 0.1;
  }

  // ---- out of date? --------------------------------------------------------------------------------------------
  [[nodiscard]] std::string shown(const std::string& path) const {
    return files::below(files::below(path, plan_.kiln), plan_.tree);
  }

  // Why the step has to run; empty: it need not.
  std::string reason_to_run(std::size_t index) {
    const Step& step = plan_.steps[index];
    if (step.again && request_.settled && request_.settled(step)) return {};
    if (step.always) return "it runs every time";
    const auto* record = journal_.step(nodes_[index].key);
    if (record == nullptr && step.by_time) return older_than_inputs(index);
    if (record == nullptr) return "it has not run yet";
    std::string reason = !request_.touches && record->command != nodes_[index].command
                             ? "its command or the tool has changed"
                             : what_changed(*record);
    // The other make was told the same: what it made was made by the command as it is now.
    if (reason.empty() || !request_.others_make || !step.by_time || !made_since(*record)) return reason;
    if (!looking_only_) {
      StepRecord now_is = *record;
      now_is.command = nodes_[index].command;
      for (auto* list : {&now_is.inputs, &now_is.outputs}) {
        for (auto& [id, hash] : *list) hash = contents_.of(id);
      }
      now_is.recorded = wall_clock();
      journal_.put_step(nodes_[index].key, std::move(now_is));
    }
    return {};
  }

  std::string what_changed(const StepRecord& record) {
    for (const auto& [id, hash] : record.outputs) {
      const Hash is = contents_.of(id);
      if (is.empty()) return shown(journal_.path(id)) + " is missing";
      if (is != hash) return shown(journal_.path(id)) + " was changed by something else";
    }
    for (const auto& [id, hash] : record.inputs) {
      const Hash is = contents_.of(id);
      if (is.empty()) return shown(journal_.path(id)) + " is gone";
      if (is != hash) return shown(journal_.path(id)) + " has changed";
    }
    return {};
  }

  // Another make wrote all results after this was recorded, and after everything in which what they are made from is
  // another than the record says.
  [[nodiscard]] bool made_since(const StepRecord& record) {
    std::int64_t oldest = INT64_MAX;
    for (const auto& output : record.outputs) oldest = std::min(oldest, time_of(journal_.path(output.first)));
    return !record.outputs.empty() && oldest > record.recorded &&
           std::all_of(record.inputs.begin(), record.inputs.end(), [&](const auto& input) {
             const auto time = time_of(journal_.path(input.first));
             return time >= 0 && (time <= oldest || contents_.of(input.first) == input.second);
           });
  }

  // When a file was changed last, in nanoseconds; -1: it is not there.
  static std::int64_t time_of(const std::string& path) {
    struct stat info {};
    return ::stat(path.c_str(), &info) == 0 ? nanoseconds(info.st_mtim) : -1;
  }

  // The time rule of makefiles, for steps that are seen for the first time: results may have come with the tree.
  std::string older_than_inputs(std::size_t index) {
    const Step& step = plan_.steps[index];
    const auto known_time = [&](const std::string& path) {
      // While nothing runs, no time changes; headers are asked for by many steps.
      if (!looking_only_) return time_of(path);
      const auto [it, fresh] = times_.try_emplace(path, 0);
      if (fresh) it->second = time_of(path);
      return it->second;
    };
    std::int64_t oldest = INT64_MAX;
    for (const auto& output : step.outputs) {
      const auto time = known_time(output);
      if (time < 0) return "it has not run yet";
      oldest = std::min(oldest, time);
    }
    for (const auto& input : step.inputs) {
      const auto time = known_time(input);
      if (time < 0) return shown(input) + " is not there";
      if (time > oldest) return shown(input) + " is newer";
    }
    if (!looking_only_) {
      // From now on its content counts.
      StepRecord record;
      record.command = nodes_[index].command;
      record.recorded = wall_clock();
      for (const auto& output : step.outputs)
        record.outputs.emplace_back(journal_.id(output), contents_.of(journal_.id(output)));
      for (const auto& input : step.inputs)
        record.inputs.emplace_back(journal_.id(input), contents_.of(journal_.id(input)));
      journal_.put_step(nodes_[index].key, std::move(record));
    }
    return {};
  }

  // ---- running -------------------------------------------------------------------------------------------------
  // Leave to run one more process.
  bool may_start() {
    if (running_.size() >= std::max(1U, request_.jobs)) return false;
    if (request_.tokens < 0 || running_.size() <= tokens_.size()) return true;
    char token = 0;
    if (::read(request_.tokens, &token, 1) != 1) return false;
    tokens_ += token;
    return true;
  }
  void give_back() {
    const std::size_t needed = running_.empty() ? 0 : running_.size() - 1;
    while (tokens_.size() > needed) {
      if (::write(request_.tokens, &tokens_.back(), 1) != 1) break;
      tokens_.pop_back();
    }
  }

  void fill() {
    while (!ready_.empty() && may_start()) {
      if (interrupted_by != 0 || (outcome_.failed > 0 && !request_.keep_going)) {
        ready_ = {};
        return;
      }
      const std::size_t index = ready_.top().second;
      ready_.pop();
      const std::string reason = reason_to_run(index);
      if (reason.empty()) {
        auto& result = outcome_.steps[index];
        result.state = StepState::up_to_date;
        ++outcome_.up_to_date;
        --total_;
        release(index);
        continue;
      }
      start(index, reason);
    }
  }

  void start(std::size_t index, const std::string& reason) {
    const Step& step = plan_.steps[index];
    Running running;
    running.step = index;
    running.result.reason = reason;
    running.result.started = now() - begin_;
    running.began = wall_clock();
    // Inputs are looked at before the step runs: what is changed meanwhile makes it run again next time.
    for (const auto& input : step.inputs) {
      // In a makefile a name may be needed that no file bears.
      if (!contents_.of(journal_.id(input)).empty() || step.by_time) continue;
      // Commands of a description may make another file than the one it names; what needs it shows whether it matters.
      if (promised_.contains(input)) continue;
      running.result.end = shown(input) + " is not there, and nothing makes it";
      running.result.output =
          "needed by " + step.subject + (step.place.file.empty() ? "" : ", declared at " + step.place.text()) + "\n";
      ended(std::move(running), false);
      return;
    }
    try {
      for (const auto& output : step.outputs) files::make_folder(std::filesystem::path(output).parent_path());
      for (const auto& product : step.byproducts) {
        if (files::lies_below(product, plan_.work)) files::make_folder(std::filesystem::path(product).parent_path());
      }
      if (!step.depfile.empty()) files::make_folder(std::filesystem::path(step.depfile).parent_path());
      if (!step.calls.empty()) files::make_folder(std::filesystem::path(step.calls).parent_path());
      for (const auto& action : step.actions) {
        if (!action.folder.empty() && files::is_below(action.folder, plan_.work)) files::make_folder(action.folder);
      }
    } catch (const Fault& fault) {
      running.result.end = fault.problem().what;
      running.result.output = fault.problem().cause;
      ended(std::move(running), false);
      return;
    }
    // Compilers add to this file.
    if (asks_compiler_for_headers(step)) ::unlink(step.depfile.c_str());
    if (!step.calls.empty()) ::unlink(step.calls.c_str());
    running.actions = step.actions;
    if (step.late) {
      try {
        // A plan that was kept has nobody who could; it is only taken when no such step is to be run.
        if (!request_.late)
          throw Fault({Exit::step, step.place, "it became out of date while the build began", {}, "run it again", {}});
        running.actions = request_.late(step);
      } catch (const Fault& fault) {
        running.result.end = fault.problem().what;
        running.result.output = fault.problem().cause + "\n" + fault.problem().remedy + "\n";
        ended(std::move(running), false);
        return;
      }
    }
    next_action(std::move(running));
  }

  // A recipe that compiles and keeps no dependency file: the compiler is asked for one.
  [[nodiscard]] bool asks_compiler_for_headers(const Step& step) const {
    return step.by_time && !step.depfile.empty() && files::is_below(step.depfile, plan_.kiln + "/dependencies");
  }

  // Steps whose commands are the description's own, or have such among them. Compilers are told what to write.
  static bool is_confined(const Step& step) {
    return step.by_time || (step.kind != StepKind::compile && step.kind != StepKind::archive);
  }
  void note_refusal(Running& running, std::string_view output) const {
    if (plan_.in_copy() || plan_.writable.empty() || !is_confined(plan_.steps[running.step])) return;
    running.result.refused = running.result.refused || tells_of_refused_writing(output, plan_.tree);
  }

  // Starts the action that is due, doing built-in ones on the way.
  void next_action(Running running) {
    const Step& step = plan_.steps[running.step];
    while (running.action < running.actions.size()) {
      const Action& action = running.actions[running.action];
      if (action.how == Action::How::builtin) {
        const int code = files::run_operation(action.argv, action.folder, plan_.output_root(), running.result.output);
        if (code != 0) {
          note_refusal(running, running.result.output);
          running.result.end = "exit code " + std::to_string(code);
          running.result.command = action.text();
          ended(std::move(running), false);
          return;
        }
        ++running.action;
        continue;
      }
      Command command;
      command.folder = action.folder;
      for (const auto& [name, value] : plan_.environment) command.environment[name] = value;
      for (const auto& [name, value] : action.environment) command.environment[name] = value;
      // GCC's environment variable: the headers that are read, added to this file, the system's among them.
      if (asks_compiler_for_headers(step)) command.environment["SUNPRO_DEPENDENCIES"] = step.depfile + " x";
      // Where inner makes note how they were called.
      if (!step.calls.empty()) command.environment["COCTILIS_MAKE_STEP"] = step.calls;
      if (action.how == Action::How::shell) {
        command.argv = {"/bin/sh", "-c", action.argv.at(0)};
      } else {
        command.argv = action.argv;
        const bool compiler = step.kind == StepKind::compile || step.kind == StepKind::link;
        if (compiler && !step.by_time && request_.colours)
          command.argv.insert(command.argv.begin() + 1, "-fdiagnostics-color=always");
      }
      // Messages are read by the doctor, who speaks one language.
      if (!step.language.empty()) command.environment["LC_ALL"] = "C.UTF-8";
      if (is_confined(step)) command.writable = plan_.writable;
      running.process = Process::start(command);
      if (!running.process.running()) {
        const Ended never = running.process.take();
        if (action.may_fail) {
          ++running.action;
          continue;
        }
        running.result.end = never.text();
        running.result.command = action.text();
        ended(std::move(running), false);
        return;
      }
      running_.push_back(std::move(running));
      return;
    }
    ended(std::move(running), true);
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
    for (auto& running : finished) {
      const Ended end = running.process.take();
      running.result.output += end.output;
      note_refusal(running, end.output);
      running.result.seconds += end.seconds;
      running.result.cpu_seconds += end.cpu_seconds;
      running.result.peak_kilobytes = std::max(running.result.peak_kilobytes, end.peak_kilobytes);
      if (!end.good() && !running.actions[running.action].may_fail) {
        running.result.end = end.text();
        running.result.command = running.actions[running.action].text();
        ended(std::move(running), false);
        continue;
      }
      ++running.action;
      next_action(std::move(running));
    }
  }

  void ended(Running running, bool good) {
    const std::size_t index = running.step;
    const Step& step = plan_.steps[index];
    auto& result = running.result;
    for (const auto* list : {&step.outputs, &step.byproducts}) {
      for (const auto& output : *list) contents_.forget(journal_.id(output));
    }
    if (good && step.kind != StepKind::generate && step.kind != StepKind::custom) {
      for (const auto& output : step.outputs) {
        if (!files::exists(output) && !files::is_link(output)) {
          good = false;
          result.end = "its command succeeded, but " + shown(output) + " is not there";
          result.command = running.actions.empty() ? "" : running.actions.back().text();
        }
      }
    }
    const bool leave_out =
        !good && request_.leave_out_documents && step.by_time && interrupted_by == 0 && makes_documents(step);
    if (good) {
      remember(index, result, running.began);
    } else if (leave_out) {
      // What needs it goes on; it is tried again the next time.
      result.state = StepState::left_out;
      result.reason = missing_tool(result);
      journal_.forget_step(nodes_[index].key);
      remove_outputs(step);
      ++outcome_.left_out;
    } else {
      result.state = StepState::failed;
      journal_.forget_step(nodes_[index].key);
      // Half-written results must not pass for whole ones.
      if (step.kind != StepKind::custom) remove_outputs(step);
      ++outcome_.failed;
      outcome_.failures.push_back(index);
    }
    ++done_;
    outcome_.compile_seconds += result.seconds;
    auto found = find_diagnostics(result.output, index);
    std::erase_if(found, [](const auto& d) { return d.severity != "warning"; });
    outcome_.warnings.insert(outcome_.warnings.end(), found.begin(), found.end());
    outcome_.steps[index] = std::move(result);
    observer_.step_ended(index, outcome_.steps[index]);
    if (good) ++outcome_.ran;
    if (good || leave_out) release(index);
    journal_.flush();
  }

  void remove_outputs(const Step& step) const {
    std::error_code error;
    for (const auto& output : step.outputs) {
      if (files::is_below(output, plan_.work)) std::filesystem::remove(output, error);
    }
  }

  void remember(std::size_t index, StepResult& result, std::int64_t began) {
    const Step& step = plan_.steps[index];
    StepRecord record;
    record.command = nodes_[index].command;
    record.seconds = result.seconds;
    const auto* before = journal_.step(nodes_[index].key);
    for (const auto& output : step.outputs) {
      const PathId id = journal_.id(output);
      record.outputs.emplace_back(id, contents_.of(id));
    }
    result.state =
        before != nullptr && before->outputs == record.outputs && !step.always ? StepState::unchanged : StepState::done;
    std::set<PathId> seen;
    for (const auto& input : step.inputs) {
      const PathId id = journal_.id(input);
      if (seen.insert(id).second) record.inputs.emplace_back(id, contents_.of(id));
    }
    if (!step.depfile.empty()) {
      const auto content = files::read(step.depfile);
      if (content) {
        const std::string& folder = step.actions.empty() ? plan_.work : step.actions.front().folder;
        for (const auto& name : parse_depfile(*content)) {
          const PathId id = journal_.id(files::absolute(name, folder));
          const bool own =
              std::any_of(record.outputs.begin(), record.outputs.end(), [&](const auto& o) { return o.first == id; });
          if (!own && seen.insert(id).second) record.inputs.emplace_back(id, contents_.of_before(id, began));
        }
      }
    }
    record.recorded = wall_clock();
    if (request_.touches)
      journal_.forget_step(nodes_[index].key);
    else
      journal_.put_step(nodes_[index].key, std::move(record));
  }

  void release(std::size_t index) {
    for (const auto user : nodes_[index].users) {
      if (--nodes_[user].waits == 0) ready_.push({nodes_[user].weight, user});
    }
  }

  void stop_all() {
    for (auto& running : running_) running.process.signal(interrupted_by == 2 ? 2 : 15);
    const double until = now() + 2;
    bool left = true;
    while (left && now() < until) {
      left = false;
      for (auto& running : running_) left = !running.process.poll() || left;
      if (left) ::usleep(5000);
    }
    for (auto& running : running_) {
      if (running.process.running()) running.process.stop(Ended::How::interrupted);
      const Step& step = plan_.steps[running.step];
      journal_.forget_step(nodes_[running.step].key);
      if (step.kind != StepKind::custom) remove_outputs(step);
    }
    running_.clear();
    if (request_.tokens >= 0) give_back();
  }

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
    if (request_.others != nullptr) {
      const auto others = request_.others->values();
      progress.done += others.done;
      progress.total += std::max(others.done, others.total);
      progress.open = others.total < others.done;
    }
    for (const auto& running : running_) {
      progress.running.emplace_back(running.step, now() - begin_ - running.result.started);
    }
    std::sort(progress.running.begin(), progress.running.end(),
              [](const auto& a, const auto& b) { return a.second > b.second; });
    // What is left, by the pace so far.
    if (progress.done > 0 && progress.total >= progress.done && !progress.open)
      progress.seconds_left =
          (now() - begin_) / static_cast<double>(progress.done) * static_cast<double>(progress.total - progress.done);
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
    journal_.compact();
  }

  const model::Plan& plan_;
  const Request& request_;
  Observer& observer_;
  Journal journal_;
  Contents contents_;
  std::vector<Node> nodes_;
  std::priority_queue<std::pair<double, std::size_t>> ready_;
  std::vector<Running> running_;
  model::Outcome outcome_;
  double begin_ = 0;
  double told_ = 0;
  std::string tokens_;
  bool looking_only_ = false;
  std::size_t done_ = 0;
  std::size_t total_ = 0;
  std::size_t shared_done_ = 0;
  std::size_t shared_total_ = 0;
  std::unordered_set<std::string_view> promised_;             // results of the description's own commands
  std::unordered_map<std::string_view, std::int64_t> times_;  // by paths of the plan, while it only looks
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

Result<model::Outcome> build(const model::Plan& plan, const Request& request, Observer& observer) {
  return guarded("building", [&] { return Engine(plan, request, observer).run(); });
}

}  // namespace coctilis::engine
