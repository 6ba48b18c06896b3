// Unpacking: what is right, and what hostile archives try.
#include "base/archive.h"

#include <archive.h>
#include <archive_entry.h>

#include "support.h"

namespace coctilis::test {
namespace {

struct Entry {
  std::string name;
  std::string text;     // of a file
  std::string link;     // target of a symbolic link
  std::string same_as;  // target of a hard link
  bool folder = false;
  la_int64_t claimed = -1;
};

void make_archive(const std::string& path, const std::vector<Entry>& entries, bool zip = false) {
  archive* writer = archive_write_new();
  if (zip) {
    archive_write_set_format_zip(writer);
  } else {
    archive_write_set_format_pax_restricted(writer);
    archive_write_add_filter_gzip(writer);
  }
  ASSERT_EQ(archive_write_open_filename(writer, path.c_str()), ARCHIVE_OK);
  for (const auto& e : entries) {
    archive_entry* entry = archive_entry_new();
    archive_entry_set_pathname(entry, e.name.c_str());
    archive_entry_set_perm(entry, 06755);
    archive_entry_set_filetype(entry, e.folder ? AE_IFDIR : e.link.empty() ? AE_IFREG : AE_IFLNK);
    archive_entry_set_size(entry, e.claimed >= 0 ? e.claimed : static_cast<la_int64_t>(e.text.size()));
    if (!e.link.empty()) archive_entry_set_symlink(entry, e.link.c_str());
    if (!e.same_as.empty()) archive_entry_set_hardlink(entry, e.same_as.c_str());
    archive_write_header(writer, entry);
    if (e.claimed < 0) archive_write_data(writer, e.text.data(), e.text.size());
    archive_entry_free(entry);
  }
  archive_write_close(writer);
  archive_write_free(writer);
}

class Archives : public ::testing::Test {
 protected:
  Archives() { std::filesystem::create_directories(place.path("in")); }
  std::string at(const std::string& name) const { return place.path("in/" + name); }
  // What lies beside the archive, the archive left out.
  std::vector<std::string> beside(const std::string& archive) const {
    std::vector<std::string> out;
    for (const auto& entry : std::filesystem::directory_iterator(place.path("in"))) {
      if (entry.path().filename() != archive) out.push_back(entry.path().filename().string());
    }
    return out;
  }
  void refused(const std::vector<Entry>& entries, const std::string& what) {
    make_archive(at("bad.tar.gz"), entries);
    const auto result = files::unpack_beside(at("bad.tar.gz"));
    ASSERT_FALSE(result.ok());
    EXPECT_EQ(result.problem().exit, Exit::usage);
    EXPECT_NE(result.problem().what.find(what), std::string::npos) << result.problem().what;
    EXPECT_TRUE(beside("bad.tar.gz").empty());
  }
  TreeFolder place;
};

TEST_F(Archives, TheLoneFolderIsTaken) {
  make_archive(at("yard-1.tar.gz"), {{"yard/", "", "", "", true},
                                     {"yard/a.c", "int a;\n"},
                                     {"yard/b.c", "", "a.c"},
                                     {"yard/sub/c.c", "int c;\n"},
                                     {"yard/d.c", "", "", "yard/a.c"}});
  const auto result = files::unpack_beside(at("yard-1.tar.gz"));
  ASSERT_TRUE(result.ok()) << result.problem().what;
  EXPECT_TRUE(result->folder.ends_with("/in/yard"));
  EXPECT_FALSE(result->was_there);
  EXPECT_EQ(place.read("in/yard/b.c"), "int a;\n");
  EXPECT_EQ(place.read("in/yard/d.c"), "int a;\n");
  EXPECT_EQ(place.read("in/yard/sub/c.c"), "int c;\n");
  // No set-user-id bits, whatever the archive says.
  const auto mode = std::filesystem::status(at("yard/a.c")).permissions();
  EXPECT_EQ(mode & std::filesystem::perms::set_uid, std::filesystem::perms::none);
}

TEST_F(Archives, WithoutOneItIsNamedAfterTheArchive) {
  make_archive(at("yard-2.zip"), {{"a.c", "int a;\n"}, {"sub/b.c", "int b;\n"}}, true);
  const auto result = files::unpack_beside(at("yard-2.zip"));
  ASSERT_TRUE(result.ok()) << result.problem().what;
  EXPECT_TRUE(result->folder.ends_with("/in/yard-2"));
  EXPECT_EQ(place.read("in/yard-2/sub/b.c"), "int b;\n");
}

TEST_F(Archives, AgainTakesWhatIsThereAndNothingElse) {
  make_archive(at("yard.tar.gz"), {{"yard/a.c", "int a;\n"}});
  ASSERT_TRUE(files::unpack_beside(at("yard.tar.gz")).ok());
  const auto again = files::unpack_beside(at("yard.tar.gz"));
  ASSERT_TRUE(again.ok());
  EXPECT_TRUE(again->was_there);
  place.write("in/yard/a.c", "int changed;\n");
  const auto other = files::unpack_beside(at("yard.tar.gz"));
  ASSERT_FALSE(other.ok());
  EXPECT_EQ(place.read("in/yard/a.c"), "int changed;\n");
}

TEST_F(Archives, EntriesThatLeadOutsideAreRefused) {
  refused({{"yard/a", "x"}, {"../evil", "x"}}, "leads outside");
  refused({{"yard/a/../../../evil", "x"}}, "leads outside");
  refused({{"/tmp/evil", "x"}}, "leads outside");
  refused({{"yard/l", "", "/etc"}, {"yard/l/evil", "x"}}, "link that leads outside");
  refused({{"yard/l", "", "../.."}, {"yard/l/evil", "x"}}, "link that leads outside");
  refused({{"yard/h", "", "", "/etc/passwd"}}, "leads outside");
}

TEST_F(Archives, AWriteThroughALinkStaysInside) {
  make_archive(at("yard.tar.gz"), {{"yard/real/a", "x"}, {"yard/l", "", "real"}, {"yard/l/b", "y"}});
  const auto result = files::unpack_beside(at("yard.tar.gz"));
  // The link gives way to a folder of that name.
  ASSERT_TRUE(result.ok()) << result.problem().what;
  EXPECT_FALSE(files::is_file(at("yard/real/b")));
  EXPECT_FALSE(std::filesystem::is_symlink(at("yard/l")));
  EXPECT_EQ(files::read(at("yard/l/b")), "y");
}

TEST_F(Archives, ThoseThatNeverEndAreRefused) {
  make_archive(at("big.tar.gz"), {{"yard/zeros", std::string(100000, '\0')}});
  files::ArchiveLimits limits;
  limits.bytes = 5000;
  const auto big = files::unpack_beside(at("big.tar.gz"), limits);
  ASSERT_FALSE(big.ok());
  EXPECT_NE(big.problem().what.find("never end"), std::string::npos);
  make_archive(at("many.tar.gz"), {{"yard/a", ""}, {"yard/b", ""}, {"yard/c", ""}});
  limits.entries = 2;
  EXPECT_FALSE(files::unpack_beside(at("many.tar.gz"), limits).ok());
}

TEST_F(Archives, BrokenOnesLeaveNothing) {
  make_archive(at("yard.tar.gz"), {{"yard/a.c", std::string(100000, 'a')}, {"yard/b.c", "b"}});
  const std::string whole = files::read(at("yard.tar.gz")).value_or("");
  for (const auto& bytes : {whole.substr(0, whole.size() / 2), std::string("no archive"), std::string()}) {
    place.write("in/yard.tar.gz", bytes);
    EXPECT_FALSE(files::unpack_beside(at("yard.tar.gz")).ok());
    EXPECT_TRUE(beside("yard.tar.gz").empty());
  }
}

TEST(ArchiveNames, UsualEndings) {
  for (const char* name : {"a.tar", "a.tar.gz", "a.TGZ", "a.tar.xz", "a.zip", "a.tar.zst", "x/a-1.2.tar.bz2"})
    EXPECT_TRUE(files::is_archive_name(name)) << name;
  for (const char* name : {"a", "a.gz", "a.c", "zip"}) EXPECT_FALSE(files::is_archive_name(name)) << name;
}

}  // namespace
}  // namespace coctilis::test
