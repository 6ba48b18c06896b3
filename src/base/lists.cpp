#include "base/lists.h"

#include "base/text.h"

namespace coctilis {

std::vector<std::string> list_elements(std::string_view list, bool keep_empty) {
  std::vector<std::string> out;
  if (list.empty()) return out;
  std::string element;
  int brackets = 0;
  const auto flush = [&] {
    if (keep_empty || !element.empty()) out.push_back(element);
    element.clear();
  };
  for (std::size_t i = 0; i < list.size(); ++i) {
    const char c = list[i];
    if (c == '\\' && i + 1 < list.size() && list[i + 1] == ';') {
      element += ';';
      ++i;
    } else if (c == ';' && brackets == 0) {
      flush();
    } else {
      if (c == '[') ++brackets;
      if (c == ']' && brackets > 0) --brackets;
      element += c;
    }
  }
  flush();
  return out;
}

std::string list_join(const std::vector<std::string>& elements) { return text::join(elements, ";"); }

bool is_true(std::string_view value) {
  const std::string upper = text::upper(value);
  if (upper == "1" || upper == "ON" || upper == "YES" || upper == "TRUE" || upper == "Y") return true;
  if (upper.empty() || (std::isdigit(static_cast<unsigned char>(upper[0])) == 0 && upper[0] != '-' && upper[0] != '+' &&
                        upper[0] != '.'))
    return false;
  char* end = nullptr;
  const double number = std::strtod(upper.c_str(), &end);
  return end == upper.c_str() + upper.size() && number != 0;
}

bool is_false(std::string_view value) {
  const std::string upper = text::upper(value);
  if (upper.empty() || upper == "0" || upper == "OFF" || upper == "NO" || upper == "FALSE" || upper == "N" ||
      upper == "IGNORE" || upper == "NOTFOUND")
    return true;
  return upper.ends_with("-NOTFOUND");
}

}  // namespace coctilis
