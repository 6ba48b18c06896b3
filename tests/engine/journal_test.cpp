// What is remembered of steps survives crashes, damage and several writers; what is damaged is not believed.
#include "engine/journal.h"

#include <fcntl.h>
#include <unistd.h>

#include <cerrno>

#include "base/disk.h"
#include "support.h"

namespace coctilis::engine {
namespace {

class JournalTest : public testing::Test {
 protected:
  static StepRecord record(std::uint64_t command, std::uint64_t maker = 0) {
    StepRecord out;
    out.command = Hash{1, command};
    out.maker = maker;
    out.seconds = 0.5;
    return out;
  }
  static Content content(Journal& journal, const std::string& path, std::uint64_t hash) {
    return {journal.id(path), 0, Hash{3, hash}};
  }
  // How many of the first `count` bricks a journal at `path` knows.
  static std::size_t known(Journal& journal, int count) {
    std::size_t out = 0;
    for (int i = 0; i < count; ++i) out += journal.step(journal.id("/brick" + std::to_string(i)), 0) != nullptr ? 1 : 0;
    return out;
  }
  files::ScratchFolder scratch_{"journal"};
  const std::string path_ = (scratch_.path() / "journal").string();
};

TEST_F(JournalTest, KnowsEverythingTheNextTime) {
  {
    Journal journal(path_);
    StepRecord one = record(7, 5);
    one.inputs = {journal.content(content(journal, "/clay", 1)), journal.content(content(journal, "/sand", 2))};
    one.outputs = {journal.content(content(journal, "/brick", 3))};
    one.written = {journal.id("/chips")};
    one.searched = journal.list(std::vector{journal.content(content(journal, "/pit", 4))});
    one.any_name = one.watch = true;
    one.recorded = 99;
    journal.put_step(journal.id("/brick"), one);
    FileState state;
    state.stamp.size = 4;
    state.stamp.inode = 17;
    state.stamp.changed = 5;
    state.hash = Hash{8, 8};
    journal.put_file(journal.id("/clay"), state);
  }
  Journal journal(path_);
  EXPECT_EQ(journal.step(journal.id("/brick"), 0), nullptr);  // of another maker
  const auto* entry = journal.step(journal.id("/brick"), 5);
  ASSERT_NE(entry, nullptr);
  EXPECT_EQ(entry->command, (Hash{1, 7}));
  const StepRecord record = journal.record(*entry);
  ASSERT_EQ(record.inputs.size(), 2U);
  EXPECT_EQ(journal.path(journal.content(record.inputs[1]).path), "/sand");
  EXPECT_EQ(journal.content(record.inputs[1]).hash, (Hash{3, 2}));
  ASSERT_EQ(record.outputs.size(), 1U);
  ASSERT_EQ(record.written.size(), 1U);
  EXPECT_EQ(journal.path(record.written[0]), "/chips");
  EXPECT_EQ(journal.list(record.searched).size(), 1U);
  EXPECT_TRUE(record.any_name && record.watch);
  EXPECT_EQ(record.recorded, 99);
  ASSERT_NE(journal.file(journal.id("/clay")), nullptr);
  EXPECT_EQ(journal.file(journal.id("/clay"))->stamp.inode, 17U);
  EXPECT_EQ(journal.file(journal.id("/sand")), nullptr);
}

TEST_F(JournalTest, WhatWasBegunHasNoRecordUntilItIsPut) {
  {
    Journal journal(path_);
    const auto key = journal.id("/brick");
    journal.put_step(key, record(1));
    journal.flush();
    journal.begin_step(key, 0);
    EXPECT_EQ(journal.step(key, 0), nullptr);
    EXPECT_TRUE(journal.was_cut_off(key, 0));
    EXPECT_FALSE(journal.was_cut_off(key, 1));
  }
  {
    Journal journal(path_);
    const auto key = journal.id("/brick");
    EXPECT_EQ(journal.step(key, 0), nullptr);
    EXPECT_TRUE(journal.was_cut_off(key, 0));
    journal.put_step(key, record(1));
  }
  Journal journal(path_);
  EXPECT_NE(journal.step(journal.id("/brick"), 0), nullptr);
  EXPECT_FALSE(journal.was_cut_off(journal.id("/brick"), 0));
}

TEST_F(JournalTest, SurvivesATornEnd) {
  constexpr int count = 10;
  {
    Journal journal(path_);
    for (int i = 0; i < count; ++i) {
      StepRecord one = record(2);
      one.inputs = {journal.content(content(journal, "/clay" + std::to_string(i), 4))};
      journal.put_step(journal.id("/brick" + std::to_string(i)), one);
      journal.flush();
    }
    ASSERT_EQ(known(journal, count), 10U);
  }
  const std::string whole = *files::read(path_);
  for (std::size_t length = 0; length < whole.size(); ++length) {
    files::write(path_, whole.substr(0, length));
    {
      Journal journal(path_);
      EXPECT_LT(known(journal, count), 10U) << length;
      // What is kept of it is true.
      journal.each([&](const Journal::Entry& entry) { EXPECT_EQ(entry.command, (Hash{1, 2})); });
      journal.put_step(journal.id("/new"), record(7));
    }
    Journal again(path_);
    EXPECT_NE(again.step(again.id("/new"), 0), nullptr) << length;
    EXPECT_FALSE(again.was_damaged()) << length;
  }
}

TEST_F(JournalTest, FlippedBytesAreNoticed) {
  constexpr int count = 5;
  {
    Journal journal(path_);
    for (int i = 0; i < count; ++i) {
      journal.put_step(journal.id("/brick" + std::to_string(i)), record(static_cast<std::uint64_t>(i)));
      journal.flush();
    }
  }
  const std::string whole = *files::read(path_);
  for (std::size_t at = 0; at < whole.size(); ++at) {
    std::string bytes = whole;
    bytes[at] = static_cast<char>(bytes[at] ^ 0x21);
    files::write(path_, bytes);
    try {
      Journal journal(path_);
      EXPECT_TRUE(journal.was_damaged()) << at;
      EXPECT_LT(known(journal, count), 5U) << at;
      for (int i = 0; i < count; ++i) {
        const auto* entry = journal.step(journal.id("/brick" + std::to_string(i)), 0);
        if (entry == nullptr) continue;
        EXPECT_EQ(entry->command, (Hash{1, static_cast<std::uint64_t>(i)})) << at;
      }
    } catch (const Fault& fault) {
      // The damage may make its version another.
      EXPECT_NE(fault.problem().what.find("newer Coctilis"), std::string::npos) << at;
    }
  }
}

TEST_F(JournalTest, SeveralMayWriteItAtOnce) {
  Journal first(path_);
  Journal second(path_);
  for (int i = 0; i < 20; ++i) {
    Journal& journal = i % 2 == 0 ? first : second;
    StepRecord one = record(static_cast<std::uint64_t>(i));
    // The same paths have other numbers in each of the two.
    one.inputs = {journal.content(content(journal, "/clay" + std::to_string(19 - i), 4)),
                  journal.content(content(journal, "/clay" + std::to_string(i), 5))};
    one.searched = journal.list(std::vector{journal.content(content(journal, "/pit" + std::to_string(i / 3), 4))});
    journal.put_step(journal.id("/brick" + std::to_string(i)), one);
    journal.flush();
  }
  first.refresh();
  second.refresh();
  Journal third(path_);
  for (Journal* journal : {&first, &second, &third}) {
    for (int i = 0; i < 20; ++i) {
      const auto* entry = journal->step(journal->id("/brick" + std::to_string(i)), 0);
      ASSERT_NE(entry, nullptr) << i;
      EXPECT_EQ(entry->command.low, static_cast<std::uint64_t>(i));
      const auto inputs = journal->inputs(*entry);
      ASSERT_EQ(inputs.size(), 2U);
      EXPECT_EQ(journal->path(journal->content(*inputs.begin()).path), "/clay" + std::to_string(19 - i));
      EXPECT_EQ(journal->path(journal->content(*journal->list(entry->searched).begin()).path),
                "/pit" + std::to_string(i / 3));
    }
  }
}

TEST_F(JournalTest, GetsShorterWhenMostOfItIsOutOfDate) {
  {
    Journal journal(path_);
    const auto key = journal.id("/brick");
    for (int i = 0; i < 6000; ++i) {
      StepRecord one = record(static_cast<std::uint64_t>(i));
      one.inputs = {journal.content(content(journal, "/clay", static_cast<std::uint64_t>(i)))};
      journal.put_step(key, one);
      journal.flush();
    }
    journal.begin_step(journal.id("/tile"), 3);
  }
  const auto before = std::filesystem::file_size(path_);
  { const Journal as_it_is(path_); }
  EXPECT_EQ(std::filesystem::file_size(path_), before);
  {
    Journal tidied(path_, true);
    EXPECT_EQ(tidied.step(tidied.id("/brick"), 0)->command.low, 5999U);
  }
  EXPECT_LT(std::filesystem::file_size(path_), before / 100);
  Journal again(path_);
  ASSERT_NE(again.step(again.id("/brick"), 0), nullptr);
  EXPECT_EQ(again.step(again.id("/brick"), 0)->command.low, 5999U);
  EXPECT_EQ(again.content(*again.inputs(*again.step(again.id("/brick"), 0)).begin()).hash.low, 5999U);
  EXPECT_TRUE(again.was_cut_off(again.id("/tile"), 3));
}

TEST_F(JournalTest, OneOfANewerVersionIsLeftAlone) {
  files::write(path_, "coctilis journal 999999\nwhatever comes then");
  try {
    const Journal journal(path_);
    FAIL();
  } catch (const Fault& fault) {
    EXPECT_EQ(fault.problem().exit, Exit::kiln);
    EXPECT_NE(fault.problem().what.find("written by a newer Coctilis"), std::string::npos);
    EXPECT_FALSE(fault.problem().remedy.empty());
  }
  EXPECT_EQ(files::read(path_), "coctilis journal 999999\nwhatever comes then");
}

TEST_F(JournalTest, OneOfAnOlderVersionOrNoneCountsAsNone) {
  for (const char* text : {"coctilis journal 3\nabc", "no journal at all", "\x01\x02"}) {
    files::write(path_, text);
    Journal journal(path_);
    EXPECT_TRUE(journal.was_damaged());
    EXPECT_EQ(known(journal, 1), 0U);
  }
}

TEST_F(JournalTest, ALinkInItsPlaceIsNotFollowed) {
  const std::string other = (scratch_.path() / "other").string();
  files::write(other, "precious");
  std::filesystem::create_symlink(other, path_);
  EXPECT_THROW({ const Journal journal(path_); }, Fault);
  EXPECT_EQ(files::read(other), "precious");
}

// ---- disks that fail

class FailingDisk : public Disk {
 public:
  int fail_from = 1 << 30;  // the first call that fails
  int error = ENOSPC;
  bool half = false;  // what is written before it fails is half of it
  int calls = 0;
  ssize_t write(int fd, const void* bytes, std::size_t count) override {
    if (++calls < fail_from) return Disk::write(fd, bytes, count);
    if (half && calls == fail_from) return Disk::write(fd, bytes, (count + 1) / 2);
    errno = error;
    return -1;
  }
  int rename(const char* from, const char* to) override {
    if (++calls < fail_from) return Disk::rename(from, to);
    errno = error;
    return -1;
  }
};

TEST_F(JournalTest, AFullDiskIsToldAndLeavesWhatWasTrue) {
  for (const bool half : {false, true}) {
    for (int from = 1; from <= 8; ++from) {
      std::filesystem::remove(path_);
      FailingDisk failing;
      failing.fail_from = from;
      failing.half = half;
      int written = 0;
      {
        const DiskInPlace in_place(failing);
        Journal journal(path_);
        try {
          for (int i = 0; i < 5; ++i) {
            journal.begin_step(journal.id("/brick" + std::to_string(i)), 0);
            journal.flush();
            journal.put_step(journal.id("/brick" + std::to_string(i)), record(static_cast<std::uint64_t>(i)));
            journal.flush();
            written = i + 1;
          }
          FAIL() << from;
        } catch (const Fault& fault) {
          EXPECT_EQ(fault.problem().exit, Exit::kiln);
          EXPECT_EQ(fault.problem().remedy, remedy_for_full_disk);
        }
      }
      Journal journal(path_);
      EXPECT_FALSE(journal.was_damaged()) << from;
      for (int i = 0; i < 5; ++i)
        EXPECT_EQ(journal.step(journal.id("/brick" + std::to_string(i)), 0) != nullptr, i < written) << from << i;
      // There is room again.
      journal.put_step(journal.id("/tile"), record(9));
      journal.flush();
      Journal again(path_);
      EXPECT_NE(again.step(again.id("/tile"), 0), nullptr);
    }
  }
}

TEST_F(JournalTest, WritingGoesOnWhereItFailedOnce) {
  FailingDisk failing;
  const DiskInPlace in_place(failing);
  Journal journal(path_);
  StepRecord one = record(1);
  one.inputs = {journal.content(content(journal, "/clay", 1))};
  journal.put_step(journal.id("/brick"), one);
  failing.fail_from = failing.calls + 1;
  EXPECT_THROW(journal.flush(), Fault);
  failing.fail_from = 1 << 30;
  journal.put_step(journal.id("/brick"), one);
  journal.flush();
  Journal again(path_);
  const auto* entry = again.step(again.id("/brick"), 0);
  ASSERT_NE(entry, nullptr);
  EXPECT_EQ(again.path(again.content(*again.inputs(*entry).begin()).path), "/clay");
}

TEST_F(JournalTest, OneThatCannotBeMadeShorterStaysAsItIs) {
  {
    Journal journal(path_);
    for (int i = 0; i < 6000; ++i) journal.put_step(journal.id("/brick"), record(static_cast<std::uint64_t>(i)));
  }
  const std::string whole = *files::read(path_);
  for (int from = 1; from < 4; ++from) {
    FailingDisk failing;
    failing.fail_from = from;
    const DiskInPlace in_place(failing);
    Journal journal(path_, true);
    EXPECT_NE(journal.step(journal.id("/brick"), 0), nullptr);
    if (from >= 3) continue;
    EXPECT_EQ(files::read(path_), whole) << from;
  }
}

}  // namespace
}  // namespace coctilis::engine
