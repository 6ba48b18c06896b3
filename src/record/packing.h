// Values as the bytes that the kiln keeps of them, and back.
#pragma once

#include <cstring>
#include <sstream>
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

// Reads what BinaryOutputArchive wrote, from a text as it lies in memory: a plan has some hundred thousand parts, and
// each costs a call through a stream elsewhere.
class TextArchive : public cereal::InputArchive<TextArchive, cereal::AllowEmptyClassElision> {
 public:
  explicit TextArchive(std::string_view text) : cereal::InputArchive<TextArchive, 1>(this), rest_(text) {}
  void take(void* to, std::size_t size) {
    if (size > rest_.size()) throw cereal::Exception("it ends too early");
    std::memcpy(to, rest_.data(), size);
    rest_.remove_prefix(size);
  }

 private:
  std::string_view rest_;
};
template <class T>
requires std::is_arithmetic_v<T>
void CEREAL_LOAD_FUNCTION_NAME(TextArchive& archive, T& value) { archive.take(std::addressof(value), sizeof value); }
template <class T>
void CEREAL_LOAD_FUNCTION_NAME(TextArchive& archive, cereal::NameValuePair<T>& pair) {
  archive(pair.value);
}
template <class T>
void CEREAL_LOAD_FUNCTION_NAME(TextArchive& archive, cereal::SizeTag<T>& tag) {
  archive(tag.size);
}
template <class T>
void CEREAL_LOAD_FUNCTION_NAME(TextArchive& archive, cereal::BinaryData<T>& data) {
  archive.take(data.data, static_cast<std::size_t>(data.size));
}

template <class T>
void unpack(std::string_view text, T& value) {
  TextArchive archive(text);
  archive(value);
}

}  // namespace coctilis::record

template <>
struct cereal::traits::detail::get_output_from_input<coctilis::record::TextArchive> {
  using type = cereal::BinaryOutputArchive;
};
