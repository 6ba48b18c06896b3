// The output folder of one label: made, marked, and held by one run at a time.
#pragma once

#include <memory>
#include <string>

#include "base/result.h"

namespace coctilis::engine {

// Holds a kiln for as long as it lives (a lock on the file "lock", given back by the system when the process ends).
class KilnLock {
 public:
  explicit KilnLock(int fd) : fd_(fd) {}
  ~KilnLock();
  KilnLock(const KilnLock&) = delete;
  KilnLock& operator=(const KilnLock&) = delete;

 private:
  int fd_;
};

// Makes the folder `kiln` with an ignore file in `root` (the folder that holds all labels) and locks it. Errors: it
// cannot be written, or another run holds it (Exit::kiln).
[[nodiscard]] Result<std::shared_ptr<KilnLock>> open_kiln(const std::string& root, const std::string& kiln,
                                                          const std::string& mark);

}  // namespace coctilis::engine
