#include "base/frame.h"

#include <fcntl.h>
#include <unistd.h>

#include <cstdint>
#include <cstring>

#include "base/files.h"
#include "base/hash.h"

namespace coctilis {

namespace {
constexpr std::size_t hash_length = 32;

// Behind heading and key: the hash of what follows, the length of `seen`, `seen`, `kept`.
std::string body_of(std::string_view seen, std::string_view kept) {
  const std::uint64_t length = seen.size();
  std::string out(reinterpret_cast<const char*>(&length), sizeof length);
  return out.append(seen).append(kept);
}
}  // namespace

void write_frame(const std::string& path, std::string_view heading, const std::string& key, std::string_view seen,
                 std::string_view kept) {
  files::write(path, framed(heading, key, seen, kept));
}

std::string framed(std::string_view heading, std::string_view key, std::string_view seen, std::string_view kept) {
  const std::string body = body_of(seen, kept);
  return std::string(heading).append(key).append(hash_bytes(body).text()).append(body);
}

Framed read_frame(std::string_view content, std::string_view heading, std::string_view key, Frame& out) {
  if (!content.starts_with(heading)) return Framed::other_form;
  content.remove_prefix(heading.size());
  if (content.size() < key.size() + hash_length) return Framed::damaged;
  if (!content.starts_with(key)) return Framed::other_key;
  content.remove_prefix(key.size());
  const std::string_view hash = content.substr(0, hash_length);
  content.remove_prefix(hash_length);
  std::uint64_t length = 0;
  if (hash_bytes(content).text() != hash || content.size() < sizeof length) return Framed::damaged;
  std::memcpy(&length, content.data(), sizeof length);
  content.remove_prefix(sizeof length);
  if (length > content.size()) return Framed::damaged;
  out.seen = content.substr(0, length);
  out.kept = content.substr(length);
  return Framed::whole;
}

bool is_framed(const std::string& path, std::string_view heading, std::string_view key) {
  const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK);
  if (fd < 0) return false;
  std::string begin(heading.size() + key.size(), '\0');
  const bool whole = ::pread(fd, begin.data(), begin.size(), 0) == static_cast<ssize_t>(begin.size());
  ::close(fd);
  return whole && begin.starts_with(heading) && begin.ends_with(key);
}

}  // namespace coctilis
