#include "record/findings.h"

#include <nlohmann/json.hpp>

#include "base/files.h"

namespace coctilis::record {

namespace {

struct KeptFinding {
  std::string kind;
  std::string name;
  bool found = false;
  std::string state;  // "1.2.13 at /usr/lib/libz.so"
};

std::string state_of(const model::Finding& f) {
  if (!f.found) return "missing";
  std::string out = f.version;
  if (!f.where.empty()) out += (out.empty() ? "" : " at ") + f.where;
  return out.empty() ? "there" : out;
}

constexpr int layout = 1;

}  // namespace

void compare_findings(model::Run& run) {
  std::vector<KeptFinding> now;
  for (const auto& f : run.findings)
    now.push_back({model::name_of(f.requirement.kind), f.requirement.name, f.found, state_of(f)});
  const std::string path = run.kiln + "/wants.json";
  std::map<std::pair<std::string, std::string>, KeptFinding> before;
  if (const auto content = files::read(path)) {
    const auto document = nlohmann::json::parse(*content, nullptr, false);
    if (document.is_object() && document.contains("layout") && document["layout"] == layout &&
        document.contains("wants") && document["wants"].is_array()) {
      run.compared = true;
      for (const auto& entry : document["wants"]) {
        const auto has = [&](const char* key, bool is_bool) {
          return entry.contains(key) && (is_bool ? entry[key].is_boolean() : entry[key].is_string());
        };
        if (!entry.is_object() || !has("kind", false) || !has("name", false) || !has("found", true) ||
            !has("state", false))
          continue;
        const KeptFinding kept{entry["kind"], entry["name"], entry["found"], entry["state"]};
        before.emplace(std::pair{kept.kind, kept.name}, kept);
      }
    }
  }
  run.changes.clear();
  for (const auto& one : now) {
    const auto it = before.find({one.kind, one.name});
    if (it == before.end()) {
      if (run.compared) run.changes.push_back({"new", one.kind, one.name, "", one.state});
      continue;
    }
    const KeptFinding old = it->second;
    before.erase(it);
    if (old.state == one.state) continue;
    const char* what = old.found == one.found ? "changed" : one.found ? "found now" : "missing now";
    run.changes.push_back({what, one.kind, one.name, old.state, one.state});
  }
  for (const auto& [key, old] : before) run.changes.push_back({"gone", old.kind, old.name, old.state, ""});
  nlohmann::ordered_json document = {{"layout", layout}, {"wants", nlohmann::ordered_json::array()}};
  for (const auto& one : now)
    document["wants"].push_back({{"kind", one.kind}, {"name", one.name}, {"found", one.found}, {"state", one.state}});
  files::write_if_different(path, document.dump(1, ' ', false, nlohmann::json::error_handler_t::replace) + "\n");
}

}  // namespace coctilis::record
