// Values as the bytes that are kept of them, and back: plain structs field by field, in the order in which they are
// declared. What is read may have been written by anybody: it throws, and takes no more memory than it has bytes.
#pragma once

#include <cereal/archives/binary.hpp>
#include <cereal/types/map.hpp>
#include <cereal/types/memory.hpp>
#include <cereal/types/optional.hpp>
#include <cereal/types/set.hpp>
#include <cereal/types/string.hpp>
#include <cereal/types/utility.hpp>
#include <cereal/types/vector.hpp>
#include <cstring>
#include <sstream>
#include <string>
#include <string_view>
#include <typeinfo>

#include "base/fields.h"

namespace coctilis {

// A struct whose fields say all; one with a way of its own (a `serialize`) goes that way.
template <class T, class Archive>
concept SaidByFields = fields::Plain<T> && !requires(T & value, Archive& archive) {
  value.serialize(archive);
};

}  // namespace coctilis

namespace cereal {

// Found for every type, by the archive.
template <class Archive, coctilis::SaidByFields<Archive> T>
void serialize(Archive& archive, T& value) {
  coctilis::fields::with_each(value, [&](auto&... field) { archive(field...); });
}

}  // namespace cereal

namespace coctilis {

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
  [[nodiscard]] std::size_t left() const { return rest_.size(); }

 private:
  std::string_view rest_;
};
template <class T>
requires std::is_arithmetic_v<T>
void CEREAL_LOAD_FUNCTION_NAME(TextArchive& archive, T& value) { archive.take(std::addressof(value), sizeof value); }
// Other bytes than 0 and 1 are no value of it.
inline void CEREAL_LOAD_FUNCTION_NAME(TextArchive& archive, bool& value) {
  unsigned char byte = 0;
  archive.take(&byte, sizeof byte);
  value = byte != 0;
}
template <class T>
void CEREAL_LOAD_FUNCTION_NAME(TextArchive& archive, cereal::NameValuePair<T>& pair) {
  archive(pair.value);
}
template <class T>
void CEREAL_LOAD_FUNCTION_NAME(TextArchive& archive, cereal::SizeTag<T>& tag) {
  archive(tag.size);
  // Every element takes a byte at least.
  if (tag.size > archive.left()) throw cereal::Exception("it has more elements than bytes");
}
template <class T>
void CEREAL_LOAD_FUNCTION_NAME(TextArchive& archive, cereal::BinaryData<T>& data) {
  archive.take(data.data, static_cast<std::size_t>(data.size));
}

// Throws std::exception when `text` is not what packed() makes of such values.
template <class T>
void unpack(std::string_view text, T& value) {
  TextArchive archive(text);
  archive(value);
}

// ---- what a type is laid out like, in one text: values of another layout are not to be read

template <class T>
struct LayoutOf {
  static std::string text() {
    if constexpr (fields::Plain<T>) {
      std::string out = "{";
      T value{};
      fields::with_each(
          value, [&](auto&... field) { ((out += LayoutOf<std::remove_cvref_t<decltype(field)>>::text() + ";"), ...); });
      return out + "}";
    } else {
      return typeid(T).name();
    }
  }
};
template <template <class...> class Container, class... T>
struct LayoutOf<Container<T...>> {
  static std::string text() {
    std::string out = typeid(Container<T...>).name();
    ((out += "<" + LayoutOf<T>::text() + ">"), ...);
    return out;
  }
};

}  // namespace coctilis

template <>
struct cereal::traits::detail::get_output_from_input<coctilis::TextArchive> {
  using type = cereal::BinaryOutputArchive;
};
