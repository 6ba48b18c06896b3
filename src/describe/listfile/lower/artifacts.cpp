#include "describe/listfile/lower/artifacts.h"

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/lower/expression.h"

namespace coctilis::describe::listfile::lower {

using model::TargetKind;

std::string property_text(const Target& target, const std::string& name) {
  const auto* values = target.property(name);
  std::string out;
  if (values == nullptr) return out;
  for (const auto& value : *values) out += (out.empty() ? "" : ";") + value.text;
  return out;
}

bool property_on(const Target& target, const std::string& name) { return !is_false(property_text(target, name)); }

namespace {
[[noreturn]] void not_yet(const Target& target) {
  throw Fault({Exit::description,
               target.place,
               "the name of a result hangs on that of '" + target.name + "'",
               "names of results are worked out before anything that has to know them",
               "name the file in a way that asks for no target",
               {}});
}

bool makes_file(const Target& target) {
  return !target.imported && target.alias_of.empty() && target.kind != TargetKind::custom &&
         target.kind != TargetKind::interface_library && target.kind != TargetKind::object_set;
}
}  // namespace

Artifacts::Artifacts(const Declared& project, const model::Toolchain& toolchain, std::vector<std::string>& notes)
    : project_(project),
      expressions_(project, toolchain,
                   {[](const Target& t, const std::string&) -> std::string { not_yet(t); },
                    [](const Target& t) -> std::vector<std::string> { not_yet(t); },
                    [](const Target&, const std::string&, std::string&) { return false; }}) {
  for (const auto& target : project.targets) {
    if (!target.alias_of.empty()) continue;
    if (target.imported) {
      artifacts_[&target] = imported(target);
      continue;
    }
    if (!makes_file(target)) continue;
    Artifact artifact = work_out(target);
    if (const auto it = makers_.find(artifact.file); it != makers_.end()) {
      // Two targets, one file: the later one moves, so that neither is lost.
      const auto move = [&](std::string& path) {
        if (path.empty()) return;
        const std::filesystem::path p(path);
        path = (p.parent_path() / (target.name + ".only") / p.filename()).string();
      };
      notes.push_back("'" + target.name + "' and '" + it->second->name + "' would both make " +
                      files::below(artifact.file, project.binary_root) + "; that of '" + target.name +
                      "' is in the folder " + target.name + ".only");
      move(artifact.file);
      move(artifact.linker_file);
      for (auto& name : artifact.names) move(name);
    }
    makers_[artifact.file] = &target;
    for (const auto& name : artifact.names) makers_.emplace(name, &target);
    artifacts_[&target] = std::move(artifact);
  }
}

std::string Artifacts::text_of(const Target& target, const std::string& property) const {
  const std::string text = property_text(target, property);
  if (text.find("$<") == std::string::npos) return text;
  ExpressionContext here;
  here.target = &target;
  here.place = target.place;
  return expressions_.evaluate(text, here);
}

std::string Artifacts::first_of(const Target& target, const std::vector<std::string>& names) const {
  for (const auto& name : names) {
    if (std::string text = text_of(target, name); !text.empty()) return text;
  }
  return {};
}

const Artifact& Artifacts::of(const Target& target) const {
  static const Artifact none;
  const auto it = artifacts_.find(&target);
  return it == artifacts_.end() ? none : it->second;
}

const Target* Artifacts::maker(const std::string& path) const {
  const auto it = makers_.find(path);
  return it == makers_.end() ? nullptr : it->second;
}

Artifact Artifacts::imported(const Target& target) const {
  Artifact out;
  const std::string config = text::upper(project_.configuration);
  std::vector<std::string> names = {"IMPORTED_LOCATION_" + config, "IMPORTED_LOCATION"};
  for (const auto& other : list_elements(property_text(target, "IMPORTED_CONFIGURATIONS"), false))
    names.push_back("IMPORTED_LOCATION_" + text::upper(other));
  for (const char* other : {"NONE", "RELEASE", "RELWITHDEBINFO", "NOCONFIG", "DEBUG"})
    names.push_back(std::string("IMPORTED_LOCATION_") + other);
  out.file = first_of(target, names);
  out.linker_file = out.file;
  return out;
}

Artifact Artifacts::work_out(const Target& target) const {
  const std::string config = text::upper(project_.configuration);
  const bool program = target.kind == TargetKind::program;
  const bool archive = target.kind == TargetKind::static_library;
  const bool shared = target.kind == TargetKind::shared_library;
  const std::string group = program ? "RUNTIME" : archive ? "ARCHIVE" : "LIBRARY";
  std::string folder = first_of(target, {group + "_OUTPUT_DIRECTORY_" + config, group + "_OUTPUT_DIRECTORY",
                                         program ? "EXECUTABLE_OUTPUT_PATH" : "LIBRARY_OUTPUT_PATH"});
  folder = folder.empty() ? target.binary_folder : files::absolute(folder, target.binary_folder);
  if (!files::is_below(folder, project_.binary_root)) {
    // Results never go into the tree: a folder of the tree becomes its mirror.
    folder = files::is_below(folder, project_.tree)
                 ? files::absolute(files::below(folder, project_.tree), project_.binary_root)
                 : target.binary_folder;
  }
  const auto or_initial = [&](const char* property, const std::string& initial) {
    return target.property(property) != nullptr ? text_of(target, property) : initial;
  };
  const std::string prefix = or_initial("PREFIX", target.usual_prefix);
  const std::string suffix = or_initial("SUFFIX", target.usual_suffix);
  std::string name = first_of(target, {group + "_OUTPUT_NAME_" + config, group + "_OUTPUT_NAME",
                                       "OUTPUT_NAME_" + config, config + "_OUTPUT_NAME", "OUTPUT_NAME"});
  if (name.empty()) name = target.name;
  if (!program) name += text_of(target, config + "_POSTFIX");
  Artifact out;
  const std::string plain = folder + "/" + prefix + name + suffix;
  out.file = plain;
  out.linker_file = plain;
  if (!shared) return out;
  std::string version = text_of(target, "VERSION");
  std::string so_version = text_of(target, "SOVERSION");
  if (version.empty()) version = so_version;
  if (so_version.empty()) so_version = version;
  if (!version.empty()) {
    out.file = plain + "." + version;
    if (so_version != version) out.names.push_back(plain + "." + so_version);
    out.names.push_back(plain);
  }
  if (!property_on(target, "NO_SONAME"))
    out.shared_name = prefix + name + suffix + (so_version.empty() ? "" : "." + so_version);
  return out;
}

}  // namespace coctilis::describe::listfile::lower
