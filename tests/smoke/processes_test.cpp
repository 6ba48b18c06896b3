// What running programs wait for, and where they listen.
#include "smoke/processes.h"

#include <arpa/inet.h>
#include <signal.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

#include "support.h"

namespace coctilis::smoke {
namespace {

// A process that does what it is told, and is ended with this.
class Child {
 public:
  explicit Child(const std::function<void()>& work) : pid_(::fork()) {
    if (pid_ != 0) return;
    ::alarm(30);
    work();
    ::_exit(0);
  }
  ~Child() {
    ::kill(pid_, SIGKILL);
    ::waitpid(pid_, nullptr, 0);
  }
  Child(const Child&) = delete;
  Child& operator=(const Child&) = delete;
  [[nodiscard]] pid_t pid() const { return pid_; }
  // What it waits for, once that is what is expected, or a while is over.
  [[nodiscard]] std::string waits_for(const std::string& expected) const {
    std::string out;
    for (int i = 0; i < 500 && out != expected; ++i) {
      ::usleep(10000);
      out = what_it_waits_for(pid_);
    }
    return out;
  }

 private:
  pid_t pid_;
};

// A socket that listens on a port of the system's choice.
int listener(int& port) {
  sockaddr_in address{};
  address.sin_family = AF_INET;
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  socklen_t size = sizeof address;
  const int fd = ::socket(AF_INET, SOCK_STREAM, 0);
  EXPECT_EQ(::bind(fd, reinterpret_cast<sockaddr*>(&address), size), 0);
  EXPECT_EQ(::listen(fd, 1), 0);
  ::getsockname(fd, reinterpret_cast<sockaddr*>(&address), &size);
  port = ntohs(address.sin_port);
  return fd;
}

TEST(Processes, ThatSleep) {
  const Child child([] { ::sleep(100); });
  EXPECT_EQ(child.waits_for("time to pass: it sleeps"), "time to pass: it sleeps");
}

TEST(Processes, ThatReadFromAPipe) {
  int ends[2];
  ASSERT_EQ(::pipe(ends), 0);
  const Child child([&] {
    char byte = 0;
    static_cast<void>(::read(ends[0], &byte, 1));
  });
  const std::string expected = "what another process writes to a pipe";
  EXPECT_EQ(child.waits_for(expected), expected);
  ::close(ends[0]);
  ::close(ends[1]);
}

TEST(Processes, ThatWaitForASignal) {
  const Child child([] { ::pause(); });
  EXPECT_EQ(child.waits_for("a signal"), "a signal");
}

TEST(Processes, ThatCompute) {
  const Child child([] {
    const double until = now() + 60;
    while (now() < until) {
    }
  });
  EXPECT_EQ(child.waits_for("nothing: it computes"), "nothing: it computes");
}

TEST(Processes, ThatListenAreToldWithTheirPorts) {
  int port = 0;
  const int fd = listener(port);
  const Child child([&] { ::accept(fd, nullptr, nullptr); });
  ::close(fd);
  const std::string expected = "connections on port " + std::to_string(port);
  EXPECT_EQ(child.waits_for(expected), expected);
  EXPECT_TRUE(listening_ports(child.pid()).contains(port));
}

TEST(Processes, AChildOfAChildIsLookedAt) {
  const Child child([] {
    if (::fork() == 0) ::sleep(100);
    ::wait(nullptr);
  });
  EXPECT_EQ(child.waits_for("time to pass: it sleeps"), "time to pass: it sleeps");
  EXPECT_EQ(with_descendants(child.pid()).size(), 2U);
  EXPECT_EQ(with_descendants(child.pid()).front(), child.pid());
  ::kill(with_descendants(child.pid()).back(), SIGKILL);
}

TEST(Processes, ThatAreNotThereSayNothing) {
  EXPECT_EQ(what_it_waits_for(0x3fffffff), "");
  EXPECT_TRUE(listening_ports(0x3fffffff).empty());
}

}  // namespace
}  // namespace coctilis::smoke
