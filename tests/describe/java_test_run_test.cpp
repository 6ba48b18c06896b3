// What tests in Java are written with, and how they are run.
#include "describe/java/test_run.h"
#include "support.h"

namespace coctilis::describe::java {
namespace {

TEST(JavaTestRun, FrameworksByTheirImports) {
  const auto both = frameworks_of({"org.junit.jupiter.api.Test", "org.junit.Before", "java.util.List"});
  EXPECT_TRUE(both.jupiter);
  EXPECT_TRUE(both.vintage);
  EXPECT_TRUE(both.other.empty());
  EXPECT_TRUE(frameworks_of({"junit.framework.TestCase"}).vintage);
  EXPECT_FALSE(frameworks_of({"org.junit.platform.suite.api.Suite", "org.junitpioneer.X", "brick.junit.Y"}).any());
  EXPECT_EQ(frameworks_of({"org.testng.annotations.Test"}).other, "TestNG");
}

TEST(JavaTestRun, ArchivesOfTheFrameworks) {
  for (const char* name : {"junit", "junit4", "junit-4.13.1.jar", "lib/junit.jar", "JUnit5.8.1", "junit-jupiter",
                           "junit-jupiter-api-5.9.jar", "junit-vintage-engine", "hamcrest-core-1.3.jar", "opentest4j"})
    EXPECT_TRUE(is_of_framework(name)) << name;
  for (const char* name : {"junit-addons", "junitparams", "hamcrest-library", "mockito-core", "clay.jar", ""})
    EXPECT_FALSE(is_of_framework(name)) << name;
  const auto jupiter = archives_for({true, false, {}});
  EXPECT_NE(std::find(jupiter.begin(), jupiter.end(), "junit-jupiter-engine"), jupiter.end());
  EXPECT_EQ(std::find(jupiter.begin(), jupiter.end(), "junit4"), jupiter.end());
}

TEST(JavaTestRun, TheCommandOfTheLauncher) {
  EXPECT_EQ(classes_to_run({"brick.A", "B"}), "--select-class=brick.A\n--select-class=B\n");
  const auto command = test_command("/kit/bin/java", {"/a.jar", "/b"}, "/work/list");
  EXPECT_EQ(command.front(), "/kit/bin/java");
  EXPECT_EQ(command[2], "/a.jar:/b");
  EXPECT_EQ(command.back(), "@/work/list");
  EXPECT_NE(std::find(command.begin(), command.end(), "--fail-if-no-tests"), command.end());
}

}  // namespace
}  // namespace coctilis::describe::java
