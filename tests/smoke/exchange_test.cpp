// Questions to services: as words of a call, and the replies.
#include "smoke/exchange.h"

#include "support.h"

namespace coctilis::smoke {
namespace {

Ended said(const std::string& output) {
  Ended out;
  out.how = Ended::How::exited;
  out.output = output;
  return out;
}

TEST(Exchange, NobodyListens) {
  Question question;
  question.host = "127.0.0.1";
  question.port = 1;
  question.within = 2;
  EXPECT_EQ(ask(question).error, "connection refused: nobody listens there");
  question.url = "http://127.0.0.1:1/";
  EXPECT_EQ(ask(question).error, "connection refused: nobody listens there");
}

TEST(Exchange, WordsOfACallAreTheQuestion) {
  Question question;
  question.host = "127.0.0.1";
  question.port = 1;
  question.send = std::string("\xff\x00\n", 3);
  question.within = 0.5;
  auto words = words_of(question);
  ASSERT_EQ(words.size(), 2U);
  EXPECT_EQ(words.front(), "ask-service");
  const auto reply = reply_to_words({words[1]});
  ASSERT_TRUE(reply);
  EXPECT_EQ(reply_in(said(*reply)).error, "connection refused: nobody listens there");
}

TEST(Exchange, OtherWordsAreNone) {
  EXPECT_FALSE(reply_to_words({}));
  EXPECT_FALSE(reply_to_words({"{"}));
  EXPECT_FALSE(reply_to_words({"{}"}));
  EXPECT_FALSE(reply_to_words({"[]"}));
}

TEST(Exchange, AReplyThatIsNoneSaysWhy) {
  EXPECT_NE(reply_in(said("it broke\n")).error.find("it broke"), std::string::npos);
  EXPECT_NE(reply_in(said("{\"error\": 1}")).error, "");
}

}  // namespace
}  // namespace coctilis::smoke
