#include "smoke/numbers.h"

#include <re2/re2.h>

#include <cmath>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <optional>

#include "base/confine.h"
#include "base/files.h"
#include "base/text.h"
#include "smoke/patterns.h"

namespace coctilis::smoke {

using model::AskedNumber;
using model::CheckNumber;
using nlohmann::json;

namespace {

constexpr std::uintmax_t largest_file = 256U << 20U;

[[noreturn]] void cannot_read(const AskedNumber& asked, const std::string& what, const std::string& remedy) {
  throw Fault({Exit::check, asked.place, "the number '" + asked.name + "' cannot be read: " + what, "", remedy, {}});
}

// The words of a line of a table: separated by commas, semicolons, tabs or blanks, whichever the first line has.
std::vector<std::string> cells(const std::string& line, char separator) {
  if (separator == ' ') return text::words(line);
  std::vector<std::string> out;
  for (const auto& cell : text::split(line, separator)) {
    std::string word(text::trim(cell));
    if (word.size() > 1 && word.front() == '"' && word.back() == '"') word = word.substr(1, word.size() - 2);
    out.push_back(std::move(word));
  }
  return out;
}

std::string in_table(const AskedNumber& asked, const std::string& content) {
  std::vector<std::string> lines;
  for (const auto& line : text::split(content, '\n')) {
    if (!text::trim(line).empty()) lines.emplace_back(text::trim(line));
  }
  if (lines.empty()) cannot_read(asked, asked.file + " is empty", "see what the program writes");
  std::string& head = lines.front();
  if (head.starts_with('#')) head = std::string(text::trim(head.substr(1)));
  char separator = ' ';
  for (const char c : {';', ',', '\t'}) {
    if (head.find(c) != std::string::npos) separator = c;
  }
  const auto names = cells(head, separator);
  const auto column = std::find(names.begin(), names.end(), asked.column);
  if (column == names.end())
    cannot_read(asked, asked.file + " has no column '" + asked.column + "'",
                "its columns: " + text::clip(text::printable_line(text::join(names, ", ")), 200));
  const auto rows = static_cast<long>(lines.size()) - 1;
  const long row = asked.row < 0 ? rows + asked.row : asked.row;
  if (row < 0 || row >= rows)
    cannot_read(asked, asked.file + " has " + text::count(static_cast<std::size_t>(rows), "row"),
                "name a row that it has");
  const auto values = cells(lines[static_cast<std::size_t>(row) + 1], separator);
  const auto at = static_cast<std::size_t>(column - names.begin());
  if (at >= values.size())
    cannot_read(asked, "that row of " + asked.file + " is too short", "see what the program writes");
  return values[at];
}

std::string in_json(const AskedNumber& asked, const std::string& content) {
  const json read = json::parse(content, nullptr, false);
  if (read.is_discarded()) cannot_read(asked, asked.file + " is no JSON", "see what the program writes");
  try {
    const json& value = read.at(json::json_pointer(asked.key));
    if (value.is_number()) return value.dump();
    if (value.is_string()) return value.get<std::string>();
    cannot_read(asked, asked.key + " of " + asked.file + " is no number", "name one that is");
  } catch (const json::exception&) {
    cannot_read(asked, asked.file + " has no " + asked.key, "the key is a path in it: \"/curve/0/peak\"");
  }
}

std::string in_text(const AskedNumber& asked, const std::string& content) {
  const RE2& pattern = line_pattern(asked.find);
  std::string out;
  std::string hit;
  bool found = false;
  // The last one counts: programs print on as they come nearer.
  re2::StringPiece rest(content);
  while (pattern.ok() && RE2::FindAndConsume(&rest, pattern, &hit)) {
    out = hit;
    found = true;
  }
  if (!found)
    cannot_read(asked, "'" + asked.find + "' is not found in " + (asked.file.empty() ? "the output" : asked.file),
                "coctilis why failure shows the output");
  return out;
}

std::string digits_of(const std::string& text) {
  std::string out = text::lower(text::trim(text));
  if (out.starts_with('+')) out.erase(0, 1);
  return out;
}

}  // namespace

std::optional<double> value_of(const std::string& text) {
  std::string word = digits_of(text);
  if (word.empty()) return std::nullopt;
  if (!word.starts_with("0x") && !word.starts_with("-0x") && word.find('d') != std::string::npos) {
    static const RE2 fortran(R"([-+]?[0-9.]+d[-+]?[0-9]+)");
    if (RE2::FullMatch(word, fortran)) word[word.find('d')] = 'e';
  }
  char* end = nullptr;
  const double out = std::strtod(word.c_str(), &end);
  if (end == word.c_str() || *end != 0) return std::nullopt;
  return out;
}

Result<std::vector<CheckNumber>> read_numbers(const std::vector<AskedNumber>& asked, const std::string& output,
                                              const std::function<std::string(const std::string&)>& file) {
  return guarded("numbers", [&] {
    std::vector<CheckNumber> out;
    for (const auto& one : asked) {
      std::optional<std::string> content = output;
      if (!one.file.empty()) {
        const std::string path = file(one.file);
        std::error_code error;
        if (!files::is_file(path))
          cannot_read(one, "the file " + one.file + " is not there", "see what the program writes");
        if (std::filesystem::file_size(path, error) > largest_file)
          cannot_read(one, one.file + " has more than 256 MB", "have the program write what counts into a smaller one");
        content = files::read(path);
        if (!content) cannot_read(one, one.file + " cannot be read", "see what the program writes");
      }
      CheckNumber number;
      number.name = one.name;
      number.text = std::string(text::trim(!one.column.empty() ? in_table(one, *content)
                                           : !one.key.empty()  ? in_json(one, *content)
                                                               : in_text(one, *content)));
      if (!value_of(number.text))
        cannot_read(one, "'" + text::clip(text::printable_line(number.text), 60) + "' is no number",
                    "see what is read there");
      out.push_back(std::move(number));
    }
    return out;
  });
}

bool agree(const AskedNumber& asked, const std::string& text, const std::string& recorded) {
  if (digits_of(text) == digits_of(recorded)) return true;
  if (asked.absolute == 0 && asked.relative == 0) return false;
  const auto a = value_of(text);
  const auto b = value_of(recorded);
  if (!a || !b || !std::isfinite(*a) || !std::isfinite(*b)) return false;
  return std::abs(*a - *b) <= asked.absolute + asked.relative * std::abs(*b);
}

namespace {

// What is recorded in the file; nothing when it is not there.
std::optional<json> read_reference(const std::string& path, const std::string& check) {
  const Place place{path, 0, 0};
  if (!files::exists(path)) return std::nullopt;
  const auto content = files::read(path);
  const json read = content ? json::parse(*content, nullptr, false) : json();
  const auto numbers = read.is_object() ? read.find("numbers") : read.end();
  const bool good = read.is_object() && numbers != read.end() && numbers->is_object() && read.contains("check") &&
                    read["check"].is_string() &&
                    std::all_of(numbers->begin(), numbers->end(), [](const auto& one) { return one.is_string(); });
  if (!good)
    throw Fault({Exit::check,
                 place,
                 "the reference cannot be read: these are no recorded numbers",
                 "",
                 "take the file away, and record anew: coctilis smoke \"" + check + "\" --record",
                 {}});
  if (read["check"] != check)
    throw Fault({Exit::check,
                 place,
                 "the reference is of another check: '" + text::printable_line(read["check"].get<std::string>()) + "'",
                 "",
                 "give each check a reference of its own",
                 {}});
  return read;
}

}  // namespace

Result<bool> compare_with_reference(const std::string& path, const std::string& check,
                                    const std::vector<AskedNumber>& asked, std::vector<CheckNumber>& numbers) {
  return guarded("reference", [&] {
    const auto read = read_reference(path, check);
    if (!read)
      throw Fault({Exit::check,
                   {path, 0, 0},
                   "no numbers are recorded yet",
                   "",
                   "record those of now when they are right: coctilis smoke \"" + check + "\" --record",
                   {}});
    for (std::size_t i = 0; i < numbers.size(); ++i) {
      const auto recorded = (*read)["numbers"].find(numbers[i].name);
      if (recorded == (*read)["numbers"].end())
        throw Fault({Exit::check,
                     {path, 0, 0},
                     "the reference has no '" + numbers[i].name + "'",
                     "",
                     "record anew: coctilis smoke \"" + check + "\" --record",
                     {}});
      numbers[i].recorded = recorded->get<std::string>();
      numbers[i].agrees = agree(asked[i], numbers[i].text, numbers[i].recorded);
    }
    return true;
  });
}

Result<bool> write_reference(const std::string& path, const std::string& check,
                             const std::vector<CheckNumber>& numbers) {
  return guarded("reference", [&] {
    (void)read_reference(path, check);
    nlohmann::ordered_json out = {{"check", check}, {"numbers", nlohmann::ordered_json::object()}};
    for (const auto& number : numbers) out["numbers"][number.name] = number.text;
    // The user has asked for it to be written into the tree.
    without_limit([&] {
      files::make_folder(std::filesystem::path(path).parent_path());
      files::write(path, out.dump(2) + "\n");
    });
    return true;
  });
}

}  // namespace coctilis::smoke
