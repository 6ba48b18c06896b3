// Trees in C#, driven from end to end with the compiler that is here.
#include "support.h"

namespace coctilis::test {
namespace {

class Csharp : public DrivenTree {
 protected:
  void SetUp() override {
    if (find_program("mcs").empty() || find_program("mono").empty())
      GTEST_SKIP() << "there is no compiler of C# (mono-mcs, mono-runtime)";
    tree.write("yard.sln",
               "Project(\"{FAE0}\") = \"app\", \"app\\app.csproj\", \"{1}\"\nEndProject\n"
               "Project(\"{FAE0}\") = \"clay\", \"clay\\clay.csproj\", \"{2}\"\nEndProject\n"
               "Project(\"{FAE0}\") = \"tests\", \"tests\\tests.csproj\", \"{3}\"\nEndProject\n");
    tree.write(
        "clay/clay.csproj",
        "<Project "
        "Sdk=\"Microsoft.NET.Sdk\"><PropertyGroup><TargetFramework>net8.0</TargetFramework></PropertyGroup></Project>");
    tree.write("clay/Clay.cs",
               "namespace Yard { public static class Clay { public static int Water() { return 18; } } }\n");
    tree.write("app/app.csproj",
               "<Project Sdk=\"Microsoft.NET.Sdk\">\n<PropertyGroup><OutputType>Exe</OutputType>"
               "<TargetFramework>net8.0</TargetFramework><AssemblyName>kiln</AssemblyName></PropertyGroup>\n<ItemGroup>"
               "<ProjectReference Include=\"..\\clay\\clay.csproj\"/><EmbeddedResource Include=\"glazes.txt\" "
               "LogicalName=\"glazes\"/>"
               "<Content Include=\"cones.txt\"><CopyToOutputDirectory>PreserveNewest</CopyToOutputDirectory></Content>"
               "</ItemGroup>\n</Project>\n");
    tree.write(
        "app/Kiln.cs",
        "using System;\nusing System.IO;\nclass Kiln {\n  static int Main(string[] words) {\n"
        "    var glazes = new StreamReader(typeof(Kiln).Assembly.GetManifestResourceStream(\"glazes\")).ReadLine();\n"
        "    var beside = File.ReadAllText(Path.Combine(AppDomain.CurrentDomain.BaseDirectory, "
        "\"cones.txt\")).Trim();\n"
        "    Console.WriteLine(\"{0}, {1}, water {2}\", glazes, beside, Yard.Clay.Water());\n    return 0;\n  }\n}\n");
    tree.write("app/glazes.txt", "celadon\n");
    tree.write("app/cones.txt", "cone 6\n");
    tree.write(
        "tests/tests.csproj",
        "<Project "
        "Sdk=\"Microsoft.NET.Sdk\"><PropertyGroup><TargetFramework>net8.0</TargetFramework></PropertyGroup><ItemGroup>"
        "<PackageReference Include=\"Tests.Of.No.Yard\"/><PackageReference "
        "Include=\"Microsoft.NET.Test.Sdk\"/></ItemGroup></Project>");
    tree.write("tests/Tests.cs", "using Tests.Of.No.Yard;\nclass Tests {}\n");
  }
  [[nodiscard]] std::string says() const { return coctilis::run({{tree.label_folder() + "/bin/kiln"}}).output; }
  void change(const std::string& file, const std::string& from, const std::string& to) const {
    std::string text = tree.read(file);
    const auto at = text.find(from);
    ASSERT_NE(at, std::string::npos) << from;
    tree.write(file, text.replace(at, from.size(), to));
  }
};

TEST_F(Csharp, ASolutionComesUpWithDataBesideIt) {
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says(), "celadon, cone 6, water 18\n");
  EXPECT_NE(said.all().find("the framework net8.0 is not here"), std::string::npos) << said.all();
  const auto again = run("bringup");
  EXPECT_NE(again.all().find("up to date"), std::string::npos) << again.all();
}

TEST_F(Csharp, ATerminalChangesNothing) {
  const auto said = built_on_a_terminal();
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(Csharp, WhatChangesIsMadeAgain) {
  ASSERT_EQ(run("build").exit, 0);
  change("clay/Clay.cs", "18", "21");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says(), "celadon, cone 6, water 21\n");
  tree.write("app/cones.txt", "cone 10\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says(), "celadon, cone 10, water 21\n");
  tree.write("app/More.cs", "class Kiln {}\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("Kiln.cs"), std::string::npos) << said.all();
  std::filesystem::remove(tree.path("app/More.cs"));
  EXPECT_EQ(run("build").exit, 0);
}

TEST_F(Csharp, AnInstalledOneStartsFromAnyFolder) {
  const std::string prefix = tree.scratch() + "/prefix";
  ASSERT_EQ(run("stage", {"--prefix", prefix}).exit, 0);
  std::filesystem::rename(prefix, tree.scratch() + "/elsewhere");
  EXPECT_EQ(coctilis::run({{tree.scratch() + "/elsewhere/bin/kiln"}}).output, "celadon, cone 6, water 18\n");
}

TEST_F(Csharp, EachProgramHasItsOwnDataBesideIt) {
  tree.write("yard.sln",
             tree.read("yard.sln") + "Project(\"{FAE0}\") = \"press\", \"press\\press.csproj\", \"{4}\"\nEndProject\n");
  tree.write("press/press.csproj",
             "<Project Sdk=\"Microsoft.NET.Sdk\"><PropertyGroup><OutputType>Exe</OutputType></PropertyGroup><ItemGroup>"
             "<ProjectReference Include=\"../clay/clay.csproj\"/><None Include=\"cones.txt;absent.txt\">"
             "<CopyToOutputDirectory>Always</CopyToOutputDirectory></None></ItemGroup></Project>");
  tree.write("press/cones.txt", "cone 10\n");
  tree.write(
      "press/Press.cs",
      "class Press { static void Main() { System.Console.Write(System.IO.File.ReadAllText(System.IO.Path.Combine("
      "System.AppDomain.CurrentDomain.BaseDirectory, \"cones.txt\")) + Yard.Clay.Water()); } }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says(), "celadon, cone 6, water 18\n");
  EXPECT_EQ(said_by("press"), "cone 10\n18");
  EXPECT_NE(said.all().find("press/absent.txt"), std::string::npos) << said.all();
  const std::string prefix = tree.scratch() + "/prefix";
  ASSERT_EQ(run("stage", {"--prefix", prefix}).exit, 0);
  EXPECT_EQ(coctilis::run({{prefix + "/bin/press"}}).output, "cone 10\n18");
}

TEST_F(Csharp, NamespacesThatAreUsedUnasked) {
  change("clay/clay.csproj", "<TargetFramework>net8.0</TargetFramework></PropertyGroup>",
         "<TargetFramework>net8.0</TargetFramework><ImplicitUsings>enable</ImplicitUsings></PropertyGroup>"
         "<ItemGroup><Using Include=\"System.Math\" Static=\"true\"/><Using Include=\"System.Text.StringBuilder\" "
         "Alias=\"Words\"/><Using Remove=\"System.IO\"/></ItemGroup>");
  const auto write = [&](const std::string& water) {
    tree.write(
        "clay/Clay.cs",
        "using System;\nnamespace Yard { public static class Clay { public static int Water() {\n  var all = new "
        "List<int> { 17, 18 };\n  new Words();\n  return " +
            water + ";\n} } }\n");
  };
  write("Max(all.Max(), 1)");
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says(), "celadon, cone 6, water 18\n");
  EXPECT_EQ(said.all().find("CS0105"), std::string::npos) << said.all();
  EXPECT_NE(run("bringup").all().find("up to date"), std::string::npos);
  write("Max(all.Min(), 1)");
  ASSERT_EQ(run("bringup").exit, 0);
  EXPECT_EQ(says(), "celadon, cone 6, water 17\n");
  // What is wrong is told where it stands in the tree.
  write("File.Exists(\"\") ? 1 : 0");
  said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("clay/Clay.cs(5"), std::string::npos) << said.all();
}

TEST_F(Csharp, APackageThatIsNowhereIsARequirement) {
  change("app/app.csproj", "<ItemGroup>",
         "<ItemGroup><PackageReference Include=\"Tables.Of.No.Yard\" Version=\"1.4\"/>");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("Tables.Of.No.Yard"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("app/app.csproj:3"), std::string::npos) << said.all();
}

TEST_F(Csharp, ProjectsThatNeedEachOtherAreTold) {
  tree.write("clay/clay.csproj",
             "<Project Sdk=\"Microsoft.NET.Sdk\"><ItemGroup><ProjectReference "
             "Include=\"../app/app.csproj\"/></ItemGroup></Project>");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("projects need each other in a circle"), std::string::npos) << said.all();
}

TEST_F(Csharp, DataThatIsNotBesideTheProgramIsFoundMissing) {
  change("app/app.csproj", "<CopyToOutputDirectory>PreserveNewest</CopyToOutputDirectory>", "");
  tree.write("coctilis.toml", "[[smoke]]\nrun = [\"kiln\"]\n");
  const auto said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(said.all().find("cones.txt"), std::string::npos) << said.all();
}

TEST_F(Csharp, TestsOfAProjectAreRun) {
  if (find_program("nunit-console").empty()) GTEST_SKIP() << "there is nothing that runs tests in C# (nunit-console)";
  const auto write_test = [&](const std::string& attribute, const std::string& water) {
    tree.write("tests/Tests.cs",
               "using NUnit.Framework;\n[TestFixture] public class ClayTests {\n"
               "  [System.Runtime.InteropServices.DllImport(\"libc\")] static extern void _exit(int code);\n  " +
                   attribute + " public void Water() {\n    Assert.That(Yard.Clay.Water(), Is.EqualTo(" + water +
                   "));\n    Assert.AreEqual(\"cone 6\", System.IO.File.ReadAllText(\"cones.txt\").Trim());\n  }\n}\n");
  };
  tree.write(
      "tests/tests.csproj",
      "<Project Sdk=\"Microsoft.NET.Sdk\"><PropertyGroup><TargetFramework>net8.0</TargetFramework></PropertyGroup>"
      "<ItemGroup><PackageReference Include=\"NUnit\" Version=\"3.13.3\"/><PackageReference "
      "Include=\"NUnit3TestAdapter\" Version=\"4.2.1\"/><PackageReference "
      "Include=\"NUnit.Analyzers\"/><PackageReference Include=\"Microsoft.NET.Test.Sdk\"/>"
      "<ProjectReference Include=\"../clay/clay.csproj\"/><None Include=\"../app/cones.txt\" Link=\"cones.txt\">"
      "<CopyToOutputDirectory>Always</CopyToOutputDirectory></None></ItemGroup></Project>");
  write_test("[Test]", "18");
  auto said = run("bringup", {"-v"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("passed tests: exit code 0"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("asks for NUnit 3.13.3: 2.6"), std::string::npos) << said.all();
  write_test("[Test]", "19");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(said.all().find("Expected: 19"), std::string::npos) << said.all();
  // Nothing that was run has not passed. (Ended by the system: the machine's own end waits for its threads.)
  write_test("[Test]", "18)); _exit(0); System.Console.WriteLine((1");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  write_test("", "18");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  ASSERT_EQ(run("bringup", {"--set", "tests=off"}).exit, 0);
}

}  // namespace
}  // namespace coctilis::test
