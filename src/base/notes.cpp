#include "base/notes.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <cstdint>
#include <cstring>

#include "base/disk.h"

namespace coctilis {

namespace {
struct Head {
  std::uint64_t length = 0;  // of what follows, key and bytes
  Hash hash;                 // of the same
};
}  // namespace

void append_note(const std::string& path, std::string_view key, std::string_view bytes) {
  const int fd = ::open(path.c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC | O_NOFOLLOW, 0666);
  if (fd < 0) return;
  const std::string body = std::string(key).append(bytes);
  const Head head{body.size(), hash_bytes(body)};
  std::string whole(reinterpret_cast<const char*>(&head), sizeof head);
  whole += body;
  ::flock(fd, LOCK_EX);
  static_cast<void>(disk().write_all(fd, whole));
  ::close(fd);
}

bool each_note(std::string_view content, std::string_view key, const std::function<bool(std::string_view)>& use) {
  while (!content.empty()) {
    Head head;
    if (content.size() < sizeof head) return false;
    std::memcpy(&head, content.data(), sizeof head);
    content.remove_prefix(sizeof head);
    if (head.length > content.size()) return false;
    const std::string_view body = content.substr(0, head.length);
    content.remove_prefix(head.length);
    if (hash_bytes(body) != head.hash || !body.starts_with(key) || !use(body.substr(key.size()))) return false;
  }
  return true;
}

}  // namespace coctilis
