#include "report/explain.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/elf.h"
#include "base/files.h"
#include "base/text.h"
#include "report/explain_details.h"

namespace coctilis::report {

namespace {

using nlohmann::json;

std::string at(const Place& place) { return place.file.empty() ? std::string{} : " (" + place.text() + ")"; }

std::string listed(const std::vector<std::string>& items, std::size_t most = 12) {
  std::vector<std::string> shown(items.begin(),
                                 items.begin() + static_cast<std::ptrdiff_t>(std::min(most, items.size())));
  std::string out = text::join(shown, " ");
  if (items.size() > most) out += " and " + std::to_string(items.size() - most) + " more";
  return out;
}

class Explainer {
 public:
  Explainer(const model::Run& run, const std::string& subject, const std::string& here, const std::string& record)
      : run_(run), subject_(subject), here_(here), found_(found_inputs(run.plan)) {
    record_ = json::parse(record, nullptr, false);
    if (record_.is_discarded()) record_ = json::object();
  }

  std::vector<Explanation> all() {
    questions();
    wants();
    options();
    targets();
    steps();
    file();
    checks();
    if (subject_ == "failure") failure();
    // A header that is a file of the tree is told once.
    for (auto& one : explain_details(run_, subject_, found_)) {
      if (one.kind == "header") std::erase_if(out_, [](const auto& other) { return other.kind == "file"; });
      out_.push_back(std::move(one));
    }
    if (out_.empty()) symbol();
    return std::move(out_);
  }

 private:
  // ---- the outside -------------------------------------------------------------------------------------------------
  void questions() {
    for (const auto& q : run_.questions) {
      if (q.name != subject_) continue;
      Explanation e{
          "compiler check",
          q.name + " is " + (q.value.empty() ? "empty (no)" : q.value) + ": a " + q.language + " program " + q.end,
          {"required by " + q.required_by + at(q.place), "command: " + q.command,
           q.kept ? "the answer is kept from an earlier run; nothing that it depends on has changed"
                  : "made in this run"},
          "source:\n" + q.source};
      if (!e.text.ends_with('\n')) e.text += '\n';
      if (!text::trim(q.output).empty()) e.text += "output:\n" + q.output;
      out_.push_back(std::move(e));
    }
  }

  void wants() {
    for (const auto& f : run_.findings) {
      if (f.requirement.name != subject_) continue;
      std::string head = std::string(model::name_of(f.requirement.kind)) + " " + f.requirement.name;
      if (!f.requirement.constraint.empty()) head += " " + f.requirement.constraint;
      head += f.requirement.required ? ", required" : ", optional";
      if (!f.requirement.required_by.empty()) head += " by " + f.requirement.required_by;
      head += at(f.requirement.place) + ": ";
      Explanation e{"requirement", head, {}, {}};
      if (f.found) {
        e.headline += "found" + (f.version.empty() ? "" : ", version " + f.version);
        if (!f.where.empty()) e.lines.push_back("it is " + f.where);
        if (!f.how.empty()) e.lines.push_back((f.how.starts_with("by ") ? "found " : "found by ") + f.how);
        if (!f.version_source.empty()) e.lines.push_back("version from the " + f.version_source);
        if (!f.why_here.empty()) e.lines.push_back("this place comes first because of " + f.why_here);
        for (const auto& other : f.others) e.lines.push_back("passed over: " + other);
        for (const auto& [name, items] : {std::pair{"include folders: ", &f.usage.include_folders},
                                          {"definitions: ", &f.usage.definitions},
                                          {"compile options: ", &f.usage.compile_options},
                                          {"link folders: ", &f.usage.link_folders},
                                          {"links: ", &f.usage.link_items}}) {
          if (!items->empty()) e.lines.push_back(name + text::join(*items, " "));
        }
      } else {
        e.headline += "not found";
        if (!f.reason.empty()) e.lines.push_back(f.reason);
        for (const auto& place : f.looked) e.lines.push_back("searched: " + place);
        if (!f.package.empty()) e.lines.push_back("the package " + f.package + " has it");
      }
      out_.push_back(std::move(e));
    }
  }

  void options() {
    for (const auto& o : run_.project.options) {
      if (o.name != subject_) continue;
      Explanation e{
          "option", "option " + o.name + " is " + (o.value.empty() ? "empty" : o.value) + at(o.place), {}, {}};
      if (!o.help.empty()) e.lines.push_back(o.help);
      e.lines.push_back(o.value == o.initial
                            ? "that is what the description sets"
                            : "the description sets " + (o.initial.empty() ? "nothing" : o.initial) + "; it is " +
                                  (run_.settings.options.contains(o.name) ? "set by the user" : "changed on the way"));
      out_.push_back(std::move(e));
    }
  }

  // ---- what is made ------------------------------------------------------------------------------------------------
  [[nodiscard]] std::string shown(const std::string& path) const {
    if (files::is_below(path, run_.kiln)) return files::below(path, run_.kiln);
    return files::below(path, run_.tree);
  }
  [[nodiscard]] std::vector<std::string> shown(const std::vector<std::string>& paths) const {
    std::vector<std::string> out;
    for (const auto& path : paths) out.push_back(shown(path));
    return out;
  }

  void targets() {
    for (const auto& t : run_.plan.targets) {
      if (t.name != subject_) continue;
      Explanation e{"target", std::string(model::name_of(t.kind)) + " " + t.name + at(t.place), {}, {}};
      if (!t.output.empty()) e.lines.push_back("built as " + shown(t.output));
      e.lines.push_back(t.in_default ? "built by default" : "built only when it is named");
      e.lines.push_back(text::count(t.steps.size(), "step") + ", " + text::count(t.sources, "source"));
      if (!t.uses.empty()) e.lines.push_back("links " + listed(t.uses));
      std::vector<std::string> users;
      for (const auto& other : run_.plan.targets) {
        if (std::find(other.uses.begin(), other.uses.end(), t.name) != other.uses.end()) users.push_back(other.name);
      }
      if (!users.empty()) e.lines.push_back("linked by " + listed(users));
      out_.push_back(std::move(e));
    }
  }

  // The path as a user may write it: from here, from the tree, from the kiln, or its end.
  [[nodiscard]] bool meant(const std::string& path) const {
    return path == files::absolute(subject_, here_) || path == files::absolute(subject_, run_.tree) ||
           path == files::absolute(subject_, run_.kiln) || path.ends_with("/" + subject_);
  }

  void steps() {
    for (std::size_t i = 0; i < run_.plan.steps.size(); ++i) {
      const auto& s = run_.plan.steps[i];
      const bool result = std::any_of(s.outputs.begin(), s.outputs.end(), [&](const auto& o) { return meant(o); });
      const bool source = !s.source.empty() && meant(s.source);
      if (!result && !source && s.subject != subject_) continue;
      Explanation e{"step",
                    std::string(model::name_of(s.kind)) + " " + s.subject +
                        (s.target.empty() ? "" : " for target " + s.target) + at(s.place),
                    {},
                    {}};
      tell_last(e, s);
      e.lines.push_back("makes " + listed(shown(s.outputs)));
      if (!s.inputs.empty()) e.lines.push_back("from " + listed(shown(s.inputs)));
      const auto& found = found_[i];
      if (!found.empty()) e.lines.push_back("read while it ran: " + text::count(found.size(), "file"));
      for (const auto& action : s.actions) e.lines.push_back("command: " + action.text());
      out_.push_back(std::move(e));
    }
  }

  // How the step fared in the recorded run.
  void tell_last(Explanation& e, const model::Step& step) const {
    if (!record_.contains("build") || !record_["build"].is_object()) {
      e.lines.emplace_back("there is no record of a build yet");
      return;
    }
    for (const auto& r : record_["build"].value("steps", json::array())) {
      if (r.value("target", "") != step.target || r.value("subject", "") != step.subject ||
          r.value("kind", "") != model::name_of(step.kind))
        continue;
      std::string line = "run " + std::to_string(record_.value("run", 0)) + ": " + r.value("state", "");
      if (const std::string reason = r.value("reason", ""); !reason.empty()) line += "; cause: " + reason;
      if (r.value("seconds", 0.0) > 0) line += "; it took " + text::duration(r.value("seconds", 0.0));
      if (r.contains("end")) line += "; " + r.value("end", "");
      e.lines.push_back(line);
      return;
    }
    const auto& build = record_["build"];
    const auto index = static_cast<std::size_t>(&step - run_.plan.steps.data());
    const json left = build.value("not_asked_for", json::array());
    const bool asked = std::find(left.begin(), left.end(), json(index)) == left.end();
    const std::string run = "run " + std::to_string(record_.value("run", 0)) + ": ";
    e.lines.push_back(run + (!asked                             ? "not asked for"
                             : build.value("up_to_date", 0) > 0 ? model::name_of(model::StepState::up_to_date)
                                                                : "it did not know this step"));
  }

  // A file that steps read: declared, or found to be read.
  void file() {
    std::string path;
    for (const auto& base : {here_, run_.tree, run_.kiln}) {
      const std::string candidate = files::absolute(subject_, base);
      if (path.empty() && files::is_file(candidate)) path = candidate;
    }
    std::vector<std::string> readers;
    for (std::size_t i = 0; i < run_.plan.steps.size(); ++i) {
      const auto& s = run_.plan.steps[i];
      const auto reads = [&](const std::string& input) {
        return path.empty() ? input.ends_with("/" + subject_) : input == path;
      };
      const auto& found = found_[i];
      if (std::any_of(s.inputs.begin(), s.inputs.end(), reads) || std::any_of(found.begin(), found.end(), reads))
        readers.push_back(std::string(model::name_of(s.kind)) + " " + s.subject);
    }
    const bool description = !path.empty() && std::find(run_.project.read_files.begin(), run_.project.read_files.end(),
                                                        path) != run_.project.read_files.end();
    if (readers.empty() && !description) return;
    Explanation e{"file", "file " + (path.empty() ? subject_ : shown(path)), {}, {}};
    if (description) e.lines.emplace_back("part of the description: when it changes, the description is read again");
    if (!readers.empty()) e.lines.push_back("read by " + text::count(readers.size(), "step") + ":");
    for (std::size_t i = 0; i < readers.size() && i < 40; ++i) e.lines.push_back("  " + readers[i]);
    if (readers.size() > 40) e.lines.push_back("  and " + std::to_string(readers.size() - 40) + " more");
    out_.push_back(std::move(e));
  }

  void checks() {
    for (const auto& c : record_.value("checks", json::array())) {
      if (c.value("name", "") != subject_) continue;
      out_.push_back({"check",
                      "check " + subject_ + " " + c.value("verdict", "") + " in run " +
                          std::to_string(record_.value("run", 0)) + ": " + c.value("reason", ""),
                      {"command: " + c.value("command", ""), "it took " + text::duration(c.value("seconds", 0.0))},
                      c.value("output", "")});
      auto found = found_out(c);
      out_.back().lines.insert(out_.back().lines.begin(), found.begin(), found.end());
    }
  }

  // What was found out about a check that failed, and what to know of one that passed.
  static std::vector<std::string> found_out(const json& c) {
    std::vector<std::string> out;
    for (const auto& [key, word] : {std::pair{"cause", "cause: "}, {"remedy", "fix: "}}) {
      if (const std::string said = c.value(key, ""); !said.empty()) out.push_back(word + said);
    }
    for (const auto& line : c.value("evidence", json::array())) {
      if (line.is_string()) out.push_back("  " + line.get<std::string>());
    }
    for (const auto& n : c.value("numbers", json::array())) {
      if (!n.is_object()) continue;
      std::string line = n.value("name", "") + ": " + n.value("value", "");
      for (const auto& [key, word] : {std::pair{"recorded", ", recorded "}, {"before", ", last time "}}) {
        if (n.contains(key) && n[key].is_string()) line += word + n[key].get<std::string>();
      }
      out.push_back(std::move(line));
    }
    return out;
  }

  // The end of a long text: no more than fits on a screen.
  static std::string end_of(const std::string& text) {
    const auto lines = text::split(text, '\n');
    constexpr std::size_t most = 30;
    if (lines.size() <= most) return text;
    std::string out = "[" + std::to_string(lines.size() - most) + " lines before]\n";
    for (std::size_t i = lines.size() - most; i < lines.size(); ++i) out += lines[i] + "\n";
    return out;
  }

  // ---- the last failure --------------------------------------------------------------------------------------------
  void failure() {
    const std::string number = std::to_string(record_.value("run", 0));
    if (record_.empty()) return;
    if (!record_.contains("problem") || !record_["problem"].is_object()) {
      out_.push_back({"failure", "run " + number + " did not fail", {}, {}});
      return;
    }
    const auto& problem = record_["problem"];
    Explanation e{"failure", "run " + number + ": " + problem.value("what", ""), {}, {}};
    for (const auto& [key, word] : {std::pair{"cause", "cause: "}, {"remedy", "fix: "}}) {
      if (const std::string said = problem.value(key, ""); !said.empty()) e.lines.push_back(word + said);
    }
    if (record_.contains("build") && record_["build"].is_object()) {
      for (const auto& r : record_["build"].value("steps", json::array())) {
        if (r.value("state", "") != "failed") continue;
        e.lines.push_back(r.value("kind", "") + " " + r.value("subject", "") + ": " + r.value("end", ""));
        e.lines.push_back("command: " + r.value("command", ""));
        if (e.text.empty()) e.text = r.value("output", "");
      }
    }
    for (const auto& c : record_.value("checks", json::array())) {
      if (c.value("verdict", "") != "failed") continue;
      e.lines.push_back("check " + c.value("name", "") + ": " + c.value("reason", ""));
      for (auto& line : found_out(c)) e.lines.push_back("  " + line);
      if (const std::string command = c.value("command", ""); !command.empty())
        e.lines.push_back("  command: " + command);
      if (e.text.empty()) e.text = end_of(c.value("output", ""));
    }
    out_.push_back(std::move(e));
  }

  // ---- symbols -----------------------------------------------------------------------------------------------------
  void symbol() {
    std::vector<std::string> lines;
    for (const auto& t : run_.plan.targets) {
      if (t.output.empty() || !files::is_file(t.output)) continue;
      const auto use = symbol_use(t.output, subject_);
      if (use.defined) lines.push_back("defined in " + t.name + " (" + shown(t.output) + ")");
      if (use.wanted) lines.push_back("used by " + t.name + " (" + shown(t.output) + ")");
    }
    for (const auto& f : run_.findings) {
      for (const auto& item : f.usage.link_items) {
        if (item.starts_with('/') && files::is_file(item) && symbol_use(item, subject_).defined)
          lines.push_back("defined in " + f.requirement.name + " (" + item + ")");
      }
    }
    if (!lines.empty()) out_.push_back({"symbol", "symbol " + subject_, std::move(lines), {}});
  }

  const model::Run& run_;
  const std::string subject_;
  const std::string here_;
  json record_;
  const FoundInputs found_;
  std::vector<Explanation> out_;
};

}  // namespace

std::vector<Explanation> explain(const model::Run& run, const std::string& subject, const std::string& here,
                                 const std::string& record) {
  return Explainer(run, subject, here, record).all();
}

std::string explanations_json(const model::Run& run, const std::string& subject,
                              const std::vector<Explanation>& explanations) {
  nlohmann::ordered_json out = {{"schema", 2}, {"tree", run.tree}, {"subject", subject}};
  out["explanations"] = nlohmann::ordered_json::array();
  for (const auto& e : explanations)
    out["explanations"].push_back({{"kind", e.kind}, {"headline", e.headline}, {"lines", e.lines}, {"text", e.text}});
  return out.dump(2, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

std::string nearest_subject(const model::Run& run, const std::string& subject) {
  std::string nearest;
  std::size_t best = subject.size() / 3 + 2;
  const auto consider = [&](const std::string& name) {
    const auto distance = text::edit_distance(name, subject);
    if (distance < best) {
      best = distance;
      nearest = name;
    }
  };
  for (const auto& q : run.questions) consider(q.name);
  for (const auto& f : run.findings) consider(f.requirement.name);
  for (const auto& o : run.project.options) consider(o.name);
  for (const auto& t : run.plan.targets) consider(t.name);
  for (const auto& s : run.plan.steps) consider(s.subject);
  for (const auto& name : known_details(run)) consider(name);
  return nearest;
}

std::string questions_log(const model::Run& run) {
  std::string out;
  for (const auto& q : run.questions) {
    out += fmt::format("[{}] {} = '{}', {}{}{}\n", q.end, q.name, text::printable_line(q.value), q.required_by,
                       at(q.place), q.kept ? ", kept" : "");
    out += "  " + text::printable_line(q.command) + "\n";
    for (const auto& line : text::split(text::trim(q.source), '\n')) out += "  | " + text::printable_line(line) + "\n";
    if (const auto said = text::trim(q.output); !said.empty()) out += text::printable(said) + "\n";
  }
  return out;
}

}  // namespace coctilis::report
