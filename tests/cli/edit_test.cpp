// [[edit]]: files of the tree that are built otherwise than they stand there.
#include "support.h"
#include "survey/survey.h"

namespace coctilis::test {
namespace {

class EditedTree : public DrivenTree {
 protected:
  EditedTree() {
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(yard C)\nadd_executable(kiln kiln.c)\n");
    tree.write("yard.h", "// settings\n#define PORT 80\n#define NAME \"yard\"\n");
    tree.write(
        "kiln.c",
        "#include <stdio.h>\n#include \"yard.h\"\nint main(void) { printf(\"%s %d\\n\", NAME, PORT); return 0; }\n");
    edits("[[edit]]\nfile = \"yard.h\"\npattern = 'PORT ([0-9]+)$'\nreplacement = 'PORT \\1\\1'\n");
  }
  void edits(const std::string& text) const { tree.write("coctilis.toml", text); }
};

TEST_F(EditedTree, IsBuiltOtherwiseAndStaysAsItIs) {
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "yard 8080\n");
  EXPECT_NE(said.all().find("yard.h:2 is built with 'PORT 8080' in the place of 'PORT 80' (coctilis.toml:1"),
            std::string::npos)
      << said.all();
  EXPECT_EQ(tree.read("yard.h"), "// settings\n#define PORT 80\n#define NAME \"yard\"\n");
  const auto record = tree.record();
  EXPECT_EQ(record["tree"], tree.path());
  ASSERT_EQ(record["edits"].size(), 1U);
  EXPECT_EQ(record["edits"][0]["before"], "PORT 80");
  EXPECT_EQ(record["edits"][0]["after"], "PORT 8080");
  EXPECT_EQ(record["edits"][0]["line"], 2);
  EXPECT_EQ(record["edits"][0]["places"], 1);
  const auto again = run("build");
  EXPECT_NE(again.all().find("up to date"), std::string::npos) << again.all();
}

TEST_F(EditedTree, FollowsTheTreeAndItsEdits) {
  ASSERT_EQ(run("build").exit, 0);
  tree.write("yard.h", "#define PORT 12\n#define NAME \"works\"\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "works 1212\n");
  edits(
      "[[edit]]\nfile = \"yard.h\"\npattern = 'PORT .*'\nreplacement = 'PORT 7'\n"
      "[[edit]]\nfile = \"yard.h\"\npattern = '\"works\"'\nreplacement = '\"press\"'\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "press 7\n");
  edits("[[edit]]\nfile = \"kiln.c\"\npattern = '%d'\nreplacement = '%04d'\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "works 0012\n") << "what is edited no more is the tree's again";
  edits("");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "works 12\n");
}

// Whoever follows a message into the copy and mends something there has mended nothing.
TEST_F(EditedTree, WhatIsChangedInTheCopyDoesNotStay) {
  ASSERT_EQ(run("build").exit, 0);
  const std::string copy = tree.kiln() + "/edited/" + std::filesystem::path(tree.path()).filename().string();
  files::write(copy + "/kiln.c", "int main(void) { return 1; }\n");
  files::write(copy + "/yard.h", "#define PORT 1\n#define NAME \"none\"\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "yard 8080\n");
}

TEST_F(EditedTree, APlaceThatLeadsElsewhereIsRefused) {
  tree.write("elsewhere/kept", "");
  files::make_folder(tree.kiln());
  files::write(tree.kiln() + "/.gitignore", std::string(survey::kiln_mark) + "\n*\n");
  std::filesystem::create_symlink(tree.path() + "/elsewhere", tree.kiln() + "/edited");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 7) << said.all();
  EXPECT_NE(said.all().find("edited"), std::string::npos) << said.all();
  EXPECT_EQ(files::names_in(tree.path() + "/elsewhere"), std::vector<std::string>{"kept"});
}

TEST_F(EditedTree, OfMakefilesToo) {
  std::filesystem::remove(tree.path() + "/CMakeLists.txt");
  tree.write("Makefile", "kiln: kiln.c yard.h\n\t$(CC) -o $@ kiln.c\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "yard 8080\n");
  tree.write("yard.h", "#define PORT 3\n#define NAME \"yard\"\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "yard 33\n");
}

TEST_F(EditedTree, OfSourcesAloneToo) {
  std::filesystem::remove(tree.path() + "/CMakeLists.txt");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("kiln"), "yard 8080\n");
}

TEST_F(EditedTree, OfMembersToo) {
  for (const char* name : {"north", "south"}) {
    tree.write(std::string(name) + "/CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(x C)\nadd_executable(" + std::string(name) + " k.c)\n");
    tree.write(std::string(name) + "/k.c",
               "#include <stdio.h>\n#define PEAK 5\nint main(void) { printf(\"%d\\n\", PEAK); return 0; }\n");
  }
  std::filesystem::remove(tree.path() + "/CMakeLists.txt");
  std::filesystem::remove(tree.path() + "/kiln.c");
  const std::string edit = "[[edit]]\nfile = \"south/k.c\"\npattern = 'PEAK 5'\nreplacement = 'PEAK 6'\n";
  const auto south = [&] {
    const auto said = run("build");
    EXPECT_EQ(said.exit, 0) << said.all();
    Command command;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(tree.kiln())) {
      if (entry.path().string().ends_with("/bin/south")) command.argv = {entry.path().string()};
    }
    return command.argv.empty() ? std::string("no program") : coctilis::run(command).output;
  };
  edits("");
  EXPECT_EQ(south(), "5\n");
  edits(edit);
  EXPECT_EQ(south(), "6\n");
  edits("");
  EXPECT_EQ(south(), "5\n");
}

TEST_F(EditedTree, TheCopyGoesWithTheKilns) {
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_TRUE(files::is_folder(tree.kiln() + "/edited"));
  ASSERT_EQ(run("clean", {"--yes"}).exit, 0);
  EXPECT_FALSE(files::exists(tree.kiln()));
}

TEST_F(EditedTree, WhatIsWrongWithAnEditIsSaid) {
  const auto wrong = [&](const std::string& text, const std::string& words) {
    edits(text);
    const auto said = run("build");
    EXPECT_EQ(said.exit, 2) << said.all();
    EXPECT_NE(said.all().find(words), std::string::npos) << said.all();
    EXPECT_NE(said.all().find("coctilis.toml:"), std::string::npos) << said.all();
  };
  wrong("[[edit]]\nfile = \"yard.h\"\npattern = 'GLAZE'\nreplacement = ''\n", "is matched by 'GLAZE'");
  wrong("[[edit]]\nfile = \"glaze.h\"\npattern = 'x'\nreplacement = 'y'\n", "is not there");
  wrong("[[edit]]\nfile = \"../x.h\"\npattern = 'x'\nreplacement = 'y'\n", "is one of the tree");
  wrong("[[edit]]\nfile = \"yard.h\"\npattern = '('\nreplacement = 'y'\n", "is no regular expression");
  wrong("[[edit]]\nfile = \"yard.h\"\npattern = 'P'\nreplacement = '\\3'\n", "does not go with the pattern");
  wrong("[[edit]]\nfile = \"yard.h\"\npattern = 'P'\n", "needs file, pattern and replacement");
  std::filesystem::create_symlink("/etc/hostname", tree.path() + "/link.h");
  wrong("[[edit]]\nfile = \"link.h\"\npattern = 'x'\nreplacement = 'y'\n", "is a link");
}

// A pattern that matches where nothing stands, at the end of a file as well.
TEST_F(EditedTree, PatternsThatMatchNothingPutSomethingThere) {
  tree.write("yard.h", "#define PORT 80\n#define NAME \"yard\"\n");
  edits("[[edit]]\nfile = \"yard.h\"\npattern = '$'\nreplacement = ' // bricks'\n");
  const auto said = run("build");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("kiln"), "yard 80\n");
  EXPECT_NE(said.all().find("and so in 2 more places"), std::string::npos) << said.all();
}

}  // namespace
}  // namespace coctilis::test
