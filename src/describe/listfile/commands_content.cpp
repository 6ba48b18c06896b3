// Content that a description would load from the network. Nothing is loaded: content that is in the tree or pointed at
// is used, the rest is a want with its URL and revision.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

const std::vector<std::string>& content_one_value() {
  static const std::vector<std::string> words = {"URL_HASH",
                                                 "URL_MD5",
                                                 "DOWNLOAD_NAME",
                                                 "DOWNLOAD_DIR",
                                                 "GIT_REPOSITORY",
                                                 "GIT_TAG",
                                                 "GIT_SHALLOW",
                                                 "GIT_PROGRESS",
                                                 "GIT_REMOTE_NAME",
                                                 "SOURCE_DIR",
                                                 "BINARY_DIR",
                                                 "SOURCE_SUBDIR",
                                                 "PREFIX",
                                                 "DOWNLOAD_EXTRACT_TIMESTAMP",
                                                 "TIMEOUT",
                                                 "SVN_REPOSITORY",
                                                 "SVN_REVISION",
                                                 "HG_REPOSITORY",
                                                 "HG_TAG",
                                                 "DOWNLOAD_NO_PROGRESS",
                                                 "GIT_REMOTE_UPDATE_STRATEGY",
                                                 "TLS_VERIFY",
                                                 "SUBBUILD_DIR"};
  return words;
}
const std::vector<std::string>& content_many_values() {
  static const std::vector<std::string> words = {
      "URL",           "GIT_SUBMODULES",  "GIT_CONFIG",      "PATCH_COMMAND", "UPDATE_COMMAND",    "CONFIGURE_COMMAND",
      "BUILD_COMMAND", "INSTALL_COMMAND", "TEST_COMMAND",    "CMAKE_ARGS",    "FIND_PACKAGE_ARGS", "DOWNLOAD_COMMAND",
      "HTTP_HEADER",   "DEPENDS",         "CMAKE_CACHE_ARGS"};
  return words;
}
const std::vector<std::string>& flag_words() {
  static const std::vector<std::string> words = {"OVERRIDE_FIND_PACKAGE", "EXCLUDE_FROM_ALL", "SYSTEM", "QUIET"};
  return words;
}

std::string content_key(const std::string& name) { return "__content_" + text::lower(name); }

// What was declared of a content, as the words of the declaration. The first declaration counts.
void command_declare(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "FetchContent_Declare(NAME ...)");
  auto& kept = e.global_properties[content_key(i[0])];
  if (!kept.empty()) return;
  for (const auto& word : i.texts()) kept.push_back(e.word(word, i));
}

Keywords declared(Evaluator& e, const std::string& name, const Invocation& i) {
  std::vector<std::string> words;
  if (const auto it = e.global_properties.find(content_key(name)); it != e.global_properties.end()) {
    for (std::size_t k = 1; k < it->second.size(); ++k) words.push_back(it->second[k].text);
  } else {
    words = i.texts(1);
  }
  return keywords(words, flag_words(), content_one_value(), content_many_values());
}

std::string wanted_revision(const Keywords& words) {
  for (const char* key : {"GIT_TAG", "HG_TAG", "SVN_REVISION", "URL_HASH", "URL_MD5"}) {
    if (words.has(key)) return words.get(key);
  }
  return {};
}
std::string wanted_url(const Keywords& words) {
  for (const char* key : {"GIT_REPOSITORY", "HG_REPOSITORY", "SVN_REPOSITORY"}) {
    if (words.has(key)) return words.get(key);
  }
  const auto urls = words.list("URL");
  return urls.empty() ? std::string{} : urls.front();
}

// "https://works.example/slip.git" and ".../slip-1.2.tar.gz" are both kept as "slip" where people keep them.
std::vector<std::string> folder_names(const std::string& name, const std::string& url) {
  std::vector<std::string> out = {name, text::lower(name)};
  std::string last = url.substr(url.find_last_of("/:") == std::string::npos ? 0 : url.find_last_of("/:") + 1);
  for (const char* ending : {".git", ".tar.gz", ".tar.xz", ".tar.bz2", ".zip", ".tgz"}) {
    const std::string_view name_part(last);
    if (name_part.ends_with(ending)) last = std::string(name_part.substr(0, last.rfind(ending)));
  }
  if (!last.empty()) out.push_back(last);
  return out;
}

// The folder that holds the content, if it is anywhere; every place looked at.
std::string find_content(Evaluator& e, const std::string& name, const Keywords& words,
                         std::vector<std::string>& looked) {
  const auto is_there = [&](const std::string& folder) {
    looked.push_back(folder);
    return files::is_folder(folder) && !files::names_in(folder).empty();
  };
  const std::string pointed = e.value("FETCHCONTENT_SOURCE_DIR_" + text::upper(name));
  if (!pointed.empty() && is_there(e.source_path(pointed))) return e.source_path(pointed);
  if (words.has("SOURCE_DIR") && is_there(e.binary_path(words.get("SOURCE_DIR"))))
    return e.binary_path(words.get("SOURCE_DIR"));
  const std::string url = wanted_url(words);
  // A URL may well be a folder or a file of this machine.
  const std::string local = url.starts_with("file://") ? url.substr(7) : url;
  if (local.starts_with('/') && is_there(local)) return local;
  for (const auto& source : e.locator.settings().sources) {
    const std::string last = std::filesystem::path(source.folder).filename().string();
    if ((!url.empty() && source.url == url) || text::lower(last) == text::lower(name)) {
      if (is_there(e.tree + "/" + source.folder)) return e.tree + "/" + source.folder;
    }
  }
  for (const auto& candidate : folder_names(name, url)) {
    for (const auto& prefix : e.locator.settings().prefixes) {
      if (is_there(prefix + "/" + candidate)) return prefix + "/" + candidate;
    }
  }
  return {};
}

// Sets what a content is known by afterwards. Returns its folder; empty when it is missing, which is then a want.
std::string provide(Evaluator& e, const std::string& name, const Keywords& words, const Invocation& i) {
  const std::string lower = text::lower(name);
  std::vector<std::string> looked;
  const std::string folder = find_content(e, name, words, looked);
  const std::string binary =
      words.has("BINARY_DIR") ? e.binary_path(words.get("BINARY_DIR")) : e.binary_root + "/_deps/" + lower + "-build";
  model::Finding finding;
  finding.requirement = {model::RequirementKind::package, name, {}, true, i.name, i.place, {}};
  finding.how = "content of the tree's own";
  finding.found = !folder.empty();
  finding.where = folder;
  if (!finding.found) {
    finding.refused = true;
    finding.looked = looked;
    const std::string url = wanted_url(words);
    const std::string revision = wanted_revision(words);
    finding.reason = "the description would load it from the network" + (url.empty() ? std::string{} : ": " + url) +
                     (revision.empty() ? std::string{} : ", revision " + revision) +
                     "; fetch it yourself and point at it with --set FETCHCONTENT_SOURCE_DIR_" + text::upper(name) +
                     "=FOLDER" + (words.has("GIT_REPOSITORY") ? ", or name it as a [[source]] in coctilis.toml" : "");
  }
  e.keep(std::move(finding));
  const std::string source = folder.empty() ? e.binary_root + "/_deps/" + lower + "-src" : folder;
  e.set(lower + "_SOURCE_DIR", source);
  e.set(lower + "_BINARY_DIR", binary);
  e.set(lower + "_POPULATED", "TRUE");
  for (const auto& [part, text] : {std::pair{"source", source}, {"binary", binary}}) {
    auto& kept = e.global_properties[content_key(name) + "_" + part];
    kept = {e.word(text, i)};
  }
  return folder;
}

void command_make_available(Evaluator& e, const Invocation& i) {
  for (const auto& name : i.texts()) {
    const auto words = declared(e, name, i);
    if (const auto it = e.global_properties.find(content_key(name) + "_source"); it != e.global_properties.end()) {
      // Made available before, perhaps from another folder: its variables are set here too.
      e.set(text::lower(name) + "_SOURCE_DIR", Evaluator::joined(it->second));
      e.set(text::lower(name) + "_BINARY_DIR", Evaluator::joined(e.global_properties[content_key(name) + "_binary"]));
      e.set(text::lower(name) + "_POPULATED", "TRUE");
      continue;
    }
    // An installed one does, where the description says so; or where there is no other.
    const bool may_be_installed = words.many.contains("FIND_PACKAGE_ARGS");
    std::vector<std::string> looked;
    if (may_be_installed || find_content(e, name, words, looked).empty()) {
      Invocation ask{"find_package", {}, i.place};
      ask.words.push_back({name, true});
      for (const auto& word : words.list("FIND_PACKAGE_ARGS")) ask.words.push_back({word, false});
      if (!may_be_installed) ask.words.push_back({"CONFIG", false});
      ask.words.push_back({"QUIET", false});
      e.call(ask);
      if (e.on(name + "_FOUND")) {
        e.warn(i.place, "'" + name + "' is not loaded from the network: the installed one is used");
        continue;
      }
    }
    const std::string folder = provide(e, name, words, i);
    if (folder.empty()) continue;
    const std::string source = words.has("SOURCE_SUBDIR") ? folder + "/" + words.get("SOURCE_SUBDIR") : folder;
    if (!files::is_file(source + "/CMakeLists.txt")) continue;
    e.run_subfolder(source, e.value(text::lower(name) + "_BINARY_DIR"), !words.has("EXCLUDE_FROM_ALL"), i);
  }
}

void command_populate(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "FetchContent_Populate(NAME)");
  provide(e, i[0], declared(e, i[0], i), i);
}

void command_get_properties(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "FetchContent_GetProperties(NAME)");
  const auto words = keywords(i.texts(1), {}, {"SOURCE_DIR", "BINARY_DIR", "POPULATED"}, {});
  const auto source = e.global_properties.find(content_key(i[0]) + "_source");
  const bool there = source != e.global_properties.end();
  const auto binary = there ? Evaluator::joined(e.global_properties[content_key(i[0]) + "_binary"]) : "";
  const std::string lower = text::lower(i[0]);
  const bool all = words.one.empty();
  const auto put = [&](const char* key, const std::string& text) {
    if (all) e.set(lower + "_" + key, text);
    if (words.has(key)) e.set(words.get(key), text);
  };
  put("SOURCE_DIR", there ? Evaluator::joined(source->second) : "");
  put("BINARY_DIR", binary);
  put("POPULATED", there ? "TRUE" : "FALSE");
}

}  // namespace

void add_content_commands(CommandTable& table) {
  table["fetchcontent_declare"] = command_declare;
  table["fetchcontent_makeavailable"] = command_make_available;
  table["fetchcontent_populate"] = command_populate;
  table["fetchcontent_getproperties"] = command_get_properties;
}

}  // namespace coctilis::describe::listfile
