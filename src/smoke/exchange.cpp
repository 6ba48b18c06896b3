#include "smoke/exchange.h"

// The functions are called by their addresses, which no macro may stand in for.
#define CURL_DISABLE_TYPECHECK
#include <curl/curl.h>
#include <netdb.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <nlohmann/json.hpp>

#include "base/result.h"
#include "base/shared_library.h"
#include "base/text.h"
#include "smoke/patterns.h"

#undef curl_easy_setopt
#undef curl_easy_getinfo

namespace coctilis::smoke {

namespace {

using nlohmann::json;

constexpr std::size_t most_kept = 8U << 20U;
constinit const SharedLibrary curl_library(COCTILIS_CURL_SONAME);

std::size_t take_body(char* bytes, std::size_t size, std::size_t count, void* answer) {
  auto& body = static_cast<Reply*>(answer)->body;
  body.append(bytes, std::min(size * count, most_kept - std::min(most_kept, body.size())));
  return size * count;
}

std::size_t take_header(char* bytes, std::size_t size, std::size_t count, void* answer) {
  const std::string line(bytes, size * count);
  const auto colon = line.find(':');
  auto& headers = static_cast<Reply*>(answer)->headers;
  if (colon == std::string::npos || headers.size() > 1000) return size * count;
  headers[text::lower(std::string_view(line).substr(0, colon))] = std::string(text::trim(line.substr(colon + 1)));
  return size * count;
}

Reply ask_for_page(const Question& question) {
  Reply out;
  CURL* handle = COCTILIS_FUNCTION_OF(curl_library, curl_easy_init)();
  if (handle == nullptr) return {"no request can be made", 0, {}, {}, 0};
  const auto set = COCTILIS_FUNCTION_OF(curl_library, curl_easy_setopt);
  set(handle, CURLOPT_URL, question.url.c_str());
  set(handle, CURLOPT_PROTOCOLS_STR, "http");
  set(handle, CURLOPT_PROXY, "");
  set(handle, CURLOPT_NOSIGNAL, 1L);
  set(handle, CURLOPT_USERAGENT, "coctilis");
  set(handle, CURLOPT_TIMEOUT_MS, static_cast<long>(question.within * 1000));
  set(handle, CURLOPT_WRITEFUNCTION, take_body);
  set(handle, CURLOPT_WRITEDATA, &out);
  set(handle, CURLOPT_HEADERFUNCTION, take_header);
  set(handle, CURLOPT_HEADERDATA, &out);
  const CURLcode code = COCTILIS_FUNCTION_OF(curl_library, curl_easy_perform)(handle);
  if (code == CURLE_COULDNT_CONNECT)
    out.error = "connection refused: nobody listens there";
  else if (code == CURLE_COULDNT_RESOLVE_HOST)
    out.error = "the host's name does not resolve";
  else if (code == CURLE_OPERATION_TIMEDOUT)
    out.error = "no answer within " + text::duration(question.within);
  else if (code == CURLE_GOT_NOTHING)
    out.error = "the connection was closed without an answer";
  else if (code != CURLE_OK)
    out.error = COCTILIS_FUNCTION_OF(curl_library, curl_easy_strerror)(code);
  long status = 0;
  COCTILIS_FUNCTION_OF(curl_library, curl_easy_getinfo)(handle, CURLINFO_RESPONSE_CODE, &status);
  out.status = static_cast<int>(status);
  COCTILIS_FUNCTION_OF(curl_library, curl_easy_cleanup)(handle);
  return out;
}

class Connection {
 public:
  ~Connection() {
    if (fd_ >= 0) ::close(fd_);
  }
  Connection() = default;
  Connection(const Connection&) = delete;
  Connection& operator=(const Connection&) = delete;

  // Why it cannot be made; empty: it is.
  std::string make(const Question& question, double until) {
    addrinfo hints{};
    hints.ai_socktype = SOCK_STREAM;
    addrinfo* all = nullptr;
    if (::getaddrinfo(question.host.c_str(), std::to_string(question.port).c_str(), &hints, &all) != 0)
      return "the host's name does not resolve";
    std::string why = "there is no address";
    for (const addrinfo* at = all; at != nullptr && fd_ < 0; at = at->ai_next) {
      const int fd = ::socket(at->ai_family, at->ai_socktype | SOCK_CLOEXEC | SOCK_NONBLOCK, at->ai_protocol);
      if (fd < 0) continue;
      int error = ::connect(fd, at->ai_addr, at->ai_addrlen) == 0 ? 0 : errno;
      if (error == EINPROGRESS) {
        pollfd waiting{fd, POLLOUT, 0};
        socklen_t size = sizeof error;
        error = ETIMEDOUT;
        if (::poll(&waiting, 1, milliseconds(until)) == 1) ::getsockopt(fd, SOL_SOCKET, SO_ERROR, &error, &size);
      }
      if (error == 0) {
        fd_ = fd;
      } else {
        ::close(fd);
        why = error == ECONNREFUSED ? "connection refused: nobody listens there" : std::strerror(error);
      }
    }
    ::freeaddrinfo(all);
    return fd_ >= 0 ? std::string{} : why;
  }

  std::string send(const std::string& words, double until) const {
    for (std::size_t done = 0; done < words.size();) {
      pollfd waiting{fd_, POLLOUT, 0};
      if (::poll(&waiting, 1, milliseconds(until)) != 1) return "nothing more can be sent within the time";
      const ssize_t sent = ::send(fd_, words.data() + done, words.size() - done, MSG_NOSIGNAL);
      if (sent < 0 && errno != EAGAIN && errno != EINTR) return std::strerror(errno);
      if (sent > 0) done += static_cast<std::size_t>(sent);
    }
    return {};
  }

  // Until the pattern is found, the other side closes, or the time is over.
  void receive(const std::string& pattern, double until, std::string& into) const {
    char buffer[1U << 16U];
    while (into.size() < most_kept) {
      if (!pattern.empty() && is_found(pattern, into)) return;
      pollfd waiting{fd_, POLLIN, 0};
      if (::poll(&waiting, 1, milliseconds(until)) != 1) return;
      const ssize_t size = ::recv(fd_, buffer, sizeof buffer, 0);
      if (size == 0 || (size < 0 && errno != EAGAIN && errno != EINTR)) return;
      if (size > 0) into.append(buffer, static_cast<std::size_t>(size));
    }
  }

 private:
  static int milliseconds(double until) { return std::max(0, static_cast<int>((until - now()) * 1000)); }
  int fd_ = -1;
};

Reply exchange(const Question& question) {
  Reply out;
  const double until = now() + question.within;
  Connection connection;
  out.error = connection.make(question, until);
  if (out.error.empty()) out.error = connection.send(question.send, until);
  if (out.error.empty() && (!question.until.empty() || !question.send.empty()))
    connection.receive(question.until, until, out.body);
  return out;
}

// Any bytes as text that JSON takes.
std::string packed(const std::string& bytes) {
  std::string out;
  for (const char c : bytes) {
    const auto byte = static_cast<unsigned char>(c);
    if (byte < 0x80) {
      out += c;
    } else {
      out += static_cast<char>(0xC0U | (byte >> 6U));
      out += static_cast<char>(0x80U | (byte & 0x3FU));
    }
  }
  return out;
}
std::string unpacked(const std::string& text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    const auto byte = static_cast<unsigned char>(text[i]);
    if (byte >= 0xC0 && i + 1 < text.size())
      out += static_cast<char>(((byte & 0x03U) << 6U) | (static_cast<unsigned char>(text[++i]) & 0x3FU));
    else
      out += text[i];
  }
  return out;
}

}  // namespace

Reply ask(const Question& question) {
  const double begin = now();
  for (;;) {
    Reply out = question.url.empty() ? exchange(question) : ask_for_page(question);
    out.seconds = now() - begin;
    if (out.error.empty() || !question.insists || out.seconds > question.within) return out;
    ::usleep(20000);
  }
}

std::vector<std::string> words_of(const Question& question) {
  const json out = {{"url", packed(question.url)},   {"host", packed(question.host)},   {"port", question.port},
                    {"send", packed(question.send)}, {"until", packed(question.until)}, {"within", question.within},
                    {"insists", question.insists}};
  return {"ask-service", out.dump()};
}

std::optional<std::string> reply_to_words(const std::vector<std::string>& words) {
  if (words.size() != 1) return std::nullopt;
  const json read = json::parse(words.front(), nullptr, false);
  if (!read.is_object()) return std::nullopt;
  Question question;
  try {
    question = {unpacked(read.at("url")),   unpacked(read.at("host")), read.at("port"),   unpacked(read.at("send")),
                unpacked(read.at("until")), read.at("within"),         read.at("insists")};
  } catch (const json::exception&) {
    return std::nullopt;
  }
  const Reply answer = ask(question);
  json headers = json::object();
  for (const auto& [name, value] : answer.headers) headers[packed(name)] = packed(value);
  const json out = {{"error", packed(answer.error)},
                    {"status", answer.status},
                    {"headers", headers},
                    {"body", packed(answer.body)},
                    {"seconds", answer.seconds}};
  return out.dump() + "\n";
}

Reply reply_in(const Ended& ended) {
  Reply out;
  const json read = json::parse(ended.output, nullptr, false);
  try {
    out.error = unpacked(read.at("error"));
    out.status = read.at("status");
    out.body = unpacked(read.at("body"));
    out.seconds = read.at("seconds");
    for (const auto& [name, value] : read.at("headers").items()) out.headers[unpacked(name)] = unpacked(value);
  } catch (const json::exception&) {
    out = {};
    out.error = "it could not be asked: " + ended.text() + " " +
                text::clip(text::printable_line(std::string(text::trim(ended.output))), 200);
  }
  return out;
}

}  // namespace coctilis::smoke
