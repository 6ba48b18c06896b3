// The files of a tree that is built from its sources: what each is for, and which header an #include means.
#pragma once

#include <functional>
#include <map>
#include <set>
#include <string>
#include <unordered_map>
#include <vector>

#include "describe/sources/scan.h"
#include "model/settings.h"
#include "survey/folders.h"

namespace coctilis::describe::sources {

struct File {
  std::string path;      // relative to the tree; of a generated file absolute
  std::string language;  // "C", "C++", "Fortran", "Assembler"; empty: it is not compiled
  survey::FolderRole role = survey::FolderRole::own;
};

// A header that is asked for and that the tree does not have.
struct Absent {
  std::string name;
  bool quoted = false;
  std::string file;  // relative: where it is asked for
  int line = 0;
  std::string condition;
};

// What a source needs to be compiled, as far as its text tells.
struct Reach {
  std::vector<std::string> folders;        // absolute: searched for every name
  std::vector<std::string> quote_folders;  // absolute: searched for names in quotes only
  std::vector<Absent> absent;
  std::vector<std::string> files;   // relative: of the tree, that it includes directly or not
  std::set<std::string> asked;      // HAVE_ names in conditions of all these
  std::set<std::string> elsewhere;  // names that are not the tree's own, as written: "zlib.h"
  // Names of the tree's own that are not found beside the file that includes them -> the file that is meant, absolute.
  std::map<std::string, std::string> named;
};

class Tree {
 public:
  // Reads the names of all files below `root` (absolute) but those that are left out, of repositories, hidden, or of
  // kilns. `system_has`: whether the C library or the compiler itself has a header of that name.
  Tree(std::string root, const model::Settings& settings, std::function<bool(const std::string&)> system_has);

  [[nodiscard]] const std::string& root() const { return root_; }
  [[nodiscard]] const std::vector<File>& files() const { return files_; }
  [[nodiscard]] std::string absolute(const std::string& path) const;
  // Adds a file that will be made: `path` absolute, below `folder`, which stands for the tree's folder `in` (relative).
  [[nodiscard]] bool is_generated(const std::string& path) const { return generated_.contains(path); }
  void add_generated(const std::string& path, const std::string& name, const std::string& in);

  // From now on the tree has nothing in a folder (relative), nor below it.
  void leave_out_folder(const std::string& folder);

  // What is in a file's text; nothing where it cannot be read. Kept.
  [[nodiscard]] const Scanned& scanned(const std::string& path);
  // All that a source reaches by what it includes.
  [[nodiscard]] Reach reach(const std::string& source);
  // The tree's file that an include in `from` means; empty when it has none. `by_folder`, when not null, gets the
  // folder that has to be searched for that; empty when that of `from` is enough.
  [[nodiscard]] std::string meant(const Included& include, const std::string& from, std::string* by_folder = nullptr);
  // Where a generated header of that name lies, or a file ending so; relative paths, nearest to `from` first.
  [[nodiscard]] std::vector<std::string> ending_in(const std::string& name, const std::string& from) const;

 private:
  void walk(const std::string& relative, int depth);
  std::string root_;
  const model::Settings& settings_;
  std::function<bool(const std::string&)> system_has_;
  std::vector<File> files_;
  std::unordered_map<std::string, std::vector<std::size_t>> by_name_;  // last part of the path -> files
  std::set<std::string> paths_;
  std::map<std::string, std::string> generated_;  // relative path that it stands for -> absolute
  std::unordered_map<std::string, Scanned> scanned_;
  struct Meant {
    std::string path;
    std::string by_folder;
  };
  [[nodiscard]] const std::vector<Meant>& all_meant(const std::string& file);
  std::unordered_map<std::string, std::vector<Meant>> meant_;  // by each include of a file
  std::map<std::string, bool> hides_;                          // folders with names of the C library
};

// Steps from one folder of a tree to another, up and down; both relative, "" is the top.
[[nodiscard]] std::size_t distance(const std::string& from, const std::string& to);
// The folder of a path; "" for the top.
[[nodiscard]] std::string folder_of(const std::string& path);
// The name of a file without folders and without what follows its first dot.
[[nodiscard]] std::string stem_of(const std::string& path);

}  // namespace coctilis::describe::sources
