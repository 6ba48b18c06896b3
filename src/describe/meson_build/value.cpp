#include "describe/meson_build/value.h"

namespace coctilis::describe::meson_build {

const char* Value::kind() const {
  if (nothing()) return "nothing";
  if (boolean() != nullptr) return "true or false";
  if (number() != nullptr) return "a number";
  if (text() != nullptr) return "a text";
  if (array() != nullptr) return "a list";
  if (dictionary() != nullptr) return "a dictionary";
  return object()->kind();
}

bool equal(const Value& a, const Value& b) {
  if (a.is.index() != b.is.index()) return false;
  if (const auto* left = a.array()) {
    const auto* right = b.array();
    if (left->size() != right->size()) return false;
    for (std::size_t i = 0; i < left->size(); ++i) {
      if (!equal((*left)[i], (*right)[i])) return false;
    }
    return true;
  }
  if (const auto* left = a.dictionary()) {
    if (left->size() != b.dictionary()->size()) return false;
    for (const auto& [key, value] : *left) {
      const auto* other = find(*b.dictionary(), key);
      if (other == nullptr || !equal(value, *other)) return false;
    }
    return true;
  }
  if (a.object() != nullptr) return a.object() == b.object();
  return a.is == b.is;
}

std::string shown(const Value& value, bool quoted) {
  if (const auto* text = value.text()) return quoted ? "'" + *text + "'" : *text;
  if (const auto* boolean = value.boolean()) return *boolean ? "true" : "false";
  if (const auto* number = value.number()) return std::to_string(*number);
  std::string out;
  if (const auto* array = value.array()) {
    for (const auto& one : *array) out += (out.empty() ? "" : ", ") + shown(one, true);
    return "[" + out + "]";
  }
  if (const auto* dictionary = value.dictionary()) {
    for (const auto& [key, one] : *dictionary) out += (out.empty() ? "'" : ", '") + key + "' : " + shown(one, true);
    return "{" + out + "}";
  }
  return value.nothing() ? "" : std::string("<") + value.kind() + ">";
}

namespace {
void flatten(const Value& value, std::vector<Value>& into) {
  if (const auto* array = value.array()) {
    for (const auto& one : *array) flatten(one, into);
  } else if (!value.nothing()) {
    into.push_back(value);
  }
}
}  // namespace

std::vector<Value> flattened(const Value& value) {
  std::vector<Value> out;
  flatten(value, out);
  return out;
}

std::vector<Value> flattened(const std::vector<Value>& values) {
  std::vector<Value> out;
  for (const auto& value : values) flatten(value, out);
  return out;
}

const Value* find(const Dictionary& in, const std::string& key) {
  for (const auto& [name, value] : in) {
    if (name == key) return &value;
  }
  return nullptr;
}

}  // namespace coctilis::describe::meson_build
