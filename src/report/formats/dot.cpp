#include <set>

#include "base/text.h"
#include "report/formats/formats.h"
#include "report/system_libraries.h"

namespace coctilis::report {

namespace {

std::string quoted(const std::string& name) {
  return "\"" + text::replace_all(text::replace_all(text::printable_line(name), "\\", "\\\\"), "\"", "\\\"") + "\"";
}

const char* shape_of(model::TargetKind kind) {
  switch (kind) {
    case model::TargetKind::program: return "box";
    case model::TargetKind::static_library:
    case model::TargetKind::shared_library: return "ellipse";
    default: return "plaintext";
  }
}

}  // namespace

std::string graph_dot(const model::Run& run) {
  const std::string name =
      run.project.name.empty() ? std::filesystem::path(run.tree).filename().string() : run.project.name;
  std::string out = "digraph " + quoted(name) + " {\n  rankdir = LR;\n";
  std::set<std::string> libraries;
  std::string edges;
  std::set<std::string> names;
  for (const auto& target : run.plan.targets) names.insert(target.name);
  for (const auto& target : run.plan.targets) {
    out += "  " + quoted(target.name) + " [shape = " + shape_of(target.kind) +
           (target.in_default ? "" : ", style = dashed") + ", tooltip = " + quoted(model::name_of(target.kind)) +
           "];\n";
    for (const auto& used : target.uses) {
      if (names.contains(used)) edges += "  " + quoted(target.name) + " -> " + quoted(used) + ";\n";
    }
    for (const auto& item : system_libraries_of(target, run)) {
      const std::string library = std::filesystem::path(item).filename().string();
      if (libraries.insert(library).second)
        out += "  " + quoted("system/" + library) + " [shape = ellipse, style = dotted, label = " + quoted(library) +
               "];\n";
      edges += "  " + quoted(target.name) + " -> " + quoted("system/" + library) + ";\n";
    }
  }
  return out + edges + "}\n";
}

}  // namespace coctilis::report
