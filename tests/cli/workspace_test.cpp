// A folder of packages, each with a description of its own and what it needs of others: brought up in that order, those
// that do not need each other side by side.
#include "support.h"

namespace coctilis::test {
namespace {

class Workspace : public DrivenTree {
 protected:
  // A listfile package with a library of its name that calls those of `needs`.
  void library(const std::string& name, const std::vector<std::string>& needs, const std::string& manifest = "") {
    std::string listfile = "cmake_minimum_required(VERSION 3.16)\nproject(" + name + " C)\n";
    std::string declared;
    std::string calls;
    for (const auto& need : needs) {
      listfile += "find_package(" + need + " REQUIRED)\n";
      declared += "<depend>" + need + "</depend>\n";
      calls += " + " + need + "()";
    }
    listfile += "add_library(" + name + " SHARED " + name + ".c)\ntarget_include_directories(" + name +
                " PUBLIC $<INSTALL_INTERFACE:include>)\n";
    for (const auto& need : needs) listfile += "target_link_libraries(" + name + " PRIVATE " + need + ")\n";
    listfile += "install(TARGETS " + name + " EXPORT " + name + " LIBRARY DESTINATION lib)\ninstall(FILES " + name +
                ".h DESTINATION include)\ninstall(EXPORT " + name + " DESTINATION lib/cmake/" + name + " FILE " + name +
                "-config.cmake)\n";
    const std::string folder = "src/" + name + "/";
    tree.write(folder + "CMakeLists.txt", listfile);
    if (!manifest.empty())
      tree.write(folder + "package.xml", "<package format=\"3\">\n<name>" + name + "</name>\n<version>" + manifest +
                                             "</version>\n" + declared + "</package>\n");
    tree.write(folder + name + ".h", "int " + name + "(void);\n");
    std::string source;
    for (const auto& need : needs) source += "#include <" + need + ".h>\n";
    tree.write(folder + name + ".c", source + "int " + name + "(void) { return 1" + calls + "; }\n");
  }
  // The members of the record, "name exit" each, in order.
  [[nodiscard]] std::vector<std::string> members() const {
    std::vector<std::string> out;
    const auto record = tree.record();
    for (const auto& member : record["members"]) {
      std::string name = member["name"];
      out.push_back(name.substr(name.rfind('/') + 1) + " " + std::to_string(member["exit"].get<int>()));
    }
    return out;
  }
};

TEST_F(Workspace, ManifestsSayWhatComesFirst) {
  library("anvil", {"kiln", "glaze"}, "1.0.0");
  library("kiln", {"clay"}, "1.0.0");
  library("glaze", {"clay"}, "1.0.0");
  library("clay", {}, "2.1.0");
  // Its name is no reason to leave it out.
  tree.write("src/tests/package.xml",
             "<package><name>tests</name><version>1</version><depend>anvil</depend></package>");
  tree.write("src/tests/CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\nproject(tests C)\nfind_package(anvil REQUIRED)\n"
             "add_executable(count count.c)\ntarget_link_libraries(count anvil)\n");
  tree.write("src/tests/count.c",
             "#include <anvil.h>\n#include <stdio.h>\nint main(void) { printf(\"%d\\n\", anvil()); return 0; }\n");
  const auto said = run("bringup", {"-j", "4"});
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("count"), "5\n");
  EXPECT_EQ(members(), (std::vector<std::string>{"clay 0", "glaze 0", "kiln 0", "anvil 0", "tests 0"}));
  // A change goes as far as it is needed.
  tree.write("src/clay/clay.c", "int clay(void) { return 10; }\n");
  ASSERT_EQ(run("build").exit, 0);
  EXPECT_EQ(said_by("count"), "23\n");
}

TEST_F(Workspace, WhatDoesNotNeedTheOneThatFailsGoesOn) {
  library("clay", {}, "1.0.0");
  library("glaze", {"clay"}, "1.0.0");
  library("kiln", {"glaze"}, "1.0.0");
  library("stone", {}, "1.0.0");
  tree.write("src/glaze/glaze.c", "int glaze(void) { oops }\n");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 5) << said.all();
  EXPECT_EQ(members(), (std::vector<std::string>{"clay 0", "glaze 5", "kiln 3", "stone 0"}));
  EXPECT_NE(said.all().find("src/kiln: not built: needs src/glaze"), std::string::npos) << said.all();
  EXPECT_NE(said.all().find("error src/glaze/CMakeLists.txt:"), std::string::npos) << said.all();
  EXPECT_TRUE(files::exists(tree.label_folder() + "/lib/libstone.so"));
  // Mended it is taken up where it stood.
  tree.write("src/glaze/glaze.c", "#include <clay.h>\nint glaze(void) { return clay(); }\n");
  EXPECT_EQ(run("build").exit, 0);
  EXPECT_TRUE(files::exists(tree.label_folder() + "/lib/libkiln.so"));
}

TEST_F(Workspace, DescriptionsOfAllKindsFindEachOther) {
  library("clay", {});
  // A makefile that uses what the package of a configure script installs.
  tree.write("heat/configure",
             "#!/bin/sh\nprefix=/usr/local\nfor i; do case $i in --prefix=*) prefix=${i#*=};; esac; done\n"
             "sed \"s,@prefix@,$prefix,\" $(dirname $0)/heat.pc.in > heat.pc\nsed \"s,@prefix@,$prefix,\" "
             "$(dirname $0)/Makefile.in > Makefile\n");
  std::filesystem::permissions(tree.path("heat/configure"), std::filesystem::perms::all);
  tree.write("heat/heat.pc.in",
             "prefix=@prefix@\nName: heat\nDescription: heat\nVersion: 1.2\nCflags: -I${prefix}/include/heat\n"
             "Libs: -L${prefix}/lib -lheat\n");
  tree.write("heat/Makefile.in",
             "libheat.a: heat.o\n\tar rcs $@ heat.o\ninstall: libheat.a\n"
             "\tinstall -D -m 644 libheat.a $(DESTDIR)@prefix@/lib/libheat.a\n"
             "\tinstall -D -m 644 heat.h $(DESTDIR)@prefix@/include/heat/heat.h\n"
             "\tinstall -D -m 644 heat.pc $(DESTDIR)@prefix@/lib/pkgconfig/heat.pc\n");
  tree.write("heat/heat.c", "int heat(void) { return 1200; }\n");
  tree.write("heat/heat.h", "int heat(void);\n");
  tree.write("app/Makefile", "firing: firing.c\n\t$(CC) -o $@ $< -lheat -lclay\n");
  tree.write("app/firing.c",
             "#include <heat/heat.h>\n#include <clay.h>\n#include <stdio.h>\n"
             "int main(void) { printf(\"%d\\n\", heat() + clay()); return 0; }\n");
  const auto said = run("bringup");
  ASSERT_EQ(said.exit, 0) << said.all();
  EXPECT_EQ(said_by("firing"), "1201\n");
}

TEST_F(Workspace, OneIsBuiltWithThoseThatItNeeds) {
  library("clay", {}, "1.0.0");
  library("glaze", {"clay"}, "1.0.0");
  library("stone", {}, "1.0.0");
  ASSERT_EQ(run("build", {"glaze"}).exit, 0);
  EXPECT_EQ(members(), (std::vector<std::string>{"clay 0", "glaze 0"}));
}

TEST_F(Workspace, TwoThatInstallTheSameFileGetInEachOthersWay) {
  library("clay", {}, "1.0.0");
  library("stone", {}, "1.0.0");
  for (const char* name : {"clay", "stone"}) {
    const std::string file = std::string("src/") + name + "/CMakeLists.txt";
    tree.write(file, tree.read(file) + "install(FILES " + name + ".h DESTINATION include RENAME common.h)\n");
  }
  const auto said = run("stage", {"--prefix", tree.scratch() + "/prefix"});
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("the members src/clay and src/stone both install 'include/common.h'"), std::string::npos)
      << said.all();
}

TEST_F(Workspace, ACircleEndsItWithTheWayRound) {
  library("clay", {"glaze"}, "1.0.0");
  library("glaze", {"clay"}, "1.0.0");
  const auto said = run("build");
  EXPECT_EQ(said.exit, 4) << said.all();
  EXPECT_NE(said.all().find("members need each other in a circle: clay -> glaze -> clay"), std::string::npos)
      << said.all();
}

TEST_F(Workspace, AnInterruptedRunLeavesNothingRunning) {
  library("clay", {}, "1.0.0");
  library("stone", {}, "1.0.0");
  const std::string mark = tree.scratch() + "/mark";
  for (const char* name : {"clay", "stone"}) {
    const std::string file = std::string("src/") + name + "/CMakeLists.txt";
    tree.write(file, tree.read(file) + "add_custom_target(wait ALL COMMAND sleep 4321)\n");
  }
  Command command;
  command.argv = {std::getenv("COCTILIS_PROGRAM"), "build", tree.path(), "--kiln", tree.kiln(), "-j", "2"};
  auto process = Process::start(command);
  const auto sleeping = [] {
    Command look;
    look.argv = {"pgrep", "-f", "sleep 4321"};
    return coctilis::run(look).good();
  };
  const double begin = now();
  while (!sleeping() && now() - begin < 60 && !process.poll()) ::usleep(50'000);
  process.signal(SIGINT);
  while (!process.poll() && now() - begin < 90) ::usleep(20'000);
  EXPECT_EQ(process.take().code, 130);
  EXPECT_FALSE(sleeping());
}

}  // namespace
}  // namespace coctilis::test
