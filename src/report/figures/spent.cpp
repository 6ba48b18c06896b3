// Where the time went: by stage, by target, by source, by header.
#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "base/text.h"
#include "report/figures/figures.h"

namespace coctilis::report {

namespace {

constexpr std::size_t most_bars = 15;

Ink ink_of_kind(const std::string& kind) {
  if (kind == "compile") return Ink::first;
  return kind == "link" || kind == "archive" ? Ink::second : Ink::third;
}

struct Sum {
  std::map<Ink, double> parts;
  std::size_t steps = 0;
  [[nodiscard]] double all() const {
    double out = 0;
    for (const auto& part : parts) out += part.second;
    return out;
  }
};

// The bars of the largest sums, the data of all, and how much of all the first takes.
std::optional<Figure> figure_of(const std::map<std::string, Sum>& sums, Figure out, const std::string& what) {
  // One bar says no more than its name.
  if (sums.size() < 2) return std::nullopt;
  std::vector<std::pair<std::string, Sum>> order(sums.begin(), sums.end());
  std::stable_sort(order.begin(), order.end(),
                   [](const auto& a, const auto& b) { return a.second.all() > b.second.all(); });
  double all = 0;
  for (const auto& one : order) all += one.second.all();
  if (all <= 0) return std::nullopt;
  out.data = what + ",seconds,steps\n";
  for (const auto& [name, sum] : order) out.data += fmt::format("{},{:.4f},{}\n", csv(name), sum.all(), sum.steps);
  std::vector<NamedBar> bars;
  double shown = 0;
  for (const auto& [name, sum] : order) {
    if (bars.size() == most_bars) break;
    shown += sum.all();
    bars.push_back({name,
                    {sum.parts.begin(), sum.parts.end()},
                    fmt::format("{}, {:.0f} %", text::duration(sum.all()), 100 * sum.all() / all)});
  }
  if (order.size() > bars.size() && all - shown > 0)
    bars.push_back({text::count(order.size() - most_bars, "other"),
                    {{Ink::line, all - shown}},
                    fmt::format("{}, {:.0f} %", text::duration(all - shown), 100 * (all - shown) / all)});
  out.sentence = fmt::format("{} takes {:.0f} % of the {} that all steps took together", order.front().first,
                             100 * order.front().second.all() / all, text::duration(all));
  double sum = 0;
  std::size_t half = 0;
  while (half < order.size() && sum < all / 2) sum += order[half++].second.all();
  if (half > 1) out.sentence += fmt::format("; {} of {} {}s take half of it", half, order.size(), what);
  out.sentence += ".";
  out.drawing = bars_drawing(bars, "seconds of all steps, side by side or not");
  out.drawing.height += 18;
  write_legend(out.drawing, 12, out.drawing.height - 6,
               {{Ink::first, "compile"}, {Ink::second, "link, archive"}, {Ink::third, "generate, run"}});
  return out;
}

}  // namespace

std::optional<Figure> spent_by_target_figure(const Material& material) {
  std::map<std::string, Sum> sums;
  for (const auto& bar : material.run.bars) {
    auto& sum = sums[bar.target.empty() ? "of no target" : bar.target];
    sum.parts[ink_of_kind(bar.kind)] += bar.seconds;
    ++sum.steps;
  }
  return figure_of(sums, {"time-by-target", "Where the time of the build goes, by target", {}, {}, {}}, "target");
}

std::optional<Figure> spent_by_source_figure(const Material& material) {
  std::map<std::string, Sum> sums;
  for (const auto& bar : material.run.bars) {
    if (bar.kind != "compile") continue;
    auto& sum = sums[bar.subject];
    sum.parts[Ink::first] += bar.seconds;
    ++sum.steps;
  }
  return figure_of(sums, {"time-by-source", "Where the time of compilations goes, by source", {}, {}, {}}, "source");
}

std::optional<Figure> spent_by_header_figure(const Material& material) {
  const auto& headers = material.run.headers;
  double compiling = 0;
  for (const auto& bar : material.run.bars) compiling += bar.kind == "compile" ? bar.seconds : 0;
  if (headers.size() < 2 || compiling <= 0) return std::nullopt;
  Figure out{"time-by-header", "What headers cost, over all that include them", {}, {}, {}};
  out.data = "header,seconds,sources,sources whose compiler told\n";
  std::vector<NamedBar> bars;
  bool told = false;
  bool shared_out = false;
  for (const auto& one : headers) {
    out.data += fmt::format("{},{:.4f},{:g},{:g}\n", csv(one.path), one.seconds, one.sources, one.told);
    if (bars.size() == most_bars) continue;
    const bool all_told = one.told >= one.sources;
    told = told || one.told > 0;
    shared_out = shared_out || !all_told;
    bars.push_back({one.path,
                    {{all_told ? Ink::first : Ink::second, one.seconds}},
                    fmt::format("{} in {}", text::duration(one.seconds),
                                text::count(static_cast<std::size_t>(one.sources), "source"))});
  }
  const auto& first = headers.front();
  out.sentence =
      fmt::format("{} costs {} in {}, {:.0f} % of the {} that all compilations took together{}.", first.path,
                  text::duration(first.seconds), text::count(static_cast<std::size_t>(first.sources), "source"),
                  100 * first.seconds / compiling, text::duration(compiling),
                  told ? "" : ", if time goes as the bytes that are read");
  out.drawing = bars_drawing(bars, "seconds of all compilations, without what the header includes");
  out.drawing.height += 18;
  std::vector<std::pair<Ink, std::string>> legend;
  if (told) legend.emplace_back(Ink::first, "told by the compiler");
  if (shared_out) legend.emplace_back(Ink::second, "a compilation's time shared out by the bytes that it read");
  write_legend(out.drawing, 12, out.drawing.height - 6, legend);
  return out;
}

std::optional<Figure> spent_by_stage_figure(const Material& material) {
  // Members have stages of their own, side by side; see members.cpp.
  if (!material.run.members.empty()) return std::nullopt;
  const auto& run = material.run;
  if (run.seconds <= 0 || run.stages.empty()) return std::nullopt;
  auto stages = run.stages;
  double rest = run.seconds;
  for (const auto& stage : stages) rest -= stage.second;
  if (rest > 0.005 * run.seconds) stages.emplace_back("opening, settings, record", rest);
  Figure out{"time-by-stage", "Where the time of the run goes, by stage", {}, {}, "stage,seconds\n"};
  std::vector<NamedBar> bars;
  const std::pair<std::string, double>* longest = &stages.front();
  for (const auto& stage : stages) {
    bars.push_back({stage.first,
                    {{Ink::first, stage.second}},
                    fmt::format("{}, {:.0f} %", text::duration(stage.second), 100 * stage.second / run.seconds)});
    out.data += fmt::format("{},{:.4f}\n", csv(stage.first), stage.second);
    if (stage.second > longest->second) longest = &stage;
  }
  out.sentence = fmt::format("Of {} the most goes to {}: {}.", text::duration(run.seconds), longest->first,
                             text::duration(longest->second));
  out.drawing = bars_drawing(bars, "seconds by the clock");
  return out;
}

namespace {

std::optional<Figure> lines_figure(const std::vector<Course::Language>& counts, Figure out, const std::string& what,
                                   const char* are) {
  double all = 0;
  for (const auto& one : counts) all += one.code;
  if (all <= 0) return std::nullopt;
  out.data = what + ",files,code,comment,blank\n";
  std::vector<NamedBar> bars;
  for (const auto& one : counts) {
    out.data += fmt::format("{},{:g},{:g},{:g},{:g}\n", csv(one.language), one.files, one.code, one.comment, one.blank);
    if (bars.size() < most_bars)
      bars.push_back({one.language,
                      {{Ink::first, one.code}, {Ink::second, one.comment}, {Ink::line, one.blank}},
                      text::grouped(static_cast<std::uint64_t>(one.code)) + " of code in " +
                          text::count(static_cast<std::size_t>(one.files), "file")});
  }
  out.sentence = fmt::format("{} lines of code, {:.0f} % of them {}{}.", text::grouped(static_cast<std::uint64_t>(all)),
                             100 * counts.front().code / all, are, counts.front().language);
  out.drawing = bars_drawing(bars, "lines");
  out.drawing.height += 18;
  write_legend(out.drawing, 12, out.drawing.height - 6,
               {{Ink::first, "code"}, {Ink::second, "comment"}, {Ink::line, "blank"}});
  return out;
}

}  // namespace

std::optional<Figure> languages_figure(const Material& material) {
  return lines_figure(material.run.languages, {"languages", "What the tree is written in", {}, {}, {}}, "language", "");
}

std::optional<Figure> folders_figure(const Material& material) {
  // Of a tree with all of its sources in one place there is nothing to see.
  if (material.run.folders.size() < 2) return std::nullopt;
  return lines_figure(material.run.folders, {"folders", "Where the code lies", {}, {}, {}}, "folder", "in ");
}

}  // namespace coctilis::report
