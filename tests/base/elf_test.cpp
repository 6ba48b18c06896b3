// What is read off programs, libraries and archives, whole and broken.
#include "base/elf.h"

#include <gtest/gtest.h>

#include <cstring>

#include "base/files.h"
#include "base/machine.h"
#include "base/process.h"

namespace coctilis {
namespace {

class Elf : public testing::Test {
 protected:
  // Runs a line of shell in the folder of the test; false when it fails.
  bool sh(const std::string& line) const {
    Command command;
    command.argv = {"sh", "-c", line};
    command.folder = folder();
    return run(command).good();
  }
  [[nodiscard]] std::string folder() const { return place_.path().string(); }
  [[nodiscard]] std::string path(const std::string& name) const { return folder() + "/" + name; }
  void SetUp() override {
    files::write(path("clay.c"), "int clay_peak = 1222;\nint clay(void) { return clay_peak; }\n");
    files::write(path("press.cc"),
                 "extern \"C\" int clay();\nnamespace yard { int fire(int cone) { return cone + clay(); } }\n"
                 "int main() { return yard::fire(-1222); }\n");
    ASSERT_TRUE(
        sh("cc -shared -fPIC -Wl,-soname,libclay.so.2 -o libclay.so clay.c && cc -c -o clay.o clay.c && ar rcs "
           "libclay.a clay.o && c++ -c -o press.o press.cc && c++ -o press press.o -L. -lclay "
           "-Wl,-rpath,'$ORIGIN:/yard/lib' -Wl,--enable-new-dtags"));
  }

 private:
  files::ScratchFolder place_{"elf"};
};

TEST_F(Elf, SaysWhatItNeedsAndWhereItLooks) {
  const auto press = read_elf(path("press"));
  ASSERT_TRUE(press);
  EXPECT_TRUE(press->dynamic);
  EXPECT_TRUE(press->has_run_path);
  EXPECT_EQ(press->run_path, (std::vector<std::string>{"$ORIGIN", "/yard/lib"}));
  EXPECT_NE(std::find(press->needed.begin(), press->needed.end(), "libclay.so.2"), press->needed.end());
  EXPECT_EQ(press->shared_name, "");
  const auto library = read_elf(path("libclay.so"));
  ASSERT_TRUE(library);
  EXPECT_EQ(library->shared_name, "libclay.so.2");
  EXPECT_TRUE(library->run_path.empty());
  EXPECT_EQ(library->machine, press->machine);
}

TEST_F(Elf, OlderRunPathsCountWhereThereIsNoNewerOne) {
  ASSERT_TRUE(sh("c++ -o old press.o -L. -lclay -Wl,-rpath,/old/lib -Wl,--disable-new-dtags"));
  const auto old = read_elf(path("old"));
  ASSERT_TRUE(old);
  EXPECT_FALSE(old->has_run_path);
  EXPECT_EQ(old->run_path, std::vector<std::string>{"/old/lib"});
}

TEST_F(Elf, ArchivesAreWhatTheirMembersAre) {
  const auto archive = read_elf(path("libclay.a"));
  ASSERT_TRUE(archive);
  EXPECT_FALSE(archive->dynamic);
  EXPECT_EQ(archive->machine, read_elf(path("libclay.so"))->machine);
  ASSERT_TRUE(sh("ar rcs none.a clay.c"));
  EXPECT_FALSE(read_elf(path("none.a")));
}

TEST_F(Elf, WhatIsNoneIsTold) {
  EXPECT_FALSE(read_elf(path("clay.c")));
  EXPECT_FALSE(read_elf(folder()));
  EXPECT_FALSE(read_elf(path("absent")));
  files::write(path("empty"), "");
  EXPECT_FALSE(read_elf(path("empty")));
}

// Files that were cut off, or are lies, are read as far as they go: whatever comes of it, the program lives on.
TEST_F(Elf, BrokenFilesAreNoDanger) {
  for (const char* name : {"press", "libclay.so", "libclay.a", "press.o"}) {
    const std::string whole = files::read(path(name)).value();
    for (std::size_t length = 0; length < std::min<std::size_t>(whole.size(), 2000); length += 13) {
      files::write(path("cut"), whole.substr(0, length));
      (void)read_elf(path("cut"));
      (void)symbol_use(path("cut"), "clay");
      if (const auto sizes = section_sizes(path("cut"))) {
        EXPECT_LE(sizes->code + sizes->data + sizes->debug + sizes->rest, length);
      }
    }
    for (std::size_t at = 16; at < std::min<std::size_t>(whole.size(), 64); ++at) {
      std::string lie = whole;
      lie[at] = '\xff';
      files::write(path("cut"), lie);
      (void)read_elf(path("cut"));
      (void)symbol_use(path("cut"), "yard::fire");
    }
  }
}

TEST_F(Elf, ItsBytesAreCodeDataDebuggingAndTheRest) {
  ASSERT_TRUE(
      sh("cc -g -c -o big.o -x c - <<'E'\nchar room[5000]; const char data[3000] = {1}; int f(void) { return 3; }\nE"));
  const auto sizes = section_sizes(path("big.o"));
  ASSERT_TRUE(sizes);
  EXPECT_GE(sizes->room, 5000U);
  EXPECT_GE(sizes->data, 3000U);
  EXPECT_LT(sizes->data, 4000U);
  EXPECT_GT(sizes->code, 0U);
  EXPECT_LT(sizes->code, 200U);
  EXPECT_GT(sizes->debug, 0U);
  EXPECT_EQ(sizes->code + sizes->data + sizes->debug + sizes->rest, std::filesystem::file_size(path("big.o")));
  ASSERT_TRUE(sh("ar rcs two.a big.o clay.o && strip -g -o small.o big.o"));
  EXPECT_GE(section_sizes(path("two.a"))->room, 5000U);
  EXPECT_EQ(section_sizes(path("small.o"))->debug, 0U);
  EXPECT_FALSE(section_sizes(path("clay.c")));
  EXPECT_FALSE(section_sizes(path("absent")));
  EXPECT_FALSE(section_sizes(folder()));
}

TEST_F(Elf, SymbolsAreFoundByTheNamePeopleWrite) {
  EXPECT_TRUE(symbol_use(path("libclay.so"), "clay").defined);
  EXPECT_TRUE(symbol_use(path("libclay.a"), "clay").defined);
  EXPECT_FALSE(symbol_use(path("libclay.a"), "cla").defined);
  const auto used = symbol_use(path("press.o"), "clay");
  EXPECT_TRUE(used.wanted);
  EXPECT_FALSE(used.defined);
  EXPECT_TRUE(symbol_use(path("press.o"), "yard::fire").defined);
  EXPECT_FALSE(symbol_use(path("press.o"), "fire").defined);
  EXPECT_FALSE(symbol_use(path("press.o"), "yard::fir").defined);
  EXPECT_FALSE(symbol_use(path("clay.c"), "clay").defined);
  EXPECT_FALSE(symbol_use(path("absent"), "clay").wanted);
}

TEST_F(Elf, FitsTheMachineItIsFor) {
  const auto facts = read_elf(path("press")).value();
  EXPECT_TRUE(fits_machine(facts, host_processor() + "-linux-gnu"));
  EXPECT_NE(machine_text(facts).find(host_processor() == "i686" ? "i386" : host_processor()), std::string::npos);
  struct Case {
    int machine;
    int bits;
    const char* triplet;
    bool fits;
  };
  for (const auto& c : {Case{62, 64, "x86_64-linux-gnu", true}, Case{62, 64, "aarch64-linux-gnu", false},
                        Case{183, 64, "aarch64-linux-gnu", true}, Case{3, 32, "x86_64-linux-gnu", false},
                        Case{3, 32, "i386-linux-gnu", true}, Case{62, 32, "x86_64-linux-gnu", false},
                        Case{62, 32, "x86_64-linux-gnux32", true}, Case{7, 16, "kiln-none-elf", true}}) {
    ElfFacts other;
    other.machine = c.machine;
    other.bits = c.bits;
    EXPECT_EQ(fits_machine(other, c.triplet), c.fits) << c.machine << " " << c.triplet;
  }
  ElfFacts unknown;
  unknown.machine = 7777;
  unknown.bits = 32;
  EXPECT_EQ(machine_text(unknown), "32-bit machine 7777");
}

}  // namespace
}  // namespace coctilis
