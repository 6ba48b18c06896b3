// The language of makefiles: what it says, what it makes, and what it does not take.
#include <unistd.h>

#include "base/text.h"
#include "describe/makefile/words.h"
#include "describe/makefile_reading.h"

namespace coctilis::test {
namespace {

using namespace describe::makefile;  // NOLINT: this file is about it
using Words = std::vector<std::string>;

class MakefileTest : public MakefileReading {
 protected:
  // "target <- inputs | order-only: lines", for each recipe.
  Words recipes(const std::string& text, std::vector<std::string> goals = {}) {
    try {
      Make it = make(text);
      Words out;
      for (const auto& recipe : it.recipes(goals)) {
        std::string line = recipe.name + " <-";
        for (const auto& input : recipe.inputs) line += " " + files::below(input, tree.path());
        if (!recipe.after.empty()) line += " |";
        for (const auto& input : recipe.after) line += " " + files::below(input, tree.path());
        line += ":";
        for (const auto& one : recipe.lines) line += " [" + one.command + "]";
        out.push_back(line);
      }
      return out;
    } catch (const Fault& fault) {
      return {fault.problem().place.text() + ": " + fault.problem().what};
    }
  }
  Problem refused(const std::string& text, const std::vector<std::string>& goals = {}) {
    try {
      (void)make(text).recipes(goals);
    } catch (const Fault& fault) {
      return fault.problem();
    }
    return {};
  }
};

using Said1 = Saying;
class Language : public MakefileTest, public testing::WithParamInterface<Said1> {};
TEST_P(Language, Says) { EXPECT_EQ(says(GetParam().text), GetParam().says); }

INSTANTIATE_TEST_SUITE_P(
    Variables, Language,
    testing::Values(
        Said1{"RecursiveIsWorkedOutWhenUsed", "A = $(B)\nB = clay\n$(info $(A))", {"clay"}},
        Said1{"SimpleIsWorkedOutAtOnce", "B = clay\nA := $(B)\nB = loam\n$(info $(A))", {"clay"}},
        Said1{"PosixSimple", "B = 1\nA ::= $(B)\nB = 2\n$(info $(A))", {"1"}},
        Said1{"ExpandedOnceKeepsDollars", "B = $$x\nA :::= $(B)\n$(info $(value A))", {"$$x"}},
        Said1{"AppendKeepsTheKind",
              "A := 1\nB = 2\nA += $(B)\nB = 3\nC = 1\nC += $(B)\nB = 4\n$(info $(A) $(C))",
              {"1 2 1 4"}},
        Said1{"IfUnset", "A ?= 1\nA ?= 2\n$(info $(A))", {"1"}},
        Said1{"FromAShell", "A != echo clay; echo loam\n$(info $(A))", {"clay loam"}},
        Said1{"Nested", "clay_cone = 6\nkind = clay\n$(info $($(kind)_cone) $(${kind}_cone))", {"6 6"}},
        Said1{"OneLetterNames", "A = x\n$(info $A$(A)$$A)", {"xx$A"}},
        Said1{"SubstitutionReferences",
              "S = a.c b.c d.h\n$(info $(S:.c=.o) $(S:%.c=obj/%.o))",
              {"a.o b.o d.h obj/a.o obj/b.o d.h"}},
        Said1{"LinesAreJoined", "A = one \\\n    two\\\n three\n$(info $(A))", {"one two three"}},
        Said1{"CommentsEndLines", "A = a# b\nB = \\# c\n$(info [$(A)] $(B))", {"[a] # c"}},
        Said1{"DefinitionsOfSeveralLines", "define A\none\ntwo $(X)\nendef\nX = 3\n$(info $(A))", {"one\ntwo 3"}},
        Said1{"NestedDefinitions", "define A\ndefine B\nx\nendef\nendef\n$(eval $(A))\n$(info $(B))", {"x"}},
        Said1{"Undefine", "A = 1\nundefine A\n$(info [$(A)] $(origin A))", {"[] undefined"}},
        Said1{"WhereValuesComeFrom",
              "A = 1\n$(info $(origin A) $(origin CC) $(origin PATH) $(origin NONE) $(flavor A))",
              {"file default environment undefined recursive"}},
        Said1{"SpacesOfAValueStayAtItsEnd", "A = 1  # two blanks\n$(info [$(A)])", {"[1  ]"}},
        Said1{"SeveralNamesOfTheCommandLine", "$(info $(MAKECMDGOALS)$(MAKELEVEL))", {"0"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Functions, Language,
    testing::Values(
        Said1{"Texts",
              "$(info $(subst ee,EE,feet on the street) $(strip  a   b ) $(findstring a,a b c))",
              {"fEEt on the strEEt a b a"}},
        Said1{"Filters", "$(info $(filter %.c %.s,a.c b.h c.s) $(filter-out %.c,a.c b.h))", {"a.c c.s b.h"}},
        Said1{"Lists",
              "L = c a b a\n$(info $(sort $(L)) $(word 2,$(L)) $(wordlist 2,3,$(L)) $(words $(L)) $(firstword $(L)) "
              "$(lastword $(L)))",
              {"a b c a a b 4 c a"}},
        Said1{"Names",
              "N = src/a.c b.tar.gz hacks\n$(info $(dir $(N)) $(notdir $(N)) $(suffix $(N)) $(basename $(N)))",
              {"src/ ./ ./ a.c b.tar.gz hacks .c .gz src/a b.tar hacks"}},
        Said1{"Affixes",
              "$(info $(addsuffix .o,a b) $(addprefix lib,a b) $(join a b,.c .o))",
              {"a.o b.o liba libb a.c b.o"}},
        Said1{"Patsubst", "$(info $(patsubst %.c,%.o,x.c.c y.h) $(patsubst src/%,obj/%,src/a))", {"x.c.o y.h obj/a"}},
        Said1{"Conditions", "$(info $(if ,a,b) $(if x,a,b) $(or ,,c) $(and a,b) [$(and a,,b)])", {"b a c b []"}},
        Said1{"Numbers",
              "$(info $(intcmp 1,2,less,same,more) $(intcmp 2,2,less,same,more) $(intcmp 3,2,less,same,more))",
              {"less same more"}},
        Said1{"Foreach", "$(info $(foreach k,a b c,<$(k)>))", {"<a> <b> <c>"}},
        Said1{"Let", "$(info $(let a b,1 2 3,$(b)-$(a)))", {"2 3-1"}},
        Said1{"Call", "swap = $(2) $(1)\n$(info $(call swap,a,b))", {"b a"}},
        Said1{"CallsThatCall", "two = $(1)$(1)\nfour = $(call two,$(call two,$(1)))\n$(info $(call four,x))", {"xxxx"}},
        Said1{"Eval", "$(foreach n,A B,$(eval $(n)_X := $(n)!))\n$(info $(A_X) $(B_X))", {"A! B!"}},
        Said1{"EvalOfATemplate",
              "define T\n$(1)_S = $(2)\nendef\n$(eval $(call T,kiln,a.c b.c))\n$(info $(kiln_S))",
              {"a.c b.c"}},
        Said1{"Shell", "$(info $(shell printf 'a\\nb\\n'))", {"a b"}},
        Said1{"CommasInBrackets", "$(info $(subst x,$(if a,(b,c)),x))", {"(b,c)"}},
        Said1{"OwnNamesAreNoFunctions", "sort = mine\n$(info $(sort))", {"mine"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Conditionals, Language,
    testing::Values(
        Said1{"Ifeq", "A = x\nifeq ($(A),x)\n$(info yes)\nelse\n$(info no)\nendif", {"yes"}},
        Said1{"IfeqInQuotes", "ifeq \"a\" 'a'\n$(info yes)\nendif", {"yes"}},
        Said1{
            "ElseIf", "A = 2\nifeq ($(A),1)\n$(info 1)\nelse ifeq ($(A),2)\n$(info 2)\nelse\n$(info 3)\nendif", {"2"}},
        Said1{"Ifdef",
              "A =\nB = 1\nifdef A\n$(info a)\nendif\nifdef B\n$(info b)\nendif\nifndef C\n$(info c)\nendif",
              {"b", "c"}},
        Said1{"NestedAndLeftOut",
              "ifdef NONE\nifdef PATH\n$(info no)\nelse\n$(info no)\nendif\nelse\n$(info yes)\nendif",
              {"yes"}},
        Said1{"DefinitionsThatAreLeftOut", "ifdef NONE\ndefine X\nendif\nendef\nendif\n$(info [$(X)])", {"[]"}}),
    name_of_saying);

TEST_F(MakefileTest, CommandLineAndEnvironment) {
  EXPECT_EQ(says("A = 1\nB ?= 2\n$(info $(A) $(B) $(origin A))", {"A=9"}), (Words{"9 2 command line"}));
  EXPECT_EQ(says("override A += 2\n$(info $(A))", {"A=1"}), (Words{"1 2"}));
  environment["B"] = "outer";
  EXPECT_EQ(says("B ?= 2\n$(info $(B))"), (Words{"outer"}));
  EXPECT_EQ(says("B = 2\n$(info $(B))"), (Words{"2"}));
  EXPECT_EQ(says("B = 2\n$(info $(B))", {"-e"}), (Words{"outer"}));
  environment["MAKEFLAGS"] = "ks -- C=3";
  EXPECT_EQ(says("$(info $(C) $(MAKEFLAGS))"), (Words{"3 ks -- C=3"}));
}

// ---- rules
// -----------------------------------------------------------------------------------------------------------

TEST_F(MakefileTest, TheEnvironmentComesBeforeWhatIsBuiltIn) {
  environment["CC"] = "claycc";
  EXPECT_EQ(says("$(info $(CC) $(origin CC) $(COMPILE.c))"), Words{"claycc environment claycc    -c"});
  EXPECT_EQ(says("CC = own\n$(info $(CC) $(origin CC))"), Words{"own file"});
  EXPECT_EQ(says("CC ?= own\n$(info $(CC))"), Words{"claycc"});
}

TEST_F(MakefileTest, ExplicitRulesAndAutomaticVariables) {
  for (const char* file : {"a.c", "b.c"}) tree.write(file, "");
  EXPECT_EQ(recipes("all: kiln\nkiln: a.o b.o a.o\n\tld -o $@ $^ $+ $(@F)\na.o: a.c\n\tcc $< $*\nb.o: b.c\n\tcc $<\n"),
            (Words{"a.o <- a.c: [cc a.c a]", "b.o <- b.c: [cc b.c]",
                   "kiln <- a.o b.o: [ld -o kiln a.o b.o a.o b.o a.o kiln]"}));
}

TEST_F(MakefileTest, PatternRulesSearchShortestStemFirst) {
  tree.write("src/a.c", "");
  EXPECT_EQ(recipes("all: obj/a.o\nobj/%.o: src/%.c\n\tcc -o $@ $<\n%.o: %.c\n\twrong\n"),
            (Words{"obj/a.o <- src/a.c: [cc -o obj/a.o src/a.c]"}));
  // A folder that the pattern does not name is a part of what it leaves open.
  tree.write("src/deep/down/b.c", "");
  EXPECT_EQ(recipes("%.o: %.c\n\twrong\nsrc/%.o: src/%.c\n\tcc -o $@ $<\n", {"src/deep/down/b.o"}),
            (Words{"src/deep/down/b.o <- src/deep/down/b.c: [cc -o src/deep/down/b.o src/deep/down/b.c]"}));
}

TEST_F(MakefileTest, PatternRulesOfFoldersAndOfFixedNames) {
  for (const char* name : {"src/a.c", "sub/b.c", "conf.h", "c.y"}) tree.write(name, "");
  const std::string rules =
      "obj/%.o: src/%.c conf.h\n\tone $< $*\n%.o: conf.h\n\ttwo $@ $*\n%.tab: %.y\n\tthree $@\n"
      "lib%.a: %.o\n\tfour $@ $*\n";
  EXPECT_EQ(recipes(rules, {"obj/a.o"}), (Words{"obj/a.o <- src/a.c conf.h: [one src/a.c a]"}));
  // A name without '%' is not looked for in the target's folder.
  EXPECT_EQ(recipes(rules, {"sub/b.o"}), (Words{"sub/b.o <- conf.h: [two sub/b.o sub/b]"}));
  EXPECT_EQ(recipes(rules, {"./c.tab"}), (Words{"c.tab <- c.y: [three c.tab]"}));
  EXPECT_EQ(recipes(rules, {"sub/libb.a"}),
            (Words{"sub/b.o <- conf.h: [two sub/b.o sub/b]", "sub/libb.a <- sub/b.o: [four sub/libb.a sub/b]"}));
}

TEST_F(MakefileTest, RulesForAnyNameComeInTheirPlace) {
  tree.write("a.in", "");
  tree.write("kiln.sh", "");
  EXPECT_EQ(recipes("%: %.in\n\tmake-it $@\nall: a kiln\n", {"all"}),
            (Words{"a <- a.in: [make-it a]", "kiln <- kiln.sh: [cat kiln.sh >kiln] [chmod a+x kiln]"}));
  // A name that a more special pattern fits is not tried with those for any name.
  EXPECT_EQ(refused("%: %.in\n\tmake-it $@\n%.o: %.c\n\tcc $<\n", {"a.o"}).what, "nothing makes 'a.o'");
}

TEST_F(MakefileTest, FilesThatCommandsMakeWhileItIsReadAreSeen) {
  EXPECT_EQ(says("A := $(wildcard *.c)\nB := $(shell touch clay.c)\n$(info [$(A)] [$(wildcard *.c)])"),
            (Words{"[] [clay.c]"}));
  EXPECT_EQ(recipes("A := $(wildcard *)\nB := $(shell touch loam.c)\nloam.o:\n", {"loam.o"}).front().substr(0, 16),
            "loam.o <- loam.c");
}

TEST_F(MakefileTest, AnUnsetCommandIsToldOfAlsoInASecondReading) {
  Make it = make("include conf.mk\nall:\n\t$(STAMPER) -x\nconf.mk:\n\t$(STAMPER) -y 2>/dev/null; echo CONE = 6 > $@\n");
  static_cast<void>(it.recipes({}));
  ASSERT_EQ(it.warnings().size(), 1U);
  EXPECT_NE(it.warnings()[0].what.find("$(STAMPER), which nothing sets"), std::string::npos);
}

TEST_F(MakefileTest, DocumentsWithoutTheirSourcesAreLeftOut) {
  tree.write("kiln.c", "");
  const std::string text =
      "all: kiln kiln.info install-page\nkiln: kiln.c\n\tcc $<\nkiln.info: kiln.texi part.info\n\tmakeinfo $<\n"
      "part.info: part.in\n\tmakeinfo $<\npart.in: kiln.c\n\tsed $< >$@\ninstall-page: kiln.1\n\tcp $< there\n"
      "kiln.1: kiln.man.in\n\tsed $< >$@\n";
  Make it = make(text);
  Words names;
  for (const auto& recipe : it.recipes({})) names.push_back(recipe.name);
  EXPECT_EQ(names, (Words{"kiln", "install-page"}));
  ASSERT_EQ(it.left_out().size(), 2U);
  EXPECT_EQ(it.left_out()[0].name, "kiln.info");
  EXPECT_EQ(it.left_out()[1].name, "kiln.1");
  EXPECT_NE(it.warnings().back().what.find("nothing makes 'kiln.man.in'"), std::string::npos);
  // Asked for by name it has to be made; and what is no document needs its source.
  EXPECT_EQ(refused(text, {"kiln.info"}).what, "nothing makes 'kiln.texi', which 'kiln.info' needs");
  EXPECT_EQ(refused("all: kiln.stamp\nkiln.stamp: kiln.texi\n\ttouch $@\n").what,
            "nothing makes 'kiln.texi', which 'kiln.stamp' needs");
}

TEST_F(MakefileTest, WhatARecipeBeforeItMayMakeIsWaitedFor) {
  // A recipe that names it, or that calls other makes.
  EXPECT_EQ(recipes("all: Cone C1\nCone:\n\tln -s Cone C1\n").at(1).substr(0, 30), "C1 <- | Cone: [test -e C1 || {");
  const std::string inner = "kiln: inner inner/libclay.a\n\tcc $^\ninner:\n\t$(MAKE) -C inner\n.PHONY: inner\n";
  Make it = make(inner);
  const auto all = it.recipes({});
  ASSERT_EQ(all.size(), 3U);
  EXPECT_EQ(all[1].name, "inner/libclay.a");
  EXPECT_EQ(all[1].after, Words{tree.path("inner")});
  EXPECT_NE(all[1].lines.at(0).command.find("nothing makes"), std::string::npos);
  EXPECT_TRUE(all[1].lines.at(0).silent);
  // Not when it stands before, nor when nothing before it has anything to do with it, nor for what it needs in turn.
  EXPECT_EQ(refused("all: C1 Cone\nCone:\n\tln -s Cone C1\n").what, "nothing makes 'C1', which 'all' needs");
  EXPECT_EQ(refused("all: Cone C2\nCone:\n\tln -s Cone C1\n").what, "nothing makes 'C2', which 'all' needs");
  EXPECT_EQ(refused("all: Cone x\nCone:\n\techo C1 x\nx: C1\n\ttrue\n").what, "nothing makes 'C1', which 'x' needs");
  EXPECT_EQ(refused("all: Cone C1/\nCone:\n\tln -s Cone C2\n").what, "nothing makes 'C1/', which 'all' needs");
  // A document whose source is not there is left out all the same.
  EXPECT_EQ(make("all: doc.info\ndoc.info: a.texi C1\n\tx\na.texi:\n\techo C1\n").recipes({}).size(), 0U);
  // And one that is a source itself, by where it lies.
  Make documents = make("all: kiln docs/cones.txt\nkiln:\n\techo kiln\n");
  EXPECT_EQ(documents.recipes({}).size(), 1U);
  ASSERT_EQ(documents.left_out().size(), 1U);
  EXPECT_EQ(documents.left_out()[0].name, "docs/cones.txt");
  EXPECT_EQ(refused("all: kiln src/cones.txt\nkiln:\n\techo kiln\n").what,
            "nothing makes 'src/cones.txt', which 'all' needs");
}

TEST_F(MakefileTest, LibrariesByNameAreLookedForWhereFilesAre) {
  tree.write("parts/libclay.a", "!<arch>\n");
  Make it = make("vpath lib%.a parts\nkiln: -lclay\n\tcc -o $@ $^\n");
  const auto all = it.recipes({});
  ASSERT_EQ(all.size(), 1U);
  EXPECT_EQ(all[0].lines.at(0).command, "cc -o kiln parts/libclay.a");
  EXPECT_EQ(refused("kiln: -lno_such_clay\n\tcc -o $@ $^\n").what,
            "nothing makes '-lno_such_clay', which 'kiln' needs");
}

TEST_F(MakefileTest, ALinkToNowhereIsNoFile) {
  std::filesystem::create_symlink("nowhere", tree.path("clay.c"));
  std::filesystem::create_symlink("Makefile", tree.path("loam"));
  EXPECT_EQ(refused("all: clay.c\n").what, "nothing makes 'clay.c', which 'all' needs");
  EXPECT_EQ(recipes("all: loam\n\tx $<\n"), (Words{"all <- loam: [x loam]"}));
}

TEST_F(MakefileTest, ChainsOfPatternRules) {
  tree.write("clay.y", "");
  EXPECT_EQ(recipes("all: clay.o\n%.o: %.c\n\tcc $<\n%.c: %.y\n\tyacc $<\n"),
            (Words{"clay.c <- clay.y: [yacc clay.y]", "clay.o <- clay.c: [cc clay.c]"}));
}

TEST_F(MakefileTest, StaticPatternRules) {
  tree.write("a.c", "");
  tree.write("b.c", "");
  EXPECT_EQ(recipes("O = a.o b.o\nall: $(O)\n$(O): %.o: %.c\n\tcc $< $*\n"),
            (Words{"a.o <- a.c: [cc a.c a]", "b.o <- b.c: [cc b.c b]"}));
}

TEST_F(MakefileTest, SuffixRules) {
  tree.write("a.clay", "");
  EXPECT_EQ(recipes(".SUFFIXES: .clay .brick\nall: a.brick\n.clay.brick:\n\tfire $< $@ $*\n"),
            (Words{"a.brick <- a.clay: [fire a.clay a.brick a]"}));
}

TEST_F(MakefileTest, BuiltInRulesCanBeTakenAway) {
  tree.write("a.c", "");
  EXPECT_EQ(recipes("all: a.o\nCFLAGS = -O1\n"), (Words{"a.o <- a.c: [cc -O1   -c -o a.o a.c]"}));
  EXPECT_EQ(recipes("a: a.c\n"), (Words{"a <- a.c: [cc     a.c   -o a]"}));
  EXPECT_EQ(refused(".SUFFIXES:\nall: a.o\n").what, "nothing makes 'a.o', which 'all' needs");
}

TEST_F(MakefileTest, OrderOnlyPhonyAndNames) {
  tree.write("a.c", "");
  EXPECT_EQ(
      recipes(
          ".PHONY: all dirs\nall: a.o | dirs\n\techo $^ $|\na.o: a.c | obj\n\tcc\nobj:\n\tmkdir $@\ndirs:\n\ttrue\n"),
      (Words{"obj <-: [mkdir obj]", "a.o <- a.c | obj: [cc]", "dirs <-: [true]",
             "all <- a.o | dirs: [echo a.o dirs]"}));
}

TEST_F(MakefileTest, DoubleColonRulesAllRun) {
  EXPECT_EQ(recipes("all::\n\techo 1\nall::\n\techo 2\n"), (Words{"all <-: [echo 1] [echo 2]"}));
  // Without prerequisites it is run though the target is there.
  tree.write("log", "");
  EXPECT_TRUE(make("log::\n\techo 1\n").recipes({})[0].always);
  // Each sees the prerequisites of its own rule, and is due by them.
  tree.write("a", "");
  tree.write("b", "");
  Make each = make("log:: a\n\techo 1 $^\nlog:: b\n\techo 2 $^\n");
  auto all = each.recipes({});
  ASSERT_EQ(all.size(), 1U);
  EXPECT_TRUE(all[0].late);
  EXPECT_EQ(all[0].inputs, (Words{tree.path("a"), tree.path("b")}));
  auto lines = each.late_lines(all[0]);
  ASSERT_EQ(lines.size(), 2U);
  EXPECT_EQ(lines[1].command, "echo 2 b");
  ::usleep(20000);
  tree.write("log", "");
  ::usleep(20000);
  tree.write("b", "again");
  lines = each.late_lines(all[0]);
  ASSERT_EQ(lines.size(), 1U);
  EXPECT_EQ(lines[0].command, "echo 2 b");
  EXPECT_FALSE(make("log:: Makefile\n\techo 1\n").recipes({})[0].always);
}

TEST_F(MakefileTest, GroupedTargetsAreMadeOnce) {
  tree.write("p.y", "");
  EXPECT_EQ(recipes("all: p.c p.h\np.c p.h &: p.y\n\tyacc $<\n"), (Words{"p.c <- p.y: [yacc p.y]"}));
  EXPECT_EQ(recipes("all: p.c p.h\n%.c %.h: %.y\n\tyacc $<\n"), (Words{"p.c <- p.y: [yacc p.y]"}));
}

TEST_F(MakefileTest, SpecificVariablesReachPrerequisites) {
  tree.write("a.c", "");
  EXPECT_EQ(
      recipes(
          "all: kiln\nkiln: X = hot\nkiln: a.o\n\tld $(X)\na.o: a.c\n\tcc $(X)\na.o: private Y = mine\n%.o: Z := p\n"),
      (Words{"a.o <- a.c: [cc hot]", "kiln <- a.o: [ld hot]"}));
}

TEST_F(MakefileTest, SecondExpansion) {
  for (const char* file : {"a.x", "kiln.dep"}) tree.write(file, "");
  EXPECT_EQ(recipes(".SECONDEXPANSION:\nall: kiln\nkiln_P = a.x\nkiln: $$($$@_P) $$@.dep\n\tmake $^\n"),
            (Words{"kiln <- a.x kiln.dep: [make a.x kiln.dep]"}));
}

TEST_F(MakefileTest, MembersOfArchives) {
  tree.write("cone.c", "");
  tree.write("body.c", "");
  // Members are put in one after the other, in one recipe: two at once would spoil the file.
  const std::string rules = "fire: libclay.a(cone.o body.o)\n\tcc $^\n(%): %\n\tar rv $@ $%\n%.o: %.c\n\tcc $<\n";
  EXPECT_EQ(recipes(rules), (Words{"cone.o <- cone.c: [cc cone.c]", "body.o <- body.c: [cc body.c]",
                                   "libclay.a <- cone.o body.o: [ar rv libclay.a cone.o] [ar rv libclay.a body.o]",
                                   "fire <- libclay.a: [cc cone.o body.o]"}));
  // A recipe of the archive's own comes behind its members.
  EXPECT_EQ(recipes("libclay.a: libclay.a(cone.o)\n\tranlib $@\nlibclay.a(cone.o): cone.c\n\tcc $<; ar r $@ $%\n"),
            (Words{"libclay.a <- cone.c: [cc cone.c; ar r libclay.a cone.o] [ranlib libclay.a]"}));
  // The suffix rule of the standard, and the one that is built in for strict makefiles only.
  EXPECT_EQ(recipes(".c.a:\n\tput $*.o into $@\nlibclay.a: libclay.a(cone.o)\n"),
            (Words{"libclay.a <- cone.c: [put cone.o into libclay.a]"}));
  EXPECT_EQ(recipes("AR = ar\nlibclay.a: libclay.a(cone.o)\n").size(), 2U);
  EXPECT_EQ(recipes(".POSIX:\nlibclay.a: libclay.a(cone.o)\n").size(), 1U);
  const auto problem = refused("fire: libclay.a(glaze.o)\n\tcc\n");
  EXPECT_EQ(problem.what, "nothing makes 'libclay.a(glaze.o)', which 'fire' needs");
}

TEST_F(MakefileTest, MembersAskedForLaterAreNotLost) {
  tree.write("cone.o", "");
  tree.write("body.o", "");
  auto it = make("fire: l.a(cone.o)\n\tcc\nglow: l.a(body.o)\n\tcc\n(%): %\n\tar r $@ $%\n");
  ASSERT_EQ(it.recipes({}).size(), 2U);
  const auto later = it.recipes({"glow"});
  ASSERT_EQ(later.size(), 2U);
  EXPECT_EQ(later[0].lines[0].command, "ar r l.a body.o");
  EXPECT_EQ(later[0].after, Words{tree.path("l.a")});
}

TEST_F(MakefileTest, SearchPaths) {
  tree.write("src/a.c", "");
  tree.write("inc/b.h", "");
  EXPECT_EQ(recipes("VPATH = src\nvpath %.h inc\nall: a.o\na.o: a.c b.h\n\tcc $<\n"),
            (Words{"a.o <- src/a.c inc/b.h: [cc src/a.c]"}));
}

TEST_F(MakefileTest, LinesOfARecipe) {
  EXPECT_EQ(recipes("define two\none\n@two\nendef\nall:\n\t$(two)\n\t-@echo a \\\n\t b\n\t@$(if x, \\\n\t  echo c)\n"),
            (Words{"all <-: [one] [two] [echo a \\\n b] [echo c]"}));
  const auto made = make("all:\n\t-@false\n\t+true\n\t$(MAKE) -C sub\n").recipes({});
  ASSERT_EQ(made[0].lines.size(), 3U);
  EXPECT_TRUE(made[0].lines[0].silent && made[0].lines[0].ignore_errors);
  EXPECT_TRUE(made[0].lines[1].always && made[0].lines[2].always);
}

TEST_F(MakefileTest, RecipesThatDependOnTheMomentWait) {
  tree.write("a", "");
  auto it = make("all: a\n\techo $? $(shell echo now) $(wildcard *.b)\n");
  const auto made = it.recipes({});
  ASSERT_TRUE(made[0].late);
  tree.write("x.b", "");
  EXPECT_EQ(it.late_lines(made[0])[0].command, "echo a now x.b");
}

TEST_F(MakefileTest, IncludedMakefilesAreMadeAndReadAgain) {
  EXPECT_EQ(recipes("include conf.mk\nall:\n\techo $(CONE)\nconf.mk:\n\techo CONE = 6 > $@\n"),
            (Words{"all <-: [echo 6]"}));
  EXPECT_EQ(tree.read("conf.mk"), "CONE = 6\n");
  EXPECT_EQ(recipes("-include none.mk\nall:\n\techo\n"), (Words{"all <-: [echo]"}));
}

TEST_F(MakefileTest, ExportedVariablesAreHandedOn) {
  const auto made = make("export A = 1\nB = 2\nC = 3\nexport C\nall:\n\ttrue\n", {"D=4"}).recipes({});
  const auto& given = made[0].environment.values();
  EXPECT_EQ(given.at("A"), "1");
  EXPECT_FALSE(given.contains("B"));
  EXPECT_EQ(given.at("C"), "3");
  EXPECT_EQ(given.at("D"), "4");
  EXPECT_EQ(given.at("MAKELEVEL"), "1");
  EXPECT_EQ(given.at("MAKEFLAGS"), "-- D=4");
}

TEST_F(MakefileTest, WhatCameFromTheEnvironmentGoesBackAsItCame) {
  environment["LOADED"] = "/usr/$LIB/glaze.so";
  const auto made = make("export\nall:\n\ttrue\n").recipes({});
  const auto& given = made[0].environment.values();
  EXPECT_TRUE(!given.contains("LOADED") || given.at("LOADED") == "/usr/$LIB/glaze.so");
}

TEST_F(MakefileTest, ExportedValuesFromAShellDoNotAskForThemselves) {
  EXPECT_EQ(says("export V = $(shell echo 2)\nexport W = $(shell echo $$V)\n$(info $(shell echo $$V) $(V))"),
            (Words{"2 2"}));
}

TEST_F(MakefileTest, AVariableMayGiveItselfAnotherValueWhenItIsFirstUsed) {
  EXPECT_EQ(says("X = $(eval X := $$(shell echo 7))$(X)\n$(info $(X) $(X))"), (Words{"7 7"}));
  auto made = make("export X = $(eval X := $$(shell echo 7))$(X)\nall:\n\t@echo $(X)\n");
  const auto recipes = made.recipes({});
  ASSERT_EQ(recipes.size(), 1U);
  ASSERT_TRUE(recipes[0].late);
  EXPECT_EQ(made.late_lines(recipes[0]).at(0).command, "echo 7");
}

TEST_F(MakefileTest, TheShellMayHaveWordsOfItsOwn) {
  EXPECT_EQ(says("SHELL = /bin/sh -e\n$(info $(shell false; echo on)$(shell echo 2))"), (Words{"2"}));
  const auto made = make("SHELL = /bin/sh -e\nall:\n\ttrue\n").recipes({});
  EXPECT_EQ(made[0].shell, (Words{"/bin/sh", "-e", "-c"}));
}

TEST_F(MakefileTest, SeveralTemplatesMakeRules) {
  tree.write("fire.c", "");
  tree.write("cool.c", "");
  EXPECT_EQ(recipes("PROGRAMS = fire cool\nall: $(PROGRAMS)\ndefine PROGRAM\n$(1): $(1).c\n\tcc -o $$@ $$<\nendef\n"
                    "$(foreach p,$(PROGRAMS),$(eval $(call PROGRAM,$(p))))\n"),
            (Words{"fire <- fire.c: [cc -o fire fire.c]", "cool <- cool.c: [cc -o cool cool.c]"}));
}

// ---- what is not taken
// -----------------------------------------------------------------------------------------------

TEST_F(MakefileTest, SaysWhatIsWrongAndWhere) {
  const auto expect = [&](const std::string& text, const std::string& place, const std::string& what) {
    const Problem problem = refused(text);
    EXPECT_EQ(problem.place.text(), place) << text;
    EXPECT_NE(problem.what.find(what), std::string::npos) << problem.what;
    EXPECT_EQ(problem.exit, Exit::description);
  };
  expect("all: kiln.o\n", "Makefile:1", "nothing makes 'kiln.o', which 'all' needs");
  expect("all: a\na: b\nb: a\n", "Makefile:3", "in a circle");
  expect("all:\n    echo hello\n", "Makefile:2", "neither an assignment nor a rule");
  expect("\techo hello\nall:\n", "Makefile:1", "a recipe line stands before any rule");
  expect("ifdef X\nall:\n", "Makefile:1", "never closed");
  expect("endif\n", "Makefile:1", "closes nothing");
  expect("define X\nall:\n", "Makefile:1", "'define' without 'endef'");
  expect("A = $(B\nall:\n\techo $(A)\n", "Makefile:3", "never closed");
  expect("A = $(A) x\n$(info $(A))\nall:\n", "Makefile:2", "refers to itself");
  expect("include missing.mk\nall:\n", "Makefile:1", "'missing.mk' is not there");
  expect("all:\n$(error too hot)\n", "Makefile:2", "too hot");
  expect("", "Makefile", "makes nothing");
  EXPECT_NE(refused("all:\n    echo hello\n").remedy.find("begins with a tab"), std::string::npos);
  EXPECT_NE(refused("all: kiln\nkilm:\n\ttrue\n").remedy.find("did you mean 'kilm'?"), std::string::npos);
}

TEST_F(MakefileTest, EndlessThingsEnd) {
  tree.write("self.mk", "include self.mk\n");
  EXPECT_NE(refused("include self.mk\nall:\n").what.find("200 deep"), std::string::npos);
  EXPECT_NE(refused("f = $(call f)\n$(info $(call f))\nall:\n").what.find("deep"), std::string::npos);
  EXPECT_NE(refused("all: a1\na%: b%\n\ttrue\nb%: a%x\n\ttrue\n").what.find("nothing makes"), std::string::npos);
  try {
    (void)make(
        "$(foreach a,1 2 3 4 5 6 7 8 9,$(foreach b,1 2 3 4 5 6 7 8 9,$(foreach c,1 2 3 4 5 6 7 8 9,$(a))))\nall:\n", {},
        {100, 16ULL << 30U});
    ADD_FAILURE() << "no limit";
  } catch (const Fault& fault) {
    EXPECT_NE(fault.problem().what.find("more than 100 references"), std::string::npos);
  }
}

TEST(MakefileWords, Patterns) {
  std::string stem;
  EXPECT_TRUE(match_pattern("lib%.a", "libclay.a", stem));
  EXPECT_EQ(stem, "clay");
  EXPECT_FALSE(match_pattern("lib%.a", "lib.", stem));
  EXPECT_TRUE(match_pattern("a\\%b", "a%b", stem));
  EXPECT_EQ(fill_pattern("obj/%.o", "x"), "obj/x.o");
  EXPECT_EQ(replace_pattern("x.c", "%.c", "%.o"), "x.o");
  EXPECT_EQ(plain_name("././a"), "a");
}

TEST(MakefileCall, Words) {
  const auto call =
      parse_call({"-kC", "sub", "-j4", "X=1", "all", "-f", "other.mk", "--no-print-directory"}, {}, "/yard");
  ASSERT_TRUE(call.ok());
  EXPECT_EQ(call->folder, "/yard/sub");
  EXPECT_EQ(call->jobs, 4U);
  EXPECT_TRUE(call->keep_going);
  EXPECT_EQ(call->goals, (Words{"all"}));
  EXPECT_EQ(call->assignments, (Words{"X=1"}));
  EXPECT_EQ(call->makefiles, (Words{"other.mk"}));
  EXPECT_EQ(flags_text(*call), "k -- X=1");
  EXPECT_FALSE(parse_call({"--fire"}, {}, "/yard").ok());
}

}  // namespace
}  // namespace coctilis::test
