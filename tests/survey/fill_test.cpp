// Submodules and sources: their state, and bringing them in.
#include "survey/fill.h"

#include "repository.h"
#include "support.h"
#include "survey/ssh_transport.h"
#include "survey/submodules.h"

namespace coctilis::test {
namespace {

using model::SubmoduleState;
using survey::FillOutcome;

class QuietFill : public survey::FillObserver {
 public:
  void ended(const survey::Filled& one) override { told.push_back(one); }
  void progress(std::size_t done, std::size_t known, const std::vector<survey::Transfer>&) override {
    last_done = done;
    last_known = known;
  }
  std::vector<survey::Filled> told;
  std::size_t last_done = 0;
  std::size_t last_known = 0;
};

class Fill : public ::testing::Test {
 protected:
  // glaze has slip as a submodule; yard has glaze.
  Fill() {
    slip = commit(at("slip"), {{"slip.h", "#define SLIP 1\n"}});
    commit(at("glaze"), {{"glaze.h", "#define GLAZE 1\n"}});
    glaze = add_submodule(at("glaze"), "parts/slip", "../slip", slip);
    commit(at("yard"), {{"yard.c", "int main(void) { return 0; }\n"}});
    add_submodule(at("yard"), "parts/glaze", "../glaze", glaze);
    clone(at("yard"), at("clone"));
  }
  std::string at(const std::string& below) const { return place.path(below); }
  survey::FillResult fill(const model::Settings& settings = {}) {
    auto result = survey::fill(at("clone"), settings, 2, quiet);
    EXPECT_TRUE(result.ok());
    return result.ok() ? *result : survey::FillResult{};
  }
  std::vector<model::Submodule> state(const model::Settings& settings = {}) {
    return survey::read_submodules(at("clone"), settings, hazards);
  }
  TreeFolder place;
  QuietFill quiet;
  std::vector<model::Hazard> hazards;
  std::string slip;
  std::string glaze;
};

TEST_F(Fill, NestedOnesAreBroughtInAtTheirRevisions) {
  auto before = state();
  ASSERT_EQ(before.size(), 1U);
  EXPECT_EQ(before[0].state, SubmoduleState::empty);
  EXPECT_EQ(before[0].pinned, glaze);
  const auto result = fill();
  EXPECT_TRUE(result.complete());
  EXPECT_EQ(result.count(FillOutcome::filled), 2U);
  EXPECT_EQ(quiet.told.size(), 2U);
  EXPECT_EQ(quiet.last_done, 2U);
  const auto after = state();
  ASSERT_EQ(after.size(), 2U);
  EXPECT_EQ(after[0].path, "parts/glaze");
  EXPECT_EQ(after[1].path, "parts/glaze/parts/slip");
  EXPECT_EQ(after[1].within, "parts/glaze");
  for (const auto& module : after) EXPECT_EQ(module.state, SubmoduleState::pinned) << module.path;
  EXPECT_EQ(place.read("clone/parts/glaze/parts/slip/slip.h"), "#define SLIP 1\n");
  // Its data lie where any clone has them.
  EXPECT_TRUE(files::is_folder(at("clone/.git/modules/parts/glaze/modules/parts/slip")));
}

TEST_F(Fill, AgainKeepsWhatIsThere) {
  fill();
  const auto again = fill();
  EXPECT_EQ(again.count(FillOutcome::kept), 2U);
  EXPECT_TRUE(again.complete());
}

TEST_F(Fill, FilesThatWentAreThereAgainWithoutAsking) {
  fill();
  for (const auto& entry : std::filesystem::directory_iterator(at("clone/parts/glaze"))) {
    if (entry.path().filename() != ".git") std::filesystem::remove_all(entry.path());
  }
  std::filesystem::remove_all(at("glaze"));  // where it came from is gone
  const auto result = fill();
  EXPECT_TRUE(result.complete());
  EXPECT_EQ(result.entries[0].from, "what was there");
  EXPECT_EQ(place.read("clone/parts/glaze/glaze.h"), "#define GLAZE 1\n");
}

TEST_F(Fill, AnotherRevisionIsChangedLocalChangesAreNot) {
  fill();
  commit(at("clone/parts/glaze/parts/slip"), {{"slip.h", "#define SLIP 2\n"}});
  EXPECT_EQ(state()[1].state, SubmoduleState::elsewhere);
  EXPECT_EQ(fill().count(FillOutcome::filled), 1U);
  EXPECT_EQ(place.read("clone/parts/glaze/parts/slip/slip.h"), "#define SLIP 1\n");
  commit(at("clone/parts/glaze/parts/slip"), {{"slip.h", "#define SLIP 2\n"}});
  place.write("clone/parts/glaze/parts/slip/slip.h", "mine\n");
  EXPECT_TRUE(state()[1].changed);
  const auto result = fill();
  EXPECT_EQ(result.count(FillOutcome::refused), 1U);
  EXPECT_EQ(place.read("clone/parts/glaze/parts/slip/slip.h"), "mine\n");
}

TEST_F(Fill, AFolderWithOtherFilesIsLeftAlone) {
  place.write("clone/parts/glaze/own.txt", "mine\n");
  const auto result = fill();
  EXPECT_EQ(result.count(FillOutcome::refused), 1U);
  EXPECT_EQ(place.read("clone/parts/glaze/own.txt"), "mine\n");
}

TEST_F(Fill, CopiesInAPrefixAreTakenFirst) {
  std::filesystem::create_directory(at("mirror"));
  std::filesystem::copy(at("slip/.git"), at("mirror/slip.git"), std::filesystem::copy_options::recursive);
  std::filesystem::copy(at("glaze/.git"), at("mirror/glaze.git"), std::filesystem::copy_options::recursive);
  std::filesystem::remove_all(at("slip"));
  std::filesystem::remove_all(at("glaze"));
  EXPECT_EQ(fill().count(FillOutcome::failed), 1U);
  model::Settings settings;
  settings.prefixes = {at("mirror")};
  const auto result = fill(settings);
  EXPECT_TRUE(result.complete());
  EXPECT_EQ(result.count(FillOutcome::filled), 2U);
}

TEST_F(Fill, MirrorsAreAskedFirstAndNothingLeadsOutOfThem) {
  for (const char* name : {"slip", "glaze"}) {
    std::filesystem::create_directories(at("copies/clays"));
    std::filesystem::rename(at(name), at("copies/clays/" + std::string(name)));
  }
  EXPECT_EQ(fill().count(FillOutcome::failed), 1U);
  model::Settings settings;
  settings.mirrors = {{at("no-such/"), "/nowhere/"}, {at(""), at("copies/clays/")}};
  const auto result = fill(settings);
  EXPECT_TRUE(result.complete());
  ASSERT_EQ(result.count(FillOutcome::filled), 2U);
  for (const auto& one : result.entries) EXPECT_TRUE(one.from.starts_with(at("copies/clays/"))) << one.from;
  // The address stays the tree's own.
  EXPECT_NE(place.read("clone/.git/modules/parts/glaze/config").find(at("glaze")), std::string::npos);
  settings.mirrors = {{"https://brickyard.example/", at("copies/")}};
  settings.sources.emplace_back();
  settings.sources.back().folder = "parts/out";
  settings.sources.back().url = "https://brickyard.example/../copies/clays/slip";
  settings.sources.back().revision = slip;
  EXPECT_FALSE(fill(settings).complete());
}

TEST_F(Fill, ARevisionThatIsNotThereIsTold) {
  place.write("clone/.git/x", "");
  add_submodule(at("clone"), "lost", "../slip", "0123456789012345678901234567890123456789");
  const auto result = fill();
  EXPECT_EQ(result.count(FillOutcome::failed), 1U);
  bool told = false;
  for (const auto& entry : result.entries) told = told || entry.reason.find("is not in") != std::string::npos;
  EXPECT_TRUE(told);
}

TEST_F(Fill, SourcesAreBroughtInByTagOrRevision) {
  model::Settings settings;
  settings.sources.push_back({at("slip"), "main", "kits/slip", {"coctilis.toml", 1, 0}});
  settings.sources.push_back({at("glaze"), glaze, "kits/glaze", {"coctilis.toml", 5, 0}});
  EXPECT_EQ(state(settings).size(), 3U);
  EXPECT_TRUE(fill(settings).complete());
  EXPECT_EQ(place.read("clone/kits/slip/slip.h"), "#define SLIP 1\n");
  EXPECT_EQ(place.read("clone/kits/glaze/parts/slip/slip.h"), "#define SLIP 1\n");
  for (const auto& module : state(settings)) EXPECT_TRUE(module.whole()) << module.path;
}

TEST_F(Fill, NothingLeavesTheTree) {
  std::filesystem::create_directory_symlink(at("slip"), at("clone/link"));
  place.write("clone/.gitmodules",
              "[submodule \"a\"]\npath = ../outside\nurl = ../slip\n"
              "[submodule \"b\"]\npath = link/inner\nurl = ../slip\n"
              "[submodule \"../../c\"]\npath = c\nurl = ../slip\n"
              "[submodule \"d\"]\npath = /tmp/d\nurl = ../slip\n"
              "[submodule \"e\"]\npath = x/.git/hooks\nurl = ../slip\n");
  model::Settings settings;
  settings.sources.push_back({at("slip"), "main", "../beside", {"coctilis.toml", 1, 0}});
  EXPECT_TRUE(state(settings).empty());
  EXPECT_EQ(hazards.size(), 6U);
  const auto result = fill(settings);
  EXPECT_EQ(result.count(FillOutcome::refused), 6U);
  EXPECT_FALSE(std::filesystem::exists(at("outside")));
  EXPECT_FALSE(std::filesystem::exists(at("slip/inner")));
  EXPECT_FALSE(std::filesystem::exists(at("beside")));
}

TEST_F(Fill, ATreeThatPointsAtAnotherRepositoryDoesNotChangeIt) {
  std::filesystem::rename(at("clone/.git"), at("elsewhere"));
  place.write("clone/.git", "gitdir: ../elsewhere\n");
  const auto result = fill();
  EXPECT_FALSE(files::is_folder(at("elsewhere/modules")));
  for (const auto& entry : result.entries) {
    // Those within it are kept in its own data, as in any clone.
    if (entry.path == "parts/glaze") {
      EXPECT_TRUE(files::is_folder(at("clone/" + entry.path + "/.git")));
    }
  }
}

TEST_F(Fill, HooksDoNotRun) {
  place.write("hook", "");
  files::write(at("glaze/.git/hooks/post-checkout"), "#!/bin/sh\ntouch " + at("ran") + "\n");
  files::write(at("clone/.git/hooks/post-checkout"), "#!/bin/sh\ntouch " + at("ran") + "\n");
  for (const char* hook : {"glaze/.git/hooks/post-checkout", "clone/.git/hooks/post-checkout"})
    std::filesystem::permissions(at(hook), std::filesystem::perms::all);
  EXPECT_TRUE(fill().complete());
  EXPECT_FALSE(files::is_file(at("ran")));
}

TEST_F(Fill, UrlsCountFromWhereTheRepositoryCameFrom) {
  std::string fault;
  EXPECT_EQ(survey::resolve_url("../slip", at("clone"), fault), at("slip"));
  EXPECT_EQ(survey::resolve_url("./slip", at("yard"), fault), at("yard/slip"));  // from nowhere: its own origin
  EXPECT_EQ(survey::resolve_url("https://works.example/slip", at("clone"), fault), "https://works.example/slip");
  EXPECT_EQ(survey::resolve_url("ssh://git@works.example/slip", at("clone"), fault), "ssh://git@works.example/slip");
  EXPECT_EQ(survey::resolve_url("git@works.example:slip.git", at("clone"), fault), "git@works.example:slip.git");
  EXPECT_TRUE(fault.empty());
  for (const char* url : {"--upload-pack=x", "ext::sh -c x", "ext::x", "http://works.example/slip", "ftp://a/b",
                          "ssh://-oProxyCommand=x/y", "git@-oProxyCommand=x:y", "https://a b/c", "slip", ""}) {
    fault.clear();
    EXPECT_EQ(survey::resolve_url(url, at("clone"), fault), "") << url;
    EXPECT_FALSE(fault.empty()) << url;
  }
  fault.clear();
  EXPECT_EQ(survey::resolve_url("../slip", at("nowhere"), fault), "");
}

TEST(Ssh, CommandsNameTheHostAndQuoteThePath) {
  using Argv = std::vector<std::string>;
  const auto end = [](const std::string& url) {
    auto argv = survey::ssh_command(url);
    return argv.size() < 3 ? Argv{} : Argv(argv.end() - 3, argv.end());
  };
  EXPECT_EQ(end("ssh://git@works.example:22/yard/slip.git"),
            (Argv{"--", "git@works.example", "git-upload-pack '/yard/slip.git'"}));
  EXPECT_EQ(end("works.example:it's"), (Argv{"--", "works.example", "git-upload-pack 'it'\\''s'"}));
  EXPECT_EQ(end("ssh://works.example/~mill/x"), (Argv{"--", "works.example", "git-upload-pack '~mill/x'"}));
  for (const char* url : {"ssh://-oProxyCommand=x/y", "-oProxyCommand=x:y", "ssh:///x", "https://a/b"})
    EXPECT_TRUE(end(url).empty()) << url;
}

TEST(Submodules, SettingsAreReadWithQuotesAndComments) {
  TreeFolder tree;
  tree.write(".gitmodules",
             "# parts\n[submodule \"a\"] ; one\n\tpath = \"parts/a\" # here\n\tURL = https://works.example/a;x\n"
             "[core]\n\tpath = b\n[submodule \"c\"]\n\turl = x\n");
  std::vector<model::Hazard> hazards;
  const auto found = survey::read_submodules(tree.path(), {}, hazards);
  ASSERT_EQ(found.size(), 1U);
  EXPECT_EQ(found[0].path, "parts/a");
  EXPECT_EQ(found[0].url, "https://works.example/a");
  EXPECT_TRUE(found[0].pinned.empty());
}

TEST(Submodules, WithoutAnyThereIsNothingToFill) {
  TreeFolder tree;
  tree.write("x", "");
  QuietFill quiet;
  const auto result = survey::fill(tree.path(), {}, 1, quiet);
  ASSERT_FALSE(result.ok());
  EXPECT_EQ(result.problem().exit, Exit::usage);
}

}  // namespace
}  // namespace coctilis::test
