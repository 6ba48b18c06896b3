// Packages whose own program tells how to compile and link with them.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/packages.h"
#include "locate/known.h"
#include "locate/told.h"

namespace coctilis::describe::listfile {

bool find_told(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  const auto* known = locate::known_library(wish.name);
  if (known == nullptr || known->told.program.empty()) return false;
  const auto& told_by = known->told;
  const auto variable = [&](const char* name) { return wish.name + "_" + name; };
  const std::string named = e.value(variable("CONFIG_EXECUTABLE"));
  const auto program =
      e.locator.program({model::RequirementKind::program, told_by.program, {}, false, i.name, i.place, {}},
                        {named.starts_with('/') ? named : told_by.program}, {});
  model::Finding finding;
  finding.requirement = requirement_of(wish, model::RequirementKind::library, i);
  finding.how = told_by.program;
  finding.looked = program.looked;
  locate::ToldFlags compile;
  locate::ToldFlags link;
  if (program.found) {
    std::vector<std::string> command = {program.where};
    for (const auto& option : list_elements(e.value(variable("CONFIG_OPTIONS")))) command.push_back(option);
    const auto told = [&](std::vector<std::string> words) {
      words.insert(words.begin(), command.begin(), command.end());
      return std::string(text::trim(e.locator.told_by(words)));
    };
    std::vector<std::string> parts = wish.components;
    parts.insert(parts.end(), wish.optional_components.begin(), wish.optional_components.end());
    std::erase(parts, told_by.part);
    compile = locate::sorted_flags(told({told_by.compile}));
    link = locate::sorted_flags(told({told_by.link, parts.empty() ? told_by.part : text::join(parts, ",")}));
    finding.version = told({told_by.version});
    finding.looked = {program.where};
    finding.found = compile.good && link.good && !link.items.empty();
    if (!finding.found) finding.reason = program.where + " does not tell of these parts: " + text::join(parts, ", ");
    if (finding.found && !text::version_meets(finding.version, wish.constraint())) {
      finding.found = false;
      finding.refused = true;
      finding.reason = "version " + finding.version + " of " + program.where + " is not usable";
    }
  }
  if (!finding.found) finding.package = known->package;
  set_found(e, wish, finding.found, finding.version);
  e.set(variable("FOUND"), finding.found ? "TRUE" : "FALSE");
  if (finding.found) {
    finding.where = program.where;
    std::vector<std::string> libraries = link.items;
    for (const auto& folder : link.link_folders) libraries.insert(libraries.begin(), "-L" + folder);
    e.set(variable("CONFIG_EXECUTABLE"), program.where);
    e.set(variable("INCLUDE_DIRS"), list_join(compile.include_folders));
    e.set(variable("DEFINITIONS"), list_join(compile.definitions));
    e.set(variable("CXX_FLAGS"), list_join([&] {
            auto options = compile.options;
            for (const auto& item : compile.items) options.push_back(item);
            return options;
          }()));
    e.set(variable("LIBRARY_DIRS"), list_join(link.link_folders));
    e.set(variable("LIBRARIES"), list_join(libraries));
    e.set(variable("USE_FILE"), told_by.use_file);
    finding.usage.include_folders = compile.include_folders;
    finding.usage.definitions = compile.definitions;
    finding.usage.compile_options = compile.options;
    finding.usage.link_folders = link.link_folders;
    finding.usage.link_items = link.items;
  }
  e.keep(std::move(finding));
  return true;
}

bool use_told(Evaluator& e, const std::string& use_file, const Invocation& i) {
  const auto* known = use_file.starts_with("Use") ? locate::known_library(use_file.substr(3)) : nullptr;
  if (known == nullptr || known->told.use_file != use_file) return false;
  const std::string name = use_file.substr(3);
  const auto call = [&](const char* command, const std::vector<std::string>& first,
                        const std::vector<std::string>& words) {
    if (words.empty()) return;
    Invocation made{command, {}, i.place};
    for (const auto& word : first) made.words.push_back({word, false});
    for (const auto& word : words) made.words.push_back({word, true});
    e.call(made);
  };
  call("include_directories", {"SYSTEM"}, list_elements(e.value(name + "_INCLUDE_DIRS")));
  call("link_directories", {}, list_elements(e.value(name + "_LIBRARY_DIRS")));
  call("add_compile_definitions", {}, list_elements(e.value(name + "_DEFINITIONS")));
  const std::string flags = text::join(list_elements(e.value(name + "_CXX_FLAGS")), " ");
  if (!flags.empty()) e.set("CMAKE_CXX_FLAGS", e.value("CMAKE_CXX_FLAGS") + " " + flags);
  return true;
}

}  // namespace coctilis::describe::listfile
