// Trees with project files: *.pro with what it includes and names, and those that editors keep.
#include "support.h"

namespace coctilis::test {
namespace {

class ProjectFiles : public DrivenTree {
 protected:
  void write_sources() const {
    tree.write("clay/clay.h", "int clay(void);\n");
    tree.write("clay/clay.c", "#include \"clay.h\"\nint clay(void) { return CLAY; }\n");
    tree.write("kiln/main.c",
               "#include <stdio.h>\n#include \"clay.h\"\nint main(void) { printf(\"%d\\n\", clay()); return 0; }\n");
  }
};

TEST_F(ProjectFiles, SubfoldersMakeLibrariesAndPrograms) {
  write_sources();
  tree.write("yard.pro", "TEMPLATE = subdirs\nSUBDIRS = kiln clay missing\nkiln.depends = clay\n");
  tree.write("common.pri", "CONFIG -= qt\nINCLUDEPATH += $$PWD/clay\n");
  tree.write("clay/clay.pro",
             "include(../common.pri)\nTEMPLATE = lib\nCONFIG += staticlib\nDEFINES += CLAY=7\nSOURCES = "
             "clay.c\nHEADERS = clay.h\n");
  tree.write("kiln/kiln.pro",
             "include(../common.pri)\nTARGET = fire\nSOURCES = main.c\nLIBS += -L$$OUT_PWD/../clay -lclay\n"
             "target.path = /usr/local/bin\nINSTALLS += target\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("fire"), "7\n");
  EXPECT_NE(said.all().find("'missing' of SUBDIRS is not there"), std::string::npos) << said.all();
  tree.write("clay/clay.pro",
             "include(../common.pri)\nTEMPLATE = lib\nCONFIG += staticlib\nDEFINES += CLAY=8\nSOURCES = clay.c\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("fire"), "8\n");
  ASSERT_EQ(run("stage", {"--prefix", tree.scratch() + "/prefix"}).exit, 0);
  EXPECT_TRUE(files::exists(tree.scratch() + "/prefix/bin/fire"));
}

TEST_F(ProjectFiles, OfSeveralTheOneThatNamesOthersIsFollowed) {
  write_sources();
  tree.write("clay.pro", "CONFIG -= qt\nTEMPLATE = lib\nDEFINES += CLAY=1\nSOURCES = clay/clay.c\n");
  tree.write("works.pro", "TEMPLATE = subdirs\nSUBDIRS = c\nc.file = clay.pro\n");
  EXPECT_NE(run("survey").all().find("follows works.pro"), std::string::npos) << run("survey").all();
  tree.write("tree.pro", "CONFIG -= qt\nSOURCES = kiln/main.c\n");
  EXPECT_NE(run("survey").all().find("follows tree.pro"), std::string::npos) << run("survey").all();
}

TEST_F(ProjectFiles, SharedLibrariesHaveTheirNames) {
  write_sources();
  tree.write(
      "yard.pro",
      "TEMPLATE = lib\nCONFIG -= qt\nTARGET = clay\nVERSION = 2.3.4\nDEFINES += CLAY=1\nSOURCES = clay/clay.c\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(files::exists(tree.label_folder() + "/lib/libclay.so.2.3.4"));
}

TEST_F(ProjectFiles, GeneratorsOfTheTreeWriteSources) {
  tree.write("table.txt", "42\n");
  tree.write("main.c",
             "#include <stdio.h>\n#include \"table.h\"\nint main(void) { printf(\"%d\\n\", TABLE); return 0; }\n");
  tree.write("make-table.sh", "#!/bin/sh\nprintf '#define TABLE %s\\n' \"$(cat \"$1\")\" > \"$2\"\n");
  tree.write("yard.pro",
             "CONFIG -= qt\nTARGET = kiln\nSOURCES = main.c\nTABLES = table.txt\ntable.input = TABLES\ntable.output = "
             "${QMAKE_FILE_BASE}.h\n"
             "table.commands = sh $$PWD/make-table.sh ${QMAKE_FILE_IN} ${QMAKE_FILE_OUT}\n"
             "table.variable_out = HEADERS\nQMAKE_EXTRA_COMPILERS += table\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "42\n");
  tree.write("table.txt", "43\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "43\n");
}

TEST_F(ProjectFiles, TestProjectsAreCompiled) {
  tree.write("config.tests/good/good.pro", "CONFIG -= qt\nSOURCES = main.c\n");
  tree.write("config.tests/good/main.c", "int main(void) { return 0; }\n");
  tree.write("config.tests/bad/bad.pro", "CONFIG -= qt\nSOURCES = main.c\n");
  tree.write("config.tests/bad/main.c", "#include <no_such_clay.h>\nint main(void) { return 0; }\n");
  tree.write("main.c", "#include <stdio.h>\nint main(void) { printf(\"%d %d\\n\", GOOD, BAD); return 0; }\n");
  tree.write("yard.pro",
             "CONFIG -= qt\nTARGET = kiln\nSOURCES = main.c\nload(configure)\nqtCompileTest(good): DEFINES += "
             "GOOD=1\nelse: DEFINES += GOOD=0\n"
             "qtCompileTest(bad): DEFINES += BAD=1\nelse: DEFINES += BAD=0\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "1 0\n");
}

TEST_F(ProjectFiles, MistakesOfProjectFilesHaveTheirPlace) {
  tree.write("yard.pro", "CONFIG -= qt\nSOURCES = none.c\n");
  const auto missing = run("build");
  EXPECT_EQ(missing.exit, 4) << missing.all();
  EXPECT_NE(missing.all().find("yard.pro:2"), std::string::npos) << missing.all();
  EXPECT_NE(missing.all().find("the source 'none.c' is not there"), std::string::npos) << missing.all();
  tree.write("yard.pro", "unix {\nSOURCES = main.c\n");
  const auto open = run("build");
  EXPECT_EQ(open.exit, 4) << open.all();
  EXPECT_NE(open.all().find("a '{' is not closed"), std::string::npos) << open.all();
}

TEST_F(ProjectFiles, ManyThatComeOneAfterTheOther) {
  std::string names;
  for (int i = 0; i < 40; ++i) {
    const std::string name = "kiln" + std::to_string(i);
    names += " " + name;
    tree.write(name + "/" + name + ".pro", "CONFIG -= qt\nSOURCES = main.c\n");
    tree.write(name + "/main.c", "int main(void) { return 0; }\n");
  }
  tree.write("yard.pro", "TEMPLATE = subdirs\nCONFIG += ordered\nSUBDIRS =" + names + "\n");
  const auto said = run("plan", {"--json"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said.json()["targets"].size(), 40U);
}

TEST_F(ProjectFiles, CommandsThatStartABuildOfTheirOwnAreRefused) {
  tree.write("main.c", "int main(void) { return 0; }\n");
  tree.write(
      "yard.pro",
      "CONFIG -= qt\nTARGET = kiln\nSOURCES = main.c\nhelp.commands = $(MAKE) -C help\nQMAKE_EXTRA_TARGETS += help\n");
  ASSERT_EQ(run("build").exit, 0);
  const auto said = run("build", {"help"});
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("starts a build of its own"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("yard.pro:4"), std::string::npos) << said.all();
}

TEST_F(ProjectFiles, ArchivesThatNeedEachOtherAreLinked) {
  tree.write("yard.pro", "TEMPLATE = subdirs\nSUBDIRS = a b kiln\n");
  for (const char* name : {"a", "b"}) {
    const std::string other = std::string(name) == "a" ? "b" : "a";
    tree.write(std::string(name) + "/" + name + ".pro",
               "TEMPLATE = lib\nCONFIG -= qt\nCONFIG += staticlib\nSOURCES = " + std::string(name) +
                   ".c\nLIBS += -L../" + other + " -l" + other + "\n");
    tree.write(std::string(name) + "/" + name + ".c",
               "int " + other + "(int);\nint " + name + "(int x) { return x ? " + other + "(x - 1) : 7; }\n");
  }
  tree.write("kiln/kiln.pro", "CONFIG -= qt\nSOURCES = main.c\nLIBS += -L../a -la\n");
  tree.write("kiln/main.c", "#include <stdio.h>\nint a(int);\nint main(void) { printf(\"%d\\n\", a(3)); return 0; }\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "7\n");
}

// A toolkit in a prefix: its generators write what tells that they ran.
class ToolkitProjects : public ProjectFiles {
 protected:
  ToolkitProjects() {
    files::write(prefix() + "/lib/pkgconfig/Qt5Core.pc",
                 "prefix=" + prefix() +
                     "\nlibdir=${prefix}/lib\nincludedir=${prefix}/include\nhost_bins=${prefix}/bin\nName: core\n"
                     "Description: c\nVersion: 5.15.2\nCflags: -I${includedir}\nLibs: -L${libdir} -lQt5Core\n");
    files::write(prefix() + "/include/object.h", "#define Q_OBJECT\n");
    files::write(prefix() + "/core.c", "int core;\n");
    Command command;
    command.argv = {"cc", "-shared", "-fPIC", "-o", prefix() + "/lib/libQt5Core.so", prefix() + "/core.c"};
    EXPECT_TRUE(coctilis::run(command).good());
    generator("moc", "int moc_made() { return 1; }");
    generator("rcc", "int resources_made() { return 2; }");
    generator("uic", "#define TITLE \"kiln\"");
    tree.write("window.h", "#include <object.h>\nclass Window {\n  Q_OBJECT\n};\n");
    tree.write("window.ui", "<ui/>\n");
    tree.write("list.qrc", "<RCC><qresource><file>clay.txt</file></qresource></RCC>\n");
    tree.write("clay.txt", "red\n");
    tree.write(
        "main.cpp",
        "#include <stdio.h>\n#include \"window.h\"\n#include \"ui_window.h\"\nint moc_made();\nint resources_made();\n"
        "int main() { printf(\"%s %d %d %d\\n\", TITLE, moc_made(), resources_made(), "
        "__cplusplus >= 201703L); return 0; }\n");
  }
  [[nodiscard]] std::string prefix() const { return tree.scratch() + "/toolkit"; }
  void generator(const std::string& name, const std::string& writes) const {
    const std::string path = prefix() + "/bin/" + name;
    files::write(path, "#!/bin/sh\nwhile [ \"$1\" != -o ]; do shift; done\nprintf '%s\\n' '" + writes + "' > \"$2\"\n");
    std::filesystem::permissions(path, std::filesystem::perms::all);
  }
  Said build(const std::string& text) {
    tree.write("yard.pro", text);
    return run("build", {"--with", prefix()});
  }
};

TEST_F(ToolkitProjects, GeneratorsAreRun) {
  const std::string text =
      "QT = core\nCONFIG += c++17\nTARGET = kiln\nSOURCES = main.cpp\nHEADERS = window.h\nFORMS = window.ui\nRESOURCES "
      "= list.qrc\n";
  const auto said = build(text);
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "kiln 1 2 1\n");
  EXPECT_NE(build(text).all().find("up to date"), std::string::npos);
  // What goes into the program counts.
  tree.write("clay.txt", "blue\n");
  EXPECT_EQ(build(text).all().find("all "), std::string::npos);
}
TEST_F(ToolkitProjects, WhatIsMissingHasItsPackage) {
  const auto said = build("QT = core nfc\nTARGET = kiln\nSOURCES = main.cpp\n");
  if (said.all().find("Qt5Nfc 5") != std::string::npos) GTEST_SKIP() << "this machine has that module";
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("qtconnectivity5-dev"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("yard.pro:1"), std::string::npos) << said.all();
}

// ---- project files of editors
// ----------------------------------------------------------------------------------------
TEST_F(ProjectFiles, SolutionsNameProjectsThatUseEachOther) {
  write_sources();
  tree.write("kiln/main.rc", "");
  tree.write("yard.sln",
             "Project(\"{1}\") = \"kiln\", \"kiln\\kiln.vcxproj\", \"{K}\"\nEndProject\n"
             "Project(\"{1}\") = \"clay\", \"clay\\clay.vcxproj\", \"{C}\"\nEndProject\n");
  const std::string configurations =
      "<?xml version=\"1.0\"?>\n<Project>\n<ItemGroup><ProjectConfiguration "
      "Include=\"Debug|Win32\"/><ProjectConfiguration Include=\"Release|Win32\"/></ItemGroup>\n";
  tree.write("clay/clay.vcxproj",
             configurations +
                 "<PropertyGroup><ConfigurationType>StaticLibrary</ConfigurationType></PropertyGroup>\n"
                 "<ItemDefinitionGroup "
                 "Condition=\"'$(Configuration)|$(Platform)'=='Release|Win32'\"><ClCompile><PreprocessorDefinitions>"
                 "WIN32;CLAY=5;%(PreprocessorDefinitions)</PreprocessorDefinitions></ClCompile></ItemDefinitionGroup>\n"
                 "<ItemDefinitionGroup "
                 "Condition=\"'$(Configuration)|$(Platform)'=='Debug|Win32'\"><ClCompile><PreprocessorDefinitions>CLAY="
                 "6</PreprocessorDefinitions></ClCompile></ItemDefinitionGroup>\n"
                 "<ItemGroup><ClCompile Include=\"Clay.c\"/></ItemGroup>\n</Project>\n");
  tree.write(
      "kiln/kiln.vcxproj",
      configurations +
          "<PropertyGroup><ConfigurationType>Application</ConfigurationType></PropertyGroup>\n"
          "<ItemDefinitionGroup><ClCompile><AdditionalIncludeDirectories>..\\clay;%(AdditionalIncludeDirectories)</"
          "AdditionalIncludeDirectories></ClCompile><Link><AdditionalDependencies>kernel32.lib</"
          "AdditionalDependencies></Link></ItemDefinitionGroup>\n"
          "<ItemGroup><ClCompile Include=\"main.c\"/><ClCompile "
          "Include=\"other.c\"><ExcludedFromBuild>true</ExcludedFromBuild></ClCompile><ResourceCompile "
          "Include=\"main.rc\"/>"
          "<ProjectReference Include=\"..\\clay\\clay.vcxproj\"/></ItemGroup>\n</Project>\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "5\n");
  const auto plan = run("plan");
  EXPECT_NE(plan.all().find("kernel32.lib: it is a library of systems of another kind"), std::string::npos)
      << plan.all();
  EXPECT_NE(plan.all().find("main.rc: it is for systems of another kind"), std::string::npos) << plan.all();
  EXPECT_NE(plan.all().find("the project excludes it"), std::string::npos) << plan.all();
}

TEST_F(ProjectFiles, UnitsBelongToTargets) {
  write_sources();
  tree.write("yard.cbp",
             "<?xml version=\"1.0\"?>\n<File><Project><Option title=\"Kiln\"/>\n<Build><Target "
             "title=\"Release\"><Option output=\"bin/Release/kiln\"/><Option type=\"1\"/>"
             "<Compiler><Add option=\"-DCLAY=9\"/></Compiler></Target></Build>\n<Compiler><Add "
             "directory=\"clay\"/></Compiler>\n"
             "<Unit filename=\"clay\\clay.c\"/><Unit filename=\"kiln/main.c\"><Option "
             "target=\"Release\"/></Unit></Project></File>\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "9\n");
}

TEST_F(ProjectFiles, ConfigurationsHaveFoldersOfSources) {
  write_sources();
  tree.write("old/broken.c", "not C\n");
  tree.write(".project", "<projectDescription><name>kiln</name></projectDescription>\n");
  tree.write(
      ".cproject",
      "<cproject><storageModule><cconfiguration><storageModule><configuration name=\"Release\" "
      "artifactName=\"${ProjName}\" buildArtefactType=\"x.exe\">"
      "<toolChain><tool><option superClass=\"c.compiler.option.include.paths\"><listOptionValue "
      "value=\"&quot;${workspace_loc:/${ProjName}/clay}&quot;\"/></option>"
      "<option superClass=\"c.compiler.option.preprocessor.def.symbols\"><listOptionValue "
      "value=\"CLAY=3\"/></option></tool></toolChain>"
      "<sourceEntries><entry excluding=\"old\" kind=\"sourcePath\" "
      "name=\"\"/></sourceEntries></configuration></storageModule></cconfiguration></storageModule></cproject>\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "3\n");
}

TEST_F(ProjectFiles, BrokenOnesHaveTheirPlace) {
  tree.write("yard.vcxproj", "<?xml version=\"1.0\"?>\n<Project>\n<ItemGroup>\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("yard.vcxproj:"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("broken"), std::string::npos) << said.all();
  // Entities that stand for each other are not replaced.
  std::string bomb = "<?xml version=\"1.0\"?>\n<!DOCTYPE a [<!ENTITY a0 \"clay\">";
  for (int i = 1; i < 40; ++i)
    bomb += "<!ENTITY a" + std::to_string(i) + " \"&a" + std::to_string(i - 1) + ";&a" + std::to_string(i - 1) + ";\">";
  tree.write("yard.vcxproj", bomb + "]>\n<Project><ItemGroup><ClCompile Include=\"&a39;\"/></ItemGroup></Project>\n");
  const auto exploding = run("build");
  EXPECT_EQ(exploding.exit, 4) << exploding.all();
}

}  // namespace
}  // namespace coctilis::test
