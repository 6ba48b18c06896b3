// A [[smoke]] check of coctilis.toml: programs are run one after the other in one working folder, beside services where
// it says so; what they print, write and read as numbers is held against what is expected.
#include <fmt/format.h>

#include "base/file_stamp.h"
#include "base/files.h"
#include "base/text.h"
#include "smoke/expectations.h"
#include "smoke/failing.h"
#include "smoke/harmless.h"
#include "smoke/kinds/kind.h"
#include "smoke/numbers.h"
#include "smoke/service_run.h"
#include "smoke/window_run.h"
#include "smoke/workplace.h"

namespace coctilis::smoke {

using model::AskedCheck;
using model::Check;
using model::CheckKind;
using model::Verdict;

namespace {

// How the checks before ended, by their names.
using Verdicts = std::map<std::string, Verdict>;

std::string ordinal_of(std::size_t at, std::size_t of) { return fmt::format("step {} of {}", at + 1, of); }

class ProgramCheck {
 public:
  ProgramCheck(const AskedCheck& asked, const Context& context, Runner& runner)
      : asked_(asked), context_(context), runner_(runner) {}

  std::optional<Judgement> enter(const PlannedCheck::Stay& stay) {
    Services services(runner_, context_.settings.services);
    if (Judgement started = services.start(asked_.services); started.verdict != Verdict::passed) return started;
    Workplace place(runner_, asked_.surroundings, asked_.steps.front().run.front(), all_values().front(),
                    !asked_.services.empty());
    if (place.obstacle() && place.obstacle()->verdict == Verdict::failed) return place.obstacle();
    Entered entered{place.start_of_shell().command, {}, asked_.services, [&] { runner_.look_beside(); }};
    for (const auto& step : asked_.steps) {
      const auto start = place.start_of(step.run, step.input, step.input_file);
      std::string words = start.shown.empty() ? text::shell_join(step.run) : start.shown;
      if (!start.command.input.empty()) words += " < " + text::shell_quote(start.command.input);
      entered.runs.push_back(std::move(words));
    }
    stay(entered);
    static_cast<void>(services.stop());
    return std::nullopt;
  }

  Check run(const Verdicts& before) {
    const double begin = now();
    std::vector<std::string> failures;
    for (int attempt = 0; attempt <= asked_.retries; ++attempt) {
      check_ = {};
      check_.kind = CheckKind::smoke;
      check_.name = asked_.name;
      check_.place = asked_.place;
      const auto failed = std::find_if(asked_.needs.begin(), asked_.needs.end(), [&](const auto& need) {
        const auto it = before.find(need);
        return it != before.end() && it->second != Verdict::passed;
      });
      if (failed != asked_.needs.end())
        take({Verdict::skipped, "the check '" + *failed + "' that it needs has not passed"});
      else
        once();
      if (check_.verdict != Verdict::failed || interrupted_by != 0) break;
      failures.push_back(check_.reason);
    }
    if (check_.verdict == Verdict::passed && !failures.empty())
      check_.reason += fmt::format("; at attempt {}: before, {}", failures.size() + 1, failures.back());
    if (check_.verdict == Verdict::failed && failures.size() > 1)
      check_.reason += fmt::format("; at all {} attempts", failures.size());
    check_.seconds = now() - begin;
    return check_;
  }

 private:
  using Values = std::map<std::string, std::string>;

  void take(const Judgement& judgement) {
    check_.verdict = judgement.verdict;
    check_.reason = judgement.reason;
    check_.cause = judgement.cause;
    check_.remedy = judgement.remedy;
    check_.evidence = judgement.evidence;
  }
  void take(const Problem& problem) {
    Judgement out(Verdict::failed, problem.what);
    out.remedy = problem.remedy;
    if (!problem.place.file.empty()) out.evidence.push_back("at " + problem.place.text());
    take(out);
  }

  // All values of what it goes over, in turn.
  std::vector<Values> all_values() const {
    std::vector<Values> out = {{}};
    for (const auto& [name, values] : asked_.over) {
      std::vector<Values> more;
      for (const auto& one : out) {
        for (const auto& value : values) {
          more.push_back(one);
          more.back()[name] = value;
        }
      }
      out = std::move(more);
    }
    return out;
  }

  static std::string text_of(const Values& values) {
    std::vector<std::string> out;
    for (const auto& [name, value] : values) out.push_back(name + "=" + value);
    return text::join(out, " ");
  }

  void once() {
    const auto all = all_values();
    std::vector<model::CheckNumber> first;
    for (std::size_t i = 0; i < all.size(); ++i) {
      with(all[i]);
      if (check_.verdict != Verdict::passed) {
        if (!all[i].empty()) check_.reason = "with " + text_of(all[i]) + ": " + check_.reason;
        return;
      }
      if (i == 0) {
        first = check_.numbers;
        continue;
      }
      for (std::size_t k = 0; k < first.size(); ++k) {
        if (agree(asked_.numbers[k], check_.numbers[k].text, first[k].text)) continue;
        check_.numbers[k].agrees = false;
        Judgement out(Verdict::failed, fmt::format("{} is {} with {}, and {} with {}", first[k].name, first[k].text,
                                                   text_of(all[0]), check_.numbers[k].text, text_of(all[i])));
        out.cause = "its result hangs on what it is run with";
        out.remedy = "say how far results may be off if that is right: absolute or relative in numbers";
        return take(out);
      }
    }
    check_.numbers = first;
    if (all.size() > 1)
      check_.reason = fmt::format("{} runs, with {} to {}{}", all.size(), text_of(all.front()), text_of(all.back()),
                                  first.empty() ? "" : ": the same numbers");
    hold_against_reference();
  }

  void hold_against_reference() {
    if (asked_.numbers.empty()) return;
    std::vector<std::string> shown;
    for (const auto& number : check_.numbers) shown.push_back(number.name + " " + number.text);
    if (asked_.reference.empty()) {
      check_.reason += "; " + text::join(shown, ", ");
      return;
    }
    const std::string path = files::absolute(asked_.reference, runner_.plan().tree);
    if (!files::lies_below(path, runner_.plan().tree) || files::is_link(path))
      return take(
          {Exit::check, {path, 0, 0}, "the reference lies outside of the tree", "", "name a file of the tree", {}});
    if (context_.request.records) {
      if (const auto written = write_reference(path, asked_.name, check_.numbers); !written)
        return take(written.problem());
      check_.reason += "; recorded in " + asked_.reference + ": " + text::join(shown, ", ");
      return;
    }
    const auto compared = compare_with_reference(path, asked_.name, asked_.numbers, check_.numbers);
    if (!compared) return take(compared.problem());
    std::vector<std::string> off;
    for (const auto& number : check_.numbers) {
      if (!number.agrees) off.push_back(number.name + " is " + number.text + ", recorded " + number.recorded);
    }
    if (off.empty()) {
      check_.reason += "; as recorded: " + text::join(shown, ", ");
      return;
    }
    Judgement out(Verdict::failed, text::join(off, "; "));
    out.cause = "numbers are not those that are recorded in " + asked_.reference;
    out.remedy = "if the new ones are right, record them: coctilis smoke \"" + asked_.name + "\" --record";
    take(out);
  }

  // One run with these values.
  void with(const Values& values) {
    Services services(runner_, context_.settings.services);
    check_.output.clear();
    if (Judgement ready = services.start(asked_.services); ready.verdict != Verdict::passed) return take(ready);
    Workplace place(runner_, asked_.surroundings, asked_.steps.front().run.front(), values,
                    !asked_.services.empty() || asked_.window);
    if (place.obstacle()) return take(*place.obstacle());
    for (std::size_t i = 0; i < asked_.steps.size(); ++i) {
      if (asked_.steps.size() > 1) tell(ordinal_of(i, asked_.steps.size()));
      const auto stamps = stamps_of(asked_.steps[i], place);
      Judgement judgement = asked_.window ? window(place) : step(asked_.steps[i], place);
      if (judgement.verdict == Verdict::passed) judge_files(judgement, asked_.steps[i], place, stamps);
      if (judgement.verdict != Verdict::passed && asked_.steps.size() > 1)
        judgement.reason =
            ordinal_of(i, asked_.steps.size()) + ", " + name_of(asked_.steps[i]) + ": " + judgement.reason;
      take(judgement);
      if (judgement.verdict != Verdict::passed) break;
    }
    if (check_.verdict == Verdict::passed) {
      if (asked_.steps.size() > 1) check_.reason = text::count(asked_.steps.size(), "step") + " one after the other";
      auto numbers =
          read_numbers(asked_.numbers, check_.output, [&](const auto& name) { return place.made_file(name); });
      if (numbers)
        check_.numbers = std::move(*numbers);
      else
        take(numbers.problem());
    }
    check_.output += services.output();
    Judgement stopped = services.stop();
    if (check_.verdict == Verdict::passed && stopped.verdict != Verdict::passed) take(stopped);
    if (check_.verdict != Verdict::passed) return;
    std::vector<std::string> benign = asked_.surroundings.benign;
    if (asked_.window) benign.insert(benign.end(), harmless_lines().begin(), harmless_lines().end());
    check_.error_lines = lines_like_errors(check_.output, benign);
  }

  static std::string name_of(const model::CheckStep& step) { return step.name.empty() ? step.run.front() : step.name; }
  void tell(const std::string& what) const {
    if (context_.request.begun) context_.request.begun(asked_.name + ", " + what);
  }

  // A program with windows; its end is that which it is asked to come to.
  Judgement window(Workplace& place) {
    WindowSeen seen = run_window(*asked_.window, asked_.steps.front(), place);
    check_.command = seen.shown;
    check_.output += seen.output;
    check_.picture = std::move(seen.picture);
    return seen.judgement;
  }

  Judgement step(const model::CheckStep& asked, Workplace& place) {
    auto [command, program, shown, obstacle, emulated] = place.start_of(asked.run, asked.input, asked.input_file);
    check_.command = shown.empty() ? text::shell_join(command.argv) : shown;
    if (obstacle) return *obstacle;
    const Observation seen = runner_.observe(command, asked.expected.within);
    check_.output += seen.ended.output;
    Judgement out = judge(seen, expectations_of(asked.expected, place.asked()), emulated);
    find_cause(out, runner_, command, program, place.seen_folder(), seen, true);
    return out;
  }

  using Stamps = std::vector<std::optional<FileStamp>>;

  // Of the files that a step is expected to make; nothing where none is.
  static Stamps stamps_of(const model::CheckStep& asked, const Workplace& place) {
    Stamps out;
    for (const auto& name : asked.expected.files) {
      const std::string path = place.made_file(place.with_values(name));
      struct stat info {};
      if (path.empty() || ::lstat(path.c_str(), &info) != 0)
        out.emplace_back();
      else
        out.emplace_back(FileStamp::of(info));
    }
    return out;
  }

  static void judge_files(Judgement& out, const model::CheckStep& asked, const Workplace& place, const Stamps& before) {
    const Stamps now = stamps_of(asked, place);
    for (std::size_t i = 0; i < now.size(); ++i) {
      const std::string& name = asked.expected.files[i];
      if (!now[i])
        out = {Verdict::failed, "it has not made " + name};
      else if (now[i] == before[i])
        out = {Verdict::failed, "it has not written to " + name + ", which was there before"};
      else
        continue;
      out.remedy = "see what it prints: coctilis why failure; or take the file out of expect";
      return;
    }
  }

  const AskedCheck& asked_;
  const Context& context_;
  Runner& runner_;
  Check check_;
};

// The checks that are asked for with those that they need, in an order in which these come first.
std::vector<const AskedCheck*> chosen_checks(const Context& context) {
  const auto& all = context.settings.smoke;
  std::vector<const AskedCheck*> out;
  const std::function<void(const AskedCheck&)> place = [&](const AskedCheck& check) {
    if (std::find(out.begin(), out.end(), &check) != out.end()) return;
    for (const auto& need : check.needs) {
      const auto it = std::find_if(all.begin(), all.end(), [&](const auto& other) { return other.name == need; });
      if (it != all.end()) place(*it);
    }
    out.push_back(&check);
  };
  for (const auto& check : all) {
    const bool wanted = std::any_of(check.steps.begin(), check.steps.end(),
                                    [&](const auto& step) { return context.wanted(check.name, step.run.front()); });
    if (wanted) place(check);
  }
  return out;
}

std::vector<PlannedCheck> expand_programs(const Context& context) {
  std::vector<PlannedCheck> out;
  const auto verdicts = std::make_shared<Verdicts>();
  for (const auto* check : chosen_checks(context)) {
    std::vector<std::string> words;
    for (const auto& step : check->steps) words.push_back(text::shell_join(step.run));
    std::vector<std::string> needs = check->needs;
    needs.insert(needs.end(), check->services.begin(), check->services.end());
    out.push_back({check->name,
                   [check, verdicts, &context](Runner& runner) {
                     Check done = ProgramCheck(*check, context, runner).run(*verdicts);
                     (*verdicts)[check->name] = done.verdict;
                     return done;
                   },
                   text::join(words, "; "), needs, check->place});
    out.back().program = check->steps.front().run.front();
    out.back().own_network = true;
    out.back().enter = [check, &context](Runner& runner, const PlannedCheck::Stay& stay) {
      return ProgramCheck(*check, context, runner).enter(stay);
    };
  }
  return out;
}

std::vector<std::string> program_names(const Context& context) {
  std::vector<std::string> out;
  for (const auto& check : context.settings.smoke) out.push_back(check.name);
  return out;
}

}  // namespace

Kind program_kind() { return {CheckKind::smoke, expand_programs, program_names}; }

}  // namespace coctilis::smoke
