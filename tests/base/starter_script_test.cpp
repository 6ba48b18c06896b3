#include "base/starter_script.h"

#include <gtest/gtest.h>

#include "base/files.h"
#include "base/process.h"

namespace coctilis::test {
namespace {

TEST(StarterScript, PlacesCountFromWhereItLies) {
  const files::ScratchFolder scratch("starter");
  const std::string folder = scratch.path().string() + "/it's here";
  files::write(folder + "/lib/say what", "#!/bin/sh\necho \"$CLAY\" \"$@\"\n");
  files::set_mode(folder + "/lib/say what", 0755);
  const std::string script =
      starter_script("brick\nexit 3", {from_script("../lib/say what"), "one"}, {"CLAY='red clay'"});
  files::write(folder + "/bin/say", script);
  files::set_mode(folder + "/bin/say", 0755);
  EXPECT_EQ(run({{folder + "/bin/say", "a b", "c"}}).output, "red clay one a b c\n") << script;
  // By a link as well, and from anywhere.
  std::filesystem::create_symlink(folder + "/bin/say", scratch.path() / "linked");
  EXPECT_EQ(run({{scratch.path().string() + "/linked"}}).output, "red clay one\n");
}

}  // namespace
}  // namespace coctilis::test
