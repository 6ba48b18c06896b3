// What a run leaves for other programs: each form is held against the schema of its standard; and the page in a
// browser.
#include <re2/re2.h>

#include "support.h"

namespace coctilis::test {
namespace {

class RecordForms : public DrivenTree {
 protected:
  RecordForms() {
    tree.write("CMakeLists.txt",
               "cmake_minimum_required(VERSION 3.16)\nproject(brickyard VERSION 2.1 LANGUAGES C)\nenable_testing()\n"
               "find_package(ZLIB REQUIRED)\nadd_library(clay STATIC \"clay one.c\")\nadd_executable(kiln kiln.c)\n"
               "target_compile_options(clay PRIVATE -Wall)\ntarget_link_libraries(kiln clay ZLIB::ZLIB)\n"
               "add_test(NAME warm COMMAND kiln)\nadd_test(NAME cold COMMAND false)\n");
    tree.write("clay one.c", "int clay(void) { int unused; return 3; }\n");
    tree.write("kiln.c",
               "#include <stdio.h>\n#include <zlib.h>\nint clay(void);\nint main(void) { printf(\"%d %s\\n\", clay(), "
               "zlibVersion()); return 0; }\n");
  }
  [[nodiscard]] std::string latest() const { return tree.label_folder() + "/runs/latest"; }
  [[nodiscard]] nlohmann::json document(const std::string& name) const {
    return nlohmann::json::parse(files::read(latest() + "/" + name).value_or("null"), nullptr, false);
  }
  // What is wrong with a document by a schema; empty: nothing.
  static std::string against(const std::string& schema, const std::string& path) {
    Command command;
    command.argv = {
        "/usr/bin/python3", "-c",
        "import json, sys\ntry:\n  import jsonschema\nexcept ImportError:\n  print('no validator'); sys.exit(0)\n"
        "wrong = "
        "list(jsonschema.Draft7Validator(json.load(open(sys.argv[1]))).iter_errors(json.load(open(sys.argv[2]))))\n"
        "for one in wrong[:5]: print(list(one.path), one.message[:300])\n",
        schema, path};
    const auto ended = coctilis::run(command);
    return ended.good() ? std::string(text::trim(ended.output)) : ended.text() + ended.output;
  }
  static bool can_validate() {
    return against(TEST_SOURCE "/docs/run.schema.json", TEST_SOURCE "/docs/run.schema.json") != "no validator";
  }
};

TEST_F(RecordForms, EachIsWhatItsSchemaSays) {
  if (!can_validate()) GTEST_SKIP() << "there is nothing that validates JSON (python3-jsonschema)";
  const auto all = [&] {
    EXPECT_EQ(against(TEST_SOURCE "/docs/run.schema.json", latest() + "/run.json"), "");
    if (!files::is_file(latest() + "/warnings.sarif")) return;
    EXPECT_EQ(against(TEST_SOURCE "/tests/data/sarif-2.1.0.json", latest() + "/warnings.sarif"), "");
  };
  EXPECT_EQ(run("build").exit, 0);
  all();
  EXPECT_EQ(against(TEST_SOURCE "/tests/data/spdx-2.3.json", latest() + "/parts.spdx.json"), "");
  EXPECT_EQ(run("bringup").exit, 6);
  all();
  EXPECT_EQ(run("build").exit, 0);
  EXPECT_EQ(run("build").exit, 0);
  EXPECT_FALSE(document("run.json")["repeats"].is_null());
  all();
  tree.write("kiln.c", "#error cold\n");
  EXPECT_EQ(run("build").exit, 5);
  all();
  EXPECT_EQ(document("warnings.sarif")["runs"][0]["results"].back()["level"], "error");
  // A schema that lets everything pass would say nothing.
  files::write(tree.scratch() + "/wrong.json", R"({"schema": 3})");
  EXPECT_NE(against(TEST_SOURCE "/docs/run.schema.json", tree.scratch() + "/wrong.json"), "");
}

TEST_F(RecordForms, WarningsHaveTheirPlace) {
  ASSERT_EQ(run("build").exit, 0);
  const auto result = document("warnings.sarif")["runs"][0]["results"][0];
  EXPECT_EQ(result["ruleId"], "-Wunused-variable");
  const auto place = result["locations"][0]["physicalLocation"];
  EXPECT_EQ(place["artifactLocation"]["uri"], "clay%20one.c");
  EXPECT_EQ(place["artifactLocation"]["uriBaseId"], "TREE");
  EXPECT_EQ(place["region"]["startLine"], 1);
}

TEST_F(RecordForms, PartsTellWhatWentIntoWhat) {
  ASSERT_EQ(run("build").exit, 0);
  const auto parts = document("parts.spdx.json");
  std::map<std::string, std::string> names;
  for (const auto& file : parts["files"]) names[file["SPDXID"]] = file["fileName"];
  for (const auto& package : parts["packages"]) names[package["SPDXID"]] = package["name"];
  std::set<std::string> said;
  for (const auto& one : parts["relationships"])
    said.insert(names[one["spdxElementId"]] + " " + one["relationshipType"].get<std::string>() + " " +
                names[one["relatedSpdxElement"]]);
  EXPECT_TRUE(said.contains("./libclay.a GENERATED_FROM ./clay one.c")) << parts.dump(1);
  EXPECT_TRUE(said.contains("./kiln STATIC_LINK ./libclay.a")) << parts.dump(1);
  EXPECT_TRUE(said.contains("./kiln DYNAMIC_LINK zlib1g")) << parts.dump(1);
  // The same again, but for the time.
  std::filesystem::remove_all(tree.label_folder());
  ASSERT_EQ(run("build").exit, 0);
  auto before = parts;
  auto after = document("parts.spdx.json");
  before.erase("creationInfo");
  after.erase("creationInfo");
  EXPECT_EQ(before, after);
}

TEST_F(RecordForms, TheTraceHasEveryStepOnItsLane) {
  ASSERT_EQ(run("build").exit, 0);
  std::map<int, double> free_from;
  std::size_t steps = 0;
  const auto trace = document("trace.json");
  for (const auto& event : trace["traceEvents"]) {
    if (event["ph"] != "X") continue;
    ++steps;
    EXPECT_GE(event["ts"].get<double>() + 101, free_from[event["tid"]]);
    free_from[event["tid"]] = event["ts"].get<double>() + event["dur"].get<double>();
  }
  EXPECT_EQ(steps, 4U);
}

TEST_F(RecordForms, TheGraphCanBeRead) {
  ASSERT_EQ(run("build").exit, 0);
  const std::string graph = files::read(latest() + "/graph.dot").value_or("");
  EXPECT_NE(graph.find("\"kiln\" -> \"clay\";"), std::string::npos) << graph;
  EXPECT_NE(graph.find("\"kiln\" -> \"system/libz.so\";"), std::string::npos) << graph;
  if (find_program("dot").empty()) GTEST_SKIP() << "there is nothing that reads it (graphviz)";
  Command command;
  command.argv = {"dot", "-Tplain", latest() + "/graph.dot"};
  const auto ended = coctilis::run(command);
  EXPECT_TRUE(ended.good()) << ended.output;
  EXPECT_NE(ended.output.find("edge kiln clay"), std::string::npos);
}

TEST_F(RecordForms, FiguresAreDrawnIntoFiles) {
  ASSERT_EQ(run("build").exit, 0);
  const auto said = run("figures", {"--format", "svg,png,pdf"});
  EXPECT_EQ(said.exit, 0) << said.all();
  EXPECT_NE(said.all().find("timeline: The build over its time. 4 steps"), std::string::npos) << said.all();
  for (const char* file : {"timeline.svg", "timeline.png", "timeline.pdf", "timeline.csv", "targets.svg", "sizes.csv"})
    EXPECT_TRUE(files::is_file(latest() + "/figures/" + file)) << file;
  EXPECT_EQ(run("figures", {"--run", "7"}).exit, 2);
  EXPECT_EQ(run("figures", {"--format", "gif"}).exit, 2);
  const auto listed = run("figures", {"--json", "--into", tree.scratch() + "/drawn"}).json();
  EXPECT_GE(listed.size(), 5U);
  EXPECT_TRUE(files::is_file(tree.scratch() + "/drawn/timeline.png"));
  // A record of another version is drawn as far as it goes.
  const std::string record = files::read(latest() + "/run.json").value_or("");
  EXPECT_EQ(said.all().find("of another version"), std::string::npos) << said.all();
  files::write(latest() + "/run.json", text::replace_all(record, "\"schema\": 4", "\"schema\": 1"));
  const auto older = run("figures");
  EXPECT_EQ(older.exit, 0);
  EXPECT_NE(older.all().find("of another version of this program (schema 1, here"), std::string::npos) << older.all();
  files::write(latest() + "/run.json", "{ \"schema\": ");
  const auto damaged = run("figures");
  EXPECT_EQ(damaged.exit, 2);
  EXPECT_NE(damaged.all().find("cannot be read"), std::string::npos) << damaged.all();
}

// ---- the page -------------------------------------------------------------------------------------------------------

class PageInBrowser : public RecordForms {
 protected:
  // What a script that is put at the end of the page comes to, in a window of that size; and what the browser complains
  // of.
  std::string asked(const std::string& script, const std::string& size) const {
    std::string page = files::read(latest() + "/report.html").value_or("");
    const auto end = page.rfind("</body>");
    EXPECT_NE(end, std::string::npos);
    page.insert(end, "<script>document.title = \"<\" + (() => {" + script + "})() + \">\";</script>");
    const std::string path = tree.scratch() + "/page.html";
    files::write(path, page);
    Command command;
    command.argv = {"chromium",
                    "--headless",
                    "--no-sandbox",
                    "--disable-gpu",
                    "--user-data-dir=" + tree.scratch() + "/browser",
                    "--enable-logging=stderr",
                    "--window-size=" + size,
                    "--dump-dom",
                    "file://" + path};
    command.limit_seconds = 120;
    const auto ended = coctilis::run(command);
    EXPECT_EQ(ended.output.find("Uncaught"), std::string::npos) << ended.output.substr(0, 2000);
    std::string answer;
    RE2::PartialMatch(ended.output, R"(<title>&lt;([^<]*)&gt;</title>)", &answer);
    return answer;
  }
};

TEST_F(PageInBrowser, ItFitsSortsFiltersAndFolds) {
  if (find_program("chromium").empty()) GTEST_SKIP() << "there is no browser (chromium)";
  for (int i = 0; i < 14; ++i)
    tree.write("CMakeLists.txt",
               tree.read("CMakeLists.txt") + "add_test(NAME t" + std::to_string(i) + " COMMAND kiln)\n");
  ASSERT_EQ(run("bringup").exit, 6);
  for (const char* size : {"1920,1080", "1280,800", "500,900"})
    EXPECT_EQ(asked("return document.documentElement.scrollWidth <= innerWidth ? 'fits' : "
                    "document.documentElement.scrollWidth + ' in ' + innerWidth",
                    size),
              "fits")
        << size;
  // What failed stands first, opened.
  EXPECT_EQ(
      asked("return document.querySelector('details').id + ' ' + document.querySelector('details').open", "1280,800"),
      "stopped true");
  EXPECT_EQ(asked("const t = document.querySelector('#checks table'); t.tHead.rows[0].cells[1].click(); return "
                  "t.tBodies[0].rows[0].cells[1].textContent",
                  "1280,800"),
            "cold");
  EXPECT_EQ(asked("const f = document.querySelector('#checks input'); f.value = 'declared cold'; f.dispatchEvent(new "
                  "Event('input')); "
                  "return [...document.querySelectorAll('#checks tbody tr')].filter(r => !r.hidden).length",
                  "1280,800"),
            "1");
  EXPECT_EQ(asked("const d = document.querySelector('#survey'); const before = d.open; location.hash = 'survey'; "
                  "open_target(); return before + ' ' + d.open",
                  "1280,800"),
            "false true");
  EXPECT_EQ(asked("return document.querySelectorAll('figure.drawn svg').length > 4", "1280,800"), "true");
}

}  // namespace
}  // namespace coctilis::test
