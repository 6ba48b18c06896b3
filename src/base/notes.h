// Values that several processes add to one file: makes that recipes start tell the run that started it all what they
// did. Whoever can write there may have written anything: what is no whole note is passed over.
#pragma once

#include <functional>
#include <string>
#include <string_view>

#include "base/kept_value.h"

namespace coctilis {

// Adds a note of `bytes` in one go, so that those of several processes do not mix. One that cannot be added is lost.
void append_note(const std::string& path, std::string_view key, std::string_view bytes);
// Calls `use` with the bytes of each whole note under `key`, in order, until it returns false. False: it did, or
// something in the file is no note.
bool each_note(std::string_view content, std::string_view key, const std::function<bool(std::string_view)>& use);

template <class T>
void append_value(const std::string& path, const T& value) {
  append_note(path, layout_key<T>(), packed(value));
}
// `use` gets each value. False: it returned false, or something in the file is no such value.
template <class T, class Use>
bool each_value(std::string_view content, Use&& use) {
  return each_note(content, layout_key<T>(), [&](std::string_view bytes) {
    T value;
    try {
      unpack(bytes, value);
    } catch (const std::exception&) {
      return false;
    }
    return static_cast<bool>(use(std::move(value)));
  });
}

}  // namespace coctilis
