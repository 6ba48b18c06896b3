// Checks as XML.
#include "report/junit.h"

#include "support.h"

namespace coctilis::report {
namespace {

class Junit : public testing::Test {
 protected:
  Junit() {
    run_.project.name = "yard";
    run_.label = "gcc12-release";
    run_.started = "2026-11-30T22:16:07Z";
    for (const auto verdict : {model::Verdict::passed, model::Verdict::failed, model::Verdict::skipped}) {
      model::Check check;
      check.name = "check " + std::to_string(run_.checks.size());
      check.kind = model::CheckKind::service;
      check.verdict = verdict;
      check.reason = "since <it> & \"that\"";
      check.seconds = 0.25;
      run_.checks.push_back(check);
    }
    run_.checks[1].cause = "the cause";
    run_.checks[1].remedy = "the fix";
    run_.checks[1].evidence = {"what shows it"};
    run_.checks[1].output = std::string("a\x01\xff\n", 4);
  }
  [[nodiscard]] bool has(const std::string& text) const { return smoke_xml(run_).find(text) != std::string::npos; }
  model::Run run_;
};

TEST_F(Junit, CountsAndCases) {
  EXPECT_TRUE(has("tests=\"3\" failures=\"1\" errors=\"0\" time=\"0.750\" skipped=\"1\"")) << smoke_xml(run_);
  EXPECT_TRUE(has("timestamp=\"2026-11-30T22:16:07\""));
  EXPECT_TRUE(has("<testcase name=\"check 0\" classname=\"service\" time=\"0.250\" />"));
  EXPECT_TRUE(has("cause: the cause\nfix: the fix\nwhat shows it\n"));
}

TEST_F(Junit, WhatXmlHasNoPlaceForIsReplaced) {
  const std::string text = smoke_xml(run_);
  EXPECT_EQ(text.find('\x01'), std::string::npos);
  EXPECT_EQ(text.find('\xff'), std::string::npos);
  EXPECT_TRUE(has("since &lt;it> &amp; &quot;that&quot;")) << text;
}

TEST_F(Junit, IsAsThePublishedSchemaHasIt) {
  if (find_program("xmllint").empty()) GTEST_SKIP() << "there is nothing that validates XML (libxml2-utils)";
  const auto against_schema = [](const std::string& text) {
    const test::TreeFolder folder;
    folder.write("smoke.xml", text);
    Command command;
    command.argv = {"xmllint", "--noout", "--schema", TEST_SOURCE "/tests/data/junit-4.xsd", folder.path("smoke.xml")};
    return coctilis::run(command);
  };
  const Ended ended = against_schema(smoke_xml(run_));
  EXPECT_TRUE(ended.good()) << ended.output;
  EXPECT_FALSE(against_schema("<testsuites><testcase/></testsuites>").good());
}

TEST_F(Junit, ARunWithoutChecks) {
  run_.checks.clear();
  EXPECT_TRUE(has("tests=\"0\""));
}

}  // namespace
}  // namespace coctilis::report
