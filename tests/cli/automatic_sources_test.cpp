// Sources that generators write because a target's properties ask for it, with generators made up for the purpose.
#include "support.h"

namespace coctilis::test {
namespace {

class AutomaticSources : public testing::Test {
 protected:
  void SetUp() override {
    // Each writes code from which the program can tell that it ran, on what, and with which words.
    generator("moc", R"(
case $in in
  *.h) echo "#include \"$in\"
int meta_of_$stem() { return $(echo "$words" | grep -c -- "-I[^ ]*/inc .*-DGLAZE=2 .*--include [^ ]*moc_predefs.h"); }" ;;
  *) echo "static int meta_of_$stem = 1;" ;;
esac >$out)");
    generator("uic", "echo \"#define FORM \\\"$(cat $in)\\\"\" >$out");
    generator("rcc", R"(echo "int resources_of_$name() { return $(cat $(dirname $in)/clay.txt); }" >$out)");
    tree.write("CMakeLists.txt", R"(cmake_minimum_required(VERSION 3.16)
project(yard CXX)
foreach(tool moc uic rcc)
  add_executable(Qt5::${tool} IMPORTED)
  set_target_properties(Qt5::${tool} PROPERTIES IMPORTED_LOCATION ${CMAKE_SOURCE_DIR}/tools/${tool})
endforeach()
set(CMAKE_AUTOMOC ON)
set(CMAKE_AUTOUIC ON)
set(CMAKE_AUTORCC ON)
add_executable(panel main.cpp dial.cpp plain.cpp bricks.qrc)
target_include_directories(panel PRIVATE inc)
target_compile_definitions(panel PRIVATE GLAZE=2)
enable_testing()
add_test(NAME panel COMMAND panel)
)");
    tree.write("dial.cpp", "int dial() { return 0; }\n");
    tree.write("plain.h", "// Q_OBJECT is only named here\n");
    tree.write("plain.cpp", "int plain() { return 0; }\n");
    tree.write("board.ui", "board");
    tree.write("clay.txt", "7");
    tree.write("bricks.qrc", "<RCC><qresource><file>clay.txt</file></qresource></RCC>\n");
    tree.write("inc/macros.h", "#define Q_OBJECT\n");
    tree.write("main.cpp", R"(#include <cstring>
#include "macros.h"
#include "ui_board.h"
int meta_of_dial();
int resources_of_bricks();
class Main {
  Q_OBJECT
};
#include "main.moc"
int main() {
  return meta_of_dial() == 1 && meta_of_main == 1 && resources_of_bricks() == 7 && !std::strcmp(FORM, "board") ? 0 : 1;
}
)");
    tree.write("dial.h", "#pragma once\n#define Q_OBJECT\nclass Dial {\n  Q_OBJECT\n};\n");
  }

  void generator(const std::string& name, const std::string& body) {
    tree.write("tools/" + name,
               "#!/bin/sh\nwords=\"$*\"; in=; out=; name=\n"
               "while [ $# -gt 0 ]; do case $1 in -o) out=$2; shift;; --name) name=$2; shift;; --include) shift;; "
               "-*) ;; *) in=$1;; esac; shift; done\nstem=$(basename $in); stem=${stem%.*}\n" +
                   body + "\n");
    std::filesystem::permissions(tree.path("tools/" + name), std::filesystem::perms::owner_all);
  }

  Said bringup(std::vector<std::string> more = {}) {
    std::vector<std::string> words = {"bringup", tree.path(), "--kiln", tree.kiln()};
    words.insert(words.end(), more.begin(), more.end());
    return coctilis(words);
  }
  [[nodiscard]] std::string made(const std::string& name) const {
    return tree.label_folder() + "/work/panel_autogen/" + name;
  }

  TreeFolder tree;
};

TEST_F(AutomaticSources, AreMadeCompiledAndFound) {
  const auto said = bringup();
  ASSERT_EQ(said.exit, 0) << said.all();
  for (const char* name : {"here/moc_dial.cpp", "include/main.moc", "include/ui_board.h", "here/qrc_bricks.cpp"})
    EXPECT_TRUE(files::is_file(made(name))) << name;
  EXPECT_FALSE(files::is_file(made("here/moc_plain.cpp")));
  EXPECT_EQ(bringup({"--json"}).json()["build"]["ran"], 0);
}

TEST_F(AutomaticSources, FollowWhatTheyAreMadeFrom) {
  ASSERT_EQ(bringup().exit, 0);
  // A file that a list of resources names is an input of the rule.
  tree.write("clay.txt", "8");
  EXPECT_EQ(bringup().exit, 6);
  tree.write("clay.txt", "7");
  // A header that comes to need it gets its own, though a plan was kept.
  tree.write("plain.h", "#define Q_OBJECT\nclass Plain {\n  Q_OBJECT\n};\n");
  const auto said = bringup();
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_TRUE(files::is_file(made("here/moc_plain.cpp")));
}

TEST_F(AutomaticSources, WithoutTheGeneratorsTheTargetIsMadeAsItIs) {
  const std::string text = files::read(tree.path("CMakeLists.txt")).value();
  const auto from = text.find("foreach(tool");
  const auto to = text.find("set(CMAKE_AUTOMOC");
  tree.write("CMakeLists.txt", text.substr(0, from) + text.substr(to));
  tree.write("main.cpp", "int main() { return 0; }\n");
  const auto said = bringup();
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("AUTOMOC of 'panel' has no effect"), std::string::npos) << said.all();
}

}  // namespace
}  // namespace coctilis::test
