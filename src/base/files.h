// Files and paths: reading, writing so that a killed process leaves the old or the new content, and temporary folders.
// Failures come back as Problems or, where documented, as false; nothing here throws but Fault.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"

namespace coctilis::files {

namespace fs = std::filesystem;

// More than this is no file that people or tools write to be read by others: it counts as one that cannot be read.
inline constexpr std::uint64_t most_bytes = 512ULL << 20U;

// The whole content; nothing when the file cannot be read, or is none, or has more than `most_bytes`.
[[nodiscard]] std::optional<std::string> read(const fs::path& path);
// At most `bytes` from its beginning; empty when it cannot be read.
[[nodiscard]] std::string read_beginning(const fs::path& path, std::size_t bytes);
// Writes through a temporary file beside it and a rename; makes the folders. Throws Fault (Exit::kiln).
void write(const fs::path& path, std::string_view content);
// The same, but leaves an equal file untouched, so that its time stays. Returns true when it wrote.
bool write_if_different(const fs::path& path, std::string_view content);
// Makes a folder with all above it. Throws Fault (Exit::kiln).
void make_folder(const fs::path& path);
// Absolute, without "." and ".." and without a trailing slash; does not follow links. Relative paths count from `base`,
// or from the working folder.
[[nodiscard]] std::string absolute(std::string_view path);
[[nodiscard]] std::string absolute(std::string_view path, const fs::path& base);
[[nodiscard]] std::string absolute(std::string_view path, const std::string& base);
// The working folder. Throws Fault (Exit::usage) when it is not there any more.
[[nodiscard]] std::string working_folder();
// `path` as seen from `base` where it lies below it, else unchanged. Both absolute.
[[nodiscard]] std::string below(const std::string& path, const std::string& base);
// True when `path` is `folder` or lies below it (by name; both absolute and normal).
[[nodiscard]] bool is_below(std::string_view path, std::string_view folder);
// The same for where the entry `path` really lies: links among the folders on the way are followed, the entry itself is
// not, and need not be there. Links on the way to `folder` do not matter.
[[nodiscard]] bool lies_below(const std::string& path, const std::string& folder);
// Relative path from one folder to another path, both absolute.
[[nodiscard]] std::string relative(const std::string& path, const std::string& from_folder);
// Whether anything is there, links followed.
[[nodiscard]] bool exists(const std::string& path);
[[nodiscard]] bool is_link(const std::string& path);  // a symbolic link, wherever it leads
[[nodiscard]] bool is_file(const std::string& path);
// Of a file that could not be read: "is not there", "is a folder", "is there, but this user may not read it" ...
[[nodiscard]] std::string why_not_read(const std::string& path);
[[nodiscard]] bool is_folder(const std::string& path);
[[nodiscard]] bool is_program(const std::string& path);  // a file that this user may run
// A file of the system that has no size of its own (proc(5)), at most 1 MiB of it; empty when it cannot be read. Nobody
// is told that it was looked at.
[[nodiscard]] std::string read_system_file(const std::string& path);
// The names of what lies in a folder, sorted, without "." and ".."; none when it cannot be read.
[[nodiscard]] std::vector<std::string> names_in(const std::string& folder);
// Matches a name against a pattern with *, ? and [...] (POSIX.1-2017, XCU 2.13); no slash handling.
[[nodiscard]] bool matches(const std::string& pattern, const std::string& name);
// Matches a path against a pattern, both with slashes: ** stands for any number of folders, other parts match as names.
[[nodiscard]] bool path_matches(const std::string& pattern, const std::string& path);

// The folder for temporary files: TMPDIR, else /tmp. Throws Fault (Exit::kiln) when it is not there.
[[nodiscard]] std::string temporary_folder();
// Where scratch folders are made from now on; empty: there.
void put_scratch_folders_in(const std::string& folder);

// Gives what lies there, links followed, another mode. Where this program's own writing is limited (base/confine.h)
// what lies outside keeps its own. False when it does, or nothing is there.
bool set_mode(const std::string& path, unsigned mode);
// The same for the time of modification, in nanoseconds since 1970; nothing: now. `the_link`: of a link itself.
bool set_time(const std::string& path, std::optional<std::int64_t> time, bool the_link = false);

// What names of scratch folders begin with; before their last part stands the process that made them.
inline constexpr const char* scratch_name = "coctilis-";

// Removes a folder and all below it at the end of its life; its path is unique. Throws Fault (Exit::kiln) when it
// cannot be made.
class ScratchFolder {
 public:
  explicit ScratchFolder(const std::string& label);
  ~ScratchFolder();
  ScratchFolder(const ScratchFolder&) = delete;
  ScratchFolder& operator=(const ScratchFolder&) = delete;
  [[nodiscard]] const fs::path& path() const { return path_; }

 private:
  fs::path path_;
};

}  // namespace coctilis::files
