// Headers that are made of templates, grammars, and what a tree says of its library.
#include "describe/sources/generated.h"

#include "base/text.h"
#include "describe/sources/hints.h"
#include "support.h"

namespace coctilis::describe::sources {
namespace {

class GeneratedTest : public testing::Test {
 protected:
  GeneratedTest() {
    ::setenv("COCTILIS_SYSTEM_ROOT", "/no/such/system", 1);  // no packages
    model::Compiler compiler;
    compiler.path = "/bin/cc";
    compiler.include_folders = {tree_.scratch() + "/include"};
    toolchain_.compilers["C++"] = compiler;
    files::write(tree_.scratch() + "/include/unistd.h", "");
    files::write(tree_.scratch() + "/include/sys/types.h", "");
    files::write(tree_.scratch() + "/include/zlib.h", "");  // a library's, not the C library's
  }
  std::string filled(const std::string& text) {
    locate::Locator locator(toolchain_, settings_);
    Outside outside(locator);
    const std::set<std::string> libc = {"strdup", "localeconv"};
    return HeaderValues(outside, libc, {{"__SIZEOF_LONG__", "8"}}, "kiln", "2.5.1", {}).filled(text);
  }
  Tree look() {
    return {tree_.path(), settings_, [](const std::string&) { return false; }};
  }
  // "input > outputs (compiled): words".
  std::vector<std::string> grammars(const std::set<std::string>& absent = {}) {
    std::vector<std::string> out;
    for (const auto& one : grammars_of(look(), absent))
      out.push_back(one.input + " > " + text::join(one.outputs, " ") + (one.compiled ? "" : " (included)") + ": " +
                    one.program + " " + text::join(command_words(one, "IN", one.outputs), " "));
    return out;
  }
  test::TreeFolder tree_;
  model::Toolchain toolchain_;
  model::Settings settings_;
};

TEST_F(GeneratedTest, PlacesAreFilledWithWhatTheSystemHas) {
  EXPECT_EQ(filled("#undef HAVE_UNISTD_H\n"), "#define HAVE_UNISTD_H 1\n");
  EXPECT_EQ(filled("#undef HAVE_SYS_TYPES_H\n"), "#define HAVE_SYS_TYPES_H 1\n");
  EXPECT_EQ(filled("#undef HAVE_ZLIB_H\n"), "/* #undef HAVE_ZLIB_H */\n");
  EXPECT_EQ(filled("#undef HAVE_STRDUP\n#undef HAVE_NO_SUCH\n"), "#define HAVE_STRDUP 1\n/* #undef HAVE_NO_SUCH */\n");
  EXPECT_EQ(filled("#undef HAVE_DECL_STRDUP\n#undef HAVE_DECL_NO_SUCH\n"),
            "#define HAVE_DECL_STRDUP 1\n#define HAVE_DECL_NO_SUCH 0\n");
  EXPECT_EQ(filled("#undef SIZEOF_LONG\n"), "#define SIZEOF_LONG 8\n");
  EXPECT_EQ(filled("#undef PACKAGE_VERSION\n"), "#define PACKAGE_VERSION \"2.5.1\"\n");
}
TEST_F(GeneratedTest, NamesInSignsAreReplaced) {
  EXPECT_EQ(filled("#define V \"@PACKAGE_VERSION@\"\n"), "#define V \"2.5.1\"\n");
  EXPECT_EQ(filled("#define M @KILN_VERSION_MAJOR@ ${KILN_VERSION_MINOR}\n"), "#define M 2 5\n");
  EXPECT_EQ(filled("#define KILN_INLINE @kiln_inline@\n"), "#define KILN_INLINE inline\n");
  EXPECT_EQ(filled("#define L @kiln_have_localeconv@ @kiln_have_magic@ @KILN_USE_STEAM@\n"), "#define L 1 0 0\n");
  EXPECT_EQ(filled("#cmakedefine HAVE_UNISTD_H\n#cmakedefine01 HAVE_MAGIC_H\n"),
            "#define HAVE_UNISTD_H\n#define HAVE_MAGIC_H 0\n");
  EXPECT_EQ(filled("no end of line"), "no end of line");
}
TEST_F(GeneratedTest, TemplatesHaveUsualNames) {
  const auto names = template_names("config.h");
  for (const char* name : {"config.h.in", "config.in.h", "config.hin", "config_h.in", "config.h.cmake"})
    EXPECT_NE(std::find(names.begin(), names.end(), name), names.end()) << name;
}
TEST_F(GeneratedTest, GrammarsAreNamedByWhatIsAskedFor) {
  tree_.write("src/parse.y", "%%\nall: ;\n");
  tree_.write("src/scan.l", "%%\n. ;\n");
  EXPECT_EQ(grammars(), (std::vector<std::string>{
                            "src/parse.y > parse.tab.c parse.tab.h: bison --defines=parse.tab.h -o parse.tab.c IN",
                            "src/scan.l > scan.lex.c: flex -o scan.lex.c IN"}));
  EXPECT_EQ(grammars({"y.tab.h", "lex.yy.c"}),
            (std::vector<std::string>{"src/parse.y > y.tab.c y.tab.h: bison -y --defines=y.tab.h -o y.tab.c IN",
                                      "src/scan.l > lex.yy.c (included): flex -o lex.yy.c IN"}));
}
TEST_F(GeneratedTest, WhatCameWithTheTreeIsNotMadeAgain) {
  tree_.write("parse.y", "%%\nall: ;\n");
  tree_.write("parse.c", "int x;\n");
  tree_.write("notes.l", "no grammar\n");
  EXPECT_EQ(grammars(), std::vector<std::string>{});
}

class HintsTest : public GeneratedTest {
 protected:
  std::string hint(const std::string& name) {
    const auto all = library_hints(look(), name);
    return all.empty() ? "none" : all.front().name + ": " + all.front().why;
  }
};
TEST_F(HintsTest, PcFilesSayTheName) {
  tree_.write("clay.pc.in", "Libs: -L${libdir} -lclay2\n");
  tree_.write("contrib/a.pc.in", "Libs: -lother\n");
  EXPECT_EQ(hint("kiln"), "clay2: clay.pc.in says -lclay2");
}
TEST_F(HintsTest, DocumentsSpeakOfLibrariesThatGoWithTheTree) {
  tree_.write("README", "Link with -lkl2. The library libkiln is libkl2.so; it needs libm.a and -lpthread.\n");
  EXPECT_EQ(hint("kl2tools"), "kl2: README speaks of libkl2");
  EXPECT_EQ(hint("oven"), "none");
  tree_.write("README", "libkiln libkiln: see libkiln\n");
  EXPECT_EQ(hint("kiln"), "kiln: README speaks of libkiln");
}
TEST_F(HintsTest, PublicHeadersAreThoseOfAFolderForThem) {
  tree_.write("src/a.c", "");
  tree_.write("src/a.h", "");
  tree_.write("src/a_private.h", "");
  tree_.write("src/config.h", "");
  EXPECT_EQ(public_headers(look(), {"src/a.c"}), std::vector<std::string>{"src/a.h"});
  tree_.write("include/kiln/a.h", "");
  EXPECT_EQ(public_headers(look(), {"src/a.c"}), std::vector<std::string>{"include/kiln/a.h"});
}

}  // namespace
}  // namespace coctilis::describe::sources
