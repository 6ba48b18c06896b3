#include "describe/makefile/functions.h"

#include <algorithm>
#include <unordered_map>
#include <unordered_set>

#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/makefile/make.h"
#include "describe/makefile/words.h"

namespace coctilis::describe::makefile {

namespace {

using Arguments = Functions::Arguments;

// Puts words out, blanks between.
class Out {
 public:
  explicit Out(std::string& out) : out_(out) {}
  void word(std::string_view text) {
    if (!first_) out_ += ' ';
    first_ = false;
    out_ += text;
  }

 private:
  std::string& out_;
  bool first_ = true;
};

template <class Change>
void each_word(std::string& out, const std::string& list, Change change) {
  Out words(out);
  for (const auto& word : text::words(list)) words.word(change(word));
}

// A whole number of an argument; 0 with `good` false when it is none.
long long number(const std::string& text, bool& good) {
  const std::string plain(text::trim(text));
  char* end = nullptr;
  const long long value = std::strtoll(plain.c_str(), &end, 10);
  good = !plain.empty() && *end == '\0';
  return value;
}

void subst(Make&, std::string& out, Arguments& a, const Place&) {
  if (a[0].empty())
    out += a[2] + a[1];
  else
    out += text::replace_all(a[2], a[0], a[1]);
}
void patsubst(Make&, std::string& out, Arguments& a, const Place&) {
  const std::string from(text::trim(a[0]));
  const std::string to(text::trim(a[1]));
  each_word(out, a[2], [&](const std::string& word) { return replace_pattern(word, from, to); });
}
void strip(Make&, std::string& out, Arguments& a, const Place&) { out += text::join(text::words(a[0]), " "); }
void findstring(Make&, std::string& out, Arguments& a, const Place&) {
  if (a[1].find(a[0]) != std::string::npos) out += a[0];
}
void filter_words(std::string& out, const Arguments& a, bool keep) {
  std::unordered_set<std::string> plain;
  std::vector<std::string> patterns;
  for (auto& pattern : text::words(a[0])) {
    if (pattern.find('%') == std::string::npos)
      plain.insert(pattern);
    else
      patterns.push_back(std::move(pattern));
  }
  Out words(out);
  std::string stem;
  for (const auto& word : text::words(a[1])) {
    const bool fits = plain.contains(word) || std::any_of(patterns.begin(), patterns.end(), [&](const auto& pattern) {
                        return match_pattern(pattern, word, stem);
                      });
    if (fits == keep) words.word(word);
  }
}
void filter(Make&, std::string& out, Arguments& a, const Place&) { filter_words(out, a, true); }
void filter_out(Make&, std::string& out, Arguments& a, const Place&) { filter_words(out, a, false); }
void sort(Make&, std::string& out, Arguments& a, const Place&) {
  auto words = text::words(a[0]);
  std::sort(words.begin(), words.end());
  words.erase(std::unique(words.begin(), words.end()), words.end());
  out += text::join(words, " ");
}
void word(Make&, std::string& out, Arguments& a, const Place& place) {
  bool good = false;
  const long long n = number(a[0], good);
  if (!good || n < 1)
    throw Fault({Exit::description,
                 place,
                 "the first argument of 'word' is '" + text::printable_line(a[0]) + "'",
                 {},
                 "give a number from 1 on",
                 {}});
  const auto words = text::words(a[1]);
  if (static_cast<unsigned long long>(n) <= words.size()) out += words[static_cast<std::size_t>(n) - 1];
}
void wordlist(Make&, std::string& out, Arguments& a, const Place& place) {
  bool good = false;
  bool also = false;
  const long long first = number(a[0], good);
  const long long last = number(a[1], also);
  if (!good || !also || first < 1 || last < 0)
    throw Fault({Exit::description,
                 place,
                 "the arguments of 'wordlist' are '" + text::printable_line(a[0] + "," + a[1]) + "'",
                 {},
                 "give numbers from 1 on",
                 {}});
  const auto words = text::words(a[2]);
  Out to(out);
  for (long long i = first; i <= last && static_cast<unsigned long long>(i) <= words.size(); ++i)
    to.word(words[static_cast<std::size_t>(i) - 1]);
}
void words(Make&, std::string& out, Arguments& a, const Place&) { out += std::to_string(text::words(a[0]).size()); }
void firstword(Make&, std::string& out, Arguments& a, const Place&) {
  const auto list = text::words(a[0]);
  if (!list.empty()) out += list.front();
}
void lastword(Make&, std::string& out, Arguments& a, const Place&) {
  const auto list = text::words(a[0]);
  if (!list.empty()) out += list.back();
}
void dir(Make&, std::string& out, Arguments& a, const Place&) {
  each_word(out, a[0], [](const std::string& name) {
    const auto slash = name.rfind('/');
    return slash == std::string::npos ? std::string("./") : name.substr(0, slash + 1);
  });
}
void notdir(Make&, std::string& out, Arguments& a, const Place&) {
  each_word(out, a[0], [](const std::string& name) { return name.substr(name.rfind('/') + 1); });
}
std::size_t dot_of(const std::string& name) {
  const auto dot = name.rfind('.');
  const auto slash = name.rfind('/');
  return dot == std::string::npos || (slash != std::string::npos && dot < slash) ? std::string::npos : dot;
}
void suffix(Make&, std::string& out, Arguments& a, const Place&) {
  Out to(out);
  for (const auto& name : text::words(a[0])) {
    if (const auto dot = dot_of(name); dot != std::string::npos) to.word(name.substr(dot));
  }
}
void basename(Make&, std::string& out, Arguments& a, const Place&) {
  each_word(out, a[0], [](const std::string& name) { return name.substr(0, dot_of(name)); });
}
void addsuffix(Make&, std::string& out, Arguments& a, const Place&) {
  each_word(out, a[1], [&](const std::string& name) { return name + a[0]; });
}
void addprefix(Make&, std::string& out, Arguments& a, const Place&) {
  each_word(out, a[1], [&](const std::string& name) { return a[0] + name; });
}
void join(Make&, std::string& out, Arguments& a, const Place&) {
  const auto left = text::words(a[0]);
  const auto right = text::words(a[1]);
  Out to(out);
  for (std::size_t i = 0; i < std::max(left.size(), right.size()); ++i)
    to.word((i < left.size() ? left[i] : "") + (i < right.size() ? right[i] : ""));
}

}  // namespace

void Functions::if_(Make& make, std::string& out, Arguments& a, const Place& place) {
  if (!text::trim(make.expand(text::trim(a[0]), place)).empty())
    make.expand_into(out, a[1], place);
  else if (a.size() > 2)
    make.expand_into(out, a[2], place);
}
void Functions::or_(Make& make, std::string& out, Arguments& a, const Place& place) {
  for (const auto& argument : a) {
    const std::string text = make.expand(text::trim(argument), place);
    if (text.empty()) continue;
    out += text;
    return;
  }
}
void Functions::and_(Make& make, std::string& out, Arguments& a, const Place& place) {
  std::string last;
  for (const auto& argument : a) {
    last = make.expand(text::trim(argument), place);
    if (last.empty()) return;
  }
  out += last;
}
void Functions::intcmp(Make& make, std::string& out, Arguments& a, const Place& place) {
  bool good = false;
  bool also = false;
  const std::string left(text::trim(make.expand(a[0], place)));
  const long long one = number(left, good);
  const long long two = number(make.expand(a[1], place), also);
  if (!good || !also) make.fail(place, "the first arguments of 'intcmp' are no numbers", "give two whole numbers");
  if (a.size() == 2) {
    if (one == two) out += left;
    return;
  }
  const std::size_t which = one < two ? 2 : one == two ? 3 : 4;
  if (which < a.size())
    make.expand_into(out, a[which], place);
  else if (which == 4 && a.size() > 3)
    make.expand_into(out, a[3], place);
}

void Functions::foreach (Make& make, std::string & out, Arguments & a, const Place& place) {
  const std::string name(text::trim(make.expand(a[0], place)));
  const auto list = text::words(make.expand(a[1], place));
  std::optional<Variable> before;
  if (const auto it = make.variables_.find(name); it != make.variables_.end()) before = it->second;
  Out to(out);
  for (const auto& word : list) {
    make.count_work(place);
    make.variables_[name] = {word, false, Origin::automatic, std::nullopt};
    to.word(make.expand(a[2], place));
  }
  if (before)
    make.variables_[name] = *before;
  else
    make.variables_.erase(name);
}

void Functions::let(Make& make, std::string& out, Arguments& a, const Place& place) {
  const auto names = text::words(make.expand(a[0], place));
  auto values = text::words(make.expand(a[1], place));
  std::vector<std::optional<Variable>> before;
  for (std::size_t i = 0; i < names.size(); ++i) {
    const auto it = make.variables_.find(names[i]);
    before.push_back(it == make.variables_.end() ? std::nullopt : std::optional(it->second));
    std::string value;
    if (i + 1 == names.size())
      value = text::join({values.begin() + static_cast<std::ptrdiff_t>(std::min(i, values.size())), values.end()}, " ");
    else if (i < values.size())
      value = values[i];
    make.variables_[names[i]] = {value, false, Origin::automatic, std::nullopt};
  }
  make.expand_into(out, a[2], place);
  for (std::size_t i = 0; i < names.size(); ++i) {
    if (before[i])
      make.variables_[names[i]] = *before[i];
    else
      make.variables_.erase(names[i]);
  }
}

void Functions::call(Make& make, std::string& out, Arguments& a, const Place& place) {
  a[0] = std::string(text::trim(a[0]));
  const std::string name = a[0];
  if (const auto* built_in = find(name); built_in != nullptr) {
    Arguments rest(a.begin() + 1, a.end());
    if (rest.size() < built_in->least) return;
    if (!built_in->expanded) {
      for (auto& text : rest) text = text::replace_all(text, "$", "$$");
    }
    built_in->run(make, out, rest, place);
    return;
  }
  const Variable* variable = make.find(name);
  if (variable == nullptr) return;
  std::vector<const std::string*> arguments;
  for (const auto& text : a) arguments.push_back(&text);
  // A function may call itself; what it calls does not see its arguments.
  const std::string body = variable->value;
  if (!variable->recursive) {
    out += body;
    return;
  }
  std::swap(make.arguments_, arguments);
  if (++make.depth_ > 300) make.fail(place, "calls are nested more than 300 deep", "look for a function without end");
  make.expand_into(out, body, place);
  --make.depth_;
  std::swap(make.arguments_, arguments);
}

void Functions::eval(Make& make, std::string&, Arguments& a, const Place& place) {
  if (make.forbid_late_) {
    make.used_late_ = true;
    make.used_eval_ = true;
    return;
  }
  // What is read here is a makefile of its own: rules begin and end in it.
  auto pending = std::move(make.pending_);
  make.pending_ = {};
  auto arguments = std::move(make.arguments_);
  make.arguments_.clear();
  const std::string file = place.file.starts_with('/') ? place.file : make.tree_ + "/" + place.file;
  if (++make.file_depth_ > 200) make.fail(place, "'eval' is nested more than 200 deep", "look for one without end");
  make.read_text(a[0], place.file == "built in" ? place.file : file, place.line);
  --make.file_depth_;
  make.end_rule();
  make.pending_ = std::move(pending);
  make.arguments_ = std::move(arguments);
}

void Functions::value(Make& make, std::string& out, Arguments& a, const Place&) {
  if (const Variable* variable = make.find(std::string(text::trim(a[0])))) out += variable->value;
}
void Functions::origin(Make& make, std::string& out, Arguments& a, const Place&) {
  const std::string name(text::trim(a[0]));
  std::string nothing;
  if (make.automatic(nothing, name)) {
    out += name_of(Origin::automatic);
    return;
  }
  const Variable* variable = make.find(name);
  out += name_of(variable == nullptr ? Origin::undefined : variable->origin);
}
void Functions::flavor(Make& make, std::string& out, Arguments& a, const Place&) {
  const Variable* variable = make.find(std::string(text::trim(a[0])));
  out += variable == nullptr ? "undefined" : variable->recursive ? "recursive" : "simple";
}

void Functions::shell(Make& make, std::string& out, Arguments& a, const Place& place) {
  out += make.run_shell(a[0], place);
}
void Functions::wildcard(Make& make, std::string& out, Arguments& a, const Place&) {
  make.used_late_ = true;
  if (make.forbid_late_) return;
  Out to(out);
  for (const auto& pattern : text::words(a[0])) {
    for (const auto& name : make.matching(pattern)) to.word(name);
  }
}
void Functions::file(Make& make, std::string& out, Arguments& a, const Place& place) {
  make.used_late_ = true;
  if (make.forbid_late_) return;
  std::string name(text::trim(a[0]));
  std::string how = name.starts_with(">>") ? ">>" : name.starts_with(">") ? ">" : name.starts_with("<") ? "<" : "";
  if (how.empty()) make.fail(place, "'file' neither reads nor writes", "write $(file > NAME,text), or >> or <");
  name = std::string(text::trim(name.substr(how.size())));
  const std::string path = make.absolute(name);
  if (how == "<") {
    const auto read = files::read(path);
    if (!read && files::exists(path)) make.fail(place, "'" + make.shown(path) + "' " + files::why_not_read(path), "");
    std::string content = read.value_or("");
    if (content.ends_with('\n')) content.pop_back();
    out += content;
    return;
  }
  if (!make.may_write(path))
    make.fail(place, "the makefile writes to '" + make.shown(path) + "', outside its output folder", "");
  std::string content = how == ">>" ? files::read(path).value_or("") : "";
  if (a.size() > 1) {
    content += a[1];
    if (!content.ends_with('\n')) content += '\n';
  }
  files::write(path, content);
  make.times_.clear();
  make.folders_.clear();
}
void Functions::abspath(Make& make, std::string& out, Arguments& a, const Place&) {
  each_word(out, a[0], [&](const std::string& name) { return make.absolute(name); });
}
void Functions::realpath(Make& make, std::string& out, Arguments& a, const Place&) {
  Out to(out);
  for (const auto& name : text::words(a[0])) {
    std::error_code error;
    observe::content(make.absolute(name));
    const auto real = std::filesystem::canonical(make.absolute(name), error);
    if (!error) to.word(real.string());
  }
}

void Functions::error(Make& make, std::string&, Arguments& a, const Place& place) {
  if (make.forbid_late_) {
    make.used_late_ = true;
    return;
  }
  make.fail(place, "the makefile gives up: " + text::printable_line(a[0]), "this is the tree's own message");
}
void Functions::warning(Make& make, std::string&, Arguments& a, const Place& place) {
  if (!make.forbid_late_) make.warn(place, "the makefile warns: " + text::printable_line(a[0]));
}
void Functions::info(Make& make, std::string&, Arguments& a, const Place&) {
  if (!make.forbid_late_ && make.messages_.size() < 1000) make.messages_.push_back(text::printable(a[0]));
}

const Functions::Known* Functions::find(std::string_view name) {
  static const std::vector<Known> table = {
      {"subst", 3, 3, true, subst},
      {"patsubst", 3, 3, true, patsubst},
      {"strip", 1, 1, true, strip},
      {"findstring", 2, 2, true, findstring},
      {"filter", 2, 2, true, filter},
      {"filter-out", 2, 2, true, filter_out},
      {"sort", 1, 1, true, sort},
      {"word", 2, 2, true, word},
      {"wordlist", 3, 3, true, wordlist},
      {"words", 1, 1, true, words},
      {"firstword", 1, 1, true, firstword},
      {"lastword", 1, 1, true, lastword},
      {"dir", 1, 1, true, dir},
      {"notdir", 1, 1, true, notdir},
      {"suffix", 1, 1, true, suffix},
      {"basename", 1, 1, true, basename},
      {"addsuffix", 2, 2, true, addsuffix},
      {"addprefix", 2, 2, true, addprefix},
      {"join", 2, 2, true, join},
      {"wildcard", 1, 1, true, wildcard},
      {"realpath", 1, 1, true, realpath},
      {"abspath", 1, 1, true, abspath},
      {"if", 2, 3, false, if_},
      {"or", 1, 0, false, or_},
      {"and", 1, 0, false, and_},
      {"intcmp", 2, 5, false, intcmp},
      {"foreach", 3, 3, false, foreach},
      {"let", 3, 3, false, let},
      {"call", 1, 0, true, call},
      {"eval", 1, 1, true, eval},
      {"value", 1, 1, true, value},
      {"origin", 1, 1, true, origin},
      {"flavor", 1, 1, true, flavor},
      {"shell", 1, 1, true, shell},
      {"file", 1, 2, true, file},
      {"error", 1, 1, true, error},
      {"warning", 1, 1, true, warning},
      {"info", 1, 1, true, info},
  };
  static const auto* index = [] {
    auto* map = new std::unordered_map<std::string_view, const Known*>;  // NOLINT: lives as long as the program
    for (const auto& known : table) (*map)[known.name] = &known;
    return map;
  }();
  const auto it = index->find(name);
  return it == index->end() ? nullptr : it->second;
}

bool Make::function(std::string& out, std::string_view inside, const Place& place) {
  const auto end = inside.find_first_of(" \t\n");
  if (end == std::string_view::npos || end == 0) return false;
  const auto* known = Functions::find(inside.substr(0, end));
  if (known == nullptr) return false;
  const auto begin = std::min(inside.find_first_not_of(" \t\n", end), inside.size());
  std::string_view rest = inside.substr(begin);
  Functions::Arguments arguments;
  while (known->most == 0 || arguments.size() + 1 < known->most) {
    const auto comma = comma_outside(rest);
    if (comma == std::string_view::npos) break;
    arguments.emplace_back(rest.substr(0, comma));
    rest.remove_prefix(comma + 1);
  }
  arguments.emplace_back(rest);
  if (arguments.size() < known->least)
    fail(place,
         std::string("the function '") + known->name + "' takes " + std::to_string(known->least) +
             " arguments, but gets " + std::to_string(arguments.size()),
         "divide them with commas");
  if (known->expanded) {
    for (auto& argument : arguments) {
      if (argument.find('$') != std::string::npos) argument = expand(argument, place);
    }
  }
  known->run(*this, out, arguments, place);
  return true;
}

}  // namespace coctilis::describe::makefile
