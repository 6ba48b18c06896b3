#include "describe/meson_build/value.h"

#include <algorithm>

namespace coctilis::describe::meson_build {

namespace {
// What is nested is also taken apart one in the other.
constexpr int deepest = 500;

int depth_of(const Value& value) {
  if (const auto* list = std::get_if<std::shared_ptr<const Nested<Array>>>(&value.is)) return (*list)->depth;
  if (const auto* table = std::get_if<std::shared_ptr<const Nested<Dictionary>>>(&value.is)) return (*table)->depth;
  return 0;
}
const Value& value_of(const Value& item) { return item; }
const Value& value_of(const std::pair<std::string, Value>& item) { return item.second; }

template <class T>
std::shared_ptr<const Nested<T>> nested(T items) {
  int depth = 0;
  for (const auto& one : items) depth = std::max(depth, depth_of(value_of(one)));
  if (depth >= deepest) throw TooLong{};
  return std::make_shared<const Nested<T>>(Nested<T>{std::move(items), depth + 1});
}
}  // namespace

Value::Value(Array value) : is(nested(std::move(value))) {}
Value::Value(Dictionary value) : is(nested(std::move(value))) {}

const char* Value::kind() const {
  if (nothing()) return "nothing";
  if (boolean() != nullptr) return "true or false";
  if (number() != nullptr) return "a number";
  if (text() != nullptr) return "a text";
  if (array() != nullptr) return "a list";
  if (dictionary() != nullptr) return "a dictionary";
  return object()->kind();
}

namespace {

constexpr std::size_t most_items = 2'000'000;
constexpr std::size_t most_text_bytes = 16U << 20U;

// Counts down what may still be looked at.
struct Budget {
  std::size_t left = most_items;
  void take() {
    if (left-- == 0) throw TooLong{};
  }
};

bool equal(const Value& a, const Value& b, Budget& budget) {
  budget.take();
  if (a.is.index() != b.is.index() || a.is == b.is) return a.is == b.is;
  if (const auto* left = a.array()) {
    const auto* right = b.array();
    if (left->size() != right->size()) return false;
    for (std::size_t i = 0; i < left->size(); ++i) {
      if (!equal((*left)[i], (*right)[i], budget)) return false;
    }
    return true;
  }
  if (const auto* left = a.dictionary()) {
    if (left->size() != b.dictionary()->size()) return false;
    for (const auto& [key, value] : *left) {
      const auto* other = find(*b.dictionary(), key);
      if (other == nullptr || !equal(value, *other, budget)) return false;
    }
    return true;
  }
  return false;
}

void show(const Value& value, bool quoted, std::string& out) {
  if (out.size() > most_text_bytes) throw TooLong{};
  if (const auto* text = value.text()) {
    out += quoted ? "'" + *text + "'" : *text;
  } else if (const auto* boolean = value.boolean()) {
    out += *boolean ? "true" : "false";
  } else if (const auto* number = value.number()) {
    out += std::to_string(*number);
  } else if (const auto* array = value.array()) {
    out += '[';
    for (const auto& one : *array) {
      if (&one != &array->front()) out += ", ";
      show(one, true, out);
    }
    out += ']';
  } else if (const auto* dictionary = value.dictionary()) {
    out += '{';
    for (const auto& [key, one] : *dictionary) {
      out += (out.ends_with('{') ? "'" : ", '") + key + "' : ";
      show(one, true, out);
    }
    out += '}';
  } else if (!value.nothing()) {
    out += std::string("<") + value.kind() + ">";
  }
}

void flatten(const Value& value, std::vector<Value>& into, Budget& budget) {
  budget.take();
  if (const auto* array = value.array()) {
    for (const auto& one : *array) flatten(one, into, budget);
  } else if (!value.nothing()) {
    into.push_back(value);
  }
}

bool contains(const Array& in, const Value& what, Budget& budget) {
  for (const auto& one : in) {
    if (equal(one, what, budget) || (one.array() != nullptr && contains(*one.array(), what, budget))) return true;
  }
  return false;
}

}  // namespace

bool equal(const Value& a, const Value& b) {
  Budget budget;
  return equal(a, b, budget);
}

bool contains(const Array& in, const Value& what) {
  Budget budget;
  return contains(in, what, budget);
}

std::string shown(const Value& value, bool quoted) {
  std::string out;
  show(value, quoted, out);
  return out;
}

std::vector<Value> flattened(const Value& value) {
  std::vector<Value> out;
  Budget budget;
  flatten(value, out, budget);
  return out;
}

std::vector<Value> flattened(const std::vector<Value>& values) {
  std::vector<Value> out;
  Budget budget;
  for (const auto& value : values) flatten(value, out, budget);
  return out;
}

const Value* find(const Dictionary& in, const std::string& key) {
  for (const auto& [name, value] : in) {
    if (name == key) return &value;
  }
  return nullptr;
}

}  // namespace coctilis::describe::meson_build
