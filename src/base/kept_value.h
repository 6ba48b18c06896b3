// The way in which a kiln keeps things from run to run: a value packed into a frame (base/frame.h), under what the
// value is laid out like, so that another version of this program never takes one for another. Journals aside, which
// are appended to, all is kept so: written whole in one go and read whole, it needs no lock, no database and no parser
// of its own; what is damaged or of another layout counts as not there.
#pragma once

#include <optional>
#include <string>

#include "base/files.h"
#include "base/frame.h"
#include "base/hash.h"
#include "base/packing.h"

namespace coctilis {

inline constexpr const char* kept_value_heading = "coctilis state 1\n";

template <class T>
[[nodiscard]] std::string layout_key() {
  static const std::string key = hash_bytes(LayoutOf<T>::text()).text() + "\n";
  return key;
}

// Throws Fault (Exit::kiln).
template <class T>
void keep_value(const std::string& path, const T& value) {
  const std::string bytes = framed(kept_value_heading, layout_key<T>(), {}, packed(value));
  files::write_if_different(path, bytes);
}

// Nothing when there is none of that layout, or it is damaged.
template <class T>
[[nodiscard]] std::optional<T> kept_value(const std::string& path) {
  const auto content = files::read(path);
  Frame frame;
  if (!content || read_frame(*content, kept_value_heading, layout_key<T>(), frame) != Framed::whole)
    return std::nullopt;
  try {
    T value;
    unpack(frame.kept, value);
    return value;
  } catch (const std::exception&) {
    return std::nullopt;
  }
}

}  // namespace coctilis
