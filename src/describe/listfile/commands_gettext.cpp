// Catalogues of translated messages: rules that make them from what translators write, and where they are installed.
// Nothing is written to the source tree: a translation is brought in step with its template in the output folder.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

std::string tool(const Evaluator& e, const char* variable, const char* usual) {
  const std::string path = e.value(variable);
  return path.empty() || path.ends_with("-NOTFOUND") ? usual : path;
}

std::string catalogue_stem(const std::string& path) {
  const std::string name = std::filesystem::path(path).filename().string();
  return name.substr(0, name.find('.'));
}

// A translation, brought in step with its template. Gives the file.
std::string add_merging(Evaluator& e, const Invocation& i, const std::string& translation, const std::string& pattern) {
  const std::string merged = e.directory().binary + "/" + catalogue_stem(translation) + ".po";
  add_rule(e, i, {merged},
           {tool(e, "GETTEXT_MSGMERGE_EXECUTABLE", "msgmerge"), "--quiet", "--sort-output", "-o", merged, translation,
            pattern},
           {translation, pattern}, "");
  return merged;
}

// The catalogue of a translation. Gives the file.
std::string add_catalogue(Evaluator& e, const Invocation& i, const std::string& translation) {
  const std::string catalogue = e.directory().binary + "/" + catalogue_stem(translation) + ".gmo";
  add_rule(e, i, {catalogue}, {tool(e, "GETTEXT_MSGFMT_EXECUTABLE", "msgfmt"), "-o", catalogue, translation},
           {translation}, "");
  return catalogue;
}

void add_installing(Evaluator& e, const Invocation& i, const std::string& catalogue, const std::string& folder,
                    const std::string& language, const std::string& domain) {
  Invocation install{"install", {}, i.place};
  for (const auto& word : {std::string("FILES"), catalogue, std::string("DESTINATION"),
                           folder + "/" + language + "/LC_MESSAGES", std::string("RENAME"), domain + ".mo"})
    install.words.push_back({word, true});
  e.call(install);
}

// The target that stands for some catalogues; its name is taken once only.
void add_target(Evaluator& e, const Invocation& i, const std::string& name, const std::vector<std::string>& files,
                bool all) {
  std::string free = name;
  for (int k = 1; e.target(free) != nullptr; ++k) free = name + "_" + std::to_string(k);
  Invocation target{"add_custom_target", {{free, true}}, i.place};
  if (all) target.words.push_back({"ALL", false});
  target.words.push_back({"DEPENDS", false});
  for (const auto& file : files) target.words.push_back({file, true});
  e.call(target);
}

// GETTEXT_CREATE_TRANSLATIONS(template [ALL] translations...)
void command_create_translations(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "GETTEXT_CREATE_TRANSLATIONS(TEMPLATE [ALL] files...)");
  const auto words = keywords(i.texts(1), {"ALL"}, {}, {});
  const std::string pattern = e.source_path(i[0]);
  std::vector<std::string> catalogues;
  for (const auto& file : words.rest) {
    catalogues.push_back(add_catalogue(e, i, add_merging(e, i, e.source_path(file), pattern)));
    add_installing(e, i, catalogues.back(), "share/locale", catalogue_stem(file), catalogue_stem(pattern));
  }
  add_target(e, i, "translations", catalogues, words.has("ALL"));
}

// GETTEXT_PROCESS_POT_FILE(template [ALL] [INSTALL_DESTINATION folder] LANGUAGES languages...)
void command_process_pot(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "GETTEXT_PROCESS_POT_FILE(TEMPLATE LANGUAGES languages...)");
  const auto words = keywords(i.texts(1), {"ALL"}, {"INSTALL_DESTINATION"}, {"LANGUAGES"});
  const std::string pattern = e.source_path(i[0]);
  std::vector<std::string> catalogues;
  for (const auto& language : words.list("LANGUAGES")) {
    const std::string translation = e.source_path(language + ".po");
    catalogues.push_back(add_catalogue(e, i, add_merging(e, i, translation, pattern)));
    if (words.has("INSTALL_DESTINATION"))
      add_installing(e, i, catalogues.back(), words.get("INSTALL_DESTINATION"), language, catalogue_stem(pattern));
  }
  add_target(e, i, "potfiles", catalogues, words.has("ALL"));
}

// GETTEXT_PROCESS_PO_FILES(language [ALL] [INSTALL_DESTINATION folder] PO_FILES translations...)
void command_process_po(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "GETTEXT_PROCESS_PO_FILES(LANGUAGE PO_FILES files...)");
  const auto words = keywords(i.texts(1), {"ALL"}, {"INSTALL_DESTINATION"}, {"PO_FILES"});
  std::vector<std::string> catalogues;
  for (const auto& file : words.list("PO_FILES")) {
    catalogues.push_back(add_catalogue(e, i, e.source_path(file)));
    if (words.has("INSTALL_DESTINATION"))
      add_installing(e, i, catalogues.back(), words.get("INSTALL_DESTINATION"), i[0], catalogue_stem(file));
  }
  add_target(e, i, "pofiles", catalogues, words.has("ALL"));
}

}  // namespace

void add_gettext_commands(CommandTable& table) {
  table["gettext_create_translations"] = command_create_translations;
  table["gettext_process_pot_file"] = command_process_pot;
  table["gettext_process_po_files"] = command_process_po;
}

}  // namespace coctilis::describe::listfile
