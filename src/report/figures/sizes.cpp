// How large programs and libraries are, by what is in them, and how that was after the last good run.
#include <fmt/format.h>

#include <algorithm>

#include "base/text.h"
#include "report/figures/figures.h"

namespace coctilis::report {

std::optional<Figure> sizes_figure(const Material& material) {
  auto results = material.run.results;
  if (results.empty()) return std::nullopt;
  const Course* good = nullptr;
  for (const auto& run : material.before) {
    if (run.good && !run.results.empty()) good = &run;
  }
  const auto before = [&](const std::string& path) -> std::optional<double> {
    if (good == nullptr) return std::nullopt;
    const auto it =
        std::find_if(good->results.begin(), good->results.end(), [&](const auto& r) { return r.path == path; });
    if (it == good->results.end()) return std::nullopt;
    return it->in_file();
  };
  std::stable_sort(results.begin(), results.end(),
                   [](const auto& a, const auto& b) { return a.in_file() > b.in_file(); });
  Figure out{"sizes",
             "How large the results are",
             {},
             {},
             "result,code_bytes,data_bytes,room_bytes,debug_bytes,rest_bytes,bytes_before\n"};
  std::vector<NamedBar> bars;
  double all = 0;
  double all_before = 0;
  bool compared = false;
  for (const auto& r : results) {
    const auto old = before(r.path);
    all += r.in_file();
    all_before += old.value_or(0);
    compared = compared || old.has_value();
    out.data += fmt::format("{},{:.0f},{:.0f},{:.0f},{:.0f},{:.0f},{}\n", csv(r.path), r.code, r.data, r.room, r.debug,
                            r.rest, old ? fmt::format("{:.0f}", *old) : "");
    if (bars.size() == 20) continue;
    std::string shown = text::size(static_cast<std::uint64_t>(r.in_file()));
    if (old && *old != r.in_file()) shown += fmt::format(" ({:+.0f} bytes)", r.in_file() - *old);
    bars.push_back({r.path,
                    {{Ink::first, r.code / 1000},
                     {Ink::third, r.data / 1000},
                     {Ink::second, r.debug / 1000},
                     {Ink::line, r.rest / 1000}},
                    shown});
  }
  out.sentence = fmt::format("{} {} {} together; the largest is {}", text::count(results.size(), "result"),
                             results.size() == 1 ? "takes" : "take", text::size(static_cast<std::uint64_t>(all)),
                             results.front().path);
  out.sentence += !compared           ? "."
                  : all == all_before ? "; as after the last good run."
                                      : fmt::format("; {:+.0f} bytes against the last good run, number {}.",
                                                    all - all_before, good->number);
  out.drawing = bars_drawing(bars, "kilobytes (1,000 bytes) in the file");
  out.drawing.height += 18;
  write_legend(out.drawing, 12, out.drawing.height - 6,
               {{Ink::first, "machine code"},
                {Ink::third, "data"},
                {Ink::second, "debugging information"},
                {Ink::line, "names and the rest"}});
  return out;
}

}  // namespace coctilis::report
