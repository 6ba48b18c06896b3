// What targets of a build.xml would do.
#include "base/text.h"
#include "describe/java/build_file.h"
#include "support.h"

namespace coctilis::describe::java {
namespace {

class BuildXml : public ::testing::Test {
 protected:
  BuildFile read(const std::string& targets, const std::string& head = "name=\"yard\" default=\"jar\"") {
    tree.write("build.xml", "<project " + head + ">\n" + targets + "\n</project>\n");
    return read_build_file(tree.path("build.xml"), tree.path());
  }
  Problem refused(const std::string& targets, const std::string& head = "default=\"jar\"") {
    try {
      static_cast<void>(read(targets, head));
    } catch (const Fault& fault) {
      return fault.problem();
    }
    return {};
  }
  [[nodiscard]] std::string below(const std::string& path) const { return files::below(path, tree.path()); }
  // The archives' names with what they are packed from.
  [[nodiscard]] std::vector<std::string> archives(const BuildFile& file) const {
    std::vector<std::string> out;
    for (const auto& archive : file.archives) {
      std::string line = below(archive.file) + ":";
      for (const auto& part : archive.content) line += " " + below(part.from.folder);
      out.push_back(line);
    }
    return out;
  }
  test::TreeFolder tree;
  using List = std::vector<std::string>;
};

TEST_F(BuildXml, TargetsRunInTheOrderOfWhatTheyDependOn) {
  const auto file = read(R"(
    <property name="out" location="build"/>
    <property name="out" location="elsewhere"/>
    <target name="jar" depends="compile, texts"><jar destfile="dist/yard-${version}.jar" basedir="${out}"/></target>
    <target name="init"><property name="version" value="2.1"/></target>
    <target name="compile" depends="init"><javac srcdir="src" destdir="${out}" source="1.8" encoding="UTF-8"
      classpath="lib/a.jar:lib/b.jar" excludes="x/**"/></target>
    <target name="texts" depends="init"><copy todir="${out}"><fileset dir="src" includes="**/*.txt"/></copy></target>
    <target name="never"><exec executable="rm"/></target>)");
  ASSERT_EQ(file.compilations.size(), 1U);
  const auto& one = file.compilations.front();
  EXPECT_EQ(below(one.to), "build");
  EXPECT_EQ(one.level, "1.8");
  EXPECT_EQ(one.sources.front().excludes, (List{"x/**"}));
  ASSERT_EQ(one.class_path.size(), 2U);
  EXPECT_EQ(below(one.class_path.back()), "lib/b.jar");
  EXPECT_EQ(archives(file), (List{"dist/yard-2.1.jar: build"}));
  ASSERT_EQ(file.copies.size(), 1U);
  EXPECT_TRUE(file.left_out.empty()) << "what no target asks for is nobody's";
}

TEST_F(BuildXml, ConditionsAndPropertiesOfFiles) {
  tree.write("yard.properties", "# of the yard\nname: brick\\\n  works\nlevel=8\n");
  tree.write("lib/glaze.jar", "");
  const auto file = read(R"(
    <property file="yard.properties"/>
    <available property="has.glaze" file="lib/glaze.jar"/>
    <available property="has.slip" file="lib/slip.jar"/>
    <condition property="both" value="yes" else="no"><and><isset property="has.glaze"/><not><isset property="has.slip"/></not>
      <or><equals arg1="${level}" arg2="8"/><os family="windows"/></or></and></condition>
    <target name="jar" depends="glaze, slip"><jar destfile="${name}-${both}.jar" basedir="build"/></target>
    <target name="glaze" if="has.glaze"><javac srcdir="glaze" destdir="build"/></target>
    <target name="slip" if="has.slip"><javac srcdir="slip" destdir="build"/></target>
    <target name="none" unless="has.glaze"><fail/></target>)");
  ASSERT_EQ(file.compilations.size(), 1U);
  EXPECT_EQ(below(file.compilations.front().sources.front().folder), "glaze");
  EXPECT_EQ(archives(file), (List{"brickworks-yes.jar: build"}));
}

TEST_F(BuildXml, PathsByNameAndFilesThatAreThere) {
  tree.write("lib/a.jar", "");
  tree.write("lib/more/b.jar", "");
  tree.write("lib/b.txt", "");
  const auto file = read(R"(
    <path id="all"><fileset dir="lib"><include name="**/*.jar"/><exclude name="none/"/></fileset><pathelement location="made.jar"/></path>
    <path id="again"><path refid="all"/><path refid="again"/></path>
    <target name="jar"><javac destdir="build"><src path="one"/><src path="two"/><classpath refid="again"/></javac></target>)");
  ASSERT_EQ(file.compilations.size(), 1U);
  List names;
  for (const auto& path : file.compilations.front().class_path) names.push_back(below(path));
  EXPECT_EQ(names, (List{"lib/a.jar", "lib/more/b.jar", "made.jar"}));
  EXPECT_EQ(file.compilations.front().sources.size(), 2U);
}

TEST_F(BuildXml, TasksThatItDefinesItself) {
  const auto file = read(R"(
    <macrodef name="module"><attribute name="of"/><attribute name="to" default="build/@{of}"/><element name="more" optional="true"/>
      <sequential><javac srcdir="@{of}/src" destdir="@{to}"><more/></javac><jar destfile="@{of}.jar" basedir="@{to}"/></sequential></macrodef>
    <presetdef name="strict"><javac encoding="ASCII" source="9"/></presetdef>
    <target name="jar"><module of="clay"><more><classpath path="x.jar"/></more></module><module of="glaze" to="out"/>
      <strict srcdir="app" destdir="app.out" source="11"/></target>)");
  EXPECT_EQ(archives(file), (List{"clay.jar: build/clay", "glaze.jar: out"}));
  ASSERT_EQ(file.compilations.size(), 3U);
  EXPECT_EQ(file.compilations[0].class_path.size(), 1U);
  EXPECT_TRUE(file.compilations[1].class_path.empty());
  EXPECT_EQ(file.compilations[2].encoding, "ASCII");
  EXPECT_EQ(file.compilations[2].level, "11");
}

TEST_F(BuildXml, OtherFilesOfTheTree) {
  tree.write("common.xml", "<project><target name=\"init\"><property name=\"out\" value=\"made\"/></target></project>");
  tree.write("clay/build.xml",
             "<project default=\"all\"><target name=\"all\"><jar destfile=\"${where}/clay.jar\" "
             "basedir=\"b\"/></target></project>");
  tree.write("part.xml", "<property name=\"where\" location=\"lib\"/>");
  tree.write("build.xml",
             "<!DOCTYPE project [<!ENTITY part SYSTEM \"part.xml\"> <!ENTITY away SYSTEM \"/etc/passwd\">]>\n<project "
             "default=\"jar\">&part;"
             "<import file=\"common.xml\"/><target name=\"jar\" depends=\"init\"><ant dir=\"clay\"/><antcall "
             "target=\"one\"><param "
             "name=\"x\" value=\"1\"/></antcall><jar destfile=\"${out}${x}.jar\" basedir=\"a\"/></target>"
             "<target name=\"one\"><jar destfile=\"one${x}.jar\" basedir=\"a\"/></target></project>\n");
  const auto file = read_build_file(tree.path("build.xml"), tree.path());
  EXPECT_EQ(archives(file), (List{"lib/clay.jar: clay/b", "one1.jar: a", "made${x}.jar: a"}));
  EXPECT_EQ(file.read_files.size(), 4U);
}

TEST_F(BuildXml, WhatIsNotFollowedIsNamedWithItsPlace) {
  const auto file = read(
      "<target name=\"jar\">\n<exec executable=\"make\"/>\n<javac srcdir=\"a\" destdir=\"b\"/>\n<exec "
      "executable=\"make\"/></target>");
  ASSERT_EQ(file.left_out.size(), 1U) << "once is enough";
  EXPECT_EQ(file.left_out.front().name, "exec");
  EXPECT_EQ(file.left_out.front().place.line, 3);
}

TEST_F(BuildXml, ADefaultThatOnlyTellsIsNotWhatIsWanted) {
  const auto file = read(
      "<target name=\"help\"><echo/></target><target name=\"jar\"><jar destfile=\"a.jar\" basedir=\"b\"/></target>",
      "default=\"help\"");
  EXPECT_EQ(archives(file), (List{"a.jar: b"}));
}

TEST_F(BuildXml, WhatNobodyAskedForRefusesNothing) {
  // The tests depend on a target that is not there, and on one that depends on itself.
  const auto file = read(R"(<property environment="env"/>
    <target name="jar"><javac srcdir="src" destdir="${env.BRICKYARD_OUT}"/><jar destfile="a.jar" basedir="b"/></target>
    <target name="test" depends="jar, none"><junit/></target>
    <target name="check" depends="check"><junit/></target>)");
  EXPECT_EQ(file.archives.size(), 1U);
  ASSERT_EQ(file.left_out.size(), 2U);
  EXPECT_EQ(file.left_out.front().name, "check");
  EXPECT_EQ(file.left_out.back().reason, "there is no target 'none'");
  EXPECT_TRUE(file.compilations.front().to.ends_with("${env.BRICKYARD_OUT}")) << "a variable that is not set";
  ::setenv("BRICKYARD_OUT", "classes", 1);
  EXPECT_EQ(below(read("<property environment=\"env\"/><target name=\"jar\"><javac srcdir=\"src\" "
                       "destdir=\"${env.BRICKYARD_OUT}\"/></target>")
                      .compilations.front()
                      .to),
            "classes");
  ::unsetenv("BRICKYARD_OUT");
}

TEST_F(BuildXml, WhatIsWrongIsTold) {
  auto problem = refused(
      "<target name=\"jar\" depends=\"a\"/>\n<target name=\"a\" depends=\"b\"/>\n<target name=\"b\" depends=\"a\"/>");
  EXPECT_EQ(problem.what, "targets depend on each other in a circle: jar -> a -> b -> a");
  EXPECT_EQ(problem.place.line, 3);
  problem = refused("<target name=\"jar\" depends=\"none\"/>");
  EXPECT_EQ(problem.what, "there is no target 'none'");
  EXPECT_EQ(problem.place.line, 2);
  tree.write("build.xml", "<projekt/>");
  EXPECT_THROW(static_cast<void>(read_build_file(tree.path("build.xml"), tree.path())), Fault);
  tree.write("build.xml", "<project><target");
  EXPECT_THROW(static_cast<void>(read_build_file(tree.path("build.xml"), tree.path())), Fault);
}

TEST_F(BuildXml, WhatGrowsOrGoesDeepEnds) {
  std::string text = "<property name=\"p0\" value=\"0123456789\"/>\n";
  for (int i = 1; i < 40; ++i) {
    const std::string last = "${p" + std::to_string(i - 1) + "}";
    text += "<property name=\"p" + std::to_string(i) + "\" value=\"" + last + last + last + "\"/>\n";
  }
  EXPECT_THROW(static_cast<void>(read(text + "<target name=\"jar\"><echo/></target>")), Fault);
  // Each calls the other twice.
  EXPECT_NO_THROW(static_cast<void>(
      read("<target name=\"jar\"><antcall target=\"a\"/></target><target name=\"a\"><antcall target=\"b\"/><antcall "
           "target=\"b\"/></target><target name=\"b\"><antcall target=\"a\"/><antcall target=\"a\"/></target>")));
  EXPECT_NO_THROW(static_cast<void>(
      read("<macrodef name=\"m\"><sequential><m/><m/></sequential></macrodef><target name=\"jar\"><m/></target>")));
  tree.write("other.xml", "<project><import file=\"build.xml\"/></project>");
  EXPECT_THROW(static_cast<void>(read("<import file=\"other.xml\"/><target name=\"jar\"/>")), Fault);
}

TEST(FileChoices, PropertiesDaysAndPatterns) {
  using Pairs = std::vector<std::pair<std::string, std::string>>;
  EXPECT_EQ(read_properties("# no\n! no\na=1\n b : two words \nc\\\n  d=e\\\\f\nnone\ng=\n"),
            (Pairs{{"a", "1"}, {"b", "two words"}, {"cd", "e\\f"}, {"g", ""}}));
  std::tm day{};
  day.tm_year = 126;
  day.tm_mon = 10;
  day.tm_mday = 7;
  EXPECT_EQ(shown_by("yyyy-MM-dd yy MMM HH:mm", day), "2026-11-07 26 Nov 00:00");
  EXPECT_EQ(patterns_of("a/**, b.java c/"), (std::vector<std::string>{"a/**", "b.java", "c/**"}));
  FileChoice choice;
  choice.includes = {"**/*.java"};
  choice.excludes = {"x/**"};
  EXPECT_TRUE(takes(choice, "brick/Clay.java"));
  EXPECT_TRUE(takes(choice, "Clay.java"));
  EXPECT_FALSE(takes(choice, "x/Clay.java"));
  EXPECT_FALSE(takes(choice, "Clay.txt"));
}

}  // namespace
}  // namespace coctilis::describe::java
