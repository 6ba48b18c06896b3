#include "survey/ssh_transport.h"

#include <fcntl.h>
#include <poll.h>
#include <re2/re2.h>
#include <signal.h>
#include <spawn.h>
#include <sys/mman.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>

#include "base/process.h"
#include "base/text.h"
#include "survey/git_library.h"

namespace coctilis::survey {

namespace {

// libgit2's structures come first, so that a pointer to one is a pointer to the whole.
struct Stream {
  git_smart_subtransport_stream base{};
  pid_t pid = 0;
  int to = -1;
  int from = -1;
  int complaints = -1;  // what it says on standard error
  bool begun = false;   // something came from the other side
};

struct Transport {
  git_smart_subtransport base{};
  Stream* stream = nullptr;
};

int fail(const std::string& what) {
  git_error_set_str(GIT_ERROR_SSH, what.c_str());
  return -1;
}

int read_some(git_smart_subtransport_stream* raw, char* buffer, std::size_t size, std::size_t* got) {
  auto* stream = reinterpret_cast<Stream*>(raw);
  while (true) {
    pollfd waiting{stream->from, POLLIN, 0};
    if (interrupted_by != 0) return GIT_EUSER;
    if (::poll(&waiting, 1, 200) == 0) continue;
    const ssize_t n = ::read(stream->from, buffer, size);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) return fail("the ssh program cannot be read from");
    *got = static_cast<std::size_t>(n);
    if (n == 0 && !stream->begun) {
      // It ended before anything came: what it said tells why.
      char said[2000];
      const ssize_t length = ::pread(stream->complaints, said, sizeof said, 0);
      if (length > 0)
        return fail("ssh says: " +
                    std::string(text::trim(text::printable_line({said, static_cast<std::size_t>(length)}))));
    }
    stream->begun = true;
    return 0;
  }
}

int write_all(git_smart_subtransport_stream* raw, const char* buffer, std::size_t size) {
  auto* stream = reinterpret_cast<Stream*>(raw);
  while (size > 0) {
    const ssize_t n = ::write(stream->to, buffer, size);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) return fail("the ssh program ended before it had taken the question");
    buffer += n;
    size -= static_cast<std::size_t>(n);
  }
  return 0;
}

void end(Stream* stream) {
  if (stream == nullptr) return;
  for (const int fd : {stream->to, stream->from, stream->complaints}) {
    if (fd >= 0) ::close(fd);
  }
  if (stream->pid > 0) {
    ::kill(-stream->pid, SIGTERM);
    ::waitpid(stream->pid, nullptr, 0);
  }
  delete stream;
}

void free_stream(git_smart_subtransport_stream* raw) {
  auto* stream = reinterpret_cast<Stream*>(raw);
  reinterpret_cast<Transport*>(stream->base.subtransport)->stream = nullptr;
  end(stream);
}

Stream* start(const std::vector<std::string>& argv) {
  int in[2] = {-1, -1};
  int out[2] = {-1, -1};
  const std::string program = find_program(argv.front());
  if (program.empty() || ::pipe2(in, O_CLOEXEC) != 0) return nullptr;
  if (::pipe2(out, O_CLOEXEC) != 0) {
    ::close(in[0]);
    ::close(in[1]);
    return nullptr;
  }
  std::vector<char*> words;
  for (const auto& word : argv) words.push_back(const_cast<char*>(word.c_str()));  // NOLINT: the C interface
  words.push_back(nullptr);
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_adddup2(&actions, in[0], 0);
  posix_spawn_file_actions_adddup2(&actions, out[1], 1);
  const int complaints = ::memfd_create("ssh", MFD_CLOEXEC);
  posix_spawn_file_actions_adddup2(&actions, complaints, 2);
  posix_spawnattr_t attributes;
  posix_spawnattr_init(&attributes);
  posix_spawnattr_setpgroup(&attributes, 0);
  posix_spawnattr_setflags(&attributes, POSIX_SPAWN_SETPGROUP);
  pid_t pid = 0;
  const int error = ::posix_spawn(&pid, program.c_str(), &actions, &attributes, words.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  posix_spawnattr_destroy(&attributes);
  ::close(in[0]);
  ::close(out[1]);
  if (error != 0) {
    ::close(in[1]);
    ::close(out[0]);
    ::close(complaints);
    return nullptr;
  }
  auto* stream = new Stream;
  stream->pid = pid;
  stream->to = in[1];
  stream->from = out[0];
  stream->complaints = complaints;
  return stream;
}

int act(git_smart_subtransport_stream** out, git_smart_subtransport* raw, const char* url, git_smart_service_t action) {
  auto* transport = reinterpret_cast<Transport*>(raw);
  if (action == GIT_SERVICE_UPLOADPACK && transport->stream != nullptr) {
    *out = &transport->stream->base;
    return 0;
  }
  if (action != GIT_SERVICE_UPLOADPACK_LS) return fail("repositories are only read from");
  const auto argv = ssh_command(url);
  if (argv.empty()) return fail("the URL names no host that can be asked");
  transport->stream = start(argv);
  if (transport->stream == nullptr) return fail("the program ssh cannot be started (package openssh-client)");
  transport->stream->base.subtransport = raw;
  transport->stream->base.read = read_some;
  transport->stream->base.write = write_all;
  transport->stream->base.free = free_stream;
  *out = &transport->stream->base;
  return 0;
}

int close_transport(git_smart_subtransport*) { return 0; }
void free_transport(git_smart_subtransport* raw) {
  auto* transport = reinterpret_cast<Transport*>(raw);
  end(transport->stream);
  delete transport;
}

int make_transport(git_smart_subtransport** out, git_transport*, void*) {
  auto* transport = new Transport;
  transport->base.action = act;
  transport->base.close = close_transport;
  transport->base.free = free_transport;
  *out = &transport->base;
  return 0;
}

int make_smart(git_transport** out, git_remote* owner, void*) {
  static git_smart_subtransport_definition definition{make_transport, 0, nullptr};
  return git_transport_smart(out, owner, &definition);
}

}  // namespace

std::vector<std::string> ssh_command(const std::string& url) {
  std::string user;
  std::string host;
  std::string port;
  std::string path;
  static const RE2 full(R"(ssh://(?:([^@/]+)@)?(\[[0-9A-Fa-f:]+\]|[^:/@]+)(?::([0-9]+))?(/.*))");
  static const RE2 brief(R"((?:([^@/:]+)@)?([^:/@]+):(.+))");
  const bool known = url.find("://") != std::string::npos ? RE2::FullMatch(url, full, &user, &host, &port, &path)
                                                          : RE2::FullMatch(url, brief, &user, &host, &path);
  if (!known) return {};
  // "/~name/x" counts from that user's home.
  if (path.starts_with("/~")) path.erase(0, 1);
  if (host.starts_with('[')) host = host.substr(1, host.size() - 2);
  if (host.starts_with('-') || user.starts_with('-') || path.starts_with('-')) return {};
  std::vector<std::string> argv = {"ssh", "-o", "BatchMode=yes", "-o", "ConnectTimeout=20", "-T"};
  if (!port.empty()) argv.insert(argv.end(), {"-p", port});
  argv.insert(argv.end(), {"--", user.empty() ? host : user + "@" + host});
  std::string quoted = "'";
  for (const char c : path) quoted += c == '\'' ? "'\\''" : std::string(1, c);
  argv.push_back("git-upload-pack " + quoted + "'");
  return argv;
}

void use_ssh_program() { git_transport_register("ssh", make_smart, nullptr); }

}  // namespace coctilis::survey
