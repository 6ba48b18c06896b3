#include "base/answers.h"

#include <fmt/format.h>
#include <sqlite3.h>
#include <sys/stat.h>

#include <ctime>
#include <filesystem>

#include "base/file_stamp.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/observed.h"
#include "base/text.h"

namespace coctilis {

namespace {
// Raised when answers mean something else than before.
constexpr int layout = 1;
constexpr std::int64_t kept_seconds = 90LL * 24 * 3600;

std::string key_of(const std::string& question) { return hash_bytes(question).text(); }
}  // namespace

struct Answers::Database {
  sqlite3* handle = nullptr;
  sqlite3_stmt* select = nullptr;

  bool open(const std::string& path, bool alone) {
    std::error_code error;
    const auto folder = std::filesystem::path(path).parent_path();
    std::filesystem::create_directories(folder, error);
    if (error) return false;
    // Answers name paths of this user: nobody else's business.
    ::chmod(folder.c_str(), 0700);
    if (sqlite3_open_v2(path.c_str(), &handle, SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE, nullptr) != SQLITE_OK)
      return false;
    sqlite3_busy_timeout(handle, 2000);
    if (!run("PRAGMA synchronous=OFF") || (alone && !run("PRAGMA locking_mode=EXCLUSIVE"))) return false;
    if (version() != layout) {
      if (!run("DROP TABLE IF EXISTS answers") ||
          !run("CREATE TABLE answers (question TEXT PRIMARY KEY, answer BLOB, watched TEXT, used INTEGER) WITHOUT "
               "ROWID") ||
          !run(fmt::format("PRAGMA user_version={}", layout).c_str()))
        return false;
    }
    return sqlite3_prepare_v2(handle, "SELECT answer, watched FROM answers WHERE question=?", -1, &select, nullptr) ==
           SQLITE_OK;
  }
  [[nodiscard]] bool run(const char* command) const {
    return sqlite3_exec(handle, command, nullptr, nullptr, nullptr) == SQLITE_OK;
  }
  [[nodiscard]] int version() const {
    sqlite3_stmt* statement = nullptr;
    int out = -1;
    if (sqlite3_prepare_v2(handle, "PRAGMA user_version", -1, &statement, nullptr) == SQLITE_OK &&
        sqlite3_step(statement) == SQLITE_ROW)
      out = sqlite3_column_int(statement, 0);
    sqlite3_finalize(statement);
    return out;
  }
  ~Database() {
    sqlite3_finalize(select);
    sqlite3_close(handle);
  }
};

Answers::Answers(const std::string& path, bool alone) {
  if (path.empty()) return;
  auto database = std::make_unique<Database>();
  if (database->open(path, alone)) database_ = std::move(database);
}

Answers::~Answers() {
  if (!database_ || fresh_.empty() || !database_->run("BEGIN IMMEDIATE")) return;
  const auto now = static_cast<std::int64_t>(std::time(nullptr));
  sqlite3_stmt* insert = nullptr;
  if (sqlite3_prepare_v2(database_->handle, "INSERT OR REPLACE INTO answers VALUES (?,?,?,?)", -1, &insert, nullptr) ==
      SQLITE_OK) {
    for (const auto& [key, entry] : fresh_) {
      sqlite3_bind_text(insert, 1, key.c_str(), -1, SQLITE_STATIC);
      sqlite3_bind_blob(insert, 2, entry.answer.data(), static_cast<int>(entry.answer.size()), SQLITE_STATIC);
      sqlite3_bind_text(insert, 3, entry.watched.data(), static_cast<int>(entry.watched.size()), SQLITE_STATIC);
      sqlite3_bind_int64(insert, 4, now);
      sqlite3_step(insert);
      sqlite3_reset(insert);
    }
  }
  sqlite3_finalize(insert);
  // An answer that nobody renewed for so long is about things that are gone.
  static_cast<void>(database_->run(fmt::format("DELETE FROM answers WHERE used < {}", now - kept_seconds).c_str()));
  static_cast<void>(database_->run("COMMIT"));
}

const std::string& Answers::state(const Watched& watched) {
  auto [it, fresh] = states_.try_emplace((watched.entries ? "*" : "") + watched.path);
  if (!fresh) return it->second;
  struct stat info {};
  if (::stat(watched.path.c_str(), &info) != 0)
    it->second = "absent";
  else if (S_ISDIR(info.st_mode) && !watched.entries)
    it->second = "folder";
  else
    it->second = FileStamp::of(info).text();
  return it->second;
}

std::optional<std::string> Answers::get(const std::string& question) {
  const std::scoped_lock lock(mutex_);
  const std::string key = key_of(question);
  if (const auto it = fresh_.find(key); it != fresh_.end()) return it->second.answer;
  if (!database_) return std::nullopt;
  std::optional<std::string> out;
  sqlite3_bind_text(database_->select, 1, key.c_str(), -1, SQLITE_STATIC);
  if (sqlite3_step(database_->select) == SQLITE_ROW) {
    const auto* bytes = static_cast<const char*>(sqlite3_column_blob(database_->select, 0));
    out.emplace(bytes == nullptr ? "" : bytes, static_cast<std::size_t>(sqlite3_column_bytes(database_->select, 0)));
    const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(database_->select, 1));
    const std::string watched(text == nullptr ? "" : text,
                              static_cast<std::size_t>(sqlite3_column_bytes(database_->select, 1)));
    for (const auto& line : text::split(watched, '\n')) {
      const auto tab = line.rfind('\t');
      if (tab == std::string::npos) continue;
      const bool entries = line.front() == '*';
      const Watched one{line.substr(entries ? 1 : 0, tab - (entries ? 1 : 0)), entries};
      observe::depends(one.path, one.entries);
      if (state(one) == line.substr(tab + 1)) continue;
      out.reset();
      break;
    }
  }
  sqlite3_reset(database_->select);
  return out;
}

void Answers::put(const std::string& question, const std::string& answer, const std::vector<Watched>& watched) {
  const std::scoped_lock lock(mutex_);
  std::string lines;
  for (const auto& one : watched) {
    if (one.path.find_first_of("\t\n") != std::string::npos) return;  // cannot be written down: not kept
    observe::depends(one.path, one.entries);
    lines += (one.entries ? "*" : "") + one.path + "\t" + state(one) + "\n";
  }
  fresh_[key_of(question)] = {answer, lines};
}

std::string Answers::usual_path() {
  const char* base = std::getenv("XDG_CACHE_HOME");
  if (base != nullptr && *base == '/') return std::string(base) + "/coctilis/answers";
  const char* home = std::getenv("HOME");
  return home != nullptr && *home == '/' ? std::string(home) + "/.cache/coctilis/answers" : "";
}

}  // namespace coctilis
