// Packages whose own program tells how to compile and link with them.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/packages.h"
#include "locate/known.h"

namespace coctilis::describe::listfile {

namespace {

// Words of flags, sorted by what they are for. Anything that is no flag is a message: then the program told nothing.
struct Flags {
  std::vector<std::string> include_folders;
  std::vector<std::string> definitions;  // without -D
  std::vector<std::string> options;
  std::vector<std::string> link_folders;
  std::vector<std::string> items;
  bool good = true;
};
Flags sorted(const std::string& told) {
  Flags out;
  for (const auto& word : text::shell_words(told)) {
    if (word.starts_with("-I"))
      out.include_folders.push_back(word.substr(2));
    else if (word.starts_with("-D"))
      out.definitions.push_back(word.substr(2));
    else if (word.starts_with("-L"))
      out.link_folders.push_back(word.substr(2));
    else if (word.starts_with("-l") || word.starts_with("-Wl,") || word == "-pthread" || word.starts_with('/'))
      out.items.push_back(word);
    else if (word.starts_with('-'))
      out.options.push_back(word);
    else
      out.good = false;
  }
  return out;
}

}  // namespace

bool find_wxwidgets(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  if (wish.name != "wxWidgets") return false;
  const std::string named = e.value("wxWidgets_CONFIG_EXECUTABLE");
  const auto program = e.locator.program({model::WantKind::program, "wx-config", {}, false, i.name, i.place, {}},
                                         {named.starts_with('/') ? named : "wx-config"}, {});
  model::Finding finding;
  finding.want = want_of(wish, model::WantKind::library, i);
  finding.how = "wx-config";
  finding.looked = program.looked;
  Flags compile;
  Flags link;
  if (program.found) {
    std::vector<std::string> command = {program.where};
    for (const auto& option : list_elements(e.value("wxWidgets_CONFIG_OPTIONS"))) command.push_back(option);
    const auto told = [&](std::vector<std::string> words) {
      words.insert(words.begin(), command.begin(), command.end());
      return std::string(text::trim(e.locator.told_by(words)));
    };
    std::vector<std::string> parts = wish.components;
    parts.insert(parts.end(), wish.optional_components.begin(), wish.optional_components.end());
    std::erase(parts, "std");
    compile = sorted(told({"--cxxflags"}));
    link = sorted(told({"--libs", parts.empty() ? "std" : text::join(parts, ",")}));
    finding.version = told({"--version"});
    finding.looked = {program.where};
    finding.found = compile.good && link.good && !link.items.empty();
    if (!finding.found) finding.reason = program.where + " does not tell of these parts: " + text::join(parts, ", ");
    if (finding.found && !text::version_meets(finding.version, wish.constraint())) {
      finding.found = false;
      finding.refused = true;
      finding.reason = "version " + finding.version + " of " + program.where + " does not do";
    }
  }
  if (const auto* known = locate::known_library("wxWidgets"); known != nullptr && !finding.found)
    finding.package = known->package;
  set_found(e, wish, finding.found, finding.version);
  e.set("wxWidgets_FOUND", finding.found ? "TRUE" : "FALSE");
  if (finding.found) {
    finding.where = program.where;
    std::vector<std::string> libraries = link.items;
    for (const auto& folder : link.link_folders) libraries.insert(libraries.begin(), "-L" + folder);
    e.set("wxWidgets_CONFIG_EXECUTABLE", program.where);
    e.set("wxWidgets_INCLUDE_DIRS", list_join(compile.include_folders));
    e.set("wxWidgets_DEFINITIONS", list_join(compile.definitions));
    e.set("wxWidgets_CXX_FLAGS", list_join([&] {
            auto options = compile.options;
            for (const auto& item : compile.items) options.push_back(item);
            return options;
          }()));
    e.set("wxWidgets_LIBRARY_DIRS", list_join(link.link_folders));
    e.set("wxWidgets_LIBRARIES", list_join(libraries));
    e.set("wxWidgets_USE_FILE", "UsewxWidgets");
    finding.usage.include_folders = compile.include_folders;
    finding.usage.definitions = compile.definitions;
    finding.usage.compile_options = compile.options;
    finding.usage.link_folders = link.link_folders;
    finding.usage.link_items = link.items;
  }
  e.keep(std::move(finding));
  return true;
}

// What include(${wxWidgets_USE_FILE}) does for the folder.
void use_wxwidgets(Evaluator& e, const Invocation& i) {
  const auto call = [&](const char* name, const std::vector<std::string>& first,
                        const std::vector<std::string>& words) {
    if (words.empty()) return;
    Invocation made{name, {}, i.place};
    for (const auto& word : first) made.words.push_back({word, false});
    for (const auto& word : words) made.words.push_back({word, true});
    e.call(made);
  };
  call("include_directories", {"SYSTEM"}, list_elements(e.value("wxWidgets_INCLUDE_DIRS")));
  call("link_directories", {}, list_elements(e.value("wxWidgets_LIBRARY_DIRS")));
  call("add_compile_definitions", {}, list_elements(e.value("wxWidgets_DEFINITIONS")));
  const std::string flags = text::join(list_elements(e.value("wxWidgets_CXX_FLAGS")), " ");
  if (!flags.empty()) e.set("CMAKE_CXX_FLAGS", e.value("CMAKE_CXX_FLAGS") + " " + flags);
}

}  // namespace coctilis::describe::listfile
