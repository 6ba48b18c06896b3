// What [language.NAME] says.
#include "survey/language_settings.h"

#include "support.h"
#include "survey/settings.h"

namespace coctilis::survey {
namespace {

class LanguageSettings : public ::testing::Test {
 protected:
  model::Settings read(const std::string& text) {
    tree.write("coctilis.toml", text);
    const auto settings = settings_of(tree.path(), {}, {});
    EXPECT_TRUE(settings.ok()) << settings.problem().what;
    return settings.ok() ? *settings : model::Settings{};
  }
  test::TreeFolder tree;
  static constexpr const char* complete =
      "[language.Glaze]\nendings = \".glaze\"\nincluded = [\".inc\"]\ncompiler = [\"glazec\", \"gc\"]\n"
      "command = [\"-o\", \"${output}\", \"-I${include}\", \"${source}\"]\nreads = \"${output}.d\"\n";
};

TEST_F(LanguageSettings, AreRead) {
  const auto settings = read(std::string(complete) + "link = [[\"ld\", \"${objects}\"], [\"strip\", \"${output}\"]]\n");
  ASSERT_EQ(settings.languages.size(), 1U);
  const auto& one = settings.languages.front();
  EXPECT_EQ(one.name, "Glaze");
  EXPECT_EQ(one.endings, std::vector<std::string>{".glaze"});
  EXPECT_EQ(one.compiler, (std::vector<std::string>{"glazec", "gc"}));
  EXPECT_EQ(one.makes, model::ToldLanguage::Makes::object);
  EXPECT_EQ(one.link.size(), 2U);
  EXPECT_EQ(one.reads, "${output}.d");
  EXPECT_EQ(one.place.line, 1);
  EXPECT_EQ(settings.told_language_of("a/b.glaze"), &one);
  EXPECT_EQ(settings.told_language_of(".glaze"), nullptr) << "a name that is nothing but the ending";
  EXPECT_EQ(settings.told_language_of("b.inc"), nullptr);
}

TEST_F(LanguageSettings, ThoseOfOneUserComeBeforeThoseOfTheTree) {
  tree.write("coctilis.local.toml",
             "[language.Glaze]\nendings = [\".gl\"]\ncompiler = \"mine\"\ncommand = [\"${source}\"]\n");
  const auto settings = read(complete);
  ASSERT_EQ(settings.languages.size(), 1U);
  EXPECT_EQ(settings.languages.front().compiler, std::vector<std::string>{"mine"});
}

TEST_F(LanguageSettings, EveryPlaceIsKnown) {
  std::string words;
  for (const auto* places : {&single_places(), &listed_places()}) {
    for (const auto& place : *places) words += "\"${" + place + "}\", ";
  }
  const auto settings =
      read("[language.Glaze]\nendings = [\".g\"]\ncompiler = \"g\"\ncommand = [" + words + "\"x\"]\n");
  ASSERT_EQ(settings.languages.size(), 1U);
  EXPECT_EQ(settings.languages.front().command.size(), single_places().size() + listed_places().size() + 1);
}

}  // namespace
}  // namespace coctilis::survey
