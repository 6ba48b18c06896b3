// What is taken for a library, and what is passed over or refused.
#include "locate/locator.h"

#include <elf.h>

#include "locate/needs.h"
#include "support.h"

namespace coctilis::test {
namespace {

// The smallest file that says which machine it is for.
std::string elf_for(int bits, int machine) {
  std::string out(bits == 64 ? sizeof(Elf64_Ehdr) : sizeof(Elf32_Ehdr), '\0');
  const auto fill = [&](auto* header) {
    std::copy_n(ELFMAG, SELFMAG, header->e_ident);
    header->e_ident[EI_CLASS] = bits == 64 ? ELFCLASS64 : ELFCLASS32;
    header->e_ident[EI_DATA] = ELFDATA2LSB;
    header->e_ident[EI_VERSION] = EV_CURRENT;
    header->e_type = ET_DYN;
    header->e_machine = static_cast<std::uint16_t>(machine);
    header->e_version = EV_CURRENT;
    header->e_ehsize = sizeof(*header);
  };
  if (bits == 64)
    fill(reinterpret_cast<Elf64_Ehdr*>(out.data()));
  else
    fill(reinterpret_cast<Elf32_Ehdr*>(out.data()));
  return out;
}

class Libraries : public ::testing::Test {
 protected:
  Libraries() {
    chain.machine = "x86_64-linux-gnu";
    chain.compilers["C"].path = "/usr/bin/false";
    chain.compilers["C"].language = "C";
    chain.compilers["C"].include_folders = {place.path("usr/include")};
    chain.compilers["C"].link_folders = {place.path("usr/lib")};
    ::unsetenv("PKG_CONFIG_PATH");
    ::setenv("PKG_CONFIG_LIBDIR", place.path("usr/lib/pkgconfig").c_str(), 1);
  }
  ~Libraries() override { ::unsetenv("PKG_CONFIG_LIBDIR"); }
  locate::Locator locator() { return {chain, settings}; }
  model::Requirement want(const std::string& name, const std::string& constraint = {}) const {
    return {model::RequirementKind::library, name, constraint, true, "test", {}, {}};
  }
  void library(const std::string& prefix, const std::string& name = "clay", const std::string& ending = ".so") const {
    place.write(prefix + "/lib/lib" + name + ending, elf_for(64, EM_X86_64));
  }
  TreeFolder place;
  model::Toolchain chain;
  model::Settings settings;
};

TEST_F(Libraries, OfAnotherMachineAreNone) {
  place.write("usr/lib/libclay.so", elf_for(64, EM_AARCH64));
  auto finding = locator().link_name(want("clay"), {});
  EXPECT_FALSE(finding.found);
  EXPECT_NE(finding.reason.find("for another machine (64-bit aarch64"), std::string::npos) << finding.reason;
  place.write("usr/lib/libclay.so", elf_for(32, EM_386));
  finding = locator().link_name(want("clay"), {});
  EXPECT_NE(finding.reason.find("32-bit"), std::string::npos) << finding.reason;
  // One further back that fits is taken.
  library("more");
  finding = locator().link_name(want("clay"), std::vector{place.path("usr/lib"), place.path("more/lib")});
  EXPECT_EQ(finding.where, place.path("more/lib/libclay.so"));
}

TEST_F(Libraries, ScriptsForTheLinkerAreTaken) {
  place.write("usr/lib/libclay.so", "/* GNU ld script */\nINPUT(libclay.so.1 -lslip)\n");
  EXPECT_TRUE(locator().link_name(want("clay"), {}).found);
  place.write("usr/lib/libclay.so", "version https://works.example/pointer\n");
  EXPECT_NE(locator().link_name(want("clay"), {}).reason.find("is no library"), std::string::npos);
}

TEST_F(Libraries, FormsAsAsked) {
  library("usr");
  auto asked = want("clay");
  asked.form = "static";
  EXPECT_FALSE(locator().link_name(asked, {}).found);
  library("usr", "clay", ".a");
  EXPECT_TRUE(locator().link_name(asked, {}).where.ends_with(".a"));
  asked.form = "shared";
  EXPECT_TRUE(locator().link_name(asked, {}).where.ends_with(".so"));
}

TEST_F(Libraries, TheRunTimeHalfIsTold) {
  place.write("usr/lib/libclay.so.2", elf_for(64, EM_X86_64));
  const auto finding = locator().link_name(want("clay"), {});
  EXPECT_FALSE(finding.found);
  EXPECT_NE(finding.reason.find("only the run-time library is there"), std::string::npos);
}

TEST_F(Libraries, PrefixesComeFirstAndOthersAreTold) {
  place.write("usr/lib/pkgconfig/clay.pc", "Name: clay\nDescription: d\nVersion: 1.4\n");
  place.write("new/lib/pkgconfig/clay.pc", "Name: clay\nDescription: d\nVersion: 2.0\n");
  settings.prefixes = {place.path("new")};
  const auto finding = locator().library(want("clay"));
  ASSERT_TRUE(finding.found);
  EXPECT_EQ(finding.version, "2.0");
  EXPECT_EQ(finding.why_here, "--with " + place.path("new"));
  ASSERT_EQ(finding.others.size(), 1U);
  EXPECT_NE(finding.others[0].find("(version 1.4)"), std::string::npos);
}

TEST_F(Libraries, MixedCopiesAreRefused) {
  // The header of one copy is found first, the library of the other.
  place.write("local/include/zlib.h", "#define ZLIB_VERSION \"1.1\"\n");
  place.write("usr/include/zlib.h", "#define ZLIB_VERSION \"1.2\"\n");
  library("usr", "z");
  chain.compilers["C"].include_folders = {place.path("local/include"), place.path("usr/include")};
  place.write("usr/lib/pkgconfig/zlib.pc", "Name: z\nDescription: d\nVersion: 1.2\nLibs: -lz\n");
  const auto finding = locator().library(want("zlib"));
  EXPECT_FALSE(finding.found);
  EXPECT_TRUE(finding.refused);
  EXPECT_NE(finding.reason.find("two copies would be mixed"), std::string::npos) << finding.reason;
  chain.compilers["C"].include_folders = {place.path("usr/include")};
  EXPECT_TRUE(locator().library(want("zlib")).found);
}

TEST_F(Libraries, HalvesAreNamed) {
  place.write("usr/include/zlib.h", "#define ZLIB_VERSION \"1.2\"\n");
  auto finding = locator().library(want("zlib"));
  EXPECT_NE(finding.reason.find("the header is there"), std::string::npos) << finding.reason;
  std::filesystem::remove(place.path("usr/include/zlib.h"));
  library("usr", "z");
  finding = locator().library(want("zlib"));
  EXPECT_NE(finding.reason.find("but not its header zlib.h"), std::string::npos) << finding.reason;
}

TEST_F(Libraries, VersionsComeFromHeaderOrFileName) {
  place.write("usr/include/zlib.h", "#define ZLIB_VERSION \"1.2.11\"\n");
  library("usr", "z");
  auto finding = locator().library(want("zlib", ">= 1.2, < 2"));
  EXPECT_TRUE(finding.found);
  EXPECT_EQ(finding.version, "1.2.11");
  EXPECT_EQ(finding.version_source, "header zlib.h");
  finding = locator().library(want("zlib", ">= 1.3"));
  EXPECT_FALSE(finding.found);
  EXPECT_NE(finding.reason.find("version 1.2.11"), std::string::npos);
  place.write("usr/lib/libslip.so.3.4.5", elf_for(64, EM_X86_64));
  std::filesystem::create_symlink("libslip.so.3.4.5", place.path("usr/lib/libslip.so"));
  finding = locator().library(want("slip"));
  EXPECT_EQ(finding.version, "3.4.5");
  EXPECT_EQ(finding.version_source, "file name");
}

TEST_F(Libraries, ProgramsAreAskedForTheirVersionOnlyWhenItMatters) {
  place.write("a/bin/glazer", "#!/bin/sh\necho glazer, version v2.9\n");
  place.write("b/bin/glazer", "#!/bin/sh\necho 'glazer 3.1.4 (of the works)'\n");
  for (const char* name : {"a/bin/glazer", "b/bin/glazer"})
    std::filesystem::permissions(place.path(name), std::filesystem::perms::owner_all);
  settings.prefixes = {place.path("a"), place.path("b")};
  model::Requirement asked{model::RequirementKind::program, "glazer", {}, true, "test", {}, {}};
  EXPECT_EQ(locator().program(asked, {"glazer"}, {}).where, place.path("a/bin/glazer"));
  asked.constraint = ">= 3";
  auto finding = locator().program(asked, {"glazer"}, {});
  EXPECT_EQ(finding.where, place.path("b/bin/glazer"));
  EXPECT_EQ(finding.version, "3.1.4");
  asked.constraint = ">= 4";
  finding = locator().program(asked, {"glazer"}, {});
  EXPECT_FALSE(finding.found);
  EXPECT_NE(finding.reason.find("version 2.9"), std::string::npos);
}

TEST_F(Libraries, KitsAndWhatGoesWithThem) {
  place.write("fire/VERSION", "3.2.1\n");
  place.write("probe-3.1/x", "");
  model::Need fire;
  fire.kit = "fire";
  fire.prefix = place.path("fire");
  fire.goes_with = {"probe"};
  model::Need probe;
  probe.kit = "probe";
  probe.prefix = place.path("probe-3.1");
  settings.needs = {fire, probe};
  const auto findings = [&] {
    auto all = locator();
    locate::locate_needs(settings, place.path(), all);
    return all.findings();
  };
  auto found = findings();
  EXPECT_NE(found[0].reason.find("version 3.2.1 does not go with probe 3.1"), std::string::npos) << found[0].reason;
  EXPECT_EQ(found[1].version_source, "name of the folder");
  settings.needs[0].goes_with.clear();
  settings.needs[0].files = {"share/licence"};
  found = findings();
  EXPECT_NE(found[0].reason.find("share/licence is not there"), std::string::npos);
  place.write("fire/share/licence", "ok");
  EXPECT_TRUE(findings()[0].found);
  settings.needs[0].constraint = ">= 4";
  EXPECT_NE(findings()[0].reason.find("version 3.2.1"), std::string::npos);
  settings.needs[0].prefix.clear();
  EXPECT_NE(findings()[0].reason.find("nothing says where it is"), std::string::npos);
}

TEST_F(Libraries, DataFilesAreFilesOfTheTree) {
  model::Need need;
  need.file = "data/curves";
  settings.needs = {need};
  auto all = locator();
  locate::locate_needs(settings, place.path(), all);
  EXPECT_FALSE(all.findings()[0].found);
  place.write("data/curves", "x");
  auto again = locator();
  locate::locate_needs(settings, place.path(), again);
  EXPECT_TRUE(again.findings()[0].found);
}

}  // namespace
}  // namespace coctilis::test
