#include "describe/sources/candidates.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/demangle.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/sources/alternatives.h"
#include "describe/sources/grouping.h"
#include "describe/sources/units.h"
#include "locate/known.h"
#include "locate/toolchain.h"
#include "survey/fortran.h"
#include "survey/languages.h"

namespace coctilis::describe::sources {

using survey::FolderRole;

namespace {

// Sources that are looked at where nothing says how they are built. Every one of them is compiled on trial.
constexpr std::size_t most_sources = 20'000;

// "clay::Kiln::fire(int)" is fire: what the text of its source has.
std::string plain_name(const std::string& symbol) {
  std::string name = demangled(symbol);
  name = name.substr(0, name.find_first_of("(<["));
  const auto colons = name.rfind("::");
  return colons == std::string::npos ? name : name.substr(colons + 2);
}

// Where a header is asked for, of those that one reaches.
Place place_of(const Candidate& one, const std::string& header) {
  for (const auto& absent : one.reach.absent) {
    if (absent.name == header) return {absent.file, absent.line, 0};
  }
  return {one.path, 0, 0};
}

}  // namespace

bool Candidate::is_aside() const { return role != FolderRole::own || is_name_of_test(stem_of(path)); }

Candidates::Candidates(const ReadRequest& request, Tree& tree, Outside& outside, Preparation& preparation,
                       const SourceLists& lists, const std::set<std::string>& libc)
    : request_(request), tree_(tree), outside_(outside), preparation_(preparation), lists_(lists), libc_(libc) {}

void Candidates::leave_out(const std::string& path, const std::string& reason) {
  left_out.push_back({"source", path, {path, 0, 0}, reason});
}
void Candidates::leave_out(Candidate& one, const std::string& reason) {
  one.counts = false;
  leave_out(one.path, reason);
}

void Candidates::run() {
  for (auto& one : choose_among_alternatives(tree_, outside_, request_.locator.settings()))
    left_out.push_back(std::move(one));
  collect();
  std::vector<std::string> paths;
  for (const auto& one : candidates_) paths.push_back(one.path);
  preparation_.run(paths);
  collect_made();
  find_fragments();
  if (std::none_of(candidates_.begin(), candidates_.end(), [](const auto& one) { return one.counts; }))
    throw Fault({Exit::description,
                 {},
                 "nothing says how the tree is built, and it has no source that a compiler here takes",
                 {},
                 "name the description under [tree] of coctilis.toml",
                 {}});
  compile();
  judge_parts();
  judge_failures();
}

// ---- which sources there are
void Candidates::collect() {
  for (const auto& file : tree_.files()) {
    if (file.language.empty()) continue;
    if (file.role == FolderRole::elsewhere || file.role == FolderRole::packaging) {
      leave_out(file.path, std::string("it lies in ") + survey::name_of(file.role));
      continue;
    }
    Candidate one;
    one.path = one.source = file.path;
    one.language = file.language;
    one.role = file.role;
    candidates_.push_back(std::move(one));
  }
  if (candidates_.size() > most_sources)
    throw Fault({Exit::description,
                 {},
                 "nothing says how the tree is built, and it has " + text::grouped(candidates_.size()) + " sources",
                 "what belongs together is found out by compiling every one of at most " + text::grouped(most_sources),
                 "leave folders out with leave-out under [tree] of coctilis.toml, or name [[target]]s",
                 {}});
}

// Sources that came into being while the tree was made ready.
void Candidates::collect_made() {
  std::map<std::string, std::string> made_of;
  for (const auto& grammar : preparation_.grammars()) {
    const std::string folder = folder_of(grammar.input);
    if (grammar.compiled) made_of[(folder.empty() ? "" : folder + "/") + grammar.outputs.front()] = grammar.input;
  }
  for (const auto& [from, path] : preparation_.filled_sources()) made_of[from.substr(0, from.size() - 3)] = from;
  for (const auto& file : tree_.files()) {
    const auto it = made_of.find(file.path);
    if (it == made_of.end() || !tree_.is_generated(file.path)) continue;
    Candidate one;
    one.path = file.path;
    one.source = it->second;
    one.language = file.language;
    one.role = file.role;
    candidates_.push_back(std::move(one));
  }
  for (auto& one : candidates_) {
    one.reach = tree_.reach(one.path);
    if (const auto it = lists_.definitions.find(one.path); it != lists_.definitions.end()) one.definitions = it->second;
    if (const auto it = lists_.folders.find(one.path); it != lists_.folders.end()) one.folders = it->second;
    if (one.language == "Fortran") {
      say_how_it_is_read(one);
      const auto& modules = tree_.scanned(one.path).defines_modules;
      own_modules_.insert(modules.begin(), modules.end());
    }
    for (const auto& maker : preparation_.makers()) {
      if (one.counts && maker.source == one.path) leave_out(one, "it makes " + maker.output + ", and is run for that");
    }
  }
}

// What the name of a Fortran source does not say, or says wrongly.
void Candidates::say_how_it_is_read(Candidate& one) {
  const auto content = files::read(tree_.absolute(one.path));
  if (!content) return;
  if (const bool fixed = survey::is_laid_out_fixed(one.path, *content); fixed != survey::has_fixed_ending(one.path))
    one.options.emplace_back(fixed ? "-ffixed-form" : "-ffree-form");
  if (tree_.scanned(one.path).directives && !survey::has_preprocessed_ending(one.path))
    one.options.emplace_back("-cpp");
}

// Sources that others include are no sources of their own, but where one only gathers them.
void Candidates::find_fragments() {
  std::map<std::string, std::size_t> by_path;
  for (std::size_t i = 0; i < candidates_.size(); ++i) by_path[candidates_[i].path] = i;
  // Who includes which source, directly.
  std::map<std::string, std::vector<std::string>> includers;
  for (const auto& file : tree_.files()) {
    if (file.language.empty() && !survey::is_header(file.path)) continue;
    if (file.role == FolderRole::elsewhere) continue;
    std::vector<std::size_t> sources;
    for (const auto& include : tree_.scanned(file.path).includes) {
      const auto name = include.name.substr(include.name.rfind('/') + 1);
      if (survey::compiled_language(name).empty()) continue;
      const auto it = by_path.find(tree_.meant(include, file.path));
      if (it == by_path.end() || it->first == file.path) continue;
      // A header that holds what it declares only on demand leaves the source one of its own.
      if (file.language.empty() && !include.condition.empty()) continue;
      sources.push_back(it->second);
    }
    if (sources.empty()) continue;
    const auto it = by_path.find(file.path);
    if (it != by_path.end() && sources.size() >= 3 && gathers(file.path)) {
      leave_out(candidates_[it->second],
                "it only gathers " + text::count(sources.size(), "source") + " that are compiled by themselves");
      continue;
    }
    const bool aside = file.role != FolderRole::own || is_name_of_test(stem_of(file.path));
    for (const auto source : sources) {
      // Tests look into what they test; that does not make it a part of them alone.
      if (aside && candidates_[source].role == FolderRole::own && !is_name_of_test(stem_of(candidates_[source].path)))
        continue;
      includers[candidates_[source].path].push_back(file.path);
    }
  }
  for (auto& one : candidates_) {
    const auto it = includers.find(one.path);
    if (it != includers.end() && one.counts) one.part_of = it->second.front();
  }
}

// A source that others include is a part of them, but where it has something by itself that they do not have.
void Candidates::judge_parts() {
  for (auto& one : candidates_) {
    if (one.part_of.empty() || !one.counts) continue;
    std::set<std::string> defined;
    for (const auto& other : candidates_) {
      if (&other == &one || !other.counts ||
          std::find(other.reach.files.begin(), other.reach.files.end(), one.path) == other.reach.files.end())
        continue;
      for (const auto& symbol : other.trial.symbols) {
        if (symbol.defined) defined.insert(symbol.name);
      }
    }
    const bool stands_alone =
        one.trial.compiled && std::any_of(one.trial.symbols.begin(), one.trial.symbols.end(), [&](const auto& symbol) {
          return symbol.defined && !symbol.weak && !symbol.shared && !defined.contains(symbol.name);
        });
    if (!stands_alone) leave_out(one, "it is a part of " + one.part_of + ", which includes it");
  }
}

// A source of little but includes of others that could stand alone.
bool Candidates::gathers(const std::string& path) const {
  const auto text = files::read(tree_.absolute(path));
  const auto* language = survey::language_of(path);
  if (!text || language == nullptr) return false;
  std::size_t directives = 0;
  for (const auto& line : text::split(*text, '\n')) directives += text::trim(line).starts_with('#') ? 1 : 0;
  return survey::count_lines(*text, *language).code <= directives + 20;
}

// ---- compiling on trial
void Candidates::find_outside(Candidate& one) {
  const auto add = [](std::vector<std::string>& to, const std::vector<std::string>& from) {
    for (const auto& word : from) {
      if (std::find(to.begin(), to.end(), word) == to.end()) to.push_back(word);
    }
  };
  // A module is a file as a header is one, as far as finding it goes.
  std::vector<std::string> names;
  for (const auto& module : tree_.scanned(one.path).uses_modules) {
    if (own_modules_.contains(module)) continue;
    const std::string file = module + ".mod";
    one.reach.elsewhere.insert(file);
    // Of several libraries that have one, the one that its wrapper or .pc file belongs to is linked, too.
    const auto folder = outside_.use_of(file) ? std::string{} : outside_.module_folder(module);
    if (!folder.empty())
      add(one.folders, {folder});
    else
      names.push_back(file);
  }
  for (const auto& absent : one.reach.absent) names.push_back(absent.name);
  for (const auto& name : names) {
    if (outside_.is_found(name)) continue;
    if (const auto use = outside_.use_of(name)) {
      add(one.folders, use->usage.include_folders);
      add(one.definitions, use->usage.definitions);
      add(one.options, use->usage.compile_options);
    } else if (const auto folder = outside_.folder_in_prefix(name); !folder.empty()) {
      add(one.folders, {folder});
    }
  }
}

TrialSource Candidates::trial_of(const Candidate& one) {
  TrialSource out;
  out.path = tree_.absolute(one.path);
  out.language = one.language;
  if (one.language != "Fortran") {
    if (preparation_.wants_have_config()) out.options.emplace_back("-DHAVE_CONFIG_H");
    for (const auto& definition : one.definitions) out.options.push_back("-D" + definition);
    for (const auto& folder : folders_by_distance(preparation_.folders(), request_.work, folder_of(one.path)))
      out.options.push_back("-I" + folder);
  }
  for (const auto& folder : one.reach.folders) out.options.push_back("-I" + folder);
  for (const auto& folder : one.folders) out.options.push_back("-I" + folder);
  for (const auto& folder : one.reach.quote_folders) {
    out.options.emplace_back("-iquote");
    out.options.push_back(folder);
  }
  out.options.insert(out.options.end(), one.options.begin(), one.options.end());
  // Old sources define variables in headers; whether these have to be shared is seen when all are known.
  if (one.language == "C") {
    // A function that nobody declared is one whose declaration hangs on a macro, as likely as not.
    out.trial_options = {"-fcommon", "-Werror=implicit-function-declaration"};
    const std::string asked = asked_of(one);
    out.further = {"-D_GNU_SOURCE"};
    if (!asked.empty()) out.further.insert(out.further.end(), {asked, asked + " -D_GNU_SOURCE"});
    out.further.insert(out.further.end(),
                       {"-Wno-error=implicit-function-declaration", "-std=gnu89", "-std=gnu89 -D_GNU_SOURCE"});
  } else if (one.language == "C++") {
    out.further = {"-std=gnu++20", "-std=gnu++14 -fpermissive", "-std=gnu++98 -fpermissive"};
  } else if (one.language == "Fortran") {
    out.further = {"-std=legacy", "-std=legacy -ffree-line-length-none -ffixed-line-length-none",
                   "-std=legacy -fallow-argument-mismatch"};
    const auto& text = tree_.scanned(one.path);
    out.defines_modules = text.defines_modules;
    out.uses_modules = text.uses_modules;
  }
  return out;
}

// The names that conditions ask for and that this system has, where no header that is made says so.
std::string Candidates::asked_of(const Candidate& one) const {
  if (preparation_.wants_have_config()) return {};
  std::string out;
  for (const auto& name : one.reach.asked) {
    const auto value = preparation_.value(name);
    if (value && *value == "1") out += (out.empty() ? "-D" : " -D") + name;
  }
  return out;
}

void Candidates::compile() {
  std::vector<TrialSource> sources;
  std::vector<std::size_t> which;
  for (std::size_t i = 0; i < candidates_.size(); ++i) {
    if (!candidates_[i].counts) continue;
    find_outside(candidates_[i]);
    sources.push_back(trial_of(candidates_[i]));
    which.push_back(i);
  }
  auto& locator = request_.locator;
  auto trials =
      compile_on_trial(sources, locator.toolchain(), locator.settings().jobs, locator.answers(), [&](std::size_t done) {
        locator.progress("compiling on trial: " + std::to_string(done) + " of " +
                         text::count(sources.size(), "source"));
      });
  for (std::size_t k = 0; k < which.size(); ++k) candidates_[which[k]].trial = std::move(trials[k]);
}

// ---- what did not compile
// The survey has looked for entry points; not in what was made since.
bool Candidates::has_entry(const Candidate& one) const {
  const auto& entries = request_.survey.entry_points;
  return std::any_of(entries.begin(), entries.end(), [&](const auto& entry) { return entry.place.file == one.path; });
}

// Symbols that compiled sources leave to others and that nothing has.
std::set<std::string> Candidates::wanted_nowhere() {
  std::set<std::string> defined, wanted, out;
  for (const auto& one : candidates_) {
    if (!one.counts || one.trial.symbols.empty()) continue;
    for (const auto& symbol : one.trial.symbols) {
      if (symbol.defined)
        defined.insert(symbol.name);
      else if (!symbol.weak && !libc_.contains(symbol.name))
        wanted.insert(symbol.name);
    }
  }
  std::set_difference(wanted.begin(), wanted.end(), defined.begin(), defined.end(), std::inserter(out, out.end()));
  outside_.ask(out, headers());
  std::erase_if(out, [&](const auto& symbol) { return outside_.is_defined(symbol); });
  return out;
}

// Names that sources include and that are none of the tree's.
std::set<std::string> Candidates::headers() const {
  std::set<std::string> out;
  for (const auto& one : candidates_) {
    if (one.counts) out.insert(one.reach.elsewhere.begin(), one.reach.elsewhere.end());
  }
  return out;
}

// Programs need the modules that they use, these others, and so on: what one of them needs does not go for not
// compiling.
void Candidates::find_needed_by_modules() {
  std::map<std::string, const Candidate*> definers;
  for (const auto& one : candidates_) {
    if (one.counts && one.language == "Fortran") {
      for (const auto& module : tree_.scanned(one.path).defines_modules) definers.emplace(module, &one);
    }
  }
  std::vector<const Candidate*> open;
  for (const auto& one : candidates_) {
    if (one.counts && one.language == "Fortran" && !one.is_aside() && has_entry(one)) open.push_back(&one);
  }
  while (!open.empty()) {
    const auto* one = open.back();
    open.pop_back();
    if (!needed_by_modules_.insert(one->path).second) continue;
    for (const auto& module : tree_.scanned(one->path).uses_modules) {
      if (const auto it = definers.find(module); it != definers.end()) open.push_back(it->second);
    }
  }
}

void Candidates::judge_failures() {
  std::vector<Candidate*> failed;
  bool any_compiled = false;
  for (auto& one : candidates_) {
    if (!one.counts) continue;
    any_compiled = any_compiled || one.trial.compiled;
    if (one.trial.compiled) continue;
    if (one.trial.no_compiler) {
      languages_without_compiler_.insert(one.language);
      leave_out(one, one.trial.failure);
    } else if (locate::is_header_of_other_system(one.trial.missing_header)) {
      leave_out(one, "it needs " + one.trial.missing_header + ", which systems of another kind have");
    } else {
      failed.push_back(&one);
    }
  }
  for (const auto& language : languages_without_compiler_) {
    model::Finding finding;
    finding.requirement = {model::RequirementKind::toolchain, language + " compiler", {}, true, "the sources", {}, {}};
    finding.reason = "the tool chain has none";
    finding.package = locate::package_of_compiler(request_.locator.toolchain(), language);
    request_.locator.keep(std::move(finding));
  }
  if (failed.empty()) return;
  // What a compiler read before it failed is not known: what came of it cannot be kept.
  observe::spoil("a source does not compile");
  find_needed_by_modules();
  std::map<std::string, std::string> wanted;  // as texts have it -> the symbol
  for (const auto& symbol : wanted_nowhere()) wanted.emplace(plain_name(symbol), symbol);
  for (auto* one : failed) judge_failure(*one, wanted, any_compiled);
  judge_doubtful();
}

// One that has a place stays there, so that its step says what is wrong with it: it compiled before, has the entry
// point of a program of the tree, or something that others need. The rest may be for another system.
void Candidates::judge_failure(Candidate& one, const std::map<std::string, std::string>& wanted, bool any_compiled) {
  auto& trial = one.trial;
  const bool before = !trial.symbols.empty();
  const bool entry = !before && has_entry(one);
  std::vector<std::string> defines;
  if (!before) {
    const std::string text = files::read(tree_.absolute(one.path)).value_or("");
    static const RE2 call(R"(([A-Za-z_][A-Za-z0-9_]*)\s*\()");
    re2::StringPiece rest(text);
    std::string name;
    std::set<std::string> seen;
    while (RE2::FindAndConsume(&rest, call, &name)) {
      const auto it = wanted.find(name);
      if (it != wanted.end() && seen.insert(name).second) defines.push_back(it->second);
    }
  }
  const bool needed = needed_by_modules_.contains(one.path);
  const bool belongs = before || !defines.empty() || (entry && !one.is_aside()) || !any_compiled || needed;
  if (belongs && !trial.missing_module.empty() && !own_modules_.contains(trial.missing_module)) {
    model::Finding finding;
    finding.requirement = {model::RequirementKind::header,
                           trial.missing_module + ".mod",
                           {},
                           !one.is_aside(),
                           one.path,
                           {one.path, 0, 0},
                           {}};
    finding.reason = "no source defines the module, and no folder for modules of libraries has it";
    finding.package = locate::package_of_fortran_module(trial.missing_module);
    missing_ = missing_ || finding.requirement.required;
    request_.locator.keep(std::move(finding));
  }
  const std::string package = trial.missing_header.empty() ? "" : locate::package_of_header(trial.missing_header);
  if (!package.empty()) {
    model::Requirement want;
    want.kind = model::RequirementKind::header;
    want.name = trial.missing_header;
    want.required_by = one.path;
    want.place = place_of(one, trial.missing_header);
    want.required = belongs && !one.is_aside();
    missing_ = missing_ || want.required;
    request_.locator.keep(request_.locator.header(want, {}));
  }
  if (!belongs) {
    leave_out(one, trial.missing_header.empty() ? "it does not compile: " + shorter(trial.failure)
                                                : "it needs " + trial.missing_header + ", which is not there" +
                                                      (package.empty() ? "" : " (package " + package + ")"));
    if (!one.is_aside() && package.empty()) doubtful_.push_back(&one);
    return;
  }
  if (before) return;
  if (entry) trial.symbols.push_back({"main", true, false, false});
  for (const auto& symbol : defines) trial.symbols.push_back({symbol, true, false, false});
}

// Sources that lie among those of the tree and do not compile: somebody may miss them. A tree of which most does not
// compile is not one that has been understood.
void Candidates::judge_doubtful() {
  if (doubtful_.empty()) return;
  const auto& first = *doubtful_.front();
  const std::size_t more = doubtful_.size() - 1;
  const auto good = static_cast<std::size_t>(std::count_if(candidates_.begin(), candidates_.end(), [](const auto& one) {
    return one.counts && one.trial.compiled && !one.is_aside();
  }));
  if (doubtful_.size() > good)
    throw Fault({Exit::description,
                 {first.path, 0, 0},
                 "nothing says how the tree is built, and " + text::count(doubtful_.size(), "source") + " of " +
                     std::to_string(doubtful_.size() + good) + " do not compile",
                 "the first: " + shorter(first.trial.failure),
                 "install what they need, leave them out with leave-out under [tree] of coctilis.toml, or name what is "
                 "built with [[target]]",
                 {}});
  warnings.push_back(
      {Exit::done,
       {first.path, 0, 0},
       first.path + (more > 0 ? " and " + text::count(more, "further source") + " do not compile and are left out"
                              : " does not compile and is left out"),
       {},
       "'coctilis plan' says what is wrong with each; [[target]]s of coctilis.toml build them all the same",
       {}});
}

// A compiler's message without the folder of the tree.
std::string Candidates::shorter(const std::string& failure) const {
  return text::clip(text::printable_line(text::replace_all(failure, tree_.root() + "/", "")), 160);
}

}  // namespace coctilis::describe::sources
