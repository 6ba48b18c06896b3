// The sources of a tree without a description, one by one: which there are, which are parts of others, and what each
// defines and wants, found out by compiling it.
#pragma once

#include <map>
#include <set>
#include <string>
#include <vector>

#include "describe/read_request.h"
#include "describe/sources/lists.h"
#include "describe/sources/outside.h"
#include "describe/sources/preparation.h"
#include "describe/sources/tree.h"
#include "describe/sources/trial.h"
#include "model/project.h"

namespace coctilis::describe::sources {

struct Candidate {
  std::string path;    // relative; of a source that is made where it would lie
  std::string source;  // as settings name it: the path, or what it is made of
  std::string language;
  survey::FolderRole role = survey::FolderRole::own;
  Reach reach;
  // With what it is compiled besides, for what is none of the tree's.
  std::vector<std::string> folders;
  std::vector<std::string> definitions;
  std::vector<std::string> options;
  Trial trial;
  bool counts = true;   // else it has been left out
  std::string part_of;  // a file that includes it
  // It lies among tests, examples and the like, or is called so.
  [[nodiscard]] bool is_aside() const;
};

class Candidates {
 public:
  // All must outlive it. `libc`: symbols that programs have without a word.
  Candidates(const ReadRequest& request, Tree& tree, Outside& outside, Preparation& preparation,
             const SourceLists& lists, const std::set<std::string>& libc);

  // Finds all and judges each. Throws Fault (Exit::description) when there are none, too many, or most do not compile.
  void run();

  [[nodiscard]] const std::vector<Candidate>& all() const { return candidates_; }
  // Names that they include and that are none of the tree's.
  [[nodiscard]] std::set<std::string> headers() const;
  // A header is missing without which what they come to is not known: said before anything else.
  [[nodiscard]] bool any_required_missing() const { return missing_; }
  // Some are in a language that the tool chain has no compiler for; what is missing has been kept.
  [[nodiscard]] bool any_without_compiler() const { return !languages_without_compiler_.empty(); }
  // Taken out, with the reason; to be added to.
  std::vector<model::LeftOut> left_out;
  std::vector<Problem> warnings;

  void leave_out(const std::string& path, const std::string& reason);

 private:
  void leave_out(Candidate& one, const std::string& reason);
  void collect();
  void collect_made();
  void say_how_it_is_read(Candidate& one);
  void find_fragments();
  [[nodiscard]] bool gathers(const std::string& path) const;
  void compile();
  void find_outside(Candidate& one);
  [[nodiscard]] TrialSource trial_of(const Candidate& one);
  [[nodiscard]] std::string asked_of(const Candidate& one) const;
  void judge_parts();
  void judge_failures();
  void judge_failure(Candidate& one, const std::map<std::string, std::string>& wanted, bool any_compiled);
  void judge_doubtful();
  void find_needed_by_modules();
  [[nodiscard]] bool has_entry(const Candidate& one) const;
  [[nodiscard]] std::set<std::string> wanted_nowhere();
  [[nodiscard]] std::string shorter(const std::string& failure) const;

  const ReadRequest& request_;
  Tree& tree_;
  Outside& outside_;
  Preparation& preparation_;
  const SourceLists& lists_;
  const std::set<std::string>& libc_;
  std::vector<Candidate> candidates_;
  std::set<std::string> languages_without_compiler_;
  std::set<std::string> own_modules_;  // that sources of the tree define
  std::set<std::string> needed_by_modules_;
  std::vector<const Candidate*> doubtful_;  // among the tree's own, and do not compile
  bool missing_ = false;
};

}  // namespace coctilis::describe::sources
