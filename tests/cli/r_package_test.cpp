// Packages of R: from a DESCRIPTION to the module that the language loads. The language itself is made up here: what is
// told of it by its .pc file, a header and a library.
#include <dlfcn.h>

#include <nlohmann/json.hpp>
#include <set>

#include "base/process.h"
#include "support.h"

namespace coctilis::test {
namespace {

class RPackageTree : public DrivenTree {
 protected:
  RPackageTree() {
    prefix_ = tree.scratch() + "/language";
    put("lib/pkgconfig/libR.pc", "rhome=" + prefix_ + "/lib/R\nrincludedir=" + prefix_ +
                                     "/share/R/include\n\nName: libR\nDescription: the language\nVersion: 4.2.2\n"
                                     "Libs: -L${rhome}/lib -lR\nCflags: -I${rincludedir}\n");
    put("share/R/include/R.h", "double R_peak(void);\n");
    put("lib/R/site-library/clays/DESCRIPTION", "Package: clays\nVersion: 2.1\n");
    put("lib/R/site-library/clays/include/clays.h", "#define CLAY_WATER 7\n");
    put("language.c", "double R_peak(void) { return 1040; }\n");
    std::filesystem::create_directories(prefix_ + "/lib/R/lib");
    Command command;
    command.argv = {"cc", "-shared", "-fPIC", "-o", prefix_ + "/lib/R/lib/libR.so", prefix_ + "/language.c"};
    EXPECT_TRUE(coctilis::run(command).good());
    tree.write("DESCRIPTION", "Package: kilnfit\nVersion: 1.0\nLinkingTo:\n  clays (>= 2.0)\n");
    tree.write("R/fit.R", "fit <- function() .Call(C_fit)\n");
    tree.write("src/fit.c",
               "#include <R.h>\n#include <clays.h>\n#include \"slip.h\"\n"
               "int fit(void) { return CLAY_WATER + SLIP + (int)R_peak() + FACTOR + slip(); }\n");
    tree.write("src/slip.h", "#define SLIP 2\n#ifdef __cplusplus\nextern \"C\"\n#endif\nint slip(void);\n");
    tree.write("src/slip.cpp",
               "#include \"slip.h\"\n#include <vector>\nint slip() { return __cplusplus > 201700L ? 3 : 4; }\n");
    tree.write("src/Makevars", "PKG_CPPFLAGS = -DFACTOR=$(shell echo 100)\nCXX_STD = CXX17\n");
  }
  void put(const std::string& name, const std::string& text) const {
    std::filesystem::create_directories(std::filesystem::path(prefix_ + "/" + name).parent_path());
    files::write(prefix_ + "/" + name, text);
  }
  Said with(const std::string& command, std::vector<std::string> more = {}) {
    more.insert(more.end(), {"--with", prefix_});
    return run(command, more);
  }
  // What a function of the module gives.
  [[nodiscard]] int gives() const {
    const std::string module = tree.label_folder() + "/work/src/kilnfit.so";
    // Another name each time, so that the one that was loaded before is not taken.
    const std::string copy = tree.scratch() + "/loaded" + std::to_string(++loaded_) + ".so";
    std::filesystem::copy_file(module, copy);
    void* language = ::dlopen((prefix_ + "/lib/R/lib/libR.so").c_str(), RTLD_NOW | RTLD_GLOBAL);
    void* handle = ::dlopen(copy.c_str(), RTLD_NOW);
    if (language == nullptr || handle == nullptr) {
      ADD_FAILURE() << ::dlerror();
      return -1;
    }
    const auto function = reinterpret_cast<int (*)()>(::dlsym(handle, "fit"));
    return function == nullptr ? -1 : function();
  }
  std::string prefix_;
  mutable int loaded_ = 0;
};

TEST_F(RPackageTree, ItsModuleIsMade) {
  const auto said = with("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("follows DESCRIPTION"), std::string::npos) << said.all();
  EXPECT_EQ(gives(), 7 + 2 + 1040 + 100 + 3);
  EXPECT_FALSE(files::exists(tree.path("src/module.mk")));
  ASSERT_EQ(with("build").exit, 0);
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
  // A header of the tree, and one of what it needs.
  tree.write("src/slip.h", "#define SLIP 5\n#ifdef __cplusplus\nextern \"C\"\n#endif\nint slip(void);\n");
  put("lib/R/site-library/clays/include/clays.h", "#define CLAY_WATER 8\n");
  ASSERT_EQ(with("build").exit, 0);
  EXPECT_EQ(gives(), 8 + 5 + 1040 + 100 + 3);
  // What Makevars says, and one source more.
  tree.write("src/Makevars", "PKG_CPPFLAGS = -DFACTOR=200\nCXX_STD = CXX14\n");
  tree.write("src/more.c", "int more(void) { return 0; }\n");
  ASSERT_EQ(with("build").exit, 0);
  EXPECT_EQ(gives(), 8 + 5 + 1040 + 200 + 4);
  EXPECT_TRUE(files::is_file(tree.label_folder() + "/work/src/more.o"));
  const std::string to = tree.scratch() + "/prefix";
  ASSERT_EQ(with("stage", {"--prefix", to}).exit, 0);
  EXPECT_TRUE(files::is_file(to + "/lib/R/site-library/kilnfit/libs/kilnfit.so"));
}

TEST_F(RPackageTree, AScriptMayWriteMakevars) {
  tree.write("src/Makevars.in", "PKG_CPPFLAGS = -DFACTOR=@FACTOR@\n");
  std::filesystem::remove(tree.path("src/Makevars"));
  tree.write(
      "configure",
      "#!/bin/sh\n[ -f \"$R_HOME/lib/libR.so\" ] || exit 3\nsed 's/@FACTOR@/300/' src/Makevars.in >src/Makevars\n");
  std::filesystem::permissions(tree.path("configure"), std::filesystem::perms(0755));
  const auto said = with("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(gives(), 7 + 2 + 1040 + 300 + 4);
  tree.write("src/Makevars.in", "PKG_CPPFLAGS = -DFACTOR=@FACTOR@1\n");
  ASSERT_EQ(with("build").exit, 0);
  EXPECT_EQ(gives(), 7 + 2 + 1040 + 3001 + 4);
}

TEST_F(RPackageTree, WhatItNeedsAndIsNotThereIsTold) {
  tree.write("DESCRIPTION", "Package: kilnfit\nLinkingTo: clays, glazesThatNobodyHas\n");
  auto said = with("bringup");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("missing glazesThatNobodyHas, package, required by DESCRIPTION"), std::string::npos)
      << said.all();
  tree.write("DESCRIPTION", "Package: kilnfit\nDepends: R (>= 3.5)\nLinkingTo: clays (>= 3.0)\n");
  said = with("bringup");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("version 2.1, wanted >= 3.0"), std::string::npos) << said.all();
  tree.write("DESCRIPTION", "Package: kilnfit\nDepends: R (>= 9.5)\nLinkingTo: clays\n");
  said = with("bringup");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("libR"), std::string::npos) << said.all();
  tree.write("DESCRIPTION", "Package: kilnfit; touch x\nLinkingTo: clays\n");
  said = with("bringup", {"--config", "/dev/null"});
  EXPECT_NE(said.exit, 0) << said.all();
  EXPECT_EQ(said.all().find("follows DESCRIPTION"), std::string::npos) << said.all();
}

TEST_F(RPackageTree, WhatCannotBeFollowedIsTold) {
  tree.write("src/odd name.c", "int odd;\n");
  const auto said = with("bringup", {"--json"});
  ASSERT_EQ(said.exit, 0) << said.all();
  std::set<std::string> left_out;
  const auto record = said.json();
  for (const auto& one : record["left_out"]) left_out.insert(one["name"].get<std::string>());
  EXPECT_TRUE(left_out.contains("src/odd name.c")) << said.out.substr(0, 600);
  EXPECT_TRUE(left_out.contains("R/"));
}

// Others call a text that describes them so, too.
TEST_F(RPackageTree, ATextOfTheNameIsNoDescription) {
  std::filesystem::remove_all(tree.path("src"));
  std::filesystem::remove_all(tree.path("R"));
  tree.write("DESCRIPTION", "This is the software of the kilns.\n");
  tree.write("Makefile", "kiln: kiln.c\n\t$(CC) -o $@ $<\n");
  tree.write("kiln.c", "int main(void) { return 0; }\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("follows Makefile"), std::string::npos) << said.all();
}

}  // namespace
}  // namespace coctilis::test
