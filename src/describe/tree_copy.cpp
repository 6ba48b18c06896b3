#include "describe/tree_copy.h"

#include <fmt/format.h>

#include <cstdlib>

#include "base/files.h"
#include "base/text.h"
#include "describe/mirror.h"

namespace coctilis::describe {

namespace {
// Says why the tree needs a copy: file, line and column of the description, and what it does there, each in a line of
// its own.
std::string mark_of(const std::string& work) { return copy_of(work) + ".needed"; }
}  // namespace

std::string copy_of(const std::string& work) { return std::filesystem::path(work).parent_path().string() + "/tree"; }

bool is_copy_needed(const std::string& work) { return files::is_file(mark_of(work)); }

void use_copy(const std::string& work, const Problem& why) {
  const auto& place = why.place;
  files::write(mark_of(work),
               fmt::format("{}\n{}\n{}\n{}\n", place.file, place.line, place.column, text::printable_line(why.what)));
}

void forget_copy(const std::string& work) {
  std::error_code error;
  std::filesystem::remove(mark_of(work), error);
}

Problem why_copy(const std::string& work) {
  const auto reason = text::split(files::read(mark_of(work)).value_or(""), '\n');
  if (reason.size() < 4) return {};
  return {Exit::done,
          {reason[0], std::atoi(reason[1].c_str()), std::atoi(reason[2].c_str())},
          reason[3] + "; a copy of the tree is built instead",
          {},
          {},
          {}};
}

}  // namespace coctilis::describe
