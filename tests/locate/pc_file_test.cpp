#include "locate/pc_file.h"

#include "support.h"

namespace coctilis::locate {
namespace {

using test::TreeFolder;
using Words = std::vector<std::string>;

PcSearch search_in(const TreeFolder& tree) {
  PcSearch search;
  search.folders = {tree.path()};
  search.system_include_folders = {"/usr/include"};
  search.system_link_folders = {"/usr/lib"};
  return search;
}

TEST(PcFile, VariablesAndFields) {
  const auto file = parse_pc(
      "prefix=/opt/clay\nlibdir=${prefix}/lib # where\nName: clay\nVersion: 2.1\nRequires: glaze >= 1, fire\nCflags: "
      "-I${prefix}/include -DCLAY=\"a b\"\n"
      "Libs: -L${libdir} \\\n  -lclay\nCost: $${x}\nnot a line\n",
      "/opt/clay/lib/pkgconfig/clay.pc");
  ASSERT_TRUE(file.ok());
  EXPECT_EQ(file->module, "clay");
  EXPECT_EQ(file->version, "2.1");
  EXPECT_EQ(file->variables.at("libdir"), "/opt/clay/lib");
  EXPECT_EQ(file->variables.at("pcfiledir"), "/opt/clay/lib/pkgconfig");
  EXPECT_EQ(file->compile_flags, (Words{"-I/opt/clay/include", "-DCLAY=a b"}));
  EXPECT_EQ(file->link_flags, (Words{"-L/opt/clay/lib", "-lclay"}));
  ASSERT_EQ(file->requires_.size(), 2U);
  EXPECT_EQ(file->requires_[0].operation, ">=");
  EXPECT_EQ(file->requires_[1].name, "fire");
}

TEST(PcFile, UnsetVariableIsAnErrorWithItsLine) {
  const auto file = parse_pc("Name: clay\nLibs: -L${nowhere}\n", "/x/clay.pc");
  ASSERT_FALSE(file.ok());
  EXPECT_EQ(file.problem().place.line, 2);
  EXPECT_NE(file.problem().what.find("nowhere"), std::string::npos);
}

TEST(PcFile, ValuesThatGrowWithoutEndAreStopped) {
  std::string text = "a=xxxxxxxxxxxxxxxx\n";
  for (int i = 0; i < 40; ++i) text += "a=${a}${a}\n";
  EXPECT_FALSE(parse_pc(text, "/x/clay.pc").ok());
}

TEST(PcFile, RequirementsWithAndWithoutBlanks) {
  const auto list = pc_requirements("a>=1.2 b, c = 3 , d");
  ASSERT_EQ(list.size(), 4U);
  EXPECT_EQ(list[0].version, "1.2");
  EXPECT_EQ(list[2].operation, "=");
  EXPECT_EQ(list[3].name, "d");
}

TEST(PcFile, RequiredModulesAreFollowed) {
  TreeFolder tree;
  tree.write("clay.pc",
             "Name: clay\nVersion: 2\nRequires: glaze\nRequires.private: fire\nCflags: -I/opt/clay\nLibs: -L/opt/lib "
             "-lclay\nLibs.private: -lm\n");
  tree.write("glaze.pc", "Name: glaze\nVersion: 1\nCflags: -I/opt/glaze -I/usr/include\nLibs: -L/usr/lib -lglaze\n");
  tree.write("fire.pc", "Name: fire\nVersion: 1\nCflags: -I/opt/fire\nLibs: -lfire\n");
  const auto dynamic = find_pc({"clay", "", ""}, search_in(tree));
  ASSERT_TRUE(dynamic.found);
  EXPECT_EQ(dynamic.problem, "");
  EXPECT_EQ(dynamic.usage.include_folders, (Words{"/opt/clay", "/opt/glaze", "/opt/fire"}));
  EXPECT_EQ(dynamic.usage.link_items, (Words{"-lclay", "-lglaze"}));
  EXPECT_EQ(dynamic.usage.link_folders, Words{"/opt/lib"});
  const auto complete = find_pc({"clay", "", ""}, search_in(tree), true);
  EXPECT_EQ(complete.usage.link_items, (Words{"-lclay", "-lm", "-lglaze", "-lfire"}));
}

TEST(PcFile, WhatCannotBeUsedSaysWhy) {
  TreeFolder tree;
  tree.write("clay.pc", "Name: clay\nVersion: 2.0\nRequires: glaze >= 3\n");
  tree.write("glaze.pc", "Name: glaze\nVersion: 1\n");
  tree.write("salt.pc", "Name: salt\nVersion: 1\nRequires: glaze\nConflicts: glaze < 2\n");
  tree.write("moon.pc", "Name: moon\nVersion: 1\nRequires: absent\n");
  const auto search = search_in(tree);
  EXPECT_NE(find_pc({"clay", "", ""}, search).problem.find("glaze"), std::string::npos);
  EXPECT_NE(find_pc({"salt", "", ""}, search).problem.find("does not go together"), std::string::npos);
  EXPECT_NE(find_pc({"moon", "", ""}, search).problem.find("absent"), std::string::npos);
  EXPECT_NE(find_pc({"glaze", ">=", "9"}, search).problem.find("required is"), std::string::npos);
  EXPECT_FALSE(find_pc({"nothing", "", ""}, search).found);
  EXPECT_FALSE(find_pc({"../clay", "", ""}, search).found);
}

TEST(PcFile, CirclesEnd) {
  TreeFolder tree;
  tree.write("a.pc", "Name: a\nVersion: 1\nRequires: b\nLibs: -la\n");
  tree.write("b.pc", "Name: b\nVersion: 1\nRequires: a\nLibs: -lb\n");
  EXPECT_EQ(find_pc({"a", "", ""}, search_in(tree)).usage.link_items.size(), 2U);
}

TEST(PcFile, SysrootGoesBeforeFolders) {
  TreeFolder tree;
  tree.write("clay.pc", "Name: clay\nVersion: 1\nCflags: -I/opt/clay\nLibs: -L/opt/lib -lclay\n");
  auto search = search_in(tree);
  search.sysroot = "/target";
  const auto module = find_pc({"clay", "", ""}, search);
  EXPECT_EQ(module.usage.include_folders, Words{"/target/opt/clay"});
  EXPECT_EQ(module.usage.link_folders, Words{"/target/opt/lib"});
}

TEST(PcFile, SearchPathAndItsVariables) {
  ::setenv("PKG_CONFIG_PATH", "/first:/second", 1);
  ::setenv("PKG_CONFIG_LIBDIR", "/only", 1);
  const auto search = pc_search({"/with"}, "x86_64-linux-gnu", "");
  ::unsetenv("PKG_CONFIG_PATH");
  ::unsetenv("PKG_CONFIG_LIBDIR");
  ASSERT_GE(search.folders.size(), 7U);
  EXPECT_EQ(search.folders.front(), "/with/lib/x86_64-linux-gnu/pkgconfig");
  EXPECT_EQ(search.folders[4], "/first");
  EXPECT_EQ(search.folders.back(), "/only");
}

}  // namespace
}  // namespace coctilis::locate
