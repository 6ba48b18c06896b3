// The report as one HTML page: nothing from outside, and a few lines of script that sort, filter and fold.
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
:root { --ink: #2b2622; --soft: #6f655c; --paper: #faf7f2; --line: #ddd3c6; --brick: #9c4221; --good: #3f6b3a; --bad: #a32015; --card: #fffdf9; --shade: #f1ebe1;
  --first: #cc7855; --second: #9499ad; --third: #e0bd7a; color-scheme: light dark; }
@media (prefers-color-scheme: dark) { :root { --ink: #e9e2d8; --soft: #a99d8f; --paper: #1d1a17; --line: #453d35; --brick: #e08a63; --good: #8fc489; --bad: #f08a7c; --card: #25211d; --shade: #2e2924;
  --first: #a85a38; --second: #5d6378; --third: #8a6d33; } }
* { box-sizing: border-box; }
body { margin: 0; font: 15px/1.5 "DejaVu Sans", "Liberation Sans", sans-serif; color: var(--ink); background: var(--paper); }
main { max-width: 1180px; margin: 0 auto; padding: 24px 28px 60px; }
h1 { font-size: 24px; margin: 0 0 2px; } h2 { font-size: 17px; margin: 0; display: inline; }
a { color: var(--brick); }
details { margin: 26px 0 0; } summary { border-bottom: 2px solid var(--brick); padding: 4px 0; margin-bottom: 8px; cursor: pointer; }
summary .dim { margin-left: 10px; font-size: 13px; }
nav { margin: 14px 0 0; font-size: 13px; display: flex; flex-wrap: wrap; gap: 4px 14px; }
.sub { color: var(--soft); margin: 0 0 18px; overflow-wrap: anywhere; }
.verdict { display: inline-block; padding: 2px 12px; border-radius: 3px; color: #fff; font-weight: bold; margin-right: 10px; }
.good { background: #3f6b3a; } .bad { background: #a32015; }
dl.stages { display: grid; grid-template-columns: 90px 1fr; gap: 4px 14px; background: var(--card); border: 1px solid var(--line); padding: 14px 18px; margin: 14px 0; }
dl.stages dt { color: var(--brick); font-weight: bold; } dl.stages dd { margin: 0; overflow-wrap: anywhere; }
.table { overflow-x: auto; }
table { border-collapse: collapse; width: 100%; background: var(--card); border: 1px solid var(--line); }
th, td { text-align: left; padding: 5px 10px; border-bottom: 1px solid var(--line); vertical-align: top; overflow-wrap: break-word; max-width: 620px; } td code { overflow-wrap: anywhere; } td svg { vertical-align: middle; } .w { white-space: nowrap; }
th { color: var(--soft); font-weight: normal; font-size: 13px; cursor: pointer; user-select: none; } th[data-order="up"]::after { content: " \2191"; } th[data-order="down"]::after { content: " \2193"; }
tr:target { outline: 2px solid var(--brick); }
input.filter { font: inherit; font-size: 13px; padding: 3px 8px; margin: 0 0 8px; width: 260px; max-width: 100%; color: var(--ink); background: var(--card); border: 1px solid var(--line); }
code, pre { font: 13px/1.45 "DejaVu Sans Mono", "Liberation Mono", monospace; } pre { background: var(--shade); border: 1px solid var(--line); padding: 10px 12px; overflow-x: auto; white-space: pre-wrap; overflow-wrap: anywhere; }
.yes { color: var(--good); font-weight: bold; } .no { color: var(--bad); font-weight: bold; } .dim { color: var(--soft); }
.drifts { display: flex; flex-wrap: wrap; gap: 12px; } .drift { margin: 12px 0 6px; max-width: 340px; }
.drift figcaption { color: var(--soft); font-size: 90%; } .drift .line { stroke: var(--good); }
.drift .now { fill: var(--good); } .drift .off { fill: var(--bad); }
figure.drawn { margin: 14px 0 22px; overflow-x: auto; } figure.drawn figcaption { margin: 0 0 8px; max-width: 900px; } figure.drawn svg { max-width: 100%; height: auto; display: block; background: var(--card); border: 1px solid var(--line); }
.ink-text { fill: var(--ink); } .ink-soft { fill: var(--soft); } .ink-line { fill: var(--line); } .ink-first { fill: var(--first); } .ink-second { fill: var(--second); } .ink-third { fill: var(--third); } .ink-good { fill: var(--good); } .ink-bad { fill: var(--bad); }
.hollow { fill: none; stroke-width: 1; } .hollow.ink-text { stroke: var(--ink); } .hollow.ink-soft { stroke: var(--soft); } .hollow.ink-line { stroke: var(--line); } .hollow.ink-first { stroke: var(--first); } .hollow.ink-second { stroke: var(--second); } .hollow.ink-third { stroke: var(--third); } .hollow.ink-bad { stroke: var(--bad); }
img { max-width: 100%; } p, figcaption, summary { overflow-wrap: anywhere; }
@media (max-width: 640px) { main { padding: 14px 12px 40px; } dl.stages { grid-template-columns: 1fr; } dl.stages dd { margin: 0 0 6px; } figure.drawn svg { max-width: none; } }
@media print { :root { --paper: #fff; --card: #fff; --ink: #000; --soft: #444; } details { break-inside: avoid-page; } input.filter, nav { display: none; } body { font-size: 12px; } }
)";

// Tables sort by the column that is clicked on, and show what has the words that are typed.
constexpr const char* script = R"(
const value = (row, i) => { const cell = row.cells[i]; if (!cell) return ""; const v = cell.dataset.v; return v === undefined ? cell.textContent.trim() : v; };
for (const table of document.querySelectorAll("table.sorts")) {
  const rows = () => [...table.tBodies[0].rows];
  [...table.tHead.rows[0].cells].forEach((head, i) => head.addEventListener("click", () => {
    const up = head.dataset.order !== "up";
    for (const other of head.parentNode.cells) delete other.dataset.order;
    head.dataset.order = up ? "up" : "down";
    const all = rows(), numbers = all.every(r => value(r, i) === "" || !isNaN(value(r, i).replaceAll(",", "")));
    const key = r => numbers ? Number(value(r, i).replaceAll(",", "")) : value(r, i).toLowerCase();
    all.sort((a, b) => { const x = key(a), y = key(b); return (x < y ? -1 : x > y ? 1 : 0) * (up ? 1 : -1); });
    table.tBodies[0].append(...all);
  }));
  if (rows().length < 12) continue;
  const filter = document.createElement("input");
  filter.className = "filter"; filter.type = "search"; filter.placeholder = "show rows with ..."; filter.setAttribute("aria-label", "show rows with");
  filter.addEventListener("input", () => { const words = filter.value.toLowerCase().split(/\s+/);
    for (const row of rows()) { const text = row.textContent.toLowerCase(); row.hidden = !words.every(w => text.includes(w)); } });
  table.parentNode.before(filter);
}
const open_target = () => { const at = location.hash && document.getElementById(location.hash.slice(1)); const fold = at && at.closest("details"); if (fold) { fold.open = true; at.scrollIntoView(); } };
addEventListener("hashchange", open_target); open_target();
addEventListener("beforeprint", () => { for (const fold of document.querySelectorAll("details")) fold.open = true; });
)";

std::string row(const std::vector<std::string>& cells, const char* tag = "td", const std::string& id = {}) {
  std::string out = id.empty() ? "<tr>" : "<tr id=\"" + text::html(id) + "\">";
  for (const auto& cell : cells) {
    // What a column is sorted by may be another thing than what it shows.
    if (cell.starts_with("\x01")) {
      const auto end = cell.find('\x01', 1);
      out += std::string("<") + tag + " data-v=\"" + text::html(cell.substr(1, end - 1)) + "\">" +
             cell.substr(end + 1) + "</" + tag + ">";
    } else {
      out += std::string("<") + tag + ">" + cell + "</" + tag + ">";
    }
  }
  return out + "</tr>\n";
}

// A cell that is sorted by that number.
std::string by_number(double number, const std::string& shown) {
  return fmt::format("\x01{:.6f}\x01{}", number, shown);
}

std::string took(double seconds) {
  return by_number(seconds, "<span class=\"w\">" + text::duration(seconds) + "</span>");
}

std::string table(const std::vector<std::string>& heads, const std::string& rows) {
  return "<div class=\"table\"><table class=\"sorts\"><thead>" + row(heads, "th") + "</thead><tbody>\n" + rows +
         "</tbody></table></div>\n";
}

// A part of the page that can be folded. `beside`: what it holds, in a word or two.
std::string part(const char* id, const std::string& title, const std::string& beside, const std::string& content,
                 bool open) {
  if (content.empty()) return {};
  return std::string("<details id=\"") + id + "\"" + (open ? " open" : "") + "><summary><h2>" + text::html(title) +
         "</h2><span class=\"dim\">" + text::html(beside) + "</span></summary>\n" + content + "</details>\n";
}

std::string code(const std::string& text) { return "<code>" + text::html(text) + "</code>"; }

// A name that leads to the row of the target.
std::string target_link(const model::Run& run, const std::string& name) {
  if (run.plan.target(name) == nullptr) return text::html(name);
  return "<a href=\"#target-" + text::html(name) + "\">" + text::html(name) + "</a>";
}

// A place in the tree, as a link from the record's folder to the file, where the kiln lies in the tree.
std::string place_link(const model::Run& run, const std::string& file, int line) {
  const std::string shown = file + (line > 0 ? ":" + std::to_string(line) : "");
  const std::string path = files::absolute(file, run.tree);
  if (!files::is_below(run.kiln, run.tree) || !files::is_below(path, run.tree)) return code(shown);
  std::string up = "../../";
  for (const char letter : files::below(run.kiln, run.tree)) up += letter == '/' ? "../" : "";
  return "<a href=\"" + text::html(up + "../" + files::below(path, run.tree)) + "\">" + code(shown) + "</a>";
}

std::string problem_part(const model::Run& run) {
  if (!run.problem) return {};
  const auto& p = *run.problem;
  std::string out = "<p><b>" + text::html((p.place.file.empty() ? "" : p.place.text() + ": ") + p.what) + "</b></p>\n";
  if (!p.cause.empty()) out += "<p>Cause: " + text::html(p.cause) + "</p>\n";
  if (!p.remedy.empty()) out += "<p>Fix: " + text::html(p.remedy) + "</p>\n";
  for (const auto& step : p.trail) out += "<p class=\"dim\">" + text::html(step) + "</p>\n";
  for (const auto index : run.outcome.failures) {
    const auto& step = run.plan.steps[index];
    const auto& result = run.outcome.steps[index];
    out += "<p>" + std::string(model::name_of(step.kind)) + " " + code(step.subject) +
           (step.target.empty() ? "" : " of " + target_link(run, step.target)) + ": " + text::html(result.end) +
           "</p>\n<pre>" + text::html(engine::first_error(text::printable(result.output))) + "</pre>\n";
    out += "<p class=\"dim\">The command:</p><pre>" + text::html(result.command) + "</pre>\n";
  }
  return part("stopped", "Why it stopped", "", out, true);
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
  std::string rows;
  for (const auto& member : run.members) {
    const auto* followed = member.survey.followed();
    const std::string record = "members/" + std::filesystem::path(member.options.kiln).filename().string() + "/" +
                               member.label + "/runs/" + std::to_string(member.number) + "/report.html";
    rows += row({member.number > 0
                     ? "<a href=\"../../" + text::html(record) + "\">" + text::html(member.as_member.name) + "</a>"
                     : text::html(member.as_member.name),
                 followed == nullptr ? "" : text::html(followed->path), std::to_string(member.count_steps()),
                 std::to_string(member.checks.size()),
                 member.problem   ? text::html((member.as_member.not_begun ? "not built: " : "") + member.problem->what)
                 : member.checked ? "passed"
                                  : "built",
                 gave(member), member.as_member.not_begun ? "" : took(member.seconds)});
  }
  return part("members", "Members", text::count(run.members.size(), "member"),
              table({"member", "description", "steps", "checks", "what became of it", "what it gave", "took"}, rows),
              true);
}

std::string survey_part(const model::Survey& s) {
  std::string rows;
  for (const auto& l : s.languages)
    rows += row({text::html(l.language), text::grouped(l.files), text::grouped(l.code), text::grouped(l.comment),
                 text::grouped(l.blank)});
  std::string out = table({"language", "files", "code", "comment", "blank"}, rows) + "<p>Descriptions: ";
  for (const auto& d : s.descriptions)
    out += code(d.path) + " (" + text::html(d.followed ? "followed: " + d.reason : d.reason) + ") ";
  out += "</p>\n";
  for (const auto& h : s.hazards)
    out +=
        "<p class=\"no\">" + text::html(h.kind + ": " + h.path + (h.detail.empty() ? "" : ", " + h.detail)) + "</p>\n";
  return part("survey", "Survey", text::count(s.files, "file"), out, false);
}

std::string requirements_part(const model::Run& run) {
  std::string rows;
  std::size_t missing = 0;
  for (const auto& f : run.findings) {
    std::string where =
        f.found ? (f.where.empty() ? "" : code(f.where) + " ") + "<span class=\"dim\">" + text::html(f.how) + "</span>"
                : (f.reason.empty() ? "searched " + text::count(f.looked.size(), "place") : text::html(f.reason)) +
                      (f.package.empty() ? "" : "; package <code>" + text::html(f.package) + "</code>");
    missing += !f.found && f.requirement.required ? 1 : 0;
    rows +=
        row({f.found                  ? "<span class=\"yes\">found</span>"
             : f.requirement.required ? "<span class=\"no\">missing</span>"
                                      : "<span class=\"dim\">not found</span>",
             text::html(f.requirement.name) + " <span class=\"dim\">" + model::name_of(f.requirement.kind) + "</span>",
             text::html(f.version), where,
             text::html(f.requirement.required_by) +
                 (f.requirement.place.file.empty()
                      ? ""
                      : " " + place_link(run, f.requirement.place.file, f.requirement.place.line))});
  }
  if (rows.empty()) return {};
  return part("requirements", "Requirements and findings",
              text::count(run.findings.size(), "requirement") +
                  (missing > 0 ? ", " + std::to_string(missing) + " missing" : ""),
              table({"", "what", "version", "where, how", "required by"}, rows),
              missing > 0 || run.findings.size() < 30);
}

std::string targets_part(const model::Run& run) {
  constexpr std::size_t most = 3000;
  std::string rows;
  std::size_t shown = 0;
  for (const auto& t : run.plan.targets) {
    if (++shown > most) break;
    std::vector<std::string> folders;
    for (const auto& f : t.include_folders) folders.push_back(code(files::below(files::below(f, run.kiln), run.tree)));
    for (const auto& f : t.system_include_folders) folders.push_back(code(f) + " <span class=\"dim\">system</span>");
    std::vector<std::string> links;
    for (const auto& l : t.link_items) links.push_back(code(files::below(files::below(l, run.plan.work), run.kiln)));
    rows +=
        row({"<b>" + text::html(t.name) + "</b>" + (t.in_default ? "" : " <span class=\"dim\">on demand</span>"),
             model::name_of(t.kind), std::to_string(t.sources), text::join(folders, "<br>"), text::join(links, "<br>")},
            "td", "target-" + t.name);
  }
  if (rows.empty()) return {};
  return part("targets", "Targets",
              text::count(run.plan.targets.size(), "target") + (shown > most ? ", the first 3,000 here" : ""),
              table({"target", "kind", "sources", "include folders", "links"}, rows), run.plan.targets.size() <= 40);
}

std::string build_part(const model::Run& run) {
  if (!run.built) return {};
  std::string out = "<p>" + text::html(build_sentence(run)) + "</p>\n";
  for (const auto& line : finish_sentences(run)) out += "<p>finish " + text::html(line) + "</p>\n";
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < run.outcome.steps.size(); ++i) {
    if (run.outcome.steps[i].seconds > 0) order.push_back(i);
  }
  std::stable_sort(order.begin(), order.end(),
                   [&](auto a, auto b) { return run.outcome.steps[a].seconds > run.outcome.steps[b].seconds; });
  // The page of a very large build stays one that a browser opens at once; run.json has all of them.
  constexpr std::size_t most = 2000;
  std::string rows;
  for (std::size_t k = 0; k < order.size() && k < most; ++k) {
    const auto& r = run.outcome.steps[order[k]];
    const auto& s = run.plan.steps[order[k]];
    const double share = 160 * r.seconds / run.outcome.steps[order.front()].seconds;
    rows += row({std::string(model::name_of(s.kind)) + " " + code(s.subject),
                 s.target.empty() ? "" : target_link(run, s.target), took(r.seconds),
                 by_number(r.seconds, fmt::format("<span class=\"bar\" style=\"width:{:.0f}px\"></span>", share)),
                 r.state == model::StepState::failed ? "<span class=\"no\">failed</span>" : model::name_of(r.state),
                 text::html(r.reason)},
                "td", "step-" + std::to_string(order[k]));
  }
  if (!rows.empty())
    out += (order.size() > most
                ? "<p class=\"dim\">The 2,000 that took longest of " + text::grouped(order.size()) + ":</p>\n"
                : std::string{}) +
           table({"step", "target", "took", "", "state", "why it ran"}, rows);
  out += "<p class=\"dim\">Every command, with all that it printed: <a href=\"log\">log</a></p>\n";
  return part("steps", "Steps that ran", text::count(run.outcome.ran, "step"), out, order.size() <= 60);
}

std::string warnings_part(const model::Run& run) {
  if (run.outcome.warnings.empty()) return {};
  std::string rows;
  for (const auto& [option, count] : grouped_warnings(run.outcome)) {
    std::string first;
    std::string step;
    for (const auto& w : run.outcome.warnings) {
      if ((w.option.empty() ? "without an option" : w.option) != option) continue;
      first = place_link(run, files::below(files::below(w.place.file, run.kiln), run.tree), w.place.line) + " " +
              text::html(w.message);
      if (w.step < run.plan.steps.size())
        step =
            "<a href=\"#step-" + std::to_string(w.step) + "\">" + text::html(run.plan.steps[w.step].subject) + "</a>";
      break;
    }
    rows += row({code(option), text::grouped(count), first, step});
  }
  return part("warnings", "Warnings by kind", text::count(run.outcome.warnings.size(), "warning"),
              table({"option", "how many", "first at", "in"}, rows), true);
}

std::string numbers_table(const model::Check& check) {
  if (check.numbers.empty()) return {};
  std::string out = "<p>The numbers of '" + text::html(check.name) + "':</p>\n";
  std::string rows;
  for (const auto& n : check.numbers)
    rows += row({n.agrees ? "<span class=\"yes\">agrees</span>" : "<span class=\"no\">differs</span>",
                 text::html(n.name), code(n.text), code(n.recorded), code(n.before)});
  out += table({"", "number", "now", "recorded", "last good run"}, rows) + "<div class=\"drifts\">\n";
  for (const auto& n : check.numbers) out += drift_figure(n);
  return out + "</div>\n";
}

std::string checks_part(const model::Run& run) {
  if (run.checks.empty()) return {};
  std::string rows;
  std::size_t failed = 0;
  for (const auto& c : run.checks) {
    const char* css = c.verdict == model::Verdict::passed ? "yes" : c.verdict == model::Verdict::failed ? "no" : "dim";
    failed += c.verdict == model::Verdict::failed ? 1 : 0;
    rows += row({std::string("<span class=\"") + css + "\">" + model::name_of(c.verdict) + "</span>",
                 text::html(c.name), model::name_of(c.kind), text::html(c.reason), took(c.seconds)});
  }
  std::string out = table({"", "check", "kind", "reason", "took"}, rows);
  std::string more;
  for (const auto& c : run.checks) {
    if (c.verdict == model::Verdict::failed) {
      for (const auto& [word, text] : {std::pair{"cause", c.cause}, {"fix", c.remedy}}) {
        if (!text.empty()) more += "<p><b>" + text::html(c.name) + "</b>, " + word + ": " + text::html(text) + "</p>\n";
      }
      if (!c.evidence.empty()) more += "<pre>" + text::html(text::join(c.evidence, "\n")) + "</pre>\n";
      if (!c.output.empty())
        more += "<p>What '" + text::html(c.name) + "' printed:</p><pre>" + text::html(c.output.substr(0, 20000)) +
                "</pre>\n";
    }
    if (!c.error_lines.empty())
      more += "<p>'" + text::html(c.name) +
              (c.kind == model::CheckKind::library ? "' passed, but:</p><pre>"
                                                   : "' passed; lines of its output look like errors:</p><pre>") +
              text::html(text::join(c.error_lines, "\n")) + "</pre>\n";
    more += numbers_table(c);
    if (!c.picture.empty())
      more += "<p>The window of '" + text::html(c.name) +
              "':</p><p><img alt=\"its window\" src=\"data:image/png;base64," + text::base64(c.picture) + "\"></p>\n";
  }
  // What failed comes before the many that passed.
  out = failed > 0 ? more + out : out + more;
  return part("checks", "Checks",
              text::count(run.checks.size(), "check") + (failed > 0 ? ", " + std::to_string(failed) + " failed" : ""),
              out, true);
}

std::string figures_part(const std::vector<Figure>& figures) {
  std::string out;
  for (const auto& figure : figures) out += as_element(figure);
  return part("figures", "Figures", text::count(figures.size(), "figure"), out, true);
}

}  // namespace

std::string page(const model::Run& run, const std::vector<Figure>& figures) {
  const bool good = run.exit_code() == 0;
  const std::string name = run.project.name.empty()
                               ? std::filesystem::path(run.tree).filename().string()
                               : run.project.name + (run.project.version.empty() ? "" : " " + run.project.version);
  std::string out =
      "<!DOCTYPE html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><meta name=\"viewport\" "
      "content=\"width=device-width, initial-scale=1\"><meta http-equiv=\"Content-Security-Policy\" "
      "content=\"default-src 'none'; "
      "style-src 'unsafe-inline'; script-src 'unsafe-inline'; img-src data:\"><title>" +
      text::html(name) + ", run " + std::to_string(run.number) + "</title><style>" + style +
      "</style></head><body><main>\n";
  out += "<h1>" + text::html(name) + "</h1>\n<p class=\"sub\">" + text::html(run.own_tree()) + ", " +
         text::html(run.label) + ", run " + std::to_string(run.number) + ", " + text::html(run.started) + "</p>\n";
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
  out += "</dl>\n";
  const std::vector<std::pair<const char*, std::string>> parts = {
      {"stopped", problem_part(run)},     {"members", run.members.empty() ? "" : members_section(run)},
      {"checks", checks_part(run)},       {"warnings", warnings_part(run)},
      {"figures", figures_part(figures)}, {"steps", run.members.empty() ? build_part(run) : ""},
      {"targets", targets_part(run)},     {"requirements", requirements_part(run)},
      {"survey", survey_part(run.survey)}};
  out += "<nav>";
  for (const auto& [id, content] : parts) {
    if (!content.empty()) out += std::string("<a href=\"#") + id + "\">" + id + "</a>";
  }
  out += "<a href=\"log\">log</a><a href=\"run.json\">record</a></nav>\n";
  for (const auto& one : parts) out += one.second;
  for (const auto& note : run.plan.notes) out += "<p class=\"dim\">" + text::html(note) + "</p>\n";
  out += "<p class=\"dim\">Written by Coctilis " + std::string(version) + ".</p>\n</main><script>" + script +
         "</script></body></html>\n";
  return out;
}

}  // namespace coctilis::report
