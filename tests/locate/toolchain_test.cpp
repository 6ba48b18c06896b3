#include "locate/toolchain.h"

#include "locate/known.h"
#include "locate/locator.h"
#include "support.h"

namespace coctilis::locate {
namespace {

model::Toolchain chain(const std::string& family, const std::string& version) {
  model::Toolchain out;
  out.family = family;
  out.version = version;
  out.machine = "x86_64-linux-gnu";
  out.name = family + " " + version.substr(0, version.find('.'));
  return out;
}

std::vector<model::Toolchain> installed() {
  Answers answers({});
  return toolchains({}, answers);
}

TEST(Toolchain, WishesNameFamilyVersionOrMachine) {
  const auto gcc = chain("gcc", "12.2.0");
  EXPECT_TRUE(answers_wish(gcc, ""));
  EXPECT_TRUE(answers_wish(gcc, "gcc"));
  EXPECT_TRUE(answers_wish(gcc, "g++"));
  EXPECT_TRUE(answers_wish(gcc, "gcc >= 12"));
  EXPECT_FALSE(answers_wish(gcc, "gcc >= 13"));
  EXPECT_TRUE(answers_wish(gcc, "gcc 12"));
  EXPECT_TRUE(answers_wish(gcc, "gcc-12"));
  EXPECT_FALSE(answers_wish(gcc, "gcc 1"));
  EXPECT_FALSE(answers_wish(gcc, "clang"));
  EXPECT_TRUE(answers_wish(gcc, "x86_64-linux-gnu"));
  EXPECT_FALSE(answers_wish(gcc, "oven"));
  EXPECT_EQ(gcc.short_name(), "gcc12-x86_64");
}

TEST(Toolchain, CompilersAreAskedForWhatTheyKnow) {
  auto all = installed();
  ASSERT_FALSE(all.empty());
  const auto choice = choose(all, {});
  ASSERT_TRUE(choice.finding.found);
  const auto& c = choice.toolchain.compiler("C++");
  EXPECT_TRUE(c.macros.contains("__cplusplus"));
  EXPECT_FALSE(c.include_folders.empty());
  EXPECT_FALSE(c.link_folders.empty());
  EXPECT_TRUE(files::is_program(choice.toolchain.archiver));
  EXPECT_TRUE(files::is_program(choice.toolchain.linker));
}

TEST(Toolchain, ThePackageOfACompilerIsForItsMachine) {
  model::Toolchain one = chain("gcc", "12.2.0");
  EXPECT_EQ(package_of_compiler(one, "C++"), "g++");
  EXPECT_EQ(package_of_compiler(one, "C"), "gcc");
  one.compilers["C"].path = "/usr/bin/gcc-11";
  EXPECT_EQ(package_of_compiler(one, "C++"), "g++-11");
  one.foreign = true;
  one.machine = "aarch64-linux-gnu";
  one.compilers["C"].path = "/usr/bin/aarch64-linux-gnu-gcc-12";
  EXPECT_EQ(package_of_compiler(one, "C++"), "g++-12-aarch64-linux-gnu");
  one.compilers["C"].path = "/usr/bin/aarch64-linux-gnu-gcc";
  EXPECT_EQ(package_of_compiler(one, "C++"), "g++-aarch64-linux-gnu");
  one.machine = "kiln-brick-elf";
  EXPECT_EQ(package_of_compiler(one, "C++"), "");
  EXPECT_EQ(package_of_compiler(chain("clang", "14"), "C++"), "clang");
}

TEST(Toolchain, AbsentOneSaysWhereItLooked) {
  model::Settings settings;
  settings.toolchain = {{"gcc >= 99", {}, {}}};
  auto all = installed();
  const auto choice = choose(all, settings);
  EXPECT_FALSE(choice.finding.found);
  EXPECT_FALSE(choice.finding.looked.empty());
  // The package of that name is the one that is too old.
  EXPECT_EQ(choice.finding.package, "");
  settings.toolchain = {{"gcc 99", {}, {}}};
  EXPECT_EQ(choose(all, settings).finding.package, "g++-99");
  settings.toolchain = {{"zork", {}, {}}};
  EXPECT_EQ(choose(all, settings).finding.package, "");
}

TEST(Known, NamesLeadToPackages) {
  ASSERT_NE(known_library("ZLIB"), nullptr);
  EXPECT_EQ(known_library("ZLIB"), known_library("zlib"));
  EXPECT_EQ(known_by_link_name("z")->package, "zlib1g-dev");
  EXPECT_EQ(package_of_header("curl/curl.h"), "libcurl4-openssl-dev");
  EXPECT_EQ(package_of_program("flex"), "flex");
  EXPECT_EQ(package_of_header("brick.h"), "");
}

class LocatorTest : public testing::Test {
 protected:
  LocatorTest() {
    auto all = installed();
    choice_ = choose(all, {});
  }
  Locator locator(const std::string& prefix) {
    model::Settings settings;
    settings.prefixes = {prefix};
    return {choice_.toolchain, settings};
  }
  static model::Requirement want(const std::string& name, const std::string& constraint = {}) {
    return {model::RequirementKind::library, name, constraint, true, "a test", {}};
  }
  Choice choice_;
  test::TreeFolder tree_;
};

TEST_F(LocatorTest, PrefixComesFirstAndWorksWithoutPcFile) {
  tree_.write("include/zlib.h", "#define ZLIB_VERSION \"9.8.7\"\n");
  tree_.write("lib/libz.so", "INPUT(-lc)\n");
  tree_.write("lib/pkgconfig/other.pc", "");
  model::Settings settings;
  settings.prefixes = {tree_.path()};
  ::setenv("PKG_CONFIG_LIBDIR", "/nowhere", 1);
  const Locator here(choice_.toolchain, settings);
  ::unsetenv("PKG_CONFIG_LIBDIR");
  const auto finding = here.library(want("ZLIB"));
  EXPECT_TRUE(finding.found);
  EXPECT_EQ(finding.version, "9.8.7");
  EXPECT_EQ(finding.how, "header and library");
  EXPECT_EQ(finding.where, tree_.path("lib/libz.so"));
  EXPECT_EQ(finding.usage.include_folders, std::vector<std::string>{tree_.path("include")});
}

TEST_F(LocatorTest, PcFileTellsAll) {
  tree_.write("lib/pkgconfig/claykit.pc",
              "prefix=" + tree_.path() +
                  "\nName: claykit\nVersion: 2.4\nCflags: -I${prefix}/include/clay\nLibs: -L${prefix}/lib -lclaykit\n");
  const auto finding = locator(tree_.path()).library(want("claykit", ">= 2.1, < 3"));
  EXPECT_TRUE(finding.found) << finding.reason;
  EXPECT_EQ(finding.version, "2.4");
  EXPECT_EQ(finding.usage.include_folders, std::vector<std::string>{tree_.path("include/clay")});
  const auto too_old = locator(tree_.path()).library(want("claykit", ">= 3"));
  EXPECT_FALSE(too_old.found);
  EXPECT_NE(too_old.reason.find("2.4"), std::string::npos);
}

TEST_F(LocatorTest, MissSaysEveryPlaceAndThePackage) {
  model::Settings settings;
  ::setenv("PKG_CONFIG_LIBDIR", tree_.path().c_str(), 1);
  const Locator here(choice_.toolchain, settings);
  ::unsetenv("PKG_CONFIG_LIBDIR");
  const auto finding = here.library(want("lzo2"));
  if (finding.found) GTEST_SKIP() << "this machine has it";
  EXPECT_EQ(finding.package, "liblzo2-dev");
  EXPECT_GT(finding.looked.size(), 3U);
}

TEST_F(LocatorTest, KeepsEachWantOnceAndTheStrongerOne) {
  auto here = locator(tree_.path());
  model::Finding miss;
  miss.requirement = want("clay");
  miss.requirement.required = false;
  here.keep(miss);
  miss.requirement.required = true;
  here.keep(miss);
  ASSERT_EQ(here.findings().size(), 1U);
  EXPECT_TRUE(here.findings()[0].requirement.required);
  EXPECT_TRUE(here.any_required_missing());
  miss.found = true;
  here.keep(miss);
  EXPECT_FALSE(here.any_required_missing());
}

}  // namespace
}  // namespace coctilis::locate
