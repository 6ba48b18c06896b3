// Scripts that are watched: what they are seen to do, and how far what was learned may do without them.
#include "base/kept_value.h"
#include "base/shared_count.h"
#include "describe/mirror.h"
#include "describe/script/reader.h"
#include "support.h"

namespace coctilis::test {
namespace {

using describe::script::Learned;

class ScriptTest : public testing::Test {
 protected:
  ScriptTest() {
    tree.write("cone.c", "int cone;\n");
    tree.write("body.c", "int body;\n");
    tree.write("data.txt", "17\n");
  }
  // What is learned of a run of the script; its exit status goes to `status`.
  Learned run(const std::string& script, const std::string& count = {}) {
    tree.write("build.sh", script);
    EXPECT_TRUE(describe::mirror(tree.path(), work).ok());
    describe::script::ScriptRun call;
    call.argv = {"/bin/sh", "./build.sh"};
    call.tree = tree.path();
    call.work = work;
    call.state = tree.kiln() + "/watched/script.state";
    call.notes = tree.kiln() + "/watched/script.notes";
    if (!count.empty()) call.count = tree.kiln() + "/" + count;
    status = describe::script::run_script(call);
    return describe::script::last_run(work);
  }
  TreeFolder tree;
  const std::string work = tree.kiln() + "/work";
  int status = -1;
};

TEST_F(ScriptTest, CountsItsStepsAndKnowsHowManyThereWereLastTime) {
  const std::string script = "cc -c cone.c\ncc -c body.c\nar rc libclay.a cone.o body.o\necho done\n";
  EXPECT_EQ(run(script, "first").recipes.size(), 3U);
  const auto first = SharedCount(tree.kiln() + "/first").values();
  EXPECT_EQ(first.done, 3U);
  EXPECT_EQ(first.total, 0U);  // nobody knew
  EXPECT_TRUE(run(script, "second").replayable);
  const auto second = SharedCount(tree.kiln() + "/second").values();
  EXPECT_EQ(second.done, 3U);
  EXPECT_EQ(second.total, 3U);
}

TEST_F(ScriptTest, KnowsWhatEachStepRead) {
  tree.write("kiln.h", "#define KILN 1\n");
  tree.write("cone.c", "#include \"kiln.h\"\nint cone = KILN;\n");
  const auto learned = run("cc -c cone.c\nar rc libclay.a cone.o\n");
  ASSERT_TRUE(learned.replayable) << learned.why_not;
  ASSERT_EQ(learned.recipes.size(), 2U);
  const auto& read = learned.read[0];
  EXPECT_NE(std::find(read.begin(), read.end(), work + "/kiln.h"), read.end());
  EXPECT_TRUE(describe::script::is_as_learned(learned, tree.path(), work));
}

TEST_F(ScriptTest, SourcesThatAreReadBesidesAreNoneOfTheSteps) {
  for (const char* script :
       {"cat cone.c body.c > all.c\ncc -c all.c\n", "mkdir -p out\ncp *.c out/\ncc -c out/cone.c\n",
        "while read -r line; do echo \"$line\"; done < cone.c > all.c\ncc -c all.c\n"}) {
    const auto learned = run(script);
    ASSERT_TRUE(learned.replayable) << learned.why_not;
    EXPECT_TRUE(describe::script::is_as_learned(learned, tree.path(), work)) << script;
    tree.write("cone.c", "int other;\n");
    EXPECT_FALSE(describe::script::is_as_learned(learned, tree.path(), work)) << script;
    tree.write("cone.c", "int cone;\n");
  }
}

TEST_F(ScriptTest, WhatItWroteBesidesHasToBeThereAsItWas) {
  const auto learned = run("echo '#define DATA 1' > data.h\ncc -include data.h -c cone.c\n");
  ASSERT_TRUE(learned.replayable) << learned.why_not;
  EXPECT_TRUE(describe::script::is_as_learned(learned, tree.path(), work));
  files::write(work + "/data.h", "#define DATA 2\n");
  EXPECT_FALSE(describe::script::is_as_learned(learned, tree.path(), work));
}

TEST_F(ScriptTest, WhatIsDoneToResultsIsNotReplayed) {
  EXPECT_EQ(run("cc -c cone.c\nstrip cone.o\n").why_not, "it runs strip on what was made");
  EXPECT_EQ(run("cc -c cone.c\ncat cone.o > copy\n").why_not, "it runs cat on what was made");
  EXPECT_EQ(run("cc -c cone.c\ncp cone.o copy.o\n").why_not, "it runs cp on what was made");
  EXPECT_EQ(run("cc -c cone.c\ncc -DX -c cone.c\n").why_not, "it makes cone.o twice");
  EXPECT_EQ(run("cc -c cone.c\nrm cone.o\n").why_not, "it runs rm on what was made");
  EXPECT_EQ(run("echo nothing\n").why_not, "nothing that it runs is understood");
  EXPECT_TRUE(run("cc -c cone.c\nar rc libclay.a cone.o\nranlib libclay.a\n").replayable);
}

TEST_F(ScriptTest, AProgramThatIsReplacedIsAnother) {
  const std::string tool = tree.scratch() + "/tool";
  files::write(tool, "#!/bin/sh\necho 1\n");
  std::filesystem::permissions(tool, std::filesystem::perms::all);
  const auto learned = run(tool + " > number\ncc -c cone.c\n");
  ASSERT_TRUE(learned.replayable) << learned.why_not;
  EXPECT_TRUE(describe::script::is_as_learned(learned, tree.path(), work));
  files::write(tool, "#!/bin/sh\necho 2\n");
  std::filesystem::permissions(tool, std::filesystem::perms::all);
  EXPECT_FALSE(describe::script::is_as_learned(learned, tree.path(), work));
}

TEST_F(ScriptTest, WhatAnEarlierRunMadeIsTakenAwayFirst) {
  run("mkdir out\ncc -c cone.c -o out/cone.o\necho stale > stale\nsed -i s/cone/changed/ cone.c\n");
  ASSERT_EQ(status, 0);
  EXPECT_EQ(files::read(work + "/cone.c"), "int changed;\n");
  // A folder that is there would fail, and a source that it has changed has to be as it is in the tree.
  run("test ! -e stale\nmkdir out\ngrep -q cone cone.c && cc -c body.c\n");
  EXPECT_EQ(status, 0);
  EXPECT_FALSE(files::exists(work + "/stale"));
  EXPECT_EQ(files::read(work + "/cone.c"), "int cone;\n");
}

TEST_F(ScriptTest, OneThatFailsTeachesNothing) {
  EXPECT_TRUE(run("cc -c cone.c\nexit 3\n").recipes.empty());
  EXPECT_EQ(status, 3);
}

TEST(ScriptNotes, AreReadBackOnlyWhenTheyAreWhole) {
  Learned learned;
  model::Recipe recipe;
  recipe.name = "cone.o";
  recipe.outputs = {"/work/cone.o"};
  recipe.lines = {{"cc -c cone.c", false, false, false}};
  learned.recipes = {recipe};
  learned.read = {{"/work/cone.c"}};
  learned.programs = {{"/usr/bin/cc", "1 2"}};
  learned.replayable = true;
  const test::TreeFolder tree;
  const std::string path = tree.path("script.state");
  keep_value(path, learned);
  const auto back = describe::script::learned_from(path);
  EXPECT_TRUE(back.replayable);
  EXPECT_EQ(back.recipes.at(0).lines.at(0).command, "cc -c cone.c");
  EXPECT_EQ(back.read, learned.read);
  EXPECT_EQ(back.programs, learned.programs);
  const std::string text = files::read(path).value();
  for (const auto& broken : {std::string{}, text.substr(0, text.size() / 2), std::string("[]"), text + "x"}) {
    files::write(path, broken);
    EXPECT_FALSE(describe::script::learned_from(path).replayable);
  }
  // One that says of no recipe what it read, or whose recipe makes nothing, is none of ours.
  learned.read.clear();
  keep_value(path, learned);
  EXPECT_FALSE(describe::script::learned_from(path).replayable);
}

}  // namespace
}  // namespace coctilis::test
