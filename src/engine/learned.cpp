#include "engine/learned.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/files.h"

namespace coctilis::engine {

namespace {
std::vector<std::string> paths_in(const nlohmann::json& object, const char* key) {
  std::vector<std::string> out;
  const auto it = object.find(key);
  if (it == object.end() || !it->is_array()) return out;
  for (const auto& entry : *it) {
    if (entry.is_string() && entry.get_ref<const std::string&>().starts_with('/')) out.push_back(entry);
  }
  return out;
}
}  // namespace

std::vector<Learned::Lesson> Learned::read(const std::string& path) {
  std::vector<Lesson> out;
  const auto document = nlohmann::json::parse(files::read(path).value_or(""), nullptr, false);
  if (!document.is_object()) return out;
  const auto steps = document.find("steps");
  if (steps == document.end() || !steps->is_array()) return out;
  for (const auto& entry : *steps) {
    if (!entry.is_object()) continue;
    const auto step = entry.find("step");
    if (step == entry.end() || !step->is_string()) continue;
    out.push_back({*step, paths_in(entry, "needs"), paths_in(entry, "makes"), paths_in(entry, "may_make")});
  }
  return out;
}

void Learned::put(std::size_t step, const Lesson& lesson) { files_[step] = {lesson.makes, lesson.may_make}; }

bool Learned::Files::has(std::string_view path) const {
  return std::find(makes.begin(), makes.end(), path) != makes.end() ||
         std::find(may_make.begin(), may_make.end(), path) != may_make.end();
}

const Learned::Files& Learned::of(std::size_t step) const {
  static const Files none;
  const auto it = files_.find(step);
  return it == files_.end() ? none : it->second;
}

}  // namespace coctilis::engine
