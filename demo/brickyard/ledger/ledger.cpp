#include "ledger/ledger.h"

#include <sqlite3.h>

#include <fstream>
#include <stdexcept>

#include "csv.h"

namespace ledger {

Ledger::Ledger() {
  if (sqlite3_open(":memory:", &book_) != SQLITE_OK) throw std::runtime_error("no book");
  run("CREATE TABLE stock (kind TEXT, pieces INTEGER)");
}

Ledger::~Ledger() { sqlite3_close(book_); }

void Ledger::run(const std::string& statement) const {
  char* message = nullptr;
  if (sqlite3_exec(book_, statement.c_str(), nullptr, nullptr, &message) == SQLITE_OK) return;
  const std::string text = message != nullptr ? message : "unknown";
  sqlite3_free(message);
  throw std::runtime_error("the book says: " + text);
}

int Ledger::add_file(const std::string& path) {
  std::ifstream in(path);
  if (!in) throw std::runtime_error("cannot read " + path);
  sqlite3_stmt* insert = nullptr;
  if (sqlite3_prepare_v2(book_, "INSERT INTO stock VALUES (?, ?)", -1, &insert, nullptr) != SQLITE_OK) throw std::runtime_error("the book is closed");
  int count = 0;
  std::string line;
  while (std::getline(in, line)) {
    const char* kind = nullptr;
    long pieces = 0;
    if (csv_read(line.data(), &kind, &pieces) == 0) continue;
    sqlite3_bind_text(insert, 1, kind, -1, SQLITE_TRANSIENT);
    sqlite3_bind_int64(insert, 2, pieces);
    sqlite3_step(insert);
    sqlite3_reset(insert);
    ++count;
  }
  sqlite3_finalize(insert);
  return count;
}

std::vector<std::pair<std::string, long>> Ledger::totals() const {
  std::vector<std::pair<std::string, long>> out;
  sqlite3_stmt* query = nullptr;
  sqlite3_prepare_v2(book_, "SELECT kind, SUM(pieces) AS n FROM stock GROUP BY kind ORDER BY n DESC", -1, &query, nullptr);
  while (sqlite3_step(query) == SQLITE_ROW) out.emplace_back(reinterpret_cast<const char*>(sqlite3_column_text(query, 0)), sqlite3_column_int64(query, 1));
  sqlite3_finalize(query);
  return out;
}

}  // namespace ledger
