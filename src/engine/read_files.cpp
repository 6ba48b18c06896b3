#include "engine/read_files.h"

#include <algorithm>

#include "base/files.h"

namespace coctilis::engine {

using model::Reads;
using model::Step;
using model::StepKind;

Reads ReadFiles::how(std::size_t index, PathId key) const {
  const Step& step = plan_.steps[index];
  if ((step.reads == Reads::asked || step.reads == Reads::kept) && journal_.is_to_be_watched(key, plan_.maker))
    return Reads::opened;
  return step.reads;
}

std::vector<ContentId> ReadFiles::declared(const Running& running) {
  const Step& step = plan_.steps[running.step];
  const bool compiles = step.kind == StepKind::compile || step.kind == StepKind::archive || step.kind == StepKind::link;
  const Form form = compiles ? Form::content : Form::program;
  std::vector<ContentId> out;
  for (const auto& input : step.inputs) {
    const PathId id = journal_.id(input);
    // What it wrote itself is as it left it.
    if (running.files.written.contains(input)) contents_.forget(id);
    out.push_back(journal_.content(contents_.take(id, form)));
  }
  for (const auto& folder : step.input_folders)
    out.push_back(journal_.content(contents_.take(journal_.id(folder), Form::tree)));
  for (const auto& tool : step.tools) out.push_back(journal_.content(contents_.take(journal_.id(tool), Form::program)));
  return out;
}

StepRecord ReadFiles::record(Running& running, const Runner& runner, const std::vector<bool>& finished) {
  const Step& step = plan_.steps[running.step];
  StepRecord out;
  out.inputs = declared(running);
  std::set<PathId> known;
  for (const ContentId id : out.inputs) known.insert(journal_.content(id).path);
  for (const auto& output : step.outputs) known.insert(journal_.id(output));
  std::set<ContentId> found;
  if (running.reads == Reads::opened || running.reads == Reads::watched || running.reads == Reads::noted) {
    out.watch = running.reads != step.reads;
    if (running.watched) {
      add_watched(running, finished, found);
      add_written(running, out);
    }
  } else {
    const auto told = runner.told(running);
    // A compiler that is asked and says nothing is watched from now on.
    if (!told) out.watch = true;
    std::vector<PathId> read;
    for (const auto& input : step.inputs) read.push_back(journal_.id(input));
    if (told) {
      for (const auto& path : *told) {
        const PathId id = journal_.id(path);
        if (!known.insert(id).second) continue;
        read.push_back(id);
        found.insert(journal_.content(contents_.take_as_of(id, Form::content, running.began)));
      }
    }
    const auto searched = lookups_.of(step.search, step.source, read, running.began);
    out.searched = searched.folders;
    out.any_name = searched.any_name;
    found.insert(searched.names.begin(), searched.names.end());
    if (!told && !step.source.empty())
      found.insert(
          journal_.content({journal_.id(step.source), static_cast<std::uint32_t>(Form::content), unknown_hash}));
  }
  for (const ContentId id : found) {
    if (std::find(out.inputs.begin(), out.inputs.end(), id) == out.inputs.end()) out.inputs.push_back(id);
  }
  return out;
}

bool ReadFiles::is_output(std::size_t step, const std::string& path) const {
  const auto& outputs = plan_.steps[step].outputs;
  const auto& folders = plan_.steps[step].output_folders;
  return std::find(outputs.begin(), outputs.end(), path) != outputs.end() || learned_.of(step).has(path) ||
         std::any_of(folders.begin(), folders.end(), [&](const auto& folder) { return files::is_below(path, folder); });
}

bool ReadFiles::has_a_say(const std::string& path) const {
  const bool in_kiln = files::is_below(path, plan_.kiln);
  if (files::is_below(path, plan_.work) || files::is_below(path, plan_.tree)) {
    // The kiln may lie in the tree.
    return !in_kiln || files::is_below(path, plan_.work) || plan_.in_copy();
  }
  if (files::is_below(path, plan_.finished())) return true;
  // Where the user has pointed at everything has, also among temporary files.
  const bool in_prefix = std::any_of(plan_.prefixes.begin(), plan_.prefixes.end(),
                                     [&](const auto& prefix) { return files::is_below(path, prefix); });
  return !in_kiln && (in_prefix || may_have_a_say(path));
}

void ReadFiles::add_watched(const Running& running, const std::vector<bool>& finished, std::set<ContentId>& inputs) {
  const auto& files = running.files;
  const auto counts = [&](const std::string& path) {
    if (files.written.contains(path) || !has_a_say(path)) return false;
    if (is_output(running.step, path)) return false;
    // What another step has yet to make was not there in its final form: the order of the two is nobody's word.
    const auto maker = graph_.maker_of(path);
    return maker == Graph::none || maker == running.step || finished[maker];
  };
  const auto add = [&](const std::string& path, Form form) {
    inputs.insert(journal_.content(contents_.take_as_of(journal_.id(path), form, running.began)));
  };
  for (const auto& path : files.read) {
    if (!counts(path)) continue;
    const bool program = files.programs.contains(path);
    // A folder that is opened like a file is only looked at.
    add(path, contents_.now(journal_.id(path)).is_folder ? Form::presence : program ? Form::program : Form::content);
  }
  for (const auto& path : files.asked) {
    if (files.read.contains(path) || !counts(path)) continue;
    add(path, Form::presence);
  }
  for (const auto& path : files.listed) {
    // What lies in a folder that steps write to changes as they do: there, the names count that the tree has.
    const std::string in_tree = plan_.in_original(path);
    if (!in_tree.empty())
      add(in_tree, Form::names);
    else if (counts(path) && !files::is_below(path, plan_.work))
      add(path, Form::names);
  }
}

void ReadFiles::add_written(const Running& running, StepRecord& record) {
  const Step& step = plan_.steps[running.step];
  if (!writers_known_) {
    journal_.each([&](const Journal::Entry& entry) {
      for (const ContentId id : journal_.outputs(entry))
        writers_[journal_.content(id).path].push_back({entry.key, entry.maker});
      for (const PathId id : journal_.written(entry)) writers_[id].push_back({entry.key, entry.maker});
    });
    writers_known_ = true;
  }
  const PathId key = journal_.id(step.outputs.front());
  for (const auto& path : running.files.written) {
    if (!files::lies_below(path, plan_.work) && !files::lies_below(path, plan_.tree)) continue;
    if (!plan_.in_copy() && !files::is_below(path, plan_.work)) continue;
    if (!files::is_file(path) || is_output(running.step, path)) continue;
    const PathId id = journal_.id(path);
    record.written.push_back(id);
    const auto maker = graph_.maker_of(path);
    if (maker != Graph::none && maker != running.step) continue;
    auto& writers = writers_[id];
    bool alone = true;
    for (const auto& other : writers) {
      if (other.key == key && other.maker == plan_.maker) continue;
      // Of two that write it, neither can say what it has to be.
      give_up(id, other.key, other.maker);
      alone = false;
    }
    writers.push_back({key, plan_.maker});
    if (!alone) continue;
    contents_.forget(id);
    record.outputs.push_back(journal_.content(contents_.take(id, Form::output)));
  }
}

void ReadFiles::give_up(PathId path, PathId key, std::uint64_t maker) {
  const auto* entry = journal_.step(key, maker);
  if (entry == nullptr || path == key) return;
  const auto outputs = journal_.outputs(*entry);
  if (std::none_of(outputs.begin(), outputs.end(), [&](ContentId id) { return journal_.content(id).path == path; }))
    return;
  StepRecord record = journal_.record(*entry);
  std::erase_if(record.outputs, [&](ContentId id) { return journal_.content(id).path == path; });
  journal_.put_step(key, record);
}

}  // namespace coctilis::engine
