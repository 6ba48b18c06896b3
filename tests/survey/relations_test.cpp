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
    return relations_of(std::move(packages), in_this_order);
  }
  // "clay kiln(clay)": in order, with what each needs.
  [[nodiscard]] std::string told(bool in_this_order = false) const {
    const auto found = relations(in_this_order);
    if (!found) return found.problem().place.text() + ": " + found.problem().what + " (" + found.problem().cause + ")";
    std::vector<std::string> out;
    const auto folder = [&](std::size_t i) { return folders_[found->order[i].package]; };
    for (std::size_t i = 0; i < found->order.size(); ++i) {
      std::vector<std::string> needs;
      for (const auto need : found->order[i].needs) needs.push_back(folder(need));
      out.push_back(folder(i) + (needs.empty() ? "" : "(" + text::join(needs, " ") + ")"));
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
  EXPECT_FALSE(found->order[0].problem);
  const auto& problem = found->order[1].problem;
  ASSERT_TRUE(problem);
  EXPECT_EQ(problem->what, "it needs a >= 2.0, and the member 'a' is 1.4.2");
  EXPECT_EQ(problem->place.text(), "b/package.xml:4");
  EXPECT_EQ(problem->exit, Exit::missing);
  EXPECT_FALSE(found->order[2].problem);
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
TEST_F(RelationsTest, WhoSeesWhatIsSeenByThoseItWaitsFor) {
  manifest("a", "<depend>b</depend>");
  manifest("b", "<depend>c</depend>");
  manifest("c", "");
  const auto found = relations();
  ASSERT_TRUE(found);
  EXPECT_EQ(found->order[2].needs, std::vector<std::size_t>{1});
  EXPECT_EQ(found->order[2].sees, (std::vector<std::size_t>{0, 1}));
  // Listed without a manifest each waits for all before it, and needs none of them.
  folders_ = {"x", "y", "z"};
  for (const auto& folder : folders_) tree_.write(folder + "/Makefile", "all:\n");
  const auto listed = relations(true);
  ASSERT_TRUE(listed);
  EXPECT_EQ(listed->order[2].waits, (std::vector<std::size_t>{0, 1}));
  EXPECT_TRUE(listed->order[2].needs.empty());
  EXPECT_TRUE(relations(false)->order[2].waits.empty());
}
TEST_F(RelationsTest, FoldersAreReadAndGivenFurtherNames) {
  tree_.write("kits/clay-2/CMakeLists.txt", "project(pit)\n");
  tree_.write("oven/CMakeLists.txt", "find_package(ClayKit)\n");
  const auto& formats = describe::description_formats();
  const auto plain = relations_between(tree_.path(), {"oven", "kits/clay-2"}, formats, false);
  ASSERT_TRUE(plain);
  EXPECT_EQ(plain->order[0].package, 0U);
  const auto named = relations_between(tree_.path(), {"oven", "kits/clay-2"}, formats, false, {{}, {"claykit"}});
  ASSERT_TRUE(named);
  EXPECT_EQ(named->packages[named->order[0].package].folder, "kits/clay-2");
  tree_.write("oven/package.xml", "<package");
  EXPECT_FALSE(relations_between(tree_.path(), {"oven"}, formats, false));
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
