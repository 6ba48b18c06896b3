// Project files that editors keep: what each kind says, and what it comes to.
#include "base/text.h"
#include "describe/editors/targets.h"
#include "support.h"

namespace coctilis::describe::editors {
namespace {

class EditorsTest : public testing::Test {
 protected:
  EditorRequest request(const std::string& file, const std::string& text, bool debug = false) {
    tree_.write(file, text);
    return {tree_.path(), tree_.path(file), debug};
  }
  // "name kind: sources; include: ...; define: ...; libraries: ...; uses: ...": of each project.
  static std::string told(const std::vector<EditorProject>& projects) {
    std::vector<std::string> out;
    for (const auto& one : projects) {
      std::vector<std::string> sources;
      for (const auto& source : one.sources)
        sources.push_back(source.path + (source.define.empty() ? "" : "(" + text::join(source.define, ",") + ")"));
      const char* kinds[] = {"program", "archive", "library", "nothing"};
      std::string text = one.name + " " + kinds[static_cast<int>(one.kind)] + ": " + text::join(sources, " ");
      const auto add = [&](const char* name, const std::vector<std::string>& words) {
        if (!words.empty()) text += "; " + std::string(name) + " " + text::join(words, " ");
      };
      add("include", one.include);
      add("define", one.define);
      add("options", one.options);
      add("libraries", one.libraries);
      add("uses", one.uses);
      add("resources", one.resources);
      std::vector<std::string> left;
      for (const auto& left_out : one.left_out) left.push_back(left_out.name);
      add("left out", left);
      out.push_back(text);
    }
    return text::join(out, "\n");
  }
  std::string problem(std::vector<EditorProject> (*read)(const EditorRequest&), const EditorRequest& asked) {
    try {
      return told(read(asked));
    } catch (const Fault& fault) {
      EXPECT_EQ(fault.problem().exit, Exit::description);
      EXPECT_FALSE(fault.problem().remedy.empty());
      return fault.problem().place.text() + ": " + fault.problem().what;
    }
  }
  test::TreeFolder tree_;
};

TEST_F(EditorsTest, ConfigurationsAreChosenByName) {
  EXPECT_EQ(configuration_for({"Debug|Win32", "Release|Win32", "Release|x64"}, false), "Release|x64");
  EXPECT_EQ(configuration_for({"Debug|Win32", "Release|Win32"}, true), "Debug|Win32");
  EXPECT_EQ(configuration_for({"kiln", "press"}, false), "kiln");
  EXPECT_EQ(configuration_for({}, false), "");
}
TEST_F(EditorsTest, ListsLoseWhatStandsForOthers) {
  EXPECT_EQ(list_in("A;B=1;%(PreprocessorDefinitions);;$(X);A"), (std::vector<std::string>{"A", "B=1"}));
  EXPECT_EQ(list_in("a.lib b.lib", " ;"), (std::vector<std::string>{"a.lib", "b.lib"}));
}
TEST_F(EditorsTest, PathsAreThoseOfTheTree) {
  tree_.write("src/Kiln.c", "");
  tree_.write("ide/yard.vcxproj", "");
  const EditorRequest asked = {tree_.path(), tree_.path("ide/yard.vcxproj"), false};
  EXPECT_EQ(path_in("..\\src\\Kiln.c", asked), "src/Kiln.c");
  EXPECT_EQ(path_in("..\\SRC\\kiln.C", asked), "src/Kiln.c");  // letter case did not count there
  EXPECT_EQ(path_in("$(ProjectDir)..\\src", asked), "src");
  EXPECT_EQ(path_in("\"..\\src\"", asked), "src");
  EXPECT_EQ(path_in("..\\..\\outside.c", asked), "");
  EXPECT_EQ(path_in("C:\\clay\\kiln.c", asked), "");
  EXPECT_EQ(path_in("$(CLAY)\\kiln.c", asked), "");
  EXPECT_EQ(path_in("..", asked), ".");
}

const char* const project =
    "<?xml version=\"1.0\"?>\n<Project>\n<ItemGroup><ProjectConfiguration Include=\"Debug|x64\"/>"
    "<ProjectConfiguration Include=\"Release|x64\"/></ItemGroup>\n"
    "<PropertyGroup><ProjectGuid>{A}</ProjectGuid></PropertyGroup>\n"
    "<PropertyGroup Condition=\"'$(Configuration)'=='Release'\"><ConfigurationType>DynamicLibrary</ConfigurationType>"
    "<TargetName>glaze</TargetName></PropertyGroup>\n"
    "<PropertyGroup "
    "Condition=\"'$(Configuration)'=='Debug'\"><ConfigurationType>Application</ConfigurationType></PropertyGroup>\n"
    "<ItemDefinitionGroup Condition=\"'$(Configuration)|$(Platform)'=='Release|x64'\"><ClCompile>"
    "<AdditionalIncludeDirectories>inc;%(AdditionalIncludeDirectories)</AdditionalIncludeDirectories>"
    "<PreprocessorDefinitions>HOT;WIN32</PreprocessorDefinitions><LanguageStandard>stdcpp17</LanguageStandard></"
    "ClCompile>"
    "<Link><AdditionalDependencies>m;kernel32.lib</AdditionalDependencies></Link></ItemDefinitionGroup>\n"
    "<ItemGroup><ClCompile Include=\"a.c\"><PreprocessorDefinitions "
    "Condition=\"'$(Configuration)|$(Platform)'=='Release|x64'\">"
    "ONE</PreprocessorDefinitions></ClCompile>"
    "<ClCompile Include=\"b.c\"><ExcludedFromBuild "
    "Condition=\"'$(Configuration)|$(Platform)'=='Release|x64'\">true</ExcludedFromBuild></ClCompile>"
    "<ClCompile Include=\"Z:\\c.c\"/><ResourceCompile Include=\"a.rc\"/>"
    "<ProjectReference Include=\"other.vcxproj\"><Project>{B}</Project></ProjectReference></ItemGroup>\n</Project>\n";

TEST_F(EditorsTest, ConditionsAreThoseOfTheConfiguration) {
  EXPECT_EQ(told(read_vcxproj(request("kiln.vcxproj", project))),
            "glaze library: a.c(ONE); include inc; define HOT WIN32; options -std=gnu++17; libraries m kernel32.lib; "
            "uses other.vcxproj {B}; resources a.rc; left out b.c Z:\\c.c");
  EXPECT_EQ(told(read_vcxproj(request("kiln.vcxproj", project, true))),
            "kiln program: a.c b.c; uses other.vcxproj {B}; resources a.rc; left out Z:\\c.c");
}
TEST_F(EditorsTest, OlderOnesHaveToolsAndFilters) {
  EXPECT_EQ(
      told(read_vcproj(request(
          "kiln.vcproj",
          "<VisualStudioProject Name=\"kiln\" ProjectGUID=\"{A}\"><Configurations>"
          "<Configuration Name=\"Debug|Win32\" ConfigurationType=\"1\"/>"
          "<Configuration Name=\"Release|Win32\" ConfigurationType=\"4\"><Tool Name=\"VCCLCompilerTool\" "
          "AdditionalIncludeDirectories=\"inc,..\\x\" "
          "PreprocessorDefinitions=\"A;B\"/></Configuration></Configurations>"
          "<Files><Filter Name=\"s\"><File RelativePath=\".\\a.c\"/><File RelativePath=\"a.h\"/>"
          "<File RelativePath=\"b.c\"><FileConfiguration Name=\"Release|Win32\" ExcludedFromBuild=\"true\"/></File>"
          "<File RelativePath=\"a.rc\"/></Filter></Files></VisualStudioProject>"))),
      "kiln archive: a.c; include inc; define A B; resources a.rc; left out b.c");
}
TEST_F(EditorsTest, SolutionsKnowWhatComesFirst) {
  tree_.write("kiln/kiln.vcxproj", "<Project><ItemGroup><ClCompile Include=\"k.c\"/></ItemGroup></Project>");
  tree_.write("clay/clay.vcproj",
              "<VisualStudioProject Name=\"clay\"><Files><File RelativePath=\"c.c\"/></Files></VisualStudioProject>");
  const std::string text =
      "Project(\"{1}\") = \"kiln\", \"kiln\\kiln.vcxproj\", \"{K}\"\r\n\tProjectSection(ProjectDependencies) = "
      "postProject\r\n"
      "\t\t{C0} = {C0}\r\n\tEndProjectSection\r\nEndProject\r\nProject(\"{2}\") = \"folder\", \"folder\", "
      "\"{F}\"\r\nEndProject\r\n"
      "Project(\"{1}\") = \"clay\", \"clay\\clay.vcproj\", \"{C0}\"\r\nEndProject\r\n";
  EXPECT_EQ(told(read_sln(request("yard.sln", text))), "kiln program: kiln/k.c; uses {C0}\nclay program: clay/c.c");
  EXPECT_EQ(problem(read_sln, request("yard.sln", "Project(\"{1}\") = \"x\", \"x.vcxproj\", \"{X}\"\n")),
            "yard.sln:1: the project 'x.vcxproj' is not there");
  EXPECT_EQ(problem(read_sln, request("yard.sln", "nothing\n")),
            "yard.sln: the file names no project that can be read");
}
TEST_F(EditorsTest, TargetsHaveUnitsOfTheirOwn) {
  const std::string text =
      "<F><Project><Option title=\"yard\"/><Build><Target title=\"kiln\"><Option output=\"bin/kiln.exe\"/><Option "
      "type=\"1\"/>"
      "<Compiler><Add option=\"-DK=1\"/><Add option=\"-Wall\"/><Add option=\"-std=c++17\"/></Compiler><Linker><Add "
      "library=\"m\"/></Linker></Target>"
      "<Target title=\"clay\"><Option output=\"lib/libclay\"/><Option type=\"2\"/></Target></Build>"
      "<Compiler><Add directory=\"inc\"/></Compiler>"
      "<Unit filename=\"k.cpp\"><Option target=\"kiln\"/></Unit><Unit filename=\"c.c\"><Option target=\"clay\"/></Unit>"
      "<Unit filename=\"both.c\"/><Unit filename=\"no.c\"><Option compile=\"0\"/></Unit></Project></F>";
  EXPECT_EQ(told(read_cbp(request("yard.cbp", text))),
            "kiln program: k.cpp both.c; include inc; define K=1; options -std=c++17; libraries m; left out no.c\n"
            "libclay archive: c.c both.c; include inc; left out no.c");
  EXPECT_EQ(problem(read_cbp, request("yard.cbp", "<F><Project/></F>")), "yard.cbp: the project file names no target");
}
TEST_F(EditorsTest, FoldersOfSourcesHaveExclusions) {
  for (const char* file : {"src/a.c", "src/old/b.c", "src/deep/c.cpp", "other/d.c"}) tree_.write(file, "");
  tree_.write(".project", "<projectDescription><name>kiln</name></projectDescription>");
  EXPECT_EQ(
      told(read_cproject(request(
          ".cproject",
          "<cproject><m><configuration name=\"Debug\"/><configuration name=\"Release\" artifactName=\"${ProjName}\" "
          "buildArtefactType=\"x.sharedLib\"><t><option superClass=\"g.compiler.option.include.paths\">"
          "<listOptionValue value=\"&quot;${workspace_loc:/kiln/inc}&quot;\"/></option><option "
          "superClass=\"g.preprocessor.def\">"
          "<listOptionValue value=\"HOT\"/></option><option superClass=\"c.link.option.libs\"><listOptionValue "
          "value=\"m\"/></option></t>"
          "<sourceEntries><entry name=\"src\" excluding=\"old\"/></sourceEntries></configuration></m></cproject>"))),
      "kiln library: src/a.c src/deep/c.cpp; include inc; define HOT; libraries m; left out src/old");
}
TEST_F(EditorsTest, BrokenFilesHaveTheirLine) {
  EXPECT_EQ(problem(read_vcxproj, request("kiln.vcxproj", "<Project>\n<ItemGroup>\n")).substr(0, 14), "kiln.vcxproj:2");
  EXPECT_EQ(problem(read_vcxproj, {tree_.path(), tree_.path("none.vcxproj"), false}).substr(0, 12), "none.vcxproj");
}
TEST_F(EditorsTest, WhatIsOfOtherSystemsIsLeftOutAndNamed) {
  tree_.write("a.c", "");
  EditorProject kiln;
  kiln.name = "kiln";
  kiln.file = "yard.sln";
  kiln.sources = {{"a.c", {"_CRT_SECURE_NO_WARNINGS", "HOT"}, {}, {}}, {"gone.c", {}, {}, {}}};
  kiln.define = {"WIN32", "_DEBUG"};
  kiln.libraries = {"kernel32.lib", "clay.lib", "-lm", "libz.a"};
  EditorProject clay;
  clay.name = "clay";
  clay.file = "clay.vcxproj";
  clay.kind = EditorProject::Kind::archive;
  clay.sources = {{"a.c", {}, {}, {}}};
  model::Project out;
  const auto targets = targets_of({kiln, clay}, {tree_.path(), tree_.path("yard.sln"), false}, out);
  ASSERT_EQ(targets.size(), 2U);
  EXPECT_EQ(targets[0].parts[0].define, (std::vector<std::string>{"_DEBUG", "HOT"}));
  EXPECT_EQ(targets[0].use, std::vector<std::string>{"clay"});
  EXPECT_EQ(targets[0].libraries, (std::vector<std::string>{"m", "z"}));
  std::vector<std::string> left;
  for (const auto& one : out.left_out) left.push_back(one.kind + " " + one.name + ": " + one.reason);
  EXPECT_EQ(left, (std::vector<std::string>{"source gone.c: it is not there",
                                            "library kernel32.lib: it is a library of systems of another kind"}));
  EXPECT_EQ(out.warnings.size(), 1U);
}

}  // namespace
}  // namespace coctilis::describe::editors
