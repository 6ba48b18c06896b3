#include "record/record.h"

#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/text.h"
#include "record/names.h"
#include "report/formats/formats.h"
#include "report/junit.h"
#include "report/report.h"

namespace coctilis::record {

std::vector<int> numbers(const std::string& kiln) {
  std::vector<int> out;
  std::error_code error;
  for (const auto& entry : std::filesystem::directory_iterator(kiln + "/runs", error)) {
    const std::string name = entry.path().filename().string();
    if (!name.empty() && name.find_first_not_of("0123456789") == std::string::npos && name.size() < 9)
      out.push_back(std::stoi(name));
  }
  std::sort(out.begin(), out.end());
  return out;
}

std::string folder(const model::Run& run) { return run.kiln + "/runs/" + std::to_string(run.number); }

namespace {

// Every step that ran with its command and what it printed.
std::string log_text(const model::Run& run) {
  std::string out;
  for (std::size_t i = 0; i < run.outcome.steps.size(); ++i) {
    const auto& result = run.outcome.steps[i];
    const auto& step = run.plan.steps[i];
    if (result.state == model::StepState::up_to_date || result.state == model::StepState::not_run) continue;
    out += fmt::format("[{}] {} {} ({}, {})\n", model::name_of(result.state), model::name_of(step.kind),
                       text::printable_line(step.subject), text::duration(result.seconds),
                       text::printable_line(result.reason));
    for (const auto& action : step.actions) out += "  " + text::printable_line(action.text()) + "\n";
    if (!result.output.empty()) out += text::printable(result.output) + (result.output.ends_with('\n') ? "" : "\n");
    if (!result.end.empty()) out += "  " + result.end + "\n";
  }
  for (const auto& check : run.checks) {
    out += fmt::format("[{}] check {}: {}\n", model::name_of(check.verdict), text::printable_line(check.name),
                       text::printable_line(check.reason));
    if (!check.command.empty()) out += "  " + text::printable_line(check.command) + "\n";
    if (!check.cause.empty()) out += "  cause: " + text::printable_line(check.cause) + "\n";
    if (!check.remedy.empty()) out += "  fix: " + text::printable_line(check.remedy) + "\n";
    for (const auto& line : check.evidence) out += "  " + text::printable_line(line) + "\n";
    if (!check.output.empty()) out += text::printable(check.output) + (check.output.ends_with('\n') ? "" : "\n");
  }
  return out;
}

}  // namespace

std::string newest_folder(const std::string& kiln_root, int number, const std::string& variant) {
  std::error_code error;
  std::string best;
  std::filesystem::file_time_type latest{};
  for (const auto& entry : std::filesystem::directory_iterator(kiln_root, error)) {
    if (!variant.empty() && !entry.path().filename().string().ends_with("-" + variant)) continue;
    for (const int n : numbers(entry.path().string())) {
      if (number > 0 && n != number) continue;
      const std::string one = entry.path().string() + "/runs/" + std::to_string(n);
      const auto time = std::filesystem::last_write_time(one + "/run.json", error);
      if (!error && (best.empty() || time > latest)) {
        best = one;
        latest = time;
      }
    }
  }
  return best;
}

std::string newest(const std::string& kiln) {
  using nlohmann::json;
  const auto known = numbers(kiln);
  if (known.empty()) return {};
  const auto text_of = [&](int number) {
    return files::read(kiln + "/runs/" + std::to_string(number) + "/run.json").value_or("");
  };
  std::string text = text_of(known.back());
  const json short_one = json::parse(text, nullptr, false);
  if (!short_one.is_object() || !short_one.contains("repeats") || !short_one["repeats"].is_number_integer())
    return text;
  json whole = json::parse(text_of(short_one["repeats"].get<int>()), nullptr, false);
  if (!whole.is_object()) return text;
  for (const char* key : {"run", "command", "started", "seconds", "exit", "problem", "checks"}) {
    if (short_one.contains(key)) whole[key] = short_one[key];
  }
  return whole.dump(-1, ' ', false, json::error_handler_t::replace);
}

namespace {

// Files of a record for other programs.
struct OpenFormat {
  const char* file;
  std::string (*write)(const model::Run& run);
  bool (*wanted)(const model::Run& run);
};

const std::vector<OpenFormat>& open_formats() {
  // Of a run in which nothing was another, those of the run that it repeats still hold.
  static const auto built = [](const model::Run& run) { return run.built && !run.repeats && run.members.empty(); };
  static const std::vector<OpenFormat> table = {
      {"warnings.sarif", report::warnings_sarif, [](const model::Run& run) { return !run.repeats; }},
      {"parts.spdx.json", report::parts_spdx,
       // Every source is read for it: who builds a little again and again does not wait for that.
       [](const model::Run& run) {
         const bool little = run.outcome.ran < run.outcome.up_to_date && !run.checked && run.staged.prefix.empty();
         return built(run) && run.outcome.good() && run.outcome.ran > 0 && !little;
       }},
      {"trace.json", report::trace_json, [](const model::Run& run) { return built(run) && run.outcome.ran > 0; }},
      {"graph.dot", report::graph_dot, [](const model::Run& run) { return built(run); }}};
  return table;
}

constexpr const char* short_name = "short.json";

// What a record tells that figures show; of one that repeats another, in which nothing was another, the sizes of that.
std::vector<report::Course> courses_before(const std::string& runs, int number) {
  constexpr std::size_t most_runs = 20;
  constexpr std::uintmax_t most_bytes = 8U << 20U;
  std::vector<report::Course> out;
  std::uintmax_t bytes = 0;
  std::error_code error;
  auto known = numbers(std::filesystem::path(runs).parent_path().string());
  std::erase_if(known, [&](int n) { return n >= number; });
  std::size_t first = known.size();
  // The short record where there is one.
  const auto told_in = [&](int run) {
    const std::string folder = runs + "/" + std::to_string(run);
    return folder + (files::is_file(folder + "/" + short_name) ? std::string("/") + short_name : "/run.json");
  };
  while (first > 0 && known.size() - first < most_runs) {
    const auto size = std::filesystem::file_size(told_in(known[first - 1]), error);
    if (error || (bytes += size) > most_bytes) break;
    --first;
  }
  for (; first < known.size(); ++first) {
    const auto read = nlohmann::ordered_json::parse(files::read(told_in(known[first])).value_or(""), nullptr, false);
    if (!read.is_object()) continue;
    out.push_back(report::course_of(read));
    if (out.back().results.empty() && read.contains("repeats") && !read["repeats"].is_null() && out.size() > 1)
      out.back().results = out[out.size() - 2].results;
  }
  return out;
}

}  // namespace

std::optional<report::Material> material_of(const std::string& record_folder) {
  const std::string runs = std::filesystem::path(record_folder).parent_path().string();
  auto read = nlohmann::ordered_json::parse(files::read(record_folder + "/run.json").value_or(""), nullptr, false);
  // One that repeats another has built nothing: that one has what there is to see.
  if (read.is_object() && read.contains("repeats") && read["repeats"].is_number_unsigned())
    read = nlohmann::ordered_json::parse(files::read(runs + "/" + read["repeats"].dump() + "/run.json").value_or(""),
                                         nullptr, false);
  if (!read.is_object()) return std::nullopt;
  report::Material out{report::course_of(read), {}};
  if (out.run.number > 0) out.before = courses_before(runs, out.run.number);
  return out;
}

Result<bool> keep(model::Run& run) {
  return guarded("keeping the record", [&] {
    const auto known = numbers(run.kiln);
    run.number = known.empty() ? 1 : known.back() + 1;
    const std::string to = folder(run);
    files::make_folder(to);
    const auto document = report::run_document(run);
    files::write(to + "/run.json", report::as_text(document));
    files::write(to + "/summary.txt", report::summary(run));
    files::write(to + "/log", log_text(run));
    // Where nothing was built figures would show what those of an earlier run do.
    std::vector<report::Figure> figures;
    if (run.built && run.outcome.ran > 0) {
      const report::Material material{report::course_of(document), courses_before(run.kiln + "/runs", run.number)};
      figures = report::figures_of(material);
      files::write(to + "/" + short_name, report::as_text(report::short_record(material.run)));
    }
    files::write(to + "/report.html", report::page(run, figures));
    if (run.checked) files::write(to + "/smoke.xml", report::smoke_xml(run));
    for (const auto& one : open_formats()) {
      if (one.wanted(run)) files::write(to + "/" + one.file, one.write(run));
    }
    for (std::size_t i = 0; i < run.checks.size(); ++i) {
      if (!run.checks[i].picture.empty()) files::write(to + "/" + report::picture_name(i), run.checks[i].picture);
    }
    if (!run.repeats) keep_names(run);
    std::error_code error;
    const std::string latest = run.kiln + "/runs/latest";
    std::filesystem::remove(latest, error);
    std::filesystem::create_symlink(std::to_string(run.number), latest, error);
    return true;
  });
}

}  // namespace coctilis::record
