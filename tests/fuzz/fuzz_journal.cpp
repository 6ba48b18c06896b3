// Made-up bytes as a journal, which is then added to and read once more.
#include "engine/journal.h"
#include "fuzzing.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  const std::string path = fuzz::scratch() + "/journal";
  files::write(path, fuzz::text_of(data, size));
  for (const bool tidy : {false, true}) {
    const auto done = guarded("reading a journal", [&] {
      engine::Journal journal(path, tidy);
      const auto id = journal.id("/tree/kiln.o");
      journal.each(id, [](const auto&) {});
      journal.each_content_of(id, [&](auto content) { (void)journal.content(content); });
      return true;
    });
    if (!done) fuzz::judge(done.problem());
  }
  return 0;
}
