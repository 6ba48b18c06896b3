#include "report/variants.h"

#include <algorithm>
#include <filesystem>
#include <map>

#include "base/text.h"

namespace coctilis::report {

namespace {

void add_sizes(const model::Run& run, std::size_t column, std::size_t columns,
               std::map<std::string, std::vector<std::uint64_t>>& sizes) {
  for (const auto& target : run.plan.targets) {
    std::error_code error;
    const auto size = target.output.empty() ? 0 : std::filesystem::file_size(target.output, error);
    if (target.output.empty() || error) continue;
    auto& row = sizes[std::filesystem::path(target.output).filename().string()];
    row.resize(columns);
    row[column] = std::max<std::uint64_t>(row[column], size);
  }
  for (const auto& member : run.members) add_sizes(member, column, columns, sizes);
}

std::string became(const model::Run& run) {
  if (run.problem) return run.outcome.failed > 0 ? "failed" : run.checked ? "a check failed" : "not built";
  return run.checked ? "passed" : run.built ? "built" : "read";
}

std::string steps(const model::Run& run) {
  std::size_t ran = run.outcome.ran;
  std::size_t up_to_date = run.outcome.up_to_date;
  for (const auto& member : run.members) {
    ran += member.outcome.ran;
    up_to_date += member.outcome.up_to_date;
  }
  // Those of members are built beside what else is done for them.
  const double seconds = run.members.empty() ? run.outcome.seconds : run.seconds;
  return ran == 0 && up_to_date > 0 ? "all up to date" : std::to_string(ran) + " in " + text::duration(seconds);
}

std::string checks(const model::Run& run) {
  if (!run.checked) return "none made";
  const auto failed = run.count_checks(model::Verdict::failed);
  return std::to_string(run.count_checks(model::Verdict::passed)) + " passed" +
         (failed > 0 ? ", " + std::to_string(failed) + " failed" : "");
}

}  // namespace

std::vector<std::vector<std::string>> variants_table(const std::vector<model::Run>& runs, std::size_t most) {
  std::vector<std::vector<std::string>> out = {{"variant"}, {"became"}, {"steps run"}};
  for (const auto& run : runs) {
    out[0].push_back(run.settings.variant);
    out[1].push_back(became(run));
    out[2].push_back(steps(run));
  }
  std::map<std::string, std::vector<std::uint64_t>> sizes;
  for (std::size_t i = 0; i < runs.size(); ++i) add_sizes(runs[i], i, runs.size(), sizes);
  std::vector<std::pair<std::string, std::vector<std::uint64_t>>> rows(sizes.begin(), sizes.end());
  const auto largest = [](const auto& row) { return *std::max_element(row.second.begin(), row.second.end()); };
  std::stable_sort(rows.begin(), rows.end(), [&](const auto& a, const auto& b) { return largest(a) > largest(b); });
  for (std::size_t i = 0; i < std::min(rows.size(), most); ++i) {
    out.push_back({rows[i].first});
    for (const auto size : rows[i].second) out.back().push_back(size == 0 ? "-" : text::size(size));
  }
  if (rows.size() > most) {
    out.push_back({"further ones"});
    for (std::size_t i = 0; i < runs.size(); ++i) out.back().push_back(std::to_string(rows.size() - most));
  }
  out.push_back({"checks"});
  for (const auto& run : runs) out.back().push_back(checks(run));
  return out;
}

}  // namespace coctilis::report
