// Reading XML: lines, limits, and what defines itself without end.
#include "base/xml.h"

#include "support.h"

namespace coctilis {
namespace {

class Xml : public testing::Test {
 protected:
  Problem problem(const std::string& text) {
    tree_.write("kiln.xml", text);
    try {
      load_xml(document_, tree_.path("kiln.xml"), "kiln.xml", "the manifest", "take it away");
    } catch (const Fault& fault) {
      return fault.problem();
    }
    return {};
  }
  test::TreeFolder tree_;
  pugi::xml_document document_;
};

TEST_F(Xml, NodesHaveTheirLine) {
  const std::string text = "<a>\n  <b/>\n\n  <c>x</c>\n</a>\n";
  EXPECT_EQ(problem(text).what, "");
  EXPECT_EQ(line_of(document_.child("a"), text), 1);
  EXPECT_EQ(line_of(document_.child("a").child("c"), text), 4);
  EXPECT_EQ(line_of(document_.child("a"), ""), 0);
}
TEST_F(Xml, MistakesHaveTheirs) {
  const auto broken = problem("<a>\n<b>\n</a>\n");
  EXPECT_EQ(broken.exit, Exit::description);
  EXPECT_EQ(broken.place.text(), "kiln.xml:3");
  EXPECT_EQ(broken.what.find("the manifest is broken"), 0U);
  EXPECT_EQ(broken.remedy, "mend it, or take it away");
}
TEST_F(Xml, WhatIsNotThereIsTold) {
  try {
    load_xml(document_, tree_.path("none.xml"), "none.xml", "the manifest", "take it away");
    FAIL();
  } catch (const Fault& fault) {
    EXPECT_EQ(fault.problem().place.text(), "none.xml");
    EXPECT_EQ(fault.problem().remedy, "take it away");
  }
}
TEST_F(Xml, EntitiesAreNotReplaced) {
  std::string text = "<!DOCTYPE a [<!ENTITY x0 \"clay\">";
  for (int i = 1; i < 30; ++i)
    text += "<!ENTITY x" + std::to_string(i) + " \"&x" + std::to_string(i - 1) + ";&x" + std::to_string(i - 1) + ";\">";
  EXPECT_EQ(problem(text + "]><a>&x29;</a>").what, "");
  EXPECT_LT(std::string(document_.child("a").text().get()).size(), 100U);
}

}  // namespace
}  // namespace coctilis
