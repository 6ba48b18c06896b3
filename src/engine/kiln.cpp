#include "engine/kiln.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "base/files.h"

namespace coctilis::engine {

KilnLock::~KilnLock() { ::close(fd_); }

Result<std::shared_ptr<KilnLock>> open_kiln(const std::string& root, const std::string& kiln, const std::string& mark) {
  return guarded("opening the kiln", [&] {
    files::make_folder(kiln);
    if (!files::is_file(root + "/.gitignore")) files::write(root + "/.gitignore", mark + "\n*\n");
    const std::string path = kiln + "/lock";
    const int fd = ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    if (fd < 0) {
      throw Fault({Exit::kiln,
                   {kiln, 0, 0},
                   "the kiln '" + kiln + "' cannot be written",
                   std::strerror(errno),
                   "make it writable, or choose another folder with --kiln DIR",
                   {}});
    }
    if (::flock(fd, LOCK_EX | LOCK_NB) != 0) {
      const std::string holder = files::read(path).value_or("");
      ::close(fd);
      throw Fault({Exit::kiln,
                   {kiln, 0, 0},
                   "the kiln '" + kiln + "' is in use by another run",
                   holder.empty() ? "" : "process " + holder,
                   "wait for it to end, or choose another folder with --kiln DIR",
                   {}});
    }
    const std::string self = std::to_string(::getpid());
    if (::ftruncate(fd, 0) != 0 || ::pwrite(fd, self.data(), self.size(), 0) < 0) {
      ::close(fd);
      throw Fault({Exit::kiln,
                   {kiln, 0, 0},
                   "the kiln '" + kiln + "' cannot be written",
                   std::strerror(errno),
                   "make room on the disk",
                   {}});
    }
    return std::make_shared<KilnLock>(fd);
  });
}

}  // namespace coctilis::engine
