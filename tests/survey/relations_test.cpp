// What members of a tree need of each other: what manifests and descriptions say, and the order that comes of it.
#include "survey/relations.h"

#include "base/text.h"
#include "describe/readers.h"
#include "support.h"

namespace coctilis::survey {
namespace {

class RelationsTest : public testing::Test {
 protected:
  void manifest(const std::string& folder, const std::string& more, const std::string& version = "1.0.0") {
    tree_.write(folder + "/package.xml", "<package format=\"3\">\n<name>" + folder + "</name>\n<version>" + version +
                                             "</version>\n" + more + "\n</package>\n");
    folders_.push_back(folder);
  }
  void listfile(const std::string& folder, const std::string& text) {
    tree_.write(folder + "/CMakeLists.txt", text);
    folders_.push_back(folder);
  }
  [[nodiscard]] Package package(const std::string& folder) const {
    return *package_in(tree_.path(), folder, describe::description_formats(), folders_);
  }
  [[nodiscard]] Result<Relations> relations(bool in_this_order = false) const {
    std::vector<Package> packages;
    for (const auto& folder : folders_) packages.push_back(package(folder));
    return relations_of(packages, in_this_order);
  }
  // "clay kiln(clay)": in order, with what each needs.
  [[nodiscard]] std::string told(bool in_this_order = false) const {
    const auto found = relations(in_this_order);
    if (!found) return found.problem().place.text() + ": " + found.problem().what + " (" + found.problem().cause + ")";
    std::vector<std::string> out;
    for (const auto i : found->order) {
      std::vector<std::string> needs;
      for (const auto need : found->needs[i]) needs.push_back(folders_[need]);
      out.push_back(folders_[i] + (needs.empty() ? "" : "(" + text::join(needs, " ") + ")"));
    }
    for (const auto& note : found->notes) out.push_back("! " + note);
    return text::join(out, " ");
  }
  test::TreeFolder tree_;
  std::vector<std::string> folders_;
};

TEST_F(RelationsTest, ManifestsSayWhatComesFirst) {
  manifest("a_viewer", "<depend>kiln</depend>\n<build_depend>clay</build_depend>");
  manifest("clay", "");
  manifest("kiln", "<exec_depend>clay</exec_depend><depend>stdio</depend>");
  EXPECT_EQ(told(), "clay kiln(clay) a_viewer(clay kiln)");
}
TEST_F(RelationsTest, ConditionsAreWorkedOut) {
  ::setenv("YARD_GENERATION", "2", 1);
  manifest("a",
           "<depend condition=\"$YARD_GENERATION == 2\">b</depend>"
           "<depend condition=\"$YARD_GENERATION == 1 or ($YARD_NONE != '' and 1 == 1)\">c</depend>");
  manifest("b", "<depend condition=\"((\">c</depend>");  // what cannot be read holds
  manifest("c", "");
  EXPECT_EQ(told(), "c b(c) a(b)");
  ::unsetenv("YARD_GENERATION");
}
TEST_F(RelationsTest, ACircleOfWhatIsSaidIsAnError) {
  manifest("a", "<depend>b</depend>");
  manifest("b", "<depend>c</depend>");
  manifest("c", "<depend>b</depend>");
  EXPECT_EQ(told(),
            "b/package.xml:4: members need each other in a circle: b -> c -> b (it is said at b/package.xml:4, "
            "c/package.xml:4)");
}
TEST_F(RelationsTest, ACircleForRunningGivesWay) {
  manifest("a", "<exec_depend>b</exec_depend>");
  manifest("b", "<depend>a</depend>");
  manifest("c", "<depend>b</depend>");
  EXPECT_EQ(told(), "a b(a) c(b) ! the members a and b ask for each other: a comes first (a/package.xml:4)");
}
TEST_F(RelationsTest, TwoOfOneNameAreAnError) {
  manifest("a", "");
  tree_.write("b/package.xml", "<package>\n<name>a</name></package>\n");
  folders_.push_back("b");
  EXPECT_EQ(told(), "b/package.xml:2: two members are called 'a' (the other one: a/package.xml:2)");
}
TEST_F(RelationsTest, AVersionThatIsNotThereIsAProblemOfWhoNeedsIt) {
  manifest("a", "", "1.4.2");
  manifest("b", "<depend version_gte=\"2.0\">a</depend>");
  manifest("c", "<depend version_gte=\"1.4\" version_lt=\"2\">a</depend>");
  const auto found = relations();
  ASSERT_TRUE(found);
  EXPECT_FALSE(found->problems[0]);
  ASSERT_TRUE(found->problems[1]);
  EXPECT_EQ(found->problems[1]->what, "it needs a >= 2.0, and the member 'a' is 1.4.2");
  EXPECT_EQ(found->problems[1]->place.text(), "b/package.xml:4");
  EXPECT_EQ(found->problems[1]->exit, Exit::missing);
  EXPECT_FALSE(found->problems[2]);
}
TEST_F(RelationsTest, ListfilesAskForPackagesModulesAndLibraries) {
  listfile(
      "a",
      "project(a)\nif(GLAZED)\n  find_package(Glaze 2 REQUIRED)\nendif()\npkg_check_modules(C REQUIRED clay>=1)\n");
  listfile(
      "b",
      "project(b)\nfind_library(HEAT NAMES heat heat2 PATHS /opt)\ntarget_link_libraries(x PUBLIC own Kiln::door)\n");
  listfile("glaze-lib", "set(NAME Glaze)\nproject(${NAME} VERSION 3.1)\nadd_library(own x.c)\n");
  listfile("heater", "project(heater)\nadd_library(heat heat.c)\n");
  listfile("z", "project(z)\ninstall(EXPORT z FILE Kiln-config.cmake)\n");
  listfile("y", "broken(\n");
  tree_.write("y/lib/clay.pc.in", "Name: clay\nRequires: z >= 1\n");
  EXPECT_EQ(package("glaze-lib").version, "3.1");
  EXPECT_EQ(told(), "glaze-lib heater z b(glaze-lib heater z) y(z) a(glaze-lib y)");
}
TEST_F(RelationsTest, MakefilesLinkWhatOthersMake) {
  tree_.write("app/Makefile",
              "kiln: kiln.o\n\tcc -o $@ $< -L../clay -lclay `pkg-config --libs 'glaze >= 2'`\n# -lnone\n");
  tree_.write("clay/Makefile", "libclay.a: clay.o\n");
  tree_.write("glaze/configure.ac", "AC_INIT(glaze, 1)\nPKG_CHECK_MODULES([H], [heat >= 1 stone])\n");
  tree_.write("stone/src/stone.pc.in", "Name: stone\n");
  folders_ = {"app", "clay", "glaze", "stone"};
  EXPECT_EQ(told(), "clay stone glaze(stone) app(clay glaze)");
}
TEST_F(RelationsTest, WhoListsThemSaysTheOrder) {
  listfile("viewer", "find_package(clay)\n");
  listfile("clay", "project(clay)\n");
  EXPECT_EQ(told(true), "viewer clay");
  EXPECT_EQ(told(false), "clay viewer(clay)");
}
TEST_F(RelationsTest, TheirOwnSettingsNameMembers) {
  listfile("clay", "project(pit VERSION 1.2)\n");
  listfile("kiln", "project(kiln)\n");
  tree_.write("kiln/coctilis.toml", "[tree]\nname = \"oven\"\nneeds = [\"clay >= 1\"]\n");
  EXPECT_EQ(told(), "clay kiln(clay)");
  tree_.write("kiln/coctilis.toml", "[tree]\nneeds = [\"glaze\"]\n");
  EXPECT_EQ(told(), tree_.path("kiln/coctilis.toml") +
                        ":2:9: 'kiln' needs 'glaze', and no member is called so (there are clay)");
  tree_.write("kiln/coctilis.toml", "[tree]\nneeds = [\"clay >> 1\"]\n");
  EXPECT_EQ(package_in(tree_.path(), "kiln", describe::description_formats(), folders_).problem().exit, Exit::usage);
}
TEST_F(RelationsTest, AManifestThatIsBrokenHasItsLine) {
  tree_.write("a/package.xml", "<package>\n<name>a</name>\n<depend>\n");
  const auto broken = package_in(tree_.path(), "a", describe::description_formats(), {});
  ASSERT_FALSE(broken);
  EXPECT_EQ(broken.problem().exit, Exit::description);
  EXPECT_EQ(broken.problem().place.file, "a/package.xml");
  // Files of that name that are something else say nothing.
  tree_.write("b/package.xml", "<package xmlns=\"urn:x\"><name>other</name></package>");
  EXPECT_EQ(package("b").name, "b");
}

}  // namespace
}  // namespace coctilis::survey
