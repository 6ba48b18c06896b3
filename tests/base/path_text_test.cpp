// Operations on the text of paths, and digests by name.
#include "base/path_text.h"

#include <gtest/gtest.h>

#include "base/digest.h"

namespace coctilis {
namespace {

struct Parts {
  const char* path;
  const char* filename;
  const char* extension;  // the longest
  const char* stem;
  const char* last_extension;
  const char* last_stem;
  const char* parent;
};
class PathParts : public testing::TestWithParam<Parts> {};

TEST_P(PathParts, AreThese) {
  const auto& p = GetParam();
  const auto part = [&](const char* name, bool last_only) { return paths::part_of(p.path, name, last_only).value(); };
  EXPECT_EQ(part("FILENAME", false), p.filename);
  EXPECT_EQ(part("EXTENSION", false), p.extension);
  EXPECT_EQ(part("STEM", false), p.stem);
  EXPECT_EQ(part("EXTENSION", true), p.last_extension);
  EXPECT_EQ(part("STEM", true), p.last_stem);
  EXPECT_EQ(part("PARENT_PATH", false), p.parent);
  EXPECT_EQ(paths::is_so(p.path, "HAS_FILENAME").value(), *p.filename != '\0');
  EXPECT_EQ(paths::is_so(p.path, "HAS_EXTENSION").value(), *p.extension != '\0');
  EXPECT_EQ(paths::is_so(p.path, "IS_ABSOLUTE").value(), !paths::is_so(p.path, "IS_RELATIVE").value());
}

INSTANTIATE_TEST_SUITE_P(
    All, PathParts,
    testing::Values(Parts{"/a/b/clay.tar.gz", "clay.tar.gz", ".tar.gz", "clay", ".gz", "clay.tar", "/a/b"},
                    Parts{"clay", "clay", "", "clay", "", "clay", ""},
                    Parts{"a/.clay", ".clay", "", ".clay", "", ".clay", "a"},
                    Parts{".clay.x", ".clay.x", ".x", ".clay", ".x", ".clay", ""},
                    Parts{"a/b/", "", "", "", "", "", "a/b"}, Parts{"..", "..", "", "..", "", "..", ""},
                    Parts{"/", "", "", "", "", "", "/"}, Parts{"clay.", "clay.", ".", "clay", ".", "clay", ""}));

TEST(PathText, RootsAndWhatIsBelow) {
  EXPECT_EQ(paths::part_of("/a/b", "ROOT_DIRECTORY", false), "/");
  EXPECT_EQ(paths::part_of("/a/b", "ROOT_PATH", false), "/");
  EXPECT_EQ(paths::part_of("/a/b", "RELATIVE_PART", false), "a/b");
  EXPECT_EQ(paths::part_of("a/b", "ROOT_PATH", false), "");
  EXPECT_EQ(paths::part_of("/a/b", "ROOT_NAME", false), "");
  EXPECT_FALSE(paths::part_of("/a/b", "KILN", false));
  EXPECT_FALSE(paths::is_so("/a/b", "HAS_KILN"));
  EXPECT_FALSE(paths::is_so("/a/b", "IS_HOT"));
}

struct Change {
  const char* path;
  const char* operation;
  std::vector<std::string> words;
  bool last_only;
  const char* result;
};
class PathChanges : public testing::TestWithParam<Change> {};

TEST_P(PathChanges, GiveThis) {
  const auto& c = GetParam();
  EXPECT_EQ(paths::changed(c.path, c.operation, c.words, c.last_only, "/yard/src"), c.result) << c.operation << c.path;
}

INSTANTIATE_TEST_SUITE_P(All, PathChanges,
                         testing::Values(Change{"a/./b/../c", "NORMAL_PATH", {}, false, "a/c"},
                                         Change{"a//b/", "NORMAL_PATH", {}, false, "a/b/"},
                                         Change{"a", "APPEND", {"b", "c"}, false, "a/b/c"},
                                         Change{"a/", "APPEND", {"b"}, false, "a/b"},
                                         Change{"a", "APPEND", {"/b"}, false, "/b"},
                                         Change{"a", "APPEND_STRING", {".b", "c"}, false, "a.bc"},
                                         Change{"a/b.c", "REMOVE_FILENAME", {}, false, "a/"},
                                         Change{"a/b.c", "REPLACE_FILENAME", {"d"}, false, "a/d"},
                                         Change{"a/", "REPLACE_FILENAME", {"d"}, false, "a/"},
                                         Change{"a/b.c.d", "REMOVE_EXTENSION", {}, false, "a/b"},
                                         Change{"a/b.c.d", "REMOVE_EXTENSION", {}, true, "a/b.c"},
                                         Change{"a/b.c.d", "REPLACE_EXTENSION", {"x"}, false, "a/b.x"},
                                         Change{"a/b.c.d", "REPLACE_EXTENSION", {".x"}, true, "a/b.c.x"},
                                         Change{"a/b.c", "REPLACE_EXTENSION", {""}, false, "a/b"},
                                         Change{"/yard/inc/a.h", "RELATIVE_PATH", {}, false, "../inc/a.h"},
                                         Change{"/yard/inc/a.h", "RELATIVE_PATH", {"/yard"}, false, "inc/a.h"},
                                         Change{"a.c", "ABSOLUTE_PATH", {}, false, "/yard/src/a.c"},
                                         Change{"/a.c", "ABSOLUTE_PATH", {"/b"}, false, "/a.c"}));

TEST(PathText, WordsThatAreMissingOrUnknown) {
  for (const char* operation : {"REPLACE_FILENAME", "REPLACE_EXTENSION"})
    EXPECT_FALSE(paths::changed("a", operation, {}, false, "/")) << operation;
  EXPECT_FALSE(paths::changed("a", "BAKE", {"b"}, false, "/"));
}

TEST(PathText, BelowAndTheSame) {
  EXPECT_TRUE(paths::is_prefix("/a/b", "/a/b/c", false));
  EXPECT_TRUE(paths::is_prefix("/a/b/", "/a/b/c", false));
  EXPECT_TRUE(paths::is_prefix("/a/b", "/a/b", false));
  EXPECT_FALSE(paths::is_prefix("/a/b", "/a/bc", false));
  EXPECT_FALSE(paths::is_prefix("/a/b/../c", "/a/c/d", false));
  EXPECT_TRUE(paths::is_prefix("/a/b/../c", "/a/c/d", true));
  EXPECT_TRUE(paths::are_equal("/a//b", "/a/b"));
  EXPECT_FALSE(paths::are_equal("/a/b", "/a/b/"));
}

TEST(Digest, ByTheirStandards) {
  const std::map<std::string, std::string> of_abc = {
      {"MD5", "900150983cd24fb0d6963f7d28e17f72"},
      {"SHA1", "a9993e364706816aba3e25717850c26c9cd0d89d"},
      {"SHA224", "23097d223405d8228642a477bda255b32aadbce4bda0b3f7e36c9da7"},
      {"SHA256", "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"},
      {"SHA3_256", "3a985da74fe225b2045c172d6bd390bd855f086e3e9d525b46bfe24511431532"}};
  for (const auto& [name, hex] : of_abc) EXPECT_EQ(digest(name, "abc"), hex) << name;
  EXPECT_EQ(digest("MD5", ""), "d41d8cd98f00b204e9800998ecf8427e");
  for (const char* name : {"", "md5", "CRC32", "SHA2"}) EXPECT_FALSE(digest(name, "abc")) << name;
}

TEST(Digest, NamesInASpace) {
  // RFC 4122, appendix C: the name space of domain names.
  const std::string space = "6ba7b810-9dad-11d1-80b4-00c04fd430c8";
  EXPECT_EQ(name_uuid("MD5", space, "www.widgets.com"), "3d813cbb-47fb-32ba-91df-831e1593ac29");
  EXPECT_EQ(name_uuid("SHA1", space, "www.widgets.com"), "21f7f8de-8051-5b89-8680-0195ef798b6a");
  for (const char* wrong : {"", "clay", "6ba7b810-9dad-11d1-80b4", "6ba7b810-9dad-11d1-80b4-00c04fd430cx"})
    EXPECT_FALSE(name_uuid("MD5", wrong, "clay")) << wrong;
}

}  // namespace
}  // namespace coctilis
