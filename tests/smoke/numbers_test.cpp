// Numbers that checks read, and how they are compared.
#include "smoke/numbers.h"

#include <cmath>

#include "support.h"

namespace coctilis::smoke {
namespace {

class Numbers : public testing::Test {
 protected:
  Result<std::vector<model::CheckNumber>> read(const model::AskedNumber& asked, const std::string& output = {}) {
    return read_numbers({asked}, output, [&](const auto& name) { return tree_.path(name); });
  }
  std::string value(const model::AskedNumber& asked, const std::string& output = {}) {
    const auto numbers = read(asked, output);
    return numbers ? numbers->at(0).text : "error: " + numbers.problem().what;
  }
  static model::AskedNumber found(const std::string& pattern) {
    model::AskedNumber out;
    out.name = "peak";
    out.find = pattern;
    return out;
  }
  model::AskedNumber column(const std::string& name, int row = -1) {
    model::AskedNumber out;
    out.name = "n";
    out.file = "c.csv";
    out.column = name;
    out.row = row;
    return out;
  }
  test::TreeFolder tree_;
};

TEST_F(Numbers, TheLastInTheOutputCounts) {
  EXPECT_EQ(value(found("^peak (\\S+)"), "peak 1\na peak 3\npeak 2.5e3\n"), "2.5e3");
  EXPECT_NE(value(found("^peak (\\S+)"), "cold\n").find("is not found in the output"), std::string::npos);
  EXPECT_NE(value(found("^peak (\\S+)"), "peak high\n").find("'high' is no number"), std::string::npos);
}

TEST_F(Numbers, ColumnsOfTables) {
  tree_.write("c.csv", "hour;heat\n1; 20\n2; 40.5\n\n");
  EXPECT_EQ(value(column("heat")), "40.5");
  EXPECT_EQ(value(column("heat", 0)), "20");
  EXPECT_EQ(value(column("heat", -2)), "20");
  EXPECT_NE(value(column("heat", 2)).find("has 2 rows"), std::string::npos);
  EXPECT_NE(value(column("cold")).find("no column 'cold'"), std::string::npos);
  tree_.write("c.csv", "# hour   heat\n1  0x1p4\n");
  EXPECT_EQ(value(column("heat")), "0x1p4");
  tree_.write("c.csv", "\"hour\",\"heat\"\n\"1\",\"7\"\n2\n");
  EXPECT_EQ(value(column("heat", 0)), "7");
  EXPECT_NE(value(column("heat", 1)).find("too short"), std::string::npos);
  tree_.write("c.csv", "");
  EXPECT_NE(value(column("heat")).find("is empty"), std::string::npos);
}

TEST_F(Numbers, KeysOfJson) {
  tree_.write("c.json", R"({"curve": [{"peak": 1222.25}, {"peak": "7"}], "x": {}})");
  model::AskedNumber asked;
  asked.name = "n";
  asked.file = "c.json";
  asked.key = "/curve/0/peak";
  EXPECT_EQ(value(asked), "1222.25");
  asked.key = "/curve/1/peak";
  EXPECT_EQ(value(asked), "7");
  asked.key = "/curve/2/peak";
  EXPECT_NE(value(asked).find("has no /curve/2/peak"), std::string::npos);
  asked.key = "/x";
  EXPECT_NE(value(asked).find("is no number"), std::string::npos);
  tree_.write("c.json", "{");
  EXPECT_NE(value(asked).find("is no JSON"), std::string::npos);
  asked.file = "none.json";
  EXPECT_NE(value(asked).find("is not there"), std::string::npos);
}

TEST(NumberValues, InTheFormsThatProgramsWrite) {
  EXPECT_EQ(value_of("1222.5"), 1222.5);
  EXPECT_EQ(value_of(" +7 "), 7.0);
  EXPECT_EQ(value_of("0x1.8p+1"), 3.0);
  EXPECT_EQ(value_of("-1.5D+02"), -150.0);
  EXPECT_TRUE(std::isinf(*value_of("Inf")));
  EXPECT_FALSE(value_of("7 degrees"));
  EXPECT_FALSE(value_of(""));
  EXPECT_FALSE(value_of("D"));
}

TEST(NumberAgreement, WithoutToleranceTheDigitsCount) {
  const model::AskedNumber exact;
  EXPECT_TRUE(agree(exact, "1.50", "1.50"));
  EXPECT_FALSE(agree(exact, "1.5", "1.50"));
  EXPECT_TRUE(agree(exact, "+1E5", "1e5"));
  EXPECT_FALSE(agree(exact, "0x1.0p0", "0x1.00000001p0"));
}

TEST(NumberAgreement, TolerancesAddUp) {
  model::AskedNumber asked;
  asked.absolute = 0.5;
  EXPECT_TRUE(agree(asked, "10.5", "10"));
  EXPECT_FALSE(agree(asked, "10.6", "10"));
  asked.relative = 0.1;
  EXPECT_TRUE(agree(asked, "11.4", "10"));
  EXPECT_FALSE(agree(asked, "11.6", "10"));
  EXPECT_FALSE(agree(asked, "nan", "10"));
  EXPECT_TRUE(agree(asked, "nan", "NaN"));
  EXPECT_FALSE(agree(asked, "inf", "1e308"));
}

class Reference : public Numbers {
 protected:
  std::string compared(const std::string& check = "firing") {
    model::AskedNumber asked;
    asked.name = "peak";
    std::vector<model::CheckNumber> numbers(1);
    numbers[0].name = "peak";
    numbers[0].text = "1222";
    const auto good = compare_with_reference(tree_.path("r.json"), check, {asked}, numbers);
    if (!good) return good.problem().what;
    return numbers[0].recorded + (numbers[0].agrees ? " agrees" : " differs");
  }
};

TEST_F(Reference, IsWrittenAndCompared) {
  EXPECT_EQ(compared(), "no numbers are recorded yet");
  std::vector<model::CheckNumber> numbers(1);
  numbers[0].name = "peak";
  numbers[0].text = "1222";
  ASSERT_TRUE(write_reference(tree_.path("r.json"), "firing", numbers).ok());
  EXPECT_EQ(compared(), "1222 agrees");
  numbers[0].text = "1223";
  ASSERT_TRUE(write_reference(tree_.path("r.json"), "firing", numbers).ok());
  EXPECT_EQ(compared(), "1223 differs");
  EXPECT_EQ(compared("cooling"), "the reference is of another check: 'firing'");
  EXPECT_FALSE(write_reference(tree_.path("r.json"), "cooling", numbers).ok()) << "one check does not take another's";
}

TEST_F(Reference, ThatIsBrokenIsTold) {
  for (const char* text : {"", "{", "[]", "{\"check\": \"firing\"}", "{\"check\": 1, \"numbers\": {}}",
                           "{\"check\": \"firing\", \"numbers\": {\"peak\": 7}}"}) {
    tree_.write("r.json", text);
    EXPECT_EQ(compared(), "the reference cannot be read: these are no recorded numbers") << text;
  }
  tree_.write("r.json", "{\"check\": \"firing\", \"numbers\": {}}");
  EXPECT_EQ(compared(), "the reference has no 'peak'");
}

}  // namespace
}  // namespace coctilis::smoke
