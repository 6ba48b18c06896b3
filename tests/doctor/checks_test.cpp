// Why checks fail: what is read out of what programs print, and how they ended.
#include "doctor/checks.h"

#include <cerrno>
#include <csignal>

#include "support.h"

namespace coctilis::doctor {
namespace {

class FailedCheck : public testing::Test {
 protected:
  FailedCheck() {
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    files::make_folder(plan_.kiln + "/work");
    case_.program = plan_.kiln + "/work/kiln";
    case_.folder = tree_.scratch() + "/here";
    case_.is_asked = true;
    files::make_folder(case_.folder);
  }
  model::Diagnosis of(const std::string& output) {
    case_.output = output;
    return diagnose_check(case_).value_or(model::Diagnosis{});
  }
  static bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }
  test::TreeFolder tree_;
  model::Plan plan_;
  CheckCase case_{plan_, {}, {}, {}, {}, Ended::How::exited, 1, false, {}, {}, {}, {}, {}, {}, false};
};

struct Line {
  const char* name;
  const char* output;
  const char* failure;
  const char* cause;
};
class LinesOfPrograms : public FailedCheck, public testing::WithParamInterface<Line> {};

TEST_P(LinesOfPrograms, AreUnderstood) {
  const auto said = of(GetParam().output);
  EXPECT_EQ(said.failure, GetParam().failure) << GetParam().output;
  EXPECT_TRUE(has(said.cause, GetParam().cause)) << said.cause;
  EXPECT_EQ(said.remedy.empty(), said.failure.empty());
}

INSTANTIATE_TEST_SUITE_P(
    All, LinesOfPrograms,
    testing::Values(
        Line{"Nothing", "peak 1222\n", "", ""},
        Line{"Port", "bind: Address already in use\n", "port taken", "is taken"},
        Line{"PortByNumber", "error: port 8080 is already in use\n", "port taken", "port 8080"},
        Line{"Refused", "connect to localhost:5432: Connection refused\n", "connection refused", "localhost:5432"},
        Line{"Name", "getaddrinfo kiln.yard: Name or service not known\n", "name does not resolve", "name"},
        Line{"Interface", "connect: Network is unreachable\n", "interface down", "not there"},
        Line{"Display", "kiln-view: cannot open display: \n", "no display", "display"},
        Line{"VideoDevice", "could not initialize: No available video device\n", "no display", "display"},
        Line{"Device", "cannot open /dev/kiln7: No such file or directory\n", "no device", "/dev/kiln7"},
        Line{"Locale", "cannot set locale xx_YY\n", "locale not there", "locale"},
        Line{"Variable", "YARD_HOME is not set\n", "variable not set", "YARD_HOME"},
        Line{"VariableToBeSet", "please set the environment variable YARD_HOME\n", "variable not set", "YARD_HOME"},
        Line{"NoVariable", "the door is not set\n", "", ""},
        Line{"WordsInCapitals", "ERROR set\nOPTIONS set to none\nTABLE missing\n", "", ""},
        Line{"Program", "sh: 1: glaze-mixer: not found\n", "program not found", "glaze-mixer"},
        Line{"File", "cannot open 'cones.tbl'\n", "file not found", "'cones.tbl'"},
        Line{"FileWithoutQuotes", "kiln: cannot open the table cones.tbl\n", "file not found", "'cones.tbl'"},
        Line{"FileAtTheEndOfASentence", "cannot open cones.tbl.\n", "file not found", "'cones.tbl'"},
        Line{"NoFile", "Error: Kiln.Heat.FiringException: cold\n", "", ""},
        Line{"PlaceInASource", "AssertionError: error at brick.Kiln.fire(Kiln.java:12)\n", "", ""},
        Line{"FileBeforeTheReason", "kiln: in/cones.tbl: No such file or directory\n", "file not found", "'cones.tbl'"},
        Line{"Written", "kiln: /var/log/kiln.log: Read-only file system\n", "may not write there",
             "/var/log/kiln.log"}),
    [](const auto& one) { return one.param.name; });

TEST_F(FailedCheck, ALibraryLiesWhereItIsBuilt) {
  const std::string folder = plan_.kiln + "/work/lib";
  files::write(folder + "/libclay.so.2", "");
  case_.code = 127;
  const auto said =
      of("kiln: error while loading shared libraries: libclay.so.2: cannot open shared object file: No such file\n");
  EXPECT_EQ(said.failure, "library not found");
  EXPECT_TRUE(has(said.remedy, "LD_LIBRARY_PATH=" + folder)) << said.remedy;
}

TEST_F(FailedCheck, AFileLiesElsewhere) {
  tree_.write("data/firing.conf", "");
  case_.in_vain = {case_.folder + "/firing.conf"};
  auto said = of("");
  EXPECT_EQ(said.failure, "file not found");
  EXPECT_EQ(said.cause, "it asked for 'firing.conf' in its working folder; there is one in the tree, data/firing.conf");
  EXPECT_TRUE(has(said.remedy, "files = [\"data/firing.conf\"]")) << said.remedy;
  files::write(plan_.kiln + "/work/firing.conf", "");
  said = of("");
  EXPECT_TRUE(has(said.cause, "there is one beside the program")) << said.cause;
  EXPECT_TRUE(has(said.remedy, "folder = \"${program}\"")) << said.remedy;
}

TEST_F(FailedCheck, OfSeveralThatItSpeaksOfIsMeant) {
  case_.in_vain = {case_.folder + "/a.conf", case_.folder + "/b.conf"};
  EXPECT_TRUE(has(of("no b.conf here\n").cause, "'b.conf'"));
}

TEST_F(FailedCheck, WhatManyProgramsDoWithoutIsNoCause) {
  case_.in_vain = {case_.folder + "/a.conf", case_.folder + "/b.conf"};
  EXPECT_EQ(of("cold\n").failure, "") << "one of two, of which nothing is known";
  case_.in_vain = {case_.folder + "/.kilnrc"};
  EXPECT_EQ(of("cold\n").failure, "");
  case_.in_vain = {case_.folder + "/a.conf"};
  EXPECT_EQ(of("cold\n").failure, "file not found");
  case_.code = 0;
  EXPECT_EQ(of("cold\n").failure, "") << "it ended well";
  case_.unwritten = {"/var/log/kiln.log", case_.folder + "/out/x"};
  EXPECT_EQ(of("cold\n").failure, "");
  EXPECT_EQ(of("cannot write kiln.log\n").failure, "may not write there");
}

TEST_F(FailedCheck, AFolderThatItWritesTo) {
  case_.unwritten = {case_.folder + "/out/curve.csv"};
  const auto said = of("");
  EXPECT_EQ(said.failure, "folder not there");
  EXPECT_TRUE(has(said.remedy, "folders = [\"out\"]")) << said.remedy;
}

TEST_F(FailedCheck, ACrashHasItsPlace) {
  case_.how = Ended::How::signalled;
  case_.code = SIGSEGV;
  case_.frames = {"fire_up (kiln.c:42)", "main (main.c:7)"};
  auto said = of("");
  EXPECT_TRUE(has(said.cause, "in fire_up (kiln.c:42)")) << said.cause;
  EXPECT_EQ(said.evidence.size(), 2U);
  case_.frames = {"fire_up"};
  EXPECT_TRUE(has(of("").remedy, "--variant debug"));
  case_.code = SIGABRT;
  said = of("kiln: k.c:3: main: Assertion `cone < 14' failed.\n");
  EXPECT_TRUE(has(said.cause, "Assertion `cone < 14' failed")) << said.cause;
  said = of("terminate called after throwing an instance of 'std::runtime_error'\n  what():  no clay\n");
  EXPECT_TRUE(has(said.cause, "no clay")) << said.cause;
}

TEST_F(FailedCheck, AHangSaysWhatForIt) {
  case_.waited = true;
  case_.waits_for = "standard input, to which nobody writes";
  EXPECT_TRUE(has(of("").remedy, "input ="));
  case_.waits_for = "connections on port 80";
  EXPECT_TRUE(has(of("").remedy, "[[service]]"));
  case_.waits_for = "nothing: it computes";
  EXPECT_TRUE(has(of("").cause, "it was computing"));
}

TEST_F(FailedCheck, OneThatDoesNotStart) {
  case_.how = Ended::How::not_started;
  case_.code = ENOENT;
  files::write(case_.program, "#!/opt/yard/bin/glaze\n");
  EXPECT_EQ(of("").failure, "missing interpreter");
  case_.code = EACCES;
  EXPECT_EQ(of("").failure, "no right to run it");
}

}  // namespace
}  // namespace coctilis::doctor
