// Content hashes (XXH3, 128 bits): for telling whether something changed, not against forgery.
#pragma once

#include <compare>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace coctilis {

struct Hash {
  std::uint64_t high = 0;
  std::uint64_t low = 0;
  auto operator<=>(const Hash&) const = default;
  [[nodiscard]] bool empty() const { return high == 0 && low == 0; }
  [[nodiscard]] std::string text() const;  // 32 hexadecimal digits
};

[[nodiscard]] Hash hash_bytes(std::string_view bytes);
[[nodiscard]] std::uint64_t hash_short(std::string_view bytes);
// The hash of a file's content; nothing when it cannot be read. A folder has the hash of its sorted entry names.
[[nodiscard]] std::optional<Hash> hash_file(const std::string& path);

}  // namespace coctilis
