#include "report/junit.h"

#include <fmt/format.h>

#include <pugixml.hpp>
#include <sstream>

#include "base/text.h"

namespace coctilis::report {

namespace {

std::string seconds(double value) { return fmt::format("{:.3f}", value); }

// Text that XML can hold.
std::string held(const std::string& text) { return text::printable(text); }

void add_case(pugi::xml_node suite, const model::Check& check) {
  auto one = suite.append_child("testcase");
  one.append_attribute("name") = held(check.name).c_str();
  one.append_attribute("classname") = model::name_of(check.kind);
  one.append_attribute("time") = seconds(check.seconds).c_str();
  if (check.verdict == model::Verdict::skipped) {
    one.append_child("skipped").text().set(held(check.reason).c_str());
  } else if (check.verdict == model::Verdict::failed) {
    auto failure = one.append_child("failure");
    failure.append_attribute("message") = held(check.reason).c_str();
    failure.append_attribute("type") = model::name_of(check.kind);
    std::string more;
    if (!check.cause.empty()) more += "cause: " + check.cause + "\n";
    if (!check.remedy.empty()) more += "fix: " + check.remedy + "\n";
    for (const auto& line : check.evidence) more += line + "\n";
    if (!check.place.file.empty()) more += "at " + check.place.text() + "\n";
    failure.text().set(held(more).c_str());
  }
  if (!check.output.empty()) one.append_child("system-out").text().set(held(check.output.substr(0, 65536)).c_str());
}

}  // namespace

std::string smoke_xml(const model::Run& run) {
  pugi::xml_document document;
  auto root = document.append_child("testsuites");
  double whole = 0;
  for (const auto& check : run.checks) whole += check.seconds;
  const auto count = [&](pugi::xml_node node) {
    node.append_attribute("tests") = static_cast<unsigned long long>(run.checks.size());
    node.append_attribute("failures") = static_cast<unsigned long long>(run.count_checks(model::Verdict::failed));
    node.append_attribute("errors") = 0;
    node.append_attribute("time") = seconds(whole).c_str();
  };
  const std::string name =
      run.project.name.empty() ? std::filesystem::path(run.tree).filename().string() : run.project.name;
  root.append_attribute("name") = held(name).c_str();
  count(root);
  auto suite = root.append_child("testsuite");
  suite.append_attribute("name") = held(run.label.empty() ? name : run.label).c_str();
  count(suite);
  suite.append_attribute("skipped") = static_cast<unsigned long long>(run.count_checks(model::Verdict::skipped));
  // "2026-11-30T22:16:07Z": the schema takes no zone behind the seconds.
  suite.append_attribute("timestamp") = run.started.substr(0, 19).c_str();
  suite.append_attribute("hostname") = "localhost";
  for (const auto& check : run.checks) add_case(suite, check);
  std::ostringstream out;
  document.save(out, "  ", pugi::format_default, pugi::encoding_utf8);
  return out.str();
}

}  // namespace coctilis::report
