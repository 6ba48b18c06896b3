// Rules of the language of makefiles that are easy to get wrong, each told by what it says or makes.
#include "describe/makefile_reading.h"

namespace coctilis::test {
namespace {

using namespace describe::makefile;  // NOLINT: this file is about it
using Words = std::vector<std::string>;

class Rules : public MakefileReading {
 protected:
  // The lines of the recipes that the goals need, one after the other.
  Words lines(const std::string& text, const std::vector<std::string>& goals = {},
              const std::vector<std::string>& words = {}) {
    Words out;
    try {
      Make it = make(text, words);
      for (const auto& recipe : it.recipes(goals)) {
        for (const auto& line : recipe.lines) out.push_back(line.command);
      }
    } catch (const Fault& fault) {
      out = {fault.problem().place.text() + ": " + fault.problem().what};
    }
    return out;
  }
};

using Case = Saying;
class Sayings : public Rules, public testing::WithParamInterface<Case> {};
TEST_P(Sayings, AreToTheLetter) { EXPECT_EQ(says(GetParam().text), GetParam().says); }

INSTANTIATE_TEST_SUITE_P(
    Functions, Sayings,
    testing::Values(
        Case{"WordsBeyondTheEnd",
             "$(info [$(word 9,a b)] [$(wordlist 3,2,a b c)] [$(wordlist 2,9,a b c)] [$(firstword)])",
             {"[] [] [b c] []"}},
        Case{"SortTakesDoublesOut", "$(info $(sort  b  a b c a ))", {"a b c"}},
        Case{"PatternsWithoutPercent",
             "$(info $(filter a,a ab) [$(patsubst a,x,a ab)] $(filter-out a b,a b c))",
             {"a [x ab] c"}},
        Case{"ThePercentStandsForAtLeastOneLetterOrMore",
             "$(info [$(filter a%,a ab)] [$(patsubst %c,%,c abc)])",
             {"[a ab] [ ab]"}},
        Case{"EscapedPercents", "$(info $(patsubst a\\%b,x,a%b acb) $(filter \\%,% a))", {"x acb %"}},
        Case{"EmptyArguments",
             "$(info [$(subst a,,banana)] [$(patsubst %.c,,a.c b.h)] [$(strip )] [$(addprefix x,)])",
             {"[bnn] [ b.h] [] []"}},
        Case{"CallSeesItsOwnName",
             "f = $(0):$(1):$(2)\n$(info $(call f,a b,c) $(call f) $(call none,x))",
             {"f:a b:c f:: "}},
        Case{"CallArgumentsAreWorkedOutFirst", "f = <$(1)>\nx = 1\n$(info $(call f,$(x),$(y)))", {"<1>"}},
        Case{"CommasAreDataInTheLastArgument", "$(info $(subst a,b,a,a) $(if x,a,b,c) $(strip a,b))", {"b,b a a,b"}},
        Case{"OrAndAndStopEarly",
             "$(info $(or a,$(error never)) [$(and ,$(error never))] $(if a,b,$(error never)))",
             {"a [] b"}},
        Case{"NestedForeach", "$(info $(foreach x,a b,$(foreach y,1 2,$(x)$(y))))", {"a1 a2 b1 b2"}},
        Case{"ForeachGivesTheVariableBack", "v = old\n$(info $(foreach v,a b,$(v)) $(v))", {"a b old"}},
        Case{"Paths",
             "$(info $(abspath a/../b/./c /x//y a/. . a/b/..) $(dir a/b/ c) $(notdir a/b/ c) [$(realpath nowhere)])",
             {"TREE/b/c /x/y TREE/a TREE TREE/a a/b/ ./  c []"}},
        Case{"Suffixes", "$(info [$(suffix a.b/c d.e.f .g)] [$(basename a.b/c d.e.f .g)])", {"[.f .g] [a.b/c d.e ]"}},
        Case{"JoinOfDifferentLengths", "$(info $(join a b c,1 2))", {"a1 b2 c"}},
        Case{"FilesAreWrittenAndRead",
             "$(file >note.txt,one)\n$(file >>note.txt,two)\n$(info [$(file <note.txt)] [$(file <none.txt)])",
             {"[one\ntwo] []"}},
        Case{"ValueIsNotWorkedOut", "A = $(B) $$x\n$(info $(value A))", {"$(B) $$x"}},
        Case{"EvalSeesDollarsTwice", "$(eval A = $$(B))\nB = late\n$(info $(A) $(value A))", {"late $(B)"}},
        Case{"ShellStatusOfWords", "A := $(shell echo '  a   b  ')\n$(info [$(A)])", {"[  a   b  ]"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Variables, Sayings,
    testing::Values(
        Case{"AppendToNothingIsRecursive", "A += $(B)\nB = late\n$(info $(A))", {"late"}},
        Case{"AppendToSimpleIsAtOnce", "B = now\nA := x\nA += $(B)\nB = late\n$(info $(A))", {"x now"}},
        Case{"EmptyIsNotUndefinedForIfUnset", "A =\nA ?= x\n$(info [$(A)])", {"[]"}},
        Case{"DefinedMeansNotEmpty",
             "A =\nB = $(A)\nifdef A\n$(info a)\nendif\nifdef B\n$(info b)\nendif\nifndef C\n$(info c)\nendif",
             {"b", "c"}},
        Case{"ElseChains",
             "A = 2\nifeq ($(A),1)\n$(info 1)\nelse ifeq ($(A),2)\n$(info 2)\nelse\n$(info 3)\nendif",
             {"2"}},
        Case{"ConditionsNest",
             "ifneq (a,b)\nifeq (x,y)\n$(info no)\nelse\n$(info yes)\nendif\nelse\n$(info never)\nendif",
             {"yes"}},
        Case{"BlanksAroundNames", "  A  =  b c  \n$(info [$(A)])", {"[b c  ]"}},
        Case{"NamesWithReferences", "n = A\n$(n)_x = 1\n$(n)_$(n) := 2\n$(info $(A_x) $(A_A))", {"1 2"}},
        Case{"DollarSigns", "A = $$(B) $$$$\n$(info $(A))", {"$(B) $$"}},
        Case{"HashInAReference", "H := \\#\n$(info [$(H)])", {"[#]"}},
        Case{"ContinuedLinesInVariables", "A = a \\\n\tb\\\n   c\n$(info [$(A)])", {"[a b c]"}},
        Case{"DefineWithAssignmentKinds",
             "B = 1\ndefine A :=\n$(B)\nendef\nB = 2\ndefine C +=\nx\nendef\n$(info $(A) $(C))",
             {"1 x"}},
        Case{"SubstitutionByReference", "E = .c\nS = a.c b.c\n$(info $(S:$(E)=.o) $(S:a%=x%))", {"a.o b.o x.c b.c"}},
        Case{"IncludesInOrder", "-include none.mk\nsinclude none2.mk\n$(info $(words $(MAKEFILE_LIST)))", {"1"}},
        Case{"Warnings", "$(info a)$(warning b)$(info c)", {"a", "c"}},
        Case{"ErrorsStop",
             "$(info a)\n$(error no $(words a b) clays)\n$(info c)",
             {"Makefile:2: the makefile gives up: no 2 clays"}}),
    name_of_saying);

TEST_F(Rules, CommandLineWinsUnlessOverridden) {
  EXPECT_EQ(
      says("A = file\noverride B = file\noverride C += more\n$(info $(A) $(B) $(C))", {"A=line", "B=line", "C=line"}),
      (Words{"line file line more"}));
}

TEST_F(Rules, AutomaticVariables) {
  for (const char* name : {"src/a.c", "src/b.c", "c.h"}) tree.write(name, "");
  EXPECT_EQ(lines("out/x.o: src/a.c src/b.c src/a.c | c.h\n\tcc $@ $< $^ $+ $| $(@D) $(@F) $(<F) $(^D) $(*F)\n"),
            (Words{"cc out/x.o src/a.c src/a.c src/b.c src/a.c src/b.c src/a.c c.h out x.o a.c src src x"}));
}

TEST_F(Rules, SpecificVariables) {
  EXPECT_EQ(
      lines("F = base\nall: a b\n\techo $(F)\na: F = own\na: F += more\na:\n\techo $(F)\nb: G := $(F)\nF = later\n"
            "b:\n\techo $(G) $(F)\n"),
      (Words{"echo own more", "echo base later", "echo later"}));
  // They reach prerequisites, but for private ones.
  EXPECT_EQ(lines("all: F = own\nall: private P = own\nall: a\n\techo $(F) $(P)\na:\n\techo $(F) [$(P)]\n"),
            (Words{"echo own []", "echo own own"}));
  EXPECT_EQ(lines("%.o: F = pattern\nx.o: F += more\nx.o:\n\techo $(F)\n"), (Words{"echo pattern more"}));
}

TEST_F(Rules, TheDefaultGoal) {
  EXPECT_EQ(lines(".hidden:\n\techo hidden\n%.x:\n\techo pattern\nfirst:\n\techo first\nsecond:\n\techo second\n"),
            (Words{"echo first"}));
  EXPECT_EQ(lines("first:\n\techo first\nsecond:\n\techo second\n.DEFAULT_GOAL := second\n"), (Words{"echo second"}));
  EXPECT_EQ(lines("first:\n\techo first\n.DEFAULT:\n\techo any $@\n", {"other"}), (Words{"echo any other"}));
}

TEST_F(Rules, RulesAreJoined) {
  for (const char* name : {"a", "b", "c"}) tree.write(name, "");
  EXPECT_EQ(lines("x: a\nx y: b\n\techo $@ $^\nx: c\n", {"x", "y"}), (Words{"echo x b a c", "echo y b"}));
  EXPECT_EQ(lines("x: a ; echo at once $<\n\techo then\n"), (Words{"echo at once a", "echo then"}));
  EXPECT_EQ(lines("x: a\n\techo one\nx:\n\techo two\n"), (Words{"echo two"}));
}

TEST_F(Rules, RecipesKeepTheirText) {
  EXPECT_EQ(lines("x:\n\t@echo a \\\n\t  b\n\t-false # for the shell\n\n# a remark\n\t+echo '$$x' \"$$$$\"\n"),
            (Words{"echo a \\\n  b", "false # for the shell", "echo '$x' \"$$\""}));
  EXPECT_EQ(lines("define both\necho one $@\n@echo two\nendef\nx:\n\t$(both)\n\t@$(both)\n"),
            (Words{"echo one x", "echo two", "echo one x", "echo two"}));
  EXPECT_EQ(lines(".RECIPEPREFIX = >\nx:\n> echo a\n"), (Words{"echo a"}));
  EXPECT_EQ(lines(".ONESHELL:\nx:\n\tcd /\n\tpwd\n"), (Words{"cd /\npwd"}));
}

TEST_F(Rules, StaticPatterns) {
  for (const char* name : {"a.c", "b.c"}) tree.write(name, "");
  EXPECT_EQ(lines("O = a.o b.o\nall: $(O)\n$(O): %.o: %.c\n\tcc $* $<\n$(filter b.%,$(O)): F = 1\n"),
            (Words{"cc a a.c", "cc b b.c"}));
}

TEST_F(Rules, OneRuleForManyTargets) {
  EXPECT_EQ(lines("a b:\n\techo $@\nall: a b\n", {"all"}), (Words{"echo a", "echo b"}));
  EXPECT_EQ(lines("a b &:\n\techo $@\nall: a b\n", {"all"}), (Words{"echo a"}));
}

TEST_F(Rules, WhereTextsAreWrong) {
  EXPECT_NE(says("ifeq (a,b)\n$(info x)")[0].find("Makefile:1: "), std::string::npos)
      << says("ifeq (a,b)\n$(info x)")[0];
  EXPECT_NE(says("endif")[0].find("Makefile:1: "), std::string::npos);
  EXPECT_NE(says("define A\nx")[0].find("endef"), std::string::npos);
  EXPECT_NE(says("A = $(B\n$(info $(A))")[0].find("Makefile:"), std::string::npos);
  EXPECT_NE(lines("x:\n        echo eight blanks\n")[0].find("Makefile:2: "), std::string::npos);
}

}  // namespace
}  // namespace coctilis::test
