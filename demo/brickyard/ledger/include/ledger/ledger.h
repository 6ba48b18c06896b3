// The book of bricks and tiles, kept in a database in memory.
#pragma once

#include <string>
#include <utility>
#include <vector>

struct sqlite3;

namespace ledger {

class Ledger {
 public:
  Ledger();
  ~Ledger();
  Ledger(const Ledger&) = delete;
  Ledger& operator=(const Ledger&) = delete;

  // Adds every "kind,pieces" line of a file; returns how many there were. Throws std::runtime_error.
  int add_file(const std::string& path);
  // Kinds with their pieces, most first.
  std::vector<std::pair<std::string, long>> totals() const;

 private:
  void run(const std::string& statement) const;
  sqlite3* book_ = nullptr;
};

}  // namespace ledger
