#include "describe/sources/preparation.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/sources/grouping.h"
#include "describe/sources/units.h"
#include "survey/languages.h"

namespace coctilis::describe::sources {

namespace {

// The version that a tree's folder or its file VERSION tells; "0" where neither does.
std::string version_of(const Tree& tree) {
  for (const char* name : {"VERSION", "VERSION.txt", "version.txt", ".version"}) {
    const std::string text = files::read_beginning(tree.root() + "/" + name, 200);
    static const RE2 number(R"(\b([0-9]+(?:\.[0-9]+)+[-0-9A-Za-z.+~]*))");
    std::string version;
    if (RE2::PartialMatch(text, number, &version)) return version;
  }
  const std::string folder = std::filesystem::path(tree.root()).filename().string();
  static const RE2 behind(R"([-_]v?([0-9]+(?:\.[0-9A-Za-z]+)*)$)");
  std::string version;
  return RE2::PartialMatch(folder, behind, &version) ? version : "0";
}

// "clay_export.h": the macros by which a library marks what it gives away, for the compilers here (GCC manual, "Common
// Function Attributes", visibility and deprecated).
std::string export_header(const std::string& name) {
  const std::string base = name.substr(name.rfind('/') + 1);
  std::string stem = text::upper(base.substr(0, base.size() - std::string("_export.h").size()));
  for (auto& c : stem) {
    if (std::isalnum(static_cast<unsigned char>(c)) == 0) c = '_';
  }
  const std::string guard = stem + "_EXPORT_H";
  std::string out = "#ifndef " + guard + "\n#define " + guard + "\n";
  const auto define = [&](const std::string& ending, const std::string& value) {
    out += "#define " + stem + ending + (value.empty() ? "" : " " + value) + "\n";
  };
  const std::string deprecated = "__attribute__((__deprecated__))";
  define("_EXPORT", "__attribute__((visibility(\"default\")))");
  define("_NO_EXPORT", "__attribute__((visibility(\"hidden\")))");
  define("_DEPRECATED", deprecated);
  define("_DEPRECATED_EXPORT", stem + "_EXPORT " + deprecated);
  define("_DEPRECATED_NO_EXPORT", stem + "_NO_EXPORT " + deprecated);
  return out + "#endif\n";
}

const std::map<std::string, std::string>& macros_of(const model::Toolchain& toolchain) {
  return toolchain.compiler_or_any("C").macros;
}

}  // namespace

Preparation::Preparation(const ReadRequest& request, Tree& tree, Outside& outside, const std::set<std::string>& libc,
                         std::string tree_name, std::map<std::string, std::string> told)
    : request_(request),
      tree_(tree),
      tree_name_(std::move(tree_name)),
      values_(outside, libc, macros_of(request.locator.toolchain()), tree_name_, version_of(tree), std::move(told)) {}

void Preparation::add(const std::string& name, const std::string& in, const std::string& content) {
  // A name that leads out of its folder is none that can be made there.
  const std::string folder = generated_folder(request_.work, in);
  const std::string path = files::absolute(folder + "/" + name);
  if (!files::is_below(path, folder)) return;
  files::write_if_different(path, content);
  tree_.add_generated(path, name, in);
  folders_.insert(folder);
}

void Preparation::run(const std::vector<std::string>& sources) {
  std::set<std::string> absent;
  for (const auto& source : sources) {
    for (const auto& one : tree_.reach(source).absent) absent.insert(one.name);
  }
  // Grammars include what is made of others.
  for (const auto& file : tree_.files()) {
    if (is_grammar(file.path) && file.role != survey::FolderRole::elsewhere) {
      for (const auto& one : tree_.reach(file.path).absent) absent.insert(one.name);
    }
  }
  run_grammars(absent);
  fill_sources();
  // A header that was made may ask for further ones.
  std::vector<std::string> all = sources;
  for (const auto& file : tree_.files()) {
    if (!file.language.empty() && tree_.is_generated(file.path)) all.push_back(file.path);
  }
  for (int round = 0; round < 4; ++round) {
    const bool made = make_headers(all);
    if (!run_makers(all) && !made) break;
  }
}

bool Preparation::make_headers(const std::vector<std::string>& sources) {
  struct Wanted {
    Absent absent;
    bool always = false;  // somebody includes it on no condition
  };
  std::map<std::string, Wanted> wanted;
  std::set<std::string> asked;
  for (const auto& source : sources) {
    const Reach reach = tree_.reach(source);
    asked.insert(reach.asked.begin(), reach.asked.end());
    for (const auto& one : reach.absent) {
      auto& entry = wanted.try_emplace(one.name, Wanted{one, false}).first->second;
      entry.always = entry.always || one.condition.empty();
    }
  }
  bool any = false;
  for (const auto& [name, entry] : wanted) {
    if (!made_.insert(name).second) continue;
    std::string from_template;
    for (const auto& candidate : template_names(name)) {
      const auto found = tree_.ending_in(candidate, entry.absent.file);
      if (found.empty()) continue;
      from_template = found.front();
      break;
    }
    const bool by_switch = entry.absent.condition.find("HAVE_CONFIG_H") != std::string::npos;
    if (!from_template.empty()) {
      const auto text = files::read(tree_.absolute(from_template));
      if (!text) continue;
      // The template of "clay/config.h" lies in the folder clay already.
      std::string in = folder_of(from_template);
      std::string inner = folder_of(name);
      while (!inner.empty() && inner != "." && inner != "..") {
        in = folder_of(in);
        inner = folder_of(inner);
      }
      add(name, in, values_.filled(*text));
      notes_.push_back(name + " is made of " + from_template);
    } else if (text::lower(name.substr(name.rfind('/') + 1)).find("config") != std::string::npos &&
               (entry.always || by_switch) && !asked.empty()) {
      std::set<std::string> names = asked;
      names.insert({"PACKAGE", "VERSION", "PACKAGE_NAME", "PACKAGE_VERSION", "PACKAGE_STRING", "PACKAGE_BUGREPORT",
                    "STDC_HEADERS"});
      names.erase("HAVE_CONFIG_H");
      std::string folder = folder_of(entry.absent.file);
      add(name, name.find("..") == std::string::npos ? folder : "", values_.header(names));
      notes_.push_back(name + " says what this system has of the " + text::count(asked.size(), "name") +
                       " that sources ask for");
    } else if (name.ends_with("_export.h") && entry.always) {
      add(name, name.find("..") == std::string::npos ? folder_of(entry.absent.file) : "", export_header(name));
      notes_.push_back(name + " says which names a library gives away");
    } else {
      continue;
    }
    wants_have_config_ = wants_have_config_ || by_switch;
    any = true;
  }
  return any;
}

// A program that writes a table: its text has the name of the file, or its own name says so.
std::optional<Maker> Preparation::maker_of(const Absent& absent) {
  const std::string name = absent.name.substr(absent.name.rfind('/') + 1);
  const std::string stem = text::lower(name.substr(0, name.find('.')));
  std::optional<Maker> best;
  std::size_t steps = 0;
  for (const auto& entry : request_.survey.entry_points) {
    const std::string& path = entry.place.file;
    const std::string language = survey::compiled_language(path);
    if (survey::role_of_path(folder_of(path)) == survey::FolderRole::elsewhere ||
        (language != "C" && language != "C++"))
      continue;
    const std::string own = text::lower(std::filesystem::path(path).stem().string());
    static const RE2 called(R"((?:mk|make|gen|generate|build)[-_]?(.+)|(.+?)[-_]?(?:gen|generator|maker))");
    std::string behind, before;
    const bool by_name = RE2::FullMatch(own, called, &behind, &before) &&
                         (behind == stem || before == stem || (stem.size() > 3 && behind.starts_with(stem)));
    const std::string content = files::read(tree_.absolute(path)).value_or("");
    // It says the name in a text of its own, not where it includes it.
    const auto quoted = content.find('"' + name + '"');
    const auto line = quoted == std::string::npos ? quoted : content.rfind('\n', quoted);
    const bool includes = quoted != std::string::npos &&
                          text::trim(content.substr(line == std::string::npos ? 0 : line + 1, 12)).starts_with("#");
    if (!by_name && (quoted == std::string::npos || includes)) continue;
    const std::size_t far = distance(folder_of(absent.file), folder_of(path)) + (by_name ? 0 : 1);
    if (best && far >= steps) continue;
    steps = far;
    Maker maker;
    maker.source = path;
    maker.output = absent.name;
    maker.folder = folder_of(absent.file);
    maker.on_output = quoted == std::string::npos || includes;
    const Reach reach = tree_.reach(path);
    if (std::any_of(reach.absent.begin(), reach.absent.end(), [&](const auto& one) { return one.name == absent.name; }))
      continue;
    maker.include = reach.folders;
    best = std::move(maker);
  }
  return best;
}

// Compiles it and runs it, both in the sandbox, so that what includes the file can be compiled on trial; steps do it
// again.
bool Preparation::run_maker(Maker& maker) {
  const std::string folder = generated_folder(request_.work, maker.folder);
  const std::string output = folder + "/" + maker.output;
  if (maker.output.find("..") != std::string::npos) return false;
  const std::string source = tree_.absolute(maker.source);
  const std::string stamp = folder + "/." + maker.output.substr(maker.output.rfind('/') + 1) + ".of";
  std::string of = maker.source + "\n" + files::read(source).value_or("");
  for (const auto& header : tree_.reach(maker.source).files)
    of += header + "\n" + files::read(tree_.absolute(header)).value_or("");
  if (files::is_file(output) && files::read(stamp) == of) return true;
  const observe::Apart apart;
  const files::ScratchFolder scratch("maker");
  const auto& compiler = request_.locator.toolchain().compiler(survey::compiled_language(maker.source));
  if (!compiler.present()) return false;
  Command compile;
  compile.argv = {compiler.path, "-w", "-o", scratch.path().string() + "/maker", source};
  for (const auto& one : maker.include) compile.argv.push_back("-I" + one);
  for (const auto& one : folders_) compile.argv.push_back("-I" + one);
  compile.argv.emplace_back("-lm");
  compile.folder = scratch.path().string();
  compile.writable = {scratch.path().string()};
  compile.limit_seconds = 120;
  if (!coctilis::run(compile).good()) return false;
  files::make_folder(std::filesystem::path(output).parent_path());
  Command start;
  start.argv = {scratch.path().string() + "/maker"};
  start.folder = folder;
  start.merge_errors = false;
  start.writable = {folder};
  start.limit_seconds = 60;
  start.output_limit = 16U << 20U;
  const Ended ended = coctilis::run(start);
  if (!ended.good() || ended.truncated) return false;
  if (!files::is_file(output)) maker.on_output = true;
  if (maker.on_output && text::trim(ended.output).empty()) return false;
  if (maker.on_output) files::write_if_different(output, ended.output);
  files::write_if_different(stamp, of);
  return true;
}

bool Preparation::run_makers(const std::vector<std::string>& sources) {
  std::map<std::string, Absent> wanted;
  for (const auto& source : sources) {
    for (const auto& one : tree_.reach(source).absent) {
      if (one.quoted && one.condition.empty()) wanted.try_emplace(one.name, one);
    }
  }
  bool any = false;
  for (const auto& [name, absent] : wanted) {
    if (without_maker_.contains(name)) continue;
    auto maker = maker_of(absent);
    if (!maker || !run_maker(*maker)) {
      without_maker_.insert(name);
      continue;
    }
    const std::string folder = generated_folder(request_.work, maker->folder);
    tree_.add_generated(folder + "/" + maker->output, maker->output, maker->folder);
    folders_.insert(folder);
    notes_.push_back(maker->output + " is made by " + maker->source);
    makers_.push_back(std::move(*maker));
    any = true;
  }
  return any;
}

void Preparation::fill_sources() {
  std::vector<std::pair<std::string, std::string>> found;  // template, and the name of what it makes
  for (const auto& file : tree_.files()) {
    if (!file.path.ends_with(".in") || file.role == survey::FolderRole::elsewhere) continue;
    const std::string made = file.path.substr(0, file.path.size() - 3);
    if (survey::compiled_language(made).empty() || files::exists(tree_.absolute(made))) continue;
    found.emplace_back(file.path, made);
  }
  for (const auto& [from, made] : found) {
    const auto text = files::read(tree_.absolute(from));
    if (!text) continue;
    add(made.substr(made.rfind('/') + 1), folder_of(made), values_.filled(*text));
    filled_sources_[from] = generated_folder(request_.work, folder_of(made)) + "/" + made.substr(made.rfind('/') + 1);
    notes_.push_back(made + " is made of " + from);
  }
}

void Preparation::run_grammars(const std::set<std::string>& absent) {
  grammars_ = grammars_of(tree_, absent);
  auto& locator = request_.locator;
  std::map<std::string, std::string> programs;
  for (const auto& grammar : grammars_) {
    const auto known = programs.find(grammar.program);
    if (known == programs.end()) {
      model::Requirement want;
      want.kind = model::RequirementKind::program;
      want.name = grammar.program;
      want.required_by = grammar.input;
      want.place = {grammar.input, 0, 0};
      auto finding = locator.program(want, {grammar.program}, {});
      programs[grammar.program] = finding.found ? finding.where : "";
      locator.keep(std::move(finding));
    }
    const std::string program = programs.at(grammar.program);
    generators_.push_back(program);
    if (program.empty()) continue;
    const std::string folder = generated_folder(request_.work, folder_of(grammar.input));
    folders_.insert(folder);
    std::vector<std::string> outputs;
    for (const auto& name : grammar.outputs) outputs.push_back(folder + "/" + name);
    // Steps make them again; here they are made so that what includes them can be compiled on trial.
    Command command;
    command.argv = {program};
    for (const auto& word : command_words(grammar, tree_.absolute(grammar.input), outputs))
      command.argv.push_back(word);
    command.folder = request_.work;
    command.writable = {folder};
    command.environment["LC_ALL"] = "C.UTF-8";
    command.limit_seconds = 120;
    files::make_folder(folder);
    const std::string stamp = folder + "/." + grammar.input.substr(grammar.input.rfind('/') + 1) + ".of";
    const auto content = files::read(tree_.absolute(grammar.input));
    const std::string now_of = text::join(command.argv, " ") + "\n" + content.value_or("");
    const bool there =
        std::all_of(outputs.begin(), outputs.end(), [](const auto& path) { return files::is_file(path); });
    if (!there || files::read(stamp) != now_of) {
      const observe::Apart apart;
      const Ended ended = coctilis::run(command);
      if (!ended.good())
        throw Fault({Exit::description,
                     {grammar.input, 0, 0},
                     grammar.program + " makes nothing of this grammar: " + ended.text(),
                     text::clip(text::printable(ended.output), 600),
                     "mend it, or leave it out with leave-out under [tree] of coctilis.toml",
                     {}});
      files::write_if_different(stamp, now_of);
    }
    for (std::size_t i = 0; i < outputs.size(); ++i)
      tree_.add_generated(outputs[i], grammar.outputs[i], folder_of(grammar.input));
    notes_.push_back(text::join(grammar.outputs, " and ") + " are made of " + grammar.input + " by " + grammar.program);
  }
}

}  // namespace coctilis::describe::sources
