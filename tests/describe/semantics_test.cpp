// Rules of the listfile language that trees lean on without knowing it: scopes, words, lists, texts, paths, properties.
#include "describe/reader.h"

namespace coctilis::test {
namespace {

using Words = std::vector<std::string>;

using Rule = Saying;
class Semantics : public testing::TestWithParam<Rule> {};

TEST_P(Semantics, AreToTheLetter) {
  Reading reading;
  reading.tree.write("clay/CMakeLists.txt",
                     "set(IN_CLAY here)\nset(UP there PARENT_SCOPE)\nset(CACHED kept CACHE INTERNAL \"\")\n"
                     "message(STATUS \"clay: ${OUTER} ${CMAKE_CURRENT_SOURCE_DIR}\")\n");
  reading.tree.write("part.cmake",
                     "set(FROM_PART 1)\nmessage(STATUS \"${CMAKE_CURRENT_LIST_LINE}\")\nreturn()\n"
                     "message(STATUS never)\n");
  reading.tree.write("guarded.cmake", "include_guard()\nmessage(STATUS once)\n");
  EXPECT_EQ(reading.tree.named(reading.says(GetParam().text)), GetParam().says);
}

INSTANTIATE_TEST_SUITE_P(
    Scopes, Semantics,
    testing::Values(Rule{"FunctionsSeeTheCallersVariables",
                         R"L(
function(fire)
  message(STATUS "${cone}")
  set(cone 9)
endfunction()
set(cone 6)
fire()
message(STATUS "${cone}")
)L",
                         {"6", "6"}},
                    Rule{"FunctionsCountTheirWords",
                         R"L(
function(fire first)
  message(STATUS "${ARGC}|${ARGV}|${ARGV1}|${ARGN}|${first}")
endfunction()
fire(a "b c" "d;e")
)L",
                         {"3|a;b c;d;e|b c|b c;d;e|a"}},
                    Rule{"ArgumentsThatAreNotGivenAreNotDefined",
                         R"L(
function(fire)
  if(DEFINED ARGV1)
    message(STATUS yes)
  else()
    message(STATUS no)
  endif()
endfunction()
fire(a)
fire(a b)
)L",
                         {"no", "yes"}},
                    Rule{"MacrosReplaceTexts",
                         R"L(
macro(fire what)
  if(what)
    message(STATUS variable)
  endif()
  if("${what}")
    message(STATUS text)
  endif()
  set(${what}_fired ${ARGC})
endmacro()
fire(ON x)
message(STATUS "${ON_fired}")
)L",
                         {"text", "2"}},
                    Rule{"MacrosReturnFromTheirCaller",
                         R"L(
macro(leave)
  return()
endmacro()
function(outer)
  leave()
  message(STATUS never)
endfunction()
outer()
message(STATUS after)
)L",
                         {"after"}},
                    Rule{"ParentScopeLeavesOnesOwnAlone",
                         R"L(
function(fire)
  set(x inner)
  set(x outer PARENT_SCOPE)
  message(STATUS "${x}")
endfunction()
fire()
message(STATUS "${x}")
)L",
                         {"inner", "outer"}},
                    Rule{"ReturnCanHandOn",
                         R"L(
cmake_policy(VERSION 3.25)
function(fire)
  set(x 1)
  set(y 2)
  return(PROPAGATE x)
endfunction()
fire()
message(STATUS "${x}|${y}")
)L",
                         {"1|"}},
                    Rule{"BlocksHideVariables",
                         R"L(
set(x 1)
block()
  set(x 2)
  set(y 3 PARENT_SCOPE)
endblock()
message(STATUS "${x}${y}")
block(SCOPE_FOR POLICIES)
  set(x 4)
endblock()
message(STATUS "${x}")
)L",
                         {"13", "4"}},
                    Rule{"LoopVariablesAreGoneAfterwards",
                         R"L(
set(i before)
foreach(i a b)
endforeach()
message(STATUS "${i}")
)L",
                         {"before"}},
                    Rule{"SubfoldersHaveAScope",
                         R"L(
set(OUTER o)
add_subdirectory(clay)
message(STATUS "${IN_CLAY}|${UP}|${CACHED}")
)L",
                         {"clay: o TREE/clay", "|there|kept"}},
                    Rule{"IncludedFilesHaveNone",
                         R"L(
include(part.cmake)
message(STATUS "${FROM_PART}")
include(nowhere.cmake OPTIONAL RESULT_VARIABLE r)
message(STATUS "${r}")
)L",
                         {"2", "1", "NOTFOUND"}},
                    Rule{"AGuardedFileCountsOnce", "include(guarded.cmake)\ninclude(guarded.cmake)\n", {"once"}},
                    Rule{"UnsetInParent",
                         R"L(
set(x 1)
function(fire)
  unset(x PARENT_SCOPE)
endfunction()
fire()
message(STATUS "${x}.")
)L",
                         {"."}},
                    Rule{"ANewFunctionTakesTheOldOnesPlace",
                         R"L(
function(fire)
  message(STATUS old)
endfunction()
function(fire)
  message(STATUS new)
  _fire()
endfunction()
FIRE()
)L",
                         {"new", "old"}},
                    Rule{"NormalVariablesHideTheCache",
                         R"L(
set(x normal)
set(x cached CACHE STRING "" FORCE)
message(STATUS "${x} $CACHE{x}")
unset(x CACHE)
message(STATUS "$CACHE{x}.")
)L",
                         {"cached cached", "."}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    WordsAndLists, Semantics,
    testing::Values(Rule{"NestedReferences",
                         R"L(
set(kind glaze)
set(glaze_colour green)
set(a b)
set(b c)
message(STATUS "${${kind}_colour} ${${a}}")
)L",
                         {"green c"}},
                    Rule{"EmptyWordsOfAListVanishUnquoted",
                         R"L(
function(count)
  message(STATUS "${ARGC}")
endfunction()
set(list "a;;b;")
count(${list})
count("${list}")
count("")
count(${none})
count(x${none})
)L",
                         {"2", "1", "1", "0", "1"}},
                    Rule{"EscapedSemicolonsDivideOneLevelFurtherOn",
                         R"L(
set(list a\;b c)
list(LENGTH list n)
list(GET list 0 first)
message(STATUS "${n} ${first}")
)L",
                         {"3 a"}},
                    Rule{"BracketsKeepWordsTogether",
                         R"L(
set(list "[a;b];c")
list(LENGTH list n)
message(STATUS "${n}")
)L",
                         {"2"}},
                    Rule{"BracketArgumentsAreTakenAsTheyAre",
                         R"L(
message(STATUS [=[${x} \n ]] "q"]=])
)L",
                         {"${x} \\n ]] \"q\""}},
                    Rule{"QuotedLinesGoOn", "message(STATUS \"one \\\ntwo\nthree\")\n", {"one two\nthree"}},
                    Rule{"OldStyleWordsWithQuotesInside",
                         R"L(
set(x -Da="b c")
list(LENGTH x n)
message(STATUS "${n} ${x}")
)L",
                         {"1 -Da=\"b c\""}},
                    Rule{"AtSignsStayInListfiles", "set(x 1)\nmessage(STATUS \"@x@\")\n", {"@x@"}},
                    Rule{"Sublists",
                         R"L(
set(l a b c d e)
list(SUBLIST l 1 3 s)
list(SUBLIST l 3 -1 t)
list(POP_FRONT l f g)
list(POP_BACK l h)
list(INSERT l 1 x y)
list(REMOVE_AT l 0 -1)
list(REMOVE_ITEM l y)
message(STATUS "${s} | ${t} | ${f}${g}${h} | ${l}")
)L",
                         {"b;c;d | d;e | abe | x"}},
                    Rule{"Sorting",
                         R"L(
set(l Brick10 brick9 Brick1)
set(m ${l})
list(SORT l COMPARE NATURAL CASE INSENSITIVE)
list(SORT m ORDER DESCENDING)
set(p z/a y/c x/b)
list(SORT p COMPARE FILE_BASENAME)
message(STATUS "${l} | ${m} | ${p}")
)L",
                         {"Brick1;brick9;Brick10 | brick9;Brick10;Brick1 | z/a;x/b;y/c"}},
                    Rule{"Transforming",
                         R"L(
set(l " a " b c)
list(TRANSFORM l STRIP)
list(TRANSFORM l TOUPPER AT 1)
list(TRANSFORM l APPEND x REGEX "^[ab]$" OUTPUT_VARIABLE o)
list(TRANSFORM l GENEX_STRIP)
list(TRANSFORM l PREPEND - FOR 0 2 2)
set(m "h$<$<CONFIG:x>:y>k" plain)
list(TRANSFORM m GENEX_STRIP)
message(STATUS "${l} | ${o} | ${m}")
)L",
                         {"-a;B;-c | ax;B;c | hk;plain"}},
                    Rule{"FindingAndJoining",
                         R"L(
set(l a b)
list(FIND l c i)
list(JOIN none "," j)
list(FILTER l EXCLUDE REGEX "^a")
list(LENGTH none n)
message(STATUS "${i} [${j}] ${l} ${n}")
)L",
                         {"-1 [] b 0"}},
                    Rule{"PrependToNothing",
                         "list(PREPEND l a b)\nlist(APPEND l \"c;d\")\nmessage(STATUS \"${l}\")\n",
                         {"a;b;c;d"}},
                    Rule{"LoopsOverWords",
                         R"L(
set(l "a;b")
foreach(x IN ITEMS ${l} "c;d" IN_LIST)
  string(APPEND out "<${x}>")
endforeach()
foreach(x ${l} LISTS)
  string(APPEND out "(${x})")
endforeach()
foreach(x RANGE 2)
  string(APPEND out "${x}")
endforeach()
message(STATUS "${out}")
)L",
                         {"<a><b><c;d><IN_LIST>(a)(b)(LISTS)012"}},
                    Rule{"ZippedListsOfDifferentLength",
                         R"L(
set(a 1 2 3)
set(b x)
foreach(pair IN ZIP_LISTS a b)
  string(APPEND out "${pair_0}${pair_1}.")
endforeach()
message(STATUS "${out}")
)L",
                         {"1x.2.3."}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(Texts, Semantics,
                         testing::Values(Rule{"Searching",
                                              R"L(
string(FIND "kiln kiln" "ln" a)
string(FIND "kiln kiln" "ln" b REVERSE)
string(FIND "kiln" "x" c)
message(STATUS "${a} ${b} ${c}")
)L",
                                              {"2 7 -1"}},
                                         Rule{"PuttingTogether",
                                              R"L(
set(x b)
string(APPEND x c d)
string(PREPEND x a)
string(CONCAT y 1 "2;3" 4)
string(JOIN "-" z a b c)
string(REPEAT ab 3 r)
string(STRIP "  a b\n" s)
message(STATUS "${x} ${y} ${z} ${r} [${s}]")
)L",
                                              {"abcd 12;34 a-b-c ababab [a b]"}},
                                         Rule{"CuttingAndComparing",
                                              R"L(
string(SUBSTRING "brick" 2 -1 a)
string(SUBSTRING "brick" 0 99 b)
string(COMPARE LESS a b c)
string(COMPARE GREATER_EQUAL b b d)
string(COMPARE EQUAL a "a " e)
string(LENGTH "a;b" n)
string(ASCII 75 105 108 110 k)
string(HEX "Az" h)
message(STATUS "${a} ${b} ${c}${d}${e} ${n} ${k} ${h}")
)L",
                                              {"ick brick 110 3 Kiln 417a"}},
                                         Rule{"PatternsFindTheLeftmostLongest",
                                              R"L(
string(REGEX MATCH "[a-z]+([0-9]*)" m "12 kiln34 clay")
message(STATUS "${m} ${CMAKE_MATCH_0} ${CMAKE_MATCH_1} ${CMAKE_MATCH_COUNT}")
string(REGEX MATCH "x" m "12")
message(STATUS "[${m}] [${CMAKE_MATCH_0}]")
)L",
                                              {"kiln34 kiln34 34 1", "[] []"}},
                                         Rule{"ReplacingBeginsAnewBehindEachMatch",
                                              R"L(
string(REGEX REPLACE "^a" "b" x "aaa")
string(REGEX REPLACE "[ \t]+" " " y "a  b	c")
string(REGEX REPLACE "(a)|(b)" "<\\1\\2>" z "ab")
string(REGEX MATCHALL "." w "a;b")
message(STATUS "${x} ${y} ${z} ${w}")
)L",
                                              {"bbb a b c <a><b> a;;;b"}},
                                         Rule{"SeveralInputsAreOne",
                                              R"L(
string(REGEX REPLACE "b" "x" a "ab" "bc")
string(REPLACE "b" "" b "ab" "bc")
string(TOLOWER "ABC" c)
message(STATUS "${a} ${b} ${c}")
)L",
                                              {"axxc ac abc"}},
                                         Rule{"ExpressionsAreTakenOut",
                                              R"L(
string(GENEX_STRIP "a$<BUILD_INTERFACE:x$<1:y>>b" a)
message(STATUS "${a}")
)L",
                                              {"ab"}},
                                         Rule{"Json",
                                              R"L(
set(j [[{"kilns": [{"name": "a", "cone": 6}, {"name": "b", "lit": false}]}]])
string(JSON n LENGTH "${j}" kilns)
string(JSON t TYPE "${j}" kilns 0 cone)
string(JSON k MEMBER "${j}" kilns 0 0)
string(JSON b GET "${j}" kilns 1 lit)
string(JSON j SET "${j}" kilns 0 name "\"east\"")
string(JSON a GET "${j}" kilns 0 name)
string(JSON j REMOVE "${j}" kilns 1)
string(JSON m LENGTH "${j}" kilns)
message(STATUS "${n} ${t} ${k} ${b} ${a} ${m}")
)L",
                                              {"2 NUMBER cone OFF east 1"}},
                                         Rule{"Numbers",
                                              R"L(
math(EXPR a "7 / 2 + 7 % 3")
math(EXPR b "~5 & 0xF")
math(EXPR c "(1 << 4) ^ 3")
math(EXPR d "-7 / 2")
math(EXPR e "2 * (3 + -1)" OUTPUT_FORMAT DECIMAL)
message(STATUS "${a} ${b} ${c} ${d} ${e}")
)L",
                                              {"4 10 19 -3 4"}},
                                         Rule{"Identifiers",
                                              R"L(
string(MAKE_C_IDENTIFIER "a-b.c d" x)
string(CONFIGURE "@a@ \${b} ${c}" y @ONLY)
message(STATUS "${x} [${y}]")
)L",
                                              {"a_b_c_d [ ${b} ]"}},
                                         Rule{"ParsedArguments",
                                              R"L(
function(fire)
  cmake_parse_arguments(PARSE_ARGV 1 F "FAST;SLOW" "CONE" "CLAYS")
  message(STATUS "${F_FAST} ${F_SLOW} ${F_CONE} ${F_CLAYS} [${F_UNPARSED_ARGUMENTS}] [${F_KEYWORDS_MISSING_VALUES}]")
endfunction()
fire(kiln CLAYS "a;b" c FAST rest CONE)
)L",
                                              {"TRUE FALSE  a\\;b;c [rest] [CONE]"}}),
                         name_of_saying);

INSTANTIATE_TEST_SUITE_P(Decisions, Semantics,
                         testing::Values(Rule{"NamesAndConstants",
                                              R"L(
set(ON_NAME ON)
set(OFF_NAME OFF)
set(TEXT brick)
foreach(word ON_NAME OFF_NAME TEXT brick 1 0 "ON" "brick" NONE_SUCH)
  if(${word})
    string(APPEND out 1)
  else()
    string(APPEND out 0)
  endif()
endforeach()
message(STATUS "${out}")
)L",
                                              {"101010100"}},
                                         Rule{"NumbersAndTexts",
                                              R"L(
set(n 10)
if(n GREATER 9 AND "10" GREATER "9" AND NOT "10" STRGREATER "9" AND n EQUAL "10.0")
  message(STATUS a)
endif()
if("x" EQUAL "x")
  message(STATUS b)
endif()
if("a" STRLESS "b" AND "b" STRGREATER_EQUAL "b")
  message(STATUS c)
endif()
)L",
                                              {"a", "c"}},
                                         Rule{"Versions",
                                              R"L(
if("1.2" VERSION_EQUAL "1.2.0" AND "1.2.10" VERSION_GREATER "1.2.9" AND "" VERSION_LESS "0.1")
  message(STATUS y)
endif()
)L",
                                              {"y"}},
                                         Rule{"Definedness",
                                              R"L(
set(empty "")
set(cached 1 CACHE INTERNAL "")
set(ENV{COCTILIS_TEST_FIRE} "")
if(DEFINED empty AND DEFINED CACHE{cached} AND NOT DEFINED none AND DEFINED ENV{COCTILIS_TEST_FIRE})
  message(STATUS y)
endif()
if(empty OR none)
  message(STATUS n)
endif()
)L",
                                              {"y"}},
                                         Rule{"GroupsOfAMatch",
                                              R"L(
set(text "cone 6 at 1222")
if(text MATCHES "cone ([0-9]+) at ([0-9]+)")
  message(STATUS "${CMAKE_MATCH_1}/${CMAKE_MATCH_2}/${CMAKE_MATCH_COUNT}")
endif()
)L",
                                              {"6/1222/2"}},
                                         Rule{"ComparisonsInARow",
                                              R"L(
set(id GNU)
foreach(wanted 0 1 "")
  if(id MATCHES "Cl" STREQUAL "${wanted}")
    message(STATUS "[${wanted}]")
  endif()
endforeach()
if(1 EQUAL 1 EQUAL 1 AND NOT 2 EQUAL 2 EQUAL 2)
  message(STATUS y)
endif()
)L",
                                              {"[0]", "y"}},
                                         Rule{"Files",
                                              R"L(
file(WRITE ${CMAKE_BINARY_DIR}/a "1")
if(EXISTS ${CMAKE_BINARY_DIR}/a AND NOT IS_DIRECTORY ${CMAKE_BINARY_DIR}/a AND IS_DIRECTORY ${CMAKE_BINARY_DIR}
   AND NOT IS_SYMLINK ${CMAKE_BINARY_DIR}/a AND NOT EXISTS "" AND NOT IS_ABSOLUTE a)
  message(STATUS y)
endif()
)L",
                                              {"y"}},
                                         Rule{"ElseIfTakesTheFirstThatHolds",
                                              R"L(
foreach(n 1 2 3 4)
  if(n EQUAL 1)
    string(APPEND out a)
  elseif(n EQUAL 2)
    string(APPEND out b)
  elseif(n LESS 4)
    string(APPEND out c)
  else()
    string(APPEND out d)
  endif()
endforeach()
message(STATUS "${out}")
)L",
                                              {"abcd"}},
                                         Rule{"WhileWithBreakAndContinue",
                                              R"L(
set(n 0)
while(TRUE)
  math(EXPR n "${n} + 1")
  if(n EQUAL 2)
    continue()
  endif()
  if(n GREATER 4)
    break()
  endif()
  string(APPEND out ${n})
endwhile()
message(STATUS "${out}")
)L",
                                              {"134"}}),
                         name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    PathsAndFiles, Semantics,
    testing::Values(Rule{"PartsOfNames",
                         R"L(
foreach(part DIRECTORY NAME EXT NAME_WE LAST_EXT NAME_WLE)
  get_filename_component(x "/yard/slip.tar.gz" ${part})
  string(APPEND out "${x} ")
endforeach()
get_filename_component(a "../b" ABSOLUTE BASE_DIR /yard/kiln)
message(STATUS "${out}${a}")
)L",
                         {"/yard slip.tar.gz .tar.gz slip .gz slip.tar /yard/b"}},
                    Rule{"WrittenAndReadAgain",
                         R"L(
set(f ${CMAKE_BINARY_DIR}/x/list.txt)
file(WRITE ${f} "one\n" "two;2\n")
file(APPEND ${f} "three\n")
file(STRINGS ${f} lines)
file(STRINGS ${f} some REGEX "^t" LIMIT_COUNT 1)
file(READ ${f} head LIMIT 3)
file(READ ${f} tail OFFSET 10)
file(SIZE ${f} n)
file(SHA256 ${f} h)
string(LENGTH ${h} hn)
list(LENGTH lines ln)
message(STATUS "${ln} [${some}] ${head} [${tail}] ${n} ${hn}")
)L",
                         {"3 [two\\;2] one [three\n] 16 64"}},
                    Rule{"CopiedRenamedRemoved",
                         R"L(
set(d ${CMAKE_BINARY_DIR}/d)
file(MAKE_DIRECTORY ${d}/deep)
file(WRITE ${d}/a.txt "x")
file(COPY ${d}/a.txt DESTINATION ${d}/deep)
file(RENAME ${d}/a.txt ${d}/b.txt)
configure_file(${d}/b.txt ${d}/c.txt COPYONLY)
file(REMOVE ${d}/b.txt)
file(TOUCH ${d}/t)
file(GLOB found RELATIVE ${d} ${d}/* ${d}/deep/*.txt)
file(REMOVE_RECURSE ${d}/deep)
file(GLOB after LIST_DIRECTORIES false RELATIVE ${d} ${d}/*)
message(STATUS "${found} | ${after}")
)L",
                         {"c.txt;deep;deep/a.txt;t | c.txt;t"}},
                    Rule{"RelativeAndReal",
                         R"L(
file(RELATIVE_PATH r /yard/kiln /yard/clay/red)
file(TO_CMAKE_PATH "/a:/b" p)
file(TO_NATIVE_PATH "/a/b" q)
file(REAL_PATH "../x" s BASE_DIRECTORY /yard/kiln)
message(STATUS "${r} ${p} ${q} ${s}")
)L",
                         {"../clay/red /a;/b /a/b /yard/x"}},
                    Rule{"PathCommands",
                         R"L(
set(p "/yard/kiln")
cmake_path(APPEND p "east" "door.txt")
cmake_path(GET p FILENAME f)
cmake_path(GET p PARENT_PATH d)
cmake_path(RELATIVE_PATH p BASE_DIRECTORY /yard/clay OUTPUT_VARIABLE r)
cmake_path(SET q NORMALIZE "/a/../b//c")
cmake_path(REPLACE_FILENAME p "lid" OUTPUT_VARIABLE l)
cmake_path(IS_RELATIVE r rel)
message(STATUS "${f} ${d} ${r} ${q} ${l} ${rel}")
)L",
                         {"door.txt /yard/kiln/east ../kiln/east/door.txt /b/c /yard/kiln/east/lid ON"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(OlderCommands, Semantics,
                         testing::Values(Rule{"StandForNewerOnes",
                                              R"L(
set(list a b c)
remove(list b)
make_directory(${CMAKE_BINARY_DIR}/made)
write_file(${CMAKE_BINARY_DIR}/made/x.txt "one" "two")
write_file(${CMAKE_BINARY_DIR}/made/x.txt "three" APPEND)
file(READ ${CMAKE_BINARY_DIR}/made/x.txt text)
subdirs(clay)
message(STATUS "${list} [${text}] ${CACHED}")
)L",
                                              {"clay:  TREE/clay", "a;c [onetwo\nthree\n] kept"}}),
                         name_of_saying);

INSTANTIATE_TEST_SUITE_P(Properties, Semantics,
                         testing::Values(Rule{"OfTargets",
                                              R"L(
add_custom_target(clay)
set_target_properties(clay PROPERTIES FIRED yes COLOUR red)
set_property(TARGET clay APPEND PROPERTY LIST a b)
set_property(TARGET clay APPEND_STRING PROPERTY COLOUR dish)
get_target_property(fired clay FIRED)
get_target_property(none clay NOTHING)
get_property(list TARGET clay PROPERTY LIST)
get_property(isset TARGET clay PROPERTY NOTHING SET)
get_target_property(colour clay COLOUR)
get_target_property(type clay TYPE)
message(STATUS "${fired} ${none} ${list} ${isset} ${colour} ${type}")
)L",
                                              {"yes none-NOTFOUND a;b 0 reddish UTILITY"}},
                                         Rule{"OfAliases",
                                              R"L(
add_library(clay INTERFACE)
add_library(yard::clay ALIAS clay)
get_target_property(a yard::clay ALIASED_TARGET)
get_target_property(n yard::clay NAME)
if(TARGET yard::clay AND NOT TARGET yard::none)
  message(STATUS "${a} ${n}")
endif()
)L",
                                              {"clay clay"}},
                                         Rule{"OfFoldersAndAll",
                                              R"L(
set_property(GLOBAL PROPERTY YARD_PARTS a)
set_property(GLOBAL APPEND PROPERTY YARD_PARTS b)
get_property(parts GLOBAL PROPERTY YARD_PARTS)
set_property(DIRECTORY PROPERTY MINE x)
get_directory_property(mine MINE)
get_property(again DIRECTORY PROPERTY MINE)
add_compile_definitions(A B=1)
get_directory_property(defs COMPILE_DEFINITIONS)
message(STATUS "${parts} ${mine} ${again} ${defs}")
)L",
                                              {"a;b x x A;B=1"}},
                                         Rule{"OfSourcesAndCache",
                                              R"L(
set_source_files_properties(a.c PROPERTIES COMPILE_DEFINITIONS GLAZED)
get_source_file_property(d a.c COMPILE_DEFINITIONS)
set(CHOICE oak CACHE STRING "which wood")
set_property(CACHE CHOICE PROPERTY STRINGS oak beech)
get_property(s CACHE CHOICE PROPERTY STRINGS)
get_property(h CACHE CHOICE PROPERTY HELPSTRING)
get_property(t CACHE CHOICE PROPERTY TYPE)
message(STATUS "${d} ${s} ${h} ${t}")
)L",
                                              {"GLAZED oak;beech which wood STRING"}},
                                         Rule{"VariablesThatAreProperties",
                                              R"L(
get_property(v VARIABLE PROPERTY CMAKE_SOURCE_DIR)
get_property(d DIRECTORY PROPERTY SOURCE_DIR)
get_directory_property(x DIRECTORY ${CMAKE_SOURCE_DIR} DEFINITION CMAKE_PROJECT_NAME)
message(STATUS "${v} ${d} ${x}")
)L",
                                              {"TREE TREE yard"}},
                                         Rule{"TargetsAskWhatTheyGot",
                                              R"L(
add_library(clay INTERFACE)
target_include_directories(clay INTERFACE include)
target_compile_definitions(clay INTERFACE A -DB)
foreach(p INTERFACE_INCLUDE_DIRECTORIES INTERFACE_COMPILE_DEFINITIONS)
  get_target_property(x clay ${p})
  message(STATUS "${x}")
endforeach()
)L",
                                              {"TREE/include", "A;B"}}),
                         name_of_saying);

INSTANTIATE_TEST_SUITE_P(Flow, Semantics,
                         testing::Values(Rule{"CalledByName",
                                              R"L(
set(what STATUS)
cmake_language(CALL message ${what} "a")
cmake_language(EVAL CODE "set(x 5)\nmessage(STATUS \"\${x}\")")
)L",
                                              {"a", "5"}},
                                         Rule{"DeferredCallsComeInOrder",
                                              R"L(
cmake_language(DEFER CALL message STATUS 1)
cmake_language(DEFER ID two CALL message STATUS 2)
cmake_language(DEFER ID three CALL message STATUS 3)
cmake_language(DEFER CANCEL_CALL two)
cmake_language(DEFER ID_VAR four CALL message STATUS "${late}")
cmake_language(DEFER GET_CALL_IDS ids)
cmake_language(DEFER GET_CALL three call)
set(late now)
message(STATUS "0 ${four} ${ids} ${call}")
)L",
                                              {"0 _3 _0;three;_3 message;STATUS;3", "1", "3", "now"}},
                                         Rule{"DeferredCallsThatOthersMakeUp",
                                              R"L(
cmake_language(DEFER CALL cmake_language DEFER CALL message STATUS "${late} 3")
cmake_language(CALL cmake_language DEFER CALL message STATUS "${late} 2")
macro(later text)
  cmake_language(DEFER CALL message STATUS "${text} ${late} 1")
endmacro()
later(macro)
set(late now)
message(STATUS 0)
)L",
                                              {"0", " 2", "macro now 1", "now 3"}},
                                         Rule{"VariablesOfTheMoment",
                                              R"L(
function(where)
  message(STATUS "${CMAKE_CURRENT_FUNCTION} ${CMAKE_CURRENT_LIST_LINE}")
endfunction()
where()
message(STATUS "${CMAKE_CURRENT_LIST_FILE} ${PROJECT_NAME} ${CMAKE_PROJECT_NAME}")
)L",
                                              {"where 5", "TREE/CMakeLists.txt yard yard"}},
                                         Rule{"AProjectSetsItsVersion",
                                              R"L(
project(glaze VERSION 2.5.1 DESCRIPTION "shiny" LANGUAGES NONE)
message(STATUS "${PROJECT_VERSION} ${PROJECT_VERSION_MAJOR} ${glaze_VERSION_PATCH} ${PROJECT_VERSION_TWEAK}. ${PROJECT_DESCRIPTION}")
)L",
                                              {"2.5.1 2 1 . shiny"}},
                                         Rule{"Levels",
                                              R"L(
message(VERBOSE hidden)
message(DEBUG hidden)
message(TRACE hidden)
list(APPEND CMAKE_MESSAGE_INDENT "  ")
message(STATUS a b "c;d")
)L",
                                              {"  abc;d"}}),
                         name_of_saying);

}  // namespace
}  // namespace coctilis::test
