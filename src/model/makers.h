// Which step makes a file: its own outputs by name, and all that lies in folders that it fills.
#pragma once

#include <cstddef>
#include <string_view>
#include <unordered_map>

namespace coctilis::model {

// Paths are not copied: they must outlive this. They are absolute and normal.
class Makers {
 public:
  static constexpr std::size_t none = static_cast<std::size_t>(-1);

  // The step that makes `path` or fills a folder that it lies in; `none` when none does.
  [[nodiscard]] std::size_t of(std::string_view path) const {
    if (const auto it = paths_.find(path); it != paths_.end()) return it->second;
    if (folders_.empty()) return none;
    for (auto end = path.rfind('/'); end != std::string_view::npos && end > 0; end = path.rfind('/', end - 1)) {
      if (const auto it = folders_.find(path.substr(0, end)); it != folders_.end()) return it->second;
    }
    return none;
  }
  // `step` makes `path` from now on, unless another does. Returns the one that does.
  std::size_t claim(std::string_view path, std::size_t step) {
    const auto maker = of(path);
    if (maker == none) paths_.emplace(path, step);
    return maker == none ? step : maker;
  }
  // The same for all that lies in `folder`.
  std::size_t claim_folder(std::string_view folder, std::size_t step) {
    const auto maker = claim(folder, step);
    if (maker == step) folders_.emplace(folder, step);
    return maker;
  }
  void reserve(std::size_t count) { paths_.reserve(count); }

 private:
  std::unordered_map<std::string_view, std::size_t> paths_;
  std::unordered_map<std::string_view, std::size_t> folders_;
};

}  // namespace coctilis::model
