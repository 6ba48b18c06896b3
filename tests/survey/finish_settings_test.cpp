// [[finish]], [[desktop]] and archives beside programs, as coctilis.toml has them.
#include "support.h"
#include "survey/settings.h"

namespace coctilis::survey {
namespace {

class FinishSettings : public testing::Test {
 protected:
  [[nodiscard]] Result<model::Settings> read(const std::string& text) const {
    tree_.write("coctilis.toml", text);
    return settings_of(tree_.path(), {}, {});
  }
  test::TreeFolder tree_;
};

TEST_F(FinishSettings, NamesAndPlacesFollowWhereNoneAreSaid) {
  const auto read_ = read(
      "[[finish]]\nstrip = \"bin/firecurve\"\n[[finish]]\nbind = [\"a\", \"b\"]\ninto = \"kiln\"\n"
      "[[finish]]\ncopy = \"data/\"\n[[finish]]\narchive = \"out/a.tar.xz\"\nfrom = \"kiln\"\n"
      "[[finish]]\nrun = [\"sort\"]\noutputs = \"x\"\n");
  ASSERT_TRUE(read_.ok()) << read_.problem().what;
  std::vector<std::string> names;
  std::vector<std::string> places;
  for (const auto& finish : read_->finishes) {
    names.push_back(finish.name);
    places.push_back(finish.to);
  }
  EXPECT_EQ(names,
            (std::vector<std::string>{"strip bin/firecurve", "bind kiln", "copy data/", "out/a.tar.xz", "make x"}));
  EXPECT_EQ(places, (std::vector<std::string>{"firecurve", "kiln", "", "out/a.tar.xz", ""}));
}

TEST_F(FinishSettings, ALaterFileReplacesOneOfTheSameName) {
  tree_.write("coctilis.local.toml", "[[finish]]\nname = \"pack\"\narchive = \"b.zip\"\nfrom = \"kiln\"\n");
  const auto read_ = read("[[finish]]\nname = \"pack\"\narchive = \"a.zip\"\nfrom = \"kiln\"\n");
  ASSERT_TRUE(read_.ok());
  ASSERT_EQ(read_->finishes.size(), 1U);
  EXPECT_EQ(read_->finishes.front().to, "b.zip");
}

struct WronglyFinished {
  const char* name;
  const char* text;
  int line;
  const char* says;
};
class WrongFinish : public FinishSettings, public testing::WithParamInterface<WronglyFinished> {};

TEST_P(WrongFinish, IsRefusedWithItsPlace) {
  const auto done = read(GetParam().text);
  ASSERT_FALSE(done.ok());
  EXPECT_EQ(done.problem().exit, Exit::usage);
  EXPECT_EQ(done.problem().place.line, GetParam().line);
  EXPECT_NE(done.problem().what.find(GetParam().says), std::string::npos) << done.problem().what;
  EXPECT_FALSE(done.problem().remedy.empty());
}

INSTANTIATE_TEST_SUITE_P(
    Texts, WrongFinish,
    testing::Values(
        WronglyFinished{"NoKind", "[[finish]]\nname = \"x\"\n", 1, "one of strip, bind, copy, archive and run"},
        WronglyFinished{"TwoKinds", "[[finish]]\nstrip = \"a\"\ncopy = \"b\"\n", 1, "one of strip"},
        WronglyFinished{"ForeignKey", "[[finish]]\nstrip = \"a\"\nfolder = \"b\"\n", 1,
                        "'folder' does not go with strip"},
        WronglyFinished{"UnknownKey", "[[finish]]\nstripe = \"a\"\n", 2, "unknown key 'stripe'"},
        WronglyFinished{"LeadsOut", "[[finish]]\nstrip = \"a\"\nto = \"../a\"\n", 3, "no path below"},
        WronglyFinished{"IsTheFolder", "[[finish]]\ncopy = \"a\"\nto = \".\"\n", 3, "no path below"},
        WronglyFinished{"Absolute", "[[finish]]\narchive = \"/a.zip\"\nfrom = \"a\"\n", 2, "no path below"},
        WronglyFinished{"NoArchive", "[[finish]]\narchive = \"a.txt\"\nfrom = \"a\"\n", 1,
                        "not the name of an archive"},
        WronglyFinished{"EmptyArchive", "[[finish]]\narchive = \"a.zip\"\n", 1, "an archive needs from"},
        WronglyFinished{"MakesNothing", "[[finish]]\nrun = [\"a\"]\n", 1, "makes nothing"},
        WronglyFinished{"NoProgram", "[[finish]]\nrun = []\noutputs = \"a\"\n", 1, "'run' names no program"},
        WronglyFinished{"IntoNothing", "[[finish]]\nbind = \"a\"\n", 1, "bind needs into"},
        WronglyFinished{"TwoInASection", "[[finish]]\nbind = [\"a\", \"b\"]\ninto = \"c\"\nsection = \".d\"\n", 1,
                        "one file"},
        WronglyFinished{"NoSection", "[[finish]]\nbind = \"a\"\ninto = \"c\"\nsection = \"a=b\"\n", 4,
                        "no name of a section"},
        WronglyFinished{"SameFileTwice", "[[finish]]\nstrip = \"a\"\ndebug = \"a\"\n", 1, "the same file"},
        WronglyFinished{"SameName", "[[finish]]\nstrip = \"a\"\n[[finish]]\nstrip = \"a\"\n", 3, "already"},
        WronglyFinished{"DesktopOfNothing", "[[desktop]]\ntitle = \"x\"\n", 1, "needs program"},
        WronglyFinished{"DesktopTwice", "[[desktop]]\nprogram = \"a\"\n[[desktop]]\nprogram = \"a\"\n", 3, "already"},
        WronglyFinished{"DesktopTitle", "[[desktop]]\nprogram = \"a\"\ntitle = \"a\\nExec=b\"\n", 3, "one line"},
        WronglyFinished{"DesktopIcon", "[[desktop]]\nprogram = \"a\"\nicon = \"a.gif\"\n", 3, "PNG or an SVG"},
        WronglyFinished{"DesktopCategory", "[[desktop]]\nprogram = \"a\"\ncategories = \"A;B\"\n", 3, "is no category"},
        WronglyFinished{"DesktopFolder", "[[desktop]]\nprogram = \"a\"\nfolder = \"../x\"\n", 3, "no path below"},
        WronglyFinished{"ArchiveAlone", "[[source]]\narchive = \"a.zip\"\n", 1, "archive and beside go together"},
        WronglyFinished{"ArchiveAndAddress",
                        "[[source]]\narchive = \"a.zip\"\nbeside = \"b\"\nurl = \"file:///a\"\nrevision = \"1\"\n", 1,
                        "an archive or an address"},
        WronglyFinished{"ArchiveLeadsOut", "[[source]]\narchive = \"a.zip\"\nbeside = \"b\"\nfolder = \"../x\"\n", 1,
                        "leads away from the program"}),
    [](const auto& one) { return one.param.name; });

}  // namespace
}  // namespace coctilis::survey
