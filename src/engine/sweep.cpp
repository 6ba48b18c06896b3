#include "engine/sweep.h"

#include <filesystem>
#include <unordered_set>
#include <vector>

#include "base/files.h"
#include "engine/engine.h"

namespace coctilis::engine {

std::size_t sweep(const model::Plan& plan, Journal& journal,
                  const std::function<bool(const Journal::Entry&)>& is_gone) {
  std::vector<std::pair<PathId, std::uint64_t>> gone;
  std::unordered_set<PathId> theirs;
  std::unordered_set<PathId> others;
  std::unordered_set<PathId> folders;  // of `theirs`: filled by steps that are gone
  journal.each([&](const Journal::Entry& entry) {
    const bool goes = is_gone(entry);
    if (goes) gone.emplace_back(entry.key, entry.maker);
    auto& into = goes ? theirs : others;
    for (const ContentId id : journal.outputs(entry)) {
      into.insert(journal.content(id).path);
      if (goes && form_of(journal.content(id).form) == Form::tree) folders.insert(journal.content(id).path);
    }
    for (const PathId id : journal.written(entry)) into.insert(id);
  });
  std::size_t removed = 0;
  for (const PathId id : theirs) {
    const std::string path(journal.path(id));
    if (others.contains(id) || !plan.lies_among_results(path)) continue;
    std::error_code error;
    if (folders.contains(id))
      removed += std::filesystem::remove_all(path, error);
    else if (!files::is_folder(path))
      removed += std::filesystem::remove(path, error) ? 1 : 0;
  }
  for (const auto& [key, maker] : gone) journal.forget_step(key, maker);
  return removed;
}

Result<std::size_t> sweep_all_but(const model::Plan& plan, const std::set<std::uint64_t>& makers) {
  return guarded("taking away what is made no more", [&]() -> std::size_t {
    const std::string path = journal_of(plan);
    if (!files::is_file(path)) return 0;
    Journal journal(path);
    const auto removed =
        sweep(plan, journal, [&](const Journal::Entry& entry) { return !makers.contains(entry.maker); });
    journal.flush();
    return removed;
  });
}

}  // namespace coctilis::engine
