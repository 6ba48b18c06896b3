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
// The same, without the one folder that all entries are in, where there is one.
[[nodiscard]] bool unpack_content_into(const std::string& archive, const std::string& folder, std::string& why);
// The files and links of an archive, as they are called in it; `content`: without the one folder that all are in.
// Errors: as for unpacking.
[[nodiscard]] Result<std::vector<std::string>> names_in_archive(const std::string& archive, bool content);

// Packs files and folders, named relative to `folder`, into an archive. `packing`: "gzip", "bzip2", "xz", "zstd" or
// empty. False, with `why`, when it fails.
[[nodiscard]] bool pack(const std::string& archive, const std::string& folder, const std::vector<std::string>& names,
                        const std::string& packing, bool zip, std::string& why);

// A file, link or folder, and what it is to be called in an archive.
struct Packed {
  std::string path;  // absolute
  std::string name;
};
// Packs them, folders with all in them, in the way that the ending of the archive's name tells. The same content gives
// the same bytes: entries are sorted, belong to nobody in particular, and are of SOURCE_DATE_EPOCH (seconds since
// 1970), without it of the first day that every form can tell, in 1980. False, with `why`, when it fails.
[[nodiscard]] bool pack_reproducibly(const std::string& archive, const std::vector<Packed>& what, std::string& why);

}  // namespace coctilis::files
