// Prefixes as commands of a tree see them.
#include "locate/prefix_environment.h"

#include <cstdlib>

#include "support.h"

namespace coctilis::locate {
namespace {

TEST(PrefixEnvironment, FoldersThatAreThereComeBeforeWhatWasSaid) {
  const test::TreeFolder tree;
  for (const char* file : {"a/include/x.h", "a/lib/pkgconfig/x.pc", "b/bin/x", "b/lib64/x.so", "c:d/include/x.h"})
    tree.write(file, "");
  ::setenv("CPATH", "/own", 1);
  const auto out = environment_for_prefixes({tree.path("a"), tree.path("b"), tree.path("c:d"), tree.path("none")},
                                            "x86_64-linux-gnu", {{"PATH", "/given"}});
  ::unsetenv("CPATH");
  EXPECT_EQ(out.at("PATH"), tree.path("b/bin") + ":/given");
  EXPECT_EQ(out.at("CPATH"), tree.path("a/include") + ":/own");
  EXPECT_EQ(out.at("LD_RUN_PATH").substr(0, tree.path("a/lib:").size() + tree.path("b/lib64").size()),
            tree.path("a/lib") + ":" + tree.path("b/lib64"));
  EXPECT_EQ(out.at("PKG_CONFIG_PATH").substr(0, tree.path("a/lib/pkgconfig").size()), tree.path("a/lib/pkgconfig"));
  EXPECT_FALSE(out.contains("ACLOCAL_PATH"));
}

}  // namespace
}  // namespace coctilis::locate
