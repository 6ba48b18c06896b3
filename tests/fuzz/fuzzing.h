// What fuzzers share: a folder for files, and what counts as a bad end.
#pragma once

#include <cstdio>
#include <cstdlib>
#include <string>

#include "base/files.h"
#include "base/process.h"

namespace coctilis::fuzz {

inline std::string text_of(const unsigned char* data, std::size_t size) {
  return {reinterpret_cast<const char*>(data), size};
}

// The folder of this fuzzer, made when it is first asked for.
inline std::string scratch() {
  static const files::ScratchFolder folder("fuzz");
  return folder.path().string();
}

// A problem with a place is a good end; a defect is not.
inline void judge(const Problem& problem) {
  if (problem.exit != Exit::defect) return;
  std::fprintf(stderr, "defect: %s %s\n", problem.what.c_str(), problem.cause.c_str());
  std::abort();
}

}  // namespace coctilis::fuzz
