// Trees with a meson.build: from the description to programs that run, and what is done again.
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "base/text.h"
#include "support.h"

namespace coctilis::test {
namespace {

class MesonBuildTree : public DrivenTree {
 protected:
  void write_yard() const {
    tree.write(
        "meson.build",
        "project('yard', 'c', 'cpp', version: '2.1.0', default_options: ['c_std=gnu11', 'warning_level=2'])\n"
        "compiler = meson.get_compiler('c')\nconfiguration = configuration_data()\n"
        "configuration.set_quoted('YARD_VERSION', meson.project_version())\n"
        "configuration.set('LONG_SIZE', compiler.sizeof('long'))\n"
        "foreach function : ['strdup', 'fire_that_nobody_has']\n"
        "  if compiler.has_function(function)\n    configuration.set('HAVE_' + function.to_upper(), 1)\n  endif\n"
        "endforeach\nconfigure_file(output: 'config.h', configuration: configuration)\n"
        "top = include_directories('.')\nsubdir('clay')\n"
        "table = custom_target('table', input: 'table.txt', output: ['table.c', 'table.h'],\n"
        "  command: [find_program('table.sh'), '@INPUT@', '@OUTPUT@'])\n"
        "kiln = executable('kiln', 'kiln.cpp', table, dependencies: clay_dependency, install: true)\n"
        "test('heats', kiln, args: ['7'])\ntest('is refused', kiln, args: ['cold'], should_fail: true)\n"
        "install_headers('clay/clay.h', subdir: 'yard')\n"
        "import('pkgconfig').generate(clay, description: 'Clay of the yard', subdirs: 'yard')\n");
    tree.write(
        "clay/meson.build",
        "helper = static_library('helper', 'helper.c')\n"
        "clay = library('clay', 'clay.c', include_directories: top, link_with: helper,\n"
        "  dependencies: compiler.find_library('m', required: false), version: '2.1.0', install: true)\n"
        "clay_dependency = declare_dependency(link_with: clay, include_directories: include_directories('.'))\n");
    tree.write("clay/helper.c", "int helper(void) { return 3; }\n");
    tree.write("clay/clay.h",
               "#pragma once\n#ifdef __cplusplus\nextern \"C\"\n#endif\nconst char* clay_version(void);\n");
    tree.write(
        "clay/clay.c",
        "#include \"config.h\"\n#include \"clay.h\"\n#include <math.h>\nint helper(void);\n"
        "#ifdef HAVE_FIRE_THAT_NOBODY_HAS\n#error it is there\n#endif\n#ifndef HAVE_STRDUP\n#error it is not\n#endif\n"
        "const char* clay_version(void) { return helper() > sqrt(LONG_SIZE) ? YARD_VERSION : \"none\"; }\n");
    tree.write("table.txt", "41\n");
    tree.write("table.sh",
               "#!/bin/sh\nprintf 'const int table = %s;\\n' \"$(cat $1)\" >$2\n"
               "printf '#pragma once\\nextern \"C\" const int table;\\n' >$3\n");
    std::filesystem::permissions(tree.path("table.sh"), std::filesystem::perms(0755));
    tree.write(
        "kiln.cpp",
        "#include \"table.h\"\n#include <clay.h>\n#include <cstdio>\n#include <cstring>\n"
        "int main(int count, char** words) {\n  if (count > 1 && std::strcmp(words[1], \"cold\") == 0) return 3;\n"
        "  std::printf(\"%s %d\\n\", clay_version(), table);\n}\n");
  }
};

TEST_F(MesonBuildTree, ComesUpAndIsInstalled) {
  write_yard();
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("follows meson.build"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("2 declared tests"), std::string::npos) << said.all();
  EXPECT_EQ(said_by("kiln"), "2.1.0 41\n");
  const std::string prefix = tree.scratch() + "/prefix";
  ASSERT_EQ(run("stage", {"--prefix", prefix}).exit, 0);
  for (const char* file : {"bin/kiln", "lib/libclay.so.2.1.0", "lib/libclay.so.2", "lib/libclay.so",
                           "include/yard/clay.h", "lib/pkgconfig/clay.pc"})
    EXPECT_TRUE(files::exists(prefix + "/" + file)) << file;
  const std::string told = files::read(prefix + "/lib/pkgconfig/clay.pc").value_or("");
  EXPECT_NE(told.find("Libs: -L${libdir} -lclay\n"), std::string::npos) << told;
  EXPECT_NE(told.find("Cflags: -I${includedir}/yard\n"), std::string::npos) << told;
}

TEST_F(MesonBuildTree, OnlyWhatChangedIsMadeAgain) {
  write_yard();
  ASSERT_EQ(run("build").exit, 0);
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_TRUE(tree.ran().empty());
  tree.write("table.txt", "42\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "2.1.0 42\n");
  EXPECT_FALSE(tree.ran().contains("clay/clay.c"));
  // What configuring wrote is written anew when the description says something else.
  const std::string text = files::read(tree.path("meson.build")).value_or("");
  tree.write("meson.build", text::replace_all(text, "'2.1.0'", "'2.2.0'"));
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "2.2.0 42\n");
}

TEST_F(MesonBuildTree, SubprojectsStandInForWhatIsNotThere) {
  tree.write("meson.build",
             "project('yard', 'c')\nslip = dependency('slip-of-the-yard', fallback: ['slip', 'slip_dependency'])\n"
             "executable('kiln', 'kiln.c', dependencies: slip)\n");
  tree.write("kiln.c",
             "#include <stdio.h>\n#include <slip.h>\nint main(void) { printf(\"%d\\n\", slip()); return 0; }\n");
  tree.write("subprojects/slip/meson.build",
             "project('slip', 'c', default_options: ['default_library=static'])\n"
             "slip = library('slip', 'slip.c', c_args: '-DWET=' + get_option('wet').to_string())\n"
             "slip_dependency = declare_dependency(link_with: slip, include_directories: include_directories('.'))\n");
  tree.write("subprojects/slip/meson_options.txt", "option('wet', type: 'integer', value: 5)\n");
  tree.write("subprojects/slip/slip.c", "#include \"slip.h\"\nint slip(void) { return WET; }\n");
  tree.write("subprojects/slip/slip.h", "int slip(void);\n");
  auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "5\n");
  said = run("build", {"--set", "slip:wet=6"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "6\n");
  std::filesystem::remove_all(tree.path("subprojects"));
  said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("slip-of-the-yard"), std::string::npos) << said.all();
}

TEST_F(MesonBuildTree, ObjectsAndWholeArchivesAreTakenIn) {
  tree.write("meson.build",
             "project('yard', 'c')\nparts = static_library('parts', 'one.c', 'two.c')\n"
             "whole = shared_library('whole', 'three.c', link_whole: parts)\n"
             "executable('kiln', 'kiln.c', objects: parts.extract_objects('two.c'), link_with: whole)\n"
             "executable('all', 'kiln.c', objects: [parts.extract_all_objects(recursive: true), "
             "whole.extract_all_objects(recursive: false)])\n");
  tree.write("one.c", "int one(void) { return 1; }\n");
  tree.write("two.c", "int two(void) { return 2; }\n");
  tree.write("three.c", "int three(void) { return 3; }\n");
  tree.write("kiln.c",
             "#include <stdio.h>\nint one(void); int two(void); int three(void);\n"
             "int main(void) { printf(\"%d\\n\", one() * 100 + two() * 10 + three()); return 0; }\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "123\n");
  EXPECT_EQ(said_by("all"), "123\n");
}

TEST_F(MesonBuildTree, GeneratorsMakeAFileForEach) {
  tree.write("meson.build",
             "project('yard', 'c')\nmaker = generator(find_program('make.sh'), output: '@BASENAME@.c', arguments: "
             "['@INPUT@', '@OUTPUT@', '@EXTRA_ARGS@'])\n"
             "executable('kiln', 'kiln.c', maker.process('clay.brick', 'slip.brick', extra_args: '7'))\n");
  for (const char* name : {"clay", "slip"}) tree.write(std::string(name) + ".brick", std::string(name) + "\n");
  tree.write("make.sh", "#!/bin/sh\nprintf 'int %s(void) { return %s; }\\n' \"$(cat $1)\" $3 >$2\n");
  std::filesystem::permissions(tree.path("make.sh"), std::filesystem::perms(0755));
  tree.write("kiln.c",
             "#include <stdio.h>\nint clay(void); int slip(void);\nint main(void) { printf(\"%d\\n\", clay() + "
             "slip()); return 0; }\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "14\n");
}

// It is made again each time, and what is made of it only when it has become another.
TEST_F(MesonBuildTree, WhatIsAlwaysStaleIsMadeEachTime) {
  tree.write("meson.build",
             "project('yard', 'c')\nstamp = custom_target('stamp', output: 'stamp.h', build_always_stale: true,\n"
             "  command: [find_program('stamp.sh'), '@OUTPUT@', '@SOURCE_ROOT@/stamp.txt'])\n"
             "executable('kiln', 'kiln.c', stamp)\n");
  // Where it reads from is nowhere in the description.
  tree.write("stamp.sh", "#!/bin/sh\nprintf '#define STAMP %s\\n' \"$(cat $2)\" >$1\n");
  std::filesystem::permissions(tree.path("stamp.sh"), std::filesystem::perms(0755));
  tree.write("stamp.txt", "1\n");
  tree.write("kiln.c",
             "#include <stdio.h>\n#include \"stamp.h\"\nint main(void) { printf(\"%d\\n\", STAMP); return 0; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "1\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), (std::set<std::string>{"stamp"}));
  tree.write("stamp.txt", "2\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "2\n");
}

TEST_F(MesonBuildTree, TestsAreJudgedByWhatTheyPrint) {
  tree.write("meson.build",
             "project('yard', 'c')\nfired = find_program('fired.sh')\n"
             "test('whole', fired, args: 'ok 1', protocol: 'tap')\n"
             "test('cracked', fired, args: 'not ok 1 - crack', protocol: 'tap')\n"
             "test('short', fired, args: '# none', protocol: 'tap')\n");
  tree.write("fired.sh", "#!/bin/sh\necho 1..1\necho \"$1\"\n");
  std::filesystem::permissions(tree.path("fired.sh"), std::filesystem::perms(0755));
  const auto said = run("smoke");
  EXPECT_NE(said.exit, 0);
  EXPECT_NE(said.all().find("not ok 1 - crack"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("its plan has 1 point, and it tells of 0"), std::string::npos) << said.all();
  const auto record = tree.record();
  std::map<std::string, std::string> verdicts;
  for (const auto& check : record["checks"]) verdicts[check["name"]] = check["verdict"];
  EXPECT_EQ(verdicts["whole"], "passed");
  EXPECT_EQ(verdicts["cracked"], "failed");
  EXPECT_EQ(verdicts["short"], "failed");
}

// Its own words stand where they count, in the record and on the screen.
TEST_F(MesonBuildTree, OptionsAreShownAndSet) {
  tree.write(
      "meson.build",
      "project('yard', 'c')\nexecutable('kiln', 'kiln.c', c_args: '-DVENTS=' + get_option('vents').to_string())\n");
  tree.write("meson.options", "option('vents', type: 'integer', value: 4, description: 'How many vents it has')\n");
  tree.write("kiln.c", "#include <stdio.h>\nint main(void) { printf(\"%d\\n\", VENTS); return 0; }\n");
  const auto shown = run("plan", {"--options"});
  EXPECT_NE(shown.all().find("vents = 4"), std::string::npos) << shown.all();
  ASSERT_EQ(run("build", {"--set", "vents=9"}).exit, 0);
  EXPECT_EQ(said_by("kiln"), "9\n");
  EXPECT_EQ(run("build", {"--set", "vents=many"}).exit, 2);
  // What was refused is not kept.
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "9\n");
}

}  // namespace
}  // namespace coctilis::test
