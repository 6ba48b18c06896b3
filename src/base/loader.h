// Asks what the loader of the system would answer: do all shared libraries of a program resolve?
#pragma once

#include <optional>
#include <string>
#include <unordered_map>
#include <vector>

#include "base/elf.h"

namespace coctilis {

struct LoadResult {
  bool is_elf = false;
  std::vector<std::pair<std::string, std::string>> found;    // library and the file it resolves to
  std::vector<std::pair<std::string, std::string>> missing;  // library and who needs it
};

// What of the system's libraries has been read already, where several programs are followed one after the other and
// these do not change meanwhile.
class SystemLibraries {
 public:
  [[nodiscard]] const std::optional<ElfFacts>& facts(const std::string& path);

 private:
  std::unordered_map<std::string, std::optional<ElfFacts>> read_;
};

// Follows the libraries that `path` needs, in the order of ld.so(8): run paths of the one that needs it (and DT_RPATH
// of those that loaded it), LD_LIBRARY_PATH, the folders of ld.so.conf(5), /lib, /usr/lib and their kin. Files of
// another machine do not count. `system`: the folders of another machine's system, in place of this one's. `first`:
// folders before those of LD_LIBRARY_PATH. `known` may be null.
[[nodiscard]] LoadResult resolve_libraries(const std::string& path, const std::vector<std::string>& system = {},
                                           const std::vector<std::string>& first = {},
                                           SystemLibraries* known = nullptr);

}  // namespace coctilis
