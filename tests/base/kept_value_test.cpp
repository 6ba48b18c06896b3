// What is kept from run to run, and what processes tell each other: taken back as it was, or not at all.
#include "base/kept_value.h"

#include "base/notes.h"
#include "support.h"

namespace coctilis {
namespace {

struct Firing {
  std::string kiln;
  int peak = 0;
  bool glazed = false;
  std::vector<std::string> clays;
  std::map<std::string, std::optional<std::string>> notes;
};
struct LongerFiring {
  std::string kiln;
  int peak = 0;
  bool glazed = false;
  std::vector<std::string> clays;
  std::map<std::string, std::optional<std::string>> notes;
  int soak = 0;
};
struct Yard {
  std::vector<Firing> firings;
};
struct LongerYard {
  std::vector<LongerFiring> firings;
};

Firing firing() { return {"north", 1180, true, {"loam", "kaolin"}, {{"door", "shut"}, {"draught", std::nullopt}}}; }

class KeptValue : public testing::Test {
 protected:
  [[nodiscard]] std::string path() const { return tree_.path("state"); }
  test::TreeFolder tree_;
};

TEST_F(KeptValue, IsTakenBackAsItWas) {
  keep_value(path(), firing());
  const auto back = kept_value<Firing>(path());
  ASSERT_TRUE(back);
  EXPECT_EQ(back->kiln, "north");
  EXPECT_EQ(back->peak, 1180);
  EXPECT_TRUE(back->glazed);
  EXPECT_EQ(back->clays, firing().clays);
  EXPECT_EQ(back->notes, firing().notes);
  EXPECT_FALSE(kept_value<Firing>(tree_.path("nowhere")));
}

TEST_F(KeptValue, OfAnotherLayoutIsNotTaken) {
  keep_value(path(), firing());
  EXPECT_FALSE(kept_value<LongerFiring>(path()));
  EXPECT_FALSE(kept_value<Yard>(path()));
  // Also where the difference is further down.
  keep_value(path(), Yard{{firing()}});
  EXPECT_TRUE(kept_value<Yard>(path()));
  EXPECT_FALSE(kept_value<LongerYard>(path()));
}

TEST_F(KeptValue, DamagedAnywhereIsNotTaken) {
  keep_value(path(), firing());
  const std::string whole = files::read(path()).value();
  for (std::size_t at = 0; at < whole.size(); ++at) {
    std::string bytes = whole;
    bytes[at] = static_cast<char>(bytes[at] ^ 0x55);
    files::write(path(), bytes);
    EXPECT_FALSE(kept_value<Firing>(path())) << at;
    files::write(path(), whole.substr(0, at));
    EXPECT_FALSE(kept_value<Firing>(path())) << at;
  }
}

// Whoever writes a file of ours by hand gets the hashes right as well.
TEST_F(KeptValue, ForgedLengthsTakeNoMemory) {
  const std::string bytes = packed(firing());
  for (std::size_t at = 0; at + 8 <= bytes.size(); ++at) {
    std::string forged = bytes;
    for (std::size_t k = 0; k < 8; ++k) forged[at + k] = '\x7f';
    Firing out;
    try {
      unpack(forged, out);
    } catch (const std::exception&) {
      continue;
    }
    EXPECT_LT(out.clays.size(), bytes.size());
  }
}

TEST_F(KeptValue, NotesOfSeveralAddUp) {
  append_value(path(), firing());
  append_value(path(), Firing{"south"});
  std::vector<std::string> kilns;
  const auto take = [&](const Firing& one) {
    kilns.push_back(one.kiln);
    return true;
  };
  EXPECT_TRUE(each_value<Firing>(files::read(path()).value(), take));
  EXPECT_EQ(kilns, (std::vector<std::string>{"north", "south"}));
  // What somebody else writes behind them is none; neither is half a one.
  const std::string whole = files::read(path()).value();
  kilns.clear();
  EXPECT_FALSE(each_value<Firing>(whole + "rm -rf\n", take));
  EXPECT_EQ(kilns.size(), 2U);
  kilns.clear();
  EXPECT_FALSE(each_value<Firing>(whole.substr(0, whole.size() - 1), take));
  EXPECT_EQ(kilns.size(), 1U);
  EXPECT_FALSE(each_value<LongerFiring>(whole, [](const LongerFiring&) { return true; }));
}

}  // namespace
}  // namespace coctilis
