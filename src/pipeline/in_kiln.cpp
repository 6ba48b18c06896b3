#include "pipeline/in_kiln.h"

#include <filesystem>

#include "base/answers.h"
#include "base/confine.h"
#include "base/files.h"
#include "base/observed.h"
#include "engine/kiln.h"
#include "survey/survey.h"

namespace coctilis::pipeline {

bool in_kiln(model::Run& run, const std::function<void()>& work) {
  std::vector<std::string> folders;
  std::string root;
  bool was_there = false;
  {
    const observe::Apart own;  // what this program keeps for itself is nothing that the tree hangs on
    root = survey::kiln_root(run.own_tree(), run.options.kiln);
    was_there = files::is_folder(root);
    if (const auto opened = engine::open_root(root, survey::kiln_mark, run.own_tree()); !opened) {
      run.problem = opened.problem();
      return false;
    }
    std::error_code error;
    const auto shared = std::filesystem::path(Answers::usual_path()).parent_path();
    std::filesystem::create_directories(shared, error);
    folders = {root};
    if (!error) folders.push_back(shared.string());
  }
  const auto done = guarded("the run", [&] {
    with_writing_limited_to(folders, work);
    return true;
  });
  if (!done) run.problem = done.problem();
  // A run that made nothing leaves nothing.
  const observe::Apart own;
  std::error_code error;
  if (!was_there && files::names_in(root) == std::vector<std::string>{".gitignore"})
    std::filesystem::remove_all(root, error);
  return done.ok();
}

}  // namespace coctilis::pipeline
