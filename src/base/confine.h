// Where programs that a tree asks for may write: in the kiln and in folders for temporary files,
// never in the tree itself. By Landlock, where the kernel has it.
#pragma once

#include <functional>
#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace coctilis {

// Limits writing, making, moving and removing of files to what lies below `writable` (absolute folders; one that is not
// there counts for nothing) and to devices, for the calling thread and all that it starts. There is no way back. False
// where the kernel cannot (Linux: Landlock, 5.13); then nothing is limited.
bool confine_this_thread(const std::vector<std::string>& writable);

// Calls `work` on a thread of its own that may write, with all threads that it starts, below `folders` and in the
// folder for temporary files that it gets for itself only: whatever links lie on the way, nothing that this program
// does itself gets out. Returns when it has ended; what it throws is thrown here. Programs that it starts are not
// limited by that (Process::start sees to it). Where the system cannot, or it is so already, `work` is simply called.
// Absolute folders, which have to be there.
void with_writing_limited_to(const std::vector<std::string>& folders, const std::function<void()>& work);
// Calls `work` where no such limit holds: for what the user has asked for, and for starting programs.
void without_limit(const std::function<void()>& work);
// What is in the way of the limit on this system; empty: nothing.
[[nodiscard]] std::string why_no_limit();
// Whether the limit, where there is one, lets this program write to an entry that really lies there.
[[nodiscard]] bool may_be_written(const std::string& path);
// A path that could not be written to because a link on the way to it leads out: "LINK leads to PLACE"; else empty.
[[nodiscard]] std::string way_out(const std::string& path);

// For the calling process, which has one thread, and all that it starts, the folder `copy` lies where `tree` is;
// `kiln`, where it lies in the tree, stays what it is (mount_namespaces(7), user_namespaces(7)). All absolute. False
// where the system does not allow it.
[[nodiscard]] bool put_in_place_of(const std::string& tree, const std::string& copy, const std::string& kiln);

struct Confinement {
  std::vector<std::string> writable;               // for confine_this_thread
  std::map<std::string, std::string> environment;  // what programs must be told to keep to it; mostly nothing
};
// Folders for temporary files (TMPDIR, /tmp, /var/tmp) but those that `tree` lies in; all when it is empty.
[[nodiscard]] std::vector<std::string> temporary_folders_without(const std::string& tree);
// What commands of the tree get whose results go to `kiln`: the parts of it that they fill, and temporary files. A
// folder for temporary files that has the tree in it is not among what is writable: there is one in the kiln instead. A
// tree that lies in the kiln is a copy, which may be written to. All paths absolute.
[[nodiscard]] Confinement confinement_of(const std::string& tree, const std::string& kiln);

// What this program's own operations say of a place that they may not write to.
inline constexpr std::string_view outside_output_folder = "lies outside the output folder";

// What a program printed tells where it was kept from writing: the path as it says it; empty when it does not say.
[[nodiscard]] std::string refused_path(std::string_view output);
// What a program printed tells that it found no network: the address or name that it, or its command, names, else what
// it says; empty when it tells of none.
[[nodiscard]] std::string refused_address(std::string_view output, std::string_view command);

// What a program printed tells that it was kept from writing somewhere; `tree` is where that may have been.
[[nodiscard]] bool tells_of_refused_writing(std::string_view output, std::string_view tree);

}  // namespace coctilis
