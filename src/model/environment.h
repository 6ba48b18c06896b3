// Variables of the environment of commands. Most commands of a plan have the same ones: copies share them until one of
// the copies is changed.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>

namespace coctilis::model {

class Environment {
 public:
  using Map = std::map<std::string, std::optional<std::string>>;  // a value sets, nothing unsets
  Environment() = default;
  Environment(Map values)  // NOLINT: a map is an environment
      : values_(std::make_shared<Map>(std::move(values))) {}
  Environment(const std::map<std::string, std::string>& values)  // NOLINT: the same, of one that only sets
      : values_(std::make_shared<Map>(values.begin(), values.end())) {}
  Environment(std::initializer_list<Map::value_type> values) : Environment(Map(values)) {}

  [[nodiscard]] const Map& values() const {
    static const Map none;
    return values_ ? *values_ : none;
  }
  [[nodiscard]] Map::const_iterator begin() const { return values().begin(); }
  [[nodiscard]] Map::const_iterator end() const { return values().end(); }
  [[nodiscard]] bool empty() const { return values().empty(); }
  [[nodiscard]] std::size_t size() const { return values().size(); }
  [[nodiscard]] bool contains(const std::string& name) const { return values().contains(name); }
  // For changing: no other copy sees it.
  std::optional<std::string>& operator[](const std::string& name) {
    if (!values_)
      values_ = std::make_shared<Map>();
    else if (values_.use_count() > 1)
      values_ = std::make_shared<Map>(*values_);
    return (*values_)[name];
  }
  template <class Archive>
  void serialize(Archive& archive) {
    archive(values_);
  }
  bool operator==(const Environment& other) const { return values_ == other.values_ || values() == other.values(); }

 private:
  std::shared_ptr<Map> values_;
};

}  // namespace coctilis::model
