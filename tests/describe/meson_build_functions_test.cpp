// What functions and objects of meson.build come to: questions to the compiler, dependencies, commands, what is
// installed and tested.
#include "base/text.h"
#include "meson_build_reading.h"

namespace coctilis::describe::meson_build {
namespace {

class MesonBuildFunctions : public MesonBuildTest {
 protected:
  MesonBuildFunctions() {
    tree_.write("kiln.c", "int main(void) { return 0; }\n");
    tree_.write("clay.c", "int clay(void) { return 1; }\n");
    tree_.write("clay.h", "int clay(void);\n");
    tree_.write("glaze/glaze.h", "int glaze(void);\n");
    tree_.write("table.txt", "41\n");
    tree_.write("make.sh", "#!/bin/sh\ncp \"$1\" \"$2\"\n");
    std::filesystem::permissions(tree_.path("make.sh"), std::filesystem::perms(0755));
  }
  // What is installed, "from the tree or the results -> to".
  std::vector<std::string> installed(const std::string& text) {
    EXPECT_EQ(says(text), std::vector<std::string>{});
    std::vector<std::string> out;
    build_ = build();
    for (const auto& item : build_.install) {
      std::string from =
          item.kind == model::InstallItem::Kind::link ? item.from : files::below(item.from, tree_.path());
      from = files::below(from, tree_.kiln() + "/work");
      out.push_back(from + " -> " + item.to + (item.mode == 0 ? "" : " " + std::to_string(item.mode)));
    }
    return out;
  }
  // The words of the command of the rule that makes a file, as a description would write its paths.
  std::vector<std::string> command_of(const std::string& output) {
    build_ = build();
    for (const auto& rule : build_.rules) {
      if (rule.outputs.empty() || !rule.outputs.front().ends_with("/" + output) || rule.actions.empty()) continue;
      std::vector<std::string> out;
      for (const auto& word : rule.actions.back().argv)
        out.push_back(
            text::replace_all(text::replace_all(word, tree_.kiln() + "/work/", "W/"), tree_.path() + "/", "T/"));
      return out;
    }
    return {"nothing makes it"};
  }
};

TEST_F(MesonBuildFunctions, TheCompilerAnswers) {
  EXPECT_EQ(says("cc = meson.get_compiler('c')\n"
                 "message(cc.has_header('stdio.h'), cc.has_header('no/such/kiln.h'), cc.check_header('stdint.h'))\n"
                 "message(cc.has_function('qsort'), cc.has_function('fire_that_nobody_has'),\n"
                 "  cc.has_function('puts', prefix: '#include <stdio.h>'))\n"
                 "message(cc.has_type('size_t', prefix: '#include <stddef.h>'), cc.has_type('kiln_t'))\n"
                 "message(cc.has_member('struct tm', 'tm_year', prefix: '#include <time.h>'),\n"
                 "  cc.has_members('struct tm', 'tm_year', 'tm_glaze', prefix: '#include <time.h>'))\n"
                 "message(cc.sizeof('char'), cc.sizeof('kiln_t'), cc.alignment('char'),\n"
                 "  cc.compute_int('6 * 7'), cc.get_define('SIZE', prefix: '#define SIZE 12'))\n"
                 "message(cc.has_header_symbol('stdlib.h', 'qsort'), cc.has_header_symbol('stdlib.h', 'fire'))\n"
                 "message(cc.compiles('int x;'), cc.compiles('int x'), cc.links('int main(void) { return 0; }'))\n"
                 "message(cc.has_argument('-Wall'), cc.has_argument('-fglaze'),\n"
                 "  cc.get_supported_arguments('-Wall', '-fglaze', '-Wextra'),\n"
                 "  cc.first_supported_argument('-fglaze', '-Wshadow'))\n"
                 "message(cc.has_function_attribute('noreturn'), cc.get_argument_syntax())\n"
                 "r = cc.run('#include <stdio.h>\\nint main(void) { puts(\"grey\"); return 3; }')\n"
                 "message(r.compiled(), r.returncode(), r.stdout().strip())\n"),
            (std::vector<std::string>{"true false true", "true false true", "true false", "true false", "1 -1 1 42 12",
                                      "true false", "true false true", "true false ['-Wall', '-Wextra'] ['-Wshadow']",
                                      "true gcc", "true 3 grey"}));
  // What is asked of it is among the questions of the run.
  EXPECT_EQ(problem("meson.get_compiler('c').has_header('no/such/kiln.h', required: true)\n"),
            "meson.build:2: the header 'no/such/kiln.h' is not there");
  EXPECT_EQ(problem("meson.get_compiler('c').compiles('int x', name: 'a body', required: true)\n"),
            "meson.build:2: what it needs of the compiler is not there: a body");
  EXPECT_EQ(problem("meson.get_compiler('fortran')\n").find("meson.build:2: "), 0U);
}

TEST_F(MesonBuildFunctions, DependenciesAreTakenApart) {
  const std::string declared =
      "clay = static_library('clay', 'clay.c')\n"
      "dep = declare_dependency(link_with: clay, compile_args: '-DWET', include_directories: 'glaze',\n"
      "  link_args: '-Wl,-z,now', version: '2.1', variables: {'colour': 'grey'})\n";
  EXPECT_EQ(says(declared + "message(dep.found(), dep.version(), dep.type_name(), dep.get_variable('colour'),\n"
                            "  dep.get_variable(internal: 'none', default_value: 'plain'))\n"
                            "message(dependency('', required: false).found(), disabler().found())\n"),
            (std::vector<std::string>{"true 2.1 internal grey plain", "false false"}));
  says(declared +
       "executable('kiln', 'kiln.c', dependencies: dep.partial_dependency(compile_args: true))\n"
       "executable('fire', 'kiln.c', dependencies: dep.partial_dependency(links: true, includes: true))\n"
       "executable('cone', 'kiln.c', dependencies: declare_dependency(dependencies: dep.as_system()))\n");
  EXPECT_EQ(unit("kiln").parts.at(0).settings.options, std::vector<std::string>{"-DWET"});
  EXPECT_TRUE(unit("kiln").link.items.empty());
  const auto& fire = unit("fire");
  EXPECT_TRUE(fire.parts.at(0).settings.options.empty());
  ASSERT_EQ(fire.link.items.size(), 1U);
  EXPECT_EQ(fire.link.items[0].unit, "clay");
  const auto& folders = unit("cone").parts.at(0).settings.include_folders;
  EXPECT_TRUE(std::any_of(folders.begin(), folders.end(), [](const auto& folder) {
    return folder.path.ends_with("/glaze") && folder.kind == model::IncludeFolder::Kind::system;
  }));
}

// Copies of copies take room as well.
TEST_F(MesonBuildFunctions, DependenciesThatDoubleAreEnded) {
  for (const char* more : {"d.as_system()", "d.partial_dependency(compile_args: true)"}) {
    EXPECT_NE(problem(std::string("d = declare_dependency(compile_args: '-DA')\nforeach i : range(60)\n"
                                  "  d = declare_dependency(dependencies: [d, ") +
                      more + ", " + more + "])\nendforeach\n")
                  .find("no end"),
              std::string::npos)
        << more;
  }
  EXPECT_NE(problem("d = declare_dependency()\nforeach i : range(2000)\n  d = declare_dependency(dependencies: d)\n"
                    "endforeach\nexecutable('kiln', 'kiln.c', dependencies: d)\n")
                .find("meson.build:4: "),
            std::string::npos);
}

TEST_F(MesonBuildFunctions, CommandsHaveTheirPlaces) {
  says(
      "maker = find_program('make.sh')\n"
      "custom_target('table', input: ['table.txt', 'clay.h'], output: '@BASENAME@.c', command: [maker, '@INPUT0@',\n"
      "  '@OUTPUT0@', '--from=@SOURCE_ROOT@', '@OUTDIR@/x', '@PLAINNAME@', '@CURRENT_SOURCE_DIR@'])\n");
  EXPECT_EQ(problem("custom_target('t', output: '../t.c', command: ['true'])\n").find("meson.build:2: "), 0U);
  EXPECT_EQ(problem("custom_target('t', output: 't.c')\n"), "meson.build:2: custom_target() needs a command");
  EXPECT_EQ(problem("custom_target('t', command: ['true'])\n"),
            "meson.build:2: custom_target() needs the name of what it makes under 'output'");
  ASSERT_EQ(says("maker = find_program('make.sh')\n"
                 "t = custom_target('table', input: 'table.txt', output: ['one.c', 'one.h'], command: [maker,\n"
                 "  '@INPUT@', '@OUTPUT@', '@SOURCE_ROOT@/x', '@OUTDIR@', '@PRIVATE_DIR@'])\n"
                 "message(t[1].full_path().split('/')[-1], t.to_list().length())\n"),
            std::vector<std::string>{"one.h 2"});
  const auto words = command_of("one.c");
  ASSERT_GE(words.size(), 6U);
  EXPECT_EQ(std::vector<std::string>(words.begin(), words.begin() + 4),
            (std::vector<std::string>{"T/make.sh", "T/table.txt", "W/one.c", "W/one.h"}));
  says(
      "custom_target('said', output: 'said.txt', command: ['echo', 'grey'], capture: true)\n"
      "custom_target('fed', input: 'table.txt', output: 'fed.txt', command: ['cat'], feed: true, capture: true)\n");
  for (const char* name : {"said.txt", "fed.txt"}) EXPECT_NE(command_of(name).front(), "nothing makes it") << name;
}

TEST_F(MesonBuildFunctions, WhatIsInstalledHasItsPlace) {
  EXPECT_EQ(installed("install_data('table.txt', rename: 'oxides.txt')\n"
                      "install_data('make.sh', install_dir: 'libexec', install_mode: 'rwxr-xr-x')\n"),
            (std::vector<std::string>{"table.txt -> share/yard/oxides.txt", "make.sh -> libexec/make.sh 493"}));
  EXPECT_EQ(installed("install_headers('clay.h', 'glaze/glaze.h', subdir: 'yard', preserve_path: true)\n"),
            (std::vector<std::string>{"clay.h -> include/yard/clay.h", "glaze/glaze.h -> include/yard/glaze/glaze.h"}));
  tree_.write("kiln.1", ".TH kiln 1\n");
  EXPECT_EQ(installed("install_man('kiln.1')\n"), std::vector<std::string>{"kiln.1 -> share/man/man1/kiln.1"});
  EXPECT_EQ(installed("install_subdir('glaze', install_dir: 'share')\n"),
            std::vector<std::string>{"glaze -> share/glaze"});
  EXPECT_EQ(installed("install_symlink('old', pointing_to: 'kiln', install_dir: get_option('bindir'))\n"),
            std::vector<std::string>{"kiln -> bin/old"});
  EXPECT_EQ(installed("executable('kiln', 'kiln.c', install: true, install_dir: 'libexec/yard')\n"
                      "library('clay', 'clay.c', install: true, version: '1.2.3')\n"
                      "install_emptydir('share/firings')\n")
                .size(),
            5U);
  EXPECT_EQ(problem("install_data('none.txt')\n").find("meson.build:2: "), 0U);
  EXPECT_EQ(problem("install_data('table.txt', install_mode: 'rwx')\n"),
            "meson.build:2: 'rwx' is no mode: it is one like 'rwxr-xr-x'");
}

TEST_F(MesonBuildFunctions, WhatIsConfiguredIsWritten) {
  tree_.write("config.h.in", "#mesondefine HEAT\n#define NAME \"@NAME@\"\n");
  ASSERT_EQ(
      says("data = configuration_data({'HEAT': 1040})\ndata.set('NAME', 'kiln')\n"
           "more = configuration_data()\nmore.set10('WET', true)\nmore.set('NONE', false)\nmore.merge_from(data)\n"
           "configure_file(input: 'config.h.in', output: 'config.h', configuration: data)\n"
           "configure_file(output: 'all.h', configuration: more)\n"
           "configure_file(input: 'table.txt', output: 'copy.txt', copy: true)\n"
           "configure_file(input: 'table.txt', output: 'made.txt', command: [find_program('make.sh'), '@INPUT@', "
           "'@OUTPUT@'])\n"
           "message(data.get('HEAT'), data.has('NONE'), data.get('NONE', 7), more.keys().length())\n"),
      std::vector<std::string>{"1040 false 7 4"});
  const auto written = [&](const char* name) { return files::read(tree_.kiln() + "/work/" + name).value_or("none"); };
  EXPECT_EQ(written("config.h"), "#define HEAT 1040\n#define NAME \"kiln\"\n");
  EXPECT_NE(written("all.h").find("#define WET 1\n"), std::string::npos) << written("all.h");
  EXPECT_NE(written("all.h").find("#undef NONE\n"), std::string::npos) << written("all.h");
  EXPECT_EQ(written("copy.txt"), "41\n");
  EXPECT_EQ(written("made.txt"), "41\n");
  EXPECT_EQ(problem("configure_file(input: 'none.in', output: 'n.h', configuration: {})\n").find("meson.build:2: "),
            0U);
}

TEST_F(MesonBuildFunctions, TestsHaveTheirSurroundings) {
  ASSERT_EQ(
      says("env = environment()\nenv.set('GLAZE', 'grey')\nenv.append('LIST', 'b', separator: ':')\n"
           "kiln = executable('kiln', 'kiln.c')\n"
           "test('fires', kiln, args: ['--heat', files('table.txt')], env: env, workdir: meson.current_source_dir(),\n"
           "  suite: ['quick'], priority: 3, depends: kiln)\n"
           "test('by script', find_program('make.sh'), env: ['CONE=6'], should_fail: true, timeout: 0)\n"),
      std::vector<std::string>{});
  const auto tests = build().tests;
  ASSERT_EQ(tests.size(), 2U);
  EXPECT_EQ(tests[0].environment.at("GLAZE"), "grey");
  EXPECT_EQ(tests[0].program, "kiln");
  EXPECT_EQ(tests[0].command.back(), tree_.path("table.txt"));
  EXPECT_EQ(tests[0].folder, tree_.path());
  EXPECT_EQ(tests[0].cost, 3);
  EXPECT_EQ(tests[1].environment.at("CONE"), "6");
  EXPECT_TRUE(tests[1].will_fail);
  EXPECT_EQ(tests[1].command.front(), tree_.path("make.sh"));
  EXPECT_EQ(tests[1].place.line, 8);
}

TEST_F(MesonBuildFunctions, LibrariesHaveTheirForms) {
  ASSERT_EQ(
      says("both = both_libraries('clay', 'clay.c')\n"
           "executable('kiln', 'kiln.c', link_with: both.get_static_lib())\n"
           "executable('fire', 'kiln.c', link_with: both.get_shared_lib())\n"
           "shared_module('plug', 'clay.c', name_prefix: '', name_suffix: 'plugin')\n"
           "static_library('whole', 'clay.c', c_static_args: '-DSTATIC', pic: true)\n"
           "executable('gui', 'kiln.c', link_whole: both.get_static_lib(), implicit_include_directories: false)\n"),
      std::vector<std::string>{});
  EXPECT_TRUE(unit("plug").result.file.ends_with("/plug.plugin")) << unit("plug").result.file;
  const auto& kiln = unit("kiln");
  const auto& fire = unit("fire");
  ASSERT_EQ(kiln.link.items.size(), 1U);
  ASSERT_EQ(fire.link.items.size(), 1U);
  EXPECT_NE(kiln.link.items[0].unit, fire.link.items[0].unit);
}

TEST_F(MesonBuildFunctions, ADisablerMakesNothingOfWhatItIsGivenTo) {
  ASSERT_EQ(says("d = dependency('glaze-that-nobody-has', required: false, disabler: true)\n"
                 "k = executable('kiln', 'kiln.c', dependencies: d)\ntest('fires', k)\n"
                 "message(is_disabler(d), is_disabler(k))\nif d.found()\n  message('found')\nendif\n"),
            std::vector<std::string>{"true true"});
  EXPECT_TRUE(build().tests.empty());
}

TEST_F(MesonBuildFunctions, TheDescriptionKnowsItsSurroundings) {
  EXPECT_EQ(
      says("message(meson.project_name(), meson.project_version(), meson.is_subproject(), meson.is_cross_build())\n"
           "message(meson.project_license(), meson.get_compiler('c').get_id(), host_machine.system())\n"
           "message(meson.can_run_host_binaries(), meson.is_unity(), meson.has_external_property('x'))\n"
           "message(meson.current_source_dir() == meson.project_source_root())\n"
           "subdir_done()\nmessage('never')\n",
           "project('yard', 'c', version: '3.1', license: 'MIT')\n"),
      (std::vector<std::string>{"yard 3.1 false false", "['MIT'] gcc linux", "true false false", "true"}));
  EXPECT_EQ(problem("assert(1 == 2, 'cold')\n").find("meson.build:2: "), 0U);
  EXPECT_EQ(says("warning('beware')\nmessage('go on')\n").back(), "go on");
  EXPECT_NE(problem("project('again', 'c')\n").find("meson.build:2: "), std::string::npos);
  EXPECT_EQ(problem("x = run_command('false', check: true)\n").find("meson.build:2: "), 0U);
  EXPECT_EQ(says("r = run_command('sh', '-c', 'echo out; echo err >&2; exit 4', check: false)\n"
                 "message(r.returncode(), r.stdout().strip(), r.stderr().strip())\n"),
            std::vector<std::string>{"4 out err"});
}

TEST_F(MesonBuildFunctions, SubprojectsAnswer) {
  tree_.write("subprojects/slip/meson.build",
              "project('slip', 'c', version: '1.4')\nwater = 7\nslip_dep = declare_dependency(version: '1.4')\n"
              "meson.override_dependency('slip', slip_dep)\n");
  EXPECT_EQ(says("s = subproject('slip')\nmessage(s.found(), s.get_variable('water'), s.get_variable('none', 3))\n"
                 "message(dependency('slip').version(), dependency('slip', version: '>=1.2').found())\n"
                 "message(subproject('none', required: false).found())\n"),
            (std::vector<std::string>{"true 7 3", "1.4 true", "false"}));
  EXPECT_EQ(problem("subproject('slip', version: '>=2')\n").find("meson.build:2: "), 0U);
  EXPECT_EQ(
      says("message(subproject('slip', version: '>=2', required: false).found(), dependency('slip', version: '>=2', "
           "required: false).found())\n"),
      std::vector<std::string>{"false false"});
  EXPECT_EQ(problem("subproject('slip').get_variable('none')\n").find("meson.build:2: "), 0U);
}

TEST_F(MesonBuildFunctions, ArgumentsGoWhereTheyBelong) {
  tree_.write("wet.cpp", "int wet() { return 0; }\n");
  says(
      "add_project_arguments('-DALL', language: ['c', 'cpp'])\nadd_global_arguments('-DGLOBAL', language: 'c')\n"
      "add_project_link_arguments('-Wl,-z,relro', language: ['c', 'cpp'])\n"
      "executable('kiln', 'kiln.c', 'wet.cpp', c_args: ['-DC'], cpp_args: '-DCPP', link_args: '-Wl,-z,now',\n"
      "  override_options: ['cpp_std=c++20', 'warning_level=0'], gnu_symbol_visibility: 'hidden',\n"
      "  include_directories: include_directories('glaze', is_system: true))\n",
      "project('yard', 'c', 'cpp', default_options: ['c_std=c11', 'warning_level=3'])\n");
  const auto& kiln = unit("kiln");
  ASSERT_EQ(kiln.parts.size(), 2U);
  for (const auto& part : kiln.parts) {
    const bool c = part.language == "C";
    const auto& options = part.settings.options;
    const auto has = [&](const char* word) { return std::find(options.begin(), options.end(), word) != options.end(); };
    EXPECT_TRUE(has("-DALL"));
    EXPECT_EQ(has("-DGLOBAL"), c);
    EXPECT_EQ(has("-DC"), c);
    EXPECT_EQ(has("-DCPP"), !c);
    EXPECT_FALSE(has("-Wall"));
    EXPECT_EQ(part.settings.visibility, "hidden");
  }
  EXPECT_EQ(kiln.link.options.size(), 2U);
  EXPECT_EQ(kiln.link.language, "C++");
}

}  // namespace
}  // namespace coctilis::describe::meson_build
