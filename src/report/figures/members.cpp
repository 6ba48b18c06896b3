// Trees of several members: which was brought up when, and what needs what.
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/text.h"
#include "report/figures/figures.h"
#include "report/figures/layout.h"
#include "report/lanes.h"

namespace coctilis::report {

namespace {

using Member = Course::Member;

std::map<std::string, const Member*> by_name(const std::vector<Member>& members) {
  std::map<std::string, const Member*> out;
  for (const auto& member : members) out.emplace(member.name, &member);
  return out;
}

double end_of(const Member& member) { return member.began + member.seconds; }

// From the one that ended last back: what each had to wait for, the last of them.
std::vector<std::string> waited_for(const std::vector<Member>& members) {
  std::vector<std::string> out;
  const auto named = by_name(members);
  const auto last = std::max_element(members.begin(), members.end(),
                                     [](const auto& a, const auto& b) { return end_of(a) < end_of(b); });
  const Member* now = last == members.end() ? nullptr : &*last;
  while (now != nullptr && out.size() < members.size()) {
    out.push_back(now->name);
    const Member* before = nullptr;
    for (const auto& need : now->needs) {
      const auto it = named.find(need);
      if (it != named.end() && it->second->begun && (before == nullptr || end_of(*it->second) > end_of(*before)))
        before = it->second;
    }
    now = before;
  }
  std::reverse(out.begin(), out.end());
  return out;
}

std::string few(const std::vector<std::string>& names) {
  if (names.size() <= 6) return text::join(names, ", ");
  return text::join(std::vector<std::string>(names.begin(), names.begin() + 3), ", ") + ", ... " + names.back();
}

Ink ink_of_result(const std::string& kind) { return kind == "program" ? Ink::first : Ink::third; }

// What stands in the box of a member below its name: programs and libraries.
std::vector<const Course::Target*> results_of(const Member& member) {
  std::vector<const Course::Target*> out;
  for (const auto& target : member.targets) {
    if (target.kind == "program" || target.kind.find("library") != std::string::npos) out.push_back(&target);
  }
  return out;
}

constexpr std::size_t most_results = 5;
constexpr double line_height = 17;

struct Box {
  std::string name;
  std::vector<const Course::Target*> results;
  std::size_t more = 0;  // that do not fit
  double width = 0, height = 0;
};

Box box_of(const Member& member, bool with_results) {
  Box out;
  out.name = member.name;
  out.results = results_of(member);
  if (!with_results) out.results.clear();
  if (out.results.size() > most_results) {
    out.more = out.results.size() - (most_results - 1);
    out.results.resize(most_results - 1);
  }
  double width = width_of(member.name) + 16;
  for (const auto* one : out.results) width = std::max(width, width_of(one->name) + 34);
  out.width = std::clamp(width, 70.0, 230.0);
  out.height = 24 + line_height * static_cast<double>(out.results.size() + (out.more > 0 ? 1 : 0));
  return out;
}

void draw_box(Drawing& drawing, const Box& box, double x, double y, const std::string& tells) {
  drawing.frame(Ink::text, x, y, box.width, box.height, tells);
  drawing.write(Ink::text, x + 8, y + 16, fitted(box.name, box.width - 12), Anchor::start, true);
  double at = y + 24;
  for (const auto* one : box.results) {
    drawing.box(ink_of_result(one->kind), x + 8, at + 2, 9, 9, one->name + ": " + one->kind);
    drawing.write(Ink::text, x + 22, at + 11, fitted(one->name, box.width - 28));
    at += line_height;
  }
  if (box.more > 0) drawing.write(Ink::soft, x + 22, at + 11, "and " + std::to_string(box.more) + " more");
}

}  // namespace

std::optional<Figure> members_timeline_figure(const Material& material) {
  std::vector<const Member*> members;
  double end = 0;
  for (const auto& member : material.run.members) {
    if (!member.begun || member.seconds <= 0) continue;
    members.push_back(&member);
    end = std::max(end, end_of(member));
  }
  if (members.size() < 2 || end <= 0) return std::nullopt;
  std::stable_sort(members.begin(), members.end(), [](const auto* a, const auto* b) { return a->began < b->began; });
  std::vector<std::pair<double, double>> times;
  for (const auto* member : members) times.emplace_back(member->began, member->seconds);
  const auto lanes = lanes_of(times).count;
  const auto chain = waited_for(material.run.members);
  const std::set<std::string> critical(chain.begin(), chain.end());
  double busy = 0;
  for (const auto& name : chain) busy += by_name(material.run.members).at(name)->seconds;

  Figure out{"members-timeline",
             "The members over time",
             text::count(members.size(), "member") + ", at most " + std::to_string(lanes) + " at once, in " +
                 text::duration(end) + ". " +
                 (chain.size() > 1 ? "The end waited for " + few(chain) +
                                         " (framed), one behind the other: " + text::duration(busy) + " of it."
                                   : "The end waited for " + few(chain) + " (framed) alone."),
             {},
             "member,began_s,seconds,needs,critical\n"};
  auto& drawing = out.drawing;
  // A row each, in the order in which they were begun; of very many the rows are thin and without names.
  const double row = members.size() > 200 ? 4 : members.size() > 60 ? 14 : 20;
  double names = 40;
  for (const auto* member : members) names = std::max(names, width_of(member->name));
  const double left = std::min(names, 230.0) + 14;
  const double room = figure_width - left - 60;
  const double floor = 26 + row * static_cast<double>(members.size());
  drawing.width = figure_width;
  drawing.height = floor + 40;
  write_legend(drawing, left, 12, {{Ink::first, "brought up"}, {Ink::bad, "failed"}});
  const auto x_of = [&](double seconds) { return left + room * seconds / end; };
  for (const double mark : marks_up_to(end)) {
    drawing.line(Ink::line, x_of(mark), 20, x_of(mark), floor + 3);
    drawing.write(Ink::soft, x_of(mark), floor + 16, fmt::format("{:g}", mark), Anchor::middle);
  }
  for (std::size_t i = 0; i < members.size(); ++i) {
    const auto& member = *members[i];
    out.data += fmt::format("{},{:.4f},{:.4f},{},{}\n", csv(member.name), member.began, member.seconds,
                            csv(text::join(member.needs, " ")), critical.contains(member.name) ? "yes" : "no");
    const double y = 24 + row * static_cast<double>(i);
    const double x = x_of(member.began);
    const double width = std::max(1.0, x_of(end_of(member)) - x);
    const std::string tells =
        member.name + ": " + text::duration(member.seconds) + ", from " + text::duration(member.began);
    drawing.box(member.failed ? Ink::bad : Ink::first, x, y + 1, width, std::max(2.0, row - 5), tells);
    if (critical.contains(member.name)) drawing.frame(Ink::text, x, y + 1, width, std::max(2.0, row - 5), tells);
    if (row < 12) continue;
    drawing.write(Ink::text, left - 8, y + row * 0.62, fitted(member.name, left - 14), Anchor::end);
    drawing.write(Ink::soft, x + width + 5, y + row * 0.62, text::duration(member.seconds));
  }
  drawing.write(Ink::soft, left + room / 2, floor + 33, "seconds since the first member was begun", Anchor::middle);
  return out;
}

std::optional<Figure> members_figure(const Material& material) {
  const auto& members = material.run.members;
  if (members.size() < 2) return std::nullopt;
  std::map<std::string, std::size_t> places;
  for (std::size_t i = 0; i < members.size(); ++i) places.emplace(members[i].name, i);
  std::vector<GraphEdge> edges;
  std::map<std::size_t, std::size_t> users;
  Figure out{"members", "What member needs what", {}, {}, "from,to\n"};
  for (std::size_t i = 0; i < members.size(); ++i) {
    for (const auto& need : members[i].needs) {
      const auto it = places.find(need);
      if (it == places.end() || it->second == i) continue;
      edges.push_back({i, it->second});
      ++users[it->second];
      out.data += fmt::format("{},{}\n", csv(members[i].name), csv(need));
    }
  }
  const auto most =
      std::max_element(users.begin(), users.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
  out.sentence = text::count(members.size(), "member") +
                 (most == users.end() ? "; none needs another."
                                      : fmt::format("; {} is needed by most others ({}). What stands to the left needs "
                                                    "what it leads to.",
                                                    members[most->first].name, most->second));
  auto& drawing = out.drawing;
  drawing.width = figure_width;
  const auto only = [&](const std::string& sentence) {
    drawing.height = 24;
    drawing.write(Ink::soft, 8, 16, sentence);
    return out;
  };
  if (members.size() > 400) return only("There are too many to be drawn. Their numbers are there.");
  std::vector<Box> boxes;
  std::vector<GraphNode> nodes;
  for (const auto& member : members) {
    boxes.push_back(box_of(member, members.size() <= 60));
    nodes.push_back({member.name, boxes.back().width, boxes.back().height});
  }
  const auto layout = layout_of(nodes, edges);
  if (!layout) return only("It cannot be drawn: the library libgvc, or what it needs, is not there. Its numbers are.");
  constexpr double top = 26;
  drawing.width = std::max(layout->width + 16, 560.0);
  drawing.height = layout->height + top + 10;
  write_legend(drawing, 8, 13, {{Ink::first, "program"}, {Ink::third, "library"}});
  for (const auto& edge : layout->edges) {
    std::vector<double> points;
    for (std::size_t i = 0; i + 1 < edge.size(); i += 2) points.insert(points.end(), {edge[i] + 8, edge[i + 1] + top});
    drawing.way(Ink::soft, std::move(points));
  }
  for (std::size_t i = 0; i < boxes.size(); ++i)
    draw_box(drawing, boxes[i], layout->nodes[i].x + 8 - boxes[i].width / 2,
             layout->nodes[i].y + top - boxes[i].height / 2, members[i].name);
  return out;
}

}  // namespace coctilis::report
