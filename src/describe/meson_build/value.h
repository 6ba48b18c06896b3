// What expressions of meson.build files come to.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace coctilis::describe::meson_build {

// Anything with methods or a meaning of its own; the kinds are in objects.h.
class Object {
 public:
  virtual ~Object() = default;
  [[nodiscard]] virtual const char* kind() const = 0;
};

struct Value;
using Array = std::vector<Value>;
using Dictionary = std::vector<std::pair<std::string, Value>>;  // in the order of the keys' first appearance

// A list or a dictionary with how deep lists in lists go in it.
template <class T>
struct Nested;

// Values never change: what is held by two names is shared.
struct Value {
  std::variant<std::monostate, bool, std::int64_t, std::string, std::shared_ptr<const Nested<Array>>,
               std::shared_ptr<const Nested<Dictionary>>, std::shared_ptr<Object>>
      is;

  Value() = default;
  Value(bool value) : is(value) {}                                // NOLINT: meant to convert
  Value(std::int64_t value) : is(value) {}                        // NOLINT: meant to convert
  Value(std::string value) : is(std::move(value)) {}              // NOLINT: meant to convert
  Value(const char* value) : is(std::string(value)) {}            // NOLINT: meant to convert
  Value(Array value);                                             // NOLINT: meant to convert. Throws TooLong.
  Value(Dictionary value);                                        // NOLINT: the same
  Value(std::shared_ptr<Object> value) : is(std::move(value)) {}  // NOLINT: meant to convert

  [[nodiscard]] bool nothing() const { return std::holds_alternative<std::monostate>(is); }
  [[nodiscard]] const bool* boolean() const { return std::get_if<bool>(&is); }
  [[nodiscard]] const std::int64_t* number() const { return std::get_if<std::int64_t>(&is); }
  [[nodiscard]] const std::string* text() const { return std::get_if<std::string>(&is); }
  [[nodiscard]] const Array* array() const;
  [[nodiscard]] const Dictionary* dictionary() const;
  [[nodiscard]] Object* object() const {
    const auto* held = std::get_if<std::shared_ptr<Object>>(&is);
    return held == nullptr ? nullptr : held->get();
  }
  // The object where it is of the kind T; nothing else.
  template <class T>
  [[nodiscard]] std::shared_ptr<T> as() const {
    const auto* held = std::get_if<std::shared_ptr<Object>>(&is);
    return held == nullptr ? nullptr : std::dynamic_pointer_cast<T>(*held);
  }
  // "text", "number", "list" ...: for messages.
  [[nodiscard]] const char* kind() const;
};

template <class T>
struct Nested {
  T items;
  int depth = 1;
};
inline const Array* Value::array() const {
  const auto* held = std::get_if<std::shared_ptr<const Nested<Array>>>(&is);
  return held == nullptr ? nullptr : &(*held)->items;
}
inline const Dictionary* Value::dictionary() const {
  const auto* held = std::get_if<std::shared_ptr<const Nested<Dictionary>>>(&is);
  return held == nullptr ? nullptr : &(*held)->items;
}

// An object as a value.
template <class T>
[[nodiscard]] Value object(std::shared_ptr<T> made) {
  return Value(std::shared_ptr<Object>(std::move(made)));
}

// Thrown where lists in lists go deeper, or come to more, than anybody writes: each level can double what is there.
struct TooLong {};

// Whether both are the same; objects are the same when they are one.
[[nodiscard]] bool equal(const Value& a, const Value& b);
// Whether it is in the list, or in one of the lists in it.
[[nodiscard]] bool contains(const Array& in, const Value& what);
// As it stands in text: true, 5, a text as it is, lists with their texts in quotes.
[[nodiscard]] std::string shown(const Value& value, bool quoted = false);
// All that is in lists, and in lists of these, one behind the other.
[[nodiscard]] std::vector<Value> flattened(const Value& value);
[[nodiscard]] std::vector<Value> flattened(const std::vector<Value>& values);
[[nodiscard]] const Value* find(const Dictionary& in, const std::string& key);

}  // namespace coctilis::describe::meson_build
