// The one rule by which a step need not run: its command, its tools, what it reads and what it makes are by content as
// the journal says, and nothing that it looked for and did not find is there now. Times of files count in one place: a
// result that came with the tree, and that no step is known to have made, goes by the time rule of makefiles.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "engine/contents.h"
#include "engine/journal.h"
#include "engine/learned.h"
#include "engine/lookups.h"
#include "model/plan.h"

namespace coctilis::engine {

// What tells one command of a step from another: the words and folders of what it does, and what it makes; and the same
// with its environment.
struct CommandHashes {
  Hash words;
  Hash command;
};
[[nodiscard]] CommandHashes command_hashes(const model::Plan& plan, const model::Step& step);

class Freshness {
 public:
  // Told of what has to be known about the step besides: whether a step that starts makes of its own has nothing to do
  // in any of them, and whether a file is as it came with the tree.
  struct Questions {
    std::function<bool(const model::Step&)> settled;
    std::function<bool(const std::string&)> given;
  };
  Freshness(const model::Plan& plan, Journal& journal, Contents& contents, Lookups& lookups, Questions questions,
            const Learned* learned = nullptr);

  // Why the step has to run; empty: it need not. `keep`: what is found out on the way is put into the journal.
  [[nodiscard]] std::string reason_to_run(std::size_t step, bool keep);
  // Outputs of a step that is to run which it must not find: they are not as it left them, it was cut off while it made
  // them, or they are archives whose members are others now.
  [[nodiscard]] std::vector<std::string> spoilt_outputs(std::size_t step);
  [[nodiscard]] const CommandHashes& command(std::size_t step);
  [[nodiscard]] PathId key(std::size_t step);
  // What was found out about a file counts no more: a step has written it, or may have.
  void forget(PathId path);
  // The same of a folder and all that lies in it, or did when it was looked at.
  void forget_tree(PathId path);
  // A path as a person sees it: below the kiln or the tree.
  [[nodiscard]] std::string shown(std::string_view path) const;

 private:
  [[nodiscard]] bool is(ContentId id);
  [[nodiscard]] std::string what_changed(const Journal::Entry& entry, std::size_t index);
  [[nodiscard]] bool matters(const Journal::Entry& entry, const Content& output, std::size_t index);
  [[nodiscard]] std::string difference(const Content& content, bool output);
  [[nodiscard]] bool covers(const Journal::Entry& entry, const model::Step& step, std::string* missing);
  [[nodiscard]] bool was_given_anew(const Journal::Entry& entry, const model::Step& step);
  [[nodiscard]] std::string older_than_inputs(std::size_t index, bool keep);
  void adopt(std::size_t index, const Journal::Entry& from);

  const model::Plan& plan_;
  Journal& journal_;
  Contents& contents_;
  Lookups& lookups_;
  Questions questions_;
  const Learned* learned_;  // what steps were learned to make; may be null
  struct Known {
    PathId key = Journal::none;
    CommandHashes command;
  };
  std::vector<Known> known_;          // by step
  std::vector<bool> read_;            // by path: a record has it among what was read
  std::vector<std::uint32_t> marks_;  // by path, for comparing lists of them
  std::uint32_t mark_ = 0;
  std::vector<std::uint8_t> state_;  // by content: 0 not looked at, 1 it is as it was, 2 it is another
};

}  // namespace coctilis::engine
