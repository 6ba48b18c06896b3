// Patterns of declared tests.
#include "smoke/patterns.h"

#include <gtest/gtest.h>

namespace coctilis::smoke {
namespace {

TEST(Patterns, NoneAreFoundNowhere) {
  EXPECT_FALSE(any_found({}, ""));
  EXPECT_FALSE(any_found({}, "fired"));
}

TEST(Patterns, OneOfThemIsEnough) {
  EXPECT_TRUE(any_found({"raw", "fired"}, "the brick is fired\n"));
  EXPECT_FALSE(any_found({"raw", "glazed"}, "the brick is fired\n"));
}

TEST(Patterns, ADotIsAlsoALineBreak) {
  EXPECT_TRUE(any_found({"^cone 6.cone 8"}, "cone 6\ncone 8\n"));
  EXPECT_TRUE(any_found({"<kiln>.*</kiln>"}, "<kiln>\n  <shelf/>\n</kiln>\n"));
}

TEST(Patterns, BracesAndLettersBehindABackslashMeanThemselves) {
  EXPECT_TRUE(any_found({"{1}"}, "shelf {1}"));
  EXPECT_TRUE(any_found({"[0-9]+ bricks?"}, "12 brick"));
  EXPECT_TRUE(any_found({"cone\\."}, "cone."));
}

TEST(Patterns, OneThatCannotBeReadIsFoundNowhere) {
  EXPECT_FALSE(any_found({"(fired"}, "(fired"));
  EXPECT_TRUE(any_found({"(fired", "brick"}, "a brick"));
}

TEST(Patterns, BytesThatAreNoTextAreSearchedToo) {
  EXPECT_TRUE(any_found({"fired"}, std::string("\xff\xfe\0fired", 9)));
}

}  // namespace
}  // namespace coctilis::smoke
