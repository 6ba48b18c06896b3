// Scripts that are watched: what they are seen to do, and how far they are.
#include "base/shared_count.h"
#include "describe/script/reader.h"
#include "support.h"

namespace coctilis::test {
namespace {

TEST(Script, CountsItsStepsAndKnowsHowManyThereWereLastTime) {
  const TreeFolder tree;
  tree.write("../kiln/work/cone.c", "int cone;\n");
  tree.write("../kiln/work/body.c", "int body;\n");
  tree.write("../kiln/work/build.sh", "cc -c cone.c\ncc -c body.c\nar rc libclay.a cone.o body.o\necho done\n");
  const std::string kiln = tree.scratch() + "/kiln";
  const auto run = [&](const std::string& count) {
    EXPECT_EQ(describe::script::run_script({"/bin/sh", "./build.sh"}, kiln + "/work", kiln + "/script.json",
                                           kiln + "/" + count),
              0);
    return SharedCount(kiln + "/" + count).values();
  };
  const auto first = run("first");
  EXPECT_EQ(first.done, 3U);
  EXPECT_EQ(first.total, 0U);  // nobody knew
  const auto second = run("second");
  EXPECT_EQ(second.done, 3U);
  EXPECT_EQ(second.total, 3U);
  EXPECT_EQ(describe::script::learned_compilations(kiln + "/work").size(), 2U);
}

}  // namespace
}  // namespace coctilis::test
