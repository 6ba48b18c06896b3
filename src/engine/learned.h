// What steps turn out to need and make while the plan runs, besides what they say: told by steps that look into sources
// first (model::Step::teaches).
//
// Such a step's first output is a JSON document: {"steps": [{"step": S, "needs": [F...], "makes": [F...], "may_make":
// [F...]}...]}. S is the first output of a step that waits for the one that tells; all names are absolute. Files may
// have been written by anybody: what does not fit is passed over, and whoever lacks it fails in its own words.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

namespace coctilis::engine {

class Learned {
 public:
  struct Lesson {
    std::string step;
    std::vector<std::string> needs;
    std::vector<std::string> makes;
    std::vector<std::string> may_make;
  };
  // Nothing when the file is no such document.
  [[nodiscard]] static std::vector<Lesson> read(const std::string& path);

  // Keeps what a step makes.
  void put(std::size_t step, const Lesson& lesson);
  struct Files {
    std::vector<std::string> makes;
    std::vector<std::string> may_make;
    [[nodiscard]] bool has(std::string_view path) const;
  };
  // What is known of a step; without anything for most.
  [[nodiscard]] const Files& of(std::size_t step) const;

 private:
  std::unordered_map<std::size_t, Files> files_;
};

}  // namespace coctilis::engine
