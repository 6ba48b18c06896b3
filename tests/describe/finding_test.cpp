// find_program, find_library, find_path and find_file; commands that count for a folder; packages by their files.
#include <sys/stat.h>

#include "describe/reader.h"

namespace coctilis::test {
namespace {

using Words = std::vector<std::string>;

using Rule = Saying;

class Yard : public testing::TestWithParam<Rule> {
 protected:
  void SetUp() override {
    reading.tree.write("pre/include/clay.h", "#define CLAY_VERSION \"1.4\"\n");
    reading.tree.write("pre/include/sub/glaze.h", "");
    reading.tree.write("pre/lib/libclay.so", "INPUT ( -lc )\n");
    reading.tree.write("pre/lib/libslip.a", "!<arch>\n");
    reading.tree.write("pre/bin/firer", "#!/bin/sh\n");
    ::chmod(reading.tree.path("pre/bin/firer").c_str(), 0755);
    reading.tree.write("pre/bin/no-program", "");
    reading.tree.write("pre/lib/cmake/Kiln/KilnConfig.cmake",
                       "set(Kiln_DOORS 2)\nadd_library(Kiln::kiln INTERFACE IMPORTED)\n"
                       "set(Kiln_roof_FOUND 1)\nforeach(c IN LISTS Kiln_FIND_COMPONENTS)\n"
                       "  if(NOT Kiln_${c}_FOUND AND Kiln_FIND_REQUIRED_${c})\n    set(Kiln_FOUND FALSE)\n"
                       "    set(Kiln_NOT_FOUND_MESSAGE \"there is no ${c}\")\n  endif()\nendforeach()\n");
    reading.tree.write("pre/lib/cmake/Kiln/KilnConfigVersion.cmake",
                       "set(PACKAGE_VERSION 2.3.1)\nif(PACKAGE_FIND_VERSION VERSION_GREATER PACKAGE_VERSION)\n"
                       "  set(PACKAGE_VERSION_COMPATIBLE FALSE)\nelse()\n  set(PACKAGE_VERSION_COMPATIBLE TRUE)\n"
                       "  if(PACKAGE_FIND_VERSION STREQUAL PACKAGE_VERSION)\n    set(PACKAGE_VERSION_EXACT TRUE)\n"
                       "  endif()\nendif()\n");
  }
  Words says(const std::string& text) {
    return reading.tree.named(reading.says("set(pre ${CMAKE_SOURCE_DIR}/pre)\n" + text));
  }
  Reading reading;
};

TEST_P(Yard, Says) { EXPECT_EQ(says(GetParam().text), GetParam().says); }

INSTANTIATE_TEST_SUITE_P(
    Finding, Yard,
    testing::Values(Rule{"ByPlaceOnly",
                         R"L(
find_path(a clay.h PATHS ${pre}/include NO_DEFAULT_PATH)
find_path(b glaze.h HINTS ${pre} PATH_SUFFIXES include/sub NO_DEFAULT_PATH)
find_file(c clay.h PATHS ${pre}/include NO_DEFAULT_PATH)
find_library(d NAMES none clay PATHS ${pre} PATH_SUFFIXES lib NO_DEFAULT_PATH)
find_program(e NAMES firer PATHS ${pre}/bin NO_DEFAULT_PATH)
message(STATUS "${a} ${b} ${c} ${d} ${e}")
)L",
                         {"TREE/pre/include TREE/pre/include/sub TREE/pre/include/clay.h TREE/pre/lib/libclay.so "
                          "TREE/pre/bin/firer"}},
                    Rule{"APrefixCountsItself",
                         R"L(
set(CMAKE_PREFIX_PATH ${pre})
find_path(a sub/glaze.h)
find_path(b glaze.h PATH_SUFFIXES include/sub)
find_file(c bin/firer)
message(STATUS "${a} ${b} ${c}")
)L",
                         {"TREE/pre/include TREE/pre/include/sub TREE/pre/bin/firer"}},
                    Rule{"WhatIsNotThere",
                         R"L(
find_path(a none.h PATHS ${pre}/include NO_DEFAULT_PATH)
find_program(b no-program PATHS ${pre}/bin NO_DEFAULT_PATH)
find_library(c NAMES none PATHS ${pre}/lib NO_DEFAULT_PATH)
message(STATUS "${a} ${b} ${c}")
if(NOT a AND NOT b AND NOT c)
  message(STATUS none)
endif()
)L",
                         {"a-NOTFOUND b-NOTFOUND c-NOTFOUND", "none"}},
                    Rule{"NoOtherPlacesThanThoseNamed",
                         R"L(
find_path(a stdio.h PATHS ${pre} NO_DEFAULT_PATH)
find_library(b c PATHS ${pre} NO_DEFAULT_PATH)
find_program(c sh PATHS ${pre} NO_DEFAULT_PATH)
find_file(d stdio.h PATHS ${pre} NO_DEFAULT_PATH)
message(STATUS "${a} ${b} ${c} ${d}")
)L",
                         {"a-NOTFOUND b-NOTFOUND c-NOTFOUND d-NOTFOUND"}},
                    Rule{"HintsComeBeforeTheUsualPlacesOtherPathsBehind",
                         R"L(
file(WRITE ${CMAKE_BINARY_DIR}/own/stdio.h "")
find_path(a stdio.h PATHS ${CMAKE_BINARY_DIR}/own)
find_path(b stdio.h HINTS ${CMAKE_BINARY_DIR}/own)
string(REPLACE ${CMAKE_BINARY_DIR} OUT b ${b})
if(a STREQUAL "${CMAKE_BINARY_DIR}/own")
  message(STATUS "the path came first")
endif()
message(STATUS ${b})
)L",
                         {"OUT/own"}},
                    Rule{"DevicesAreFilesFoldersAreNot",
                         R"L(
find_file(a none NO_DEFAULT_PATH PATHS /dev)
find_file(b null PATHS /dev NO_DEFAULT_PATH)
find_file(c NAMES shm PATHS /dev NO_DEFAULT_PATH)
find_path(d NAMES shm PATHS /dev NO_DEFAULT_PATH)
message(STATUS "${a} ${b} ${c} ${d}")
)L",
                         {"a-NOTFOUND /dev/null c-NOTFOUND /dev"}},
                    Rule{"BelowPrefixes",
                         R"L(
set(CMAKE_PREFIX_PATH /nowhere ${pre})
find_path(a clay.h)
find_library(b clay)
find_program(c firer)
find_file(d sub/glaze.h)
message(STATUS "${a} ${b} ${c} ${d}")
)L",
                         {"TREE/pre/include TREE/pre/lib/libclay.so TREE/pre/bin/firer TREE/pre/include/sub/glaze.h"}},
                    Rule{"NamesBeforeTheKeywords",
                         R"L(
find_program(a names firer HINTS ${pre}/bin)
find_library(b no-clay clay PATHS ${pre}/lib NO_DEFAULT_PATH)
find_program(c firer ${pre}/bin)
message(STATUS "${a} ${b} ${c}")
)L",
                         {"TREE/pre/bin/firer TREE/pre/lib/libclay.so TREE/pre/bin/firer"}},
                    Rule{"BySpecialVariables",
                         R"L(
set(CMAKE_INCLUDE_PATH ${pre}/include)
set(CMAKE_LIBRARY_PATH ${pre}/lib)
set(CMAKE_PROGRAM_PATH ${pre}/bin)
find_path(a clay.h)
find_library(b slip)
find_program(c firer)
set(ENV{COCTILIS_TEST_PRE} ${pre})
find_path(d glaze.h PATHS ENV COCTILIS_TEST_PRE PATH_SUFFIXES include/sub NO_DEFAULT_PATH)
message(STATUS "${a} ${b} ${c} ${d}")
)L",
                         {"TREE/pre/include TREE/pre/lib/libslip.a TREE/pre/bin/firer TREE/pre/include/sub"}},
                    Rule{"WhatIsKnownIsNotSearched",
                         R"L(
set(a keep)
find_path(a clay.h PATHS ${pre}/include NO_DEFAULT_PATH)
set(b b-NOTFOUND)
find_path(b clay.h PATHS ${pre}/include NO_DEFAULT_PATH)
find_path(c none.h PATHS ${pre} NO_DEFAULT_PATH)
find_path(c clay.h PATHS ${pre}/include NO_DEFAULT_PATH)
message(STATUS "${a} ${b} ${c}")
)L",
                         {"keep TREE/pre/include TREE/pre/include"}},
                    Rule{"OneNameAfterTheOther",
                         R"L(
find_file(a NAMES glaze.h clay.h PATHS ${pre}/include ${pre}/include/sub NO_DEFAULT_PATH)
find_library(b NAMES slip clay PATHS ${pre}/lib NO_DEFAULT_PATH)
find_library(c NAMES libclay.so PATHS ${pre}/lib NO_DEFAULT_PATH)
message(STATUS "${a} ${b} ${c}")
)L",
                         {"TREE/pre/include/sub/glaze.h TREE/pre/lib/libslip.a TREE/pre/lib/libclay.so"}},
                    Rule{"StaticLibrariesFirstWhereThatIsAsked",
                         R"L(
file(WRITE ${CMAKE_BINARY_DIR}/both/libglaze.so "INPUT ( -lc )")
file(WRITE ${CMAKE_BINARY_DIR}/both/libglaze.a "!<arch>\n")
find_library(a glaze PATHS ${CMAKE_BINARY_DIR}/both NO_DEFAULT_PATH)
set(CMAKE_FIND_LIBRARY_SUFFIXES .a)
find_library(b glaze PATHS ${CMAKE_BINARY_DIR}/both NO_DEFAULT_PATH)
get_filename_component(a ${a} NAME)
get_filename_component(b ${b} NAME)
message(STATUS "${a} ${b}")
)L",
                         {"libglaze.so libglaze.a"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Packages, Yard,
    testing::Values(
        Rule{"ByTheirOwnFiles",
             R"L(
find_package(Kiln 2.1 CONFIG PATHS ${pre} NO_DEFAULT_PATH)
message(STATUS "${Kiln_FOUND} ${Kiln_VERSION} ${Kiln_VERSION_MAJOR} ${Kiln_DOORS} ${Kiln_DIR}")
if(TARGET Kiln::kiln)
  message(STATUS target)
endif()
)L",
             {"1 2.3.1 2 2 TREE/pre/lib/cmake/Kiln", "target"}},
        Rule{"ByTheirRoot",
             R"L(
set(Kiln_ROOT ${pre})
find_package(Kiln QUIET)
message(STATUS "${Kiln_FOUND}")
)L",
             {"1"}},
        Rule{"ByTheirFolder",
             R"L(
set(Kiln_DIR ${pre}/lib/cmake/Kiln)
find_package(Kiln 2.3.1 EXACT)
message(STATUS "${Kiln_FOUND}")
)L",
             {"1"}},
        Rule{"OfALaterVersionAreNotThere",
             R"L(
find_package(Kiln 3 QUIET PATHS ${pre} NO_DEFAULT_PATH)
message(STATUS "[${Kiln_FOUND}] ${Kiln_CONSIDERED_VERSIONS}")
)L",
             {"[0] 2.3.1"}},
        Rule{"WithTheirComponents",
             R"L(
find_package(Kiln QUIET COMPONENTS roof OPTIONAL_COMPONENTS cellar PATHS ${pre} NO_DEFAULT_PATH)
message(STATUS "${Kiln_FOUND} [${Kiln_roof_FOUND}] [${Kiln_cellar_FOUND}]")
find_package(Kiln QUIET COMPONENTS chimney PATHS ${pre} NO_DEFAULT_PATH)
message(STATUS "${Kiln_FOUND}")
)L",
             {"1 [1] []", "FALSE"}},
        Rule{"ThatAreTurnedOff",
             R"L(
set(CMAKE_DISABLE_FIND_PACKAGE_Kiln TRUE)
set(CMAKE_PREFIX_PATH ${pre})
find_package(Kiln)
message(STATUS "[${Kiln_FOUND}]")
)L",
             {"[0]"}},
        Rule{"ByAFinderOfTheTree",
             R"L(
file(WRITE ${CMAKE_BINARY_DIR}/own/FindClay.cmake [=[
find_path(Clay_INCLUDE_DIR clay.h PATHS ${pre}/include NO_DEFAULT_PATH)
file(STRINGS ${Clay_INCLUDE_DIR}/clay.h line REGEX "CLAY_VERSION")
string(REGEX MATCH "[0-9.]+" Clay_VERSION "${line}")
include(FindPackageHandleStandardArgs)
find_package_handle_standard_args(Clay REQUIRED_VARS Clay_INCLUDE_DIR VERSION_VAR Clay_VERSION)
]=])
list(APPEND CMAKE_MODULE_PATH ${CMAKE_BINARY_DIR}/own)
find_package(Clay 1.2)
message(STATUS "${Clay_FOUND} ${CLAY_FOUND} ${Clay_VERSION}")
find_package(Clay 2.0 QUIET)
message(STATUS "${Clay_FOUND}")
)L",
             {"TRUE TRUE 1.4", "FALSE"}},
        Rule{"ByAFinderThatSaysNothing",
             R"L(
file(WRITE ${CMAKE_BINARY_DIR}/own/FindSand.cmake "set(asked \"\${Sand_FIND_VERSION_COUNT} \${Sand_FIND_VERSION_MINOR} \${Sand_FIND_VERSION_PATCH}\")\nreturn()\n")
list(APPEND CMAKE_MODULE_PATH ${CMAKE_BINARY_DIR}/own)
find_package(Sand 1.2 MODULE REQUIRED)
message(STATUS "${asked} [${Sand_FOUND}]")
)L",
             {"2 2 0 []"}},
        Rule{"ByThePlainNameOfTheTool",
             R"L(
execute_process(COMMAND cmake -E make_directory ${CMAKE_BINARY_DIR}/bricks)
execute_process(COMMAND cmake --version OUTPUT_VARIABLE v)
string(REGEX MATCH "[0-9]+[.][0-9.]+" v "${v}")
if(IS_DIRECTORY ${CMAKE_BINARY_DIR}/bricks AND v VERSION_EQUAL CMAKE_VERSION)
  message(STATUS there)
endif()
add_compiler_export_flags()
add_compiler_export_flags(flags)
message(STATUS "${CMAKE_CXX_FLAGS}|${flags}")
)L",
             {"there",
              " -fvisibility=hidden -fvisibility-inlines-hidden|-fvisibility=hidden -fvisibility-inlines-hidden"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Folders, Yard,
    testing::Values(Rule{"IncludesAndDefinitions",
                         R"L(
include_directories(a)
include_directories(BEFORE b)
add_definitions(-DA -DB=2 -Wfire)
remove_definitions(-DA)
add_compile_options(-O1)
link_directories(l)
foreach(p INCLUDE_DIRECTORIES COMPILE_DEFINITIONS COMPILE_OPTIONS LINK_DIRECTORIES)
  get_directory_property(x ${p})
  message(STATUS "${x}")
endforeach()
)L",
                         {"TREE/b;TREE/a", "B=2", "-Wfire;-O1", "TREE/l"}},
                    Rule{"DefinitionsWithSpaces",
                         R"L(
cmake_policy(SET CMP0005 NEW)
add_definitions("-DRELEASE=2.1 (2031-05-04)" [[-DGREETING="good morning"]] "-DKILN -DTUNNEL")
cmake_policy(SET CMP0005 OLD)
add_definitions("-DCLAY=2 -DSAND")
get_directory_property(x COMPILE_DEFINITIONS)
message(STATUS "${x}")
)L",
                         {"RELEASE=2.1 (2031-05-04);GREETING=\"good morning\";KILN;TUNNEL;CLAY=2;SAND"}},
                    Rule{"ArgumentsWithPlaces",
                         R"L(
set(list "a b")
separate_arguments(list)
separate_arguments(other NATIVE_COMMAND "x 'y z'")
list(LENGTH list n)
list(LENGTH other m)
site_name(site)
if(site)
  set(site yes)
endif()
get_cmake_property(roles ROLE)
message(STATUS "${n} ${m} ${site} ${roles}")
)L",
                         {"2 2 yes PROJECT"}},
                    Rule{"TheMachine",
                         R"L(
cmake_host_system_information(RESULT cores QUERY NUMBER_OF_LOGICAL_CORES)
if(cores GREATER 0 AND UNIX AND NOT WIN32 AND NOT APPLE AND CMAKE_SYSTEM_NAME STREQUAL "Linux"
   AND CMAKE_HOST_SYSTEM_NAME STREQUAL "Linux" AND NOT CMAKE_CROSSCOMPILING)
  message(STATUS "${CMAKE_EXECUTABLE_SUFFIX}|${CMAKE_SHARED_LIBRARY_PREFIX}|${CMAKE_SHARED_LIBRARY_SUFFIX}|${CMAKE_STATIC_LIBRARY_SUFFIX}")
endif()
)L",
                         {"|lib|.so|.a"}}),
    name_of_saying);

}  // namespace
}  // namespace coctilis::test
