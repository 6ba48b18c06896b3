// When what the system tells of a file can stand for its content.
#include "base/file_stamp.h"

#include "support.h"

namespace coctilis {
namespace {

constexpr std::int64_t second = 1'000'000'000;

TEST(FileStampTest, OldFilesTellAndYoungOnesDoNot) {
  FileStamp stamp;
  stamp.modified = 100 * second + 7;
  stamp.changed = 101 * second + 9;
  EXPECT_FALSE(stamp.tells_since(101 * second + 9));  // a change now would bear the same times
  EXPECT_FALSE(stamp.tells_since(101 * second + 5'000'000));
  EXPECT_TRUE(stamp.tells_since(101 * second + 30'000'000));
  // One that lies in the future tells nothing, whichever of its times does.
  stamp.modified = 500 * second + 1;
  EXPECT_FALSE(stamp.tells_since(102 * second));
}

TEST(FileStampTest, WhereTimesAreWholeSecondsItTakesLonger) {
  FileStamp stamp;
  stamp.modified = 100 * second;
  stamp.changed = 102 * second;
  EXPECT_FALSE(stamp.tells_since(103 * second));
  EXPECT_TRUE(stamp.tells_since(105 * second));
}

TEST(FileStampTest, ItsTextTellsAllButTheDevice) {
  FileStamp stamp{1, 2, 3, 4, 5, 0100644};
  EXPECT_EQ(stamp.text(), "1 3 4 5 100644");
}

}  // namespace
}  // namespace coctilis
