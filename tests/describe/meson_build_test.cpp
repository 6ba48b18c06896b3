// The language of meson.build files, to the letter, and what its functions come to.
#include <gtest/gtest.h>

#include "base/text.h"
#include "meson_build_reading.h"

namespace coctilis::describe::meson_build {
namespace {

TEST_F(MesonBuildTest, ExpressionsBindAsTheyShould) {
  EXPECT_EQ(value("1 + 2 * 3 - 4 / 2"), "5");
  EXPECT_EQ(value("(1 + 2) * 3"), "9");
  EXPECT_EQ(value("-7 / 2, -7 % 2, 7 % 3"), "-4 1 1");
  EXPECT_EQ(value("0x10 + 0b11 + 0o7"), "26");
  EXPECT_EQ(value("not true or true"), "true");
  EXPECT_EQ(value("not (true and false)"), "true");
  EXPECT_EQ(value("1 < 2 ? 'clay' : 'slip'"), "clay");
  EXPECT_EQ(value("'a' in ['a', 'b'] and 'c' not in ['a']"), "true");
  EXPECT_EQ(value("'kil' in 'kiln'"), "true");
  EXPECT_EQ(value("'k' in {'k': 1}"), "true");
  EXPECT_EQ(value("'usr' / 'lib', 'usr' / '/lib'"), "usr/lib /lib");
  EXPECT_EQ(value("[1, [2]] + [3] + 4"), "[1, [2], 3, 4]");
  EXPECT_EQ(value("[1, 2, 3][-1], 'clay'[1]"), "3 l");
  EXPECT_EQ(value("{'a': 1} + {'a': 2, 'b': 3}"), "{'a' : 2, 'b' : 3}");
  EXPECT_EQ(value("[1] == [1] and {'a': 1} == {'a': 1} and [1] != [2]"), "true");
}
TEST_F(MesonBuildTest, TextsAreReadWithTheirEscapes) {
  EXPECT_EQ(value(R"('a\tb')"), "a\tb");
  EXPECT_EQ(value(R"('a\'b\\c')"), "a'b\\c");
  EXPECT_EQ(value(R"('\x41\u00e9\101\q')"), "A\u00e9A\\q");
  EXPECT_EQ(value("'''a\\n'b'''"), "a\\n'b");
  EXPECT_EQ(says("kiln = 7\nmessage(f'kiln @kiln@ of @kiln@, and a@b')\n").front(), "kiln 7 of 7, and a@b");
  EXPECT_EQ(value("'one ' \\\n + 'line'"), "one line");
}
TEST_F(MesonBuildTest, TextsHaveMethods) {
  EXPECT_EQ(value("'Kiln'.to_upper(), 'Kiln'.to_lower(), ' a '.strip(), 'xax'.strip('x')"), "KILN kiln a a");
  EXPECT_EQ(value("'a-b.c'.underscorify()"), "a_b_c");
  EXPECT_EQ(value("'a,b,,c'.split(','), ' a  b '.split()"), "['a', 'b', '', 'c'] ['a', 'b']");
  EXPECT_EQ(value("'-'.join(['a', 'b'])"), "a-b");
  EXPECT_EQ(value("'@0@ of @1@'.format('clay', 3)"), "clay of 3");
  EXPECT_EQ(value("'clay'.startswith('cl') and 'clay'.endswith('ay') and 'clay'.contains('la')"), "true");
  EXPECT_EQ(value("'clay'.substring(1, -1), 'clay'.replace('a', 'o'), ' 12'.to_int() + 1"), "la cloy 13");
  EXPECT_EQ(value("'1.10'.version_compare('>=1.9'), '1.2'.version_compare('<1.2', '>1'), '2'.version_compare('2.0')"),
            "true false true");
  EXPECT_EQ(value("'a\\nb\\r\\n'.splitlines()"), "['a', 'b']");
}
TEST_F(MesonBuildTest, ListsAndDictionariesHaveMethods) {
  EXPECT_EQ(value("[1, 2].length(), [1, [2]].contains(2), [1].get(3, 'none')"), "2 true none");
  EXPECT_EQ(value("{'b': 1, 'a': 2}.keys(), {'a': 1}.get('b', 0), {'a': 1}.has_key('a')"), "['a', 'b'] 0 true");
  EXPECT_EQ(value("4.is_even(), true.to_string('on', 'off'), 7.to_string(fill: 3), false.to_int()"), "true on 007 0");
  EXPECT_EQ(value("range(3), range(2, 9, 3)"), "[0, 1, 2] [2, 5, 8]");
}
TEST_F(MesonBuildTest, StatementsFollowOneAnother) {
  EXPECT_EQ(says("sum = 0\nforeach i : [1, 2, 3, 4]\n  if i == 2\n    continue\n  elif i == 4\n    break\n  else\n"
                 "    sum += i\n  endif\nendforeach\nmessage(sum)\n")
                .front(),
            "4");
  EXPECT_EQ(says("text = ''\nforeach key, held : {'a': 1, 'b': 2}\n  text += key + held.to_string()\nendforeach\n"
                 "message(text)\n")
                .front(),
            "a1b2");
  EXPECT_EQ(says("set_variable('kiln', 3)\nmessage(get_variable('kiln'), get_variable('none', 4), "
                 "is_variable('kiln'))\n")
                .front(),
            "3 4 true");
  EXPECT_EQ(says("a = [1]\nb = a\na += 2\nmessage(a, b)\n").front(), "[1, 2] [1]");
}
TEST_F(MesonBuildTest, MistakesHaveAPlace) {
  EXPECT_EQ(problem("\nx = \n"), "meson.build:3: the line ends too early");
  EXPECT_EQ(problem("x = 'clay\n"), "meson.build:2: a text that begins here has no end");
  EXPECT_EQ(problem("if true\n"), "meson.build:3: the file ends too early");
  EXPECT_EQ(problem("break\n"), "meson.build:2: 'break' stands outside of a loop");
  EXPECT_EQ(problem("message(kiln)\n"), "meson.build:2: 'kiln' has no value");
  EXPECT_EQ(problem("kiln()\n"), "meson.build:2: the function kiln() is not known here");
  EXPECT_EQ(problem("'a'.fire()\n"), "meson.build:2: a text has no method fire() that is known here");
  EXPECT_EQ(problem("x = 1 + 'a'\n"), "meson.build:2: a number + a text means nothing");
  EXPECT_EQ(problem("x = 1 / 0\n"), "meson.build:2: a number is divided by nothing");
  EXPECT_EQ(problem("x = [1][1]\n"), "meson.build:2: there is no item 1 of 1");
  EXPECT_EQ(problem("if 1\nendif\n"), "meson.build:2: a number stands where true or false is expected");
  EXPECT_EQ(problem("error('no', 'clay')\n"), "meson.build:2: the description says: no clay");
  EXPECT_EQ(problem("executable('fire', 'none.c')\n"), "meson.build:2: the source 'none.c' is not there");
  EXPECT_EQ(problem("subdir('../out')\n"), "meson.build:2: '../out' is no folder below this one");
  EXPECT_EQ(problem("configure_file(output: '../../out', configuration: {})\n"),
            "meson.build:2: '../../out' is not among the results");
  EXPECT_EQ(says("message('x')\n", "").front(), "meson.build:1: the first thing of a description is project(...)");
  EXPECT_EQ(problem("executable('fire', 'fire.vala')\n"), "meson.build:2: the source 'fire.vala' is not there");
}
TEST_F(MesonBuildTest, WhatHasNoEndIsEnded) {
  EXPECT_NE(problem("x = 'aaaaaaaa'\nforeach i : range(60)\n  x += x\nendforeach\n").find("too long"),
            std::string::npos);
  EXPECT_NE(problem("x = [1]\nforeach i : range(60)\n  x += x\nendforeach\n").find("too long"), std::string::npos);
  EXPECT_NE(problem("x = " + std::string(5000, '[') + std::string(5000, ']') + "\n").find("nested"), std::string::npos);
  EXPECT_NE(problem("x = " + std::string(5000, '-') + "1\n").find("nested"), std::string::npos);
  EXPECT_NE(
      problem("foreach a : range(3000)\nforeach b : range(3000)\nforeach c : range(3000)\nendforeach\nendforeach\n"
              "endforeach\n")
          .find("no end"),
      std::string::npos);
}
TEST_F(MesonBuildTest, ListsInListsAreEndedAsWell) {
  const std::string doubled = "x = [1]\ny = [1]\nforeach i : range(60)\n  x = [x, x]\n  y = [y, y]\nendforeach\n";
  for (const char* use : {"message(x)\n", "z = x == y\n", "z = x.contains(7)\n", "z = x.flatten()\n", "z = files(x)\n"})
    EXPECT_NE(problem(doubled + use).find("too long"), std::string::npos) << use;
  EXPECT_NE(problem("x = [1]\nforeach i : range(100000)\n  x = [x]\nendforeach\n").find("too long"), std::string::npos);
  EXPECT_NE(problem("x = 1" + text::replace_all(std::string(5000, 'x'), "x", " + 1") + "\n").find("follow one another"),
            std::string::npos);
  EXPECT_NE(problem("x = 'aaaaaaaa'\nforeach i : range(60)\n  x = f'@x@@x@'\nendforeach\n").find("too long"),
            std::string::npos);
}
TEST_F(MesonBuildTest, TemplatesAreFilledIn) {
  ConfigurationData data;
  data.set("YES", Value(true));
  data.set("NO", Value(false));
  data.set("SIZE", Value(std::int64_t{8}));
  data.set("NAME", Value("\"clay\""));
  std::set<std::string> missing;
  EXPECT_EQ(filled_in("#mesondefine YES\n#mesondefine NO\n#mesondefine SIZE\n#mesondefine NAME\n#mesondefine NONE\n",
                      data, "meson", missing),
            "#define YES\n#undef NO\n#define SIZE 8\n#define NAME \"clay\"\n/* #undef NONE */\n");
  EXPECT_TRUE(missing.empty());
  EXPECT_EQ(filled_in("@SIZE@ \\@SIZE@ \\\\@SIZE@ ${SIZE} @NONE@", data, "meson", missing), "8 @SIZE@ \\8 ${SIZE} ");
  EXPECT_EQ(missing, (std::set<std::string>{"NONE"}));
  EXPECT_EQ(filled_in("#cmakedefine YES\n#cmakedefine NO\n#cmakedefine01 NO\n#cmakedefine SIZE @SIZE@\n${SIZE}", data,
                      "cmake", missing),
            "#define YES\n/* #undef NO */\n#define NO 0\n#define SIZE 8\n8");
}
TEST_F(MesonBuildTest, OptionsAreThoseOfTheProjectAndOfItsUser) {
  tree_.write("meson_options.txt",
              "option('colour', type: 'combo', choices: ['red', 'grey'], value: 'grey')\n"
              "option('gas', type: 'feature', value: 'auto')\noption('vents', type: 'integer', value: 4)\n"
              "option('parts', type: 'array', value: ['a', 'b'])\noption('fast', type: 'boolean', value: false)\n");
  const std::string text =
      "message(get_option('colour'), get_option('vents'), get_option('parts'), get_option('fast'), "
      "get_option('gas').auto(), get_option('buildtype'))\n";
  EXPECT_EQ(says(text).front(), "grey 4 ['a', 'b'] false true release");
  settings_.options = {{"colour", "red"}, {"vents", "6"}, {"parts", "c,d"}, {"fast", "true"}, {"gas", "disabled"}};
  EXPECT_EQ(says(text).front(), "red 6 ['c', 'd'] true false release");
  settings_.options = {{"fast", "perhaps"}};
  EXPECT_EQ(says(text).front(), ": the option 'fast' cannot be 'perhaps'");
  settings_.options.clear();
  EXPECT_EQ(says("message(get_option('none'))\n").front(), "meson.build:2: there is no option 'none'");
  EXPECT_EQ(says("message(get_option('warning_level'), get_option('vents'))\n",
                 "project('yard', 'c', default_options: ['warning_level=3', 'vents=9'])\n")
                .front(),
            "3 9");
}
// What cannot be, and what nobody asks for, is said with what can be.
TEST_F(MesonBuildTest, ValuesOfOptionsHaveTheirLimits) {
  tree_.write("meson_options.txt",
              "option('colour', type: 'combo', choices: ['red', 'grey'])\n"
              "option('vents', type: 'integer', min: 2, max: 6, value: 4)\n"
              "option('parts', type: 'array', choices: ['clay', 'slip'], value: ['clay'])\n");
  const std::string text = "message(get_option('colour'), get_option('vents'), get_option('parts'))\n";
  EXPECT_EQ(says(text).front(), "red 4 ['clay']");
  for (const auto& [name, value] : {std::pair("colour", "blue"), std::pair("vents", "7"), std::pair("vents", "1"),
                                    std::pair("parts", "clay,sand")}) {
    settings_.options = {{name, value}};
    EXPECT_EQ(says(text).front(), std::string(": the option '") + name + "' cannot be '" + value + "'");
  }
  settings_.options = {{"vents", "6"}, {"parts", "slip,clay"}, {"vent", "3"}};
  EXPECT_EQ(says(text).front(), "red 6 ['slip', 'clay']");
  ASSERT_EQ(warnings_.size(), 1U);
  EXPECT_NE(warnings_[0].find("no option 'vent'"), std::string::npos) << warnings_[0];
}
TEST_F(MesonBuildTest, TestsSayHowTheyAreJudged) {
  tree_.write("kiln.c", "int main(void) { return 0; }\n");
  ASSERT_EQ(says("kiln = executable('kiln', 'kiln.c')\ntest('code', kiln, timeout: 3)\n"
                 "test('points', kiln, protocol: 'tap', is_parallel: false)\n"
                 "test('code', kiln, suite: 'late', should_fail: true)\n"),
            std::vector<std::string>{});
  const auto& tests = build().tests;
  ASSERT_EQ(tests.size(), 3U);
  EXPECT_FALSE(tests[0].test_lines);
  EXPECT_EQ(tests[0].skip_code, 77);
  EXPECT_EQ(tests[0].limit_seconds, 30);
  EXPECT_TRUE(tests[1].test_lines);
  EXPECT_EQ(tests[1].skip_code, -1);
  EXPECT_TRUE(tests[1].alone);
  EXPECT_EQ(tests[2].name, "code (late)");
  EXPECT_EQ(tests[2].error_code, 99);
  EXPECT_TRUE(tests[2].will_fail);
}
TEST_F(MesonBuildTest, ModulesAnswer) {
  tree_.write("clay/slip.c", "int slip;\n");
  tree_.write("heats.conf", "# of the yard\nPEAK=1040\nGLAZE=\"grey\"\n");
  tree_.write("one.c", "int one;\n");
  tree_.write("two.c", "int two;\n");
  const auto said = says(
      "fs = import('fs')\nmessage(fs.exists('clay'), fs.is_dir('clay'), fs.is_file('clay'), fs.name('clay/slip.c'),\n"
      "  fs.stem('clay/slip.c'), fs.parent('clay/slip.c'), fs.replace_suffix('clay/slip.c', '.h'))\n"
      "message(fs.read('clay/slip.c').strip(), fs.size('clay/slip.c'))\n"
      "keyval = import('keyval').load('heats.conf')\nmessage(keyval['PEAK'], keyval['GLAZE'])\n"
      "set = import('sourceset').source_set()\nset.add('one.c')\nset.add(when: 'WET', if_true: files('two.c'))\n"
      "dry = set.apply({'WET': false})\nwet = set.apply({'WET': true})\n"
      "message(dry.sources().length(), wet.sources().length())\n");
  ASSERT_EQ(said.size(), 4U) << said.back();
  EXPECT_EQ(said[0], "true true false slip.c slip clay clay/slip.h");
  EXPECT_EQ(said[1], "int slip; 10");
  EXPECT_EQ(said[2], "1040 \"grey\"");
  EXPECT_EQ(said[3], "1 2");
  EXPECT_NE(problem("import('glaze')\n").find("glaze"), std::string::npos);
  EXPECT_EQ(says("message(import('glaze', required: false).found())\n").front(), "false");
}
TEST_F(MesonBuildTest, ATargetHasItsSettings) {
  tree_.write("clay.c", "int clay(void) { return 1; }\n");
  tree_.write("kiln.c", "int main(void) { return 0; }\n");
  ASSERT_EQ(
      says("add_project_arguments('-DYARD', language: 'c')\n"
           "clay = static_library('clay', 'clay.c', c_args: '-DCLAY')\n"
           "dep = declare_dependency(link_with: clay, compile_args: '-DUSES_CLAY', include_directories: 'include')\n"
           "executable('kiln', 'kiln.c', dependencies: dep, install: true, link_args: '-Wl,-z,now')\n"
           "library('glaze', 'clay.c', version: '1.4.2', soversion: '1')\n"),
      std::vector<std::string>{});
  const auto& kiln = unit("kiln");
  EXPECT_EQ(kiln.kind, model::TargetKind::program);
  const auto& options = kiln.parts.at(0).settings.options;
  EXPECT_EQ(options, (std::vector<std::string>{"-DYARD", "-DUSES_CLAY"}));
  ASSERT_EQ(kiln.link.named.size(), 1U);
  EXPECT_EQ(kiln.link.items[kiln.link.named[0]].unit, "clay");
  EXPECT_EQ(kiln.link.options, (std::vector<std::string>{"-Wl,-z,now"}));
  ASSERT_EQ(build_.install.size(), 1U);
  EXPECT_EQ(build_.install[0].to, "bin/kiln");
  const auto& glaze = unit("glaze");
  EXPECT_TRUE(glaze.result.file.ends_with("/libglaze.so.1.4.2"));
  EXPECT_EQ(glaze.result.shared_name, "libglaze.so.1");
  EXPECT_EQ(glaze.result.names.size(), 2U);
}
TEST_F(MesonBuildTest, WhatIsRequiredAndMissingIsFound) {
  static_cast<void>(
      says("dependency('glaze-that-nobody-has')\nfind_program('press-that-nobody-has')\n"
           "dependency('slip-that-nobody-has', required: false)\n"));
  std::vector<std::string> missing;
  for (const auto& finding : findings_) {
    if (!finding.found && finding.requirement.required) missing.push_back(finding.requirement.name);
  }
  EXPECT_EQ(missing, (std::vector<std::string>{"glaze-that-nobody-has", "press-that-nobody-has"}));
}
// A machine that cannot make a manual can still build the rest.
TEST_F(MesonBuildTest, DocumentsWhoseProgramIsMissingAreLeftOut) {
  tree_.write("kiln.txt", "");
  ASSERT_EQ(
      says("writer = find_program('manual-writer-that-nobody-has')\n"
           "custom_target('manual', output: 'kiln.1', input: 'kiln.txt', command: [writer, '@INPUT@'], capture: true,\n"
           "  install: true, install_dir: 'share/man/man1')\n"),
      std::vector<std::string>{});
  ASSERT_EQ(findings_.size(), 1U);
  EXPECT_FALSE(findings_[0].requirement.required);
  ASSERT_EQ(project_.left_out.size(), 1U);
  EXPECT_EQ(project_.left_out[0].name, "manual");
  EXPECT_TRUE(build().install.empty());
  // Anything else is missed.
  static_cast<void>(
      says("writer = find_program('manual-writer-that-nobody-has')\n"
           "custom_target('table', output: 'table.c', command: [writer], capture: true)\n"));
  ASSERT_EQ(findings_.size(), 1U);
  EXPECT_TRUE(findings_[0].requirement.required);
}
TEST_F(MesonBuildTest, TheVersionMayBeWhatACommandSays) {
  EXPECT_EQ(says("message(meson.project_version())\n",
                 "project('yard', version: run_command('echo', '4.2', check: true).stdout().strip())\n")
                .front(),
            "4.2");
}
TEST_F(MesonBuildTest, AnArchiveMayHoldNothing) {
  ASSERT_EQ(says("static_library('nothing', [])\n"), std::vector<std::string>{});
  EXPECT_EQ(unit("nothing").sources.size(), 1U);
  EXPECT_EQ(problem("shared_library('nothing', [])\n"), "meson.build:2: 'nothing' has no source");
}
TEST_F(MesonBuildTest, BuildProgramsAreNeverStarted) {
  EXPECT_NE(problem("run_command('ninja', '--version', check: true)\n").find("never started"), std::string::npos);
}
TEST_F(MesonBuildTest, WhatIsNotFollowedIsTold) {
  tree_.write("kiln.c", "int main(void) { return 0; }\n");
  ASSERT_EQ(says("executable('kiln', 'kiln.c', colour: 'red')\n"), std::vector<std::string>{});
  EXPECT_EQ(warnings_, (std::vector<std::string>{"2: 'colour' of executable() is not followed"}));
}

}  // namespace
}  // namespace coctilis::describe::meson_build
