// Made-up bytes as an archive, unpacked into a folder. Nothing may appear beside that.
#include "base/archive.h"
#include "fuzzing.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  const std::string path = fuzz::scratch() + "/made.tar";
  const std::string folder = fuzz::scratch() + "/yard/inside";
  std::error_code error;
  std::filesystem::remove_all(fuzz::scratch() + "/yard", error);
  files::make_folder(folder);
  files::write(path, fuzz::text_of(data, size));
  const auto done = guarded("unpacking", [&] {
    std::string why;
    return files::unpack_into(path, folder, why);
  });
  if (!done) fuzz::judge(done.problem());
  if (files::names_in(fuzz::scratch() + "/yard").size() != 1 || files::names_in(fuzz::scratch()).size() != 2) {
    std::fprintf(stderr, "something lies beside the folder that was unpacked into\n");
    std::abort();
  }
  return 0;
}
