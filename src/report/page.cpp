// The report as one HTML page without scripts or anything from outside.
#include <fmt/format.h>

#include "base/files.h"
#include "base/text.h"
#include "base/version.h"
#include "engine/diagnostics.h"
#include "report/drift_figure.h"
#include "report/report.h"
#include "report/sentences.h"

namespace coctilis::report {

namespace {

constexpr const char* style = R"(
:root { --ink: #2b2622; --soft: #6f655c; --paper: #faf7f2; --line: #ddd3c6; --brick: #9c4221; --good: #3f6b3a; --bad: #a32015; --card: #fffdf9; }
* { box-sizing: border-box; }
body { margin: 0; font: 15px/1.5 "DejaVu Sans", "Liberation Sans", sans-serif; color: var(--ink); background: var(--paper); }
main { max-width: 1120px; margin: 0 auto; padding: 24px 28px 60px; }
h1 { font-size: 24px; margin: 0 0 2px; } h2 { font-size: 17px; margin: 34px 0 8px; border-bottom: 2px solid var(--brick); padding-bottom: 4px; }
.sub { color: var(--soft); margin: 0 0 18px; overflow-wrap: anywhere; }
.verdict { display: inline-block; padding: 2px 12px; border-radius: 3px; color: #fff; font-weight: bold; margin-right: 10px; }
.good { background: var(--good); } .bad { background: var(--bad); }
dl.stages { display: grid; grid-template-columns: 90px 1fr; gap: 4px 14px; background: var(--card); border: 1px solid var(--line); padding: 14px 18px; margin: 14px 0; }
dl.stages dt { color: var(--brick); font-weight: bold; } dl.stages dd { margin: 0; overflow-wrap: anywhere; }
table { border-collapse: collapse; width: 100%; background: var(--card); border: 1px solid var(--line); }
th, td { text-align: left; padding: 5px 10px; border-bottom: 1px solid var(--line); vertical-align: top; overflow-wrap: break-word; max-width: 620px; } td code { overflow-wrap: anywhere; } td svg { vertical-align: middle; } .w { white-space: nowrap; }
th { color: var(--soft); font-weight: normal; font-size: 13px; } td.n, th.n { text-align: right; white-space: nowrap; }
code, pre { font: 13px/1.45 "DejaVu Sans Mono", "Liberation Mono", monospace; } pre { background: #f1ebe1; border: 1px solid var(--line); padding: 10px 12px; overflow-x: auto; white-space: pre-wrap; }
.yes { color: var(--good); font-weight: bold; } .no { color: var(--bad); font-weight: bold; } .dim { color: var(--soft); }
.drifts { display: flex; flex-wrap: wrap; gap: 12px; } .drift { margin: 12px 0 6px; max-width: 340px; }
.drift figcaption { color: var(--soft); font-size: 90%; } .drift .line { stroke: var(--good); }
.drift .now { fill: var(--good); } .drift .off { fill: var(--bad); }
.bar { display: block; height: 11px; background: var(--brick); border-radius: 2px; min-width: 2px; }
)";

std::string row(const std::vector<std::string>& cells, const char* tag = "td") {
  std::string out = "<tr>";
  for (const auto& cell : cells) out += std::string("<") + tag + ">" + cell + "</" + tag + ">";
  return out + "</tr>\n";
}

std::string code(const std::string& text) { return "<code>" + text::html(text) + "</code>"; }

std::string problem_part(const model::Run& run) {
  if (!run.problem) return {};
  const auto& p = *run.problem;
  std::string out = "<h2>Why it stopped</h2>\n<p><b>" +
                    text::html((p.place.file.empty() ? "" : p.place.text() + ": ") + p.what) + "</b></p>\n";
  if (!p.cause.empty()) out += "<p>" + text::html(p.cause) + "</p>\n";
  if (!p.remedy.empty()) out += "<p>Fix: " + text::html(p.remedy) + "</p>\n";
  for (const auto& step : p.trail) out += "<p class=\"dim\">" + text::html(step) + "</p>\n";
  for (const auto index : run.outcome.failures) {
    const auto& step = run.plan.steps[index];
    const auto& result = run.outcome.steps[index];
    out += "<p>" + std::string(model::name_of(step.kind)) + " " + code(step.subject) + ": " + text::html(result.end) +
           "</p>\n<pre>" + text::html(engine::first_error(text::printable(result.output))) + "</pre>\n";
    out += "<p class=\"dim\">The command:</p><pre>" + text::html(result.command) + "</pre>\n";
  }
  return out;
}

// The names of a member's programs and libraries, and how much it has installed.
std::string gave(const model::Run& member) {
  std::vector<std::string> names;
  for (const auto& target : member.plan.targets) {
    if (member.problem || target.output.empty()) continue;
    const std::string name = text::html(std::filesystem::path(target.output).filename().string());
    if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
  }
  if (names.size() > 5) names = {names[0], names[1], names[2], names[3], std::to_string(names.size() - 4) + " more"};
  std::string out = text::join(names, ", ");
  if (!member.staged.files.empty())
    out += (out.empty() ? "" : "; ") + text::count(member.staged.files.size(), "file") + " installed";
  return out;
}

std::string members_section(const model::Run& run) {
  std::string out =
      "<h2>Members</h2>\n<table>" +
      row({"member", "description", "steps", "checks", "what became of it", "what it gave", "took"}, "th");
  for (const auto& member : run.members) {
    const auto* followed = member.survey.followed();
    const std::string record = "members/" + std::filesystem::path(member.options.kiln).filename().string() + "/" +
                               member.label + "/runs/" + std::to_string(member.number) + "/report.html";
    out += row({member.number > 0
                    ? "<a href=\"../../" + text::html(record) + "\">" + text::html(member.member_name) + "</a>"
                    : text::html(member.member_name),
                followed == nullptr ? "" : text::html(followed->path), std::to_string(member.count_steps()),
                std::to_string(member.checks.size()),
                member.problem   ? text::html((member.not_begun ? "not built: " : "") + member.problem->what)
                : member.checked ? "passed"
                                 : "built",
                gave(member), member.not_begun ? "" : text::duration(member.seconds)});
  }
  return out + "</table>\n";
}

std::string survey_section(const model::Survey& s) {
  std::string out = "<h2>Survey</h2>\n<table>" + row({"language", "files", "code", "comment", "blank"}, "th");
  for (const auto& l : s.languages)
    out += row({text::html(l.language), text::grouped(l.files), text::grouped(l.code), text::grouped(l.comment),
                text::grouped(l.blank)});
  out += "</table>\n<p>Descriptions: ";
  for (const auto& d : s.descriptions)
    out += code(d.path) + " (" + text::html(d.followed ? "followed: " + d.reason : d.reason) + ") ";
  out += "</p>\n";
  for (const auto& h : s.hazards)
    out +=
        "<p class=\"no\">" + text::html(h.kind + ": " + h.path + (h.detail.empty() ? "" : ", " + h.detail)) + "</p>\n";
  return out;
}

std::string requirements_part(const model::Run& run) {
  std::string out =
      "<h2>Requirements and findings</h2>\n<table>" + row({"", "what", "version", "where, how", "required by"}, "th");
  for (const auto& f : run.findings) {
    std::string where =
        f.found ? (f.where.empty() ? "" : code(f.where) + " ") + "<span class=\"dim\">" + text::html(f.how) + "</span>"
                : (f.reason.empty() ? "looked in " + text::count(f.looked.size(), "place") : text::html(f.reason)) +
                      (f.package.empty() ? "" : "; package <code>" + text::html(f.package) + "</code>");
    out +=
        row({f.found                  ? "<span class=\"yes\">found</span>"
             : f.requirement.required ? "<span class=\"no\">missing</span>"
                                      : "<span class=\"dim\">absent</span>",
             text::html(f.requirement.name) + " <span class=\"dim\">" + model::name_of(f.requirement.kind) + "</span>",
             text::html(f.version), where,
             text::html(f.requirement.required_by) +
                 (f.requirement.place.file.empty() ? "" : " " + code(f.requirement.place.text()))});
  }
  return out + "</table>\n";
}

std::string targets_part(const model::Run& run) {
  if (run.plan.targets.empty()) return {};
  std::string out = "<h2>Targets</h2>\n<table>" + row({"target", "kind", "sources", "include folders", "links"}, "th");
  for (const auto& t : run.plan.targets) {
    std::vector<std::string> folders;
    for (const auto& f : t.include_folders) folders.push_back(code(files::below(files::below(f, run.kiln), run.tree)));
    for (const auto& f : t.system_include_folders) folders.push_back(code(f) + " <span class=\"dim\">system</span>");
    std::vector<std::string> links;
    for (const auto& l : t.link_items) links.push_back(code(files::below(files::below(l, run.plan.work), run.kiln)));
    out += row({"<b>" + text::html(t.name) + "</b>" + (t.in_default ? "" : " <span class=\"dim\">on demand</span>"),
                model::name_of(t.kind), std::to_string(t.sources), text::join(folders, "<br>"),
                text::join(links, "<br>")});
  }
  return out + "</table>\n";
}

std::string build_part(const model::Run& run) {
  if (!run.built) return {};
  std::string out = "<h2>Build</h2>\n<p>" + text::html(build_sentence(run)) + "</p>\n";
  for (const auto& line : finish_sentences(run)) out += "<p>finish " + text::html(line) + "</p>\n";
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < run.outcome.steps.size(); ++i) {
    if (run.outcome.steps[i].seconds > 0) order.push_back(i);
  }
  std::stable_sort(order.begin(), order.end(),
                   [&](auto a, auto b) { return run.outcome.steps[a].seconds > run.outcome.steps[b].seconds; });
  if (!order.empty()) {
    const double longest = run.outcome.steps[order.front()].seconds;
    out += "<p class=\"dim\">The steps that took longest:</p>\n<table>" + row({"step", "took", "", "why it ran"}, "th");
    for (std::size_t k = 0; k < order.size() && k < 12; ++k) {
      const auto& r = run.outcome.steps[order[k]];
      const auto& s = run.plan.steps[order[k]];
      out += row({std::string(model::name_of(s.kind)) + " " + code(s.subject), text::duration(r.seconds),
                  fmt::format("<span class=\"bar\" style=\"width:{:.0f}px\"></span>", 220 * r.seconds / longest),
                  text::html(r.reason)});
    }
    out += "</table>\n";
  }
  if (!run.outcome.warnings.empty()) {
    out += "<h2>Warnings</h2>\n<table>" + row({"option", "how many", "first at"}, "th");
    for (const auto& [option, count] : grouped_warnings(run.outcome)) {
      std::string first;
      for (const auto& w : run.outcome.warnings) {
        if ((w.option.empty() ? "without an option" : w.option) == option) {
          first =
              code(files::below(files::below(w.place.file, run.kiln), run.tree) + ":" + std::to_string(w.place.line)) +
              " " + text::html(w.message);
          break;
        }
      }
      out += row({code(option), text::grouped(count), first});
    }
    out += "</table>\n";
  }
  return out;
}

std::string numbers_table(const model::Check& check) {
  if (check.numbers.empty()) return {};
  std::string out = "<p>The numbers of '" + text::html(check.name) + "':</p>\n<table>" +
                    row({"", "number", "now", "recorded", "last good run"}, "th");
  for (const auto& n : check.numbers)
    out += row({n.agrees ? "<span class=\"yes\">agrees</span>" : "<span class=\"no\">differs</span>",
                text::html(n.name), code(n.text), code(n.recorded), code(n.before)});
  out += "</table>\n<div class=\"drifts\">\n";
  for (const auto& n : check.numbers) out += drift_figure(n);
  return out + "</div>\n";
}

std::string checks_part(const model::Run& run) {
  if (run.checks.empty()) return {};
  std::string out = "<h2>Checks</h2>\n<table>" + row({"", "check", "kind", "reason", "took"}, "th");
  for (const auto& c : run.checks) {
    const char* css = c.verdict == model::Verdict::passed ? "yes" : c.verdict == model::Verdict::failed ? "no" : "dim";
    out += row({std::string("<span class=\"") + css + "\">" + model::name_of(c.verdict) + "</span>", text::html(c.name),
                model::name_of(c.kind), text::html(c.reason),
                "<span class=\"w\">" + text::duration(c.seconds) + "</span>"});
  }
  out += "</table>\n";
  for (const auto& c : run.checks) {
    if (c.verdict == model::Verdict::failed) {
      for (const auto& [word, text] : {std::pair{"cause", c.cause}, {"fix", c.remedy}}) {
        if (!text.empty()) out += "<p><b>" + text::html(c.name) + "</b>, " + word + ": " + text::html(text) + "</p>\n";
      }
      if (!c.evidence.empty()) out += "<pre>" + text::html(text::join(c.evidence, "\n")) + "</pre>\n";
      if (!c.output.empty())
        out += "<p>What '" + text::html(c.name) + "' printed:</p><pre>" + text::html(c.output.substr(0, 20000)) +
               "</pre>\n";
    }
    if (!c.error_lines.empty())
      out += "<p>'" + text::html(c.name) +
             (c.kind == model::CheckKind::library ? "' passed, but:</p><pre>"
                                                  : "' passed; lines of its output look like errors:</p><pre>") +
             text::html(text::join(c.error_lines, "\n")) + "</pre>\n";
    out += numbers_table(c);
    if (!c.picture.empty())
      out += "<p>The window of '" + text::html(c.name) +
             "':</p><p><img alt=\"its window\" src=\"data:image/png;base64," + text::base64(c.picture) + "\"></p>\n";
  }
  return out;
}

}  // namespace

std::string page(const model::Run& run) {
  const bool good = run.exit_code() == 0;
  const std::string name = run.project.name.empty()
                               ? std::filesystem::path(run.tree).filename().string()
                               : run.project.name + (run.project.version.empty() ? "" : " " + run.project.version);
  std::string out =
      "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" "
      "content=\"width=device-width\"><title>" +
      text::html(name) + ", run " + std::to_string(run.number) + "</title><style>" + style +
      "</style></head><body><main>\n";
  out += "<h1>" + text::html(name) + "</h1>\n<p class=\"sub\">" + text::html(run.tree) + ", " + text::html(run.label) +
         ", run " + std::to_string(run.number) + ", " + text::html(run.started) + "</p>\n";
  out += std::string("<p><span class=\"verdict ") + (good ? "good\">passed" : "bad\">failed") + "</span>" +
         text::html("exit code " + std::to_string(run.exit_code()) + ", " + text::duration(run.seconds)) +
         "</p>\n<dl class=\"stages\">\n";
  const auto stage = [&](const char* title, const std::string& text) {
    out += std::string("<dt>") + title + "</dt><dd>" + text::html(text) + "</dd>\n";
  };
  stage("survey", survey_sentence(run.survey));
  if (!run.toolchain.name.empty()) stage("locate", locate_sentence(run));
  if (run.reached >= model::Stage::plan || !run.plan.steps.empty()) stage("plan", plan_sentence(run));
  if (run.built && run.members.empty()) stage("build", build_sentence(run));
  if (run.checked) stage("smoke", smoke_sentence(run));
  out += "</dl>\n" + problem_part(run) + checks_part(run) + targets_part(run) + requirements_part(run) +
         (run.members.empty() ? build_part(run) : members_section(run)) + survey_section(run.survey);
  for (const auto& note : run.plan.notes) out += "<p class=\"dim\">" + text::html(note) + "</p>\n";
  out += "<p class=\"dim\">Written by Coctilis " + std::string(version) + ".</p>\n</main></body></html>\n";
  return out;
}

}  // namespace coctilis::report
