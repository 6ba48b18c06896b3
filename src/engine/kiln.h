// The output folder of one label: made, marked, and held by one run at a time.
#pragma once

#include <memory>
#include <optional>
#include <string>

#include "base/result.h"

namespace coctilis::engine {

// Holds a kiln for as long as it lives (a lock on the file "lock", given back by the system when the process ends). The
// file "running" is there meanwhile: where it is found without a lock, a run was killed.
class KilnLock {
 public:
  KilnLock(int fd, std::string kiln) : fd_(fd), kiln_(std::move(kiln)) {}
  ~KilnLock();
  KilnLock(const KilnLock&) = delete;
  KilnLock& operator=(const KilnLock&) = delete;

 private:
  int fd_;
  std::string kiln_;
};

struct OpenedKiln {
  std::shared_ptr<KilnLock> lock;
  std::string note;  // what a user should know of what was done with what was there; mostly nothing
};

// What is wrong with `path`, a place for kilns or one of them, when it lies in the tree and is a link, or is reached by
// one: whoever made the tree may have led it anywhere. Nothing: it is none.
[[nodiscard]] std::optional<Problem> led_astray(const std::string& path, const std::string& tree);

// Sees to it that `root`, which holds or is to hold all labels, is a place for that, and makes it with its ignore file,
// which begins with `mark`. Errors: it holds something else or is a file (Exit::usage); it is a link that lies in the
// tree, which whoever made the tree may have led anywhere (Exit::kiln).
[[nodiscard]] Result<bool> open_root(const std::string& root, const std::string& mark, const std::string& tree);

// Makes the folder `kiln` with an ignore file in `root` (the folder that holds all labels), locks it, and sees to it
// that nothing of an earlier run goes on in it: processes that a killed run left are ended, and what was made at
// another place, for another tree or by somebody else is taken away. Errors: those of `open_root`; the kiln cannot be
// written, is a link, another run holds it, or it is that of another tree which is still there (Exit::kiln).
[[nodiscard]] Result<OpenedKiln> open_kiln(const std::string& root, const std::string& kiln, const std::string& mark,
                                           const std::string& tree);

// Only locks a kiln that is there, whatever is in it. Errors: as above (Exit::kiln).
[[nodiscard]] Result<std::shared_ptr<KilnLock>> lock_kiln(const std::string& kiln);

}  // namespace coctilis::engine
