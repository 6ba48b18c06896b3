// What headers cost: by the reports of compilers, and shared out by bytes.
#include "engine/header_costs.h"

#include <sys/stat.h>

#include "support.h"

namespace coctilis::engine {
namespace {

TEST(HeaderTimes, WhatLiesWithinAnotherIsNotCountedTwice) {
  const auto times = times_of_headers(R"({"traceEvents": [
    {"name": "Source", "ts": 100, "dur": 2000000, "args": {"detail": "clay.h"}},
    {"name": "Source", "ts": 500, "dur": 500000, "args": {"detail": "/usr/include/glaze.h"}},
    {"name": "Source", "ts": 600000, "dur": 250000, "args": {"detail": "/usr/include/glaze.h"}},
    {"name": "Source", "ts": 3000000, "dur": 1000000, "args": {"detail": "slip.h"}},
    {"name": "ParseClass", "ts": 200, "dur": 10, "args": {"detail": "Kiln"}}]})");
  ASSERT_TRUE(times);
  ASSERT_EQ(times->size(), 3U);
  EXPECT_NEAR(times->at("clay.h"), 1.25, 1e-9);
  EXPECT_NEAR(times->at("/usr/include/glaze.h"), 0.75, 1e-9);
  EXPECT_NEAR(times->at("slip.h"), 1, 1e-9);
}

TEST(HeaderTimes, WhatIsNoReportTellsNothing) {
  EXPECT_FALSE(times_of_headers(""));
  EXPECT_FALSE(times_of_headers("[1, 2]"));
  EXPECT_FALSE(times_of_headers(R"({"traceEvents": 7})"));
  for (const char* odd : {R"({"traceEvents": [7, {"name": "Source"}, {"name": "Source", "args": []}]})",
                          R"({"traceEvents": [{"name": "Source", "ts": "x", "dur": 1, "args": {"detail": "a.h"}}]})",
                          R"({"traceEvents": [{"name": "Source", "ts": 1, "dur": -1, "args": {"detail": "a.h"}}]})",
                          R"({"traceEvents": [{"name": "Source", "ts": 1, "dur": 1e308, "args": {"detail": "a.h"}}]})",
                          R"({"traceEvents": [{"name": "Source", "ts": 1, "dur": 1, "args": {"detail": 3}}]})"}) {
    const auto times = times_of_headers(odd);
    ASSERT_TRUE(times) << odd;
    EXPECT_TRUE(times->empty()) << odd;
  }
}

class Costs : public testing::Test {
 protected:
  // A file of so many bytes, as one that the step has read.
  void read(const std::string& name, std::uint64_t bytes) {
    const PathId id = journal_.id("/yard/" + name);
    FileState state;
    state.stamp.inode = 1;
    state.stamp.size = bytes;
    journal_.put_file(id, state);
    record_.inputs.push_back(journal_.content({id, static_cast<std::uint32_t>(Form::content), hash_bytes(name)}));
  }
  void compile(const std::string& source, double seconds, const std::string& report = {}) {
    model::Step step;
    step.kind = model::StepKind::compile;
    step.language = "C++";
    step.source = "/yard/" + source;
    step.time_report = report;
    step.actions.emplace_back();
    step.actions.back().folder = "/yard";
    costs_.add(step, record_, seconds);
    record_ = {};
  }
  test::TreeFolder folder_;
  Journal journal_{folder_.path("journal")};
  StepRecord record_;
  HeaderCosts costs_{journal_};
};

TEST_F(Costs, TimeIsSharedOutByBytesWhereNobodyTells) {
  read("kiln.cpp", 1000);
  read("clay.h", 3000);
  read("ahead.h.gch", 900000);
  compile("kiln.cpp", 4);
  read("glaze.cpp", 1000);
  read("clay.h", 1000);
  read("glaze.h", 2000);
  compile("glaze.cpp", 2);
  const auto all = costs_.dearest();
  ASSERT_EQ(all.size(), 2U);
  EXPECT_EQ(all[0].path, "/yard/clay.h");
  EXPECT_EQ(all[0].sources, 2U);
  EXPECT_EQ(all[0].told, 0U);
  EXPECT_NEAR(all[0].seconds, 3.5, 1e-9);
  EXPECT_EQ(all[1].path, "/yard/glaze.h");
  EXPECT_NEAR(all[1].seconds, 1, 1e-9);
}

TEST_F(Costs, TheCompilersWordCountsMoreAndItsReportIsTakenAway) {
  read("kiln.cpp", 1000);
  read("clay.h", 3000);
  folder_.write("kiln.json",
                R"({"traceEvents": [{"name": "Source", "ts": 1, "dur": 500000, "args": {"detail": "./clay.h"}}]})");
  compile("kiln.cpp", 4, folder_.path("kiln.json"));
  const auto all = costs_.dearest();
  ASSERT_EQ(all.size(), 1U);
  EXPECT_NEAR(all[0].seconds, 0.5, 1e-9);
  EXPECT_EQ(all[0].told, 1U);
  EXPECT_FALSE(files::exists(folder_.path("kiln.json")));
}

TEST_F(Costs, WhatIsNoPlainFileIsNoReport) {
  ASSERT_EQ(::mkfifo(folder_.path("kiln.json").c_str(), 0600), 0);
  read("kiln.cpp", 1000);
  read("clay.h", 3000);
  compile("kiln.cpp", 4, folder_.path("kiln.json"));
  const auto all = costs_.dearest();
  ASSERT_EQ(all.size(), 1U);
  EXPECT_EQ(all[0].told, 0U);
  EXPECT_NEAR(all[0].seconds, 3, 1e-9);
}

TEST_F(Costs, OnlyTheDearestAreKept) {
  read("kiln.cpp", 10);
  for (std::size_t i = 0; i < HeaderCosts::most_headers + 50; ++i) read("h" + std::to_string(i) + ".h", 100 + i);
  compile("kiln.cpp", 1);
  const auto all = costs_.dearest();
  ASSERT_EQ(all.size(), HeaderCosts::most_headers);
  EXPECT_EQ(all[0].path, "/yard/h" + std::to_string(HeaderCosts::most_headers + 49) + ".h");
}

}  // namespace
}  // namespace coctilis::engine
