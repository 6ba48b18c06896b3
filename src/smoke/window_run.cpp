#include "smoke/window_run.h"

#include <fmt/format.h>
#include <signal.h>
#include <unistd.h>

#include "base/confine.h"
#include "base/files.h"
#include "base/own_program.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "doctor/checks.h"
#include "locate/known.h"
#include "smoke/failing.h"
#include "smoke/processes.h"
#include "smoke/screen.h"

namespace coctilis::smoke {

using model::Verdict;

namespace {

constexpr double display_within = 10;
constexpr double close_within = 5;

// A display in memory that ends with this.
class VirtualDisplay {
 public:
  VirtualDisplay() : scratch_("display") {}

  Judgement start(const std::string& screen) {
    const std::string server = find_program("Xvfb");
    if (server.empty()) {
      Judgement out(Verdict::skipped, "windows are checked under Xvfb, which is not installed");
      out.remedy = doctor::install_or(locate::package_of_program("Xvfb"), "install it");
      return out;
    }
    Command command;
    // It prints its number when it is ready.
    command.argv = {server, "-displayfd", "1", "-screen", "0", screen + "x24", "-noreset"};
    // Only in a network that nobody else is in does it listen there, and to everybody.
    own_network_ = sandbox::inside() || (sandbox::why_not().empty() && !sandbox::allowed().network);
    if (own_network_)
      command.argv.insert(command.argv.end(), {"-listen", "tcp", "-ac"});
    else
      command.argv.insert(command.argv.end(), {"-nolisten", "tcp"});
    // Where the superuser starts it, it writes its keyboard there, and does not notice that it may not (access(2) does
    // not tell of landlock(7)).
    if (!sandbox::why_not().empty()) command.writable.emplace_back("/var/lib/xkb");
    // It is no program of the tree: all that it needs is a folder for temporary files that it has for itself.
    command.folder = "/";
    command.writable = temporary_folders_without({});
    command.merge_errors = false;
    process_ = Process::start(command);
    while (!process_.poll()) {
      const std::string& said = process_.output_so_far();
      if (said.find('\n') != std::string::npos) {
        name_ = std::string(text::trim(said));
        return {};
      }
      if (process_.age() > display_within || interrupted_by != 0) break;
      ::usleep(2000);
    }
    process_.stop(Ended::How::timed_out);
    while (!process_.poll()) ::usleep(1000);
    const Ended ended = process_.take();
    Judgement out(Verdict::skipped, "Xvfb, under which windows are checked, does not start: " +
                                        text::clip(text::printable_line(std::string(text::trim(ended.errors))), 200));
    return out;
  }
  // By the network: programs have folders for temporary files of their own, so that they share no sockets there.
  [[nodiscard]] std::string name() const { return (own_network_ ? "127.0.0.1:" : ":") + name_; }
  [[nodiscard]] std::string folder() const { return scratch_.path().string(); }
  void look() { (void)process_.poll(); }

 private:
  files::ScratchFolder scratch_;
  Process process_;
  std::string name_;
  bool own_network_ = false;
};

// What programs draw with is told to draw there.
void show_on(const std::string& display, Command& command) {
  command.environment["DISPLAY"] = display;
  command.environment.try_emplace("WAYLAND_DISPLAY", std::nullopt);
  for (const auto& [name, value] : {std::pair{"QT_QPA_PLATFORM", "xcb"},
                                    {"GDK_BACKEND", "x11"},
                                    {"SDL_VIDEODRIVER", "x11"},
                                    {"SDL_AUDIODRIVER", "dummy"},
                                    {"LIBGL_ALWAYS_SOFTWARE", "1"},
                                    {"NO_AT_BRIDGE", "1"}})
    command.environment.try_emplace(name, value);
}

class WindowCheck {
 public:
  WindowCheck(const model::AskedWindow& asked, const model::CheckStep& step, Workplace& place)
      : asked_(asked), step_(step), place_(place), runner_(place.runner()) {}

  WindowSeen run() {
    WindowSeen out;
    start_ = place_.start_of(step_.run, step_.input, step_.input_file);
    out.shown = start_.shown;
    if (start_.obstacle) {
      out.judgement = *start_.obstacle;
      return out;
    }
    for (const auto& key : asked_.keys) {
      if (is_key(key)) continue;
      out.judgement = {Verdict::failed, "there is no key '" + text::printable_line(key) + "'"};
      out.judgement.remedy =
          "keys are letters and digits, Return, Escape, Tab, F1, Left and the like, with ctrl+, alt+ or shift+";
      return out;
    }
    out.judgement = display_.start(asked_.screen);
    if (out.judgement.verdict != Verdict::passed) return out;
    show_on(display_.name(), start_.command);
    start_.command.modes_count = runner_.is_own_tree();
    start_.command.watch = WatchFor::all;
    process_ = Process::start(start_.command);
    running_ = true;
    out.judgement = judge();
    if (running_) end(SIGKILL, close_within);
    out.output = seen_.ended.output;
    out.watched = seen_.ended.watched;
    out.files = seen_.ended.files;
    out.picture = files::read(picture()).value_or("");
    find_cause(out.judgement, runner_, start_.command, start_.program, place_.seen_folder(), seen_, true);
    return out;
  }

 private:
  [[nodiscard]] std::string picture() const { return display_.folder() + "/window.png"; }

  void look() {
    if (running_ && process_.poll()) {
      running_ = false;
      seen_.ended = process_.take();
    }
    display_.look();
    runner_.look_beside();
  }

  // Until it has ended by itself, at most so long.
  bool ends_within(double seconds) {
    for (const double until = now() + seconds; running_ && now() < until && interrupted_by == 0; look()) ::usleep(2000);
    return !running_;
  }
  void end(int signal_number, double seconds) {
    process_.signal(signal_number);
    if (ends_within(seconds)) return;
    process_.stop(Ended::How::timed_out);
    (void)ends_within(close_within);
  }

  // What the display says, while the program runs on.
  ScreenReport ask(const ScreenTask& task) {
    Command command;
    command.argv = words_of(task);
    command.argv.insert(command.argv.begin(), own_program());
    command.folder = display_.folder();
    command.writable = {display_.folder()};
    command.output_limit = 1U << 20U;
    Process asking = Process::start(command);
    while (!asking.poll()) {
      look();
      // Of one that has ended no window comes any more.
      if (!running_ || interrupted_by != 0 || asking.age() > task.within + 20) asking.stop(Ended::How::timed_out);
      ::usleep(2000);
    }
    return screen_report_in(asking.take());
  }

  Judgement ended_before(const std::string& what) {
    seen_.limit = asked_.within;
    return {Verdict::failed, "it ended before " + what + ": " + seen_.ended.text()};
  }

  Judgement judge() {
    ScreenTask task;
    task.display = display_.name();
    task.title = asked_.title;
    task.within = asked_.within;
    task.picture = picture();
    task.keys = asked_.keys;
    task.clicks = asked_.clicks;
    const ScreenReport report = ask(task);
    if (interrupted_by != 0) return {Verdict::skipped, "interrupted"};
    if (!running_) return ended_before("its window was up");
    if (!report.error.empty()) {
      Judgement out(Verdict::failed, report.error + " within " + text::duration(asked_.within));
      for (const auto& other : report.others)
        out.evidence.push_back("there is a window '" + text::printable_line(other) + "'");
      if (const std::string waits = what_it_waits_for(process_.pid()); !waits.empty())
        out.evidence.push_back("it waits for " + waits);
      out.cause = report.others.empty() ? "it runs, and shows no window" : "its windows have other titles";
      out.remedy = report.others.empty() ? "give it more time if it needs that: window = { within = \"30 s\" }"
                                         : "correct title in window";
      return out;
    }
    std::string said = fmt::format("a window of {} by {}{}", report.width, report.height,
                                   report.title.empty() ? "" : ", '" + text::printable_line(report.title) + "'");
    if (!asked_.keys.empty() || !asked_.clicks.empty()) {
      if (!report.changed) {
        Judgement out(Verdict::failed, said + "; keys and clicks change nothing in it");
        out.remedy = "see its picture in the report: what is there to be clicked";
        return out;
      }
      said += ", which keys and clicks change";
    }
    return close(report.can_close, std::move(said));
  }

  Judgement close(bool takes_closing, std::string said) {
    if (!takes_closing) {
      // One that cannot be asked by its window is ended as its user would.
      end(SIGTERM, close_within);
      if (seen_.ended.how == Ended::How::signalled && seen_.ended.code != SIGTERM)
        return {Verdict::failed, said + "; when it was asked to end (SIGTERM) it crashed: " + seen_.ended.text()};
    } else {
      ScreenTask task;
      task.display = display_.name();
      task.title = asked_.title;
      task.within = close_within;
      task.closes = true;
      (void)ask(task);
      if (!ends_within(close_within)) {
        seen_.waits_for = what_it_waits_for(process_.pid());
        Judgement out(Verdict::failed, said + "; it did not end within " + text::duration(close_within) +
                                           " after its window was asked to close");
        out.cause = seen_.waits_for.empty() ? "it goes on without its window" : "it waited for " + seen_.waits_for;
        out.remedy = "end it when its last window is closed";
        return out;
      }
      Expectations expected = expectations_of(step_.expected, place_.asked());
      expected.at_least = 0;
      Judgement out = smoke::judge(seen_, expected, start_.emulated);
      if (out.verdict != Verdict::passed) {
        out.reason = said + "; closed, and then: " + out.reason;
        return out;
      }
      return {Verdict::passed, said + "; closed"};
    }
    Judgement out = judge_forbidden(seen_.ended, place_.asked().forbid);
    if (out.verdict == Verdict::passed) out.reason = said + "; ended";
    return out;
  }

  const model::AskedWindow& asked_;
  const model::CheckStep& step_;
  Workplace& place_;
  Runner& runner_;
  VirtualDisplay display_;
  Workplace::Start start_;
  Process process_;
  bool running_ = false;
  Observation seen_;
};

}  // namespace

WindowSeen run_window(const model::AskedWindow& asked, const model::CheckStep& step, Workplace& place) {
  return WindowCheck(asked, step, place).run();
}

}  // namespace coctilis::smoke
