// What is different from the run before.
#include "record/findings.h"

#include "support.h"

namespace coctilis::test {
namespace {

class ComparedFindings : public testing::Test {
 protected:
  static model::Finding finding(const std::string& name, bool found, const std::string& version = {},
                                const std::string& where = {}) {
    model::Finding out;
    out.requirement.kind = model::RequirementKind::library;
    out.requirement.name = name;
    out.found = found;
    out.version = version;
    out.where = where;
    return out;
  }
  // The changes in one line each, when these are found after what the kiln remembers.
  std::vector<std::string> after(const std::vector<model::Finding>& findings) {
    model::Run run;
    run.kiln = tree.kiln();
    run.findings = findings;
    record::compare_findings(run);
    compared = run.compared;
    std::vector<std::string> out;
    for (const auto& change : run.changes)
      out.push_back(change.what + " " + change.kind + " " + change.name + ": " + change.before + " -> " + change.after);
    return out;
  }
  TreeFolder tree;
  bool compared = false;
  using Lines = std::vector<std::string>;
};

TEST_F(ComparedFindings, TheFirstRunHasNothingToCompareWith) {
  EXPECT_EQ(after({finding("clay", true, "1.2", "/k/libclay.so")}), Lines{});
  EXPECT_FALSE(compared);
  EXPECT_EQ(after({finding("clay", true, "1.2", "/k/libclay.so")}), Lines{});
  EXPECT_TRUE(compared);
}

TEST_F(ComparedFindings, EveryKindOfChangeIsTold) {
  (void)after({finding("clay", true, "1.2", "/k/libclay.so"), finding("glaze", false), finding("kiln", true),
               finding("press", true, "", "/k/press")});
  EXPECT_EQ(after({finding("clay", true, "1.3", "/k/libclay.so"), finding("glaze", true, "7"), finding("kiln", false),
                   finding("fire", false)}),
            (Lines{"changed library clay: 1.2 at /k/libclay.so -> 1.3 at /k/libclay.so",
                   "found now library glaze: missing -> 7", "missing now library kiln: there -> missing",
                   "new library fire:  -> missing", "gone library press: /k/press -> "}));
}

TEST_F(ComparedFindings, AFileThatCannotBeReadCountsAsNone) {
  for (const char* text : {"", "{", "[]", "null", "7", "{\"layout\": 2, \"wants\": []}", "{\"layout\": \"x\"}",
                           "{\"layout\": 1}", "{\"layout\": 1, \"wants\": {}}", "\xff\xfe"}) {
    files::write(tree.kiln() + "/wants.json", text);
    EXPECT_EQ(after({finding("clay", true)}), Lines{}) << text;
    EXPECT_FALSE(compared) << text;
  }
}

TEST_F(ComparedFindings, EntriesThatAreWrongAreNone) {
  files::write(
      tree.kiln() + "/wants.json",
      "{\"layout\": 1, \"wants\": [7, null, {}, {\"kind\": 3, \"name\": [], \"found\": \"yes\", \"state\": {}},"
      "{\"kind\": \"library\", \"name\": \"clay\", \"found\": true, \"state\": \"there\"}]}");
  EXPECT_EQ(after({finding("clay", true)}), Lines{});
  EXPECT_TRUE(compared);
}

TEST_F(ComparedFindings, NamesThatAreNoTextAreKept) {
  (void)after({finding("cl\xff\x01y", true)});
  (void)after({finding("cl\xff\x01y", true)});
  EXPECT_TRUE(compared);
}

}  // namespace
}  // namespace coctilis::test
