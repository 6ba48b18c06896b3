// Answers that cost a process to get, kept between runs together with the files they depend on. A kept answer counts
// only while every one of those files is as it was: changed, gone or newly there, and the question is put again.
#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

namespace coctilis {

// Something an answer depends on. A file counts by size, time and identity; a folder by being there, or with
// `entries` by what is in it. Absent is a state like any other.
struct Watched {
  std::string path;
  bool entries = false;
};

class Answers {
 public:
  // `path`: an SQLite database, made when it is not there. One that cannot be used is no error: nothing is kept then.
  // `alone`: no other process uses it meanwhile, and is kept from it.
  explicit Answers(const std::string& path, bool alone = false);
  ~Answers();
  Answers(const Answers&) = delete;
  Answers& operator=(const Answers&) = delete;

  // The kept answer to `question`, if all that it depends on is unchanged.
  [[nodiscard]] std::optional<std::string> get(const std::string& question);
  // Keeps an answer; written out when this object goes.
  void put(const std::string& question, const std::string& answer, const std::vector<Watched>& watched);
  // The database of this user: $XDG_CACHE_HOME/coctilis/answers, else ~/.cache/coctilis/answers (XDG Base Directory
  // Specification 0.8). Empty when there is neither.
  [[nodiscard]] static std::string usual_path();

 private:
  struct Database;
  struct Entry {
    std::string answer;
    std::string watched;
  };
  [[nodiscard]] const std::string& state(const Watched& watched);
  std::unique_ptr<Database> database_;
  std::map<std::string, Entry> fresh_;
  std::map<std::string, std::string> states_;  // within a run nothing is looked at twice
  std::mutex mutex_;
};

}  // namespace coctilis
