#include "pipeline/bringup.h"

#include "base/confine.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "pipeline/checking.h"
#include "pipeline/dependencies.h"
#include "pipeline/edits.h"
#include "pipeline/in_kiln.h"
#include "pipeline/members.h"
#include "survey/survey.h"

namespace coctilis::pipeline {

namespace {

bool has_kiln(const model::Run& run) { return files::is_folder(survey::kiln_root(run.tree, run.options.kiln)); }

// Adds the time of its life to that of a stage.
class Timed {
 public:
  Timed(model::Run& run, const char* stage) : run_(run), stage_(stage) {}
  ~Timed() {
    auto it =
        std::find_if(run_.stages.begin(), run_.stages.end(), [&](const auto& one) { return one.stage == stage_; });
    if (it == run_.stages.end()) it = run_.stages.insert(it, {stage_, 0});
    it->seconds += now() - began_;
  }
  Timed(const Timed&) = delete;
  Timed& operator=(const Timed&) = delete;

 private:
  model::Run& run_;
  const char* stage_;
  const double began_ = now();
};

class BringUp {
 public:
  BringUp(model::Run& run, const Wish& wish, Watcher& watcher) : run_(run), wish_(wish), watcher_(watcher) {}

  bool run() {
    const bool good = stages();
    run_.seconds = now() - begin_;
    // One that ended before its stages in the kiln did has none, or one that was opened to look at.
    if (!ended_ && session_.lock) in_kiln(run_, [&] { end(); });
    return good;
  }

 private:
  // The record of what was done.
  void end() {
    ended_ = true;
    run_.seconds = now() - begin_;
    if (session_.lock && wish_.goal >= Goal::build) record(run_, session_);
  }

  bool stages() {
    if (!open() || !settings(run_)) return false;
    // A member has what the whole has.
    if (!run_.as_member.inherited) allow_what_is_asked_for();
    // A survey tells of the tree as it is.
    if (!run_.settings.edits.empty() && wish_.goal != Goal::survey && !in_kiln(run_, [&] { edit_tree(run_); }))
      return false;
    if (!run_.settings.components.empty()) return survey_tree() && members();
    // Whoever asks for everything that a run knows gets it worked out.
    const bool may_repeat = (wish_.goal == Goal::build || wish_.goal == Goal::smoke || run_.options.only_looks) &&
                            !wish_.fill && wish_.may_repeat;
    bool good = true;
    if (may_repeat && has_kiln(run_)) {
      in_kiln(run_, [&] {
        good = repeat(run_, wish_.goal == Goal::smoke, session_);
        if (!good || !run_.repeats) return;
        good = survey_tree() && stages_in_kiln();
        end();
      });
      if (run_.repeats) return good;
    }
    if (!good || !survey_tree()) return false;
    if (!run_.settings.components.empty()) return members();  // the survey has found several descriptions
    if (wish_.goal == Goal::survey) return true;
    const bool opened = in_kiln(run_, [&] {
      good = stages_in_kiln();
      if (wish_.goal != Goal::stage || run_.options.only_looks) end();
    });
    if (opened && good && wish_.goal == Goal::stage && !run_.options.only_looks) {
      // What the user has asked for may be anywhere.
      const Timed timed(run_, "stage");
      without_limit([&] { good = stage(run_); });
      if (good) watcher_.staged(run_);
    }
    return opened && good;
  }

  struct Asked {
    std::string what;
    Place place;
  };

  // What the tree asks for beyond what all get.
  [[nodiscard]] std::vector<Asked> asked_for() const {
    const auto& settings = run_.settings;
    const auto usual = sandbox::usual_limits();
    std::vector<Asked> out;
    if (settings.network) out.push_back({"the network", settings.network_place});
    for (const auto& device : settings.devices) out.push_back({device, settings.devices_place});
    const auto limit = [&](const char* key, std::uint64_t told, std::uint64_t most, const std::string& what) {
      const auto place = settings.limit_places.find(key);
      if (told > most) out.push_back({what, place != settings.limit_places.end() ? place->second : Place{}});
    };
    const auto& told = settings.limits;
    limit("processes", told.processes, usual.processes, text::grouped(told.processes) + " processes");
    limit("memory", told.memory, usual.memory, text::size(told.memory) + " of memory");
    limit("file-size", told.file_size, usual.file_size, "files of " + text::size(told.file_size));
    limit("time", told.seconds, usual.seconds, text::duration(static_cast<double>(told.seconds)) + " for a program");
    return out;
  }

  // The tree only asks; what comes with it is no word of its user's. It may always have less than all get.
  void allow_what_is_asked_for() {
    auto& allowed = run_.allowed;
    const auto& settings = run_.settings;
    const auto asked = asked_for();
    std::string what;
    for (const auto& one : asked) what += (what.empty() ? "" : ", ") + one.what;
    const auto said_by_user = [&](const Asked& one) {
      return !one.place.file.empty() && one.place.file == run_.options.config;
    };
    if (run_.options.trust)
      allowed.by = "--trust";
    else if (!asked.empty() && std::all_of(asked.begin(), asked.end(), said_by_user))
      allowed.by = "--config";
    else if (!asked.empty() && watcher_.asks_to_allow(what))
      allowed.by = "its user";
    allowed.limits = settings.limits;
    if (allowed.by.empty()) {
      const auto usual = sandbox::usual_limits();
      allowed.limits = {
          std::min(settings.limits.processes, usual.processes), std::min(settings.limits.memory, usual.memory),
          std::min(settings.limits.file_size, usual.file_size), std::min(settings.limits.seconds, usual.seconds)};
      sandbox::allow({false, {}, allowed.limits});
      if (!asked.empty())
        run_.notes.push_back("the tree asks for " + what + ", which its commands do not get: --trust allows it");
      return;
    }
    allowed.network = run_.options.trust || settings.network;
    allowed.devices = settings.devices;
    sandbox::allow({allowed.network, allowed.devices, allowed.limits});
    run_.notes.push_back("commands of the tree may use " + (what.empty() ? std::string("the network") : what) +
                         " (allowed by " + allowed.by + ")");
  }

  // In the record, and on the screen at once.
  void note(const std::string& text) {
    run_.notes.push_back(text);
    watcher_.noted(text);
  }

  // Asked for in coctilis.toml: language servers look at the top of the tree. What lies there and is none of this
  // program's stays as it is.
  void link_database() {
    const std::string link = run_.own_tree() + "/compile_commands.json";
    const std::string target = run_.kiln + "/compile_commands.json";
    std::error_code error;
    const std::string old = std::filesystem::read_symlink(link, error).string();
    const bool ours = !error && files::is_below(files::absolute(old, run_.own_tree()), run_.kiln_root);
    if (ours && files::absolute(old, run_.own_tree()) == target) return;
    if (!ours && (files::exists(link) || files::is_link(link))) {
      note(
          "compile_commands.json at the top of the tree does not lead into its kiln, and stays as it is: take it away, "
          "and a link is made");
      return;
    }
    without_limit([&] {
      if (ours) std::filesystem::remove(link, error);
      std::filesystem::create_symlink(
          files::is_below(run_.kiln, run_.own_tree()) ? files::below(target, run_.own_tree()) : target, link, error);
    });
    if (error) note("no link to the compile database can be made in the tree: " + error.message());
  }

  bool stages_in_kiln() {
    if (!locate_all()) return false;
    if (wish_.goal <= Goal::options) return true;
    if (!plan_steps()) return false;
    if (run_.options.only_looks) {
      if (!look_what_is_due(run_)) return false;
      watcher_.looked(run_);
      return true;
    }
    if (run_.settings.links_database) link_database();
    if (wish_.goal == Goal::plan) return true;
    if (!build_steps()) return false;
    if (wish_.goal != Goal::smoke) return true;
    if (run_.options.enters_check)
      return enter_check(run_, [&](const smoke::Entered& check) { watcher_.entered(check); });
    const Timed timed(run_, "smoke");
    const bool good = smoke(run_, {[&](const model::Check& check) { watcher_.check_ended(check); },
                                   [&](const std::string& what) { watcher_.doing("check " + what); }});
    watcher_.doing("");
    watcher_.checked(run_, good);
    return good;
  }

  bool open() {
    const bool opened =
        open_tree(run_, [&](std::uint64_t bytes) { watcher_.doing("unpacking: " + text::size(bytes) + " so far"); });
    watcher_.doing("");
    if (opened && !run_.unpacked_from.empty()) watcher_.unpacked(run_);
    return opened;
  }

  bool survey_tree() {
    if (const Timed timed(run_, "survey"); !survey(run_, session_)) return false;
    watcher_.surveyed(run_);
    if (!wish_.fill && !(wish_.goal == Goal::smoke && can_be_filled(run_) && watcher_.asks_to_fill(run_))) return true;
    const bool filled = fill(run_, session_, watcher_.filling());
    watcher_.doing("");
    if (filled) watcher_.surveyed(run_);
    return filled;
  }

  bool members() {
    if (wish_.goal == Goal::survey) return true;
    if (run_.options.enters_check) {
      run_.problem = {Exit::usage,
                      {},
                      "the checks of a tree with members are those of its members",
                      {},
                      "name the folder of one: coctilis smoke FOLDER CHECK --shell",
                      {}};
      return false;
    }
    bool good = false;
    const bool opened = in_kiln(run_, [&] {
      good = find_toolchain() && bring_up_members(run_, wish_, watcher_);
      end();
    });
    return opened && good;
  }

  // ---- locating ----------------------------------------------------------------------------------------------------
  // And builds the sources of needs, by it.
  bool find_toolchain() {
    if (const Timed timed(run_, "tool chain"); !toolchain(run_, session_)) return false;
    std::optional<Timed> timed;  // a stage only where there are any
    if (!run_.settings.needs.empty()) timed.emplace(run_, "sources of needs");
    return build_dependencies(run_, &watcher_);
  }
  bool locate_timed() {
    const Timed timed(run_, "locate");
    return locate(run_, session_);
  }
  bool locate_first() {
    watcher_.doing("asking compilers and looking for libraries");
    session_.progress = [this](const std::string& what) { watcher_.doing(what); };
    const bool good = find_toolchain() && locate_timed();
    watcher_.doing("");
    return good;
  }
  bool locate_again(const char* why) {
    watcher_.doing(why);
    const bool good = locate_timed();
    watcher_.doing("");
    return good;
  }
  // As long as the description cannot be followed and there is another one, that one is; `go_on` is what comes next.
  bool or_another(bool good, const std::function<bool()>& go_on) {
    for (std::string note; !good && follow_another(run_, session_, note);) {
      watcher_.noted(note);
      good = locate_again("reading another description") && go_on();
    }
    return good;
  }

  bool locate_all() {
    bool good = or_another(locate_first(), [] { return true; });
    if (!good && run_.options.install && !run_.install.empty()) {
      watcher_.noted("installing " + text::join({run_.install.begin() + 2, run_.install.end()}, ", "));
      watcher_.doing(text::join(run_.install, " "));
      const bool installed = install(run_, session_, wish_.on_terminal);
      watcher_.doing("");
      if (!installed) return false;
      good = locate_first();
    }
    watcher_.located(run_, good);
    return good;
  }

  // ---- planning and building ---------------------------------------------------------------------------------------
  bool plan_steps() {
    const auto work_out = [this] {
      const Timed timed(run_, "plan");
      return plan(run_, session_);
    };
    const bool good = or_another(work_out(), work_out);
    watcher_.planned(run_, good);
    return good;
  }

  bool build_once() {
    const Timed timed(run_, "build");
    const bool good = build(run_, session_, watcher_.building(run_));
    watcher_.doing("");
    return good;
  }

  void say_what_the_system_lacks() {
    const bool boxed = sandbox::why_not().empty();
    const std::string unlimited = why_no_limit();
    if (!boxed && !unlimited.empty())
      watcher_.noted("this system gives no sandbox (" + sandbox::why_not() + ") and no limit on writing (" + unlimited +
                     "): what the tree runs can do what you can");
    else if (!boxed)
      watcher_.noted("this system gives no sandbox (" + sandbox::why_not() +
                     "): what the tree runs can reach the network and other processes");
    else if (!unlimited.empty())
      watcher_.noted(unlimited + ": links that the tree's commands leave in the kiln may lead this program out of it");
  }

  bool build_steps() {
    bool good = build_once();
    if (run_.outcome.ran > 0 && !sandbox::inside()) say_what_the_system_lacks();
    for (std::string note; !good && build_a_copy(run_, session_, note);) {
      watcher_.noted(note);
      if (!locate_again("reading the description once more") || !plan(run_, session_)) {
        watcher_.planned(run_, false);
        return false;
      }
      good = build_once();
    }
    watcher_.built(run_, good);
    return good;
  }

  model::Run& run_;
  const Wish& wish_;
  Watcher& watcher_;
  Session session_;
  const double begin_ = now();
  bool ended_ = false;  // its record is kept, or there is none to be
};

}  // namespace

bool bring_up(model::Run& run, const Wish& wish, Watcher& watcher) { return BringUp(run, wish, watcher).run(); }

bool read_only(model::Run& run) {
  Session session;
  if (!open_tree(run, [](std::uint64_t) {}) || !settings(run) || !survey(run, session)) return false;
  const auto read = [&] {
    if (!toolchain(run, session) || !build_dependencies(run, nullptr)) return false;
    if (!run.settings.components.empty()) return read_members(run);
    // The description that a build would follow: the first that can be.
    const auto planned = [&] { return locate(run, session) && plan(run, session); };
    bool done = planned();
    for (std::string note; !done && follow_another(run, session, note);) done = planned();
    return true;
  };
  bool good = false;
  return in_kiln(run, [&] { good = read(); }) && good;
}

}  // namespace coctilis::pipeline
