#include "answer_make.h"

#include <cstdio>

#include "base/files.h"
#include "base/process.h"
#include "pipeline/inner_make.h"

namespace coctilis::app {

bool called_as_make(const char* name) {
  const std::string base = std::filesystem::path(name == nullptr ? "" : name).filename().string();
  return base == "make" || base == "gmake";
}

int answer_make(int argc, char** argv) {
  const auto standard_input = [] {
    std::string text;
    char buffer[65536];
    while (const std::size_t n = std::fread(buffer, 1, sizeof buffer, stdin)) text.append(buffer, n);
    return text;
  };
  return pipeline::answer_make({argv + 1, argv + argc}, own_environment(), files::absolute("."), standard_input,
                               [](const std::string& text, bool complaint) {
                                 std::FILE* to = complaint ? stderr : stdout;
                                 std::fwrite(text.data(), 1, text.size(), to);
                                 std::fflush(to);
                               });
}

}  // namespace coctilis::app
