#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/text.h"
#include "base/version.h"
#include "report/formats/formats.h"
#include "report/formats/uri.h"

namespace coctilis::report {

using nlohmann::ordered_json;

namespace {

ordered_json location_of(const model::Run& run, const Place& place) {
  const std::string path = files::absolute(place.file, run.tree);
  ordered_json artifact;
  if (!run.kiln.empty() && files::is_below(path, run.kiln))
    artifact = {{"uri", uri_path(files::below(path, run.kiln))}, {"uriBaseId", "KILN"}};
  else if (files::is_below(path, run.tree))
    artifact = {{"uri", uri_path(files::below(path, run.tree))}, {"uriBaseId", "TREE"}};
  else
    artifact = {{"uri", file_uri(path)}};
  ordered_json out = {{"artifactLocation", artifact}};
  if (place.line > 0) {
    out["region"] = {{"startLine", place.line}};
    if (place.column > 0) out["region"]["startColumn"] = place.column;
  }
  return {{"physicalLocation", out}};
}

}  // namespace

std::string warnings_sarif(const model::Run& run) {
  ordered_json rules = ordered_json::array();
  std::map<std::string, std::size_t> rule_places;
  const auto rule = [&](const std::string& id, const std::string& tells) {
    const auto [it, fresh] = rule_places.emplace(id, rules.size());
    if (fresh) rules.push_back({{"id", id}, {"shortDescription", {{"text", tells}}}});
    return it->second;
  };
  ordered_json results = ordered_json::array();
  for (const auto& w : run.outcome.warnings) {
    const std::string id = w.option.empty() ? "warning" : w.option;
    const auto at = rule(
        id, w.option.empty() ? "a warning that no option switches" : "what the compiler's option " + id + " finds");
    results.push_back({{"ruleId", id},
                       {"ruleIndex", at},
                       {"level", "warning"},
                       {"message", {{"text", w.message.empty() ? id : w.message}}},
                       {"locations", ordered_json::array({location_of(run, w.place)})}});
  }
  if (run.problem) {
    const auto& p = *run.problem;
    const auto at = rule("stopped", "why the run did not come to its end");
    std::string text =
        p.what + (p.cause.empty() ? "" : "; " + p.cause) + (p.remedy.empty() ? "" : "; fix: " + p.remedy);
    ordered_json result = {{"ruleId", "stopped"}, {"ruleIndex", at}, {"level", "error"}, {"message", {{"text", text}}}};
    if (!p.place.file.empty()) result["locations"] = ordered_json::array({location_of(run, p.place)});
    results.push_back(std::move(result));
  }
  ordered_json bases = {{"TREE", {{"uri", file_uri(run.tree) + "/"}}}};
  if (!run.kiln.empty()) bases["KILN"] = {{"uri", file_uri(run.kiln) + "/"}};
  const ordered_json out = {
      {"$schema", "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"},
      {"version", "2.1.0"},
      {"runs",
       ordered_json::array(
           {{{"tool", {{"driver", {{"name", "Coctilis"}, {"version", version}, {"rules", rules}}}}},
             {"invocations", ordered_json::array(
                                 {{{"executionSuccessful", !run.problem.has_value()}, {"exitCode", run.exit_code()}}})},
             {"originalUriBaseIds", bases},
             {"columnKind", "utf16CodeUnits"},
             {"properties",
              {{"toolchain", run.toolchain.name.empty() ? "" : run.toolchain.name + " " + run.toolchain.version}}},
             {"results", results}}})}};
  return out.dump(1, ' ', false, ordered_json::error_handler_t::replace) + "\n";
}

}  // namespace coctilis::report
