// Trees in Java, driven from end to end with the compiler that is here.
#include "base/archive.h"
#include "support.h"

namespace coctilis::test {
namespace {

class Java : public DrivenTree {
 protected:
  void SetUp() override {
    if (find_program("javac").empty()) GTEST_SKIP() << "there is no Java compiler (default-jdk-headless)";
  }
  // A library, one that uses it with a resource, and a program on both.
  void write_sources(const std::string& clay, const std::string& glaze, const std::string& app,
                     const std::string& resources) const {
    tree.write(clay + "/brick/clay/Clay.java",
               "package brick.clay;\npublic class Clay { public static int water() { return 18; } }\n");
    tree.write(
        glaze + "/brick/glaze/Glaze.java",
        "package brick.glaze;\nimport brick.clay.Clay;\nimport java.io.*;\npublic class Glaze {\n"
        "  public static String name() throws IOException {\n    try (BufferedReader in = new BufferedReader(new "
        "InputStreamReader(Glaze.class.getResourceAsStream(\"/glaze.txt\")))) {\n"
        "      return in.readLine() + \" on \" + Clay.water();\n    }\n  }\n}\n");
    tree.write(app + "/brick/app/Kiln.java",
               "package brick.app;\nimport brick.glaze.Glaze;\npublic class Kiln {\n"
               "  public static void main(String[] words) throws Exception {\n"
               "    System.out.println(\"kiln: \" + Glaze.name() + \" \" + words.length);\n  }\n}\n");
    tree.write(resources + "/glaze.txt", "clear of ${project.version}\n");
  }
  void write_poms() const {
    write_sources("clay/src/main/java", "glaze/src/main/java", "app/src/main/java", "glaze/src/main/resources");
    tree.write(
        "pom.xml",
        "<project><groupId>yard</groupId><artifactId>whole</artifactId><version>2.1</version>"
        "<packaging>pom</packaging><modules><module>app</module><module>glaze</module><module>clay</module></modules>"
        "</project>");
    write_pom("clay", "");
    write_pom("glaze", uses("clay"),
              "<build><resources><resource><directory>src/main/resources</directory>"
              "<filtering>true</filtering></resource></resources></build>");
    write_pom("app", uses("glaze"));
  }
  static std::string uses(const std::string& name, const std::string& group = "yard",
                          const std::string& version = "2.1") {
    return "<dependency><groupId>" + group + "</groupId><artifactId>" + name + "</artifactId><version>" + version +
           "</version></dependency>";
  }
  void write_pom(const std::string& name, const std::string& dependencies, const std::string& more = {}) const {
    tree.write(
        name + "/pom.xml",
        "<project>\n<parent><groupId>yard</groupId><artifactId>whole</artifactId><version>2.1</version></parent>\n"
        "<artifactId>" +
            name + "</artifactId>\n<dependencies>" + dependencies + "</dependencies>\n" + more + "</project>\n");
  }
  [[nodiscard]] std::string says(const std::string& program) const {
    return coctilis::run({{tree.label_folder() + "/bin/" + program, "a"}}).output;
  }
  void change(const std::string& file, const std::string& from, const std::string& to) const {
    std::string text = tree.read(file);
    const auto at = text.find(from);
    ASSERT_NE(at, std::string::npos) << from;
    tree.write(file, text.replace(at, from.size(), to));
  }
};

TEST_F(Java, ModulesOfAPomComeUpAndStart) {
  write_poms();
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("app"), "kiln: clear of 2.1 on 18 1\n");
  const auto names = files::names_in_archive(tree.label_folder() + "/lib/glaze.jar", false);
  ASSERT_TRUE(names.ok());
  EXPECT_EQ(*names, (std::vector<std::string>{"META-INF/MANIFEST.MF", "brick/glaze/Glaze.class", "glaze.txt"}));
  const auto again = run("bringup");
  EXPECT_NE(again.all().find("up to date"), std::string::npos) << again.all();
}

TEST_F(Java, ModulesOfSeveralGroupsMayHaveOneName) {
  write_poms();
  tree.write("pom.xml",
             "<project><groupId>yard</groupId><artifactId>whole</artifactId><version>2.1</version>"
             "<packaging>pom</packaging><modules><module>app</module><module>glaze</module><module>clay</module>"
             "<module>press</module></modules></project>");
  tree.write("press/pom.xml",
             "<project><groupId>works</groupId><artifactId>clay</artifactId><version>1</version><dependencies>" +
                 uses("clay") + "</dependencies></project>");
  tree.write("press/src/main/java/brick/press/Press.java",
             "package brick.press;\npublic class Press { public static int water() { return brick.clay.Clay.water() / "
             "2; } }\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  const auto has = [&](const std::string& jar, const std::string& entry) {
    const auto names = files::names_in_archive(tree.label_folder() + "/lib/" + jar, false);
    return names.ok() && std::find(names->begin(), names->end(), entry) != names->end();
  };
  EXPECT_TRUE(has("clay.jar", "brick/clay/Clay.class")) << said.all();
  EXPECT_TRUE(has("works.clay.jar", "brick/press/Press.class")) << said.all();
}

TEST_F(Java, ProgramsOfOneNameInSeveralModulesAreAllBuilt) {
  tree.write(
      "pom.xml",
      "<project><groupId>yard</groupId><artifactId>whole</artifactId><version>1</version><packaging>pom</packaging>"
      "<modules><module>a</module><module>b</module><module>c</module></modules></project>");
  for (const std::string module : {"a", "b", "c"}) {
    write_pom(module, "");
    for (const std::string name : {"Press", "Kiln"})
      tree.write(module + "/src/main/java/brick/" + name + ".java",
                 "package brick;\npublic class " + name +
                     " { public static void main(String[] a) { System.out.println(\"" + module + "\"); } }\n");
  }
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("Press") + says("brick.Press") + says("c.brick.Press"), "a\nb\nc\n") << said.all();
}

TEST_F(Java, ATerminalChangesNothing) {
  write_poms();
  const auto said = built_on_a_terminal();
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(Java, WhatChangesIsCompiledAgainAndNothingElse) {
  write_poms();
  ASSERT_EQ(run("build").exit, 0);
  // A comment changes no class that others see.
  change("clay/src/main/java/brick/clay/Clay.java", "package brick.clay;", "package brick.clay; // wet");
  auto said = run("build");
  EXPECT_NE(said.all().find("1 step in"), std::string::npos) << said.all();
  change("clay/src/main/java/brick/clay/Clay.java", "return 18", "return 21");
  said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("app"), "kiln: clear of 2.1 on 21 1\n");
  // A resource is packed, and nothing compiled for it.
  change("glaze/src/main/resources/glaze.txt", "clear", "celadon");
  said = run("build");
  EXPECT_EQ(says("app"), "kiln: celadon of 2.1 on 21 1\n");
  // A class that is gone is in no archive any more.
  tree.write("clay/src/main/java/brick/clay/Extra.java", "package brick.clay;\nclass Extra {}\n");
  ASSERT_EQ(run("build").exit, 0);
  std::filesystem::remove(tree.path("clay/src/main/java/brick/clay/Extra.java"));
  ASSERT_EQ(run("build").exit, 0);
  const auto names = files::names_in_archive(tree.label_folder() + "/lib/clay.jar", false);
  EXPECT_EQ(*names, (std::vector<std::string>{"META-INF/MANIFEST.MF", "brick/clay/Clay.class"}));
  // What does not compile is an error with its place.
  change("app/src/main/java/brick/app/Kiln.java", "words.length", "words.size");
  said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_NE(said.all().find("Kiln.java:5"), std::string::npos) << said.all();
}

TEST_F(Java, AnArchiveFromElsewhereIsARequirement) {
  write_poms();
  write_pom("app", uses("glaze") + uses("tables-of-no-yard", "other", "1.4"));
  auto said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("other:tables-of-no-yard"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("app/pom.xml:4"), std::string::npos) << said.all();
  // It lies where the tree keeps such things.
  write_pom("app", uses("glaze"));
  ASSERT_EQ(run("build").exit, 0);
  tree.write("lib/tables-of-no-yard-1.4.jar", files::read(tree.label_folder() + "/lib/clay.jar").value_or(""));
  write_pom("app", uses("glaze") + uses("tables-of-no-yard", "other", "1.4"));
  said = run("build");
  EXPECT_EQ(said.exit, 0) << said.all();
}

TEST_F(Java, ModuleFilesWithAnArchiveBesideAndResources) {
  write_sources("clay/src", "glaze/src", "app/src", "glaze/art");
  tree.write("tables/tables/Cones.java",
             "package tables;\npublic class Cones { public static int six() { return 1222; } }\n");
  files::make_folder(tree.path("lib"));
  const std::string classes = tree.scratch() + "/classes";
  ASSERT_EQ(coctilis::run({{"javac", "-d", classes, tree.path("tables/tables/Cones.java")}}).code, 0);
  std::string why;
  ASSERT_TRUE(files::pack_reproducibly(tree.path("lib/tables.jar"), {{classes + "/tables", "tables"}}, why)) << why;
  std::filesystem::remove_all(tree.path("tables"));
  const auto module = [&](const std::string& name, const std::string& entries, const std::string& folders = {}) {
    tree.write(name + "/" + name + ".iml",
               "<module><component name=\"NewModuleRootManager\"><content url=\"file://$MODULE_DIR$\"><sourceFolder "
               "url=\"file://$MODULE_DIR$/src\" isTestSource=\"false\"/>" +
                   folders + "</content>" + entries + "</component></module>");
  };
  module("clay", "");
  module("glaze", "<orderEntry type=\"module\" module-name=\"clay\"/>",
         "<sourceFolder url=\"file://$MODULE_DIR$/art\" type=\"java-resource\"/>");
  module("app",
         "<orderEntry type=\"module\" module-name=\"glaze\"/><orderEntry type=\"module-library\"><library><CLASSES>"
         "<root url=\"jar://$MODULE_DIR$/../lib/tables.jar!/\"/></CLASSES></library></orderEntry>");
  change("app/src/brick/app/Kiln.java", "words.length", "tables.Cones.six()");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("app"), "kiln: clear of ${project.version} on 18 1222\n");
  // An installed one starts from any folder.
  const std::string prefix = tree.scratch() + "/prefix";
  ASSERT_EQ(run("stage", {"--prefix", prefix}).exit, 0);
  std::filesystem::rename(prefix, tree.scratch() + "/elsewhere");
  std::filesystem::remove_all(tree.path("lib"));
  EXPECT_EQ(coctilis::run({{tree.scratch() + "/elsewhere/bin/app"}}).output,
            "kiln: clear of ${project.version} on 18 1222\n");
  EXPECT_EQ(run("build").exit, 3);
}

TEST_F(Java, TargetsOfABuildXmlAreFollowed) {
  write_sources("clay", "src", "src", "art");
  tree.write("build.xml", R"(<project name="yard" default="dist" basedir=".">
  <property name="version" value="2.1"/>
  <target name="clay"><javac srcdir="clay" destdir="out/clay"/><jar destfile="out/clay.jar" basedir="out/clay"/></target>
  <target name="compile" depends="clay">
    <mkdir dir="out/src"/>
    <copy todir="out/src"><fileset dir="src"/><filterset><filter token="cone" value="6"/></filterset></copy>
    <javac srcdir="out/src" destdir="out/main" classpath="out/clay.jar"/>
    <copy todir="out/main"><fileset dir="art"/></copy>
  </target>
  <target name="dist" depends="compile">
    <jar destfile="out/yard-${version}.jar"><fileset dir="out/main"/>
      <manifest><attribute name="Main-Class" value="brick.app.Kiln"/><attribute name="Yard" value="by the river"/></manifest></jar>
    <jar destfile="out/glaze.jar" basedir="out/main" includes="brick/glaze/**"/>
  </target>
</project>)");
  change("src/brick/app/Kiln.java", "words.length", "\"@cone@\"");
  auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("yard-2.1"), "kiln: clear of ${project.version} on 18 6\n");
  const auto names = files::names_in_archive(tree.label_folder() + "/lib/glaze.jar", false);
  ASSERT_TRUE(names.ok());
  EXPECT_EQ(*names, (std::vector<std::string>{"META-INF/MANIFEST.MF", "brick/glaze/Glaze.class"}));
  // The archive can be started by itself.
  EXPECT_EQ(coctilis::run({{"java", "-jar", tree.label_folder() + "/lib/yard-2.1.jar"}}).output,
            "kiln: clear of ${project.version} on 18 6\n");
  EXPECT_NE(run("bringup").all().find("up to date"), std::string::npos);
  change("src/brick/glaze/Glaze.java", "\" on \"", "\" upon \"");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says("yard-2.1"), "kiln: clear of ${project.version} upon 18 6\n");
  // What makes it all by another program is not half done.
  tree.write("build.xml",
             "<project default=\"jar\">\n<target name=\"jar\">\n<exec executable=\"make\"/><jar destfile=\"a.jar\" "
             "basedir=\"art\"/>"
             "</target></project>");
  tree.write("coctilis.toml", "[tree]\ndescription = \"build.xml\"\n");
  said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("build.xml:3"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("not followed: exec"), std::string::npos) << said.all();
}

class JavaTests : public Java {
 protected:
  void SetUp() override {
    Java::SetUp();
    if (!IsSkipped() && !files::is_file("/usr/share/java/junit-platform-console.jar"))
      GTEST_SKIP() << "there is nothing that runs tests in Java (junit5)";
  }
  // A test that `check` is the body of, as the description's folder for such.
  void write_test(const std::string& folder, const std::string& check, bool as_before = false) const {
    tree.write(folder + "/brick/clay/ClayTest.java",
               std::string("package brick.clay;\nimport ") +
                   (as_before ? "org.junit.Test" : "org.junit.jupiter.api.Test") + ";\nimport static org.junit." +
                   (as_before ? "Assert" : "jupiter.api.Assertions") +
                   ".*;\npublic class ClayTest {\n  @Test public void water() throws Exception { " + check + " }\n}\n");
  }
  static constexpr const char* water = "assertEquals(18, Clay.water());";
};

TEST_F(JavaTests, OfAPomRunBesideTheirSources) {
  write_poms();
  write_pom("clay",
            "<dependency><groupId>org.junit.jupiter</groupId><artifactId>junit-jupiter</artifactId>"
            "<version>5.9.0</version><scope>test</scope></dependency>");
  // What comes with tests is opened as a file, by where it lies, and by its name on the class path.
  write_test("clay/src/test/java",
             std::string(water) +
                 "assertEquals(\"18\\n\", java.nio.file.Files.readString(java.nio.file.Path.of("
                 "\"src/test/resources/water.txt\")));\nassertTrue(new java.io.File(ClayTest.class.getResource("
                 "\"/water.txt\").toURI()).isFile());");
  tree.write("clay/src/test/resources/water.txt", "18\n");
  auto said = run("bringup", {"-v"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("passed tests of clay"), std::string::npos) << said.all();
  EXPECT_NE(run("bringup").all().find("up to date"), std::string::npos);
  tree.write("clay/src/test/resources/water.txt", "19\n");
  said = run("smoke");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(said.all().find("expected: <18"), std::string::npos) << said.all();
  tree.write("clay/src/test/resources/water.txt", "18\n");
  change("clay/src/main/java/brick/clay/Clay.java", "18", "17");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  // They are none of what is installed.
  const std::string prefix = tree.scratch() + "/prefix";
  ASSERT_EQ(run("stage", {"--prefix", prefix}).exit, 0);
  EXPECT_TRUE(files::exists(tree.label_folder() + "/lib/tests-of-clay.jar"));
  EXPECT_FALSE(files::exists(prefix + "/share/java/tests-of-clay.jar"));
  ASSERT_EQ(run("bringup", {"--set", "tests=off"}).exit, 0);
}

TEST_F(JavaTests, AModuleMayBeCalledAsTestsAreElsewhere) {
  write_poms();
  change("pom.xml", "<module>clay</module>", "<module>clay</module><module>clay-tests</module>");
  write_pom("clay-tests", uses("clay"));
  tree.write("clay-tests/src/main/java/brick/tests/Wet.java",
             "package brick.tests;\npublic class Wet { public static void main(String[] a) { "
             "System.out.println(brick.clay.Clay.water()); } }\n");
  write_test("clay/src/test/java", water);
  const auto said = run("bringup", {"-v"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("clay-tests"), "18\n");
  EXPECT_NE(said.all().find("passed tests of clay"), std::string::npos) << said.all();
}

TEST_F(JavaTests, ThatAreLeftOutAreSaid) {
  write_poms();
  write_test("clay/src/test/java", water);
  // Nothing that was run has not passed.
  change("clay/src/test/java/brick/clay/ClayTest.java", "@Test public", "public");
  auto said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  // Nor has one that ends everything.
  write_test("clay/src/test/java", "System.exit(0);");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  write_test("clay/src/test/java", water);
  write_pom("clay", "",
            "<build><plugins><plugin><artifactId>maven-surefire-plugin</artifactId><configuration><excludes>"
            "<exclude>**/Clay*</exclude></excludes></configuration></plugin></plugins></build>");
  said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("the tests of 'clay' are left out: the description runs none of them"), std::string::npos)
      << said.all();
  write_pom("clay",
            "<dependency><groupId>yard</groupId><artifactId>tables-of-no-yard</artifactId><version>1</version>"
            "<scope>test</scope></dependency>");
  said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("tables-of-no-yard"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("the tests of 'clay' are left out: what they are compiled with is not here"),
            std::string::npos)
      << said.all();
  write_pom("clay", "");
  change("clay/src/test/java/brick/clay/ClayTest.java", "org.junit.jupiter.api.Test", "org.testng.annotations.Test");
  change("clay/src/test/java/brick/clay/ClayTest.java", "org.junit.jupiter.api.Assertions", "org.testng.Assert");
  said = run("bringup");
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("TestNG"), std::string::npos) << said.all();
}

TEST_F(JavaTests, OfModuleFilesAndOfSourcesAlone) {
  write_sources("clay/src", "glaze/src", "app/src", "glaze/resources");
  write_test("clay/test", water, true);
  auto said = run("bringup", {"-v"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("passed tests of clay"), std::string::npos) << said.all();
  const auto module = [&](const std::string& name, const std::string& entries, const std::string& folders = {}) {
    tree.write(name + "/" + name + ".iml",
               "<module><component name=\"NewModuleRootManager\"><content url=\"file://$MODULE_DIR$\"><sourceFolder "
               "url=\"file://$MODULE_DIR$/src\" isTestSource=\"false\"/>" +
                   folders + "</content>" + entries + "</component></module>");
  };
  module("clay",
         "<orderEntry type=\"module-library\" scope=\"TEST\"><library name=\"JUnit4\"><CLASSES><root "
         "url=\"jar://$MODULE_DIR$/../lib/junit-4.13.1.jar!/\"/></CLASSES></library></orderEntry>",
         "<sourceFolder url=\"file://$MODULE_DIR$/test\" isTestSource=\"true\"/>");
  module("glaze", "<orderEntry type=\"module\" module-name=\"clay\"/>",
         "<sourceFolder url=\"file://$MODULE_DIR$/resources\" type=\"java-resource\"/>");
  module("app", "<orderEntry type=\"module\" module-name=\"glaze\"/>");
  change("clay/test/brick/clay/ClayTest.java", "18", "21");
  said = run("bringup");
  EXPECT_EQ(said.exit, 6) << said.all();
  EXPECT_NE(said.all().find("expected:<21> but was:<18>"), std::string::npos) << said.all();
}

TEST_F(Java, SourcesAlone) {
  write_sources("clay/src", "glaze/src", "app/src", "glaze/resources");
  // What a class loads lies in a folder below its package.
  tree.write("app/src/brick/app/art/kiln.txt", "x\n");
  change("app/src/brick/app/Kiln.java", "words.length", "(Kiln.class.getResource(\"art/kiln.txt\") == null ? 0 : 1)");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(says("app"), "kiln: clear of ${project.version} on 18 1\n");
}

TEST_F(Java, AKitThatIsNotThere) {
  write_poms();
  tree.write("coctilis.toml", "[toolchain]\njava = 999\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 3) << said.all();
  EXPECT_NE(said.all().find("Java"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("wanted 999, there"), std::string::npos) << said.all();
  EXPECT_EQ(said.all().find("openjdk-999"), std::string::npos) << "no such package: " << said.all();
}

TEST_F(Java, ACircleOfModulesIsTold) {
  write_poms();
  write_pom("clay", uses("app"));
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("modules need each other in a circle"), std::string::npos) << said.all();
}

TEST_F(Java, TwoMainsAreTwoPrograms) {
  write_poms();
  tree.write("app/src/main/java/brick/app/Shift.java",
             "package brick.app;\npublic class Shift { public static void main(String[] a) { "
             "System.out.println(\"shift\"); } }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(says("Kiln"), "kiln: clear of 2.1 on 18 1\n");
  EXPECT_EQ(says("Shift"), "shift\n");
}

}  // namespace
}  // namespace coctilis::test
