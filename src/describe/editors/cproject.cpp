// .cproject with .project beside it: configurations with tools and their options, and folders of sources.
#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/editors/targets.h"
#include "survey/folders.h"
#include "survey/languages.h"

namespace coctilis::describe::editors {

namespace {

// "${workspace_loc:/${ProjName}/include}" is include.
std::string folder_of_option(std::string text, const std::string& name, const EditorRequest& request) {
  text = text::replace_all(text, "\"", "");
  text = text::replace_all(text, "${ProjName}", name);
  const std::string begin = "${workspace_loc:";
  if (text.starts_with(begin) && text.ends_with('}')) {
    text = text.substr(begin.size(), text.size() - begin.size() - 1);
    while (text.starts_with('/')) text = text.substr(1);
    if (!text.starts_with(name + "/") && text != name) return {};
    text = text == name ? "." : text.substr(name.size() + 1);
  }
  return path_in(text, request);
}

struct Options final : pugi::xml_tree_walker {
  EditorProject* out = nullptr;
  const EditorRequest* request = nullptr;
  std::string project_name;
  bool for_each(pugi::xml_node& node) override {
    if (std::string_view(node.name()) != "option") return true;
    const std::string kind = node.attribute("superClass").value();
    const auto ends = [&](const char* what) { return kind.find(what) != std::string::npos; };
    for (const auto& one : node.children("listOptionValue")) {
      const std::string value = one.attribute("value").value();
      if (ends("include.paths")) {
        const std::string path = folder_of_option(value, project_name, *request);
        if (!path.empty() && std::find(out->include.begin(), out->include.end(), path) == out->include.end())
          out->include.push_back(path);
      } else if (ends("preprocessor.def") || ends(".defs") || ends("symbols")) {
        if (std::find(out->define.begin(), out->define.end(), value) == out->define.end())
          out->define.push_back(text::replace_all(value, "\"", ""));
      } else if (ends("link") && ends(".libs")) {
        if (std::find(out->libraries.begin(), out->libraries.end(), value) == out->libraries.end())
          out->libraries.push_back(text::replace_all(value, "\"", ""));
      }
    }
    return true;
  }
};

void add_sources(EditorProject& out, const std::string& folder, const std::vector<std::string>& excluded,
                 const EditorRequest& request, int depth) {
  if (depth > 32 || out.sources.size() > 20'000) return;
  const std::string full = folder == "." ? request.tree : request.tree + "/" + folder;
  for (const auto& name : files::names_in(full)) {
    const std::string path = folder == "." ? name : folder + "/" + name;
    if (name.starts_with('.') || files::is_link(full + "/" + name)) continue;
    const bool is_excluded = std::any_of(excluded.begin(), excluded.end(), [&](const auto& one) {
      return !one.empty() && (path == one || path.starts_with(one + "/") || files::matches(one, path));
    });
    const bool source = !survey::compiled_language(name).empty();
    if (is_excluded) {
      const bool inner = files::is_folder(full + "/" + name);
      if (source || inner)
        out.left_out.push_back({inner ? "folder" : "source", path, {out.file, 0, 0}, "the project excludes it"});
      continue;
    }
    if (files::is_folder(full + "/" + name)) {
      add_sources(out, path, excluded, request, depth + 1);
    } else if (source) {
      out.sources.push_back({path, {}, {}, {}});
    }
  }
}

}  // namespace

std::vector<EditorProject> read_cproject(const EditorRequest& request) {
  pugi::xml_document document;
  load(document, request);
  EditorProject out;
  out.file = files::below(request.file, request.tree);
  const std::string folder = std::filesystem::path(request.file).parent_path().string();
  out.name = std::filesystem::path(folder).filename().string();
  if (files::is_file(folder + "/.project")) {
    pugi::xml_document names;
    EditorRequest other = request;
    other.file = folder + "/.project";
    load(names, other);
    if (const std::string name(text::trim(names.child("projectDescription").child("name").text().get())); !name.empty())
      out.name = name;
  }
  struct Configurations final : pugi::xml_tree_walker {
    std::vector<pugi::xml_node> found;
    bool for_each(pugi::xml_node& node) override {
      if (std::string_view(node.name()) == "configuration") found.push_back(node);
      return true;
    }
  } configurations;
  document.traverse(configurations);
  std::vector<std::string> names;
  for (const auto& one : configurations.found) names.emplace_back(one.attribute("name").value());
  const std::string chosen = configuration_for(names, request.debug);
  std::vector<std::pair<std::string, std::vector<std::string>>> places;
  for (const auto& one : configurations.found) {
    if (one.attribute("name").value() != chosen) continue;
    const std::string type = one.attribute("buildArtefactType").value();
    out.kind = type.ends_with("staticLib")   ? EditorProject::Kind::archive
               : type.ends_with("sharedLib") ? EditorProject::Kind::library
                                             : EditorProject::Kind::program;
    const std::string artifact = one.attribute("artifactName").value();
    Options options;
    options.out = &out;
    options.request = &request;
    options.project_name = out.name;
    pugi::xml_node copy = one;
    copy.traverse(options);
    for (const auto& entry : one.child("sourceEntries").children("entry")) {
      std::vector<std::string> excluded;
      const std::string name = entry.attribute("name").value();
      for (const auto& word : text::split(entry.attribute("excluding").value(), '|'))
        excluded.push_back(name.empty() ? word : name + "/" + word);
      places.emplace_back(name, excluded);
    }
    if (!artifact.empty() && artifact.find('$') == std::string::npos) out.name = artifact;
    break;
  }
  if (places.empty()) places.emplace_back("", std::vector<std::string>{});
  const std::string below = files::below(folder, request.tree);
  for (auto& [name, excluded] : places) {
    const std::string base = folder == request.tree ? "" : below + "/";
    for (auto& one : excluded) one = one.empty() ? one : base + one;
    std::string where = name.empty() ? (folder == request.tree ? "." : below) : base + name;
    add_sources(out, where, excluded, request, 0);
  }
  return {out};
}

}  // namespace coctilis::describe::editors
