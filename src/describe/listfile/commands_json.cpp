// string(JSON ...): looking into and changing JSON texts (RFC 8259).
#include <nlohmann/json.hpp>

#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

using Json = nlohmann::json;  // members in the order of their names, as the language counts them

struct Wrong {
  std::string what;
  std::string path;  // where, as the answer of a failing call: "a-b-NOTFOUND"
};

const char* type_of(const Json& value) {
  switch (value.type()) {
    case Json::value_t::null: return "NULL";
    case Json::value_t::boolean: return "BOOLEAN";
    case Json::value_t::array: return "ARRAY";
    case Json::value_t::object: return "OBJECT";
    case Json::value_t::string: return "STRING";
    default: return "NUMBER";
  }
}

std::string text_of(const Json& value) {
  if (value.is_null()) return "";
  if (value.is_boolean()) return value.get<bool>() ? "ON" : "OFF";
  if (value.is_string()) return value.get<std::string>();
  return value.is_structured() ? value.dump(2, ' ', false, Json::error_handler_t::replace) : value.dump();
}

std::size_t index_of(const std::string& word, std::size_t size, const std::string& path) {
  if (word.empty() || word.find_first_not_of("0123456789") != std::string::npos || word.size() > 9)
    throw Wrong{"'" + word + "' is no index", path};
  const std::size_t index = std::stoul(word);
  if (index >= size) throw Wrong{"the index " + word + " is beyond " + std::to_string(size) + " elements", path};
  return index;
}

Json* step_into(Json* at, const std::string& word, std::string& path) {
  path += (path.empty() ? "" : "-") + word;
  if (at->is_object()) {
    const auto it = at->find(word);
    if (it == at->end()) throw Wrong{"there is no member '" + word + "'", path};
    return &*it;
  }
  if (at->is_array()) return &(*at)[index_of(word, at->size(), path)];
  throw Wrong{std::string("'") + word + "' is looked for in a " + type_of(*at), path};
}

// Printing and comparing go down as deep as the text is nested; no sound text is nested like this.
bool too_deep(const std::string& text) {
  int depth = 0;
  for (const char c : text) {
    if (c == '[' || c == '{') ++depth;
    if (c == ']' || c == '}') --depth;
    if (depth > 1000) return true;
  }
  return false;
}

Json parsed(const std::string& text) {
  if (too_deep(text)) throw Wrong{"it is nested more than 1000 deep", ""};
  auto out = Json::parse(text, nullptr, false);
  if (out.is_discarded()) throw Wrong{"this is no JSON: " + text::clip(text::printable_line(text), 60), ""};
  return out;
}

std::string answer(const std::string& mode, const std::vector<std::string>& words) {
  if (words.empty()) throw Wrong{"it has no JSON text", ""};
  if (mode == "EQUAL") {
    if (words.size() != 2) throw Wrong{"EQUAL takes two texts", ""};
    return parsed(words[0]) == parsed(words[1]) ? "ON" : "OFF";
  }
  Json document = parsed(words[0]);
  const bool set = mode == "SET";
  const bool remove = mode == "REMOVE";
  const bool member = mode == "MEMBER";
  // The last word is not stepped into when something is done to it.
  const std::size_t behind = set ? 2 : remove || member ? 1 : 0;
  if (words.size() < 1 + behind) throw Wrong{mode + " needs more arguments", ""};
  Json* at = &document;
  std::string path;
  for (std::size_t k = 1; k + behind < words.size(); ++k) at = step_into(at, words[k], path);
  if (mode == "GET") return text_of(*at);
  if (mode == "TYPE") return type_of(*at);
  if (mode == "LENGTH") {
    if (!at->is_structured()) throw Wrong{std::string("a ") + type_of(*at) + " has no length", path};
    return std::to_string(at->size());
  }
  if (member) {
    if (!at->is_object()) throw Wrong{std::string("a ") + type_of(*at) + " has no members", path};
    auto it = at->begin();
    std::advance(it, static_cast<std::ptrdiff_t>(index_of(words.back(), at->size(), path)));
    return it.key();
  }
  if (remove) {
    if (at->is_object())
      at->erase(words.back());
    else if (at->is_array())
      at->erase(index_of(words.back(), at->size(), path));
    else
      throw Wrong{std::string("nothing can be removed from a ") + type_of(*at), path};
    return text_of(document);
  }
  if (set) {
    const std::string& key = words[words.size() - 2];
    const Json value = parsed(words.back());
    if (at->is_object()) {
      (*at)[key] = value;
    } else if (at->is_array()) {
      const bool beyond = key.find_first_not_of("0123456789") == std::string::npos && !key.empty() && key.size() < 10 &&
                          std::stoul(key) >= at->size();
      if (beyond)
        at->push_back(value);
      else
        (*at)[index_of(key, at->size(), path)] = value;
    } else {
      throw Wrong{std::string("a ") + type_of(*at) + " has no members to set", path};
    }
    return text_of(document);
  }
  throw Wrong{"'" + mode + "' is no operation on JSON", ""};
}

}  // namespace

void string_json(Evaluator& e, const Invocation& i) {
  e.need(i, 4, "string(JSON RESULT [ERROR_VARIABLE NAME] OPERATION text ...)");
  std::size_t at = 2;
  std::string error;
  if (i[2] == "ERROR_VARIABLE") {
    e.need(i, 6, "string(JSON RESULT ERROR_VARIABLE NAME OPERATION text ...)");
    error = i[3];
    at = 4;
  }
  try {
    const std::string out = answer(i[at], i.texts(at + 1));
    e.set(i[1], out);
    if (!error.empty()) e.set(error, "NOTFOUND");
  } catch (const Wrong& wrong) {
    if (error.empty()) e.fail(i, "string(JSON " + i[at] + "): " + wrong.what, "check the text and the path in it");
    e.set(i[1], (wrong.path.empty() ? "" : wrong.path + "-") + "NOTFOUND");
    e.set(error, wrong.what);
  }
}

}  // namespace coctilis::describe::listfile
