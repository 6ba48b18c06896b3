#include "terminal_relay.h"

#include <fcntl.h>
#include <poll.h>
#include <sys/ioctl.h>
#include <termios.h>
#include <unistd.h>

#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <string>

namespace coctilis::app {

namespace {

// While one lives keys come as they are typed, and nothing is done about them here.
class RawTerminal {
 public:
  RawTerminal() {
    if (::tcgetattr(STDIN_FILENO, &before_) != 0) return;
    termios raw = before_;
    ::cfmakeraw(&raw);
    changed_ = ::tcsetattr(STDIN_FILENO, TCSADRAIN, &raw) == 0;
  }
  ~RawTerminal() {
    if (changed_) ::tcsetattr(STDIN_FILENO, TCSADRAIN, &before_);
  }
  RawTerminal(const RawTerminal&) = delete;
  RawTerminal& operator=(const RawTerminal&) = delete;
  [[nodiscard]] const termios& before() const { return before_; }

 private:
  termios before_{};
  bool changed_ = false;
};

// All of it, also where the other side takes it slowly.
void write_all(int fd, const char* bytes, ssize_t size) {
  while (size > 0) {
    const ssize_t done = ::write(fd, bytes, static_cast<std::size_t>(size));
    if (done > 0) {
      bytes += done;
      size -= done;
      continue;
    }
    if (errno == EINTR) continue;
    if (errno != EAGAIN) return;
    pollfd ready{fd, POLLOUT, 0};
    ::poll(&ready, 1, 100);
  }
}

void take_size(int master) {
  winsize size{};
  if (::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0) ::ioctl(master, TIOCSWINSZ, &size);
}

// What comes from `from` goes to `to`; false at its end.
bool hand_on(int from, int to) {
  char bytes[1U << 14U];
  const ssize_t got = ::read(from, bytes, sizeof bytes);
  if (got > 0) write_all(to, bytes, got);
  return got > 0 || (got < 0 && (errno == EAGAIN || errno == EINTR));
}

Ended run_on_own_terminal(Command command, const std::function<void()>& meanwhile) {
  Ended failed;
  const int master = ::posix_openpt(O_RDWR | O_NOCTTY | O_CLOEXEC);
  char name[128];
  if (master < 0 || ::grantpt(master) != 0 || ::unlockpt(master) != 0 || ::ptsname_r(master, name, sizeof name) != 0) {
    failed.code = errno;
    if (master >= 0) ::close(master);
    return failed;
  }
  // As long as this is open the other side does not end before the command has opened it.
  const int held = ::open(name, O_RDWR | O_NOCTTY | O_CLOEXEC);
  take_size(master);
  command.terminal = name;
  Ended ended;
  {
    const RawTerminal raw;
    if (held >= 0) ::tcsetattr(held, TCSANOW, &raw.before());
    Process process = Process::start(command);
    bool typing = true;
    while (!process.poll()) {
      pollfd ready[] = {{master, POLLIN, 0}, {typing ? STDIN_FILENO : -1, POLLIN, 0}};
      ::poll(ready, 2, 50);
      if ((ready[0].revents & POLLIN) != 0) hand_on(master, STDOUT_FILENO);
      if ((ready[1].revents & (POLLIN | POLLHUP)) != 0) typing = hand_on(STDIN_FILENO, master);
      take_size(master);
      if (meanwhile) meanwhile();
      if (interrupted_by != 0) process.stop(Ended::How::interrupted);
    }
    ended = process.take();
    // What it has printed last.
    ::fcntl(master, F_SETFL, O_NONBLOCK);
    for (pollfd rest{master, POLLIN, 0}; ::poll(&rest, 1, 0) > 0 && (rest.revents & POLLIN) != 0;) {
      if (!hand_on(master, STDOUT_FILENO)) break;
    }
  }
  if (held >= 0) ::close(held);
  ::close(master);
  return ended;
}

}  // namespace

Ended run_for_person(Command command, const std::function<void()>& meanwhile) {
  if (::isatty(STDIN_FILENO) == 1 && ::isatty(STDOUT_FILENO) == 1)
    return run_on_own_terminal(std::move(command), meanwhile);
  command.input = "/dev/stdin";
  Process process = Process::start(command);
  std::size_t shown = 0;
  const auto show = [&](const std::string& output) {
    if (output.size() > shown) std::fwrite(output.data() + shown, 1, output.size() - shown, stdout);
    shown = std::max(shown, output.size());
    std::fflush(stdout);
  };
  while (!process.poll()) {
    show(process.output_so_far());
    if (meanwhile) meanwhile();
    if (interrupted_by != 0) process.stop(Ended::How::interrupted);
    ::usleep(2000);
  }
  Ended ended = process.take();
  show(ended.output);
  return ended;
}

}  // namespace coctilis::app
