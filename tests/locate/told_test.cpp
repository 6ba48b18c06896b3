// What programs tell of how to compile and link with their library.
#include "locate/told.h"

#include "base/text.h"
#include "describe/reader.h"
#include "locate/locator.h"
#include "support.h"

namespace coctilis::locate {
namespace {

TEST(ToldFlags, AreSortedByWhatTheyAreFor) {
  const auto flags = sorted_flags(
      "-I/opt/clay/lib/../include -DHOT=1 -I/opt/clay/include -fopenmp -L/opt/clay/lib "
      "-lclay -Wl,-rpath,/opt -pthread /opt/libheat.a");
  EXPECT_TRUE(flags.good);
  EXPECT_EQ(flags.include_folders, std::vector<std::string>{"/opt/clay/include"});
  EXPECT_EQ(flags.definitions, std::vector<std::string>{"HOT=1"});
  EXPECT_EQ(flags.options, std::vector<std::string>{"-fopenmp"});
  EXPECT_EQ(flags.link_folders, std::vector<std::string>{"/opt/clay/lib"});
  EXPECT_EQ(flags.items, (std::vector<std::string>{"-lclay", "-Wl,-rpath,/opt", "-pthread", "/opt/libheat.a"}));
}
TEST(ToldFlags, AMessageIsNone) {
  EXPECT_FALSE(sorted_flags("gcc: no input files").good);
  EXPECT_TRUE(sorted_flags("").good);
}

// A wrapper of a compiler in a prefix, as libraries for several processes bring one.
class Wrapper : public testing::Test {
 protected:
  Wrapper() {
    tell("--showme:compile", "-I" + tree_.path("include"));
    tell("--showme:link", "-L" + tree_.path("lib") + " -lclay_fortran");
    write();
    settings_.prefixes = {tree_.path()};
  }
  void tell(const std::string& word, const std::string& answer) { cases_ += word + ") echo '" + answer + "' ;; "; }
  void write() const {
    tree_.write("bin/mpif90", "#!/bin/sh\ncase $1 in " + cases_ + "esac\n");
    std::filesystem::permissions(tree_.path("bin/mpif90"), std::filesystem::perms::all);
  }
  [[nodiscard]] model::Finding find(const std::string& constraint = {}) const {
    const Locator locator(test::Reading::toolchain(), settings_);
    model::Requirement want;
    want.name = "mpi-fortran";
    want.constraint = constraint;
    return locator.library(want);
  }
  test::TreeFolder tree_;
  model::Settings settings_;
  std::string cases_;
};

TEST_F(Wrapper, TellsWhatItAdds) {
  const auto finding = find();
  ASSERT_TRUE(finding.found) << finding.reason;
  EXPECT_EQ(finding.where, tree_.path("bin/mpif90"));
  EXPECT_EQ(finding.usage.include_folders, std::vector<std::string>{tree_.path("include")});
  EXPECT_EQ(finding.usage.link_items, std::vector<std::string>{"-lclay_fortran"});
  EXPECT_NE(finding.why_here.find("--with"), std::string::npos);
}
TEST_F(Wrapper, OneThatTellsNothingIsNoAnswer) {
  cases_ = "*) echo 'this is no flag' ;; ";
  write();
  EXPECT_NE(find().where, tree_.path("bin/mpif90"));
}
TEST_F(Wrapper, NorIsOneWithoutAVersionForWhoWantsACertainOne) {
  EXPECT_NE(find(">= 99").where, tree_.path("bin/mpif90"));
}

}  // namespace
}  // namespace coctilis::locate
