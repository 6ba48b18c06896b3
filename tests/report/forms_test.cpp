// Parts of the open forms: addresses of files, lanes, libraries of the system.
#include <gtest/gtest.h>

#include "base/files.h"
#include "report/formats/uri.h"
#include "report/lanes.h"
#include "report/system_libraries.h"

namespace coctilis::report {
namespace {

TEST(Forms, PathsAsAddresses) {
  EXPECT_EQ(uri_path("clay/a b#1?.c"), "clay/a%20b%231%3F.c");
  EXPECT_EQ(uri_path("100%:x"), "100%25%3Ax");
  EXPECT_EQ(uri_path("\xC3\xB6"), "%C3%B6");
  EXPECT_EQ(file_uri("/yard/kiln"), "file:///yard/kiln");
}

TEST(Forms, LanesAreFilledFromTheFirst) {
  const auto lanes = lanes_of({{0, 2}, {0, 1}, {1, 3}, {2, 1}, {2.5, 1}});
  EXPECT_EQ(lanes.of, (std::vector<std::size_t>{0, 1, 1, 0, 2}));
  EXPECT_EQ(lanes.count, 3U);
  EXPECT_EQ(lanes_of({}).count, 0U);
}

TEST(Forms, LibrariesOfTheSystemAreThoseThatAreNotTheTrees) {
  const files::ScratchFolder scratch("libraries");
  const std::string base = scratch.path().string();
  files::write(base + "/lib/libsand.so", "");
  files::write(base + "/lib/libsand.a", "");
  files::write(base + "/more/libmud.a", "");
  model::Run run;
  run.tree = "/yard";
  run.kiln = "/yard/kiln/x";
  run.toolchain.compilers["C"].link_folders = {base + "/lib"};
  model::PlannedTarget target;
  target.link_items = {"-L" + base + "/more", "/yard/kiln/x/libclay.a", "-lsand",   "-lmud", "-lnowhere",
                       "/opt/libgrit.so",     base + "/lib/libsand.so", "-pthread", "kiln.o"};
  EXPECT_EQ(
      system_libraries_of(target, run),
      (std::vector<std::string>{base + "/lib/libsand.so", base + "/more/libmud.a", "-lnowhere", "/opt/libgrit.so"}));
}

}  // namespace
}  // namespace coctilis::report
