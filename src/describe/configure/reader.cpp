#include "describe/configure/reader.h"

#include <re2/re2.h>
#include <unistd.h>

#include "base/confine.h"
#include "base/file_stamp.h"
#include "base/file_watch.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/kept_value.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/makefile/reader.h"
#include "describe/mirror.h"
#include "describe/script/arguments.h"
#include "locate/known.h"
#include "model/environment_variables.h"
#include "survey/descriptions.h"
#include "survey/survey.h"

namespace coctilis::describe::configure {

namespace {

constexpr double most_seconds = 3600;
constexpr double most_silence = 300;  // seconds without a word: it waits for something

// What is kept of a script that ran.
struct Known {
  std::string identity;  // of what it was run with; empty: it has not come to its end
  std::string help;
  std::size_t checks = 0;
  Observed seen;  // all that it looked at, of the system and of the tree
};

class Script {
 public:
  // `name`: the script, relative to the tree. It runs in its own folder.
  // `for_makefile`: it is to write one. Else others know what it is for.
  Script(std::string name, const ReadRequest& request, bool for_makefile, std::vector<std::string> interpreter = {})
      : for_makefile_(for_makefile),
        interpreter_(std::move(interpreter)),
        name_(std::move(name)),
        program_(std::filesystem::path(name_).filename().string()),
        survey_(request.survey),
        locator_(request.locator),
        services_(request.services),
        mirror_(request.work),
        work_(std::filesystem::path(mirror_ + "/" + name_).parent_path().string()) {
    const std::string beside = std::filesystem::path(mirror_).parent_path().string();
    log_ = beside + "/configure.log";
    stamp_ = beside + "/configure.state";
    content_ = files::read(mirror_ + "/" + name_).value_or("");
    generated_ = content_.substr(0, 4096).find(generated_mark) != std::string::npos;
    known_ = kept_value<Known>(stamp_).value_or(Known{});
  }

  // The words that one insists on which was written by hand.
  [[nodiscard]] script::Arguments arguments() const {
    const auto& settings = locator_.settings();
    return generated_ || !interpreter_.empty()
               ? script::Arguments{}
               : script::arguments_for(name_, content_, survey_.tree, settings.arguments, settings.variant);
  }

  [[nodiscard]] std::vector<Problem> warnings() const {
    const auto given = arguments();
    if (given.from.file.empty()) return {};
    return {{Exit::done,
             given.from,
             "the script is called as it stands there: " + text::join(given.words, " "),
             {},
             {},
             {}}};
  }

  // Runs the script where that is needed. Throws Fault.
  void run() {
    check_text();
    const auto words = command();
    const std::string identity = identity_of(words);
    if (!locator_.settings().rerun && known_.identity == identity &&
        (!for_makefile_ || files::is_file(mirror_ + "/" + made_makefile())) && known_.seen.difference().empty() &&
        is_as_it_left_it()) {
      observe::all_of(known_.seen);
      output_ = files::read(log_).value_or("");
      return;
    }
    // Until it has ended well, nothing is known of what it wrote; and what it answered before may not be so any more.
    std::error_code error;
    std::filesystem::remove(stamp_, error);
    std::filesystem::remove(work_ + "/config.cache", error);
    known_.identity.clear();
    known_.seen = {};
    const std::int64_t began = file_clock();
    Command start;
    start.argv = words;
    start.folder = work_;
    start.environment = environment();
    start.writable = writable();
    start.limit_seconds = most_seconds;
    start.watch = WatchFor::finding;
    Ended ended = watch(start);
    // A script that calls others with other values than its own cannot share its answers with them.
    if (!ended.good() &&
        ended.output.find("changes in the environment can compromise the build") != std::string::npos) {
      std::filesystem::remove(work_ + "/config.cache", error);
      std::erase(start.argv, cache_option);
      ended = watch(start);
    }
    output_ = ended.output;
    files::write(log_, output_);
    if (!ended.good()) fail(ended);
    if (generated_) known_.help = help_text();
    Given::note_since(mirror_, began);
    known_.identity = identity;
    known_.checks = checks_in(output_).size();
    // Without a watch it is what it was run with that counts.
    if (!ended.watched || note_what_was_seen(ended.files)) keep_value(stamp_, known_);
  }
  [[nodiscard]] const std::string& output() const { return output_; }

  [[nodiscard]] std::vector<model::Option> options() const {
    auto out = options_in(known_.help);
    for (auto& option : out) {
      option.place = {name_, 0, 0};
      const auto it = locator_.settings().options.find(option.name);
      if (it != locator_.settings().options.end()) option.value = it->second;
    }
    return out;
  }

  // Every check as a finding: what was found and what was not.
  void keep_findings() {
    static const std::set<std::string> of_the_tools = {"a BSD-compatible install", "build system type",
                                                       "host system type"};
    for (const auto& check : checks_in(output_)) {
      if (check.answer.empty() || of_the_tools.contains(check.name)) continue;
      if (!interpreter_.empty() && check.name.starts_with(module_mark)) continue;  // whoever had it run keeps those
      const bool no = check.answer == "no" || check.answer.starts_with("no ") || check.answer == "not found" ||
                      check.answer == "missing" || check.answer == "none";
      const bool yes =
          check.answer.starts_with("yes") || check.answer.starts_with('/') || check.answer.starts_with("found");
      if (!no && !yes) continue;
      model::Finding finding;
      finding.requirement.name = check.name;
      finding.requirement.required = false;
      finding.requirement.required_by = name_;
      finding.found = yes;
      finding.how = "probe";
      std::string library;
      if (check.name.ends_with(".h")) {
        finding.requirement.kind = model::RequirementKind::header;
      } else if (const auto in = check.name.find(" in -l"); in != std::string::npos) {
        finding.requirement.kind = model::RequirementKind::library;
        finding.requirement.name = check.name.substr(in + 6);
      } else if (check.answer.starts_with('/')) {
        finding.requirement.kind = model::RequirementKind::program;
        finding.where = check.answer;
      } else {
        finding.requirement.kind = model::RequirementKind::function;
      }
      if (no) {
        finding.reason = "the script's own check says no";
        // What would turn it on.
        if (finding.requirement.kind == model::RequirementKind::header)
          finding.package = locate::package_of_header(finding.requirement.name);
        const auto* known = finding.requirement.kind == model::RequirementKind::library
                                ? locate::known_by_link_name(finding.requirement.name)
                                : nullptr;
        if (known != nullptr) finding.package = known->package;
      }
      locator_.keep(std::move(finding));
    }
  }

  // The makefile that it writes, relative to the mirror.
  [[nodiscard]] std::string made_makefile() const {
    for (const char* name : {"GNUmakefile", "makefile", "Makefile"}) {
      if (files::is_file(work_ + "/" + name)) return files::below(work_ + "/" + name, mirror_);
    }
    return files::below(work_ + "/Makefile", mirror_);
  }

 private:
  // Whether it is among the temporary files that the script makes and takes away again, under another name each time.
  // What lies in a folder there that is still there is none: a user may have modules in it.
  static bool is_temporary(const std::string& path) {
    for (const std::string folder : {"/tmp", "/var/tmp"}) {
      if (path == folder) return true;
      if (!files::is_below(path, folder)) continue;
      const std::string below = files::below(path, folder);
      return !files::exists(folder + "/" + below.substr(0, below.find('/')));
    }
    return false;
  }
  // Notes what it looked at. What it was given in the mirror counts as it is in the tree. False when a file is another
  // there by now: what came of it cannot be kept.
  [[nodiscard]] bool note_what_was_seen(const WatchedFiles& files) {
    using Kind = Observed::Kind;
    const std::string kiln = std::filesystem::path(mirror_).parent_path().string();
    const auto note = [&](Kind kind, const std::string& path) {
      if (tells_of_running_system(path)) return true;
      const bool written = files.written.contains(path);
      if (!files::is_below(path, mirror_)) {
        if (!written && !files::is_below(path, kiln) && !is_temporary(path)) known_.seen.look(kind, path);
        return true;
      }
      const std::string in_tree = path == mirror_ ? survey_.tree : survey_.tree + "/" + files::below(path, mirror_);
      const bool there = files::exists(path);
      if (there && !files::exists(in_tree)) return true;  // something made it
      if (written) {
        // It may have read what the tree has there before it wrote.
        if (files::exists(in_tree)) known_.seen.look(kind, in_tree);
        return true;
      }
      if (there && files::is_file(path) && files.read.contains(path) && hash_file(path) != hash_file(in_tree))
        return false;
      known_.seen.look(kind, in_tree);
      return true;
    };
    const auto note_all = [&](Kind kind, const auto& paths) {
      return std::all_of(paths.begin(), paths.end(), [&](const auto& path) { return note(kind, path); });
    };
    const observe::Apart apart;  // whoever keeps what comes of it is told all of it at once
    return note_all(Kind::content, files.read) && note_all(Kind::content, files.asked) &&
           note_all(Kind::entries, files.listed) && known_.seen.settle();
  }

  // What it wrote is there unchanged, as far as the build reads it, but for what steps have made of it.
  [[nodiscard]] bool is_as_it_left_it() const {
    for (const auto& path : Given(mirror_).changed()) {
      const std::string name = std::filesystem::path(path).filename().string();
      const bool is_makefile = name.find("akefile") != std::string::npos || name.ends_with(".mk");
      if (!is_makefile && (!services_.read_by_step || !services_.read_by_step(path))) continue;
      if (!services_.made_by_step || !services_.made_by_step(path)) return false;
    }
    return true;
  }

  void check_text() const {
    const Place place{name_, 1, 0};
    const auto end = content_.find('\n');
    if (content_.empty())
      throw Fault({Exit::description, place, "the script is empty", {}, "take a whole release of the tree", {}});
    if (interpreter_.empty() && end != std::string::npos && end > 0 && content_[end - 1] == '\r')
      throw Fault({Exit::description,
                   place,
                   "the script has line ends of another system (CR LF), which no shell takes",
                   {},
                   "check the tree out without changing line ends",
                   {}});
    if (content_.find('\0') != std::string::npos)
      throw Fault({Exit::description, place, "the script is no text", {}, "take a whole release of the tree", {}});
  }

  static constexpr const char* cache_option = "--cache-file=config.cache";

  // The interpreter that its first line names, else the standard shell: the script need not be executable.
  [[nodiscard]] std::vector<std::string> interpreter() const {
    if (!interpreter_.empty()) return interpreter_;
    if (content_.starts_with("#!")) {
      auto words = text::words(content_.substr(2, content_.find('\n') - 2));
      if (!words.empty() && files::is_program(words[0])) return words;
    }
    return {"/bin/sh"};
  }

  [[nodiscard]] std::vector<std::string> command() const {
    auto out = interpreter();
    out.push_back("./" + program_);
    if (generated_) {
      out.emplace_back(cache_option);
      if (content_.find("--disable-option-checking") != std::string::npos)
        out.emplace_back("--disable-option-checking");
      if (content_.find("--disable-silent-rules") != std::string::npos ||
          content_.find("enable_silent_rules") != std::string::npos)
        out.emplace_back("--disable-silent-rules");
      const auto& chain = locator_.toolchain();
      if (chain.foreign) out.push_back("--host=" + chain.machine);
    }
    for (const auto& [name, value] : locator_.settings().options) {
      if (name == "CMAKE_INSTALL_PREFIX")
        out.push_back("--prefix=" + value);
      else if (name.starts_with("enable-") || name.starts_with("with-") || name.starts_with("disable-") ||
               name.starts_with("without-") || name == "prefix" || name.ends_with("dir"))
        out.push_back("--" + name + (value.empty() ? "" : "=" + value));
      else if (name.starts_with("--"))
        out.push_back(name + (value.empty() ? "" : "=" + value));
      else
        out.push_back(name + "=" + value);
    }
    const auto words = arguments().words;
    out.insert(out.end(), words.begin(), words.end());
    return out;
  }

  [[nodiscard]] std::map<std::string, std::optional<std::string>> environment() const {
    std::map<std::string, std::optional<std::string>> out;
    for (const auto& [name, value] : locator_.environment()) out[name] = value;
    for (const char* name : {"MAKEFLAGS", "MFLAGS", "MAKELEVEL", "CONFIG_SITE"}) out[name] = std::nullopt;
    out["LC_ALL"] = "C.UTF-8";
    // Some scripts refuse to run for the superuser unless they are told that this is meant. It is: in a container there
    // often is no other user.
    if (::geteuid() == 0) out["FORCE_UNSAFE_CONFIGURE"] = "1";
    const auto& settings = locator_.settings();
    const auto& chain = locator_.toolchain();
    if (!settings.toolchain.empty() || chain.foreign) {
      for (const auto& driver : model::driver_names) {
        if (chain.compiler(driver.language).present()) out[driver.variable] = chain.compiler(driver.language).path;
      }
      if (chain.foreign) {
        out["AR"] = chain.archiver;
        out["RANLIB"] = chain.archive_indexer;
      }
    }
    const auto variant = settings.variants.find(settings.variant);
    std::string options;
    if (variant != settings.variants.end()) {
      options = variant->second.debug() ? "-g -O0" : "";
      for (const auto& option : variant->second.compile) options += (options.empty() ? "" : " ") + option;
      if (!options.empty()) out["CFLAGS"] = out["CXXFLAGS"] = options;
      if (!variant->second.link.empty()) out["LDFLAGS"] = text::join(variant->second.link, " ");
    }
    std::string include;
    std::string link;
    std::string modules;
    for (const auto& prefix : settings.prefixes) {
      include += " -I" + prefix + "/include";
      link += " -L" + prefix + "/lib -Wl,-rpath," + prefix + "/lib";
      modules += (modules.empty() ? "" : ":") + prefix + "/lib/pkgconfig:" + prefix + "/share/pkgconfig";
    }
    if (!include.empty()) {
      out["CPPFLAGS"] = std::string(text::trim(include));
      out["LDFLAGS"] = out["LDFLAGS"].value_or("") + link;
      const char* before = std::getenv("PKG_CONFIG_PATH");
      out["PKG_CONFIG_PATH"] = modules + (before == nullptr ? "" : ":" + std::string(before));
    }
    return out;
  }

  // All that its answers hang on, as far as it can be known from outside.
  [[nodiscard]] std::string identity_of(const std::vector<std::string>& words) const {
    std::string all = work_ + "\n" + text::join(words, "\n") + "\n" + hash_bytes(content_).text();
    for (const auto& [name, value] : environment()) {
      if (name.starts_with("COCTILIS_")) continue;
      all += "\n" + name + "=" + value.value_or("");
    }
    for (const auto& variable : model::environment_variables) {
      if ((variable.roles & model::for_choices) == 0) continue;
      const char* value = std::getenv(variable.name);
      all += std::string("\n") + variable.name + "=" + (value == nullptr ? "" : value);
    }
    for (const auto& [language, compiler] : locator_.toolchain().compilers) all += "\n" + compiler.identity;
    // The templates that it fills in, and further scripts it calls.
    std::error_code error;
    std::vector<std::string> inputs;
    observe::entries(survey_.tree);
    for (auto it = std::filesystem::recursive_directory_iterator(survey_.tree, error);
         !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
      const std::string name = it->path().filename().string();
      if (it->is_directory(error)) observe::entries(it->path().string());
      if (it->is_directory(error) && (name == ".git" || survey::is_kiln(it->path().string()))) {
        it.disable_recursion_pending();
        continue;
      }
      if ((name.ends_with(".in") || name == "configure" || name == "config.site") && it->is_regular_file(error))
        inputs.push_back(it->path().string());
    }
    std::sort(inputs.begin(), inputs.end());
    for (const auto& input : inputs) {
      const auto hash = hash_file(input);
      all += "\n" + input + " " + (hash ? hash->text() : "");
    }
    return hash_bytes(all).text();
  }

  Ended watch(const Command& start) {
    Process process = Process::start(start);
    const std::size_t last_time = known_.checks;
    std::size_t seen = 0;
    std::size_t done = 0;
    double heard = now();
    while (!process.poll()) {
      const std::string& so_far = process.output_so_far();
      if (so_far.size() != seen) {
        heard = now();
        const auto begin = so_far.rfind('\n', seen == 0 ? 0 : seen - 1);
        for (std::size_t at = so_far.find("checking ", begin == std::string::npos ? 0 : begin); at != std::string::npos;
             at = so_far.find("checking ", at + 1)) {
          if (at >= seen && (at == 0 || so_far[at - 1] == '\n')) ++done;
        }
        seen = so_far.size();
        const auto line = so_far.rfind("\nchecking ");
        std::string current =
            line == std::string::npos ? "" : so_far.substr(line + 1, so_far.find("...", line) - line - 1);
        locator_.progress("configure " + text::count(done, "check") +
                          (last_time > 0 ? " of " + std::to_string(last_time) : "") + "; " +
                          text::printable_line(text::clip(current, 60)));
      }
      if (interrupted_by != 0) process.stop(Ended::How::interrupted);
      if (now() - heard > most_silence || process.age() > most_seconds) process.stop(Ended::How::timed_out);
      ::usleep(10000);
    }
    locator_.progress("");
    return process.take();
  }

  [[nodiscard]] std::vector<std::string> writable() const {
    return confinement_of(mirror_, std::filesystem::path(mirror_).parent_path().string()).writable;
  }

  // Where the script's own options are told; scripts written by hand are not asked: they may do anything.
  [[nodiscard]] std::string help_text() const {
    Command start;
    start.argv = interpreter();
    start.argv.push_back("./" + program_);
    start.argv.emplace_back("--help");
    start.folder = work_;
    start.environment = environment();
    start.writable = writable();
    start.limit_seconds = 20;
    return coctilis::run(start).output;
  }

  [[noreturn]] void fail(const Ended& ended) {
    Problem problem{Exit::description, {name_, 0, 0}, {}, {}, "the whole log is in " + log_, {}};
    if (ended.how == Ended::How::interrupted) {
      problem.what = "interrupted";
      throw Fault(problem);
    }
    if (ended.how == Ended::How::timed_out) {
      problem.what = "the script says nothing any more; it was stopped after " + text::duration(ended.seconds);
      problem.cause = last_lines(3);
      problem.remedy = "it may wait for an answer: give it by an option, with --set; " + problem.remedy;
      throw Fault(problem);
    }
    keep_findings();
    static const RE2 error(R"((?m)^(?:configure: )?(?:\S+: )?error: (.*)$)");
    std::string said;
    re2::StringPiece rest(output_);
    std::string one;
    while (RE2::FindAndConsume(&rest, error, &one)) said = one;
    problem.what =
        said.empty() ? "the script failed: " + ended.text() : "the script gives up: " + text::printable_line(said);
    const auto checks = checks_in(output_);
    if (!checks.empty()) problem.cause = "its last check was for '" + checks.back().name + "': " + checks.back().answer;
    if (said.empty()) problem.cause += (problem.cause.empty() ? "" : "; it said: ") + last_lines(3);
    // The last probe that failed explains it only when nothing else was asked after it.
    std::string failure = last_failure_in(files::read(work_ + "/config.log").value_or(""));
    if (checks.empty() || failure.find(checks.back().name) == std::string::npos) failure.clear();
    for (const auto& line : text::split(failure, '\n')) {
      if (!line.empty() && problem.trail.size() < 40) problem.trail.push_back(text::printable_line(line));
    }
    missing(said, problem);
    throw Fault(problem);
  }

  // What a script says when a file of its own tree is not there; that is no library, whatever the file is called.
  bool misses_own_file(const std::string& said) {
    static const RE2 file(R"((?i)cannot find (?:input file:|sources) *[`'"(]*([^`'")\s]+))");
    static const RE2 helpers(R"((?i)cannot find (?:required auxiliary files:|(install-sh),)\s*([^\s,]*))");
    std::string path;
    std::string first;
    if (RE2::PartialMatch(said, helpers, &first, &path)) {
      if (!first.empty()) path = first;
    } else if (!RE2::PartialMatch(said, file, &path)) {
      return false;
    }
    model::Finding finding;
    finding.requirement = {
        model::RequirementKind::file, text::printable_line(path), {}, true, name_, {name_, 0, 0}, {}};
    finding.refused = true;
    finding.looked = {files::absolute(path, std::filesystem::path(survey_.tree + "/" + name_).parent_path().string())};
    finding.reason =
        "the script wants it, and the tree has it not (take the tree anew, and whole): " + text::printable_line(said);
    locator_.keep(std::move(finding));
    return true;
  }

  // When it says that something is missing, that is a want that was not met.
  void missing(const std::string& said, Problem& problem) {
    static const RE2 words(
        R"((?i)(not found|missing|required|cannot find|can't find|could not find|couldn't find|not installed|unable to find|no acceptable|is needed|you need))");
    if (!RE2::PartialMatch(said, words)) return;
    problem.exit = Exit::missing;
    if (misses_own_file(said)) return;
    static const RE2 name(
        R"((?i)(?:lib)?([a-z][a-z0-9+_.-]*[a-z0-9+])(?: library| headers?| development| not found| is required|\.h| >=)|(?:find|need|missing|requires?) (?:the )?(?:lib)?([a-z][a-z0-9+_.-]*[a-z0-9+]))");
    std::string first;
    std::string second;
    if (!RE2::PartialMatch(said, name, &first, &second)) return;
    const std::string named = first.empty() ? second : first;
    // A word of the sentence is no library: nothing named is better than something wrong.
    static const std::set<std::string> plain = {
        "a",        "all",       "an",        "and",        "any",     "appropriate", "at",       "both",      "build",
        "code",     "command",   "compiler",  "compatible", "correct", "development", "either",   "file",      "files",
        "for",      "function",  "functions", "header",     "headers", "in",          "input",    "it",        "its",
        "least",    "library",   "libraries", "module",     "modules", "more",        "new",      "newer",     "of",
        "one",      "or",        "package",   "packages",   "path",    "program",     "programs", "proper",    "recent",
        "required", "requisite", "some",      "source",     "sources", "suitable",    "support",  "supported", "system",
        "that",     "this",      "to",        "tool",       "tools",   "type",        "usable",   "version",   "where",
        "which",    "with",      "working",   "your"};
    if (plain.contains(text::lower(named))) return;
    const model::Requirement want = {model::RequirementKind::library, named, {}, true, name_, {name_, 0, 0}, {}};
    // The library may be here all the same: the script's word counts, but the package that has it is known.
    model::Finding finding = locator_.library(want);
    finding.requirement = want;
    finding.found = false;
    if (const auto* known = locate::known_by_word(want.name); known != nullptr) finding.package = known->package;
    finding.reason = text::printable_line(said);
    finding.looked.clear();
    locator_.keep(std::move(finding));
  }

  [[nodiscard]] std::string last_lines(std::size_t count) const {
    const auto lines = text::split(text::trim(output_), '\n');
    std::string out;
    for (std::size_t i = lines.size() > count ? lines.size() - count : 0; i < lines.size(); ++i)
      out += (out.empty() ? "" : " | ") + text::printable_line(lines[i]);
    return out;
  }

  const bool for_makefile_;
  const std::vector<std::string> interpreter_;  // told; empty: its first line says
  const std::string name_;
  const std::string program_;  // the name alone
  const model::Survey& survey_;
  locate::Locator& locator_;
  const Services& services_;
  const std::string mirror_;
  const std::string work_;  // the script's folder in the mirror
  std::string log_;
  std::string stamp_;
  std::string content_;
  std::string output_;
  bool generated_ = false;
  Known known_;
};

}  // namespace

Result<model::Project> read(const ReadRequest& request) {
  const std::string& tree = request.survey.tree;
  const std::string name = files::below(request.file, tree);
  if (auto mirrored = mirror(tree, request.work, request.services.made_by_step); !mirrored) return mirrored.problem();
  std::optional<Script> script;
  const auto ran = guarded("running configure", [&] {
    script.emplace(name, request, true);
    script->run();
    script->keep_findings();
    return true;
  });
  if (!ran) return ran.problem();
  if (!files::is_file(request.work + "/" + script->made_makefile()))
    return Problem{Exit::description,
                   {name, 0, 0},
                   "the script ended well, but wrote no makefile",
                   {},
                   "see what it says in configure.log of the kiln; [tree] description in coctilis.toml names another",
                   {}};
  auto project = makefile::read_in_mirror(script->made_makefile(), request, request.locator.environment());
  if (!project) return project;
  project->read_files.push_back(request.file);
  const auto own = script->options();
  if (!own.empty()) project->options = own;
  for (auto& warning : script->warnings()) project->warnings.push_back(std::move(warning));
  return project;
}

Result<Ran> run_script(const std::string& name, const ReadRequest& request, const std::vector<std::string>& interpreter,
                       std::string& output) {
  return guarded("running " + name, [&] {
    Script script(name, request, false, interpreter);
    try {
      script.run();
    } catch (const Fault&) {
      output = script.output();
      throw;
    }
    output = script.output();
    script.keep_findings();
    return Ran{script.options(), script.warnings()};
  });
}

Result<model::Project> only_configure_ac(const ReadRequest& request) {
  return Problem{Exit::description,
                 {files::below(request.file, request.survey.tree), 0, 0},
                 "the tree has what a configure script is generated from, but not the script",
                 "it is made when a release is packed; a clone of the repository has none",
                 "take a release archive of the tree, or run the tree's own generator (autogen.sh or bootstrap, where "
                 "it has one) on a copy",
                 {}};
}

Reader reader() {
  Reader out;
  // Written by hand such scripts have other names, too.
  out.format = {"configure",
                {{"configure", 4},
                 {"config", 4},
                 {"Configure", 4},
                 {"configure.sh", 4},
                 {"Configure.sh", 4},
                 {"configure.pl", 4},
                 {"Configure.pl", 4}},
                true,
                nullptr,
                {}};
  out.format.counts = [](const std::string& path) {
    return path.ends_with("/configure") || files::read_beginning(path, 2) == "#!";
  };
  out.runs_recipes = true;
  // A makefile beside it that knows of the script only passes on to what the script makes.
  out.leads_back = [](const std::string& other) { return other.find("configure") != std::string::npos; };
  out.read = read;
  return out;
}

Reader source_reader() {
  Reader out;
  out.format = {"configure.ac", {{"configure.ac", 12}, {"configure.in", 12}}, true, nullptr, {}};
  out.runs_recipes = true;
  out.format.is_hint = true;
  out.read = only_configure_ac;
  return out;
}

}  // namespace coctilis::describe::configure
