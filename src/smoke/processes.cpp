#include "smoke/processes.h"

#include <fmt/format.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <map>

#include "base/confine.h"
#include "base/files.h"
#include "base/text.h"
#include "sandbox/report.h"

namespace coctilis::smoke {

namespace {

std::string in_process(pid_t pid, const std::string& name) { return "/proc/" + std::to_string(pid) + "/" + name; }

std::string link_of(const std::string& path) {
  std::error_code error;
  return std::filesystem::read_symlink(path, error).string();
}

// "socket:[4711]" -> "4711".
std::string socket_in(const std::string& link) {
  return link.starts_with("socket:[") && link.ends_with(']') ? link.substr(8, link.size() - 9) : std::string{};
}

std::set<std::string> sockets_of(pid_t pid) {
  std::set<std::string> out;
  for (const auto& name : files::names_in(in_process(pid, "fd"))) {
    if (std::string inode = socket_in(link_of(in_process(pid, "fd/" + name))); !inode.empty())
      out.insert(std::move(inode));
  }
  return out;
}

struct Connection {
  std::string state;  // as the kernel numbers them: 0A listens, 02 asks for a connection (include/net/tcp_states.h)
  std::string local;  // "0100007F:1267": an address in the machine's order of bytes, and the port
  std::string remote;
};

// The sockets of a process's network by inode, from the tables of TCP.
std::map<std::string, Connection> connections(pid_t pid) {
  std::map<std::string, Connection> out;
  for (const char* table : {"net/tcp", "net/tcp6"}) {
    for (const auto& line : text::split(files::read_system_file(in_process(pid, table)), '\n')) {
      const auto words = text::words(line);
      if (words.size() > 9) out[words[9]] = {words[3], words[1], words[2]};
    }
  }
  return out;
}

int port_of(const std::string& address) {
  const auto colon = address.rfind(':');
  return colon == std::string::npos ? 0 : static_cast<int>(std::strtol(address.c_str() + colon + 1, nullptr, 16));
}

std::string shown_address(const std::string& address) {
  unsigned a = 0;
  if (address.find(':') != 8 || std::sscanf(address.c_str(), "%8x", &a) != 1)
    return "port " + std::to_string(port_of(address));
  return fmt::format("{}.{}.{}.{}:{}", a & 255U, (a >> 8U) & 255U, (a >> 16U) & 255U, a >> 24U, port_of(address));
}

std::string of_descriptor(pid_t pid, long number) {
  const std::string link = link_of(in_process(pid, "fd/" + std::to_string(number)));
  if (const std::string inode = socket_in(link); !inode.empty()) {
    const auto all = connections(pid);
    const auto it = all.find(inode);
    if (it == all.end()) return "what comes in through a socket";
    return it->second.state == "0A" ? "connections on port " + std::to_string(port_of(it->second.local))
                                    : "an answer from " + shown_address(it->second.remote);
  }
  if (number == 0) return "standard input, to which nobody writes";
  if (link.starts_with("pipe:")) return "what another process writes to a pipe";
  return link.starts_with('/') ? "what comes out of " + text::printable_line(link) : std::string{};
}

// By the call that the process is in ("number argument ... stack instruction", proc(5)).
std::string of_call(pid_t pid) {
  const auto words = text::words(files::read_system_file(in_process(pid, "syscall")));
  if (words.empty()) return {};
  if (words.front() == "running") return "nothing: it computes";
  const long call = std::strtol(words.front().c_str(), nullptr, 10);
  const long first = words.size() > 1 ? std::strtol(words[1].c_str(), nullptr, 16) : -1;
  switch (call) {
    case SYS_read:
    case SYS_readv:
    case SYS_recvfrom:
    case SYS_recvmsg:
    case SYS_accept:
    case SYS_accept4: return of_descriptor(pid, first);
    case SYS_connect: {
      const auto all = connections(pid);
      for (const auto& inode : sockets_of(pid)) {
        const auto it = all.find(inode);
        if (it != all.end() && it->second.state == "02") return "a connection to " + shown_address(it->second.remote);
      }
      return "a connection";
    }
    case SYS_futex: return "a lock, or another of its threads";
    case SYS_nanosleep:
    case SYS_clock_nanosleep: return "time to pass: it sleeps";
    case SYS_flock:
    case SYS_fcntl: return "a lock on " + text::printable_line(link_of(in_process(pid, "fd/" + std::to_string(first))));
    case SYS_wait4:
    case SYS_waitid: return "a process that it has started";
    case SYS_rt_sigsuspend:
    case SYS_rt_sigtimedwait:
#ifdef SYS_pause
    case SYS_pause:
#endif
      return "a signal";
    case SYS_ppoll:
    case SYS_pselect6:
    case SYS_epoll_pwait:
#ifdef SYS_poll
    case SYS_poll:
    case SYS_select:
    case SYS_epoll_wait:
#endif
    {
      const auto all = connections(pid);
      for (const auto& inode : sockets_of(pid)) {
        const auto it = all.find(inode);
        if (it == all.end()) continue;
        if (it->second.state == "0A") return "connections on port " + std::to_string(port_of(it->second.local));
        if (it->second.state == "02") return "a connection to " + shown_address(it->second.remote);
      }
      return "something to happen";
    }
    case SYS_openat: return "somebody at the other end of a pipe with a name";
    default: return {};
  }
}

std::vector<pid_t> children_of(pid_t pid) {
  std::vector<pid_t> out;
  const std::string tasks = in_process(pid, "task");
  for (const auto& task : files::names_in(tasks)) {
    for (const auto& word : text::words(files::read_system_file(tasks + "/" + task + "/children")))
      out.push_back(static_cast<pid_t>(std::atoi(word.c_str())));
  }
  return out;
}

bool is_first_in_sandbox(pid_t pid) {
  return files::read_system_file(in_process(pid, "comm")) == std::string(sandbox::first_process) + "\n";
}

// Not a program's own process, but one of those that hold its sandbox.
bool holds_a_sandbox(pid_t pid) {
  const auto children = children_of(pid);
  return is_first_in_sandbox(pid) || std::any_of(children.begin(), children.end(), is_first_in_sandbox);
}

}  // namespace

std::vector<pid_t> with_descendants(pid_t pid) {
  std::vector<pid_t> out = {pid};
  for (std::size_t at = 0; at < out.size() && out.size() < 1000; ++at) {
    const auto children = children_of(out[at]);
    out.insert(out.end(), children.begin(), children.end());
  }
  return out;
}

std::set<int> listening_ports(pid_t pid) {
  std::set<int> out;
  // Whoever is limited himself sees nothing of what is not (landlock(7), "Ptrace restrictions").
  without_limit([&] {
    for (const pid_t one : with_descendants(pid)) {
      const auto sockets = sockets_of(one);
      if (sockets.empty()) continue;
      for (const auto& [inode, connection] : connections(one)) {
        if (connection.state == "0A" && sockets.contains(inode)) out.insert(port_of(connection.local));
      }
    }
  });
  return out;
}

std::string what_it_waits_for(pid_t pid) {
  std::string out;
  without_limit([&] {
    const auto all = with_descendants(pid);
    for (auto it = all.rbegin(); it != all.rend() && out.empty(); ++it) {
      if (!holds_a_sandbox(*it)) out = of_call(*it);
    }
  });
  return out;
}

}  // namespace coctilis::smoke
