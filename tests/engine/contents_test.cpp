// When times of files spare reading them, and when they do not.
#include "engine/contents.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include "support.h"

namespace coctilis::engine {
namespace {

class ContentsTest : public testing::Test {
 protected:
  void write(const std::string& name, const std::string& text) const { files::write(at(name), text); }
  [[nodiscard]] std::string at(const std::string& name) const { return scratch_.path().string() + "/" + name; }
  void date(const std::string& name, std::int64_t seconds) const {
    const struct timespec times[2] = {{seconds, 0}, {seconds, 0}};
    ASSERT_EQ(::utimensat(AT_FDCWD, at(name).c_str(), times, 0), 0);
  }
  // The content as a new run sees it.
  Content fresh(const std::string& name, Form form = Form::content) {
    Contents contents(journal_);
    return contents.take(journal_.id(at(name)), form);
  }
  // True when a new run takes the hash from the journal without reading the file.
  bool is_believed(const std::string& name) {
    const PathId id = journal_.id(at(name));
    FileState state = *journal_.file(id);
    const Hash real = state.hash;
    state.hash = Hash{42, 42};
    journal_.put_file(id, state);
    const bool believed = fresh(name).hash == Hash{42, 42};
    state.hash = real;
    if (believed) journal_.put_file(id, state);
    return believed;
  }
  files::ScratchFolder scratch_{"contents"};
  Journal journal_{(scratch_.path() / "journal").string()};
};

TEST_F(ContentsTest, AYoungFileIsReadAgain) {
  write("clay", "red");
  fresh("clay");
  EXPECT_FALSE(is_believed("clay"));
  ::usleep(60000);
  fresh("clay");
  EXPECT_TRUE(is_believed("clay"));
}

TEST_F(ContentsTest, WhateverItsDateSaysAChangeIsSeen) {
  write("clay", "red");
  date("clay", 1'600'000'000);
  ::usleep(60000);
  const auto before = fresh("clay");
  EXPECT_TRUE(is_believed("clay"));
  write("clay", "tan");
  date("clay", 1'600'000'000);
  EXPECT_NE(fresh("clay").hash, before.hash);
}

TEST_F(ContentsTest, AFileInTheFutureIsReadEachTime) {
  write("clay", "red");
  date("clay", 4'000'000'000);
  ::usleep(60000);
  fresh("clay");
  EXPECT_FALSE(is_believed("clay"));
}

TEST_F(ContentsTest, FormsTellWhatCounts) {
  write("clay", "red");
  Contents contents(journal_);
  const PathId id = journal_.id(at("clay"));
  const auto content = contents.take(id, Form::content);
  const auto program = contents.take(id, Form::program);
  const auto output = contents.take(id, Form::output);
  const auto presence = contents.take(id, Form::presence);
  ::chmod(at("clay").c_str(), 0755);
  contents.forget(id);
  EXPECT_TRUE(contents.is(content));
  EXPECT_FALSE(contents.is(program));
  EXPECT_FALSE(contents.is(output));
  EXPECT_TRUE(contents.is(presence));
  write("clay", "tan");
  contents.forget(id);
  EXPECT_FALSE(contents.is(content));
  EXPECT_TRUE(contents.is(presence));
  std::filesystem::remove(at("clay"));
  contents.forget(id);
  for (const auto& one : {content, program, output, presence}) EXPECT_FALSE(contents.is(one));
  EXPECT_TRUE(contents.is({id, 0, {}}));
}

TEST_F(ContentsTest, AResultThatIsALinkIsNotTheFileItLeadsTo) {
  write("libclay.so.2", "library");
  std::filesystem::create_symlink("libclay.so.2", at("libclay.so"));
  const auto link = fresh("libclay.so", Form::output);
  std::filesystem::remove(at("libclay.so"));
  write("libclay.so", "library");
  EXPECT_NE(fresh("libclay.so", Form::output).hash, link.hash);
  EXPECT_EQ(fresh("libclay.so").hash, fresh("libclay.so.2").hash);
  std::filesystem::remove(at("libclay.so"));
  std::filesystem::create_symlink("nowhere", at("libclay.so"));
  EXPECT_NE(fresh("libclay.so", Form::output).hash, link.hash);
  EXPECT_FALSE(fresh("libclay.so", Form::output).hash.empty());
}

TEST_F(ContentsTest, NamesOfAFolder) {
  files::make_folder(at("pit"));
  const auto empty = fresh("pit", Form::names);
  write("pit/clay", "red");
  const auto one = fresh("pit", Form::names);
  EXPECT_NE(one.hash, empty.hash);
  write("pit/clay", "tan");
  EXPECT_EQ(fresh("pit", Form::names).hash, one.hash);
  EXPECT_TRUE(fresh("nowhere", Form::names).hash.empty());
}

TEST_F(ContentsTest, WhatIsChangedWhileItIsReadIsUnknown) {
  write("known", "red");
  write("new", "red");
  ::usleep(60000);
  Contents contents(journal_);
  const PathId known = journal_.id(at("known"));
  const PathId other = journal_.id(at("new"));
  static_cast<void>(contents.now(known));
  const Moment began = Moment::now();
  EXPECT_NE(contents.take_as_of(known, Form::content, began).hash, unknown_hash);
  ::usleep(20000);
  write("new", "tan");
  date("new", 1'600'000'000);
  EXPECT_EQ(contents.take_as_of(other, Form::content, began).hash, unknown_hash);
  EXPECT_FALSE(contents.is({other, 0, unknown_hash}));
}

TEST_F(ContentsTest, WhatCannotBeReadIsNeitherThereNorGone) {
  ASSERT_TRUE(test::obey_modes());
  write("clay", "red");
  ::chmod(at("clay").c_str(), 0);
  Contents contents(journal_);
  EXPECT_EQ(contents.now(journal_.id(at("clay"))).state, Contents::Now::State::unreadable);
  EXPECT_EQ(fresh("clay").hash, unknown_hash);
}

}  // namespace
}  // namespace coctilis::engine
