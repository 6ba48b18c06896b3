#include "report/explain_details.h"

#include <algorithm>
#include <map>
#include <set>

#include "base/dependency_file.h"
#include "base/files.h"
#include "base/text.h"
#include "locate/packages.h"
#include "report/system_libraries.h"

namespace coctilis::report {

namespace {

class Details {
 public:
  Details(const model::Run& run, const std::string& subject, const FoundInputs& found)
      : run_(run), subject_(subject), found_(found) {}

  std::vector<Explanation> all() {
    step_by_number();
    definition();
    option();
    compiler();
    library();
    header();
    return std::move(out_);
  }

 private:
  [[nodiscard]] std::string shown_path(const std::string& path) const {
    if (files::is_below(path, run_.kiln)) return files::below(path, run_.kiln);
    return files::below(path, run_.tree);
  }

  // "12", "#12" or "step 12", as records and pages number them.
  void step_by_number() {
    std::string digits = subject_;
    for (const char* before : {"step ", "#"}) {
      if (digits.starts_with(before)) digits = digits.substr(std::string_view(before).size());
    }
    if (digits.empty() || digits.size() > 9 || digits.find_first_not_of("0123456789") != std::string::npos) return;
    const auto index = static_cast<std::size_t>(std::stoul(digits));
    if (index >= run_.plan.steps.size()) return;
    const auto& step = run_.plan.steps[index];
    Explanation e{"step", "step " + digits + ": " + model::name_of(step.kind) + " " + step.subject, {}, {}};
    if (!step.target.empty()) e.lines.push_back("of " + step.target);
    if (!step.place.file.empty()) e.lines.push_back("said at " + step.place.text());
    for (const auto& output : step.outputs) e.lines.push_back("makes " + shown_path(output));
    for (std::size_t i = 0; i < step.inputs.size() && i < 12; ++i)
      e.lines.push_back("reads " + shown_path(step.inputs[i]));
    if (step.inputs.size() > 12) e.lines.push_back("  and " + std::to_string(step.inputs.size() - 12) + " more");
    for (const auto& action : step.actions) e.lines.push_back("command: " + text::shell_join(action.argv));
    out_.push_back(std::move(e));
  }

  // With or without "-D", with or without its value.
  void definition() {
    const std::string name = subject_.starts_with("-D") ? subject_.substr(2) : subject_;
    std::vector<std::string> lines;
    for (const auto& target : run_.plan.targets) {
      for (const auto& one : target.definitions) {
        if (one == name || one.substr(0, one.find('=')) == name) lines.push_back(one + " in " + target.name);
      }
    }
    for (const auto& finding : run_.findings) {
      for (const auto& one : finding.usage.definitions) {
        if (one == name || one.substr(0, one.find('=')) == name)
          lines.push_back("it comes with " + finding.requirement.name + " (" + finding.how + ")");
      }
    }
    std::map<std::string, std::size_t> given;
    for (const auto& step : run_.plan.steps) {
      for (const auto& action : step.actions) {
        for (const auto& word : action.argv) {
          if (word == "-D" + name || word.starts_with("-D" + name + "=")) ++given[word];
        }
      }
    }
    for (const auto& [word, count] : given)
      lines.push_back(
          word + " in " + text::count(count, "command") +
          (lines.empty() ? ": it comes from the variant (" + run_.settings.variant + ") or an option" : ""));
    if (!lines.empty()) out_.push_back({"definition", name, lines, {}});
  }

  void option() {
    if (!subject_.starts_with("-") || subject_.starts_with("-D")) return;
    std::vector<std::string> targets;
    for (const auto& target : run_.plan.targets) {
      const auto& options = target.compile_options;
      if (std::find(options.begin(), options.end(), subject_) != options.end()) targets.push_back(target.name);
    }
    std::vector<std::string> lines;
    for (const auto& target : targets) lines.push_back("the description gives it to " + target);
    std::size_t steps = 0;
    for (const auto& step : run_.plan.steps) {
      steps += std::any_of(step.actions.begin(), step.actions.end(), [&](const auto& action) {
        return std::find(action.argv.begin(), action.argv.end(), subject_) != action.argv.end();
      });
    }
    if (steps == 0 && lines.empty()) return;
    lines.push_back("in the command of " + text::count(steps, "step"));
    const auto& variant = run_.settings.variant;
    if (targets.empty())
      lines.push_back("no target asks for it: it comes from the variant (" + variant +
                      "), a library, or the language's standard");
    out_.push_back({"option", "compiler option " + subject_, lines, {}});
  }

  void compiler() {
    for (const auto& [language, one] : run_.toolchain.compilers) {
      const std::string file = std::filesystem::path(one.path).filename().string();
      if (one.path != subject_ && file != subject_ && language != subject_) continue;
      if (one.path.empty()) continue;
      Explanation e{"compiler", "compiler of " + language + ": " + one.path, {}, {}};
      e.lines.push_back("version " + one.version + ", of " + run_.toolchain.name + " for " + run_.toolchain.machine);
      const auto& wishes = run_.settings.toolchain;
      if (wishes.empty()) e.lines.emplace_back("nobody asks for another: it is the first of those that do");
      for (const auto& wish : wishes)
        e.lines.push_back("asked for: " + wish.text +
                          (wish.place.file.empty() ? " (--toolchain)" : " (" + wish.place.text() + ")"));
      for (const auto& folder : one.include_folders) e.lines.push_back("looks for headers in " + folder);
      out_.push_back(std::move(e));
    }
  }

  // A file of the system that is linked: "libz.so", or what is behind "-l".
  void library() {
    const std::string name = subject_.starts_with("-l") ? "lib" + subject_.substr(2) : subject_;
    std::map<std::string, std::vector<std::string>> users;
    for (const auto& target : run_.plan.targets) {
      for (const auto& item : system_libraries_of(target, run_)) {
        const std::string file = item.substr(item.rfind('/') + 1);
        if (item == subject_ || file == name || file.starts_with(name + ".so") || file == name + ".a")
          users[item].push_back(target.name);
      }
    }
    for (const auto& [path, targets] : users) {
      Explanation e{"library", "library " + path, {}, {}};
      e.lines.push_back("linked by " + text::join(targets, " "));
      if (const std::string owner = system_.owner(path); !owner.empty())
        e.lines.push_back("the package " + owner + " has it, version " + system_.version(owner));
      for (const auto& finding : run_.findings) {
        const auto& items = finding.usage.link_items;
        const std::string file = path.substr(path.rfind('/') + 1);
        const auto leads_to = [&](const std::string& item) {
          return item == path || (item.starts_with("-l") && file.starts_with("lib" + item.substr(2) + "."));
        };
        if (finding.found && (finding.where == path || std::any_of(items.begin(), items.end(), leads_to)))
          e.lines.push_back(
              "it is " + finding.requirement.name + ", required by " + finding.requirement.required_by +
              (finding.requirement.place.file.empty() ? "" : " (" + finding.requirement.place.text() + ")"));
      }
      out_.push_back(std::move(e));
    }
  }

  // Which file an include leads to, by which folder, and who reads it.
  void header() {
    if (subject_.empty() || subject_.starts_with("-")) return;
    std::map<std::string, std::vector<const model::Step*>> readers;
    for (std::size_t i = 0; i < found_.size(); ++i) {
      for (const auto& file : found_[i]) {
        if (file == subject_ || file.ends_with("/" + subject_)) readers[file].push_back(&run_.plan.steps[i]);
      }
    }
    std::erase_if(readers, [](const auto& one) {
      return std::all_of(one.second.begin(), one.second.end(),
                         [&](const auto* step) { return step->source == one.first; });
    });
    if (readers.size() > 20) return;
    for (const auto& [file, steps] : readers) {
      Explanation e{"header", "header " + shown_path(file), {}, {}};
      const std::string folder = std::filesystem::path(file).parent_path().string();
      std::set<std::string> brought;
      for (const auto* step : steps) {
        const auto* target = run_.plan.target(step->target);
        if (std::filesystem::path(step->source).parent_path() == folder)
          brought.insert("it lies beside " + shown_path(step->source));
        if (target == nullptr) continue;
        const auto nearest = [&](const std::vector<std::string>& folders) {
          std::string out;
          for (const auto& one : folders) {
            if (files::is_below(file, one) && one.size() > out.size()) out = one;
          }
          return out;
        };
        if (const auto one = nearest(target->include_folders); !one.empty())
          brought.insert("the include folder " + shown_path(one) + " of " + target->name + " brings it");
        else if (const auto other = nearest(target->system_include_folders); !other.empty())
          brought.insert("the system include folder " + other + " of " + target->name + " brings it");
      }
      if (brought.empty() && !files::is_below(file, run_.tree) && !files::is_below(file, run_.kiln))
        brought.insert("the compiler looks there by itself");
      std::size_t told = 0;
      for (const auto& line : brought) {
        if (++told <= 6) e.lines.push_back(line);
      }
      if (told > 6) e.lines.push_back("  and so for " + std::to_string(told - 6) + " more");
      if (!files::is_below(file, run_.tree) && !files::is_below(file, run_.kiln)) {
        if (const std::string owner = system_.owner(file); !owner.empty())
          e.lines.push_back("the package " + owner + " has it, version " + system_.version(owner));
      }
      e.lines.push_back("read by " + text::count(steps.size(), "step") + ":");
      for (std::size_t i = 0; i < steps.size() && i < 12; ++i)
        e.lines.push_back("  " + std::string(model::name_of(steps[i]->kind)) + " " + steps[i]->subject);
      if (steps.size() > 12) e.lines.push_back("  and " + std::to_string(steps.size() - 12) + " more");
      out_.push_back(std::move(e));
    }
  }

  const model::Run& run_;
  const std::string subject_;
  const FoundInputs& found_;
  locate::Packages system_;
  std::vector<Explanation> out_;
};

}  // namespace

FoundInputs found_inputs(const model::Plan& plan) {
  FoundInputs out(plan.steps.size());
  for (std::size_t i = 0; i < plan.steps.size(); ++i) {
    const auto& step = plan.steps[i];
    const auto content = step.dependency_file.empty() ? std::nullopt : files::read(step.dependency_file);
    if (!content) continue;
    const std::string folder = step.actions.empty() ? "/" : step.actions.front().folder;
    for (const auto& file : parse_dependency_file(*content)) out[i].push_back(files::absolute(file, folder));
  }
  return out;
}

std::vector<Explanation> explain_details(const model::Run& run, const std::string& subject, const FoundInputs& found) {
  return Details(run, subject, found).all();
}

std::vector<std::string> known_details(const model::Run& run) {
  std::vector<std::string> out;
  for (const auto& target : run.plan.targets) {
    for (const auto& one : target.definitions) out.push_back(one.substr(0, one.find('=')));
    out.insert(out.end(), target.compile_options.begin(), target.compile_options.end());
    for (const auto& item : target.link_items) {
      if (item.starts_with("/")) out.push_back(item.substr(item.rfind('/') + 1));
    }
  }
  for (const auto& [language, one] : run.toolchain.compilers)
    out.push_back(std::filesystem::path(one.path).filename().string());
  std::set<std::string> seen;
  for (const auto& files_of_step : found_inputs(run.plan)) {
    if (seen.size() > 5000) break;
    for (const auto& file : files_of_step) {
      if (seen.insert(file).second) out.push_back(file.substr(file.rfind('/') + 1));
    }
  }
  return out;
}

}  // namespace coctilis::report
