// What Fortran sources define and use, in both forms.
#include "survey/fortran.h"

#include "support.h"

namespace coctilis::survey {
namespace {

using Words = std::vector<std::string>;

struct Source {
  const char* name;
  const char* text;
  bool fixed;
  Words defines;
  Words uses;
};

class FortranModules : public testing::TestWithParam<Source> {};

TEST_P(FortranModules, AreFound) {
  const auto& source = GetParam();
  const auto found = scan_modules(source.text, source.fixed);
  EXPECT_EQ(found.defines, source.defines);
  EXPECT_EQ(found.uses, source.uses);
}

INSTANTIATE_TEST_SUITE_P(
    All, FortranModules,
    testing::Values(
        Source{"Plain", "module Glaze\n  use clay\nend module Glaze\n", false, {"glaze"}, {"clay"}},
        Source{"SeveralOnALine", "module a; use b; use c\nend module; module d\nend\n", false, {"a", "d"}, {"b", "c"}},
        Source{"Only",
               "use heat, only: peak => top\nUSE::cone\nuse, non_intrinsic :: ramp\n",
               false,
               {},
               {"heat", "cone", "ramp"}},
        Source{"Intrinsic", "use, intrinsic :: iso_c_binding\nuse , INTRINSIC::ieee_arithmetic\n", false, {}, {}},
        Source{"NoUse", "use = 3\nuse_count = 4\nusers = 5\nuse%part = 1\nmodule_name = 2\n", false, {}, {}},
        Source{"NoModule",
               "module procedure fire\nmodule function soak(x)\nmodule subroutine hold()\nend module clay\n",
               false,
               {},
               {}},
        Source{"Submodules",
               "submodule (heat) soak\nend\nsubmodule(heat:soak) hold\nend submodule\n",
               false,
               {"heat@soak", "heat@hold"},
               {"heat"}},
        Source{"ParentElsewhere", "submodule (heat : soak) hold\n", false, {"heat@hold"}, {"heat", "heat@soak"}},
        Source{"Continued", "use &\n  ! between\n\n  & clay, &\n  only: water\n", false, {}, {"clay"}},
        Source{"Comments", "! use a\nprint *, 'use b', \"use c\" ! use d\nuse e ! why\n", false, {}, {"e"}},
        Source{"QuotesGoOn", "print *, 'x &\n  & use a'; use b\n", false, {}, {"b"}},
        Source{"QuoteInComment", "! don't\nuse clay\n", false, {}, {"clay"}},
        Source{"LinesOfThePreprocessor", "# 1 \"clay.F90\"\nuse clay\n#define use a\n", false, {}, {"clay"}},
        Source{"OwnIsNoUse", "module a\nend module\nmodule b\n use a\nend module\n", false, {"a", "b"}, {}},
        Source{"OtherLineEnds", "module a\r\n  use b\r\nend module\r\n", false, {"a"}, {"b"}},
        Source{"FixedForm",
               "C     use a\n*     use b\n      USE CLAY,\n     1    ONLY: WATER\n! use c\n      MODULE KILN\n",
               true,
               {"kiln"},
               {"clay"}},
        Source{"FixedFormLabels", "  10  USE CLAY\n\tuse glaze\n", true, {}, {"clay", "glaze"}},
        Source{"FixedFormGoesOn", "      USE CL\n     &AY\n", true, {}, {"clay"}},
        Source{"Nothing", "", false, {}, {}}),
    [](const auto& one) { return one.param.name; });

TEST(FortranLayout, IsThatOfTheNameUnlessTheLinesSayOtherwise) {
  const char* free = "module clay\ninteger :: n\nend module\n";
  const char* fixed = "C     A COMMENT\n      INTEGER N,\n     1  M\n      END\n";
  const char* either = "      INTEGER N\n      END\n";
  EXPECT_FALSE(is_laid_out_fixed("clay.f90", free));
  EXPECT_FALSE(is_laid_out_fixed("clay.f", free));
  EXPECT_TRUE(is_laid_out_fixed("clay.f", fixed));
  EXPECT_TRUE(is_laid_out_fixed("clay.f90", fixed));
  EXPECT_TRUE(is_laid_out_fixed("clay.f", either));
  EXPECT_FALSE(is_laid_out_fixed("clay.f90", either));
  EXPECT_TRUE(is_laid_out_fixed("clay.for", ""));
  EXPECT_FALSE(is_laid_out_fixed("clay.f90", "call fire(1, &\n  2)\nc = 3\n"));
}

}  // namespace
}  // namespace coctilis::survey
