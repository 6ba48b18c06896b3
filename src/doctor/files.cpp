// Files that compilers do not find or may not read.
#include "base/files.h"

#include <unistd.h>

#include <algorithm>

#include "base/text.h"
#include "doctor/case.h"
#include "locate/known.h"

namespace coctilis::doctor {

namespace {

bool needs(const model::Step& step, const std::string& file) {
  const auto has = [&](const std::vector<std::string>& list) {
    return std::find(list.begin(), list.end(), file) != list.end();
  };
  return has(step.inputs) || has(step.after);
}

// What is told of a file that a step is said to make.
Explanation not_made(const Case& c, const model::Step& maker, const std::string& file) {
  return {"missing result",
          "the commands " +
              (maker.place.file.empty() ? "of '" + (maker.target.empty() ? maker.subject : maker.target) + "'"
                                        : "at " + maker.place.text()) +
              " ended well without making '" + files::below(files::below(file, c.plan.work), c.plan.tree) +
              "', which they are said to make",
          "mend these commands, or name the file that they do make"};
}

// The file is one that the step itself compiles.
Explanation missing_source(const Case& c, const std::string& file) {
  const std::string shown = files::below(files::below(file, c.plan.work), c.plan.tree);
  if (files::exists(file) && ::access(file.c_str(), R_OK) != 0)
    return {"unreadable file", "'" + shown + "' is there, but this user may not read it",
            "give yourself the right to read it"};
  if (const auto* maker = maker_of(c.plan, file); maker != nullptr && maker != &c.step)
    return not_made(c, *maker, file);
  return {"missing source", "'" + shown + "' is not there",
          "put it back, or take it out of '" + c.step.target + "'" +
              (c.step.place.file.empty() ? "" : " (" + c.step.place.text() + ")")};
}

}  // namespace

Explanation missing_header(const Case& c) {
  const std::string absolute = files::absolute(c.first, c.folder());
  if (absolute == c.step.source ||
      std::find(c.step.inputs.begin(), c.step.inputs.end(), absolute) != c.step.inputs.end())
    return missing_source(c, absolute);
  Explanation out{"missing header", "the header '" + c.first + "' is in none of the include folders", {}};
  // A rule that would make it, under whatever folder?
  for (const auto& step : c.plan.steps) {
    for (const auto& output : step.outputs) {
      if (!output.ends_with("/" + c.first)) continue;
      if (!files::exists(output) && needs(c.step, output)) return not_made(c, step, output);
      out.remedy = "it is generated (" + step.place.text() + "); '" + c.step.target +
                   "' neither depends on that nor has its folder";
      return out;
    }
  }
  if (const std::string package = locate::package_of_header(c.first); !package.empty()) {
    out.remedy = how_to_install(c, package, {});
    return out;
  }
  std::error_code error;
  std::size_t looked = 0;
  for (auto it = std::filesystem::recursive_directory_iterator(c.plan.tree, error);
       it != std::filesystem::recursive_directory_iterator() && looked < 200000; it.increment(error), ++looked) {
    if (it->path().string().ends_with("/" + c.first)) {
      const std::string folder = it->path().string().substr(0, it->path().string().size() - c.first.size() - 1);
      out.remedy = "the tree has it in '" + files::below(folder, c.plan.tree) + "', which is no include folder of '" +
                   c.step.target + "'";
      return out;
    }
  }
  // An include folder that is empty or not there at all is the first suspect.
  for (const auto& word : text::shell_words(c.result.command)) {
    if (!word.starts_with("-I")) continue;
    const std::string folder = files::absolute(word.substr(2), c.folder());
    if (!files::is_below(folder, c.plan.tree) || files::is_below(folder, c.plan.kiln) ||
        std::filesystem::directory_iterator(folder, error) != std::filesystem::directory_iterator())
      continue;
    out.remedy = "its include folder '" + files::below(folder, c.plan.tree) +
                 "' is empty or not there: 'coctilis survey' tells whether that is a submodule, and how it is filled";
    return out;
  }
  out.remedy = "find the library it belongs to, and give its prefix with --with PREFIX if it is not in a usual place";
  return out;
}

Explanation unreadable_file(const Case& c) {
  const std::string file = files::absolute(c.first, c.folder());
  if (!files::exists(file) || ::access(file.c_str(), R_OK) == 0) return {};
  return {"unreadable file", "'" + files::below(file, c.plan.tree) + "' is there, but this user may not read it",
          "give yourself the right to read it"};
}

}  // namespace coctilis::doctor
