// clean: shows what would go, with sizes; --yes does it.
#include "base/files.h"
#include "base/text.h"
#include "commands.h"
#include "engine/kiln.h"
#include "pipeline/edits.h"
#include "survey/survey.h"

namespace coctilis::app {

namespace {

std::uint64_t size_of(const std::filesystem::path& folder) {
  std::uint64_t sum = 0;
  std::error_code error;
  for (auto it = std::filesystem::recursive_directory_iterator(folder, error);
       !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
    if (it->is_regular_file(error) && !it->is_symlink(error)) sum += it->file_size(error);
  }
  return sum;
}

int clean(Common& common, bool yes) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  std::error_code error;
  const std::string tree = tree_of(common);
  const std::string root = survey::kiln_root(tree, common.run.kiln);
  // By a link something else would go, wherever whoever made the tree has led it.
  if (const auto astray = engine::led_astray(root, tree)) {
    screen.problem(*astray);
    return static_cast<int>(astray->exit);
  }
  // Only folders that carry our mark are touched.
  if (!files::read(root + "/.gitignore").value_or("").starts_with(survey::kiln_mark)) {
    screen.line("clean", "there is no kiln at " + root);
    return 0;
  }
  for (const auto& entry : std::filesystem::directory_iterator(root, error)) {
    const std::string label = entry.path().filename().string();
    if (entry.is_symlink(error)) {
      if (yes) std::filesystem::remove(entry.path(), error);
      screen.line(yes ? "removed" : "kiln", label + ", a link" + (yes ? "" : "; would be removed"));
      continue;
    }
    // The edited copy of the tree, which all kilns have together.
    if (entry.path() == pipeline::edited_folder(root) && entry.is_directory() && common.run.variant.empty()) {
      const auto size = size_of(entry.path());
      if (yes) std::filesystem::remove_all(entry.path(), error);
      screen.line(yes ? "removed" : "kiln", label + ", " + text::size(size) + (yes ? "" : "; would be removed"));
      continue;
    }
    if (!entry.is_directory() || !files::is_file(entry.path().string() + "/lock")) continue;
    if (!common.run.variant.empty() && !label.ends_with("-" + common.run.variant)) continue;
    const auto locked = engine::lock_kiln(entry.path().string());
    if (!locked) {
      screen.problem(locked.problem());
      return static_cast<int>(locked.problem().exit);
    }
    const auto size = size_of(entry.path());
    if (yes) std::filesystem::remove_all(entry.path(), error);
    screen.line(yes ? "removed" : "kiln", label + ", " + text::size(size) + (yes ? "" : "; would be removed"));
  }
  // The ignore file would hide whatever comes to lie there next.
  if (yes && files::names_in(root) == std::vector<std::string>{".gitignore"}) std::filesystem::remove_all(root, error);
  if (!yes) screen.line("note", "nothing was removed; --yes does it");
  return 0;
}

}  // namespace

void add_clean(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand("clean", "Shows which kilns would be removed, with sizes; --yes removes them");
  add_tree(*command, common);
  auto yes = std::make_shared<bool>(false);
  auto* remove = command->add_flag("--yes", *yes, "Remove them");
  command
      ->add_flag_callback(
          "--dry-run", [] {}, "Only show them, as without --yes")
      ->excludes(remove);
  command->add_option("--kiln", common.run.kiln, "Output folder (default: TREE/kiln)")->type_name("DIR");
  command->add_option("--variant", common.run.variant, "Only kilns of this variant")->type_name("NAME");
  add_output(*command, common);
  command->callback([&common, yes] { common.chosen = [&common, yes] { return clean(common, *yes); }; });
}

}  // namespace coctilis::app
