#include "pipeline/clients_prefix.h"

#include <filesystem>

#include "base/files.h"
#include "base/frame.h"
#include "base/packing.h"
#include "base/sights.h"
#include "record/kept.h"
#include "smoke/client.h"
#include "stage/stage.h"

namespace coctilis::pipeline {

namespace {

constexpr std::string_view heading = "coctilis installed for clients 1\n";

std::string prefix_in(const std::string& kiln) { return kiln + "/checked/staged"; }
std::string note_in(const std::string& kiln) { return kiln + "/checked/staged.of"; }

bool installs_libraries(const model::Plan& plan, const std::string& prefix) {
  return !smoke::installed_libraries(plan, prefix).empty();
}

// What is linked anew for its installed place hangs on its steps as well: these make its file anew when they are
// others.
std::string key_of_install(const model::Plan& plan) { return record::key_of(packed(plan.install)); }

// Of a result its youth does not matter, as nobody but this program writes it; of a source it does.
void look_at(Sights& sights, const std::string& path, const model::Plan& plan) {
  if (plan.lies_among_results(path)) return sights.see_own(path);
  std::error_code error;
  const auto kind = std::filesystem::symlink_status(path, error).type();
  if (kind == std::filesystem::file_type::not_found) return sights.look(Sights::Kind::absent, path);
  if (kind == std::filesystem::file_type::symlink) {
    sights.look(Sights::Kind::link, path);
    sights.look(std::filesystem::exists(path, error) ? Sights::Kind::file : Sights::Kind::dangling, path);
    return;
  }
  sights.look(Sights::Kind::file, path);
}

void look_at_sources(Sights& sights, const model::Plan& plan) {
  for (const auto& item : plan.install) {
    const bool has_source =
        item.kind == model::InstallItem::Kind::file || item.kind == model::InstallItem::Kind::folder;
    if (!has_source || item.from.empty() || item.to.starts_with('/')) continue;
    look_at(sights, item.from, plan);
    std::error_code error;
    if (!std::filesystem::is_directory(item.from, error)) continue;
    for (auto it = std::filesystem::recursive_directory_iterator(item.from, error);
         !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error))
      look_at(sights, it->path().string(), plan);
  }
}

}  // namespace

std::string prefix_of_clients(const model::Run& run) {
  if (run.project.by_recipes) {
    std::string installed = run.kiln + "/installed";
    return files::is_folder(installed) ? installed : std::string{};
  }
  std::string prefix = prefix_in(run.kiln);
  return installs_libraries(run.plan, prefix) ? prefix : std::string{};
}

bool is_installed_for_clients(const model::Plan& plan, const std::string& kiln) {
  if (!installs_libraries(plan, prefix_in(kiln))) return true;
  const auto content = files::read(note_in(kiln));
  Frame frame;
  return content && read_frame(*content, heading, key_of_install(plan), frame) == Framed::whole &&
         Sights::stand(frame.seen);
}

std::string install_for_clients(const model::Run& run) {
  // A run repeats another only where this stands.
  if (run.repeats || is_installed_for_clients(run.plan, run.kiln)) return {};
  const std::string prefix = prefix_in(run.kiln);
  std::error_code error;
  std::filesystem::remove(note_in(run.kiln), error);
  std::filesystem::remove_all(prefix, error);
  Sights sights;
  // Before they are read: what changes meanwhile is seen to be another.
  look_at_sources(sights, run.plan);
  const auto staged = stage::install(run.plan, prefix);
  if (!staged) return "the tree cannot be installed: " + staged.problem().what;
  sights.see_own_below(prefix);
  if (sights.spoilt()) return {};
  try {
    write_frame(note_in(run.kiln), heading, key_of_install(run.plan), sights.packed(), {});
  } catch (const Fault&) {
    // It is installed again next time.
  }
  return {};
}

}  // namespace coctilis::pipeline
