// The files by which other trees find targets of this one.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "describe/listfile/declared.h"
#include "describe/listfile/lower/artifacts.h"

namespace coctilis::describe::listfile::lower {

class Exports {
 public:
  Exports(const Declared& project, const Artifacts& artifacts) : project_(project), artifacts_(artifacts) {}

  std::map<std::string, std::vector<const Target*>> sets;  // targets that go together, by the name of the set
  std::map<std::string, std::string> name_spaces;          // by the name of the set
  // Where what a target makes is installed, and include folders besides its own; both below the prefix, or absolute.
  std::map<const Target*, std::string> installed;
  std::map<const Target*, std::vector<std::string>> include_folders;

  // The text that declares `targets` with what they hand on. `for_installed`: for what is installed, with paths from
  // the file itself, which lies in `folder` of the prefix; else for what is in the kiln.
  [[nodiscard]] std::string text(const std::vector<const Target*>& targets, const std::string& name_space,
                                 bool for_installed, const std::string& folder) const;

 private:
  [[nodiscard]] static std::string exported_name(const Target& target, const std::string& name_space);
  // The name under which other trees know a target of this one: of the export at hand, or of another one.
  [[nodiscard]] std::string name_for_readers(const std::string& word, const std::vector<const Target*>& here,
                                             const std::string& name_space) const;

  const Declared& project_;
  const Artifacts& artifacts_;
};

}  // namespace coctilis::describe::listfile::lower
