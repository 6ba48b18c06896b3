// What targets of sources come to, and how they are written down.
#include "describe/sources/units.h"

#include "base/text.h"
#include "support.h"
#include "survey/settings.h"

namespace coctilis::describe::sources {
namespace {

using model::SourceTarget;

class UnitsTest : public testing::Test {
 protected:
  UnitsTest() {
    for (const char* file : {"main.c", "fire.cpp", "clay.c", "include/clay.h", "parse.y"}) tree_.write(file, "x\n");
    place_.tree = tree_.path();
    place_.work = "/work";
  }
  SourceTarget target(const std::string& name, SourceTarget::Kind kind, const std::vector<std::string>& sources) {
    SourceTarget out;
    out.name = name;
    out.kind = kind;
    out.place = {"coctilis.toml", 3, 1};
    out.parts.push_back({sources, {}, {}, {}, {}});
    return out;
  }
  model::Build build(const std::vector<SourceTarget>& targets) { return facts_of(targets, place_)->build_with({}); }
  std::string problem(const std::vector<SourceTarget>& targets) {
    try {
      static_cast<void>(build(targets));
      return "";
    } catch (const Fault& fault) {
      EXPECT_EQ(fault.problem().exit, Exit::usage);
      EXPECT_EQ(fault.problem().place.text(), "coctilis.toml:3:1");
      EXPECT_FALSE(fault.problem().remedy.empty());
      return fault.problem().what;
    }
  }
  const model::Unit& unit(const model::Build& build, const std::string& name) {
    for (const auto& one : build.units) {
      if (one.name == name) return one;
    }
    throw std::runtime_error("no unit " + name);
  }
  test::TreeFolder tree_;
  Workplace place_;
};

TEST_F(UnitsTest, AProgramLinksWhatItUses) {
  auto clay = target("clay", SourceTarget::Kind::archive, {"clay.c"});
  clay.libraries = {"m"};
  auto kiln = target("kiln", SourceTarget::Kind::program, {"main.c", "fire.cpp"});
  kiln.use = {"clay"};
  kiln.libraries = {"z"};
  const auto made = build({clay, kiln});
  const auto& program = unit(made, "kiln");
  EXPECT_EQ(program.result.file, "/work/kiln");
  EXPECT_EQ(program.link.language, "C++");
  ASSERT_EQ(program.parts.size(), 2U);  // one for each language
  std::vector<std::string> line;
  for (const auto index : program.link.named)
    line.push_back(program.link.items[index].unit + program.link.items[index].text);
  EXPECT_EQ(line, (std::vector<std::string>{"clay", "-lz"}));
  // What the archive needs comes behind it.
  const auto& item = program.link.items[program.link.named[0]];
  ASSERT_EQ(item.needs.size(), 1U);
  EXPECT_EQ(program.link.items[item.needs[0]].text, "-lm");
  EXPECT_FALSE(unit(made, "clay").installed);
  EXPECT_TRUE(program.installed);
}
TEST_F(UnitsTest, ALibraryIsAnArchiveAndASharedLibraryOfTheSameObjects) {
  place_.public_headers = {"include/clay.h"};
  const auto made = build({target("libclay", SourceTarget::Kind::library, {"clay.c"})});
  EXPECT_EQ(unit(made, "libclay-archive").result.file, "/work/libclay.a");
  const auto& shared = unit(made, "libclay");
  EXPECT_EQ(shared.result.file, "/work/libclay.so");
  ASSERT_EQ(shared.sources.size(), 1U);
  EXPECT_EQ(shared.sources[0].part, model::UnitSource::ready);
  std::vector<std::string> installed;
  for (const auto& item : made.install) installed.push_back(item.to);
  EXPECT_EQ(installed, (std::vector<std::string>{"lib/libclay.a", "lib/libclay.so", "include/clay.h"}));
}
TEST_F(UnitsTest, StandardsAreForTheirLanguage) {
  auto kiln = target("kiln", SourceTarget::Kind::program, {"main.c", "fire.cpp"});
  kiln.parts[0].options = {"-std=gnu89", "-std=gnu++14", "-fpermissive", "-fcommon"};
  const auto made = build({kiln});
  for (const auto& part : unit(made, "kiln").parts) {
    const auto& options = part.settings.options;
    EXPECT_EQ(text::join(options, " "),
              part.language == "C" ? "-std=gnu89 -fcommon" : "-std=gnu++14 -fpermissive -fcommon");
  }
}
TEST_F(UnitsTest, GrammarsAreMadeByRules) {
  place_.grammars = {
      {"parse.y", "bison", {"parse.tab.c", "parse.tab.h"}, true, {"--defines={1}", "-o", "{0}", "{in}"}}};
  place_.generators = {"/bin/bison"};
  const auto made = build({target("kiln", SourceTarget::Kind::program, {"main.c", "parse.y"})});
  ASSERT_EQ(made.rules.size(), 1U);
  EXPECT_EQ(made.rules[0].outputs[0], "/work/.generated/parse.tab.c");
  EXPECT_EQ(made.rules[0].actions.back().argv.front(), "/bin/bison");
  const auto& sources = unit(made, "kiln").sources;
  ASSERT_EQ(sources.size(), 2U);
  EXPECT_EQ(sources[1].path, "/work/.generated/parse.tab.c");
}
TEST_F(UnitsTest, MakersAreProgramsThatAreRun) {
  Maker maker;
  maker.source = "main.c";
  maker.output = "table.h";
  maker.folder = "src";
  maker.on_output = true;
  place_.makers = {maker};
  const auto made = build({target("kiln", SourceTarget::Kind::program, {"clay.c"})});
  ASSERT_EQ(made.rules.size(), 1U);
  EXPECT_EQ(made.rules[0].outputs, std::vector<std::string>{"/work/.generated/src/table.h"});
  EXPECT_EQ(made.rules[0].inputs, std::vector<std::string>{unit(made, "main-maker").result.file});
  EXPECT_EQ(made.rules[0].actions.back().argv[0], "/work/.makers/main-maker > /work/.generated/src/table.h");
  EXPECT_EQ(unit(made, "kiln").generated, made.rules[0].outputs);
}
TEST_F(UnitsTest, MistakesAreTold) {
  EXPECT_EQ(problem({target("kiln", SourceTarget::Kind::program, {"none.c"})}),
            "the target 'kiln' has the source 'none.c', which is not there");
  EXPECT_EQ(problem({target("kiln", SourceTarget::Kind::program, {"../main.c"})}),
            "the target 'kiln' has the source '../main.c', which lies outside of the tree");
  EXPECT_EQ(problem({target("kiln", SourceTarget::Kind::program, {"include/clay.h"})}),
            "the target 'kiln' has the source 'include/clay.h', which no compiler here takes");
  auto one = target("one", SourceTarget::Kind::archive, {"clay.c"});
  auto two = target("two", SourceTarget::Kind::archive, {"clay.c"});
  one.use = {"two"};
  two.use = {"one"};
  EXPECT_EQ(problem({one, two}), "the target 'one' uses itself, by two");
  two.kind = SourceTarget::Kind::program;
  two.use.clear();
  EXPECT_EQ(problem({one, two}), "the target 'one' uses the program 'two'");
}
TEST_F(UnitsTest, WhatIsWrittenDownReadsTheSame) {
  auto clay = target("libclay", SourceTarget::Kind::library, {"clay.c"});
  clay.parts[0].define = {"NAME=\"a b\"", "BACK=\\"};
  clay.why = "the folder libclay holds a library";
  auto kiln = target("kiln", SourceTarget::Kind::program, {"main.c"});
  kiln.use = {"libclay"};
  kiln.libraries = {"m", "z"};
  kiln.by_default = false;
  kiln.parts.push_back({{"fire.cpp"}, {"include"}, {"quoted"}, {}, {"-std=gnu++20"}});
  for (int i = 0; i < 40; ++i)
    kiln.parts[0].sources.push_back("a/rather/long/name/of/a/source-" + std::to_string(i) + ".c");
  const std::string text = as_settings({clay, kiln});
  EXPECT_TRUE(text.starts_with("# because the folder libclay holds a library\n[[target]]\nname = \"libclay\"\n"))
      << text;
  for (const auto& line : text::split(text, '\n')) EXPECT_LE(line.size(), 110U) << line;
  const std::string path = tree_.scratch() + "/written.toml";
  files::write(path, text);
  model::Settings settings;
  const auto read = survey::read_settings(path, settings);
  ASSERT_TRUE(read) << read.problem().what;
  EXPECT_EQ(as_settings(settings.targets),
            text::replace_all(text, "# because the folder libclay holds a library\n", ""));
}

}  // namespace
}  // namespace coctilis::describe::sources
