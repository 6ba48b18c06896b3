// What project files of C# say.
#include "describe/csharp/project.h"
#include "support.h"

namespace coctilis::describe::csharp {
namespace {

struct SharpCondition {
  const char* name;
  const char* text;
  bool holds;
  bool good;
};
class SharpConditions : public testing::TestWithParam<SharpCondition> {};
TEST_P(SharpConditions, AreWorkedOut) {
  std::string problem;
  EXPECT_EQ(condition_holds(GetParam().text, "/", problem), GetParam().holds);
  EXPECT_EQ(problem.empty(), GetParam().good) << problem;
}
INSTANTIATE_TEST_SUITE_P(Texts, SharpConditions,
                         testing::Values(SharpCondition{"Empty", " ", true, true},
                                         SharpCondition{"Same", "'Release' == 'release'", true, true},
                                         SharpCondition{"Other", "'Debug|AnyCPU' == 'Release|AnyCPU'", false, true},
                                         SharpCondition{"Not", "'a' != 'b' and !('a' == 'b')", true, true},
                                         SharpCondition{"OrBindsLess", "'a'=='b' And 'a'=='a' Or 'c'=='c'", true, true},
                                         SharpCondition{"Exists", "Exists('/usr') And !Exists('/no/such')", true, true},
                                         SharpCondition{"Numbers", "'5.0' >= '4'", true, true},
                                         SharpCondition{"Plain", "true", true, true},
                                         SharpCondition{"Open", "('a' == 'a'", false, false},
                                         SharpCondition{"Quote", "'a == 'b", false, false},
                                         SharpCondition{"Function", "$([MSBuild]::X()) == 1", false, false}),
                         [](const auto& one) { return one.param.name; });
TEST(SharpCondition, ThatGoesTooDeepEnds) {
  std::string problem;
  EXPECT_FALSE(condition_holds(std::string(100000, '('), "/", problem));
  EXPECT_FALSE(problem.empty());
}

class SharpProjects : public testing::Test {
 protected:
  [[nodiscard]] CsharpProject read(const std::string& text, bool debug = false) const {
    tree_.write("app/app.csproj", text);
    return read_project(tree_.path("app/app.csproj"), tree_.path(), debug);
  }
  [[nodiscard]] std::vector<std::string> sources(const CsharpProject& project) const {
    std::vector<std::string> out;
    for (const auto& path : project.sources) out.push_back(files::below(path, tree_.path()));
    return out;
  }
  test::TreeFolder tree_;
};

TEST_F(SharpProjects, TheShortFormTakesFilesByDefault) {
  for (const char* name : {"app/Kiln.cs", "app/glaze/Glaze.cs", "app/obj/Debug/Made.cs", "app/bin/Old.cs",
                           "app/old/Old.cs", "app/inner/inner.csproj", "app/inner/Inner.cs", "common/Shared.cs",
                           "app/data/cones.txt", "app/appsettings.json"})
    tree_.write(name, "\n");
  tree_.write("Directory.Build.props",
              "<Project><PropertyGroup><Company>Yard</Company><DefineConstants>YARD</DefineConstants></PropertyGroup></"
              "Project>");
  const auto project = read(
      "<Project "
      "Sdk=\"Microsoft.NET.Sdk\"><PropertyGroup><OutputType>Exe</OutputType><TargetFramework>net8.0</TargetFramework>"
      "<AssemblyName>$(Company)-kiln</AssemblyName><DefineConstants>$(DefineConstants);KILN</DefineConstants>"
      "<RootNamespace>Yard</RootNamespace></PropertyGroup>"
      "<PropertyGroup Condition=\"'$(Configuration)' == "
      "'Debug'\"><DefineConstants>$(DefineConstants);SLOW</DefineConstants></PropertyGroup>"
      "<ItemGroup><Compile Remove=\"old\\**\"/><Compile Include=\"..\\common\\Shared.cs\" Link=\"Shared.cs\"/>"
      "<EmbeddedResource Include=\"data/cones.txt\"/>"
      "<None Update=\"appsettings.json\"><CopyToOutputDirectory>PreserveNewest</CopyToOutputDirectory></None>"
      "<ProjectReference Include=\"..\\clay\\clay.csproj\"/><PackageReference Include=\"Tables\" Version=\"1.4\"/>"
      "<Reference Include=\"System.Xml\"/><Reference Include=\"Own, "
      "Version=1.0\"><HintPath>..\\lib\\Own.dll</HintPath></Reference>"
      "</ItemGroup></Project>");
  EXPECT_EQ(project.name, "Yard-kiln");
  EXPECT_TRUE(project.is_program);
  EXPECT_FALSE(project.is_test);
  EXPECT_EQ(sources(project), (std::vector<std::string>{"common/Shared.cs", "app/Kiln.cs", "app/glaze/Glaze.cs"}));
  EXPECT_EQ(project.defines, (std::vector<std::string>{"YARD", "KILN", "TRACE"}));
  EXPECT_EQ(project.frameworks, std::vector<std::string>{"net8.0"});
  EXPECT_EQ(project.uses, std::vector<std::string>{tree_.path("clay/clay.csproj")});
  ASSERT_EQ(project.references.size(), 3U);
  EXPECT_TRUE(project.references[0].is_package);
  EXPECT_EQ(project.references[0].version, "1.4");
  EXPECT_EQ(project.references[2].name, "Own");
  EXPECT_EQ(project.references[2].path, tree_.path("lib/Own.dll"));
  ASSERT_EQ(project.resources.size(), 1U);
  EXPECT_EQ(project.resources.front().name, "Yard.data.cones.txt");
  ASSERT_EQ(project.contents.size(), 1U);
  EXPECT_EQ(project.contents.front().to, "appsettings.json");
}

TEST_F(SharpProjects, TheOlderFormNamesItsFiles) {
  for (const char* name : {"app/Kiln.cs", "app/Other.cs"}) tree_.write(name, "\n");
  const auto project = read(
      "<Project ToolsVersion=\"4.0\"><PropertyGroup>"
      "<Configuration Condition=\" '$(Configuration)' == '' \">Debug</Configuration><OutputType>Library</OutputType>"
      "<AssemblyName>kiln</AssemblyName><TargetFrameworkVersion>v4.5</TargetFrameworkVersion></PropertyGroup>"
      "<PropertyGroup Condition=\"'$(Configuration)|$(Platform)' == 'Release|AnyCPU'\"><Optimize>true</Optimize>"
      "<DefineConstants>FAST</DefineConstants></PropertyGroup><ItemGroup><Compile Include=\"kiln.cs\"/></ItemGroup>"
      "<Import Project=\"$(Tools)\\Common.targets\"/></Project>");
  EXPECT_FALSE(project.is_program);
  EXPECT_EQ(project.defines, std::vector<std::string>{"FAST"});
  EXPECT_EQ(sources(project), std::vector<std::string>{"app/Kiln.cs"});
  EXPECT_EQ(project.options, std::vector<std::string>{"-optimize+"});
}

TEST_F(SharpProjects, TestsAreToldByWhatTheyUse) {
  EXPECT_TRUE(
      read("<Project Sdk=\"x\"><ItemGroup><PackageReference Include=\"NUnit\"/></ItemGroup></Project>").is_test);
  EXPECT_FALSE(read("<Project Sdk=\"x\"/>").is_test);
}

struct BrokenSharp {
  const char* name;
  const char* text;
  const char* says;
};
class BrokenSharpProject : public SharpProjects, public testing::WithParamInterface<BrokenSharp> {};
TEST_P(BrokenSharpProject, IsToldWithItsFile) {
  try {
    static_cast<void>(read(GetParam().text));
    FAIL() << "nothing was said";
  } catch (const Fault& fault) {
    EXPECT_EQ(fault.problem().exit, Exit::description);
    EXPECT_EQ(fault.problem().place.file, "app/app.csproj");
    EXPECT_NE(fault.problem().what.find(GetParam().says), std::string::npos) << fault.problem().what;
  }
}
INSTANTIATE_TEST_SUITE_P(
    Texts, BrokenSharpProject,
    testing::Values(
        BrokenSharp{"NoXml", "hello", ""}, BrokenSharp{"OtherRoot", "<x/>", "no <Project>"},
        BrokenSharp{"Gone", "<Project><ItemGroup><Compile Include=\"gone.cs\"/></ItemGroup></Project>", "is not there"},
        BrokenSharp{"Outside", "<Project><ItemGroup><Compile Include=\"../../x.cs\"/></ItemGroup></Project>",
                    "outside of the tree"},
        BrokenSharp{"ProjectOutside",
                    "<Project><ItemGroup><ProjectReference Include=\"../../x.csproj\"/></ItemGroup></Project>",
                    "outside of the tree"},
        BrokenSharp{"GrowsWithoutEnd",
                    "<Project><PropertyGroup><A>aaaaaaaaaaaaaaaa</A><A>$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)</A>"
                    "<A>$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)</A><A>$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)</A>"
                    "<A>$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)</A><A>$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)</A>"
                    "<A>$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)$(A)</A></PropertyGroup></Project>",
                    "grows without end"}),
    [](const auto& one) { return one.param.name; });

TEST_F(SharpProjects, ASolutionNamesProjects) {
  tree_.write("yard.sln",
              "Project(\"{FAE0}\") = \"app\", \"app\\app.csproj\", \"{1}\"\nEndProject\n"
              "Project(\"{2150}\") = \"docs\", \"docs\", \"{2}\"\nEndProject\n");
  EXPECT_EQ(projects_of_solution(tree_.path("yard.sln")), std::vector<std::string>{tree_.path("app/app.csproj")});
}

}  // namespace
}  // namespace coctilis::describe::csharp
