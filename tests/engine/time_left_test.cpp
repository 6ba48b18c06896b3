// How long a build will still take.
#include "engine/time_left.h"

#include <gtest/gtest.h>

#include <cmath>

namespace coctilis::engine {
namespace {

using model::StepKind;

TEST(TimeLeft, WhatIsRecordedIsBelieved) {
  TimeLeft left(2);
  for (std::size_t i = 0; i < 10; ++i) left.expect(i, StepKind::compile, 4, true);
  EXPECT_DOUBLE_EQ(left.worked_out(0, {}, 4), 20) << "ten of four seconds, two at once";
  EXPECT_DOUBLE_EQ(left.worked_out(0, {}, 30), 30) << "the longest way has to be gone in any case";
  EXPECT_DOUBLE_EQ(left.last_time(3), 4);
}

TEST(TimeLeft, WhatIsNotRecordedIsAsItsKindHasBeen) {
  TimeLeft left(1);
  for (std::size_t i = 0; i < 6; ++i) left.expect(i, StepKind::compile, 0.5, false);
  left.expect(6, StepKind::link, 0.1, false);
  EXPECT_LT(left.last_time(0), 0);
  for (std::size_t i = 0; i < 3; ++i) {
    left.began(i);
    left.ended(i, 2);
  }
  EXPECT_DOUBLE_EQ(left.expected(4), 2);
  // Three more of two seconds, and a link that is as far from its guess as all have been.
  EXPECT_NEAR(left.worked_out(6, {}, 0), 6.4, 1e-9);
}

TEST(TimeLeft, OfThoseThatNobodyHasLookedAtAsManyNeedNotRunAsOfTheOthers) {
  TimeLeft left(1);
  for (std::size_t i = 0; i < 100; ++i) left.expect(i, StepKind::compile, 1, true);
  for (std::size_t i = 0; i < 60; ++i) left.not_needed(i);
  left.began(60);
  left.ended(60, 1);
  EXPECT_LT(left.worked_out(1, {}, 0), 3);
}

TEST(TimeLeft, WhatNeedsSomethingThatIsMadeAnewIsExpectedToRun) {
  TimeLeft left(1);
  for (std::size_t i = 0; i < 10; ++i) left.expect(i, StepKind::compile, 1, true);
  for (std::size_t i = 10; i < 20; ++i) left.expect(i, StepKind::link, 2, true);
  for (std::size_t i = 0; i < 9; ++i) left.not_needed(i);
  left.began(9);
  for (std::size_t i = 15; i < 20; ++i) left.likely(i);
  left.likely(15);
  left.ended(9, 1);
  // Five links for sure; of the others one in eleven, and two hundredths more.
  EXPECT_NEAR(left.worked_out(1, {}, 0), 10 + 10 * 2.0 / 11, 1e-9);
}

TEST(TimeLeft, NothingIsToldBeforeAnythingIsKnown) {
  TimeLeft left(2);
  for (std::size_t i = 0; i < 9; ++i) left.expect(i, StepKind::compile, 0.5, false);
  EXPECT_LT(left.told(0.2, {}, 1), 0);
  EXPECT_LT(left.told(1.5, {{0, 1.5}}, 1), 0);
}

// What a user reads: ten steps a second long, one after the other, but for one that takes five.
TEST(TimeLeft, WhatIsToldDoesNotJump) {
  TimeLeft left(1);
  for (std::size_t i = 0; i < 20; ++i) left.expect(i, StepKind::compile, 1, true);
  double now = 0;
  double before = -1;
  double most = 0;
  for (std::size_t i = 0; i < 20; ++i) {
    left.began(i);
    const double takes = i == 10 ? 5 : 1;
    for (double age = 0; age < takes; age += 0.1, now += 0.1) {
      const double told = left.told(now, {{i, age}}, 0);
      if (told < 0) continue;
      if (before >= 0) most = std::max(most, std::abs(told - (before - 0.1)));
      before = told;
    }
    left.ended(i, takes);
  }
  EXPECT_LT(most, 1.5) << "between two looks";
  EXPECT_LT(before, 1.5) << "at the end nothing is left";
}

}  // namespace
}  // namespace coctilis::engine
