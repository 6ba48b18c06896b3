// The commands of the language, each told by what it makes the description say.
#include "describe/reader.h"

namespace coctilis::test {
namespace {

using Words = std::vector<std::string>;

using Said1 = Saying;
class Commands : public testing::TestWithParam<Said1> {};

TEST_P(Commands, Say) {
  Reading reading;
  EXPECT_EQ(reading.says(GetParam().text), GetParam().says);
}

INSTANTIATE_TEST_SUITE_P(
    Variables, Commands,
    testing::Values(
        Said1{"SetAndReference", "set(A x y)\nset(B A)\nmessage(STATUS \"${A} ${${B}} ${none}.\")\n", {"x;y x;y ."}},
        Said1{"UnquotedSplitsQuotedDoesNot",
              "set(A x y)\nfunction(f)\nmessage(STATUS ${ARGC})\nendfunction()\nf(${A})\nf(\"${A}\")\n",
              {"2", "1"}},
        Said1{"FunctionHasItsOwnScope",
              "function(f)\nset(A in)\nset(B out PARENT_SCOPE)\nendfunction()\nset(A before)\nf()\nmessage(STATUS ${A} "
              "${B})\n",
              {"beforeout"}},
        Said1{"MacroHasNot",
              "macro(m x)\nset(A ${x}${ARGN})\nendmacro()\nm(1 2 3)\nmessage(STATUS \"${A}\")\n",
              {"12;3"}},
        Said1{"UnsetHides", "set(A 1)\nunset(A)\nif(NOT DEFINED A)\nmessage(STATUS gone)\nendif()\n", {"gone"}},
        Said1{"CacheBehindVariable",
              "set(A c CACHE STRING x)\nmessage(STATUS ${A})\nset(A v)\nmessage(STATUS ${A} "
              "$CACHE{A})\nunset(A)\nmessage(STATUS ${A})\n",
              {"c", "vc", "c"}},
        Said1{"OptionKeepsVariable",
              "cmake_policy(VERSION 3.20)\nset(A ON)\noption(A x OFF)\nmessage(STATUS ${A})\n",
              {"ON"}},
        Said1{"Environment",
              "set(ENV{BRICK} red)\nmessage(STATUS $ENV{BRICK})\nif(DEFINED ENV{NO_SUCH_THING})\nmessage(STATUS "
              "no)\nendif()\n",
              {"red"}},
        Said1{"Escapes", "message(STATUS \"a\\tb\\;c\\\\d\\${x}\")\n", {"a\tb\\;c\\d${x}"}},
        Said1{
            "Digests",
            "string(MD5 A clay)\nstring(SHA1 B clay)\nstring(SHA256 C \"\")\nmessage(STATUS ${A} \" \" ${B})\nmessage("
            "STATUS ${C})\n",
            {"01540f319ff0cf88928c83de23127fbb de6b29cb18084bdc455d9d293dddac87217ce659",
             "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855"}},
        Said1{"NameUuid",
              "string(UUID A NAMESPACE 6ba7b810-9dad-11d1-80b4-00c04fd430c8 NAME www.example.com TYPE SHA1)\n"
              "string(UUID B NAMESPACE 6ba7b810-9dad-11d1-80b4-00c04fd430c8 NAME www.example.com TYPE MD5 UPPER)\n"
              "message(STATUS ${A})\nmessage(STATUS ${B})\n",
              {"2ed6657d-e927-568b-95e1-2665a8aea6a2", "5DF41881-3AED-3515-88A7-2F4A814CF09E"}},
        Said1{"Json",
              "set(J [[{\"a\": [1, {\"b\": true}], \"c\": null, \"d\": \"x\"}]])\n"
              "string(JSON A GET \"${J}\" a 1 b)\nstring(JSON B LENGTH \"${J}\" a)\nstring(JSON C TYPE \"${J}\" c)\n"
              "string(JSON D MEMBER \"${J}\" 2)\nstring(JSON E SET \"{}\" k 5)\nstring(JSON F GET \"${E}\" k)\n"
              "message(STATUS \"${A} ${B} ${C} ${D} ${F}\")\n"
              "string(JSON G ERROR_VARIABLE err GET \"${J}\" a 7)\nmessage(STATUS \"${G} ${err}\")\n"
              "string(JSON H REMOVE \"[1,2]\" 0)\nstring(JSON I LENGTH \"${H}\")\nstring(JSON K EQUAL \"[1]\" \"[ 1 "
              "]\")\n"
              "message(STATUS \"${I} ${K}\")\n",
              {"ON 2 NULL d 5", "a-7-NOTFOUND the index 7 is beyond 2 elements", "1 ON"}},
        Said1{"Math",
              "math(EXPR A \"(3 + 4) * -2 << 1\")\nmath(EXPR B \"0x10 | 1\" OUTPUT_FORMAT HEXADECIMAL)\nmessage(STATUS "
              "${A} \" \" ${B})\n",
              {"-28 0x11"}},
        Said1{"BlockPropagates",
              "block(PROPAGATE A)\nset(A 1)\nset(B 2)\nendblock()\nmessage(STATUS \"${A}${B}\")\n",
              {"1"}},
        Said1{"Recursion",
              "function(f n)\nif(n GREATER 0)\nmath(EXPR m \"${n} - 1\")\nf(${m})\nelse()\nmessage(STATUS "
              "end)\nendif()\nendfunction()\nf(20)\n",
              {"end"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Conditions, Commands,
    testing::Values(
        Said1{"Precedence",
              "if(0 AND 0 OR 1)\nmessage(STATUS a)\nendif()\nif(NOT 0 AND (0 OR 1))\nmessage(STATUS b)\nendif()\n",
              {"a", "b"}},
        Said1{"NamesAreLookedUp",
              "set(A kiln)\nif(A STREQUAL kiln)\nmessage(STATUS a)\nendif()\nif(NOT \"A\" STREQUAL "
              "kiln)\nmessage(STATUS b)\nendif()\n",
              {"a", "b"}},
        Said1{"Versions",
              "if(1.10 VERSION_GREATER 1.9 AND 2 VERSION_LESS_EQUAL 2.0)\nmessage(STATUS y)\nendif()\n",
              {"y"}},
        Said1{
            "Groups",
            "if(\"cone-6\" MATCHES \"([a-z]+)-([0-9])\")\nmessage(STATUS ${CMAKE_MATCH_2}${CMAKE_MATCH_1})\nendif()\n",
            {"6cone"}},
        Said1{"InList", "set(L a b)\nif(b IN_LIST L AND NOT c IN_LIST L)\nmessage(STATUS y)\nendif()\n", {"y"}},
        Said1{"EmptyOperand",
              "if(NOT ${none} STREQUAL \"\")\nmessage(STATUS y)\nelse()\nmessage(STATUS n)\nendif()\n",
              {"n"}},
        Said1{"Tests",
              "if(COMMAND message AND POLICY CMP0077 AND NOT TARGET x AND EXISTS ${CMAKE_CURRENT_LIST_FILE} AND "
              "IS_ABSOLUTE /x)\nmessage(STATUS y)\nendif()\n",
              {"y"}},
        Said1{"NotFoundIsFalse",
              "set(A x-NOTFOUND)\nif(A)\nmessage(STATUS y)\nelse()\nmessage(STATUS n)\nendif()\n",
              {"n"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Loops, Commands,
    testing::Values(
        Said1{"Range", "foreach(i RANGE 1 7 3)\nmessage(STATUS ${i})\nendforeach()\n", {"1", "4", "7"}},
        Said1{"Lists",
              "set(A x y)\nset(B z)\nforeach(i IN LISTS A B ITEMS w)\nmessage(STATUS ${i})\nendforeach()\n",
              {"x", "y", "z", "w"}},
        Said1{"Zip",
              "set(A x y)\nset(B 1 2)\nforeach(a b IN ZIP_LISTS A B)\nmessage(STATUS ${a}${b})\nendforeach()\n",
              {"x1", "y2"}},
        Said1{"BreakAndContinue",
              "foreach(i a b c d)\nif(i STREQUAL b)\ncontinue()\nendif()\nif(i STREQUAL "
              "d)\nbreak()\nendif()\nmessage(STATUS ${i})\nendforeach()\n",
              {"a", "c"}},
        Said1{
            "While", "set(i 0)\nwhile(i LESS 3)\nmath(EXPR i \"${i} + 1\")\nendwhile()\nmessage(STATUS ${i})\n", {"3"}},
        Said1{"ReturnLeavesTheFunction",
              "function(f)\nforeach(i 1 2)\nreturn()\nendforeach()\nmessage(STATUS "
              "no)\nendfunction()\nf()\nmessage(STATUS yes)\n",
              {"yes"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Texts, Commands,
    testing::Values(
        Said1{"Replace", "string(REPLACE a bb A xaxa)\nmessage(STATUS ${A})\n", {"xbbxbb"}},
        Said1{"RegexAll", "string(REGEX MATCHALL \"[0-9]+\" A \"1 22 333\")\nmessage(STATUS \"${A}\")\n", {"1;22;333"}},
        Said1{"RegexReplace",
              "string(REGEX REPLACE \"(.)-(.)\" \"\\\\2\\\\1\" A \"a-b c-d\")\nmessage(STATUS ${A})\n",
              {"ba dc"}},
        Said1{"Cases",
              "string(TOUPPER kiln A)\nstring(LENGTH ${A} B)\nstring(SUBSTRING ${A} 1 2 C)\nmessage(STATUS "
              "${A}${B}${C})\n",
              {"KILN4IL"}},
        Said1{"Identifier", "string(MAKE_C_IDENTIFIER 2-bricks A)\nmessage(STATUS ${A})\n", {"_2_bricks"}},
        Said1{"Configure", "set(A 1)\nstring(CONFIGURE \"@A@ ${A} @none@\" B @ONLY)\nmessage(STATUS ${B})\n", {"1 1 "}},
        Said1{"ListOperations",
              "set(L c a b a)\nlist(REMOVE_DUPLICATES L)\nlist(SORT L)\nlist(APPEND L d)\nlist(REVERSE L)\nlist(GET L "
              "0 -1 E)\nlist(FIND L b I)\nlist(JOIN L + J)\nmessage(STATUS \"${L} ${E} ${I} ${J}\")\n",
              {"d;c;b;a d;a 2 d+c+b+a"}},
        Said1{"ListTransform",
              "set(L a.c b.h)\nlist(TRANSFORM L REPLACE \"\\\\.c$\" \".o\")\nlist(TRANSFORM L PREPEND x/)\nlist(FILTER "
              "L INCLUDE REGEX o$)\nmessage(STATUS \"${L}\")\n",
              {"x/a.o"}},
        Said1{"SeparateArguments",
              "separate_arguments(A UNIX_COMMAND \"a 'b c' d\")\nmessage(STATUS \"${A}\")\n",
              {"a;b c;d"}},
        Said1{"ParseArguments",
              "function(f)\ncmake_parse_arguments(P \"FAST\" \"CONE\" \"CLAYS\" ${ARGN})\nmessage(STATUS \"${P_FAST} "
              "${P_CONE} ${P_CLAYS} ${P_UNPARSED_ARGUMENTS}\")\nendfunction()\nf(x CLAYS a b CONE 6 FAST)\n",
              {"TRUE 6 a;b x"}},
        Said1{"PathParts",
              "get_filename_component(A /x/y.tar.gz NAME_WE)\nget_filename_component(B /x/y.tar.gz "
              "EXT)\nget_filename_component(C /x/y DIRECTORY)\nmessage(STATUS ${A}${B}${C})\n",
              {"y.tar.gz/x"}},
        Said1{"Deferred", "cmake_language(DEFER CALL message STATUS last)\nmessage(STATUS first)\n", {"first", "last"}},
        Said1{"CallByName", "cmake_language(CALL message STATUS x)\n", {"x"}}),
    name_of_saying);

// ---- failures
// --------------------------------------------------------------------------------------------------------

struct Refused {
  const char* text;
  int line;  // of the whole file; the text begins in line 3
  const char* says;
};
class Refusals : public testing::TestWithParam<Refused> {};

TEST_P(Refusals, NameConstructAndPlace) {
  Reading reading;
  const auto project = reading.read(GetParam().text);
  ASSERT_FALSE(project.ok()) << GetParam().text;
  EXPECT_EQ(project.problem().exit, Exit::description);
  EXPECT_EQ(project.problem().place.file, "CMakeLists.txt");
  EXPECT_EQ(project.problem().place.line, GetParam().line) << project.problem().what;
  EXPECT_NE(
      (project.problem().what + " " + project.problem().cause + " " + project.problem().remedy).find(GetParam().says),
      std::string::npos)
      << project.problem().what << project.problem().remedy;
}

INSTANTIATE_TEST_SUITE_P(All, Refusals,
                         testing::Values(Refused{"add_executble(a a.c)\n", 3, "did you mean 'add_executable'"},
                                         Refused{"\nlist(BAKE x y)\n", 4, "list(BAKE) is not understood"},
                                         Refused{"message(FATAL_ERROR \"no clay\")\n", 3, "no clay"},
                                         Refused{"if(A STREQUAL)\nendif()\n", 3, "nothing on its right"},
                                         Refused{"exec_program(\"\")\n", 3, "names no program"},
                                         Refused{"cmake_path(IS_PREFIX p NORMALIZE)\n", 3, "lacks a word"},
                                         Refused{"cmake_path(GET p EXTENSION)\n", 3, "lacks a word"},
                                         Refused{"target_link_libraries(none x)\n", 3, "'none' that is not declared"},
                                         Refused{"add_library(a a.c)\nadd_library(a b.c)\n", 4, "a second time"},
                                         Refused{"include(NoSuchModule)\n", 3, "NoSuchModule"},
                                         Refused{"add_subdirectory(nowhere)\n", 3, "no such folder"},
                                         Refused{"file(WRITE ${CMAKE_SOURCE_DIR}/../x y)\n", 3,
                                                 "outside its output folder"},
                                         Refused{"file(DOWNLOAD http://x y)\n", 3, "network"},
                                         Refused{"enable_language(Swift)\n", 3, "Swift"},
                                         Refused{"math(EXPR A \"1 / 0\")\n", 3, "cannot be worked out"},
                                         Refused{"string(REGEX MATCH \"(\" A b)\n", 3, "pattern"},
                                         Refused{"execute_process(COMMAND make all)\n", 3, "build program"},
                                         Refused{"function(f)\nf()\nendfunction()\nf()\n", 4, "1000 deep"},
                                         Refused{"message(STATUS \"${a\")\n", 3, "without '}'"},
                                         Refused{"foreach(i RANGE 5 1)\nendforeach()\n", 3, "no end"},
                                         Refused{"set_target_properties(x PROPERTIES A)\n", 3, "not declared"}));

TEST(Reader, TrailLeadsToTheFailingPlace) {
  Reading reading;
  reading.tree.write("deep.cmake", "function(f)\n  bake()\nendfunction()\n");
  const auto project = reading.read("include(deep.cmake)\nf()\n");
  ASSERT_FALSE(project.ok());
  EXPECT_EQ(project.problem().place.text(), "deep.cmake:2:3");
  ASSERT_FALSE(project.problem().trail.empty());
  EXPECT_NE(project.problem().trail[0].find("CMakeLists.txt:4"), std::string::npos);
}

TEST(Reader, DeepNestingIsRefusedNotACrash) {
  Reading reading;
  const auto many = [](const std::string& text) {
    std::string out;
    for (int i = 0; i < 100000; ++i) out += text;
    return out;
  };
  for (const auto& text : {"if(" + many("(") + "1" + many(")") + ")\nendif()\n", "if(" + many("NOT ") + "1)\nendif()\n",
                           "set(x \"" + many("${") + many("}") + "\")\n", many("if(1)\n"), many("f("),
                           "math(EXPR x \"" + many("(") + "\")\n", "math(EXPR x \"" + many("-") + "1\")\n",
                           "message(STATUS " + many("$<1:") + ")\n"}) {
    const auto project = reading.read(text);
    if (project.ok()) continue;
    EXPECT_EQ(project.problem().exit, Exit::description) << text.substr(0, 40);
  }
}

TEST(Reader, LaterLanguageLevelIsRefused) {
  Reading reading;
  EXPECT_NE(reading.says("", "cmake_minimum_required(VERSION 4.7)\n").at(0).find("4.7"), std::string::npos);
}

// ---- files
// -----------------------------------------------------------------------------------------------------------

TEST(Reader, ConfiguredHeader) {
  Reading reading;
  reading.tree.write("a.h.in",
                     "#cmakedefine ON_VALUE @ON_VALUE@\n#cmakedefine OFF_VALUE\n#cmakedefine01 OFF_VALUE\n  #  "
                     "cmakedefine01 ON_VALUE\n\"${ON_VALUE}\" @ON_VALUE@ user@host @\n");
  const auto project = reading.read(
      "set(ON_VALUE 6)\nset(OFF_VALUE 0)\nconfigure_file(a.h.in sub/a.h)\nconfigure_file(a.h.in b.h "
      "@ONLY)\nconfigure_file(a.h.in c.h COPYONLY)\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  const std::string work = reading.tree.kiln() + "/work/";
  EXPECT_EQ(
      files::read(work + "sub/a.h"),
      "#define ON_VALUE 6\n/* #undef OFF_VALUE */\n#define OFF_VALUE 0\n  #  define ON_VALUE 1\n\"6\" 6 user@host @\n");
  EXPECT_NE(files::read(work + "b.h")->find("\"${ON_VALUE}\" 6"), std::string::npos);
  EXPECT_EQ(files::read(work + "c.h"), reading.tree.read("a.h.in"));
}

TEST(Reader, GlobLeavesTheKilnAlone) {
  Reading reading;
  for (const char* name : {"b.c", "a.c", "sub/c.c", "x.h", ".hidden/d.c"}) reading.tree.write(name, "");
  EXPECT_EQ(reading
                .says("file(GLOB A RELATIVE ${CMAKE_SOURCE_DIR} *.c)\nfile(GLOB_RECURSE B RELATIVE ${CMAKE_SOURCE_DIR} "
                      "*.c)\nmessage(STATUS \"${A}|${B}\")\n")
                .at(0),
            "a.c;b.c|.hidden/d.c;a.c;b.c;sub/c.c");
}

// A description takes names out of what it found by writing them in the same way.
TEST(Reader, GlobGivesNamesAsThePatternHasThem) {
  Reading reading;
  for (const char* name : {"clay/red.c", "clay/grey.c", "kilns/tunnel.c"}) reading.tree.write(name, "");
  EXPECT_EQ(reading
                .says("file(GLOB A kilns/../clay/*.c)\nlist(REMOVE_ITEM A "
                      "${CMAKE_CURRENT_SOURCE_DIR}/kilns/../clay/red.c)\n"
                      "file(GLOB B RELATIVE ${CMAKE_SOURCE_DIR} kilns/../clay/r*.c)\nmessage(STATUS \"${A}|${B}\")\n")
                .at(0),
            reading.tree.path() + "/kilns/../clay/grey.c|clay/red.c");
}

TEST(Reader, ProcessesAndTheirOutput) {
  Reading reading;
  EXPECT_EQ(reading.says("if(${NOTHING} MATCHES \"clay\")\nset(A yes)\nelse()\nset(A no)\nendif()\n"
                         "if(NOT clay MATCHES ${NOTHING})\nset(B yes)\nendif()\n"
                         "message(STATUS \"${A} ${B}\")\n"),
            std::vector<std::string>{"no yes"});
  EXPECT_EQ(reading.says("set(p /kiln/a.tar.gz)\ncmake_path(GET p EXTENSION LAST_ONLY e)\ncmake_path(GET p STEM s)\n"
                         "cmake_path(REPLACE_EXTENSION p LAST_ONLY xz OUTPUT_VARIABLE r)\n"
                         "cmake_path(HAS_PARENT_PATH p h)\ncmake_path(IS_PREFIX p /kiln/a.tar.gz/b x)\n"
                         "cmake_path(COMPARE /kiln//a EQUAL /kiln/a c)\ncmake_path(NATIVE_PATH p n)\n"
                         "cmake_path(APPEND_STRING p .old)\n"
                         "message(STATUS \"${e} ${s} ${r} ${h} ${x} ${c} ${n} ${p}\")\n"),
            std::vector<std::string>{".gz a /kiln/a.tar.xz ON ON ON /kiln/a.tar.gz /kiln/a.tar.gz.old"});
  // The older form: both outputs in one text, without blanks around it.
  EXPECT_EQ(
      reading.says("exec_program(sh ARGS -c \"'echo clay; echo fire >&2; exit 4'\" OUTPUT_VARIABLE A RETURN_VALUE B)\n"
                   "exec_program(pwd ${CMAKE_CURRENT_SOURCE_DIR} OUTPUT_VARIABLE C)\n"
                   "if(C STREQUAL CMAKE_CURRENT_SOURCE_DIR)\nset(C there)\nendif()\n"
                   "exec_program(no-such-kiln RETURN_VALUE D)\nmessage(STATUS \"${A}|${B}|${C}|${D}\")\n"),
      (std::vector<std::string>{"clay\nfire|4|there|-1"}));
  EXPECT_EQ(reading.says("execute_process(COMMAND sh -c \"echo brick; exit 3\" OUTPUT_VARIABLE A RESULT_VARIABLE B "
                         "OUTPUT_STRIP_TRAILING_WHITESPACE)\n"
                         "execute_process(COMMAND echo a b COMMAND tr a x OUTPUT_VARIABLE C)\nexecute_process(COMMAND "
                         "${CMAKE_COMMAND} -E echo kiln OUTPUT_VARIABLE D)\nmessage(STATUS \"${A} ${B} ${C} ${D}\")\n"),
            (Words{"brick 3 x b\n kiln\n"}));
}

// What a description writes through a link counts as written where the link leads.
TEST(Reader, WritingThroughALink) {
  Reading reading;
  reading.tree.write("../other/x.txt", "old");
  const std::string other = reading.tree.scratch() + "/other";
  const auto refused =
      reading.read("file(CREATE_LINK " + other +
                   " ${CMAKE_BINARY_DIR}/out SYMBOLIC)\nfile(WRITE ${CMAKE_BINARY_DIR}/out/x.txt new)\n");
  ASSERT_FALSE(refused.ok());
  EXPECT_NE(refused.problem().what.find("outside its output folder"), std::string::npos) << refused.problem().what;
  EXPECT_EQ(files::read(other + "/x.txt"), "old");
  files::make_folder(reading.tree.path("sub"));
  const auto into_tree = reading.read(
      "file(CREATE_LINK ${CMAKE_SOURCE_DIR}/sub ${CMAKE_BINARY_DIR}/sub SYMBOLIC)\n"
      "file(WRITE ${CMAKE_BINARY_DIR}/sub/y.txt new)\n");
  ASSERT_TRUE(into_tree.ok()) << into_tree.problem().what;
  EXPECT_FALSE(files::exists(reading.tree.path("sub/y.txt")));
}

// The tool's operations may stand anywhere in a chain of commands, and change what a program runs in.
TEST(Reader, OperationsOfTheToolAmongCommands) {
  Reading reading;
  reading.tree.write("clay.cmake", "message(STATUS \"clay $ENV{CLAY}\")\n");
  reading.tree.write("sub/x.txt", "");
  EXPECT_EQ(
      reading.says("execute_process(COMMAND ${CMAKE_COMMAND} -E env CLAY=red sh -c \"echo $CLAY\" OUTPUT_VARIABLE A)\n"
                   "execute_process(COMMAND ${CMAKE_COMMAND} -E echo grey COMMAND tr g b OUTPUT_VARIABLE B)\n"
                   "execute_process(COMMAND ${CMAKE_COMMAND} -E chdir ${CMAKE_SOURCE_DIR}/sub ls OUTPUT_VARIABLE C)\n"
                   "execute_process(COMMAND ${CMAKE_COMMAND} -E env CLAY=white ${CMAKE_COMMAND} -P "
                   "${CMAKE_SOURCE_DIR}/clay.cmake OUTPUT_VARIABLE D)\n"
                   "execute_process(COMMAND echo pot COMMAND ${CMAKE_COMMAND} -E env --unset=CLAY CLAY=a sh -c "
                   "\"cat; echo $CLAY\" OUTPUT_VARIABLE E)\n"
                   "message(STATUS \"${A}${B}${C}${D}${E}\")\n"),
      (Words{"red\nbrey\nx.txt\nclay white\npot\na\n"}));
}

// ---- probes and packages
// ---------------------------------------------------------------------------------------------

TEST(Reader, ProbesAskTheCompiler) {
  Reading reading;
  const auto says = reading.says(
      "include(CheckIncludeFile)\ninclude(CheckFunctionExists)\ninclude(CheckTypeSize)\ninclude(CheckCSourceCompiles)"
      "\ninclude(CheckCCompilerFlag)\ninclude(TestBigEndian)\ninclude(CheckSymbolExists)\n"
      "check_include_file(stdio.h A)\ncheck_include_file(no_brick.h B)\ncheck_function_exists(puts "
      "C)\ncheck_function_exists(no_brick D)\ncheck_type_size(int E)\ncheck_type_size(no_brick_t F)\n"
      "check_c_source_compiles(\"int main(void) { return 0; }\" G)\ncheck_c_compiler_flag(-Wall "
      "H)\ncheck_c_compiler_flag(-fno-such-brick I)\ncheck_symbol_exists(EOF stdio.h J)\n"
      "message(STATUS \"${A}|${B}|${C}|${D}|${E}|${HAVE_E}|${F}|${G}|${H}|${I}|${J}\")\n",
      "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\n");
  EXPECT_EQ(says, (Words{"1||1||4|TRUE||1|1||1"}));
}

TEST(Reader, PatternsDoNotLookThroughTheWholeSystem) {
  Reading reading;
  for (int k = 0; k < 30; ++k) reading.tree.write("parts/" + std::to_string(k) + ".c", "");
  reading.tree.write("CMakeLists.txt",
                     "cmake_minimum_required(VERSION 3.16)\nproject(yard NONE)\nfile(GLOB a parts/*.c)\n"
                     "file(GLOB_RECURSE b parts/*.c)\n");
  model::Survey survey;
  survey.tree = reading.tree.path();
  locate::Locator locator(Reading::toolchain(), reading.settings);
  describe::listfile::Limits limits;
  limits.names = 50;
  const auto project = describe::listfile::read(reading.tree.path("CMakeLists.txt"), survey, locator,
                                                reading.tree.kiln() + "/work", {}, limits);
  ASSERT_FALSE(project.ok());
  EXPECT_EQ(project.problem().place.line, 4);
  EXPECT_NE(project.problem().what.find("more than 50 names"), std::string::npos);
}

TEST(Reader, WhatIsTakenFromTheCacheIsAskedAgain) {
  Reading reading;
  const auto says = reading.says(
      "include(CheckSymbolExists)\ninclude(CheckTypeSize)\ncheck_symbol_exists(sinh math.h HAS_SINH)\n"
      "message(STATUS \"[${HAS_SINH}]\")\nunset(HAS_SINH CACHE)\nset(CMAKE_REQUIRED_LIBRARIES m)\n"
      "check_symbol_exists(sinh math.h HAS_SINH)\nmessage(STATUS \"${HAS_SINH}\")\n"
      "function(size)\n  check_type_size(short S)\n  message(STATUS \"${HAVE_S} ${S_CODE}\")\nendfunction()\n"
      "size()\nsize()\n",
      "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\n");
  EXPECT_EQ(says, (Words{"[]", "1", "TRUE #define S 2", "TRUE #define S 2"}));
}

TEST(Reader, ATreeThatNeverSaysProjectIsOneInCAndCxx) {
  Reading reading;
  const auto project = reading.read(
      "if(NOT PROJECT_NAME STREQUAL Project)\n  message(FATAL_ERROR none)\nendif()\nadd_library(clay a.cc)\n"
      "function(unused)\n  project(other)\nendfunction()\n",
      "cmake_minimum_required(VERSION 3.16)\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  EXPECT_EQ(project->languages, (Words{"C", "C++"}));
  ASSERT_FALSE(project->warnings.empty());
  EXPECT_NE(project->warnings[0].what.find("does not say project"), std::string::npos);
}

TEST(Reader, LoopsOverRangesAreCountedOff) {
  Reading reading;
  EXPECT_EQ(reading.says("set(sum 0)\nforeach(i RANGE 4 10 3)\nmath(EXPR sum \"${sum} + ${i}\")\nendforeach()\n"
                         "foreach(i RANGE 0 4000000000)\nif(i EQUAL 3)\nbreak()\nendif()\nendforeach()\n"),
            Words{"CMakeLists.txt:7:1: the loop would go round more than 100,000,000 times"});
  EXPECT_EQ(reading.says("foreach(i RANGE 0 90000000)\nif(i EQUAL 3)\nmessage(STATUS \"${i}\")\nbreak()\nendif()\n"
                         "endforeach()\nforeach(i RANGE 3 1 -2)\nmessage(STATUS \"${i}\")\nendforeach()\n"),
            (Words{"3", "3", "1"}));
}

TEST(Reader, AllMissingPackagesAreToldAtOnce) {
  Reading reading;
  ::setenv("PKG_CONFIG_LIBDIR", reading.tree.path().c_str(), 1);
  const auto project = reading.read(
      "find_package(LZO REQUIRED)\nfind_package(ClayKit REQUIRED)\nfind_package(Glaze QUIET)\nif(NOT "
      "LZO_FOUND)\nmessage(FATAL_ERROR \"no lzo\")\nendif()\n");
  ::unsetenv("PKG_CONFIG_LIBDIR");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  Words missing;
  for (const auto& finding : project->findings) {
    if (!finding.found && finding.requirement.required) missing.push_back(finding.requirement.name);
  }
  if (missing.size() == 1) GTEST_SKIP() << "this machine has lzo";
  EXPECT_EQ(missing, (Words{"lzo2", "ClayKit"}));
}

TEST(Reader, PackageByItsOwnDescription) {
  Reading reading;
  const std::string folder = reading.tree.scratch() + "/prefix/lib/cmake/ClayKit-3.1/";
  files::write(folder + "ClayKitConfig.cmake",
               "add_library(ClayKit::clay SHARED IMPORTED)\nset_target_properties(ClayKit::clay PROPERTIES "
               "IMPORTED_LOCATION \"${CMAKE_CURRENT_LIST_DIR}/libclay.so\" INTERFACE_INCLUDE_DIRECTORIES /opt/clay)\n");
  files::write(folder + "ClayKitConfigVersion.cmake",
               "set(PACKAGE_VERSION 3.1)\nif(NOT PACKAGE_FIND_VERSION VERSION_GREATER "
               "PACKAGE_VERSION)\nset(PACKAGE_VERSION_COMPATIBLE TRUE)\nendif()\n");
  reading.settings.prefixes = {reading.tree.scratch() + "/prefix"};
  EXPECT_EQ(reading.says("find_package(ClayKit 3 CONFIG)\nmessage(STATUS ${ClayKit_FOUND} "
                         "${ClayKit_VERSION})\nif(TARGET ClayKit::clay)\nmessage(STATUS "
                         "target)\nendif()\nfind_package(ClayKit 4 QUIET)\nmessage(STATUS ${ClayKit_FOUND})\n"),
            (Words{"13.1", "target", "0"}));
}

TEST(Reader, OptionsTakeWhatTheUserSets) {
  Reading reading;
  reading.settings.options = {{"CHARTS", "OFF"}, {"CHART", "1"}};
  const auto project = reading.read(
      "option(CHARTS \"draw\" ON)\nset(SHIFTS 3 CACHE STRING \"a day\")\nif(NOT CHARTS)\nmessage(STATUS "
      "off)\nendif()\n");
  ASSERT_TRUE(project.ok());
  EXPECT_EQ(project->messages, Words{"off"});
  ASSERT_EQ(project->warnings.size(), 1U);
  EXPECT_NE(project->warnings[0].remedy.find("CHARTS"), std::string::npos);
  bool found = false;
  for (const auto& option : project->options)
    found = found || (option.name == "SHIFTS" && option.value == "3" && option.place.line == 4);
  EXPECT_TRUE(found);
}

// ---- questions to the compiler
// ---------------------------------------------------------------------------------------

// What a locator learned, next to the project.
struct Asked {
  std::map<std::string, model::Question> questions;
  Result<model::Project> project;
};
Asked asked(Reading& reading, const std::string& text) {
  reading.tree.write("CMakeLists.txt", "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\n" + text);
  model::Survey survey;
  survey.tree = reading.tree.path();
  reading.settings.jobs = 4;
  locate::Locator locator(Reading::toolchain(), reading.settings);
  auto project = describe::listfile::read(reading.tree.path("CMakeLists.txt"), survey, locator, reading.tree.kiln());
  Asked out{{}, std::move(project)};
  for (const auto& question : locator.questions()) out.questions[question.name] = question;
  return out;
}

// Questions that follow each other are put side by side; every answer is that of its own question all the same.
TEST(Questions, AskedAheadAnsweredInTheirOrder) {
  Reading reading;
  const auto got =
      asked(reading,
            "include(CheckFunctionExists)\n"
            "foreach(f qsort no_such_kiln bsearch)\nstring(TOUPPER ${f} F)\n"
            "check_function_exists(${f} HAS_${F})\nendforeach()\n"
            "check_type_size(\"long long\" BIG)\ncheck_include_file(no/such.h HAS_HEADER)\n"
            "set(CMAKE_REQUIRED_DEFINITIONS -DWANTED=1)\n"
            "check_c_source_compiles(\"#ifndef WANTED\n#error no\n#endif\nint main(void){return 0;}\" DEFINED)\n"
            "check_include_files(\";stdint.h\" HAS_STDINT)\n"
            "set(CMAKE_REQUIRED_DEFINITIONS \" \" \"-x c -DWANTED\")\n"
            "check_c_source_compiles(\"#ifndef WANTED\\n#error no\\n#endif\\nint main(void){return 0;}\" SEVERAL)\n");
  ASSERT_TRUE(got.project.ok()) << got.project.problem().what;
  std::map<std::string, std::string> values;
  for (const auto& [name, question] : got.questions) values[name] = question.value;
  EXPECT_EQ(values, (std::map<std::string, std::string>{{"HAS_QSORT", "1"},
                                                        {"HAS_NO_SUCH_KILN", ""},
                                                        {"HAS_BSEARCH", "1"},
                                                        {"BIG", "8"},
                                                        {"HAS_HEADER", ""},
                                                        {"DEFINED", "1"},
                                                        {"HAS_STDINT", "1"},
                                                        {"SEVERAL", "1"}}));
  EXPECT_NE(got.questions.at("DEFINED").command.find("-DWANTED=1"), std::string::npos);
}

// ---- limits
// ----------------------------------------------------------------------------------------------------------

TEST(Limits, EndWorkThatHasNoEnd) {
  Reading reading;
  reading.tree.write("CMakeLists.txt",
                     "cmake_minimum_required(VERSION 3.16)\nproject(yard NONE)\nwhile(TRUE)\nendwhile()\n");
  model::Survey survey;
  survey.tree = reading.tree.path();
  locate::Locator locator(Reading::toolchain(), reading.settings);
  const auto read = [&](const describe::listfile::Limits& limits) {
    const auto project =
        describe::listfile::read(reading.tree.path("CMakeLists.txt"), survey, locator, reading.tree.kiln(), {}, limits);
    return project.ok() ? std::string{} : project.problem().place.text() + " " + project.problem().what;
  };
  EXPECT_EQ(read({1000, 16ULL << 30U}), "CMakeLists.txt:3:1 the description runs more than 1,000 commands");
  EXPECT_EQ(read({100'000'000, 1000}), "CMakeLists.txt:3:1 the description takes more than 1.0 kB of memory");
}

TEST(SourceProperties, TheOldFormNamesThemWithoutPROPERTIES) {
  Reading reading;
  EXPECT_EQ(reading.says("set_source_files_properties(clay.c glaze.c GENERATED OBJECT_DEPENDS cones.h)\n"
                         "get_source_file_property(A glaze.c OBJECT_DEPENDS)\n"
                         "get_source_file_property(B clay.c GENERATED)\nmessage(STATUS \"${A} ${B}\")\n"
                         "set_source_files_properties(clay.c TARGET_DIRECTORY x PROPERTIES COMPILE_FLAGS -w)\n"
                         "get_source_file_property(C clay.c COMPILE_FLAGS)\nmessage(STATUS ${C})\n"),
            (Words{"cones.h 1", "-w"}));
}

}  // namespace
}  // namespace coctilis::test
