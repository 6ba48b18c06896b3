#include "describe/editors/targets.h"

#include <algorithm>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "base/xml.h"
#include "survey/languages.h"

namespace coctilis::describe::editors {

void load(pugi::xml_document& document, const EditorRequest& request) {
  const std::string shown = files::below(request.file, request.tree);
  load_xml(document, request.file, shown, "the project file", "name another one under [tree] of coctilis.toml");
}

std::string path_in(const std::string& text, const EditorRequest& request) {
  std::string path = text::replace_all(std::string(text::trim(text)), "\\", "/");
  if (path.size() >= 2 && path.front() == '"' && path.back() == '"') path = path.substr(1, path.size() - 2);
  const std::string folder = std::filesystem::path(request.file).parent_path().string();
  for (const char* here : {"$(ProjectDir)", "$(SolutionDir)", "$(MSBuildThisFileDirectory)", "$(InputDir)",
                           "$(MSBuildProjectDirectory)", "${ProjDirPath}", "$(PROJECT_DIR)"}) {
    if (path.starts_with(here)) path = path.substr(std::string(here).size());
  }
  if (path.find('$') != std::string::npos || path.find('%') != std::string::npos) return {};
  if (path.size() > 1 && path[1] == ':') return {};  // a disk of another system
  while (path.starts_with('/') && !files::exists(path)) path = path.substr(1);
  const std::string full = files::absolute(path.empty() ? "." : path, folder);
  if (!files::is_below(full, request.tree)) return {};
  if (full == request.tree) return ".";
  // Letter case did not count where it was written.
  std::string found = request.tree;
  for (const auto& part : text::split(files::below(full, request.tree), '/')) {
    std::string next = found + "/" + part;
    if (!files::exists(next)) {
      for (const auto& name : files::names_in(found)) {
        if (text::lower(name) == text::lower(part)) next = found + "/" + name;
      }
    }
    found = next;
  }
  return files::below(found, request.tree);
}

std::vector<std::string> list_in(const std::string& text, const char* separators) {
  std::vector<std::string> out;
  std::string current;
  for (const char c : text + separators[0]) {
    if (std::string_view(separators).find(c) == std::string_view::npos) {
      current += c;
      continue;
    }
    const std::string word(text::trim(current));
    current.clear();
    if (word.empty() || word.starts_with("%(") || word.starts_with("$(")) continue;
    if (std::find(out.begin(), out.end(), word) == out.end()) out.push_back(word);
  }
  return out;
}

std::string configuration_for(const std::vector<std::string>& names, bool debug) {
  const auto rank = [&](const std::string& name) {
    const std::string lower = text::lower(name);
    const bool is_debug = lower.find("debug") != std::string::npos;
    const bool is_release = lower.find("release") != std::string::npos;
    const bool wide = lower.find("x64") != std::string::npos || lower.find("win64") != std::string::npos ||
                      lower.find("linux") != std::string::npos;
    // Plain names before those with more in them.
    return std::make_tuple(debug ? !is_debug : !is_release, !wide, name.size());
  };
  const auto best =
      std::min_element(names.begin(), names.end(), [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
  return best == names.end() ? std::string{} : *best;
}

namespace {

// Macros and libraries of another kind of system, which mean nothing here.
bool is_of_other_system(const std::string& definition) {
  static const std::set<std::string> names = {"WIN32",    "_WIN32",
                                              "WIN64",    "_WIN64",
                                              "_WINDOWS", "WINDOWS",
                                              "_CONSOLE", "_MBCS",
                                              "_UNICODE", "UNICODE",
                                              "_LIB",     "_USRDLL",
                                              "_WINDLL",  "_AFXDLL",
                                              "STRICT",   "_ATL_STATIC_REGISTRY",
                                              "NOMINMAX", "WIN32_LEAN_AND_MEAN"};
  const std::string name = definition.substr(0, definition.find('='));
  return names.contains(name) || name.starts_with("_CRT_") || name.starts_with("_SCL_") ||
         name.starts_with("_WIN32_") || name == "WINVER" || name.starts_with("_SECURE_SCL") ||
         name.starts_with("_HAS_ITERATOR");
}

class Targets {
 public:
  Targets(const std::vector<EditorProject>& projects, const EditorRequest& request, model::Project& project)
      : projects_(projects), request_(request), project_(project) {}

  std::vector<model::SourceTarget> run() {
    std::set<std::string> names;
    for (const auto& one : projects_) {
      std::string name = one.name.empty() ? std::filesystem::path(one.file).stem().string() : one.name;
      for (auto& c : name) {
        if (c == '/' || c == ' ' || static_cast<unsigned char>(c) < 0x20) c = '-';
      }
      const std::string plain = name;
      for (int n = 2; !names.insert(name).second; ++n) name = plain + "-" + std::to_string(n);
      names_.push_back(name);
    }
    std::vector<model::SourceTarget> out;
    for (std::size_t i = 0; i < projects_.size(); ++i) {
      if (has_sources(i)) out.push_back(target(i));
    }
    return out;
  }

 private:
  [[nodiscard]] bool has_sources(std::size_t i) const {
    return projects_[i].kind != EditorProject::Kind::nothing && !projects_[i].sources.empty();
  }
  void leave_out(const EditorProject& from, const std::string& kind, const std::string& name,
                 const std::string& reason) {
    project_.left_out.push_back({kind, name, {from.file, 0, 0}, reason});
  }

  [[nodiscard]] std::size_t named(const std::string& name) const {
    for (std::size_t i = 0; i < projects_.size(); ++i) {
      const auto& one = projects_[i];
      if (name == one.name || name == one.file || (!one.id.empty() && text::lower(name) == text::lower(one.id)))
        return i;
    }
    return projects_.size();
  }

  model::SourceTarget target(std::size_t i) {
    const auto& one = projects_[i];
    model::SourceTarget out;
    out.name = names_[i];
    out.kind = one.kind == EditorProject::Kind::program   ? model::SourceTarget::Kind::program
               : one.kind == EditorProject::Kind::library ? model::SourceTarget::Kind::library
                                                          : model::SourceTarget::Kind::archive;
    out.place = {one.file, 0, 0};
    out.why = one.file + " names it";
    for (const auto& left : one.left_out) project_.left_out.push_back(left);
    for (const auto& file : one.resources) leave_out(one, "resources", file, "it is for systems of another kind");
    const auto defined = [&](const std::vector<std::string>& list, std::vector<std::string>& into) {
      for (const auto& word : list) {
        if (is_of_other_system(word)) continue;
        if (std::find(into.begin(), into.end(), word) == into.end()) into.push_back(word);
      }
    };
    std::map<std::string, std::size_t> parts;
    for (const auto& source : one.sources) {
      if (survey::compiled_language(source.path).empty()) continue;
      if (!files::is_file(request_.tree + "/" + source.path)) {
        project_.warnings.push_back(
            {Exit::done,
             {one.file, 0, 0},
             "the source '" + text::printable_line(source.path) + "' that it lists is not there",
             {},
             {},
             {}});
        leave_out(one, "source", source.path, "it is not there");
        continue;
      }
      model::SourceTarget::Part part;
      for (const auto* list : {&source.include, &one.include}) {
        for (const auto& folder : *list) {
          if (std::find(part.include.begin(), part.include.end(), folder) == part.include.end())
            part.include.push_back(folder);
        }
      }
      defined(one.define, part.define);
      defined(source.define, part.define);
      part.options = one.options;
      part.options.insert(part.options.end(), source.options.begin(), source.options.end());
      const std::string key = text::join(part.include, "\n") + "\n\n" + text::join(part.define, "\n") + "\n\n" +
                              text::join(part.options, "\n");
      const auto [it, fresh] = parts.try_emplace(key, out.parts.size());
      if (fresh) out.parts.push_back(std::move(part));
      out.parts[it->second].sources.push_back(source.path);
    }
    if (out.parts.empty())
      throw Fault({Exit::description,
                   {one.file, 0, 0},
                   "none of the sources that it lists is there",
                   {},
                   "bring them in, or name another description under [tree] of coctilis.toml",
                   {}});
    std::set<std::string> used;
    const auto use = [&](std::size_t other) {
      if (other == i || other >= projects_.size() || !has_sources(other)) return;
      if (projects_[other].kind == EditorProject::Kind::program) return;
      if (used.insert(names_[other]).second) out.use.push_back(names_[other]);
    };
    for (const auto& name : one.uses) use(named(name));
    for (auto word : one.libraries) {
      word = text::replace_all(word, "\\", "/");
      word = word.substr(word.rfind('/') + 1);
      const bool foreign = text::lower(word).ends_with(".lib");
      if (foreign) word = word.substr(0, word.size() - 4);
      if (word.starts_with("-l")) word = word.substr(2);
      for (const char* ending : {".a", ".so"}) {
        if (word.ends_with(ending)) word = word.substr(0, word.size() - std::string(ending).size());
      }
      const std::string bare = word.starts_with("lib") ? word.substr(3) : word;
      std::size_t other = named(word);
      if (other == projects_.size()) other = named(bare);
      if (other == projects_.size()) other = named("lib" + bare);
      if (other != projects_.size()) {
        use(other);
      } else if (foreign) {
        leave_out(one, "library", word + ".lib", "it is a library of systems of another kind");
      } else if (!bare.empty()) {
        out.libraries.push_back(bare);
      }
    }
    return out;
  }

  const std::vector<EditorProject>& projects_;
  const EditorRequest& request_;
  model::Project& project_;
  std::vector<std::string> names_;
};

}  // namespace

std::vector<model::SourceTarget> targets_of(const std::vector<EditorProject>& projects, const EditorRequest& request,
                                            model::Project& project) {
  return Targets(projects, request, project).run();
}

}  // namespace coctilis::describe::editors
