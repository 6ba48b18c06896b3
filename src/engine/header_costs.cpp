#include "engine/header_costs.h"

#include <unistd.h>

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/observed.h"

namespace coctilis::engine {

namespace {

constexpr std::uintmax_t largest_report = 64U << 20U;
// A year, in the microseconds of a report: what is longer is no time that a compiler took, and sums of it no number.
constexpr double longest_event = 365.0 * 24 * 3600 * 1e6;

bool is_of_c_family(const model::Step& step) {
  return step.kind == model::StepKind::compile && (step.language == "C" || step.language == "C++");
}

// Made from headers, and read in their place; its size says nothing of what reading it costs.
bool is_compiled_header(std::string_view path) { return path.ends_with(".gch") || path.ends_with(".pch"); }

}  // namespace

std::optional<std::map<std::string, double>> times_of_headers(std::string_view report) {
  const auto document = nlohmann::json::parse(report, nullptr, false);
  if (!document.is_object() || !document.contains("traceEvents") || !document["traceEvents"].is_array()) return {};
  struct Event {
    double began = 0;
    double lasted = 0;
    const std::string* file = nullptr;
  };
  std::vector<Event> events;
  const auto number = [](const nlohmann::json& event, const char* key) {
    const auto it = event.find(key);
    return it != event.end() && it->is_number() ? it->get<double>() : -1;
  };
  for (const auto& event : document["traceEvents"]) {
    if (!event.is_object()) continue;
    const auto name = event.find("name");
    const auto arguments = event.find("args");
    if (name == event.end() || *name != "Source" || arguments == event.end() || !arguments->is_object()) continue;
    const auto detail = arguments->find("detail");
    const double began = number(event, "ts");
    const double lasted = number(event, "dur");
    if (detail == arguments->end() || !detail->is_string() || began < 0 || lasted < 0 || lasted > longest_event)
      continue;
    events.push_back({began, lasted, detail->get_ptr<const std::string*>()});
  }
  // The outer before what lies within.
  std::sort(events.begin(), events.end(), [](const Event& a, const Event& b) {
    return a.began != b.began ? a.began < b.began : a.lasted > b.lasted;
  });
  std::map<std::string, double> out;
  std::vector<const Event*> around;
  for (const auto& event : events) {
    while (!around.empty() && event.began >= around.back()->began + around.back()->lasted) around.pop_back();
    out[*event.file] += event.lasted / 1e6;
    if (!around.empty()) out[*around.back()->file] -= event.lasted / 1e6;
    around.push_back(&event);
  }
  for (auto& [file, seconds] : out) seconds = std::max(0.0, seconds);
  return out;
}

void HeaderCosts::add(const model::Step& step, const StepRecord& record, double seconds) {
  std::optional<std::map<std::string, double>> told;
  if (!step.time_report.empty()) {
    const observe::Apart apart;  // what a run hangs on does not hang on it
    std::error_code error;
    // Larger than any compiler's, it is somebody else's.
    if (std::filesystem::file_size(step.time_report, error) <= largest_report && !error) {
      if (const auto report = files::read(step.time_report)) told = times_of_headers(*report);
    }
    // It is large, and has no say in anything else.
    ::unlink(step.time_report.c_str());
  }
  if (!is_of_c_family(step) || step.source.empty()) return;
  struct Read {
    PathId path = 0;
    double bytes = 0;
  };
  std::vector<Read> read;
  double all = 0;
  for (const ContentId id : record.inputs) {
    const auto& content = journal_.content(id);
    const std::string_view path = journal_.path(content.path);
    const FileState* state = journal_.file(content.path);
    if (form_of(content.form) != Form::content || content.hash == Hash{} || state == nullptr) continue;
    if (is_compiled_header(path)) continue;
    read.push_back({content.path, static_cast<double>(state->stamp.size)});
    all += read.back().bytes;
  }
  if (all <= 0) return;
  std::map<std::string, double> by_path;
  if (told) {
    const std::string folder = step.actions.empty() ? std::string() : step.actions.front().folder;
    for (const auto& [file, taken] : *told) by_path[files::absolute(file, folder)] += taken;
  }
  for (const auto& one : read) {
    const std::string_view path = journal_.path(one.path);
    if (path == step.source) continue;
    auto& cost = costs_[one.path];
    ++cost.sources;
    if (!told) {
      cost.seconds += seconds * one.bytes / all;
    } else {
      ++cost.told;
      // What the compiler does not name took it too little to tell.
      if (const auto it = by_path.find(std::string(path)); it != by_path.end()) cost.seconds += it->second;
    }
  }
}

std::vector<model::HeaderCost> HeaderCosts::dearest() const {
  std::vector<model::HeaderCost> out;
  out.reserve(costs_.size());
  for (const auto& [path, cost] : costs_)
    out.push_back({std::string(journal_.path(path)), cost.sources, cost.seconds, cost.told});
  std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) {
    return a.seconds != b.seconds ? a.seconds > b.seconds : a.path < b.path;
  });
  if (out.size() > most_headers) out.resize(most_headers);
  return out;
}

}  // namespace coctilis::engine
