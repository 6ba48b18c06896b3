#include "engine/known_files.h"

#include <sys/stat.h>

#include "base/result.h"
#include "engine/journal.h"

namespace coctilis::engine {

void KnownFiles::look() {
  struct stat info {};
  if (::stat(journal_.c_str(), &info) != 0 || !S_ISREG(info.st_mode)) {
    seen_.reset();
    made_.clear();
    read_.clear();
    return;
  }
  if (seen_ == FileStamp::of(info)) return;
  seen_ = FileStamp::of(info);
  made_.clear();
  read_.clear();
  static_cast<void>(guarded("looking into the journal", [&] {
    const Journal journal(journal_);
    const auto path_of = [&](ContentId id) { return std::string(journal.path(journal.content(id).path)); };
    journal.each([&](const Journal::Entry& entry) {
      for (const ContentId id : journal.outputs(entry)) made_.insert(path_of(id));
      for (const PathId id : journal.written(entry)) made_.emplace(journal.path(id));
      for (const ContentId id : journal.inputs(entry)) read_.insert(path_of(id));
    });
    return true;
  }));
}

bool KnownFiles::is_made(const std::string& file) {
  look();
  return made_.contains(file);
}

bool KnownFiles::is_read(const std::string& file) {
  look();
  return read_.contains(file);
}

}  // namespace coctilis::engine
