#include "pipeline/reached_makes.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <array>
#include <set>

#include "base/disk.h"
#include "base/files.h"
#include "base/kept_value.h"
#include "base/text.h"
#include "engine/sweep.h"

namespace coctilis::pipeline {

namespace {

std::string noted_path(const std::string& state) { return state + "/reached"; }
std::string kept_path(const std::string& state) { return state + "/makers"; }

constexpr std::array<const char*, 4> purposes = {"build", "install", "check", "stage"};

using Makers = std::map<std::string, std::set<std::string>>;
Makers read_makers(const std::string& state) { return kept_value<Makers>(kept_path(state)).value_or(Makers{}); }

}  // namespace

std::uint64_t maker_while_reading(std::uint64_t maker) { return maker ^ 0x9e3779b97f4a7c15ULL; }

void begin_reaching(const std::string& state) { ::unlink(noted_path(state).c_str()); }

void note_reached(const std::string& state, std::uint64_t maker) {
  const int fd = ::open(noted_path(state).c_str(), O_WRONLY | O_CREAT | O_APPEND | O_CLOEXEC | O_NOFOLLOW, 0666);
  if (fd < 0) return;
  // Short enough for one write, so that lines of several makes do not mix.
  static_cast<void>(disk().write_all(fd, fmt::format("{:016x}\n", maker)));
  ::close(fd);
}

void end_reaching(const std::string& state, Purpose purpose) {
  Makers makers = read_makers(state);
  auto& reached = makers[purposes[static_cast<std::size_t>(purpose)]];
  reached.clear();
  for (const auto& line : text::split(files::read(noted_path(state)).value_or(""), '\n')) {
    if (line.size() == 16) reached.insert(line);
  }
  keep_value(kept_path(state), makers);
}

void forget_other_purposes(const std::string& state) {
  Makers makers = read_makers(state);
  std::erase_if(makers, [](const auto& entry) { return entry.first != "build"; });
  keep_value(kept_path(state), makers);
}

Result<std::size_t> sweep_unreached(const model::Plan& plan, const std::string& state) {
  std::set<std::uint64_t> known;
  const auto add = [&](std::uint64_t maker) {
    known.insert(maker);
    known.insert(maker_while_reading(maker));
  };
  add(plan.maker);
  for (const auto& [purpose, reached] : read_makers(state)) {
    for (const auto& maker : reached) add(std::strtoull(maker.c_str(), nullptr, 16));
  }
  return engine::sweep_all_but(plan, known);
}

}  // namespace coctilis::pipeline
