// The form of what a kiln keeps: only what is whole is taken.
#include "base/frame.h"

#include "support.h"

namespace coctilis {
namespace {

class FrameTest : public testing::Test {
 protected:
  FrameTest() {
    write_frame(path_, heading, key_, std::string("seen\0this", 9), "and kept that");
    content_ = files::read(path_).value_or("");
  }
  [[nodiscard]] Framed read(const std::string& content) {
    frame_ = {};
    return read_frame(content, heading, key_, frame_);
  }
  static constexpr const char* heading = "kiln 1\n";
  const std::string key_ = std::string(32, 'k');
  files::ScratchFolder scratch_{"frame"};
  const std::string path_ = scratch_.path().string() + "/frame";
  std::string content_;
  Frame frame_;
};

TEST_F(FrameTest, GivesBackWhatWasPutIn) {
  ASSERT_EQ(read(content_), Framed::whole);
  EXPECT_EQ(frame_.seen, std::string_view("seen\0this", 9));
  EXPECT_EQ(frame_.kept, "and kept that");
  EXPECT_TRUE(is_framed(path_, heading, key_));
}

TEST_F(FrameTest, OfAnotherKindOrForOthersItIsNotTaken) {
  EXPECT_EQ(read_frame(content_, "kiln 2\n", key_, frame_), Framed::other_form);
  EXPECT_EQ(read_frame(content_, heading, std::string(32, 'o'), frame_), Framed::other_key);
  EXPECT_FALSE(is_framed(path_, "kiln 2\n", key_));
  EXPECT_FALSE(is_framed(path_, heading, std::string(32, 'o')));
  EXPECT_FALSE(is_framed(path_ + ".none", heading, key_));
  EXPECT_EQ(read(""), Framed::other_form);
}

TEST_F(FrameTest, DamageAnywhereIsFound) {
  for (std::size_t at = std::string_view(heading).size() + key_.size(); at < content_.size(); ++at) {
    std::string damaged = content_;
    damaged[at] = static_cast<char>(damaged[at] ^ 1);
    EXPECT_EQ(read(damaged), Framed::damaged) << at;
    EXPECT_EQ(read(content_.substr(0, at)), Framed::damaged) << at;
  }
}

}  // namespace
}  // namespace coctilis
