// Which Java kit a tree is built with, and where archives of classes are found.
#include "locate/java.h"

#include "support.h"

namespace coctilis::locate {
namespace {

JavaKit kit(int release) {
  JavaKit out;
  out.release = release;
  out.version = std::to_string(release) + ".0.1";
  out.folder = "/kits/" + std::to_string(release);
  out.compiler = out.folder + "/bin/javac";
  return out;
}
JavaWish exactly(int release) {
  JavaWish out;
  out.exactly = release;
  return out;
}
JavaWish at_least(int release) {
  JavaWish out;
  out.at_least = release;
  return out;
}

TEST(JavaKits, TheFirstDoesWhereNothingIsAsked) { EXPECT_EQ(choose_java({kit(17), kit(21)}, {}).kit.release, 17); }
TEST(JavaKits, TheOneThatIsNamedComesFirst) {
  const auto chosen = choose_java({kit(21), kit(8), kit(17)}, exactly(17));
  EXPECT_EQ(chosen.kit.release, 17);
  EXPECT_EQ(chosen.note, "");
  EXPECT_EQ(chosen.finding.others.size(), 2U);
}
TEST(JavaKits, TheLowestNeighbourThatCompilesForItWill) {
  const auto chosen = choose_java({kit(25), kit(21), kit(8)}, exactly(17));
  EXPECT_EQ(chosen.kit.release, 21);
  EXPECT_NE(chosen.note.find("Java 17 is named, and not here: 21.0.1 compiles for it"), std::string::npos);
}
TEST(JavaKits, AllThatAreTooOldAreTold) {
  const auto chosen = choose_java({kit(8), kit(11)}, exactly(17));
  EXPECT_FALSE(chosen.finding.found);
  EXPECT_EQ(chosen.finding.reason, "wanted 17, there are 8, 11");
  EXPECT_EQ(chosen.finding.package, "openjdk-17-jdk-headless");
}
TEST(JavaKits, OneThatIsNewEnough) {
  EXPECT_EQ(choose_java({kit(11), kit(17), kit(21)}, at_least(16)).kit.release, 17);
  EXPECT_FALSE(choose_java({kit(11)}, at_least(16)).finding.found);
  // Which compiles for what is older than all, if any does.
  EXPECT_EQ(choose_java({kit(25), kit(11)}, at_least(6)).kit.release, 11);
  EXPECT_EQ(choose_java({kit(25)}, at_least(6)).kit.release, 25);
}
TEST(JavaKits, NoneIsThere) {
  const auto chosen = choose_java({}, {});
  EXPECT_EQ(chosen.finding.reason, "no Java development kit is here");
  EXPECT_EQ(chosen.finding.package, "default-jdk-headless");
}

TEST(JavaKits, ArePassedOverWithoutACompiler) {
  const test::TreeFolder tree;
  tree.write("old/release", "IMPLEMENTOR=\"Yard\"\nJAVA_VERSION=\"1.8.0_402\"\n");
  tree.write("old/bin/javac", "#!/bin/sh\n");
  tree.write("bare/release", "JAVA_VERSION=\"17.0.2\"\n");
  std::filesystem::permissions(tree.path("old/bin/javac"), std::filesystem::perms::owner_all);
  const auto kits = java_kits({tree.path("bare"), tree.path("old")});
  ASSERT_FALSE(kits.empty());
  EXPECT_EQ(kits.front().release, 8);
  EXPECT_EQ(kits.front().version, "1.8.0_402");
  EXPECT_EQ(kits.front().origin, "the prefix " + tree.path("old"));
}

TEST(JavaArchives, AreFoundByVersionOrWithout) {
  const test::TreeFolder tree;
  for (const char* name : {"lib/clay-1.2.jar", "lib/clay-tools-9.jar", "other/clay-3.jar", "plain/clay.jar"})
    tree.write(name, "x");
  const auto found = [&](const char* folder, const char* version) {
    const auto out = java_archive("yard.brick", "clay", version, {tree.path(folder)});
    return files::below(out.path, tree.path());
  };
  EXPECT_EQ(found("lib", "1.2"), "lib/clay-1.2.jar");
  EXPECT_EQ(found("lib", "7"), "lib/clay-1.2.jar");
  EXPECT_EQ(found("other", ""), "other/clay-3.jar");
  EXPECT_EQ(found("plain", "2"), "plain/clay.jar");
  const auto missing = java_archive("yard.brick", "no-such-archive", "1", {tree.path("lib")});
  EXPECT_EQ(missing.path, "");
  EXPECT_NE(std::find(missing.looked.begin(), missing.looked.end(),
                      "/usr/share/maven-repo/yard/brick/no-such-archive/1/no-such-archive-1.jar"),
            missing.looked.end());
}

}  // namespace
}  // namespace coctilis::locate
