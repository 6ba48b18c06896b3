// What linkers say: libraries, and the symbols that are in them.
#include <re2/re2.h>

#include <algorithm>

#include "base/elf.h"
#include "base/files.h"
#include "base/text.h"
#include "doctor/case.h"
#include "locate/known.h"

namespace coctilis::doctor {

namespace {

std::string name_of(const std::string& path) { return std::filesystem::path(path).filename().string(); }

std::string at_place(const Case& c) {
  return "'" + c.step.target + "'" + (c.step.place.file.empty() ? "" : " (" + c.step.place.text() + ")");
}

struct OnLine {
  std::string file;
  std::size_t place = 0;  // among the words
};

// The objects and libraries that a link command names, in their order.
std::vector<OnLine> files_on_line(const Case& c) {
  std::vector<std::string> folders;
  std::vector<OnLine> out;
  const auto words = text::shell_words(c.result.command);
  for (std::size_t i = 0; i < words.size(); ++i) {
    if (words[i].starts_with("-L"))
      folders.push_back(words[i].size() > 2 ? words[i].substr(2) : i + 1 < words.size() ? words[i + 1] : "");
  }
  for (std::size_t i = 0; i < words.size(); ++i) {
    const std::string& word = words[i];
    if (word == "-o") {
      ++i;
    } else if (word.starts_with("-l") && word.size() > 2) {
      bool found = false;
      for (const auto& folder : folders) {
        for (const char* ending : {".so", ".a"}) {
          const std::string file = files::absolute(folder + "/lib" + word.substr(2) + ending, c.folder());
          if (found || !files::is_file(file)) continue;
          out.push_back({file, i});
          found = true;
        }
      }
    } else if (!word.starts_with('-') &&
               (word.ends_with(".o") || word.ends_with(".a") || word.find(".so") < word.size())) {
      const std::string file = files::absolute(word, c.folder());
      if (files::is_file(file)) out.push_back({file, i});
    }
  }
  return out;
}

// Who uses the symbol, as the linker says it: "libglaze.a(glaze.o)", "fire.o".
std::string user_of(const Case& c, const std::string& symbol) {
  static const RE2 user(R"((?m)(?:^|ld: )([^\s:]+?)(?:\([^)]*\))?:(?: in function|[^\n]*\(\.[a-z]).*)");
  std::string last;
  for (const auto& line : text::split(text::printable(c.result.output), '\n')) {
    std::string found;
    if (RE2::PartialMatch(line, user, &found) && (found.ends_with(".o") || found.ends_with(".a"))) last = found;
    if (line.find("undefined reference to") != std::string::npos && line.find(symbol) != std::string::npos) return last;
  }
  return last;
}

}  // namespace

Explanation missing_library(const Case& c) {
  Explanation out{"missing library", "the linker finds no library '" + c.first + "'", {}};
  const auto* known = locate::known_by_link_name(c.first);
  for (const auto& target : c.plan.targets) {
    const std::string name = name_of(target.output);
    if (!name.starts_with("lib" + c.first + ".")) continue;
    out.remedy = "the tree builds it ('" + target.name + "', " + target.place.text() + "): " + at_place(c) +
                 " neither depends on that nor has its folder";
    return out;
  }
  out.remedy = how_to_install(c, known == nullptr ? "" : known->package,
                              "install the library's development files, or give its prefix with --with PREFIX");
  return out;
}

Explanation undefined_reference(const Case& c) {
  Explanation out{"undefined reference", {}, {}};
  const auto line = files_on_line(c);
  const auto defining = std::find_if(line.begin(), line.end(), [&](const OnLine& one) {
    return one.file.ends_with(".a") && symbol_use(one.file, c.first).defined;
  });
  if (defining != line.end()) {
    const std::string user = name_of(user_of(c, c.first));
    const auto using_it =
        std::find_if(line.rbegin(), line.rend(), [&](const OnLine& one) { return name_of(one.file) == user; });
    const std::string library = name_of(defining->file);
    if (using_it != line.rend() && using_it->place > defining->place) {
      out.cause = "'" + library + "' defines '" + c.first + "', but stands on the link line before '" + user +
                  "', which uses it: libraries are searched in their order";
      out.remedy = "name '" + library + "' after '" + user + "' for " + at_place(c);
    } else {
      out.cause =
          "'" + library + "' on the link line has '" + c.first + "', but the linker does not take it from there";
      out.remedy = "look at the order of the libraries of " + at_place(c) + ", and whether the symbol is a hidden one";
    }
    return out;
  }
  out.cause = "'" + c.first + "' is used but no object or library on the link line defines it";
  out.remedy = "add the source or the library that defines it to " + at_place(c);
  std::size_t looked = 0;
  for (const auto& target : c.plan.targets) {
    if (target.output.empty() || target.kind == model::TargetKind::program || !files::is_file(target.output) ||
        ++looked > 500 || target.name == c.step.target)
      continue;
    if (!symbol_use(target.output, c.first).defined) continue;
    out.remedy = "'" + target.name + "' (" + target.place.text() + ") defines it: link it to " + at_place(c);
    break;
  }
  return out;
}

Explanation not_on_link_line(const Case& c) {
  const std::string file = name_of(c.first);
  std::string name = file.substr(0, file.find(".so"));
  if (name.starts_with("lib")) name.erase(0, 3);
  return {"library not on the link line", "what is used is in '" + file + "', which is not on the link line",
          "link '" + name + "' to " + at_place(c)};
}

Explanation multiple_definition(const Case& c) {
  if (c.first != "main")
    return {"multiple definition", "'" + c.first + "' is defined more than once",
            "keep one of the definitions, or make it static or inline"};
  // A program begins in one place only; nobody can make that static.
  std::string second;
  std::string first;
  static const RE2 places(
      R"((?m)([^\s:(]+)(?::[0-9]+)?:?(?:\(\.[^)]*\))?: multiple definition of [`']main'; [^\s:]+:([^\s:(]+))");
  const bool named = RE2::PartialMatch(text::printable(c.result.output), places, &second, &first);
  return {"two main functions",
          named ? "'" + name_of(first) + "' and '" + name_of(second) +
                      "' both have a function main, in which a program starts"
                : "more than one of its sources has a function main, in which a program starts",
          "leave one of them out of " + at_place(c) + ", or make each a program of its own"};
}

Explanation not_position_independent(const Case&) {
  return {"not position independent", "an object that is linked into a shared library was compiled without -fPIC",
          "set POSITION_INDEPENDENT_CODE for the target it comes from"};
}

}  // namespace coctilis::doctor
