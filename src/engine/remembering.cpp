// Records of steps that something else has run.
#include <set>

#include "base/files.h"
#include "engine/contents.h"
#include "engine/engine.h"
#include "engine/freshness.h"
#include "engine/journal.h"
#include "engine/lookups.h"

namespace coctilis::engine {

std::string journal_of(const model::Plan& plan) { return plan.journal.empty() ? plan.kiln + "/journal" : plan.journal; }

Result<bool> remember_made(const model::Plan& plan, const std::vector<std::vector<std::string>>& read) {
  return guarded("remembering what was made", [&] {
    Journal journal(journal_of(plan));
    Contents contents(journal);
    Lookups lookups(plan, journal, contents);
    Freshness freshness(plan, journal, contents, lookups, {});
    const Moment now = Moment::now();
    for (std::size_t i = 0; i < plan.steps.size(); ++i) {
      const model::Step& step = plan.steps[i];
      StepRecord record;
      record.command = freshness.command(i).command;
      record.words = freshness.command(i).words;
      record.maker = plan.maker;
      record.recorded = wall_clock();
      std::set<PathId> known;
      std::vector<PathId> all;
      const auto add = [&](const std::string& path, Form form) {
        const PathId id = journal.id(path);
        if (!known.insert(id).second) return;
        if (form == Form::content) all.push_back(id);
        record.inputs.push_back(journal.content(contents.take(id, form)));
      };
      for (const auto& input : step.inputs) add(input, Form::content);
      for (const auto& folder : step.input_folders) add(folder, Form::tree);
      for (const auto& tool : step.tools) add(tool, Form::program);
      for (const auto& path : read[i]) add(path, Form::content);
      for (const auto& output : step.outputs)
        record.outputs.push_back(journal.content(contents.take_result(journal.id(output), false)));
      for (const auto& folder : step.output_folders)
        record.outputs.push_back(journal.content(contents.take(journal.id(folder), Form::tree)));
      const auto searched = lookups.of(step.search, step.source, all, now);
      record.searched = searched.folders;
      record.any_name = searched.any_name;
      record.inputs.insert(record.inputs.end(), searched.names.begin(), searched.names.end());
      journal.put_step(freshness.key(i), record);
    }
    journal.flush();
    return true;
  });
}

}  // namespace coctilis::engine
