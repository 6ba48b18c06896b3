// list(...).
#include <stdexcept>

#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/regex.h"

namespace coctilis::describe::listfile {

namespace {

using Elements = std::vector<std::string>;

// An index that may count from the end. Fails when it lies outside; `past_end` allows the position after the last.
std::size_t index(Evaluator& e, const Invocation& i, const std::string& text, std::size_t size, bool past_end = false) {
  char* end = nullptr;
  long long value = std::strtoll(text.c_str(), &end, 10);
  if (text.empty() || *end != '\0') e.fail(i, "'" + text + "' is not an index");
  if (value < 0) value += static_cast<long long>(size);
  if (value < 0 || value > static_cast<long long>(size) - (past_end ? 0 : 1)) {
    e.fail(i, "the index " + text + " lies outside a list of " + std::to_string(size) + " elements",
           "check the length before");
  }
  return static_cast<std::size_t>(value);
}

void sort_list(Evaluator& e, const Invocation& i, Elements& elements) {
  const auto words = keywords(i.texts(2), {}, {"COMPARE", "CASE", "ORDER"}, {});
  const std::string compare = words.has("COMPARE") ? words.get("COMPARE") : "STRING";
  const bool fold = words.get("CASE") == "INSENSITIVE";
  const bool descending = words.get("ORDER") == "DESCENDING";
  if (compare != "STRING" && compare != "FILE_BASENAME" && compare != "NATURAL")
    e.not_understood(i, "list(SORT ... COMPARE " + compare + ")");
  const auto key = [&](const std::string& text) {
    const std::string base = compare == "FILE_BASENAME" ? text.substr(text.rfind('/') + 1) : text;
    return fold ? text::lower(base) : base;
  };
  std::stable_sort(elements.begin(), elements.end(), [&](const auto& a, const auto& b) {
    const int order = compare == "NATURAL" ? text::compare_versions(key(a), key(b)) : key(a).compare(key(b));
    return descending ? order > 0 : order < 0;
  });
}

std::string transformed(Evaluator& e, const Invocation& i, const std::string& action,
                        const std::vector<std::string>& operands, const std::string& element) {
  if (action == "APPEND") return element + operands[0];
  if (action == "PREPEND") return operands[0] + element;
  if (action == "TOLOWER") return text::lower(element);
  if (action == "TOUPPER") return text::upper(element);
  if (action == "STRIP") return std::string(text::trim(element));
  if (action == "REPLACE") return regex_replace(Regex(operands[0]), operands[1], element);
  if (action == "GENEX_STRIP") return strip_expressions(element);
  e.not_understood(i, "list(TRANSFORM ... " + action + ")");
}

void transform_list(Evaluator& e, const Invocation& i, Elements& elements) {
  e.need(i, 3, "list(TRANSFORM NAME action ...)");
  const std::string action = i[2];
  std::size_t at = 3;
  const std::size_t count = action == "REPLACE" ? 2 : action == "APPEND" || action == "PREPEND" ? 1 : 0;
  e.need(i, 3 + count, "list(TRANSFORM NAME " + action + " operands...)");
  std::vector<std::string> operands;
  for (; operands.size() < count; ++at) operands.push_back(i[at]);
  std::vector<bool> chosen(elements.size(), true);
  std::string output = i[1];
  while (at < i.size()) {
    const std::string& word = i[at];
    if (word == "OUTPUT_VARIABLE" && at + 1 < i.size()) {
      output = i[at + 1];
      at += 2;
    } else if (word == "AT") {
      chosen.assign(elements.size(), false);
      for (++at; at < i.size() && i[at] != "OUTPUT_VARIABLE"; ++at) chosen[index(e, i, i[at], elements.size())] = true;
    } else if (word == "FOR" && at + 2 < i.size()) {
      chosen.assign(elements.size(), false);
      const auto first = index(e, i, i[at + 1], elements.size());
      const auto last = index(e, i, i[at + 2], elements.size());
      at += 3;
      std::size_t step = 1;
      if (at < i.size() && i[at] != "OUTPUT_VARIABLE")
        step = std::max<std::size_t>(1, static_cast<std::size_t>(std::atol(i[at++].c_str())));
      for (std::size_t k = first; k <= last; k += step) chosen[k] = true;
    } else if (word == "REGEX" && at + 1 < i.size()) {
      const Regex regex(i[at + 1]);
      for (std::size_t k = 0; k < elements.size(); ++k) chosen[k] = regex.matches(elements[k]);
      at += 2;
    } else {
      e.not_understood(i, "'" + word + "' in list(TRANSFORM)");
    }
  }
  for (std::size_t k = 0; k < elements.size(); ++k) {
    if (chosen[k]) elements[k] = transformed(e, i, action, operands, elements[k]);
  }
  e.set(output, list_join(elements));
}

void run_list(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "list(OPERATION NAME ...)");
  const std::string& operation = i[0];
  const std::string& name = i[1];
  if (operation == "APPEND") {
    // Without taking the list apart: it may be long, and lists are mostly made this way.
    if (i.size() == 3)
      e.append_element(name, i[2]);
    else if (i.size() > 3)
      e.append_element(name, list_join(i.texts(2)));
    return;
  }
  Elements elements = list_elements(e.value(name));
  const auto store = [&] { e.set(name, list_join(elements)); };
  if (operation == "LENGTH") {
    e.need(i, 3, "list(LENGTH NAME RESULT)");
    e.set(i[2], std::to_string(elements.size()));
  } else if (operation == "GET") {
    e.need(i, 4, "list(GET NAME index... RESULT)");
    Elements out;
    for (std::size_t k = 2; k + 1 < i.size(); ++k) out.push_back(elements[index(e, i, i[k], elements.size())]);
    e.set(i[i.size() - 1], list_join(out));
  } else if (operation == "JOIN") {
    e.need(i, 4, "list(JOIN NAME glue RESULT)");
    e.set(i[3], text::join(elements, i[2]));
  } else if (operation == "SUBLIST") {
    e.need(i, 5, "list(SUBLIST NAME begin length RESULT)");
    const auto begin = elements.empty() ? 0 : index(e, i, i[2], elements.size(), true);
    const long long length = std::atoll(i[3].c_str());
    const auto end = length < 0 ? elements.size() : std::min(elements.size(), begin + static_cast<std::size_t>(length));
    e.set(i[4], list_join({elements.begin() + static_cast<std::ptrdiff_t>(begin),
                           elements.begin() + static_cast<std::ptrdiff_t>(end)}));
  } else if (operation == "FIND") {
    e.need(i, 4, "list(FIND NAME value RESULT)");
    const auto it = std::find(elements.begin(), elements.end(), i[2]);
    e.set(i[3], it == elements.end() ? "-1" : std::to_string(it - elements.begin()));
  } else if (operation == "PREPEND") {
    const auto more = i.texts(2);
    if (more.empty()) return;
    const std::string old = e.value(name);
    const std::string added = list_join(more);
    e.set(name, old.empty() ? added : added + ";" + old);
  } else if (operation == "FILTER") {
    e.need(i, 5, "list(FILTER NAME INCLUDE|EXCLUDE REGEX pattern)");
    const Regex regex(i[4]);
    const bool include = i[2] == "INCLUDE";
    std::erase_if(elements, [&](const auto& element) { return regex.matches(element) != include; });
    store();
  } else if (operation == "INSERT") {
    e.need(i, 4, "list(INSERT NAME index values...)");
    const auto at = elements.empty() ? 0 : index(e, i, i[2], elements.size(), true);
    const auto more = i.texts(3);
    elements.insert(elements.begin() + static_cast<std::ptrdiff_t>(at), more.begin(), more.end());
    store();
  } else if (operation == "POP_BACK" || operation == "POP_FRONT") {
    for (std::size_t k = 2; k < std::max<std::size_t>(3, i.size()); ++k) {
      if (elements.empty()) {
        if (k < i.size()) e.unset(i[k]);
        continue;
      }
      const auto at = operation == "POP_BACK" ? elements.end() - 1 : elements.begin();
      if (k < i.size()) e.set(i[k], *at);
      elements.erase(at);
    }
    store();
  } else if (operation == "REMOVE_ITEM") {
    const auto gone = i.texts(2);
    std::erase_if(elements,
                  [&](const auto& element) { return std::find(gone.begin(), gone.end(), element) != gone.end(); });
    if (e.find(name) != nullptr) store();
  } else if (operation == "REMOVE_AT") {
    std::set<std::size_t, std::greater<>> gone;
    for (std::size_t k = 2; k < i.size(); ++k) gone.insert(index(e, i, i[k], elements.size()));
    for (const auto at : gone) elements.erase(elements.begin() + static_cast<std::ptrdiff_t>(at));
    store();
  } else if (operation == "REMOVE_DUPLICATES") {
    std::set<std::string> seen;
    std::erase_if(elements, [&](const auto& element) { return !seen.insert(element).second; });
    if (e.find(name) != nullptr) store();
  } else if (operation == "REVERSE") {
    std::reverse(elements.begin(), elements.end());
    store();
  } else if (operation == "SORT") {
    sort_list(e, i, elements);
    store();
  } else if (operation == "TRANSFORM") {
    transform_list(e, i, elements);
  } else {
    e.not_understood(i, "list(" + operation + ")");
  }
}

void command_list(Evaluator& e, const Invocation& i) {
  try {
    run_list(e, i);
  } catch (const std::invalid_argument& error) {
    e.fail(i.place, "a pattern in list(" + i[0] + ") cannot be used", "check the pattern", error.what());
  }
}

}  // namespace

void add_list_commands(CommandTable& table) { table["list"] = command_list; }

}  // namespace coctilis::describe::listfile
