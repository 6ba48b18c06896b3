// The form of the files in which a kiln keeps what later runs take again: what it is for, what it hangs on, and the
// thing itself, under a hash of both.
#pragma once

#include <string>
#include <string_view>

namespace coctilis {

struct Frame {
  std::string_view seen;  // what it hangs on
  std::string_view kept;
};

// The bytes of such a file. `heading` and `key`: see below.
[[nodiscard]] std::string framed(std::string_view heading, std::string_view key, std::string_view seen,
                                 std::string_view kept);
// `heading` tells the kind of the file and the version of its form, and ends in a line end; `key` (key_of, key_of_run)
// what has to be the same for it to be taken. Throws Fault (Exit::kiln) when it cannot be written.
void write_frame(const std::string& path, std::string_view heading, const std::string& key, std::string_view seen,
                 std::string_view kept);

// How far a file is one of ours.
enum class Framed { other_form, other_key, damaged, whole };
// Looks at the content of a file; `out` gets its parts, which lie in `content`, when it is whole.
[[nodiscard]] Framed read_frame(std::string_view content, std::string_view heading, std::string_view key, Frame& out);

// Whether the file begins with this heading and key; reads no more of it.
[[nodiscard]] bool is_framed(const std::string& path, std::string_view heading, std::string_view key);

}  // namespace coctilis
