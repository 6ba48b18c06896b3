// Asks what the loader of the system would answer: do all shared libraries of a program resolve?
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace coctilis::smoke {

struct ElfFacts {
  int bits = 64;
  int machine = 0;  // e_machine of the ELF header
  bool dynamic = false;
  bool has_run_path = false;          // DT_RUNPATH, which switches DT_RPATH off
  std::vector<std::string> needed;    // DT_NEEDED
  std::vector<std::string> run_path;  // DT_RUNPATH or else DT_RPATH, as written
  std::string shared_name;            // DT_SONAME
};

// Nothing when the file is no ELF file or cannot be read (System V ABI, "Dynamic Section").
[[nodiscard]] std::optional<ElfFacts> read_elf(const std::string& path);

struct LoadResult {
  bool is_elf = false;
  std::vector<std::pair<std::string, std::string>> found;    // library and the file it resolves to
  std::vector<std::pair<std::string, std::string>> missing;  // library and who needs it
};

// Follows the libraries that `path` needs, in the order of ld.so(8): run paths of the one that needs it (and DT_RPATH
// of those that loaded it), LD_LIBRARY_PATH, the folders of ld.so.conf(5), /lib, /usr/lib and their kin. Files of
// another machine do not count.
[[nodiscard]] LoadResult resolve_libraries(const std::string& path);

}  // namespace coctilis::smoke
