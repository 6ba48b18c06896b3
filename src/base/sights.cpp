#include "base/sights.h"

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <thread>

namespace coctilis {

namespace {

// In front of each path: its length without the 0 behind it, the kind, and the stamp.
struct Header {
  std::uint32_t length = 0;
  std::uint32_t kind = 0;
  FileStamp stamp;
};

std::uint32_t presence_of(std::uint32_t mode) {
  return (mode & S_IFMT) | (!S_ISDIR(mode) && (mode & 0111U) != 0 ? 1U : 0U);
}

bool is_nothing(int error) { return error == ENOENT || error == ENOTDIR; }

bool is_so(const Header& seen, const char* path) {
  struct stat info {};
  switch (static_cast<Sights::Kind>(seen.kind)) {
    case Sights::Kind::file: return ::stat(path, &info) == 0 && FileStamp::of(info) == seen.stamp;
    case Sights::Kind::link: return ::lstat(path, &info) == 0 && FileStamp::of(info) == seen.stamp;
    case Sights::Kind::absent: return ::lstat(path, &info) != 0 && is_nothing(errno);
    case Sights::Kind::dangling: return ::stat(path, &info) != 0 && is_nothing(errno);
    case Sights::Kind::presence:
      return ::stat(path, &info) == 0 && presence_of(info.st_mode) == presence_of(seen.stamp.mode);
  }
  return false;
}

// Nothing when what is there is no sight.
struct Next {
  Header header;
  const char* path = nullptr;
};
Next next_of(std::string_view& packed) {
  Next out;
  if (packed.size() < sizeof(Header)) return out;
  std::memcpy(&out.header, packed.data(), sizeof(Header));
  packed.remove_prefix(sizeof(Header));
  if (packed.size() <= out.header.length || packed[out.header.length] != '\0') return out;
  out.path = packed.data();
  packed.remove_prefix(out.header.length + 1);
  return out;
}

bool all_are_so(std::string_view packed, const std::atomic<bool>& stop) {
  while (!packed.empty()) {
    if (stop.load(std::memory_order_relaxed)) return false;
    const Next next = next_of(packed);
    if (next.path == nullptr || !is_so(next.header, next.path)) return false;
  }
  return true;
}

}  // namespace

void Sights::add(Kind kind, const std::string& path, const FileStamp& stamp) {
  if (spoilt_) return;
  std::string key(1, static_cast<char>(kind));
  key += path;
  const auto [it, fresh] = places_.try_emplace(std::move(key), packed_.size());
  if (!fresh) {
    FileStamp before;
    std::memcpy(&before, packed_.data() + it->second + offsetof(Header, stamp), sizeof before);
    const bool same = kind == Kind::presence ? presence_of(before.mode) == presence_of(stamp.mode) : before == stamp;
    if (!same) spoil();
    return;
  }
  const Header header{static_cast<std::uint32_t>(path.size()), static_cast<std::uint32_t>(kind), stamp};
  packed_.append(reinterpret_cast<const char*>(&header), sizeof header);
  packed_.append(path).push_back('\0');
}

void Sights::look(Kind kind, const std::string& path) {
  const std::int64_t when = file_clock();
  struct stat info {};
  const bool itself = kind == Kind::link || kind == Kind::absent;
  const bool there = (itself ? ::lstat(path.c_str(), &info) : ::stat(path.c_str(), &info)) == 0;
  const bool nothing = kind == Kind::absent || kind == Kind::dangling;
  if (there == nothing || (!there && !is_nothing(errno))) return spoil();
  const FileStamp stamp = there ? FileStamp::of(info) : FileStamp{};
  if ((kind == Kind::file || kind == Kind::link) && !stamp.tells_since(when)) return spoil();
  add(kind, path, stamp);
}

void Sights::see_own(const std::string& path) {
  struct stat info {};
  if (::lstat(path.c_str(), &info) != 0) return add(Kind::absent, path, {});
  add(S_ISLNK(info.st_mode) ? Kind::link : Kind::file, path, FileStamp::of(info));
}

void Sights::see_own_below(const std::string& folder) {
  see_own(folder);
  std::error_code error;
  for (auto it = std::filesystem::recursive_directory_iterator(folder, error);
       !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error))
    see_own(it->path().string());
}

bool Sights::stand(std::string_view packed) {
  constexpr std::size_t worth_a_thread = 256 * 1024;
  std::atomic<bool> stop{false};
  if (packed.size() < worth_a_thread) return all_are_so(packed, stop);
  // In as many parts as there are processors, each of whole sights.
  const std::size_t parts = std::clamp(std::thread::hardware_concurrency(), 1U, 8U);
  std::vector<std::string_view> shares;
  std::string_view rest = packed;
  while (!rest.empty()) {
    std::string_view begin = rest;
    const std::size_t share = packed.size() / parts + 1;
    while (!rest.empty() && begin.size() - rest.size() < share) {
      if (next_of(rest).path == nullptr) return false;
    }
    shares.push_back(begin.substr(0, begin.size() - rest.size()));
  }
  std::atomic<bool> good{true};
  const auto work = [&](std::string_view share) {
    if (all_are_so(share, stop)) return;
    good = false;
    stop = true;
  };
  std::vector<std::thread> threads;
  for (std::size_t i = 1; i < shares.size(); ++i) threads.emplace_back(work, shares[i]);
  work(shares.front());
  for (auto& thread : threads) thread.join();
  return good;
}

}  // namespace coctilis
