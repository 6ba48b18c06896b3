// How makes are called: the standard's options (POSIX.1-2024, make, OPTIONS), those in common use, and what callers
// hand on.
#include <gtest/gtest.h>

#include "describe/makefile/call.h"

namespace coctilis::describe::makefile {
namespace {

using Words = std::vector<std::string>;

Call call(const Words& words, const std::map<std::string, std::string>& environment = {}) {
  const auto parsed = parse_call(words, environment, "/yard");
  EXPECT_TRUE(parsed.ok()) << (parsed.ok() ? "" : parsed.problem().what);
  return parsed.ok() ? *parsed : Call{};
}

struct Letter {
  const char* words;
  bool Call::*flag;
  const char* handed_on;  // letters in MAKEFLAGS
};
class Letters : public testing::TestWithParam<Letter> {};

TEST_P(Letters, TurnOnWhatTheyStandFor) {
  const auto& l = GetParam();
  const Call parsed = call({l.words});
  EXPECT_TRUE(parsed.*l.flag) << l.words;
  EXPECT_EQ(flags_text(parsed), l.handed_on);
  // Handed on, they mean the same again.
  if (*l.handed_on != '\0') {
    EXPECT_TRUE(call({}, {{"MAKEFLAGS", flags_text(parsed)}}).*l.flag) << l.words;
  }
}

INSTANTIATE_TEST_SUITE_P(All, Letters,
                         testing::Values(Letter{"-B", &Call::all, "B"}, Letter{"--always-make", &Call::all, "B"},
                                         Letter{"-e", &Call::environment_wins, "e"},
                                         Letter{"-i", &Call::ignore_errors, "i"}, Letter{"-k", &Call::keep_going, "k"},
                                         Letter{"--keep-going", &Call::keep_going, "k"}, Letter{"-n", &Call::dry, "n"},
                                         Letter{"--dry-run", &Call::dry, "n"}, Letter{"-q", &Call::question, ""},
                                         Letter{"-r", &Call::no_rules, "r"}, Letter{"-R", &Call::no_variables, "R"},
                                         Letter{"-s", &Call::silent, "s"}, Letter{"--silent", &Call::silent, "s"},
                                         Letter{"-t", &Call::touch, "t"}, Letter{"--touch", &Call::touch, "t"},
                                         Letter{"--version", &Call::version, ""},
                                         Letter{"-w", &Call::print_folder, ""}));

TEST(MakeCall, LettersAreBundled) {
  const Call parsed = call({"-ksi", "all"});
  EXPECT_TRUE(parsed.keep_going && parsed.silent && parsed.ignore_errors);
  EXPECT_EQ(parsed.goals, Words{"all"});
  EXPECT_FALSE(call({"-kS"}).keep_going);
}

TEST(MakeCall, ValuesMayStandApart) {
  for (const Words& words : {Words{"-fclay.mk", "-Cparts", "-Iinc"}, Words{"-f", "clay.mk", "-C", "parts", "-I", "inc"},
                             Words{"--file=clay.mk", "--directory", "parts", "--include-dir=inc"},
                             Words{"-sf", "clay.mk", "-C", "parts", "-I", "inc"}}) {
    const Call parsed = call(words);
    EXPECT_EQ(parsed.makefiles, Words{"clay.mk"});
    EXPECT_EQ(parsed.folder, "/yard/parts");
    EXPECT_EQ(parsed.include_folders, Words{"inc"});
    EXPECT_TRUE(parsed.goals.empty());
  }
  EXPECT_EQ(call({"-C", "a", "-C", "b"}).folder, "/yard/a/b");
  EXPECT_EQ(call({"-C", "/a"}).folder, "/a");
}

TEST(MakeCall, HowManyAtOnce) {
  EXPECT_EQ(call({"-j4"}).jobs, 4U);
  EXPECT_EQ(call({"-j", "4", "all"}).jobs, 4U);
  EXPECT_EQ(call({"-j", "all"}).jobs, 0U);
  EXPECT_EQ(call({"-j", "all"}).goals, Words{"all"});
  EXPECT_EQ(call({"-kj3s"}).jobs, 3U);
  EXPECT_TRUE(call({"-kj3s"}).silent);
  EXPECT_EQ(call({"--jobs=5"}).jobs, 5U);
  EXPECT_EQ(call({"-j0"}).jobs, 1U);
  EXPECT_EQ(call({"-l2.5", "all"}).goals, Words{"all"});
}

TEST(MakeCall, AssignmentsAreNoGoals) {
  const Call parsed = call({"CC=cc", "all", "OPT:=-O2 -g", "LIST+=x", "E=", "--", "-odd", "A=b"});
  EXPECT_EQ(parsed.assignments, (Words{"CC=cc", "OPT:=-O2 -g", "LIST+=x", "E=", "A=b"}));
  EXPECT_EQ(parsed.goals, (Words{"all", "-odd"}));
}

TEST(MakeCall, WhatCallersHandOnCountsFirst) {
  const Call parsed = call({"OPT=new", "check"}, {{"MAKEFLAGS", "ks -- OPT='old one' CC=cc"}, {"MAKELEVEL", "2"}});
  EXPECT_TRUE(parsed.keep_going && parsed.silent);
  EXPECT_EQ(parsed.assignments, (Words{"OPT=old one", "CC=cc", "OPT=new"}));
  EXPECT_EQ(parsed.goals, Words{"check"});
  EXPECT_EQ(parsed.level, 2);
  // Goals are never handed on, nor are the channels of other makes.
  const Call other = call({}, {{"MAKEFLAGS", "k -j --jobserver-auth=3,4"}});
  EXPECT_TRUE(other.keep_going);
  EXPECT_TRUE(other.goals.empty());
  EXPECT_EQ(other.jobs, 0U);
}

TEST(MakeCall, AssignmentsAreHandedOnQuoted) {
  const Call parsed = call({"-k", "OPT=a b", "Q='x'", "-Iinc dir"});
  const Call again = call({}, {{"MAKEFLAGS", flags_text(parsed)}});
  EXPECT_EQ(again.assignments, parsed.assignments);
  EXPECT_EQ(again.include_folders, parsed.include_folders);
  EXPECT_TRUE(again.keep_going);
}

TEST(MakeCall, OptionsThatNobodyKnows) {
  for (const Words& words : {Words{"--bake"}, Words{"-Z"}, Words{"-kZ"}, Words{"-f"}, Words{"--file"}, Words{"-C"}}) {
    const auto parsed = parse_call(words, {}, "/yard");
    ASSERT_FALSE(parsed.ok()) << words[0];
    EXPECT_EQ(parsed.problem().exit, Exit::usage);
    EXPECT_NE(parsed.problem().what.find(words[0]), std::string::npos);
    EXPECT_NE(parsed.problem().remedy, "");
  }
}

}  // namespace
}  // namespace coctilis::describe::makefile
