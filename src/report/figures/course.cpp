#include "report/figures/course.h"

#include <nlohmann/json.hpp>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::report {

namespace {

using Document = nlohmann::ordered_json;

const Document& in(const Document& object, const char* key) {
  static const Document nothing;
  if (!object.is_object()) return nothing;
  const auto it = object.find(key);
  return it == object.end() ? nothing : *it;
}

std::string text_in(const Document& object, const char* key) {
  const auto& value = in(object, key);
  return value.is_string() ? value.get<std::string>() : std::string{};
}

double number_in(const Document& object, const char* key) {
  const auto& value = in(object, key);
  const double out = value.is_number() ? value.get<double>() : 0;
  return out >= 0 && out < 1e15 ? out : 0;
}

bool yes_in(const Document& object, const char* key) {
  const auto& value = in(object, key);
  return value.is_boolean() && value.get<bool>();
}

std::vector<std::string> texts_in(const Document& object, const char* key) {
  std::vector<std::string> out;
  for (const auto& one : in(object, key)) {
    if (one.is_string()) out.push_back(one.get<std::string>());
  }
  return out;
}

}  // namespace

Course course_of(const Document& record) {
  Course out;
  const std::string tree = text_in(record, "tree");
  const std::string kiln = text_in(record, "kiln");
  out.schema = static_cast<int>(std::min(number_in(record, "schema"), 1e9));
  out.number = static_cast<int>(std::min(number_in(record, "run"), 1e9));
  out.good = number_in(record, "exit") == 0 && in(record, "exit").is_number();
  out.seconds = number_in(record, "seconds");
  const auto& build = in(record, "build");
  out.build_seconds = number_in(build, "seconds");
  // In short records the number stands for the many.
  const auto count_in = [](const Document& value) {
    return value.is_number_unsigned() ? value.get<std::size_t>() : value.is_array() ? value.size() : 0;
  };
  out.warnings = count_in(in(build, "warnings"));
  out.checks_failed = count_in(in(record, "checks_failed"));
  if (in(record, "checks").is_number_unsigned()) out.checks = in(record, "checks").get<std::size_t>();
  for (const auto& step : in(build, "steps")) {
    if (number_in(step, "seconds") <= 0) continue;
    out.bars.push_back({text_in(step, "kind"), text_in(step, "subject"), text_in(step, "target"),
                        number_in(step, "started"), number_in(step, "seconds"), yes_in(step, "critical"),
                        text_in(step, "state") == "failed"});
  }
  for (const auto& header : in(build, "headers"))
    out.headers.push_back({text_in(header, "path"), number_in(header, "sources"), number_in(header, "seconds"),
                           number_in(header, "told")});
  for (const auto& stage : in(record, "stages"))
    out.stages.emplace_back(text_in(stage, "stage"), number_in(stage, "seconds"));
  for (const auto& check : in(record, "checks").is_array() ? in(record, "checks") : Document::array()) {
    ++out.checks;
    out.check_seconds += number_in(check, "seconds");
    out.checks_failed += text_in(check, "verdict") == "failed" ? 1 : 0;
  }
  for (const auto& target : in(record, "targets")) {
    Course::Target one;
    one.name = text_in(target, "name");
    one.kind = text_in(target, "kind");
    one.in_default = yes_in(target, "default");
    one.uses = texts_in(target, "uses");
    const std::string file = text_in(in(target, "place"), "file");
    const auto slash = file.rfind('/');
    one.folder = slash == std::string::npos ? "." : file.substr(0, slash);
    for (const auto& item : texts_in(target, "link_items")) {
      const bool own = files::is_below(item, kiln) || files::is_below(item, tree);
      if (!own && (item.starts_with("/") || item.starts_with("-l")))
        one.libraries.push_back(item.starts_with("-l") ? item.substr(2) : item.substr(item.rfind('/') + 1));
    }
    out.targets.push_back(std::move(one));
  }
  for (const auto& member : in(record, "members")) {
    Course::Member one;
    one.name = text_in(member, "name");
    one.needs = texts_in(member, "needs");
    one.began = number_in(member, "began");
    one.seconds = number_in(member, "seconds");
    one.failed = number_in(member, "exit") != 0 || !in(member, "exit").is_number();
    one.begun = !yes_in(member, "not_begun");
    for (const auto& target : in(member, "targets")) {
      one.targets.emplace_back();
      one.targets.back().name = text_in(target, "name");
      one.targets.back().kind = text_in(target, "kind");
    }
    out.members.push_back(std::move(one));
  }
  for (const auto& result : in(record, "results")) {
    const auto& sections = in(result, "sections");
    out.results.push_back({text_in(result, "path"), number_in(sections, "code"), number_in(sections, "data"),
                           number_in(sections, "room"), number_in(sections, "debug"), number_in(sections, "rest")});
  }
  for (const auto& one : in(in(record, "survey"), "languages"))
    out.languages.push_back({text_in(one, "language"), number_in(one, "files"), number_in(one, "code"),
                             number_in(one, "comment"), number_in(one, "blank")});
  for (const auto& one : in(in(record, "survey"), "lines_by_folder"))
    out.folders.push_back({text_in(one, "folder"), number_in(one, "files"), number_in(one, "code"),
                           number_in(one, "comment"), number_in(one, "blank")});
  return out;
}

Document short_record(const Course& course) {
  Document results = Document::array();
  for (const auto& one : course.results)
    results.push_back(
        {{"path", one.path},
         {"sections",
          {{"code", one.code}, {"data", one.data}, {"room", one.room}, {"debug", one.debug}, {"rest", one.rest}}}});
  return {{"run", course.number},      {"exit", course.good ? 0 : 1},
          {"seconds", course.seconds}, {"build", {{"seconds", course.build_seconds}, {"warnings", course.warnings}}},
          {"checks", course.checks},   {"checks_failed", course.checks_failed},
          {"results", results}};
}

}  // namespace coctilis::report
