// Modules of Perl: from a Makefile.PL to the library that the language loads, and its tests.
#include <nlohmann/json.hpp>
#include <set>

#include "base/process.h"
#include "support.h"

namespace coctilis::test {
namespace {

class PerlModuleTree : public DrivenTree {
 protected:
  void SetUp() override {
    if (find_program("perl").empty() || find_program("xsubpp").empty() || !has_headers())
      GTEST_SKIP() << "there is no perl here with its headers (perl, libperl-dev)";
    say("");
    tree.write(
        "Clay.xs",
        "#include \"EXTERN.h\"\n#include \"perl.h\"\n#include \"XSUB.h\"\n#include \"slip.h\"\n"
        "MODULE = Works::Clay  PACKAGE = Works::Clay\nint\nwater(cone)\n    int cone\n  CODE:\n    RETVAL = cone + "
        "slip() + FACTOR;\n  OUTPUT:\n    RETVAL\n");
    tree.write("slip.c", "#include \"slip.h\"\nint slip(void) { return SLIP; }\n");
    tree.write("slip.h", "#define SLIP 2\nint slip(void);\n");
    tree.write("lib/Works/Clay.pm",
               "package Works::Clay;\nour $VERSION = '1.5';\nrequire XSLoader;\n"
               "XSLoader::load('Works::Clay', $VERSION);\nsub fired { 'fired' }\n1;\n");
    tree.write("t/water.t", "use Test::More tests => 1;\nuse Works::Clay;\nis Works::Clay::water(6), 108;\n");
  }
  static bool has_headers() {
    Command command;
    command.argv = {"perl", "-MConfig", "-e", "exit !-e \"$Config{archlibexp}/CORE/perl.h\""};
    return coctilis::run(command).good();
  }
  void say(const std::string& more, const std::string& before = {}) const {
    tree.write("Makefile.PL", "use ExtUtils::MakeMaker;\n" + before +
                                  "WriteMakefile(NAME => 'Works::Clay', VERSION_FROM => 'lib/Works/Clay.pm', DEFINE => "
                                  "'-DFACTOR=100', OBJECT => '$(O_FILES)', LIBS => ['-lm']" +
                                  more + ");\n");
  }
  // What a line of the language prints that uses the module as it was built.
  [[nodiscard]] std::string gives(const std::string& line) const {
    const std::string work = tree.label_folder() + "/work";
    Command command;
    command.argv = {"perl", "-I" + work + "/blib/lib", "-I" + work + "/blib/arch", "-MWorks::Clay", "-e", line};
    return coctilis::run(command).output;
  }
  nlohmann::json check(const std::string& name) const {
    const auto record = tree.record();
    for (const auto& one : record["checks"]) {
      if (one["name"] == name) return one;
    }
    return {{"verdict", "none"}, {"reason", ""}};
  }
};

TEST_F(PerlModuleTree, ItIsMadeAndItsTestsAreRun) {
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("follows Makefile.PL"), std::string::npos) << said.all();
  EXPECT_EQ(gives("print Works::Clay::water(6), Works::Clay::fired()"), "108fired");
  EXPECT_EQ(check("t/water.t")["verdict"], "passed");
  for (const char* name : {"Makefile", "blib", "Clay.c"}) EXPECT_FALSE(files::exists(tree.path(name))) << name;
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(tree.ran(), std::set<std::string>{});
  // A header, a module, a source more, the version and what the script says: each counts.
  tree.write("slip.h", "#define SLIP 3\nint slip(void);\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(gives("print Works::Clay::water(6)"), "109");
  tree.write("lib/Works/Clay.pm", text::replace_all(tree.read("lib/Works/Clay.pm"), "1.5", "1.6"));
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(gives("print Works::Clay::water(6)"), "109");
  say(", DEFINE => '-DFACTOR=200'");
  tree.write("more.c", "int more(void) { return 1; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(gives("print Works::Clay::water(6)"), "209");
  EXPECT_TRUE(tree.ran().contains("more.o") || tree.ran().contains("more.c")) << tree.record()["build"]["steps"].dump();
}

TEST_F(PerlModuleTree, ATestThatSaysNotOkHasFailedWhateverItsExitCode) {
  tree.write("t/old.t", "print \"1..2\\nok 1\\nnot ok 2 - the kiln is cold\\n\";\n");
  tree.write("t/tainted.t", "#!/usr/bin/perl -T\nprint \"1..1\\n\", ${^TAINT} ? '' : 'not ', \"ok 1\\n\";\n");
  EXPECT_EQ(run("bringup").exit, 6);
  EXPECT_EQ(check("t/old.t")["verdict"], "failed");
  EXPECT_EQ(check("t/tainted.t")["verdict"], "passed");
}

TEST_F(PerlModuleTree, ItIsInstalledWhereTheLanguageLooks) {
  const std::string prefix = tree.scratch() + "/installed";
  say(", EXE_FILES => ['bin/kiln']");
  tree.write("bin/kiln", "#!perl\nprint 'lit';\n");
  const auto said = run("stage", {"--prefix", prefix});
  ASSERT_EQ(said.exit, 0) << said.all();
  std::set<std::string> names;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(prefix))
    names.insert(entry.path().filename().string());
  EXPECT_TRUE(names.contains("Clay.pm") && names.contains("Clay.so") && names.contains("kiln"))
      << text::join({names.begin(), names.end()}, " ");
}

TEST_F(PerlModuleTree, SectionsAreReplacedAndFoldersBelowAreMade) {
  say(", MYEXTLIB => 'kiln/libkiln$(LIB_EXT)'",
      "{ package MY;\nsub postamble { \"\\$(MYEXTLIB): kiln/kiln.c\\n\\tcd kiln && cc -fPIC -c kiln.c && ar rcs "
      "libkiln.a kiln.o\\n\" }\n"
      "sub cflags { my $text = shift->SUPER::cflags(@_); $text =~ s/^CCFLAGS = /CCFLAGS = -DKILN=7 /m; $text }\n}\n");
  tree.write("kiln/kiln.c", "int kiln(void) { return 1000; }\n");
  tree.write("slip.c", "#include \"slip.h\"\nint kiln(void);\nint slip(void) { return SLIP + kiln() + KILN; }\n");
  tree.write("Glaze/Makefile.PL",
             "use ExtUtils::MakeMaker;\nWriteMakefile(NAME => 'Works::Glaze', VERSION => '0.1');\n");
  tree.write("Glaze/Glaze.xs",
             "#include \"EXTERN.h\"\n#include \"perl.h\"\n#include \"XSUB.h\"\nMODULE = Works::Glaze  PACKAGE = "
             "Works::Glaze\nint\nshine()\n  CODE:\n    RETVAL = 4;\n  OUTPUT:\n    RETVAL\n");
  tree.write("Glaze/Glaze.pm",
             "package Works::Glaze;\nour $VERSION = '0.1';\nrequire XSLoader;\nXSLoader::load();\n1;\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(gives("require Works::Glaze; print Works::Clay::water(6), ' ', Works::Glaze::shine()"), "1115 4");
  // Tests of the folders below count, too.
  tree.write("t/water.t", "use Test::More tests => 1;\nuse Works::Clay;\nis Works::Clay::water(6), 1115;\n");
  tree.write("Glaze/t/shine.t", "use Test::More tests => 1;\nuse Works::Glaze;\nis Works::Glaze::shine(), 4;\n");
  ASSERT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(check("Glaze/t/shine.t")["verdict"], "passed");
  tree.write("Glaze/t/shine.t", "print \"1..1\\nnot ok 1\\n\";\n");
  EXPECT_EQ(run("bringup").exit, 6);
}

TEST_F(PerlModuleTree, ABuildPlIsRead) {
  std::filesystem::remove(tree.path("Makefile.PL"));
  std::filesystem::rename(tree.path("Clay.xs"), tree.path("lib/Works/Clay.xs"));
  std::filesystem::create_directories(tree.path("c"));
  for (const char* name : {"slip.c", "slip.h"})
    std::filesystem::rename(tree.path(name), tree.path("c/" + std::string(name)));
  tree.write("Build.PL",
             "use Module::Build;\nmy $build = Module::Build->new(module_name => 'Works::Clay', c_source => 'c', "
             "extra_compiler_flags => '-DFACTOR=100', requires => {perl => 5});\n$build->extra_linker_flags(@{"
             "$build->extra_linker_flags}, '-lm');\n$build->create_build_script;\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("follows Build.PL"), std::string::npos) << said.all();
  EXPECT_EQ(gives("print Works::Clay::water(6)"), "108");
  tree.write("Build.PL", "use Module::Build::Tiny 0.03;\nBuild_PL();\n");
  tree.write("META.json", "{\"name\": \"Works-Clay\", \"version\": \"1.5\"}\n");
  tree.write("lib/Works/Clay.xs",
             "#include \"EXTERN.h\"\n#include \"perl.h\"\n#include \"XSUB.h\"\nMODULE = Works::Clay  PACKAGE = "
             "Works::Clay\nint\nwater(cone)\n    int cone\n  CODE:\n    RETVAL = cone;\n  OUTPUT:\n    RETVAL\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(gives("print Works::Clay::water(6)"), "6");
  tree.write("Build.PL",
             "use Module::Build;\nmy $class = Module::Build->subclass(code => 'sub ACTION_code { 1 }');\n"
             "$class->new(module_name => 'Works::Clay')->create_build_script;\n");
  const auto own = run("build");
  EXPECT_EQ(own.exit, 4);
  EXPECT_NE(own.all().find("which is not followed"), std::string::npos) << own.all();
}

TEST_F(PerlModuleTree, EachOfSeveralModulesIsOne) {
  std::filesystem::remove(tree.path("Clay.xs"));
  say(", XSMULTI => 1");
  for (const char* name : {"Clay", "Glaze"})
    tree.write("lib/Works/" + std::string(name) + ".xs",
               "#include \"EXTERN.h\"\n#include \"perl.h\"\n#include \"XSUB.h\"\nMODULE = Works::" + std::string(name) +
                   "  PACKAGE = Works::" + name + "\nint\nwater(cone)\n    int cone\n  CODE:\n    RETVAL = cone + " +
                   (name[0] == 'C' ? "1" : "2") + ";\n  OUTPUT:\n    RETVAL\n");
  tree.write("lib/Works/Glaze.pm",
             "package Works::Glaze;\nour $VERSION = '0.3';\nrequire XSLoader;\nXSLoader::load();\n1;\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(gives("require Works::Glaze; print Works::Clay::water(6), ' ', Works::Glaze::water(6)"), "7 8");
}

TEST_F(PerlModuleTree, WhatTheScriptLookedAtIsLookedAtAgain) {
  // A header that it reads, a folder that it lists, and a module that is not there yet.
  const std::string modules = tree.scratch() + "/modules";
  std::filesystem::create_directories(modules + "/Works/Missing");
  say(", PREREQ_PM => {'Works::Missing::Peer' => 0}, CCFLAGS => \"-DFOUND=$found -DSEEN=$seen\"",
      "open my $in, '<', 'slip.h' or die; my ($found) = join('', <$in>) =~ /SLIP (\\d+)/;\nmy $seen = () = "
      "glob('t/*');\n");
  tree.write("slip.c", "#include \"slip.h\"\nint slip(void) { return 10000 * FOUND + 1000 * SEEN; }\n");
  const auto bring_up = [&] {
    const auto said = coctilis({"bringup", tree.path(), "--kiln", tree.kiln()}, {{"PERL5LIB", modules}});
    EXPECT_NE(said.exit, 4) << said.all();
    return gives("print Works::Clay::water(6)");
  };
  EXPECT_EQ(bring_up(), "21106");
  EXPECT_EQ(check("t/water.t")["verdict"], "skipped");
  // Until nothing is to be done, and the run before it is repeated.
  for (int i = 0; i < 2; ++i) EXPECT_EQ(bring_up(), "21106");
  tree.write("slip.h", "#define SLIP 3\nint slip(void);\n");
  tree.write("t/second.t", "print \"1..1\\nok 1\\n\";\n");
  EXPECT_EQ(bring_up(), "32106");
  for (int i = 0; i < 2; ++i) EXPECT_EQ(bring_up(), "32106");
  files::write(modules + "/Works/Missing/Peer.pm", "package Works::Missing::Peer;\n1;\n");
  bring_up();
  EXPECT_EQ(check("t/water.t")["verdict"], "failed") << "it is run, and expects another number";
  EXPECT_EQ(check("t/second.t")["verdict"], "passed");
}

TEST_F(PerlModuleTree, WhatIsLackingIsNamed) {
  say("", "use Works::Missing::Helper;\n");
  auto said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("Works::Missing::Helper"), std::string::npos) << said.all();
  // What only the running module needs keeps nothing from being built; its tests are not made into failures.
  say(", PREREQ_PM => {'Works::Missing::Peer' => 2}");
  said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(check("t/water.t")["verdict"], "skipped");
  EXPECT_NE(check("t/water.t")["reason"].get<std::string>().find("Works::Missing::Peer"), std::string::npos);
  tree.write("Makefile.PL",
             "use ExtUtils::MakeMaker;\n# WriteMakefile is not called\nprint \"not on this system\\n\";\n");
  said = run("build");
  EXPECT_EQ(said.exit, 4);
  EXPECT_NE(said.all().find("without a word on how"), std::string::npos) << said.all();
  say("", "sub MY::init_dirscan { 1 }\n");
  said = run("build");
  EXPECT_EQ(said.exit, 4);
  EXPECT_NE(said.all().find("replaces 'init_dirscan', which is not followed"), std::string::npos) << said.all();
  tree.write("Makefile.PL", "use ExtUtils::MakeMaker;\nWriteMakefile(NAME => '../../clay');\n");
  EXPECT_EQ(run("build").exit, 4);
}

TEST_F(PerlModuleTree, OneWithoutACompiledPartIsNoneOfThis) {
  for (const char* name : {"Clay.xs", "slip.c", "slip.h"}) std::filesystem::remove(tree.path(name));
  const auto said = run("survey");
  EXPECT_EQ(said.all().find("follows Makefile.PL"), std::string::npos) << said.all();
}

}  // namespace
}  // namespace coctilis::test
