// Remembers, from run to run, what every step was made from. A file that is only ever appended to while steps run:
// each record has its length and a checksum, so after a crash everything up to the last whole record counts.
//
// Layout: the line "coctilis journal 3\n", then records: u32 length, u64 XXH3 of the payload, payload. Payloads begin
// with a type byte: 'P' a path (its number is its position among paths), 'F' the state of a file, 'S' a step. Numbers
// are in the byte order of the machine; a journal does not move between machines.
#pragma once

#include <cstdint>
#include <string>
#include <unordered_map>
#include <vector>

#include "base/hash.h"

namespace coctilis::engine {

using PathId = std::uint32_t;

// A file as it was when its content was hashed.
struct FileState {
  std::uint64_t size = 0;
  std::int64_t modified = 0;  // nanoseconds
  std::uint64_t inode = 0;
  Hash hash;
  // False when the file was so young that a later change might carry the same time: then the time proves nothing.
  bool settled = false;
};

struct StepRecord {
  Hash command;
  std::vector<std::pair<PathId, Hash>> inputs;  // declared ones first, then those found while running
  std::vector<std::pair<PathId, Hash>> outputs;
  double seconds = 0;
  std::int64_t recorded = 0;  // when, in nanoseconds since 1970
};

class Journal {
 public:
  // Opens or makes the file. A journal that cannot be understood is begun anew. Throws Fault (Exit::kiln).
  explicit Journal(std::string path);
  ~Journal();
  Journal(const Journal&) = delete;
  Journal& operator=(const Journal&) = delete;

  PathId id(const std::string& path);
  [[nodiscard]] const std::string& path(PathId id) const { return paths_[id]; }
  [[nodiscard]] const StepRecord* step(PathId key) const;
  void put_step(PathId key, StepRecord record);
  void forget_step(PathId key);
  [[nodiscard]] const FileState* file(PathId id) const;
  void put_file(PathId id, const FileState& state);
  // Writes what is buffered to the file.
  void flush();
  // Rewrites the file when most of it is out of date.
  void compact();

 private:
  void load();
  void begin();
  void append(const std::string& payload);
  bool apply(std::string_view payload);
  std::string path_;
  int fd_ = -1;
  std::string buffer_;
  std::vector<std::string> paths_;
  std::unordered_map<std::string, PathId> ids_;
  std::unordered_map<PathId, FileState> files_;
  std::unordered_map<PathId, StepRecord> steps_;
  std::size_t records_ = 0;
};

}  // namespace coctilis::engine
