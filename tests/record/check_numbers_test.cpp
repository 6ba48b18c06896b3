// The numbers of checks from run to run.
#include "record/check_numbers.h"

#include "support.h"

namespace coctilis::record {
namespace {

class CheckNumbers : public testing::Test {
 protected:
  CheckNumbers() { files::make_folder(tree_.kiln()); }
  // The number of a check that read this, as it stands after the run.
  model::CheckNumber after(const std::string& text, model::Verdict verdict = model::Verdict::passed) {
    model::Run run;
    run.kiln = tree_.kiln();
    run.checks.resize(1);
    run.checks[0].name = "firing";
    run.checks[0].verdict = verdict;
    run.checks[0].numbers.resize(1);
    run.checks[0].numbers[0].name = "peak";
    run.checks[0].numbers[0].text = text;
    compare_check_numbers(run);
    return run.checks[0].numbers[0];
  }
  test::TreeFolder tree_;
};

TEST_F(CheckNumbers, AreThoseOfTheLastGoodRun) {
  EXPECT_EQ(after("1").before, "");
  EXPECT_EQ(after("2").before, "1");
  EXPECT_EQ(after("3", model::Verdict::failed).before, "2");
  const auto number = after("4");
  EXPECT_EQ(number.before, "2") << "what failed does not count";
  EXPECT_EQ(number.good_values, (std::vector<double>{1, 2}));
}

TEST_F(CheckNumbers, AFileThatCannotBeReadCountsAsNone) {
  for (const char* text :
       {"", "{", "[]", "{\"layout\": 7}", "{\"layout\": 1, \"checks\": []}",
        "{\"layout\": 1, \"checks\": {\"firing\": 7}}", "{\"layout\": 1, \"checks\": {\"firing\": {\"peak\": {}}}}",
        "{\"layout\": 1, \"checks\": {\"firing\": {\"peak\": [7, null]}}}"}) {
    files::write(tree_.kiln() + "/numbers.json", text);
    EXPECT_EQ(after("1").before, "") << text;
    EXPECT_EQ(after("2").before, "1") << text;
  }
}

TEST_F(CheckNumbers, OnlySoManyAreKept) {
  for (int i = 0; i < 210; ++i) (void)after(std::to_string(i));
  EXPECT_EQ(after("x").good_values.size(), 200U);
}

TEST_F(CheckNumbers, WithoutNumbersNothingIsWritten) {
  model::Run run;
  run.kiln = tree_.kiln();
  run.checks.resize(1);
  compare_check_numbers(run);
  EXPECT_FALSE(files::exists(tree_.kiln() + "/numbers.json"));
}

}  // namespace
}  // namespace coctilis::record
