// The figures of a run: what they are drawn from, and what they say.
#include "report/figures/figures.h"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "report/figures/file_output.h"
#include "report/figures/layout.h"

namespace coctilis::report {
namespace {

Course::Bar bar(const std::string& kind, const std::string& target, double began, double seconds,
                bool critical = false) {
  return {kind, target + "/" + kind + ".c", target, began, seconds, critical, false};
}

Material yard() {
  Material out;
  out.run.number = 3;
  out.run.good = true;
  out.run.seconds = 8;
  out.run.build_seconds = 5;
  out.run.check_seconds = 2;
  out.run.stages = {{"locate", 0.5}, {"build", 5}, {"smoke", 2}};
  out.run.headers = {{"clay.h", 2, 1.5, 2}, {"/usr/include/stdio.h", 2, 0.5, 0}};
  out.run.bars = {bar("compile", "clay", 0, 2, true), bar("compile", "glaze", 0, 1), bar("link", "kiln", 2, 1, true)};
  out.run.targets = {{"clay", "static library", "clay", {}, {}},
                     {"kiln", "program", ".", {"clay"}, {"libz.so"}},
                     {"glaze", "static library", "glaze", {"clay"}, {}}};
  out.run.results = {{"bin/kiln", 3000, 1000, 500, 0, 1000}};
  out.run.languages = {{"C", 3, 120, 10, 20}};
  Course before = out.run;
  before.number = 2;
  before.results[0].code = 2000;
  out.before = {before};
  return out;
}

bool says(const std::optional<Figure>& figure, const std::string& text) {
  return figure && figure->sentence.find(text) != std::string::npos;
}

TEST(Figures, EveryOneHasASentenceNumbersAndAnAxis) {
  const auto all = figures_of(yard());
  EXPECT_EQ(all.size(), 9U);
  for (const auto& figure : all) {
    EXPECT_FALSE(figure.sentence.empty()) << figure.name;
    EXPECT_TRUE(figure.sentence.ends_with('.')) << figure.sentence;
    EXPECT_GT(std::count(figure.data.begin(), figure.data.end(), '\n'), 1) << figure.name;
    EXPECT_GT(figure.drawing.height, 0) << figure.name;
    for (const auto& shape : figure.drawing.shapes) {
      EXPECT_GE(shape.x, 0) << figure.name;
      EXPECT_LE(shape.x, figure.drawing.width) << figure.name << " " << shape.text;
      EXPECT_LE(shape.y, figure.drawing.height) << figure.name << " " << shape.text;
    }
  }
}

TEST(Figures, ARunWithNothingToShowHasNone) {
  EXPECT_TRUE(figures_of({}).empty());
  EXPECT_TRUE(
      figures_of(
          {course_of(nlohmann::ordered_json::parse(R"({"build": 7, "targets": [3], "checks": {}, "run": "x"})")), {}})
          .empty());
}

TEST(Figures, AShortRecordTellsWhatLaterRunsAreHeldAgainst) {
  auto run = yard().run;
  run.warnings = 3;
  run.checks = 7;
  run.checks_failed = 2;
  const auto read = course_of(short_record(run));
  EXPECT_EQ(read.number, 3);
  EXPECT_TRUE(read.good);
  EXPECT_EQ(read.build_seconds, 5);
  EXPECT_EQ(read.warnings, 3U);
  EXPECT_EQ(read.checks, 7U);
  EXPECT_EQ(read.checks_failed, 2U);
  EXPECT_EQ(read.results.at(0).in_file(), 5000);
  EXPECT_TRUE(course_of(nlohmann::ordered_json::parse(R"({"checks": -1, "build": {"warnings": "x"}})")).bars.empty());
}

TEST(Figures, TheTimelineTellsHowBusyAndWhatWasWaitedFor) {
  const auto figure = timeline_figure(yard());
  EXPECT_TRUE(says(figure, "3 steps on 2 lanes in 3.0 s; lanes were busy for 67 % of the time"));
  EXPECT_TRUE(says(
      figure, "take 3.0 s of it; the longest of them is compile clay/compile.c (2.0 s): more parallel jobs would not"));
  EXPECT_NE(figure->data.find("1,0.0000,2.0000,compile,clay,clay/compile.c,yes\n"), std::string::npos) << figure->data;
}

TEST(Figures, WhatHeadersCostSaysWhoHasToldIt) {
  auto material = yard();
  const auto figure = spent_by_header_figure(material);
  EXPECT_TRUE(says(figure, "clay.h costs 1.5 s in 2 sources, 50 % of the 3.0 s that all compilations took together."))
      << figure->sentence;
  EXPECT_EQ(figure->data,
            "header,seconds,sources,sources whose compiler told\nclay.h,1.5000,2,2\n/usr/include/stdio.h,0.5000,2,0\n");
  material.run.headers[0].told = 0;
  EXPECT_TRUE(says(spent_by_header_figure(material), "took together, if time goes as the bytes that are read."));
  material.run.headers.resize(1);
  EXPECT_FALSE(spent_by_header_figure(material));
}

TEST(Figures, StagesAndWhatLiesBetweenThemMakeUpTheRun) {
  const auto figure = spent_by_stage_figure(yard());
  EXPECT_TRUE(says(figure, "Of 8.0 s the most goes to build: 5.0 s."));
  EXPECT_EQ(figure->data,
            "stage,seconds\nlocate,0.5000\nbuild,5.0000\nsmoke,2.0000\n\"opening, settings, record\",0.5000\n");
}

TEST(Figures, LanesNeverCoverEachOther) {
  Material many;
  for (int i = 0; i < 500; ++i)
    many.run.bars.push_back(bar("compile", "t" + std::to_string(i), (i * 37) % 100, 1 + i % 7));
  const auto figure = timeline_figure(many);
  ASSERT_TRUE(figure);
  std::map<double, std::vector<std::pair<double, double>>> rows;
  for (const auto& shape : figure->drawing.shapes) {
    if (shape.kind == Shape::Kind::box && shape.y > 20) rows[shape.y].emplace_back(shape.x, shape.x + shape.width);
  }
  for (auto& [y, boxes] : rows) {
    std::sort(boxes.begin(), boxes.end());
    for (std::size_t i = 1; i < boxes.size(); ++i) EXPECT_LE(boxes[i - 1].second, boxes[i].first + 0.7) << y;
  }
}

TEST(Figures, SizesAreHeldAgainstTheLastGoodRun) {
  auto material = yard();
  EXPECT_TRUE(says(sizes_figure(material), "+1000 bytes against the last good run, number 2"));
  material.before[0].good = false;
  EXPECT_TRUE(says(sizes_figure(material), "the largest is bin/kiln."));
}

TEST(Figures, WhatUsesWhatLeavesOutWhatGoesWithoutSaying) {
  auto material = yard();
  material.run.targets.push_back({"office", "program", "office", {"glaze", "clay"}, {}});
  const auto figure = targets_figure(material);
  ASSERT_TRUE(figure);
  EXPECT_NE(figure->data.find("office,glaze,"), std::string::npos);
  EXPECT_EQ(figure->data.find("office,clay,"), std::string::npos) << figure->data;
}

TEST(Figures, VeryManyTargetsStandTogetherByFolder) {
  Material many;
  for (int i = 0; i < 5000; ++i)
    many.run.targets.push_back({"t" + std::to_string(i),
                                "program",
                                "yard/part" + std::to_string(i % 20) + "/x" + std::to_string(i),
                                {"t" + std::to_string((i + 1) % 5000)},
                                {}});
  const auto figure = targets_figure(many);
  ASSERT_TRUE(figure);
  EXPECT_TRUE(says(figure, "5,000 targets, those of a folder together")) << figure->sentence;
  EXPECT_LT(figure->drawing.shapes.size(), 3000U);
}

Course::Member member(const std::string& name, double began, double seconds, std::vector<std::string> needs = {}) {
  Course::Member out;
  out.name = name;
  out.needs = std::move(needs);
  out.began = began;
  out.seconds = seconds;
  out.targets = {{name + "-program", "program", "", {}, {}}, {"lib" + name, "static library", "", {}, {}}};
  return out;
}

TEST(Figures, MembersShowWhenTheyWereBroughtUpAndWhatTheyNeed) {
  Material yard;
  yard.run.members = {member("clay", 0, 2), member("glaze", 0, 1), member("kiln", 2, 3, {"clay", "glaze"}),
                      member("office", 2, 1, {"glaze"})};
  const auto course = members_timeline_figure(yard);
  EXPECT_TRUE(
      says(course, "4 members, at most 2 at once, in 5.0 s. The end waited for clay, kiln (framed), one behind"))
      << course->sentence;
  EXPECT_NE(course->data.find("kiln,2.0000,3.0000,clay glaze,yes\n"), std::string::npos) << course->data;
  EXPECT_NE(course->data.find("office,2.0000,1.0000,glaze,no\n"), std::string::npos) << course->data;
  const auto graph = members_figure(yard);
  EXPECT_TRUE(says(graph, "4 members; glaze is needed by most others (2)."));
  EXPECT_EQ(graph->data, "from,to\nkiln,clay\nkiln,glaze\noffice,glaze\n");
  // Its programs and libraries stand in the box of each.
  const auto& shapes = graph->drawing.shapes;
  EXPECT_TRUE(std::any_of(shapes.begin(), shapes.end(), [](const auto& s) { return s.text == "office-program"; }));
  // Stages of members lie side by side: no figure claims to know where the whole spends its time.
  yard.run.seconds = 6;
  EXPECT_FALSE(spent_by_stage_figure(yard));
  // One that was not begun has no time.
  yard.run.members[3].begun = false;
  EXPECT_EQ(members_timeline_figure(yard)->data.find("office"), std::string::npos);
  // Needs in a circle, and names that nobody has, do no harm.
  yard.run.members[0].needs = {"kiln", "clay", "nobody"};
  EXPECT_TRUE(members_timeline_figure(yard));
  EXPECT_TRUE(members_figure(yard));
  yard.run.members.resize(1);
  EXPECT_FALSE(members_figure(yard));
  EXPECT_FALSE(members_timeline_figure(yard));
}

TEST(Figures, VeryManyMembersFit) {
  Material many;
  for (int i = 0; i < 300; ++i) many.run.members.push_back(member("m" + std::to_string(i), i, 2));
  for (const auto& figure : {members_timeline_figure(many), members_figure(many)}) {
    ASSERT_TRUE(figure);
    for (const auto& shape : figure->drawing.shapes) EXPECT_LE(shape.y, figure->drawing.height) << figure->name;
  }
}

TEST(Figures, NamesInNumbersAndElementsAreHarmless) {
  EXPECT_EQ(csv("a,\"b\""), "\"a,\"\"b\"\"\"");
  auto material = yard();
  material.run.bars[0].subject = "<script>\n,x";
  const auto figure = timeline_figure(material);
  EXPECT_EQ(as_element(*figure).find("<script"), std::string::npos);
  EXPECT_EQ(std::count(figure->data.begin(), figure->data.end(), '\n'), 4);
}

TEST(Figures, MarksAreRound) {
  EXPECT_EQ(marks_up_to(10), (std::vector<double>{0, 2, 4, 6, 8, 10}));
  EXPECT_EQ(marks_up_to(0), std::vector<double>{0});
  EXPECT_EQ(marks_up_to(-1), std::vector<double>{0});
}

TEST(Figures, AsFilesOfEveryForm) {
  const auto figure = timeline_figure(yard());
  EXPECT_TRUE(drawn(figure->drawing, FigureForm::png).starts_with("\x89PNG"));
  EXPECT_NE(drawn(figure->drawing, FigureForm::svg).find("<svg"), std::string::npos);
  EXPECT_TRUE(drawn(figure->drawing, FigureForm::pdf).starts_with("%PDF"));
}

TEST(Figures, ALayoutPutsUsersBeforeWhatTheyUse) {
  const auto layout = layout_of({{"a", 60, 20}, {"b", 60, 20}, {"c", 60, 20}}, {{0, 1}, {1, 2}});
  ASSERT_TRUE(layout);
  EXPECT_LT(layout->nodes[0].x, layout->nodes[1].x);
  EXPECT_LT(layout->nodes[1].x, layout->nodes[2].x);
  EXPECT_EQ(layout->edges.size(), 2U);
  EXPECT_GE(layout->edges[0].size(), 4U);
}

}  // namespace
}  // namespace coctilis::report
