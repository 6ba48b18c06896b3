// What a journal knows of files, for who asks without building.
#include "engine/known_files.h"

#include "engine/journal.h"
#include "support.h"

namespace coctilis::engine {
namespace {

class KnownFilesTest : public testing::Test {
 protected:
  // A step that has made a file from another, and written a third besides.
  void put(const std::string& from, const std::string& made, const std::string& besides) const {
    Journal journal(path_);
    StepRecord record;
    record.command = Hash{1, 2};
    const auto content = [&](const std::string& path) {
      return journal.content(Content{journal.id(path), 0, Hash{3, 4}});
    };
    record.inputs = {content(from)};
    record.outputs = {content(made)};
    record.written = {journal.id(besides)};
    journal.put_step(journal.id(made), record);
    journal.flush();
  }
  files::ScratchFolder scratch_{"known"};
  const std::string path_ = scratch_.path().string() + "/journal";
};

TEST_F(KnownFilesTest, TellsWhatStepsMadeAndRead) {
  put("/clay", "/brick", "/chips");
  KnownFiles known(path_);
  EXPECT_TRUE(known.is_made("/brick"));
  EXPECT_TRUE(known.is_made("/chips"));
  EXPECT_FALSE(known.is_made("/clay"));
  EXPECT_TRUE(known.is_read("/clay"));
  EXPECT_FALSE(known.is_read("/brick"));
}

TEST_F(KnownFilesTest, SeesWhatComesLater) {
  KnownFiles known(path_);
  EXPECT_FALSE(known.is_made("/brick"));
  EXPECT_FALSE(files::exists(path_));  // who only asks makes none
  put("/clay", "/brick", "/chips");
  EXPECT_TRUE(known.is_made("/brick"));
  put("/sand", "/tile", "/dust");
  EXPECT_TRUE(known.is_made("/tile"));
  EXPECT_TRUE(known.is_read("/sand"));
  std::filesystem::remove(path_);
  EXPECT_FALSE(known.is_made("/tile"));
}

TEST_F(KnownFilesTest, KnowsNothingByWhatIsNoJournal) {
  files::make_folder(path_);
  EXPECT_FALSE(KnownFiles(path_).is_made("/brick"));
}

}  // namespace
}  // namespace coctilis::engine
