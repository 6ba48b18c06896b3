// Making what the sources of a tree without a description include and do not come with: headers from templates, a
// config.h that nobody wrote down, and what generators make of grammars.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "describe/read_request.h"
#include "describe/sources/generated.h"
#include "describe/sources/outside.h"
#include "describe/sources/tree.h"

namespace coctilis::describe::sources {

class Preparation {
 public:
  // All but the last must outlive it. `libc`: symbols that programs have without a word; `told`: values that the tree
  // itself gives names.
  Preparation(const ReadRequest& request, Tree& tree, Outside& outside, const std::set<std::string>& libc,
              std::string tree_name, std::map<std::string, std::string> told);

  // Makes what these sources (relative) need, below the folder for results, and tells the tree of it.
  void run(const std::vector<std::string>& sources);

  [[nodiscard]] const std::vector<Grammar>& grammars() const { return grammars_; }
  // The generators of the grammars, absolute; empty text for one that is missing, which is a finding then.
  [[nodiscard]] const std::vector<std::string>& generators() const { return generators_; }
  // Programs of the tree that write what sources include.
  [[nodiscard]] const std::vector<Maker>& makers() const { return makers_; }
  // Folders with headers that were made; absolute.
  [[nodiscard]] const std::set<std::string>& folders() const { return folders_; }
  // Sources that were made of templates: the template, relative -> the source, absolute.
  [[nodiscard]] const std::map<std::string, std::string>& filled_sources() const { return filled_sources_; }
  // A header that was made is only read where HAVE_CONFIG_H is defined.
  [[nodiscard]] bool wants_have_config() const { return wants_have_config_; }
  // What this system has of a name that sources ask for; nothing when it has not.
  [[nodiscard]] std::optional<std::string> value(const std::string& name) const { return values_.value(name); }
  // What was made of which file, in words.
  [[nodiscard]] const std::vector<std::string>& notes() const { return notes_; }

 private:
  void run_grammars(const std::set<std::string>& absent);
  void fill_sources();
  bool make_headers(const std::vector<std::string>& sources);
  bool run_makers(const std::vector<std::string>& sources);
  [[nodiscard]] std::optional<Maker> maker_of(const Absent& absent);
  bool run_maker(Maker& maker);
  void add(const std::string& name, const std::string& in, const std::string& content);
  [[nodiscard]] std::string version() const;

  const ReadRequest& request_;
  Tree& tree_;
  const std::string tree_name_;
  HeaderValues values_;
  std::vector<Grammar> grammars_;
  std::vector<std::string> generators_;
  std::vector<Maker> makers_;
  std::set<std::string> without_maker_;  // names that nothing in the tree makes
  std::set<std::string> folders_;
  std::set<std::string> made_;  // names of headers, with where they were asked for
  std::map<std::string, std::string> filled_sources_;
  bool wants_have_config_ = false;
  std::vector<std::string> notes_;
};

}  // namespace coctilis::describe::sources
