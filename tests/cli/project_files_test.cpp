// Trees with project files: *.pro with what it includes and names, and those that editors keep.
#include "support.h"

namespace coctilis::test {
namespace {

class ProjectFiles : public testing::Test {
 protected:
  Said run(const std::string& command, const std::vector<std::string>& more = {}) {
    std::vector<std::string> words = {command, tree.path(), "--kiln", tree.kiln()};
    words.insert(words.end(), more.begin(), more.end());
    return coctilis(words);
  }
  std::string said_by(const std::string& name) const {
    Command command;
    command.argv = {tree.label_folder() + "/bin/" + name};
    return coctilis::run(command).output;
  }
  void write_sources() const {
    tree.write("clay/clay.h", "int clay(void);\n");
    tree.write("clay/clay.c", "#include \"clay.h\"\nint clay(void) { return CLAY; }\n");
    tree.write("kiln/main.c",
               "#include <stdio.h>\n#include \"clay.h\"\nint main(void) { printf(\"%d\\n\", clay()); return 0; }\n");
  }
  TreeFolder tree;
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
  tree.write("yard.pro",
             "CONFIG -= qt\nTARGET = kiln\nSOURCES = main.c\nTABLES = table.txt\ntable.input = TABLES\ntable.output = "
             "${QMAKE_FILE_BASE}.h\n"
             "table.commands = printf \\'$${LITERAL_HASH}define TABLE %s\\' \\\"$(cat ${QMAKE_FILE_IN})\\\" > "
             "${QMAKE_FILE_OUT}\n"
             "table.variable_out = HEADERS\nQMAKE_EXTRA_COMPILERS += table\n");
  // A command without signs of the shell's own is enough here.
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
