// Answers count only while what they depend on is as it was.
#include "base/answers.h"

#include "support.h"

namespace coctilis::test {
namespace {

TEST(Answers, AreKeptAndForgotten) {
  TreeFolder place;
  const std::string path = place.path("cache/answers");
  place.write("compiler", "one");
  place.write("folder/a", "");
  {
    Answers answers(path);
    EXPECT_FALSE(answers.get("which?").has_value());
    answers.put("which?", "this",
                {{place.path("compiler"), false}, {place.path("absent"), false}, {place.path("folder"), true}});
    EXPECT_EQ(answers.get("which?"), "this");
  }
  EXPECT_EQ(Answers(path).get("which?"), "this");
  EXPECT_FALSE(Answers(path).get("what?").has_value());
  place.write("absent", "there now");
  EXPECT_FALSE(Answers(path).get("which?").has_value());
  std::filesystem::remove(place.path("absent"));
  EXPECT_EQ(Answers(path).get("which?"), "this");
  place.write("folder/b", "");
  EXPECT_FALSE(Answers(path).get("which?").has_value());
}

TEST(Answers, AFileThatIsNoDatabaseIsNoError) {
  TreeFolder place;
  place.write("answers", "this is no database, and far too long to be taken for an empty one");
  Answers answers(place.path("answers"));
  answers.put("which?", "this", {});
  EXPECT_EQ(answers.get("which?"), "this");  // within the run
}

TEST(Answers, NamesThatCannotBeWrittenDownAreNotKept) {
  TreeFolder place;
  const std::string path = place.path("answers");
  {
    Answers answers(path);
    answers.put("which?", "this", {{"/odd\nname", false}});
  }
  EXPECT_FALSE(Answers(path).get("which?").has_value());
}

}  // namespace
}  // namespace coctilis::test
