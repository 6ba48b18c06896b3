// What is said of modules of Perl.
#include <gtest/gtest.h>

#include "describe/perl_module/reader.h"

namespace coctilis::describe::perl_module {
namespace {

TEST(PerlModule, APackageIsCalledByItsModule) {
  EXPECT_EQ(package_of_module("Clay::Body"), "libclay-body-perl");
  EXPECT_EQ(package_of_module("Clay::XS_Fast"), "libclay-xs_fast-perl");
}

TEST(PerlModule, TheModuleThatAScriptLacksIsRead) {
  EXPECT_EQ(module_not_found_in("reading\nCan't locate Clay/Body.pm in @INC (you may need to install the Clay::Body "
                                "module) (@INC contains: /etc/perl) at Makefile.PL line 3.\n"),
            "Clay::Body");
  EXPECT_EQ(module_not_found_in("it says: Can't locate Clay.pm in @INC\n"), "");
  EXPECT_EQ(module_not_found_in("Can't locate ../../x.pm in @INC\n"), "");
}

}  // namespace
}  // namespace coctilis::describe::perl_module
