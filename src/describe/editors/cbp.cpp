// *.cbp: targets with options of their own, and units that say which of them they belong to.
#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/editors/targets.h"
#include "survey/languages.h"

namespace coctilis::describe::editors {

namespace {

void add_options(EditorProject& to, const pugi::xml_node& node, const EditorRequest& request) {
  for (const auto& one : node.child("Compiler").children("Add")) {
    if (const std::string folder = one.attribute("directory").value(); !folder.empty()) {
      const std::string path = path_in(folder, request);
      if (!path.empty()) to.include.push_back(path);
    }
    const std::string option = one.attribute("option").value();
    if (option.starts_with("-D"))
      to.define.push_back(option.substr(2));
    else if (option.starts_with("-std=") || option.starts_with("-f") || option.starts_with("-m"))
      to.options.push_back(option);
  }
  for (const auto& one : node.child("Linker").children("Add")) {
    if (const std::string library = one.attribute("library").value(); !library.empty()) to.libraries.push_back(library);
    const std::string option = one.attribute("option").value();
    if (option.starts_with("-l")) to.libraries.push_back(option.substr(2));
  }
}

}  // namespace

std::vector<EditorProject> read_cbp(const EditorRequest& request) {
  pugi::xml_document document;
  load(document, request);
  const auto root = document.document_element().child("Project");
  EditorProject whole;
  whole.file = files::below(request.file, request.tree);
  for (const auto& one : root.children("Option")) {
    if (const std::string title = one.attribute("title").value(); !title.empty()) whole.name = title;
  }
  add_options(whole, root, request);
  std::vector<std::string> names;
  for (const auto& one : root.child("Build").children("Target")) names.emplace_back(one.attribute("title").value());
  // Targets for this variant, or all where they are no variants of one thing.
  const auto is_variant = [](const std::string& name) {
    const std::string lower = text::lower(name);
    return lower.find("debug") != std::string::npos || lower.find("release") != std::string::npos;
  };
  const bool variants = std::any_of(names.begin(), names.end(), is_variant);
  const std::string chosen = configuration_for(names, request.debug);
  std::vector<EditorProject> out;
  for (const auto& one : root.child("Build").children("Target")) {
    const std::string title = one.attribute("title").value();
    if (variants && title != chosen) continue;
    EditorProject project = whole;
    std::string output;
    for (const auto& option : one.children("Option")) {
      if (const std::string value = option.attribute("output").value(); !value.empty()) output = value;
      if (const std::string type = option.attribute("type").value(); !type.empty())
        project.kind = type == "2"   ? EditorProject::Kind::archive
                       : type == "3" ? EditorProject::Kind::library
                       : type == "4" ? EditorProject::Kind::nothing
                                     : EditorProject::Kind::program;
    }
    output = text::replace_all(output, "\\", "/");
    output = output.substr(output.rfind('/') + 1);
    if (project.kind != EditorProject::Kind::program && output.starts_with("lib") && output.size() > 3)
      output = output.substr(0, output.find('.'));
    if (text::lower(output).ends_with(".exe")) output.resize(output.size() - 4);
    if (!output.empty() && output.find('$') == std::string::npos) project.name = output;
    if (project.name.empty()) project.name = title;
    add_options(project, one, request);
    for (const auto& unit : root.children("Unit")) {
      const std::string given = unit.attribute("filename").value();
      if (text::lower(given).ends_with(".rc")) project.resources.push_back(given);
      if (survey::compiled_language(given).empty()) continue;
      bool named = false;
      bool mine = false;
      bool compiled = true;
      for (const auto& option : unit.children("Option")) {
        if (const std::string target = option.attribute("target").value(); !target.empty()) {
          named = true;
          mine = mine || target == title;
        }
        if (std::string_view(option.attribute("compile").value()) == "0") compiled = false;
      }
      const std::string path = path_in(given, request);
      if (named && !mine) continue;
      if (!compiled || path.empty()) {
        project.left_out.push_back(
            {"source",
             path.empty() ? given : path,
             {project.file, 0, 0},
             compiled ? "it lies outside of the tree, or where only another system knows" : "the project excludes it"});
        continue;
      }
      project.sources.push_back({path, {}, {}, {}});
    }
    out.push_back(std::move(project));
  }
  if (out.empty())
    throw Fault({Exit::description,
                 {whole.file, 0, 0},
                 "the project file names no target",
                 {},
                 "name another one under [tree] of coctilis.toml",
                 {}});
  return out;
}

}  // namespace coctilis::describe::editors
