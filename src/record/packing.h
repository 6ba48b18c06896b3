// Values as the bytes that the kiln keeps of them, and back.
#pragma once

#include <sstream>
#include <streambuf>
#include <string>
#include <string_view>

#include "record/archive.h"

namespace coctilis::record {

template <class... T>
std::string packed(const T&... values) {
  std::ostringstream out;
  cereal::BinaryOutputArchive archive(out);
  archive(values...);
  return std::move(out).str();
}

// Reads from a text without copying it.
class Window : public std::streambuf {
 public:
  explicit Window(std::string_view text) {
    char* begin = const_cast<char*>(text.data());  // NOLINT: a stream buffer that is only read from
    setg(begin, begin, begin + text.size());
  }
};

template <class T>
void unpack(std::string_view text, T& value) {
  Window window(text);
  std::istream in(&window);
  cereal::BinaryInputArchive archive(in);
  archive(value);
}

}  // namespace coctilis::record
