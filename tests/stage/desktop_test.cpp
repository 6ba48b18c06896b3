// Desktop entries: what a word looks like in them.
#include "stage/desktop.h"

#include <gtest/gtest.h>

namespace coctilis::stage {
namespace {

std::string exec_of(const std::string& program, std::vector<std::string> arguments) {
  model::DesktopEntry entry;
  entry.program = entry.title = "kiln";
  entry.arguments = std::move(arguments);
  const std::string text = desktop_entry_text(entry, "/opt/yard", program, "", "");
  const auto at = text.find("Exec=") + 5;
  return text.substr(at, text.find('\n', at) - at);
}

TEST(DesktopEntries, PlainWordsStayAsTheyAre) {
  EXPECT_EQ(exec_of("/opt/yard/bin/kiln", {"--cone", "6"}), "/opt/yard/bin/kiln --cone 6");
}
TEST(DesktopEntries, ReservedCharactersAreQuoted) {
  EXPECT_EQ(exec_of("/opt/my yard/kiln", {"", "a;b"}), "\"/opt/my yard/kiln\" \"\" \"a;b\"");
}
TEST(DesktopEntries, WhatAShellWouldReplaceIsEscapedTwice) {
  EXPECT_EQ(exec_of("kiln", {"$HOME", "a\\b", "`x`"}), "kiln \"\\\\$HOME\" \"a\\\\\\\\b\" \"\\\\`x\\\\`\"");
}
TEST(DesktopEntries, APercentSignIsNoCode) { EXPECT_EQ(exec_of("kiln", {"%u", "5%"}), "kiln %%u 5%%"); }
TEST(DesktopEntries, ThePrefixIsNamed) { EXPECT_EQ(exec_of("kiln", {"${prefix}/share/x"}), "kiln /opt/yard/share/x"); }

}  // namespace
}  // namespace coctilis::stage
