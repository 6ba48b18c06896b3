// Unpacking archives of unknown origin.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::files {

// What an archive may grow to; more is taken for one that never ends.
struct ArchiveLimits {
  std::uint64_t bytes = 32ULL << 30U;
  std::uint64_t entries = 2'000'000;
};

struct Unpacked {
  std::string folder;  // absolute: what the archive has, without a lone folder around it twice
  std::uint64_t entries = 0;
  std::uint64_t bytes = 0;
  bool was_there = false;  // an earlier run had unpacked it: every entry is there with its size
};

// True when the name is that of an archive: .zip, .tar and .tar with any usual compression.
[[nodiscard]] bool is_archive_name(const std::string& path);

// Unpacks beside the archive: into the one folder that all entries are in, else into one named after the archive. A
// folder that is there already is only used when it is what the archive has; nothing is ever overwritten. It appears
// whole or not at all. Entries that lead outside (absolute, "..", through links), devices, and archives beyond the
// limits are refused. `progress` gets bytes so far. Errors: Exit::usage, with place and remedy.
[[nodiscard]] Result<Unpacked> unpack_beside(const std::string& archive, const ArchiveLimits& limits = {},
                                             const std::function<void(std::uint64_t)>& progress = {});

// Unpacks into a folder that is there, with the same rules for hostile archives. False, with `why`, when it fails.
[[nodiscard]] bool unpack_into(const std::string& archive, const std::string& folder, std::string& why);

// Packs files and folders, named relative to `folder`, into an archive. `packing`: "gzip", "bzip2", "xz", "zstd" or
// empty. False, with `why`, when it fails.
[[nodiscard]] bool pack(const std::string& archive, const std::string& folder, const std::vector<std::string>& names,
                        const std::string& packing, bool zip, std::string& why);

}  // namespace coctilis::files
