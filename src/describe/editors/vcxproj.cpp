// *.vcxproj, the older *.vcproj, and *.sln, which names several of either.
#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/editors/targets.h"
#include "survey/languages.h"

namespace coctilis::describe::editors {

namespace {

std::string stem_of(const std::string& path) { return std::filesystem::path(path).stem().string(); }

// "'$(Configuration)|$(Platform)'=='Release|x64'": whether that is the chosen one. A condition of another form holds
// only when it is empty.
bool holds(const pugi::xml_node& node, const std::string& chosen) {
  const std::string condition = node.attribute("Condition").value();
  if (condition.empty()) return true;
  static const RE2 both(R"(^\s*'\$\(Configuration\)\|\$\(Platform\)'\s*==\s*'([^']*)'\s*$)");
  static const RE2 name(R"(^\s*'\$\(Configuration\)'\s*==\s*'([^']*)'\s*$)");
  static const RE2 platform(R"(^\s*'\$\(Platform\)'\s*==\s*'([^']*)'\s*$)");
  std::string wanted;
  if (RE2::FullMatch(condition, both, &wanted)) return text::lower(wanted) == text::lower(chosen);
  const auto bar = chosen.find('|');
  if (RE2::FullMatch(condition, name, &wanted)) return text::lower(wanted) == text::lower(chosen.substr(0, bar));
  if (RE2::FullMatch(condition, platform, &wanted))
    return bar != std::string::npos && text::lower(wanted) == text::lower(chosen.substr(bar + 1));
  return false;
}

EditorProject::Kind kind_of(const std::string& word) {
  if (word == "StaticLibrary" || word == "4") return EditorProject::Kind::archive;
  if (word == "DynamicLibrary" || word == "2") return EditorProject::Kind::library;
  if (word == "Utility" || word == "Makefile" || word == "10" || word == "0") return EditorProject::Kind::nothing;
  return EditorProject::Kind::program;
}

void add_folders(std::vector<std::string>& to, const std::string& list, const EditorRequest& request,
                 const char* separators = ";") {
  for (const auto& word : list_in(list, separators)) {
    const std::string path = path_in(word, request);
    if (!path.empty() && std::find(to.begin(), to.end(), path) == to.end()) to.push_back(path);
  }
}
void add(std::vector<std::string>& to, const std::vector<std::string>& words) {
  for (const auto& word : words) {
    if (std::find(to.begin(), to.end(), word) == to.end()) to.push_back(word);
  }
}

std::string standard_of(const std::string& word) {
  static const RE2 year(R"(stdcpp([0-9]{2}))");
  std::string out;
  if (RE2::FullMatch(word, year, &out)) return "-std=gnu++" + out;
  return word == "stdcpplatest" ? "-std=gnu++20" : "";
}

}  // namespace

std::vector<EditorProject> read_vcxproj(const EditorRequest& request) {
  pugi::xml_document document;
  load(document, request);
  const auto root = document.child("Project");
  EditorProject out;
  out.file = files::below(request.file, request.tree);
  out.name = stem_of(request.file);
  std::vector<std::string> configurations;
  for (const auto& group : root.children("ItemGroup")) {
    for (const auto& one : group.children("ProjectConfiguration"))
      configurations.emplace_back(one.attribute("Include").value());
  }
  const std::string chosen = configuration_for(configurations, request.debug);
  std::string target;
  for (const auto& group : root.children("PropertyGroup")) {
    if (!holds(group, chosen)) continue;
    for (const auto& one : group.children()) {
      if (!holds(one, chosen)) continue;
      const std::string name = one.name();
      const std::string text(text::trim(one.text().get()));
      if (name == "ConfigurationType") out.kind = kind_of(text);
      if (name == "ProjectGuid") out.id = text;
      if (name == "ProjectName" && text.find('$') == std::string::npos && !text.empty()) out.name = text;
      if (name == "TargetName" && text.find('$') == std::string::npos && !text.empty()) target = text;
      if (name == "IncludePath") add_folders(out.include, text, request);
    }
  }
  for (const auto& group : root.children("ItemDefinitionGroup")) {
    if (!holds(group, chosen)) continue;
    for (const auto& compile : group.children("ClCompile")) {
      if (const auto one = compile.child("AdditionalIncludeDirectories"); one && holds(one, chosen))
        add_folders(out.include, one.text().get(), request);
      if (const auto one = compile.child("PreprocessorDefinitions"); one && holds(one, chosen))
        add(out.define, list_in(one.text().get()));
      if (const std::string standard = standard_of(compile.child("LanguageStandard").text().get()); !standard.empty())
        add(out.options, {standard});
    }
    for (const auto& link : group.children("Link"))
      add(out.libraries, list_in(link.child("AdditionalDependencies").text().get()));
  }
  for (const auto& group : root.children("ItemGroup")) {
    if (!holds(group, chosen)) continue;
    for (const auto& one : group.children("ClCompile")) {
      if (!holds(one, chosen)) continue;
      const std::string given = one.attribute("Include").value();
      const std::string path = path_in(given, request);
      const auto excluded = one.children("ExcludedFromBuild");
      const bool is_excluded = std::any_of(excluded.begin(), excluded.end(), [&](const auto& word) {
        return holds(word, chosen) && text::lower(word.text().get()) == "true";
      });
      if (is_excluded) {
        out.left_out.push_back({"source", path.empty() ? given : path, {out.file, 0, 0}, "the project excludes it"});
        continue;
      }
      if (path.empty()) {
        out.left_out.push_back(
            {"source", given, {out.file, 0, 0}, "it lies outside of the tree, or where only another system knows"});
        continue;
      }
      Source source;
      source.path = path;
      for (const auto& word : one.children("PreprocessorDefinitions")) {
        if (holds(word, chosen)) add(source.define, list_in(word.text().get()));
      }
      for (const auto& word : one.children("AdditionalIncludeDirectories")) {
        if (holds(word, chosen)) add_folders(source.include, word.text().get(), request);
      }
      out.sources.push_back(std::move(source));
    }
    for (const auto& one : group.children("ResourceCompile"))
      out.resources.emplace_back(one.attribute("Include").value());
    for (const auto& one : group.children("ProjectReference")) {
      const std::string path = path_in(one.attribute("Include").value(), request);
      if (!path.empty()) out.uses.push_back(path);
      if (const std::string id = one.child("Project").text().get(); !id.empty()) out.uses.push_back(id);
    }
  }
  // The result has the other name; others go by the file.
  if (!target.empty()) out.name = target;
  return {out};
}

std::vector<EditorProject> read_vcproj(const EditorRequest& request) {
  pugi::xml_document document;
  load(document, request);
  const auto root = document.document_element();
  EditorProject out;
  out.file = files::below(request.file, request.tree);
  out.name = root.attribute("Name").value();
  if (out.name.empty()) out.name = stem_of(request.file);
  out.id = root.attribute("ProjectGUID").value();
  std::vector<std::string> names;
  for (const auto& one : root.child("Configurations").children("Configuration"))
    names.emplace_back(one.attribute("Name").value());
  const std::string chosen = configuration_for(names, request.debug);
  for (const auto& one : root.child("Configurations").children("Configuration")) {
    if (one.attribute("Name").value() != chosen) continue;
    out.kind = kind_of(one.attribute("ConfigurationType").value());
    for (const auto& tool : one.children("Tool")) {
      const std::string name = tool.attribute("Name").value();
      if (name == "VCCLCompilerTool") {
        add_folders(out.include, tool.attribute("AdditionalIncludeDirectories").value(), request, ";,");
        add(out.define, list_in(tool.attribute("PreprocessorDefinitions").value(), ";,"));
      }
      if (name == "VCLinkerTool") add(out.libraries, list_in(tool.attribute("AdditionalDependencies").value(), " ;"));
    }
  }
  struct Walk final : pugi::xml_tree_walker {
    EditorProject* out = nullptr;
    const EditorRequest* request = nullptr;
    const std::string* chosen = nullptr;
    bool for_each(pugi::xml_node& node) override {
      if (std::string_view(node.name()) != "File") return true;
      const std::string given = node.attribute("RelativePath").value();
      const std::string path = path_in(given, *request);
      if (text::lower(given).ends_with(".rc")) out->resources.push_back(given);
      if (survey::compiled_language(given).empty()) return true;
      for (const auto& one : node.children("FileConfiguration")) {
        if (one.attribute("Name").value() == *chosen &&
            text::lower(one.attribute("ExcludedFromBuild").value()) == "true") {
          out->left_out.push_back(
              {"source", path.empty() ? given : path, {out->file, 0, 0}, "the project excludes it"});
          return true;
        }
      }
      if (path.empty())
        out->left_out.push_back(
            {"source", given, {out->file, 0, 0}, "it lies outside of the tree, or where only another system knows"});
      else
        out->sources.push_back({path, {}, {}, {}});
      return true;
    }
  } walk;
  walk.out = &out;
  walk.request = &request;
  walk.chosen = &chosen;
  root.child("Files").traverse(walk);
  return {out};
}

std::vector<EditorProject> read_sln(const EditorRequest& request) {
  const std::string shown = files::below(request.file, request.tree);
  const auto content = files::read(request.file);
  if (!content)
    throw Fault({Exit::description,
                 {shown, 0, 0},
                 "the file cannot be read: it " + files::why_not_read(request.file),
                 {},
                 "name another one under [tree] of coctilis.toml",
                 {}});
  static const RE2 project(R"x(^\s*Project\("[^"]*"\)\s*=\s*"([^"]*)",\s*"([^"]*)",\s*"([^"]*)")x");
  static const RE2 depends(R"(^\s*(\{[0-9A-Fa-f-]+\})\s*=\s*\{[0-9A-Fa-f-]+\}\s*$)");
  std::vector<EditorProject> out;
  std::vector<EditorProject> now;
  std::vector<std::string> uses;
  bool in_dependencies = false;
  int line = 0;
  const auto finish = [&] {
    for (auto& one : now) {
      one.uses.insert(one.uses.end(), uses.begin(), uses.end());
      out.push_back(std::move(one));
    }
    now.clear();
    uses.clear();
  };
  for (auto text : text::split(*content, '\n')) {
    ++line;
    if (text.ends_with('\r')) text.pop_back();
    std::string name, path, id;
    if (RE2::PartialMatch(text, project, &name, &path, &id)) {
      finish();
      const std::string below = path_in(path, request);
      const std::string lower = text::lower(path);
      if (!lower.ends_with(".vcxproj") && !lower.ends_with(".vcproj")) continue;
      EditorRequest inner = request;
      inner.file = request.tree + "/" + below;
      if (below.empty() || !files::is_file(inner.file)) {
        throw Fault({Exit::description,
                     {shown, line, 0},
                     "the project '" + text::printable_line(path) + "' is not there",
                     {},
                     "bring it in, or name one of the others under [tree] of coctilis.toml",
                     {}});
      }
      now = lower.ends_with(".vcxproj") ? read_vcxproj(inner) : read_vcproj(inner);
      for (auto& one : now) one.id = id;
    } else if (text.find("ProjectSection(ProjectDependencies)") != std::string::npos) {
      in_dependencies = true;
    } else if (text.find("EndProjectSection") != std::string::npos) {
      in_dependencies = false;
    } else if (in_dependencies && RE2::PartialMatch(text, depends, &id)) {
      uses.push_back(id);
    }
  }
  finish();
  if (out.empty())
    throw Fault({Exit::description, {shown, 0, 0}, "the file names no project that can be read", {}, "name a project file under [tree] of coctilis.toml", {}});
  return out;
}

}  // namespace coctilis::describe::editors
