#include "record/check_numbers.h"

#include <nlohmann/json.hpp>

#include "base/files.h"
#include "smoke/numbers.h"

namespace coctilis::record {

namespace {
constexpr int layout_of_numbers = 1;
constexpr std::size_t most_kept = 200;
}  // namespace

void compare_check_numbers(model::Run& run) {
  using nlohmann::json;
  if (std::all_of(run.checks.begin(), run.checks.end(), [](const auto& check) { return check.numbers.empty(); }))
    return;
  const std::string path = run.kiln + "/numbers.json";
  json kept = json::parse(files::read(path).value_or(""), nullptr, false);
  if (!kept.is_object() || kept.value("layout", json()) != layout_of_numbers || !kept.contains("checks") ||
      !kept["checks"].is_object())
    kept = {{"layout", layout_of_numbers}, {"checks", json::object()}};
  for (auto& check : run.checks) {
    json& numbers = kept["checks"][check.name];
    if (!numbers.is_object()) numbers = json::object();
    for (auto& number : check.numbers) {
      json& values = numbers[number.name];
      if (!values.is_array()) values = json::array();
      for (const auto& value : values) {
        if (!value.is_string()) continue;
        number.before = value.get<std::string>();
        if (const auto read = smoke::value_of(number.before)) number.good_values.push_back(*read);
      }
      if (check.verdict != model::Verdict::passed) continue;
      values.push_back(number.text);
      if (values.size() > most_kept) values.erase(values.begin());
    }
  }
  files::write(path, kept.dump(1, ' ', false, json::error_handler_t::replace) + "\n");
}

}  // namespace coctilis::record
