// string(...).
#include <fmt/format.h>

#include <ctime>
#include <random>
#include <stdexcept>

#include "base/digest.h"
#include "base/lists.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/regex.h"

namespace coctilis::describe::listfile {

namespace {

void remember_groups(Evaluator& e, const Regex::Match& match, bool hit) {
  for (std::size_t k = 0; k < 10; ++k)
    e.set("CMAKE_MATCH_" + std::to_string(k), hit && k < match.groups.size() ? match.groups[k] : "");
  e.set("CMAKE_MATCH_COUNT", std::to_string(hit && !match.groups.empty() ? match.groups.size() - 1 : 0));
}

void string_regex(Evaluator& e, const Invocation& i) {
  e.need(i, 5, "string(REGEX MATCH|MATCHALL|REPLACE pattern ... RESULT input)");
  const std::string& mode = i[1];
  const Regex regex(i[2]);
  std::string input;
  const std::size_t first = mode == "REPLACE" ? 5 : 4;
  e.need(i, first + (mode == "REPLACE" ? 0 : 1), "string(REGEX " + mode + " ...)");
  for (std::size_t k = first; k < i.size(); ++k) input += i[k];
  Regex::Match match;
  if (mode == "MATCH") {
    const bool hit = regex.search(input, 0, match);
    remember_groups(e, match, hit);
    e.set(i[3], hit ? match.groups[0] : "");
  } else if (mode == "MATCHALL") {
    std::vector<std::string> all;
    Regex::Match last;
    std::size_t at = 0;
    while (at <= input.size() && regex.search(input, at, match)) {
      if (match.end == match.begin) throw std::invalid_argument("it matches an empty text");
      all.push_back(match.groups[0]);
      last = match;
      at = match.end;
    }
    remember_groups(e, last, !all.empty());
    e.set(i[3], list_join(all));
  } else if (mode == "REPLACE") {
    e.set(i[4], regex_replace(regex, i[3], input));
  } else {
    e.not_understood(i, "string(REGEX " + mode + ")");
  }
}

std::string timestamp(const Invocation& i) {
  const auto [form, universal] = time_form(i.texts(), 2);
  // Reproducible results: https://reproducible-builds.org names this variable.
  const char* fixed = std::getenv("SOURCE_DATE_EPOCH");
  return fixed == nullptr ? observe::clock(form, universal) : text::time_in_form(std::atoll(fixed), form, universal);
}

long long whole_number(Evaluator& e, const Invocation& i, const std::string& text) {
  char* end = nullptr;
  const long long value = std::strtoll(text.c_str(), &end, 10);
  if (text.empty() || *end != '\0') e.fail(i, "'" + text + "' is not a number");
  return value;
}

void run_string(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "string(OPERATION ...)");
  const std::string& operation = i[0];
  const auto usage = [&](std::size_t words) {
    e.need(i, words, "string(" + operation + " ...) with all its arguments");
  };
  if (operation == "REGEX") {
    string_regex(e, i);
  } else if (operation == "FIND") {
    usage(4);
    const bool reverse = i.size() > 4 && i[4] == "REVERSE";
    const auto at = reverse ? i[1].rfind(i[2]) : i[1].find(i[2]);
    e.set(i[3], at == std::string::npos ? "-1" : std::to_string(at));
  } else if (operation == "REPLACE") {
    usage(4);
    std::string input;
    for (std::size_t k = 4; k < i.size(); ++k) input += i[k];
    e.set(i[3], i[1].empty() ? input : text::replace_all(input, i[1], i[2]));
  } else if (operation == "APPEND" || operation == "PREPEND") {
    std::string more;
    for (std::size_t k = 2; k < i.size(); ++k) more += i[k];
    e.set(i[1], operation == "APPEND" ? e.value(i[1]) + more : more + e.value(i[1]));
  } else if (operation == "CONCAT") {
    e.set(i[1], text::join(i.texts(2), ""));
  } else if (operation == "JOIN") {
    usage(3);
    e.set(i[2], text::join(i.texts(3), i[1]));
  } else if (operation == "TOLOWER" || operation == "TOUPPER") {
    usage(3);
    e.set(i[2], operation == "TOLOWER" ? text::lower(i[1]) : text::upper(i[1]));
  } else if (operation == "LENGTH") {
    usage(3);
    e.set(i[2], std::to_string(i[1].size()));
  } else if (operation == "SUBSTRING") {
    usage(5);
    const long long begin = whole_number(e, i, i[2]);
    const long long length = whole_number(e, i, i[3]);
    if (begin < 0 || begin > static_cast<long long>(i[1].size()))
      e.fail(i,
             "string(SUBSTRING) begins at " + i[2] + ", outside a text of " + std::to_string(i[1].size()) + " bytes");
    e.set(i[4], i[1].substr(static_cast<std::size_t>(begin),
                            length < 0 ? std::string::npos : static_cast<std::size_t>(length)));
  } else if (operation == "STRIP") {
    usage(3);
    e.set(i[2], std::string(text::trim(i[1])));
  } else if (operation == "GENEX_STRIP") {
    usage(3);
    e.set(i[2], strip_expressions(i[1]));
  } else if (operation == "REPEAT") {
    usage(4);
    std::string out;
    const long long times = whole_number(e, i, i[2]);
    if (times < 0 || static_cast<unsigned long long>(times) * i[1].size() > (64U << 20U))
      e.fail(i, "string(REPEAT) would make a text beyond 64 MB");
    for (long long k = 0; k < times; ++k) out += i[1];
    e.set(i[3], out);
  } else if (operation == "COMPARE") {
    usage(5);
    const int order = i[2].compare(i[3]);
    const std::map<std::string, bool> answers = {{"LESS", order < 0},        {"GREATER", order > 0},
                                                 {"EQUAL", order == 0},      {"NOTEQUAL", order != 0},
                                                 {"LESS_EQUAL", order <= 0}, {"GREATER_EQUAL", order >= 0}};
    const auto it = answers.find(i[1]);
    if (it == answers.end()) e.not_understood(i, "string(COMPARE " + i[1] + ")");
    e.set(i[4], it->second ? "1" : "0");
  } else if (operation == "ASCII") {
    std::string out;
    for (std::size_t k = 1; k + 1 < i.size(); ++k) out += static_cast<char>(whole_number(e, i, i[k]));
    e.set(i[i.size() - 1], out);
  } else if (operation == "HEX") {
    usage(3);
    std::string out;
    for (const char c : i[1]) out += fmt::format("{:02x}", static_cast<unsigned char>(c));
    e.set(i[2], out);
  } else if (operation == "CONFIGURE") {
    usage(3);
    const auto words = keywords(i.texts(3), {"@ONLY", "ESCAPE_QUOTES"}, {}, {});
    e.set(i[2], configure_text(e, i[1], words.has("@ONLY"), words.has("ESCAPE_QUOTES"), i.place));
  } else if (operation == "MAKE_C_IDENTIFIER") {
    usage(3);
    std::string out = !i[1].empty() && std::isdigit(static_cast<unsigned char>(i[1][0])) != 0 ? "_" : "";
    for (const char c : i[1]) out += std::isalnum(static_cast<unsigned char>(c)) != 0 ? c : '_';
    e.set(i[2], out);
  } else if (operation == "TIMESTAMP") {
    e.set(i[1], timestamp(i));
  } else if (operation == "UUID") {
    const auto words = keywords(i.texts(2), {"UPPER"}, {"NAMESPACE", "NAME", "TYPE"}, {});
    auto uuid = name_uuid(words.get("TYPE"), words.get("NAMESPACE"), words.get("NAME"));
    if (!uuid)
      e.fail(i, "'" + words.get("NAMESPACE") + "' is no UUID",
             "write string(UUID RESULT NAMESPACE uuid NAME name TYPE MD5|SHA1)");
    e.set(i[1], words.has("UPPER") ? text::upper(*uuid) : *uuid);
  } else if (operation == "JSON") {
    string_json(e, i);
  } else if (i.size() == 3 && digest(operation, i[2])) {
    e.set(i[1], *digest(operation, i[2]));
  } else if (operation == "RANDOM") {
    const auto words = keywords(i.texts(1), {}, {"LENGTH", "ALPHABET", "RANDOM_SEED"}, {});
    if (!words.has("RANDOM_SEED")) observe::spoil("it draws a random text");
    const std::string alphabet = words.has("ALPHABET")
                                     ? words.get("ALPHABET")
                                     : "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789";
    std::mt19937 generator(words.has("RANDOM_SEED") ? static_cast<unsigned>(std::atol(words.get("RANDOM_SEED").c_str()))
                                                    : std::random_device{}());
    std::string out;
    const long length = words.has("LENGTH") ? std::atol(words.get("LENGTH").c_str()) : 5;
    for (long k = 0; k < std::min(length, 65536L) && !alphabet.empty(); ++k)
      out += alphabet[generator() % alphabet.size()];
    e.set(i[i.size() - 1], out);
  } else {
    e.not_understood(i, "string(" + operation + ")");
  }
}

void command_string(Evaluator& e, const Invocation& i) {
  try {
    run_string(e, i);
  } catch (const std::invalid_argument& error) {
    e.fail(i.place, "the pattern in string(" + i[0] + ") cannot be used", "check the pattern", error.what());
  }
}

}  // namespace

void add_string_commands(CommandTable& table) { table["string"] = command_string; }

}  // namespace coctilis::describe::listfile
