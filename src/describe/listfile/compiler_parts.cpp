// Packages that are parts of the tool chain or of the C library: a program that is compiled and linked tells whether
// they are there, and under which option.
#include "locate/compiler_parts.h"

#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/packages.h"

namespace coctilis::describe::listfile {

namespace {

using locate::KnownCompilerPart;

// What was found in one language.
struct Present {
  std::string language;  // empty: it is put once, in whatever language there is
  bool found = false;
  std::string option;  // under which it is there
};

// The compilers know the language under a name that differs from the description's.
std::string probe_language(const std::string& language) { return language == "CXX" ? "C++" : language; }

Present look_for(Evaluator& e, const KnownCompilerPart& part, const PackageWish& wish, const std::string& language,
                 const Invocation& i) {
  const auto in_use = e.enabled_languages();
  const std::string asked = !language.empty() ? language : lists::contains(in_use, "C") ? "C" : "CXX";
  const std::string variable = wish.name + (language.empty() ? "" : "_" + language) + "_FOUND";
  const auto found = locate::look_for(e.locator, part, probe_language(asked),
                                      {variable, i.name, i.place, {}, {}, {}, {}, {}, {}, false});
  Present out{language, found.found, found.option};
  if (out.found && e.on(part.preferred.first)) out.option = part.preferred.second;
  return out;
}

// Sets the variables, and adds the target, of one language.
void tell(Evaluator& e, const KnownCompilerPart& part, const Present& present, const Invocation& i) {
  const std::string library = part.library_for(e.locator.toolchain().family);
  const auto filled_in = [&](std::string text) {
    const std::pair<const char*, std::string> words[] = {{"{language}", present.language},
                                                         {"{library}", library},
                                                         {"{option}", present.option},
                                                         {"{option-free}", present.option.empty() ? "1" : ""},
                                                         {"{found}", present.found ? "TRUE" : "FALSE"}};
    for (const auto& [word, value] : words) text = text::replace_all(std::move(text), word, value);
    return text;
  };
  for (const auto& [name, value] : part.variables)
    e.set(filled_in(name), present.found || value == "{found}" ? filled_in(value) : "");
  // An absent part that is needed is an error of its own; its target is there, so that reading can go on.
  if (!present.found && !part.languages.empty()) return;
  const locate::CompilerPart used{present.found, present.option, lists::contains(part.compiled_with, present.option)};
  imported_target(e, filled_in(part.target), used.usage(), i);
}

}  // namespace

bool find_compiler_part(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  const auto* part = locate::known_compiler_part(wish.name);
  if (part == nullptr) return false;
  std::vector<Present> all;
  if (part->languages.empty()) all.push_back(look_for(e, *part, wish, {}, i));
  for (const auto& language : e.enabled_languages()) {
    if (lists::contains(part->languages, language)) all.push_back(look_for(e, *part, wish, language, i));
  }
  model::Finding finding;
  finding.requirement = requirement_of(wish, model::RequirementKind::library, i);
  finding.requirement.name = part->shown;
  finding.how = "probe";
  finding.found = !all.empty();
  for (const auto& present : all) {
    tell(e, *part, present, i);
    finding.found = finding.found && present.found;
  }
  if (finding.found)
    finding.where = all.front().option.empty() ? "in the C library" : all.front().option;
  else
    finding.package = part->package_for(e.locator.toolchain().family);
  set_found(e, wish, finding.found, "");
  e.keep(std::move(finding));
  return true;
}

}  // namespace coctilis::describe::listfile
