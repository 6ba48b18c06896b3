// The tool chain and what the description asks for: the stages up to the one that tells what is missing.
#include "pipeline/locating.h"

#include <fmt/format.h>

#include "base/confine.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/own_program.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/readers.h"
#include "locate/locator.h"
#include "locate/mentions.h"
#include "locate/needs.h"
#include "locate/prefix_environment.h"
#include "locate/toolchain.h"
#include "pipeline/inner_make.h"
#include "pipeline/kept_options.h"
#include "pipeline/pipeline.h"
#include "pipeline/recipes.h"
#include "pipeline/submodules.h"
#include "plan/recipes.h"
#include "record/findings.h"
#include "record/record.h"
#include "report/explain.h"
#include "survey/survey.h"

namespace coctilis::pipeline {

std::set<std::string> languages_of(const model::Survey& survey) {
  std::set<std::string> out;
  for (const auto& l : survey.languages) {
    if (l.language == "C" || l.language == "C++" || l.language == "Fortran") out.insert(l.language);
  }
  return out;
}

namespace {

// Chooses the tool chain and opens its kiln. `standards`: what the tree is known to need.
bool choose_toolchain(model::Run& run, Session& session, const std::map<std::string, int>& standards) {
  auto choice = locate::choose(run.toolchains, run.settings, languages_of(run.survey), standards);
  run.toolchain = choice.toolchain;
  run.findings = {choice.finding};
  if (choice.finding.found) {
    if (auto linker = locate::choose_linker(run.toolchain, run.settings)) run.findings.push_back(*linker);
  }
  for (const auto& finding : run.findings) {
    if (finding.found) continue;
    locate::Packages packages(locate::Packages::usual_root(), session.answers.get());
    locate::check_packages(run.findings, packages);
    run.install = locate::install_command(run.findings);
    const bool linker = finding.how == "linker";
    return stop(run,
                {Exit::missing,
                 finding.requirement.place,
                 (linker ? "there is no linker " : "there is no tool chain for this tree: ") + finding.requirement.name,
                 finding.reason,
                 !run.install.empty()     ? text::join(run.install, " ")
                 : run.toolchains.empty() ? "put the folder of a compiler on PATH, or name it by CC and CXX"
                 : linker                 ? "install that linker, or choose one that is there in coctilis.toml"
                                          : "'coctilis locate' without --toolchain lists those that are here",
                 {}});
  }
  run.label = run.toolchain.short_name() + "-" + run.settings.variant;
  run.kiln_root = survey::kiln_root(run.tree, run.options.kiln);
  const std::string kiln = run.kiln_root + "/" + run.label;
  if (session.lock && kiln == run.kiln) return true;  // what it keeps is known
  run.kiln = kiln;
  session.lock.reset();
  const observe::Apart own;  // what this program keeps for itself is watched by the kiln's lock
  auto opened = engine::open_kiln(run.kiln_root, run.kiln, survey::kiln_mark, run.own_tree());
  if (!opened) return stop(run, opened.problem());
  session.lock = opened->lock;
  if (!opened->note.empty()) run.notes.push_back(opened->note);
  if (const auto taken = take_kept_options(run); !taken) return stop(run, taken.problem());
  return true;
}

// The newest standard that a unit asks for, by language.
std::map<std::string, int> standards_of(const model::Project& project) {
  std::map<std::string, int> out;
  const auto age = [](int year) { return year >= 90 ? year - 100 : year; };
  for (const auto& outline : project.outlines) {
    if (!outline.in_default) continue;
    for (const auto& [language, year] : outline.standards) {
      const auto it = out.find(language);
      if (it == out.end() || age(year) > age(it->second)) out[language] = year;
    }
  }
  return out;
}

// The part of the tree that a file belongs to: a unit or test that names it, else the unit of its folder.
std::string part_with(const model::Run& run, const std::string& path, bool& required) {
  const std::string absolute = run.tree + "/" + path;
  std::string part;
  std::size_t depth = 0;
  for (const auto& outline : run.project.outlines) {
    if (outline.name.find("::") != std::string::npos) continue;
    const bool named = std::find(outline.sources.begin(), outline.sources.end(), absolute) != outline.sources.end();
    if (outline.kind == model::Outline::Kind::test) {
      if (named) return "the test '" + outline.name + "'";
      continue;
    }
    if (named) {
      required = outline.in_default && outline.kind == model::Outline::Kind::built;
      return "'" + outline.name + "'";
    }
    if (files::is_below(absolute, outline.folder) && outline.folder.size() > depth && outline.folder != run.tree) {
      depth = outline.folder.size();
      part = "'" + outline.name + "'";
    }
  }
  return part.empty() ? "the tree" : part;
}

// Links that lead nowhere: absent data files, with the part that they belong to.
void add_dangling_links(model::Run& run) {
  for (const auto& hazard : run.survey.hazards) {
    if (hazard.kind != "dangling link") continue;
    model::Finding finding;
    bool required = false;
    const std::string part = part_with(run, hazard.path, required);
    finding.requirement = {model::RequirementKind::file, hazard.path, {}, required, part, {}, {}};
    finding.refused = true;
    finding.looked = {run.tree + "/" + hazard.path};
    finding.reason = "a link that " + hazard.detail + ", which is not there";
    run.findings.push_back(std::move(finding));
  }
}

}  // namespace

bool stop_for_missing(model::Run& run) {
  std::size_t missing = 0;
  bool submodule = false;
  for (const auto& finding : run.findings) {
    if (!finding.requirement.required || finding.found) continue;
    ++missing;
    submodule = submodule || finding.requirement.kind == model::RequirementKind::submodule;
  }
  if (missing == 0) return false;
  run.install = locate::install_command(run.findings);
  std::string remedy = text::join(run.install, " ");
  const auto others =
      static_cast<std::size_t>(std::count_if(run.findings.begin(), run.findings.end(), [](const model::Finding& f) {
        return f.requirement.required && !f.found && f.requirement.kind != model::RequirementKind::submodule &&
               (f.package.empty() || f.refused);
      }));
  if (!remedy.empty() && others > 0)
    remedy += "; the other " + (others == 1 ? "one" : std::to_string(others)) +
              " as told above, or where they are by --with PREFIX";
  if (submodule && can_be_filled(run)) remedy = fill_command(run) + (remedy.empty() ? "" : "; " + remedy);
  if (submodule && remedy.empty())
    remedy = "put the sources that belong there into the folder, or take a clone of the repository";
  if (remedy.empty()) remedy = "say where it is with --with PREFIX, or mend what is named above";
  std::vector<std::string> trail;
  if (run.problem) trail.push_back("reading stopped at " + run.problem->place.text() + ": " + run.problem->what);
  run.problem.reset();
  stop(run,
       {Exit::missing, {}, text::count(missing, "requirement is", "requirements are") + " missing", {}, remedy, trail});
  return true;
}

bool toolchain(model::Run& run, Session& session) {
  if (run.repeats) return true;
  // Before anything is written: a folder that is no tree stays as it is.
  if (auto problem = describe::nothing_to_follow(run.survey); problem && run.settings.components.empty()) {
    run.problem = *problem;
    if (can_be_filled(run)) {
      add_submodule_requirements(run);
      for (auto& finding : run.findings) finding.requirement.required = true;
      stop_for_missing(run);
    }
    return false;
  }
  session.answers = std::make_unique<Answers>(Answers::usual_path());
  run.environment = locate::environment_in_use();
  run.toolchains = locate::toolchains(run.settings.prefixes, *session.answers, run.settings.sysroot);
  const bool chosen = choose_toolchain(run, session, {});
  session.repeating.seen();
  return chosen;
}

namespace {

// Makefiles and scripts may count on these in the environment; what a makefile says itself comes first there.
void offer_compilers(const model::Toolchain& toolchain, std::map<std::string, std::string>& environment) {
  const auto offer = [&](const char* name, const std::string& path) {
    if (path.empty() || std::getenv(name) != nullptr) return;
    const std::string plain = std::filesystem::path(path).filename().string();
    environment[name] = find_program(plain) == path ? plain : path;
  };
  for (const auto& driver : model::driver_names) offer(driver.variable, toolchain.compiler(driver.language).path);
}

// The folder for results is that of one description: what another has written there is of no use to it.
void claim_work(const model::Run& run) {
  const observe::Apart apart;
  const std::string mark = run.kiln + "/work.of";
  const std::string path = run.survey.followed() == nullptr ? "" : run.survey.followed()->path;
  if (const auto before = files::read(mark); before && *before != path) {
    std::error_code error;
    std::filesystem::remove_all(run.kiln + "/work", error);
    std::filesystem::remove(run.kiln + "/work.mirrored", error);
    std::filesystem::remove_all(run.kiln + "/watched", error);
  }
  files::write_if_different(mark, path);
}

// What readers of recipes are lent.
describe::Services services_of(const model::Run& run, const Session& session) {
  model::Plan plan;
  plan.tree = run.tree;
  plan.kiln = run.kiln;
  plan.work = run.kiln + "/work";
  plan.writable = confinement_of(plan.work, run.kiln).writable;
  plan::place_recipes(plan, run.tree, run.toolchain, run.settings);
  plan.environment = session.environment;
  return services_for(plan);
}
}  // namespace

bool locate(model::Run& run, Session& session) {
  if (run.repeats) {
    run.reached = model::Stage::locate;
    return true;
  }
  const std::vector<model::Finding> before = run.findings;
  bool refused = false;  // a value that --set gave
  for (int round = 0;; ++round) {
    locate::Locator locator(run.toolchain, run.settings, session.answers.get());
    if (session.progress) locator.progress = session.progress;
    if (const auto* reader = describe::reader_of(run.survey.followed()); reader != nullptr && reader->runs_recipes) {
      const auto set_up = guarded("setting up what recipes need", [&] {
        const InnerMake inner{run.kiln + "/make",
                              run.kiln + "/work",
                              run.tree,
                              run.kiln + "/journal",
                              plan::header_folders(run.toolchain, run.settings),
                              run.settings.jobs,
                              run.options.shared_tokens};
        session.environment =
            locate::environment_for_prefixes(run.settings.wished_prefixes(), run.toolchain.machine, {});
        set_up_inner_make(inner, own_program(), session.environment);
        offer_compilers(run.toolchain, session.environment);
        return true;
      });
      if (!set_up) return stop(run, set_up.problem());
      locator.set_environment(session.environment);
    }
    if (round == 0) {
      if (session.keeping.take(run, session.environment)) {
        if (run.problem) return stop(run, *run.problem);
        break;
      }
    } else {
      session.keeping.give_up();  // it hangs on the tool chain that was looked for first
    }
    const auto claimed = guarded("making room for results", [&] {
      claim_work(run);
      return true;
    });
    if (!claimed) return stop(run, claimed.problem());
    locate::locate_needs(run.settings, run.tree, locator);
    auto project = describe::read(run.survey, locator, run.kiln + "/work", services_of(run, session));
    if (project) {
      // Only the description tells which standard it takes; a tool chain that is too old for it gives way, once.
      const auto wanted = standards_of(*project);
      const bool too_old = std::any_of(wanted.begin(), wanted.end(), [&](const auto& w) {
        return run.toolchain.compiler(w.first).present() && !locate::knows_standard(run.toolchain, w.first, w.second);
      });
      if (too_old && round == 0) {
        const std::string chosen = run.toolchain.any().path;
        session.repeating.give_up();  // it saw what the first choice hung on
        if (!choose_toolchain(run, session, wanted)) return false;
        if (run.toolchain.any().path != chosen) continue;
      }
      if (too_old) {
        for (const auto& [language, standard] : wanted) {
          if (locate::knows_standard(run.toolchain, language, standard)) continue;
          model::Finding finding;
          finding.requirement = {model::RequirementKind::toolchain,
                                 fmt::format("a compiler of {}{:02}", language, standard),
                                 {},
                                 true,
                                 "the description",
                                 {},
                                 {}};
          finding.refused = true;
          finding.reason =
              fmt::format("{} knows {} up to {}{:02}, and no other tool chain here that may be used knows more",
                          run.toolchain.name, language, language, locate::newest_standard(run.toolchain, language));
          locator.keep(std::move(finding));
        }
      }
      run.project = std::move(*project);
    } else {
      run.problem = project.problem();
      refused = run.problem->exit == Exit::usage;
    }
    const auto& findings = locator.findings();
    run.findings.insert(run.findings.end(), findings.begin(), findings.end());
    add_submodule_requirements(run);
    add_dangling_links(run);
    locate::name_packages(run.findings, run.toolchain, locator.packages());
    run.mentions = locate::mentions(run.tree, run.findings, locator.packages(), describe::is_build_program);
    run.search_order = locator.search_order();
    run.questions = locator.questions();
    break;
  }
  const auto compared = guarded("keeping what was found", [&] {
    const observe::Apart apart;
    if (refused) give_back_options(run);
    record::compare_findings(run);
    files::write_if_different(run.kiln + "/compiler-checks.log", report::questions_log(run));
    return true;
  });
  if (!compared) return stop(run, compared.problem());
  if (stop_for_missing(run)) return false;
  if (run.problem) return stop(run, *run.problem);
  run.reached = model::Stage::locate;
  return true;
}

bool install(model::Run& run, Session& session, bool on_terminal) {
  std::vector<std::string> argv = run.install;
  argv.insert(argv.begin() + 2, "-y");
  std::vector<std::vector<std::string>> commands;
  // Without lists of what can be installed nothing can.
  if (!locate::Packages(locate::Packages::usual_root()).has_lists()) commands.push_back({argv.front(), "update"});
  commands.push_back(argv);
  const bool administrator = ::geteuid() == 0;
  if (!administrator && !on_terminal)
    return stop(run, {Exit::missing,
                      {},
                      "packages are installed by the administrator",
                      "this is not the administrator, and there is no terminal to ask for a password on",
                      "sudo " + text::join(run.install, " "),
                      {}});
  for (auto& command : commands) {
    if (!administrator) command.insert(command.begin(), "sudo");
    Command start;
    start.argv = command;
    start.environment = {{"DEBIAN_FRONTEND", "noninteractive"}};
    const Ended ended = administrator ? coctilis::run(start) : run_on_terminal(start);
    if (!ended.good())
      return stop(run,
                  {Exit::missing,
                   {},
                   "'" + text::shell_join(command) + "' failed: " + ended.text(),
                   text::printable(std::string(text::trim(
                       ended.output.size() > 2000 ? ended.output.substr(ended.output.size() - 2000) : ended.output))),
                   "mend what it says, then run it again",
                   {}});
  }
  run.problem.reset();
  run.findings.clear();
  run.install.clear();
  session.answers.reset();
  return true;
}

}  // namespace coctilis::pipeline
