// What sources and descriptions of Java say.
#include "describe/java/module.h"
#include "describe/java/source.h"
#include "support.h"

namespace coctilis::describe::java {
namespace {

TEST(JavaSource, SaysItsPackageImportsAndMain) {
  const auto facts = facts_of_source(
      "// package no.such;\n/* import no.such.Thing; */\npackage brick.app;\n\nimport brick.clay.Clay;import static "
      "brick.glaze.Glaze.name;\nimport java.util.*;\npublic class Kiln {\n  public static void main(String[] words) "
      "{}\n}\n");
  EXPECT_EQ(facts.package, "brick.app");
  EXPECT_EQ(facts.imports, (std::vector<std::string>{"brick.clay.Clay", "brick.glaze.Glaze.name", "java.util.*",
                                                     "brick.glaze.Glaze"}));
  EXPECT_TRUE(facts.has_main);
}
TEST(JavaSource, AClassIsNamedWithItsPackageWhereItIsUsed) {
  const auto facts = facts_of_source("class A { int x = brick.clay.Clay.water(); String s = \"brick.no.Such\"; }");
  EXPECT_EQ(facts.imports, std::vector<std::string>{"brick.clay.Clay"});
}
TEST(JavaSource, MainIsWrittenInSeveralWays) {
  for (const char* text : {"public static void main(String... a)", "static public void main(final String[] a)",
                           "public static final void main( String a[] )", "public\n  static\n void main(String [] a)"})
    EXPECT_TRUE(facts_of_source(std::string("class A { ") + text + " {} }").has_main) << text;
  for (const char* text :
       {"// public static void main(String[] a)\n", "String s = \"public static void main(String[] a)\";",
        "/* public static void main(String[] a) */", "void main(String[] a)", "public static int main(String[] a)"})
    EXPECT_FALSE(facts_of_source(std::string("class A { ") + text + " }").has_main) << text;
}
TEST(JavaSource, TextsOfSeveralLinesArePassedOver) {
  const auto facts = facts_of_source(
      "package a; class A { String s = \"\"\"\n import b.B;\n \"quoted\" // \n\"\"\"; char c = '\"'; }\nimport c.C;");
  EXPECT_EQ(facts.imports, std::vector<std::string>{"c.C"});
}
TEST(JavaSource, WhatHasNoEndEnds) {
  for (const char* text : {"/* never", "\"never", "'", "\"\"\"never", "package", "import a.b", "\"\\"})
    EXPECT_EQ(facts_of_source(text).package, "") << text;
}
TEST(JavaSource, AModuleIsOne) { EXPECT_TRUE(facts_of_source("open module brick.clay {\n}").is_module_info); }

class JavaTrees : public testing::Test {
 protected:
  [[nodiscard]] static const Module* named(const Modules& modules, const std::string& name) {
    for (const auto& module : modules.modules) {
      if (module.name == name) return &module;
    }
    return nullptr;
  }
  test::TreeFolder tree_;
};

TEST_F(JavaTrees, AProjectHasWhatThoseAboveItHave) {
  tree_.write(
      "pom.xml",
      "<project><groupId>yard</groupId><artifactId>whole</artifactId><version>2</version><packaging>pom</packaging>"
      "<properties><clay.version>1.4</clay.version><maven.compiler.source>1.8</maven.compiler.source></properties>"
      "<dependencyManagement><dependencies><dependency><groupId>other</groupId><artifactId>tables</artifactId>"
      "<version>${clay.version}</version></dependency></dependencies></dependencyManagement>"
      "<modules><module>app</module><module>clay/pom.xml</module><module>gone</module></modules></project>");
  tree_.write("clay/pom.xml",
              "<project><parent><groupId>yard</groupId><artifactId>whole</artifactId><version>2</version></parent>"
              "<artifactId>clay</artifactId></project>");
  tree_.write("app/pom.xml",
              "<project><parent><groupId>yard</groupId><artifactId>whole</artifactId><version>2</version></parent>"
              "<artifactId>app</artifactId><dependencies>"
              "<dependency><groupId>${project.groupId}</groupId><artifactId>clay</artifactId></dependency>"
              "<dependency><groupId>other</groupId><artifactId>tables</artifactId></dependency>"
              "<dependency><groupId>junit</groupId><artifactId>junit</artifactId><scope>test</scope></dependency>"
              "<dependency><groupId>x</groupId><artifactId>local</artifactId><scope>system</scope>"
              "<systemPath>${basedir}/lib/local.jar</systemPath></dependency>"
              "</dependencies><build><sourceDirectory>java</sourceDirectory></build></project>");
  const auto modules = read_pom(tree_.path("pom.xml"), tree_.path());
  EXPECT_EQ(modules.version, "2");
  ASSERT_EQ(modules.modules.size(), 2U);
  const auto* app = named(modules, "app");
  ASSERT_NE(app, nullptr);
  EXPECT_EQ(app->level, 8);
  EXPECT_EQ(app->uses, std::vector<std::string>{"clay"});
  EXPECT_EQ(app->source_roots, std::vector<std::string>{tree_.path("app/java")});
  EXPECT_EQ(app->archives, std::vector<std::string>{tree_.path("app/lib/local.jar")});
  ASSERT_EQ(app->packages.size(), 1U);
  EXPECT_EQ(app->packages.front().name, "tables");
  EXPECT_EQ(app->packages.front().version, "1.4");
  EXPECT_EQ(modules.left_out.size(), 1U);
}

TEST_F(JavaTrees, ValuesThatStandForThemselvesEnd) {
  tree_.write("pom.xml",
              "<project><artifactId>a</artifactId><properties><x>${y}</x><y>${x}${x}</y></properties>"
              "<build><sourceDirectory>${x}</sourceDirectory></build></project>");
  EXPECT_EQ(read_pom(tree_.path("pom.xml"), tree_.path()).modules.size(), 1U);
}

TEST_F(JavaTrees, AParentThatIsItsOwnEnds) {
  tree_.write("a/pom.xml",
              "<project><parent><artifactId>a</artifactId><relativePath>../a/pom.xml</relativePath></parent>"
              "<artifactId>a</artifactId><modules><module>../a</module></modules></project>");
  EXPECT_EQ(read_pom(tree_.path("a/pom.xml"), tree_.path()).modules.size(), 1U);
}

struct BrokenPomText {
  const char* name;
  const char* text;
};
class BrokenPom : public JavaTrees, public testing::WithParamInterface<BrokenPomText> {};
TEST_P(BrokenPom, IsToldWithItsFile) {
  tree_.write("pom.xml", GetParam().text);
  try {
    static_cast<void>(read_pom(tree_.path("pom.xml"), tree_.path()));
    FAIL() << "nothing was said";
  } catch (const Fault& fault) {
    EXPECT_EQ(fault.problem().exit, Exit::description);
    EXPECT_EQ(fault.problem().place.file, "pom.xml");
    EXPECT_FALSE(fault.problem().remedy.empty());
  }
}
INSTANTIATE_TEST_SUITE_P(Texts, BrokenPom,
                         testing::Values(BrokenPomText{"NoXml", "hello"},
                                         BrokenPomText{"CutOff", "<project><artifactId>a"},
                                         BrokenPomText{"OtherRoot", "<settings/>"},
                                         BrokenPomText{"NoName", "<project/>"}),
                         [](const auto& one) { return one.param.name; });

TEST_F(JavaTrees, ModuleFilesOfEditors) {
  tree_.write(".idea/misc.xml",
              "<project><component name=\"ProjectRootManager\" languageLevel=\"JDK_1_8\" "
              "project-jdk-name=\"corretto-17\"/></project>");
  tree_.write(".idea/libraries/tables.xml",
              "<component><library name=\"tables\"><CLASSES><root "
              "url=\"jar://$PROJECT_DIR$/lib/tables.jar!/\"/></CLASSES></library></component>");
  tree_.write(
      "app/app.iml",
      "<module><component name=\"NewModuleRootManager\"><content url=\"file://$MODULE_DIR$\">"
      "<sourceFolder url=\"file://$MODULE_DIR$/src\" isTestSource=\"false\"/>"
      "<sourceFolder url=\"file://$MODULE_DIR$/test\" isTestSource=\"true\"/>"
      "<sourceFolder url=\"file://$MODULE_DIR$/art\" type=\"java-resource\" relativeOutputPath=\"art\"/></content>"
      "<orderEntry type=\"module\" module-name=\"clay\"/><orderEntry type=\"library\" name=\"tables\" "
      "level=\"project\"/>"
      "<orderEntry type=\"module-library\"><library><CLASSES><root "
      "url=\"jar://$MODULE_DIR$/x.jar!/\"/></CLASSES></library></orderEntry>"
      "<orderEntry type=\"library\" scope=\"TEST\" name=\"junit\"/></component></module>");
  const auto modules = read_editor_modules(tree_.path(), {tree_.path("app/app.iml")});
  EXPECT_EQ(modules.kit, 17);
  ASSERT_EQ(modules.modules.size(), 2U);
  const auto& tests = modules.modules.back();
  EXPECT_EQ(tests.tests_of, "app");
  EXPECT_EQ(tests.source_roots, std::vector<std::string>{tree_.path("app/test")});
  EXPECT_EQ(tests.uses, std::vector<std::string>{"app"});
  const auto& app = modules.modules.front();
  EXPECT_EQ(app.level, 8);
  EXPECT_EQ(app.source_roots, std::vector<std::string>{tree_.path("app/src")});
  EXPECT_EQ(app.uses, std::vector<std::string>{"clay"});
  EXPECT_EQ(app.archives, (std::vector<std::string>{tree_.path("lib/tables.jar"), tree_.path("app/x.jar")}));
  ASSERT_EQ(app.resources.size(), 2U);
  EXPECT_EQ(app.resources.back().below, "art");
  EXPECT_TRUE(app.packages.empty());
}

TEST_F(JavaTrees, SourcesAloneGiveModulesAndTheirOrder) {
  tree_.write("clay/src/brick/clay/Clay.java", "package brick.clay;\npublic class Clay {}\n");
  tree_.write("app/src/brick/app/Kiln.java", "package brick.app;\nimport brick.clay.Clay;\nclass Kiln {}\n");
  tree_.write("app/src/brick/app/kiln.txt", "x\n");
  tree_.write("app/lib/tables.jar", "x");
  tree_.write("test/A.java", "class A {}\n");
  const auto modules = modules_of_sources(tree_.path());
  ASSERT_EQ(modules.modules.size(), 2U);
  const auto* app = named(modules, "app");
  ASSERT_NE(app, nullptr);
  EXPECT_EQ(app->uses, std::vector<std::string>{"clay"});
  EXPECT_EQ(app->archives, std::vector<std::string>{tree_.path("app/lib/tables.jar")});
}

TEST_F(JavaTrees, FoldersThatNeedEachOtherAreOneModule) {
  tree_.write("a/p/A.java", "package p;\nimport q.B;\nclass A {}\n");
  tree_.write("b/q/B.java", "package q;\nimport p.A;\nclass B {}\n");
  tree_.write("c/r/C.java", "package r;\nimport q.B;\nclass C {}\n");
  const auto modules = modules_of_sources(tree_.path());
  ASSERT_EQ(modules.modules.size(), 2U);
  EXPECT_EQ(modules.modules.front().sources.size(), 2U);
  EXPECT_EQ(named(modules, "c")->uses, std::vector<std::string>{modules.modules.front().name});
}

}  // namespace
}  // namespace coctilis::describe::java
