#include "base/hash.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>
#include <xxhash.h>

#include <algorithm>
#include <filesystem>
#include <memory>
#include <vector>

#include "base/observed.h"

namespace coctilis {

std::string Hash::text() const { return fmt::format("{:016x}{:016x}", high, low); }

Hash hash_bytes(std::string_view bytes) {
  const XXH128_hash_t h = XXH3_128bits(bytes.data(), bytes.size());
  return {h.high64, h.low64};
}

std::uint64_t hash_short(std::string_view bytes) { return XXH3_64bits(bytes.data(), bytes.size()); }

std::optional<Hash> hash_file(const std::string& path) {
  observe::content(path);
  // O_NONBLOCK: a pipe in the place of a file must not stop us for ever.
  const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (fd < 0) return std::nullopt;
  const auto closer = std::unique_ptr<const int, void (*)(const int*)>(&fd, [](const int* p) { ::close(*p); });
  struct stat info {};
  if (::fstat(fd, &info) != 0) return std::nullopt;
  if (S_ISDIR(info.st_mode)) {
    observe::entries(path);
    std::vector<std::string> names;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(path, error))
      names.push_back(entry.path().filename().string());
    std::sort(names.begin(), names.end());
    std::string all;
    for (const auto& name : names) all += name + '\n';
    return hash_bytes(all);
  }
  if (!S_ISREG(info.st_mode)) return Hash{1, static_cast<std::uint64_t>(info.st_rdev)};
  const auto state = std::unique_ptr<XXH3_state_t, void (*)(XXH3_state_t*)>(XXH3_createState(),
                                                                            [](XXH3_state_t* s) { XXH3_freeState(s); });
  XXH3_128bits_reset(state.get());
  std::vector<char> buffer(
      std::min<std::size_t>(1U << 18U, static_cast<std::size_t>(std::max<off_t>(info.st_size, 4096))));
  for (;;) {
    const ssize_t n = ::read(fd, buffer.data(), buffer.size());
    if (n < 0) return std::nullopt;
    if (n == 0) break;
    XXH3_128bits_update(state.get(), buffer.data(), static_cast<std::size_t>(n));
  }
  const XXH128_hash_t h = XXH3_128bits_digest(state.get());
  return Hash{h.high64, h.low64};
}

}  // namespace coctilis
