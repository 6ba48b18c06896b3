// try_compile and try_run: sources of the description's own put to the compiler, and whole trees built on trial.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/inner_tree.h"
#include "describe/listfile/probes.h"

namespace coctilis::describe::listfile {

namespace {

// The words of both forms: the older one begins with folder and source, the newer with a keyword.
struct Trial {
  Keywords words;
  std::vector<std::pair<std::string, std::string>> sources;  // name and text
  std::vector<std::string> source_folders;
  std::string folder;  // of a whole tree
  std::string target;
};

bool is_c(const std::string& name) { return name.ends_with(".c"); }

void add_source(Evaluator& e, const Invocation& i, Trial& trial, const std::string& name) {
  const std::string path = e.source_path(name);
  const auto content = files::read(path);
  if (!content) e.fail(i, "the source '" + e.shown(path) + "' is not there", "check the path");
  e.read_files.insert(path);
  trial.sources.emplace_back(std::filesystem::path(path).filename().string(), *content);
  trial.source_folders.push_back(std::filesystem::path(path).parent_path().string());
}

Trial take_apart(Evaluator& e, const Invocation& i, std::size_t first) {
  Trial out;
  // These stand for one file each, and may be given several times.
  std::vector<std::string> others;
  for (std::size_t k = first; k < i.size(); ++k) {
    const std::string& word = i[k];
    if (!word.starts_with("SOURCE_FROM_")) {
      others.push_back(word);
      continue;
    }
    if (k + 2 >= i.size()) e.fail(i, word + " needs the name of a file and what it is made from");
    if (word == "SOURCE_FROM_CONTENT")
      out.sources.emplace_back(i[k + 1], i[k + 2]);
    else if (word == "SOURCE_FROM_VAR")
      out.sources.emplace_back(i[k + 1], e.value(i[k + 2]));
    else if (word == "SOURCE_FROM_FILE") {
      add_source(e, i, out, i[k + 2]);
      out.sources.back().first = i[k + 1];
    } else {
      e.not_understood(i, word);
    }
    k += 2;
  }
  out.words = keywords(others, {"NO_CACHE", "NO_LOG"},
                       {"COPY_FILE",
                        "COPY_FILE_ERROR",
                        "OUTPUT_VARIABLE",
                        "COMPILE_OUTPUT_VARIABLE",
                        "RUN_OUTPUT_VARIABLE",
                        "RUN_OUTPUT_STDOUT_VARIABLE",
                        "RUN_OUTPUT_STDERR_VARIABLE",
                        "LOG_DESCRIPTION",
                        "C_STANDARD",
                        "CXX_STANDARD",
                        "C_STANDARD_REQUIRED",
                        "CXX_STANDARD_REQUIRED",
                        "C_EXTENSIONS",
                        "CXX_EXTENSIONS",
                        "WORKING_DIRECTORY",
                        "PROJECT",
                        "SOURCE_DIR",
                        "BINARY_DIR",
                        "TARGET",
                        "LINKER_LANGUAGE"},
                       {"SOURCES", "CMAKE_FLAGS", "COMPILE_DEFINITIONS", "LINK_OPTIONS", "LINK_LIBRARIES", "ARGS"});
  for (const auto& name : out.words.list("SOURCES")) add_source(e, i, out, name);
  const auto& rest = out.words.rest;
  if (out.words.has("PROJECT")) {
    out.folder = e.source_path(out.words.get("SOURCE_DIR"));
    out.target = out.words.get("TARGET");
  } else if (out.sources.empty() && rest.size() >= 2) {
    if (files::is_folder(e.source_path(rest[1]))) {
      out.folder = e.source_path(rest[1]);
      if (rest.size() > 3) out.target = rest[3];
    } else {
      add_source(e, i, out, rest[1]);
    }
  }
  if (out.folder.empty() && out.sources.empty()) e.fail(i, i.name + "(...) names no source");
  return out;
}

locate::Probe probe_of(Evaluator& e, const Trial& trial, bool run) {
  const Keywords& words = trial.words;
  locate::Probe probe;
  const bool only_compile = e.value("CMAKE_TRY_COMPILE_TARGET_TYPE") == "STATIC_LIBRARY";
  probe.how = run ? locate::Probe::How::run : only_compile ? locate::Probe::How::compile : locate::Probe::How::link;
  const bool all_c =
      std::all_of(trial.sources.begin(), trial.sources.end(), [](const auto& s) { return is_c(s.first); });
  probe.language = all_c ? "C" : "C++";
  probe.source = trial.sources.front().second;
  if (trial.sources.size() > 1) {
    // The first of them has a name of the probe's own, which tells the probe's language.
    if (is_c(trial.sources.front().first) != all_c) probe.source.clear();
    for (std::size_t k = probe.source.empty() ? 0 : 1; k < trial.sources.size(); ++k)
      probe.more_sources.emplace_back(
          std::to_string(k) + "-" + std::filesystem::path(trial.sources[k].first).filename().string(),
          trial.sources[k].second);
    if (only_compile && !run) {
      probe.how = locate::Probe::How::link;
      probe.link_options = {"-r", "-nostdlib"};
    }
  }
  const std::string language = all_c ? "C" : "CXX";
  probe.compile_options = text::shell_words(e.value("CMAKE_" + language + "_FLAGS"));
  for (const auto& folder : trial.source_folders) probe.compile_options.push_back("-I" + folder);
  for (const auto& definition : list_elements(text::join(words.list("COMPILE_DEFINITIONS"), ";"))) {
    for (const auto& word : text::shell_words(definition))
      probe.compile_options.push_back(word.starts_with('-') ? word : "-D" + word);
  }
  std::string standard = words.get(language + "_STANDARD");
  // The description's own standard counts since this policy (CMP0067).
  const bool own = standard.empty() && e.policy_is_new(67);
  if (own) standard = e.value("CMAKE_" + language + "_STANDARD");
  const std::string extensions = words.has(language + "_EXTENSIONS") ? words.get(language + "_EXTENSIONS")
                                 : own                               ? e.value("CMAKE_" + language + "_EXTENSIONS")
                                                                     : "";
  if (!standard.empty())
    probe.compile_options.push_back(std::string("-std=") + (is_false(extensions) && !extensions.empty() ? "c" : "gnu") +
                                    (all_c ? "" : "++") + standard);
  for (const auto& flag : words.list("CMAKE_FLAGS")) {
    const std::string name = flag.substr(0, std::min(flag.find('='), flag.find(':')));
    const std::string value = flag.substr(std::min(flag.size(), flag.find('=') + 1));
    if (name == "-DINCLUDE_DIRECTORIES") {
      for (const auto& folder : list_elements(value)) probe.compile_options.push_back("-I" + folder);
    } else if (name == "-DLINK_DIRECTORIES") {
      for (const auto& folder : list_elements(value)) probe.link_options.push_back("-L" + folder);
    } else if (name == "-DLINK_LIBRARIES") {
      for (const auto& library : list_elements(value)) add_library(e, probe, library);
    } else if (name == "-DCOMPILE_DEFINITIONS" || name == "-DCMAKE_" + language + "_FLAGS") {
      for (const auto& word : text::shell_words(text::replace_all(value, ";", " ")))
        probe.compile_options.push_back(word);
    } else if (name == "-DCMAKE_EXE_LINKER_FLAGS") {
      for (const auto& word : text::shell_words(value)) probe.link_options.push_back(word);
    } else if (name == "-DCMAKE_" + language + "_STANDARD" && standard.empty()) {
      probe.compile_options.push_back(std::string("-std=gnu") + (all_c ? "" : "++") + value);
    }
  }
  for (const auto& option : list_elements(text::join(words.list("LINK_OPTIONS"), ";")))
    probe.link_options.push_back(option);
  for (const auto& library : list_elements(text::join(words.list("LINK_LIBRARIES"), ";")))
    add_library(e, probe, library);
  probe.wants_result = words.has("COPY_FILE");
  probe.arguments = words.list("ARGS");
  if (words.has("WORKING_DIRECTORY")) probe.run_folder = e.source_path(words.get("WORKING_DIRECTORY"));
  return probe;
}

void store(Evaluator& e, const Trial& trial, const std::string& name, const std::string& value) {
  if (!trial.words.has("NO_CACHE")) e.set_cache(name, value, "INTERNAL", "", true, {});
  e.set(name, value);
}

void tree_on_trial(Evaluator& e, const Invocation& i, const Trial& trial) {
  InnerCall call;
  call.kind = InnerCall::Kind::build;
  call.source = trial.folder;
  call.binary = trial.words.has("BINARY_DIR") ? e.binary_path(trial.words.get("BINARY_DIR"))
                : !trial.words.rest.empty() && !trial.words.has("PROJECT")
                    ? e.binary_path(trial.words.rest.front())
                    : e.binary_root + "/.trial/" + text::replace_all(trial.words.get("PROJECT"), "/", "_");
  for (const auto& flag : trial.words.list("CMAKE_FLAGS")) add_setting(call, flag);
  if (!trial.target.empty()) call.targets = {trial.target};
  const auto done = run_inner(e, i, call);
  store(e, trial, i[0], done.status == 0 ? "TRUE" : "FALSE");
  if (trial.words.has("OUTPUT_VARIABLE")) e.set(trial.words.get("OUTPUT_VARIABLE"), done.output);
}

void on_trial(Evaluator& e, const Invocation& i, bool run) {
  e.need(i, 3, i.name + "(RESULT FOLDER SOURCE)");
  const auto trial = take_apart(e, i, run ? 2 : 1);
  const Keywords& words = trial.words;
  if (words.has("RUN_OUTPUT_STDERR_VARIABLE"))
    e.not_understood(i, "RUN_OUTPUT_STDERR_VARIABLE, which takes a program's errors apart from its output");
  if (words.has("LINKER_LANGUAGE")) e.not_understood(i, "LINKER_LANGUAGE");
  if (!trial.folder.empty()) {
    if (run) e.fail(i, "try_run takes sources, no folder");
    tree_on_trial(e, i, trial);
    return;
  }
  const auto probe = probe_of(e, trial, run);
  const std::string& compiled = run ? i[1] : i[0];
  const auto answer = e.locator.ask(probe, {compiled, i.name, i.place, {}, {}, {}, {}, {}, {}, false});
  e.locator.conclude(answer.compiled ? "TRUE" : "FALSE");
  store(e, trial, compiled, answer.compiled ? "TRUE" : "FALSE");
  if (words.has("OUTPUT_VARIABLE")) e.set(words.get("OUTPUT_VARIABLE"), answer.output + answer.run_output);
  if (words.has("COMPILE_OUTPUT_VARIABLE")) e.set(words.get("COMPILE_OUTPUT_VARIABLE"), answer.output);
  if (words.has("COPY_FILE") && answer.compiled) {
    const std::string path = e.writable(e.binary_path(words.get("COPY_FILE")), i.place);
    files::make_folder(std::filesystem::path(path).parent_path());
    files::write_if_different(path, answer.object);
    if (probe.how != locate::Probe::How::compile) files::set_mode(path, 0755);
  }
  if (words.has("COPY_FILE_ERROR")) e.set(words.get("COPY_FILE_ERROR"), answer.compiled ? "" : "nothing was made");
  if (!run) return;
  store(e, trial, i[0], answer.ran ? std::to_string(answer.exit) : "FAILED_TO_RUN");
  for (const char* name : {"RUN_OUTPUT_VARIABLE", "RUN_OUTPUT_STDOUT_VARIABLE"}) {
    if (words.has(name)) e.set(words.get(name), answer.run_output);
  }
}
void command_try_compile(Evaluator& e, const Invocation& i) { on_trial(e, i, false); }
void command_try_run(Evaluator& e, const Invocation& i) { on_trial(e, i, true); }

}  // namespace

void add_trial_commands(CommandTable& table) {
  table["try_compile"] = command_try_compile;
  table["try_run"] = command_try_run;
}

}  // namespace coctilis::describe::listfile
