#include "base/observed.h"

#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <ctime>
#include <filesystem>
#include <mutex>

#include "base/files.h"
#include "base/hash.h"
#include "base/text.h"

namespace coctilis {

namespace {

std::atomic<Observed*> open_observation{nullptr};
std::mutex mutex;
thread_local int apart = 0;

std::string hash_of_names(const std::string& folder) {
  const observe::Apart unseen;
  std::string all;
  for (const auto& name : files::names_in(folder)) all.append(name).push_back('\0');
  return hash_bytes(all).text();
}

// The times of a file or folder: those of its content, and of its status, which nobody can set back.
std::string time_in(const struct stat& info) {
  return fmt::format("{}.{}/{}.{}", info.st_mtim.tv_sec, info.st_mtim.tv_nsec, info.st_ctim.tv_sec,
                     info.st_ctim.tv_nsec);
}

std::string state_of(Observed::Kind kind, const char* path) {
  struct stat info {};
  if (kind == Observed::Kind::link) {
    std::error_code error;
    const auto to = std::filesystem::read_symlink(path, error);
    return error ? "none" : to.string();
  }
  const bool there = ::stat(path, &info) == 0;
  if (kind == Observed::Kind::folder) return there && S_ISDIR(info.st_mode) ? "yes" : "no";
  if (!there) return "absent";
  switch (kind) {
    case Observed::Kind::presence:
      return S_ISDIR(info.st_mode) ? "folder" : (info.st_mode & 0111U) != 0 ? "program" : "file";
    case Observed::Kind::content:
      if (S_ISDIR(info.st_mode)) return "folder";
      return FileStamp::of(info).text();
    case Observed::Kind::entries: return time_in(info) + " " + hash_of_names(path);
    case Observed::Kind::folder:
    case Observed::Kind::link: break;
  }
  return {};
}

bool is_as_it_was(const std::string& key, const std::string& state) {
  const auto kind = static_cast<Observed::Kind>(key[0]);
  const char* path = key.c_str() + 1;
  if (kind != Observed::Kind::entries || state == "absent") return state_of(kind, path) == state;
  struct stat info {};
  if (::stat(path, &info) != 0) return false;
  const auto space = state.find(' ');
  return state.compare(0, space, time_in(info)) == 0 || state.substr(space + 1) == hash_of_names(path);
}

std::string different(Observed::Kind kind, const std::string& path, const std::string& state) {
  const std::string shown = text::printable_line(path);
  if (kind == Observed::Kind::folder) return shown + (state == "no" ? " is a folder now" : " is no folder any more");
  if (state == "absent") return shown + " is there now";
  if (state_of(kind, path.c_str()) == "absent") return shown + " is gone";
  return (kind == Observed::Kind::entries ? "what lies in " : "") + shown + " is another";
}

std::string answer_of(const Ended& ended) {
  return hash_bytes(fmt::format("{} {} {}", static_cast<int>(ended.how), ended.code, ended.output.size()) + '\0' +
                    ended.output + '\0' + ended.errors)
      .text();
}

std::string shown_command(const std::vector<std::string>& argv) {
  return "'" + text::printable_line(text::clip(text::shell_join(argv), 60)) + "'";
}

// Who comes later may stand in another folder.
std::string whole(const std::string& path) {
  return path.starts_with('/') ? path : files::working_folder() + "/" + path;
}

template <class F>
void tell(F&& what) {
  if (apart > 0 || open_observation.load(std::memory_order_relaxed) == nullptr) return;
  const std::scoped_lock lock(mutex);
  if (Observed* observed = open_observation.load(); observed != nullptr) what(*observed);
}

}  // namespace

void Observed::look(Kind kind, const std::string& path) {
  const std::string place = whole(path);
  if (!written_.contains(place)) note(kind, place);
}

void Observed::look_as(const Observed& other) {
  for (const auto& [key, state] : other.sights_) {
    if (!written_.contains(key.substr(1))) sights_.try_emplace(key, state);
  }
}

void Observed::wrote(const std::string& path) { written_.insert(whole(path)); }

void Observed::note(Kind kind, const std::string& path) {
  std::string key(1, static_cast<char>(kind));
  key += path;
  const auto [it, fresh] = sights_.try_emplace(std::move(key));
  if (fresh) it->second = state_of(kind, it->first.c_str() + 1);
}

void Observed::said(const Command& command, const Ended& ended) {
  std::string key = text::join(command.argv, std::string(1, '\0')) + '\1' + command.folder + '\1' + command.input +
                    '\1' + (command.merge_errors ? "m" : "s");
  for (const auto& [name, value] : command.environment) key += '\1' + name + '=' + value.value_or("");
  const std::string answer = answer_of(ended);
  if (ended.truncated || ended.how == Ended::How::interrupted || ended.how == Ended::How::timed_out)
    return spoil(shown_command(command.argv) + " did not end by itself");
  const auto [it, fresh] = said_index_.try_emplace(std::move(key), said_.size());
  if (fresh)
    said_.push_back({command, answer});
  else if (said_[it->second].answer != answer)
    spoil(shown_command(command.argv) + " says something else each time");
}

void Observed::clock(const std::string& format, bool universal, const std::string& text) {
  const auto [it, fresh] = clocks_.try_emplace((universal ? "u" : "l") + format, text);
  if (!fresh && it->second != text) spoil("it asks for the time");
}

void Observed::spoil(const std::string& why) {
  if (spoilt_.empty()) spoilt_ = why;
}

void Observed::forget_below(const std::string& folder) {
  std::erase_if(sights_,
                [&](const auto& sight) { return files::is_below(std::string_view(sight.first).substr(1), folder); });
  std::erase_if(written_, [&](const auto& path) { return files::is_below(path, folder); });
}

bool Observed::settle() {
  if (!spoilt_.empty()) return false;
  for (const auto& [key, state] : sights_) {
    if (is_as_it_was(key, state)) continue;
    spoil(text::printable_line(key.substr(1)) + " changed meanwhile");
    return false;
  }
  for (const auto& path : written_) note(Kind::content, path);
  written_.clear();
  return true;
}

std::string Observed::difference() const {
  for (const auto& [key, state] : sights_) {
    if (!is_as_it_was(key, state)) return different(static_cast<Kind>(key[0]), key.substr(1), state);
  }
  for (const auto& [form, gave] : clocks_) {
    if (text::time_in_form(std::time(nullptr), form.substr(1), form[0] == 'u') != gave) return "the time is another";
  }
  for (const auto& one : said_) {
    if (answer_of(coctilis::run(one.command)) != one.answer)
      return shown_command(one.command.argv) + " says something else";
  }
  return {};
}

void Observed::show(Sights& sights,
                    const std::function<bool(const std::string& from, const std::string& to)>& seen) const {
  const bool follows_others =
      std::any_of(copies_.begin(), copies_.end(), [&](const auto& copy) { return !seen(copy.first, copy.second); });
  if (!said_.empty() || !clocks_.empty() || follows_others || !spoilt_.empty() || !written_.empty())
    return sights.spoil();
  for (const auto& [key, state] : sights_) {
    const std::string path = key.substr(1);
    struct stat info {};
    const bool itself = ::lstat(path.c_str(), &info) == 0;
    const bool there = ::stat(path.c_str(), &info) == 0;
    switch (static_cast<Kind>(key[0])) {
      case Kind::link: sights.look(itself ? Sights::Kind::link : Sights::Kind::absent, path); break;
      case Kind::content:
      case Kind::entries:
        if (there && (key[0] == static_cast<char>(Kind::entries) || !S_ISDIR(info.st_mode))) {
          sights.look(Sights::Kind::file, path);
          break;
        }
        [[fallthrough]];
      case Kind::presence:
      case Kind::folder:
        sights.look(there ? Sights::Kind::presence : itself ? Sights::Kind::dangling : Sights::Kind::absent, path);
    }
    if (!is_as_it_was(key, state)) return sights.spoil();
  }
}

Observation::Observation(Observed& into) : outer_(nullptr) {
  const std::scoped_lock lock(mutex);
  outer_ = open_observation.exchange(&into);
  if (outer_ != nullptr) outer_->spoil("something else was worked out meanwhile");
}
Observation::~Observation() {
  const std::scoped_lock lock(mutex);
  open_observation = outer_;
}

namespace observe {

Apart::Apart() { ++apart; }
Apart::~Apart() { --apart; }

void presence(const std::string& path) {
  tell([&](Observed& o) { o.look(Observed::Kind::presence, path); });
}
void folder(const std::string& path) {
  tell([&](Observed& o) { o.look(Observed::Kind::folder, path); });
}
void content(const std::string& path) {
  tell([&](Observed& o) { o.look(Observed::Kind::content, path); });
}
void entries(const std::string& path) {
  tell([&](Observed& o) { o.look(Observed::Kind::entries, path); });
}
void link(const std::string& path) {
  tell([&](Observed& o) { o.look(Observed::Kind::link, path); });
}
void wrote(const std::string& path) {
  tell([&](Observed& o) { o.wrote(path); });
}
void follows(const std::string& from, const std::string& to) {
  tell([&](Observed& o) { o.follows(from, to); });
}
void spoil(const std::string& why) {
  tell([&](Observed& o) { o.spoil(why); });
}
void process(const Command& command) {
  tell([&](Observed& o) { o.spoil(shown_command(command.argv) + " was run"); });
}
void depends(const std::string& path, bool entries) {
  if (open_observation.load(std::memory_order_relaxed) == nullptr) return;
  const std::scoped_lock lock(mutex);
  if (Observed* observed = open_observation.load(); observed != nullptr)
    observed->look(entries ? Observed::Kind::entries : Observed::Kind::content, path);
}

void all_of(const Observed& seen) {
  tell([&](Observed& o) { o.look_as(seen); });
}

Ended run(const Command& command) {
  Ended ended;
  {
    const Apart guard;
    ended = coctilis::run(command);
  }
  tell([&](Observed& o) { o.said(command, ended); });
  return ended;
}

std::string clock(const std::string& format, bool universal) {
  std::string text = text::time_in_form(std::time(nullptr), format, universal);
  tell([&](Observed& o) { o.clock(format, universal, text); });
  return text;
}

}  // namespace observe
}  // namespace coctilis
