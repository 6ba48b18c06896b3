#include "pipeline/submodules.h"

#include <re2/re2.h>

#include "base/files.h"
#include "base/text.h"
#include "locate/known.h"

namespace coctilis::pipeline {

namespace {

// All paths below the tree, each begun by a slash and ended by a line end.
std::string paths_of(const std::string& tree) {
  std::string out;
  std::error_code error;
  for (auto it = std::filesystem::recursive_directory_iterator(tree, error);
       it != std::filesystem::recursive_directory_iterator(); it.increment(error))
    out += it->path().string().substr(tree.size()) + "\n";
  return out;
}

// Does the source name a header that is nowhere to be seen: in none of the folders, and nothing in the tree is called
// so (nor what it may be made from)? What only some systems include is not looked for, nor are standard C++ headers,
// which have no ending.
bool names_unseen_header(const std::string& source, const std::vector<std::string>& folders, const std::string& paths) {
  static const RE2 directive(R"((?m)^[ \t]*#[ \t]*(?:(if|endif)|include[ \t]*[<"]([^>"\n]+\.[^>"\n]+)[>"]))");
  const auto content = files::read(source);
  if (!content) return false;
  re2::StringPiece rest(*content);
  std::string condition;
  std::string header;
  int depth = 0;
  while (RE2::FindAndConsume(&rest, directive, &condition, &header)) {
    if (!condition.empty()) depth += condition == "if" ? 1 : -1;
    if (header.empty() || depth > 0 ||
        files::is_file(files::absolute(header, std::filesystem::path(source).parent_path().string())) ||
        std::any_of(folders.begin(), folders.end(), [&](const auto& f) { return files::is_file(f + "/" + header); }) ||
        !locate::package_of_header(header).empty())
      continue;
    if (paths.find("/" + std::filesystem::path(header).filename().string()) == std::string::npos) return true;
  }
  return false;
}

// Does the description want something out of this folder of the tree? Told by what it compiles and reads, by the
// headers that only it can have, and by what the description stopped at.
bool wanted_by(const model::Run& run, const std::string& folder) {
  const std::string path = run.tree + "/" + folder;
  const auto within = [&](const std::string& text) {
    return text.find(path) != std::string::npos || text.find(folder + "/") != std::string::npos || text == folder;
  };
  if (run.problem) {
    const auto& p = *run.problem;
    if (within(p.what) || within(p.cause) || within(p.place.file) || p.what.find("'" + folder) != std::string::npos)
      return true;
    // A folder that is gone into is named by its last part where that is how the description names it.
    const auto slash = folder.rfind('/');
    if (slash != std::string::npos && !p.place.file.empty() &&
        files::is_below(folder, std::filesystem::path(p.place.file).parent_path().string()) &&
        p.what.find("'" + folder.substr(slash + 1)) != std::string::npos)
      return true;
  }
  std::string paths;
  for (const auto& outline : run.project.outlines) {
    if (!outline.in_default) continue;
    const auto any = [&](const std::vector<std::string>& paths_named) {
      return std::any_of(paths_named.begin(), paths_named.end(),
                         [&](const std::string& named) { return files::is_below(named, path); });
    };
    if (any(outline.sources)) return true;
    if (!any(outline.include_folders)) continue;
    // The folder may be on the list for some only; whether this unit misses it shows in what it includes.
    const auto& compiler = run.toolchain.compiler_or_any("C++");
    std::vector<std::string> folders = compiler.include_folders;
    folders.insert(folders.end(), outline.include_folders.begin(), outline.include_folders.end());
    if (paths.empty()) paths = paths_of(run.tree);
    for (const auto& source : outline.sources) {
      if (names_unseen_header(source, folders, paths)) return true;
    }
  }
  return false;
}

}  // namespace

bool can_be_filled(const model::Run& run) {
  return std::any_of(run.survey.submodules.begin(), run.survey.submodules.end(), [](const model::Submodule& m) {
    return m.state == model::SubmoduleState::empty && !m.pinned.empty();
  });
}

std::string fill_command(const model::Run& run) {
  return "coctilis survey --fill " + text::shell_quote(run.options.tree);
}

void add_submodule_requirements(model::Run& run) {
  for (const auto& module : run.survey.submodules) {
    if (module.state == model::SubmoduleState::elsewhere) {
      // Not in the way of a build, but recorded results are reproduced at the revision that is pinned.
      model::Finding other;
      other.requirement = {model::RequirementKind::submodule,
                           module.path,
                           "= " + module.pinned.substr(0, 12),
                           false,
                           module.is_source() ? "coctilis.toml" : ".gitmodules",
                           module.place,
                           {}};
      other.refused = true;
      other.reason = "it stands at revision " + module.actual.substr(0, 12) +
                     (module.changed ? ", with local changes" : "") + "; to change that: " + fill_command(run);
      run.findings.push_back(std::move(other));
    }
    if (module.state != model::SubmoduleState::empty) continue;
    model::Finding finding;
    finding.requirement = {model::RequirementKind::submodule,
                           module.path,
                           module.pinned.empty() ? "" : "= " + module.pinned.substr(0, 12),
                           module.is_source() || wanted_by(run, module.path),
                           module.is_source()      ? "coctilis.toml"
                           : module.within.empty() ? ".gitmodules"
                                                   : module.within + "/.gitmodules",
                           module.place,
                           {}};
    // The reader may have come upon it already, and says who wants it.
    const auto known = std::find_if(run.findings.begin(), run.findings.end(), [&](const model::Finding& f) {
      return f.requirement.kind == model::RequirementKind::submodule && f.requirement.name == module.path;
    });
    if (known != run.findings.end()) {
      finding.requirement.required_by = known->requirement.required_by;
      finding.requirement.place = known->requirement.place;
      finding.requirement.required = true;
      run.findings.erase(known);
    }
    finding.refused = true;
    finding.looked = {run.tree + "/" + module.path};
    finding.reason =
        module.pinned.empty()
            ? "its folder is empty, and the tree has no repository data that say which revision is wanted" +
                  (module.url.empty() ? std::string{} : "; it is from " + module.url)
            : "its folder is empty; wanted is revision " + module.pinned + " of " + module.url +
                  "; fill it with: " + fill_command(run);
    run.findings.push_back(std::move(finding));
  }
  const auto gap = std::find_if(run.findings.begin(), run.findings.end(), [](const model::Finding& f) {
    return f.requirement.kind == model::RequirementKind::submodule && f.requirement.required && !f.found;
  });
  if (gap == run.findings.end()) return;
  // A name that nothing outside answers to is most likely that of a target in there.
  for (auto& finding : run.findings) {
    if (finding.found || finding.requirement.kind != model::RequirementKind::library || !finding.package.empty() ||
        !finding.requirement.required_by.starts_with("target "))
      continue;
    finding.requirement.required = false;
    finding.reason = "perhaps a target of " + gap->requirement.name + ", which is empty";
    finding.looked.clear();
  }
}

}  // namespace coctilis::pipeline
