// Locating, filling and unpacking through the built program.
#include "base/text.h"
#include "repository.h"
#include "support.h"

namespace coctilis::test {
namespace {

#define SAYS(said, part) EXPECT_NE((said).all().find(part), std::string::npos) << (said).all()

const char* const beginning = "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\n";
const char* const program = "int main(void) { return 0; }\n";

// A tree that wants a header which a package of the test's own system has.
class Wanting : public ::testing::Test {
 protected:
  Wanting() {
    tree.write("CMakeLists.txt",
               std::string(beginning) + "find_path(GLAZE glaze.h REQUIRED)\nadd_executable(yard yard.c)\n");
    tree.write("yard.c", program);
    root("var/lib/dpkg/status", "");
    root("var/lib/apt/lists/a_Packages", "Package: libglaze-dev\n");
    root("var/lib/apt/lists/a_Contents-amd64", "usr/include/glaze.h libdevel/libglaze-dev\n");
    root("var/lib/apt/lists/a_Contents-arm64", "usr/include/glaze.h libdevel/libglaze-dev\n");
    root("bin/apt-get", "#!/bin/sh\necho \"$@\" >> " + at("calls") + "\nmkdir -p " + at("prefix/include") + "\n: > " +
                            at("prefix/include/glaze.h") + "\n");
    root("bin/sudo", "#!/bin/sh\nexec \"$@\"\n");
    root("prefix/include/other.h", "");
    for (const char* name : {"bin/apt-get", "bin/sudo"})
      std::filesystem::permissions(at(name), std::filesystem::perms::owner_all);
    environment = {{"COCTILIS_SYSTEM_ROOT", at("")},
                   {"CPATH", at("prefix/include")},
                   {"PATH", at("bin") + ":" + std::getenv("PATH")}};
  }
  std::string at(const std::string& below) const { return system.path(below); }
  void root(const std::string& below, const std::string& text) const { system.write(below, text); }
  Said run(std::vector<std::string> words) const {
    words.insert(words.end(), {"--kiln", tree.kiln()});
    return coctilis(words, environment);
  }
  TreeFolder tree;
  TreeFolder system;
  std::map<std::string, std::optional<std::string>> environment;
};

TEST_F(Wanting, NothingIsInstalledUnasked) {
  const auto said = run({"bringup", tree.path()});
  EXPECT_EQ(said.exit, 3);
  SAYS(said, "glaze.h");
  SAYS(said, "apt-get install libglaze-dev");
  EXPECT_FALSE(files::is_file(at("calls")));
}

TEST_F(Wanting, InstallsWhenAskedAndGoesOn) {
  if (::geteuid() != 0) {
    // Without a terminal nobody can be asked for a password.
    const auto said = run({"bringup", tree.path(), "--install"});
    EXPECT_EQ(said.exit, 3);
    SAYS(said, "sudo apt-get install libglaze-dev");
    return;
  }
  const auto said = run({"bringup", tree.path(), "--install"});
  EXPECT_EQ(said.exit, 0) << said.all();
  SAYS(said, "libglaze-dev");
  EXPECT_EQ(system.read("calls"), "install -y libglaze-dev\n");
}

TEST_F(Wanting, AnInstallationThatFailsIsToldWhole) {
  root("bin/apt-get", "#!/bin/sh\necho 'E: the kiln is cold'\nexit 100\n");
  std::filesystem::permissions(at("bin/apt-get"), std::filesystem::perms::owner_all);
  if (::geteuid() != 0) return;
  const auto said = run({"locate", tree.path(), "--install"});
  EXPECT_EQ(said.exit, 3);
  SAYS(said, "failed: exit code 100");
  SAYS(said, "E: the kiln is cold");
}

TEST_F(Wanting, TheNextRunSeesWhatIsNew) {
  EXPECT_EQ(run({"locate", tree.path()}).exit, 3);
  root("prefix/include/glaze.h", "");
  const auto said = run({"locate", tree.path(), "--changes"});
  EXPECT_EQ(said.exit, 0);
  SAYS(said, "found now glaze.h, header");
  const auto document = run({"locate", tree.path(), "--json"}).json();
  EXPECT_TRUE(document["changes"].empty());
  std::filesystem::remove(at("prefix/include/glaze.h"));
  EXPECT_EQ(run({"locate", tree.path(), "--json"}).json()["changes"][0]["what"], "missing now");
}

TEST_F(Wanting, WhatDocumentsMentionIsShown) {
  root("prefix/include/glaze.h", "");
  tree.write("README.md", "## Requirements\n\n* zlib\n");
  SAYS(run({"locate", tree.path()}), "also zlib, mentioned at README.md:3");
}

TEST(Locate, AStandardThatTheCompilerIsTooOldForChoosesAnother) {
  TreeFolder tree;
  tree.write("CMakeLists.txt",
             std::string(beginning) +
                 "set(CMAKE_C_STANDARD 17)\nset(CMAKE_C_STANDARD_REQUIRED ON)\nadd_executable(yard yard.c)\n");
  tree.write("yard.c", program);
  // A compiler that says it is an old one stands in front of the real one.
  const std::string real = find_program("gcc");
  if (real.empty()) return;
  tree.write("../old/gcc", "#!/bin/sh\nexec " + real + " \"$@\" -U__GNUC__ -D__GNUC__=6\n");
  std::filesystem::permissions(tree.scratch() + "/old/gcc", std::filesystem::perms::owner_all);
  const auto said = coctilis({"locate", tree.path(), "--kiln", tree.kiln()},
                             {{"PATH", tree.scratch() + "/old:" + std::getenv("PATH")}});
  if (said.exit == 0) {
    SAYS(said, "is too old for C17, which the tree asks for");
  } else {
    SAYS(said, "a compiler of C17");
  }
}

TEST(Locate, AnUnknownLinkerIsAMissingWant) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write("coctilis.toml", "[toolchain]\nlinker = \"kilnlink\"\n");
  const auto said = coctilis({"locate", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 3);
  SAYS(said, "there is no linker kilnlink");
  tree.write("coctilis.toml", "[toolchain]\nlinker = \"bfd\"\n");
  const auto plan = coctilis({"plan", tree.path(), "--kiln", tree.kiln(), "--json"}).json();
  EXPECT_NE(plan["steps"].dump().find("-fuse-ld=bfd"), std::string::npos);
}

TEST(Locate, ASysrootGoesIntoEveryCommand) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write("coctilis.toml", "[toolchain]\nsysroot = \"/\"\n");
  const auto plan = coctilis({"plan", tree.path(), "--kiln", tree.kiln(), "--json"}).json();
  for (const auto& step : plan["steps"]) {
    if (step["kind"] == "compile" || step["kind"] == "link") {
      EXPECT_NE(step["actions"].dump().find("--sysroot=/"), std::string::npos);
    }
  }
}

// A tree with a program that writes a table for another one, as it is built for another machine.
class Cross : public ::testing::Test {
 protected:
  Cross() {
    tree.write("CMakeLists.txt", std::string(beginning) +
                                     "add_executable(maker maker.c)\n"
                                     "add_custom_command(OUTPUT ${CMAKE_CURRENT_BINARY_DIR}/t.inc COMMAND maker "
                                     "${CMAKE_CURRENT_BINARY_DIR}/t.inc DEPENDS maker)\n"
                                     "add_executable(yard yard.c ${CMAKE_CURRENT_BINARY_DIR}/t.inc)\n"
                                     "target_include_directories(yard PRIVATE ${CMAKE_CURRENT_BINARY_DIR})\n");
    tree.write("maker.c",
               "#include <stdio.h>\nint main(int c, char** v) { FILE* f = fopen(v[1], \"w\"); "
               "fputs(\"1222\", f); return c != 2 || fclose(f); }\n");
    tree.write("yard.c",
               "#include <stdio.h>\nint main(void) { printf(\"peak %d\\n\",\n#include \"t.inc\"\n); return 0; }\n");
    tree.write(
        "coctilis.toml",
        "[[smoke]]\nname = \"peak\"\nrun = [\"yard\"]\nexpect = { output = \"peak 1222\", within = \"60 s\" }\n");
  }
  TreeFolder tree;
};

TEST_F(Cross, OwnProgramsRunOnThisMachineResultsUnderTheEmulator) {
  ASSERT_FALSE(find_program("aarch64-linux-gnu-gcc").empty()) << "scripts/test installs it";
  const auto said =
      coctilis({"bringup", tree.path(), "--kiln", tree.kiln(), "--toolchain", "aarch64-linux-gnu", "--json"});
  EXPECT_EQ(said.exit, 0) << said.out << said.err;
  const auto document = said.json();
  EXPECT_EQ(document["toolchain"]["machine"], "aarch64-linux-gnu");
  EXPECT_NE(document["remarks"].dump().find("maker runs while building"), std::string::npos);
  bool seen = false;
  for (const auto& check : document["checks"]) {
    if (check["name"] == "peak") {
      seen = true;
      EXPECT_EQ(check["verdict"], "passed");
      EXPECT_NE(check["command"].get<std::string>().find("qemu-aarch64"), std::string::npos);
    }
  }
  EXPECT_TRUE(seen);
  const std::string host = files::read(tree.label_folder() + "/work/.host/maker").value_or("");
  const std::string foreign = files::read(tree.label_folder() + "/work/maker").value_or("");
  ASSERT_GT(host.size(), 20U);
  ASSERT_GT(foreign.size(), 20U);
  EXPECT_NE(host[18], foreign[18]);  // e_machine
}

TEST_F(Cross, WithoutAnEmulatorChecksAreSkippedAndSaySo) {
  // All programs but the emulators.
  TreeFolder bin;
  bin.write("x", "");
  for (const char* folder : {"/usr/bin", "/bin"}) {
    for (const auto& entry : std::filesystem::directory_iterator(folder)) {
      const std::string name = entry.path().filename().string();
      std::error_code error;
      if (!name.starts_with("qemu-")) std::filesystem::create_symlink(entry.path(), bin.path(name), error);
    }
  }
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln(), "--toolchain", "aarch64-linux-gnu"},
                             {{"PATH", bin.path()}});
  EXPECT_EQ(said.exit, 0) << said.all();
  SAYS(said, "there is no emulator for that here");
}

TEST(Fill, TheCommandThatIsNamedFills) {
  TreeFolder place;
  const std::string slip = commit(place.path("slip"), {{"slip.h", "#define SLIP 1\n"}});
  commit(place.path("yard"),
         {{"CMakeLists.txt", std::string(beginning) +
                                 "add_executable(yard yard.c)\ntarget_include_directories(yard PRIVATE parts/slip)\n"},
          {"yard.c", "#include \"slip.h\"\nint main(void) { return SLIP - 1; }\n"}});
  add_submodule(place.path("yard"), "parts/slip", "../slip", slip);
  clone(place.path("yard"), place.path("clone"));
  const auto empty = coctilis({"bringup", place.path("clone"), "--kiln", place.kiln()});
  EXPECT_EQ(empty.exit, 3);
  SAYS(empty, "coctilis survey --fill " + place.path("clone"));
  EXPECT_FALSE(files::is_file(place.path("clone/parts/slip/slip.h")));  // nothing is fetched unasked
  const auto filled = coctilis({"survey", place.path("clone"), "--fill", "--json"});
  EXPECT_EQ(filled.exit, 0);
  EXPECT_EQ(filled.json()["filled"][0]["outcome"], "filled");
  EXPECT_EQ(filled.json()["survey"]["submodules"][0]["state"], "pinned");
  EXPECT_EQ(coctilis({"bringup", place.path("clone"), "--kiln", place.kiln()}).exit, 0);
}

TEST(Fill, WithoutSubmodulesItIsAWrongCommandLine) {
  TreeFolder tree;
  write_small_tree(tree);
  const auto said = coctilis({"survey", tree.path(), "--fill"});
  EXPECT_EQ(said.exit, 2);
  SAYS(said, "there is nothing to fill");
}

TEST(Fill, ASubmoduleThatNobodyWantsIsNotInTheWay) {
  TreeFolder tree;
  write_small_tree(tree);
  tree.write(".gitmodules", "[submodule \"docs\"]\n\tpath = docs\n\turl = ../docs\n");
  std::filesystem::create_directory(tree.path("docs"));
  const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln()});
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST(Archive, IsUnpackedBesideAndBroughtUp) {
  TreeFolder place;
  write_small_tree(place);
  const std::string tar = find_program("tar");
  ASSERT_FALSE(tar.empty());
  Command pack;
  pack.argv = {tar, "czf", place.scratch() + "/yard-1.tar.gz", "-C", place.path(), "."};
  ASSERT_TRUE(coctilis::run(pack).good());
  const auto said = coctilis({"bringup", place.scratch() + "/yard-1.tar.gz"});
  EXPECT_EQ(said.exit, 0) << said.all();
  SAYS(said, "unpack");
  EXPECT_TRUE(files::is_file(place.scratch() + "/yard-1/CMakeLists.txt"));
  EXPECT_TRUE(files::is_folder(place.scratch() + "/yard-1/kiln"));
  // The kiln is no part of what is compared: the second run takes what is there.
  EXPECT_EQ(coctilis({"bringup", place.scratch() + "/yard-1.tar.gz"}).exit, 0);
}

}  // namespace
}  // namespace coctilis::test
