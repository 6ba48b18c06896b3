#include "describe/sources/discovery.h"

#include <cxxabi.h>
#include <re2/re2.h>

#include <algorithm>
#include <cstdlib>
#include <map>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "describe/sources/grouping.h"
#include "describe/sources/hints.h"
#include "describe/sources/preparation.h"
#include "describe/sources/trial.h"
#include "locate/known.h"
#include "locate/symbol_index.h"
#include "locate/toolchain.h"
#include "survey/languages.h"

namespace coctilis::describe::sources {

using model::SourceTarget;
using survey::FolderRole;

namespace {

// Sources that are looked at where nothing says how they are built. Every one of them is compiled on trial.
constexpr std::size_t most_sources = 20'000;

std::string for_people(const std::string& symbol) {
  int status = 0;
  char* text = abi::__cxa_demangle(symbol.c_str(), nullptr, nullptr, &status);
  const std::string out = status == 0 && text != nullptr ? text : symbol;
  std::free(text);  // NOLINT: the library's own way to hand it over
  return out;
}

// "clay::Kiln::fire(int)" is fire: what the text of its source has.
std::string plain_name(const std::string& symbol) {
  std::string name = for_people(symbol);
  name = name.substr(0, name.find_first_of("(<["));
  const auto colons = name.rfind("::");
  return colons == std::string::npos ? name : name.substr(colons + 2);
}

}  // namespace

class Discovery::Work {
 public:
  explicit Work(const ReadRequest& request)
      : request_(request),
        outside_(request.locator),
        tree_name_(name_without_version(std::filesystem::path(request.survey.tree).filename().string())),
        tree_(request.survey.tree, request.locator.settings(),
              [this](const std::string& header) { return outside_.system_has(header); }),
        libc_(locate::symbols_of_toolchain(request.locator, languages(), false)),
        all_libc_(locate::symbols_of_toolchain(request.locator, languages(), true)),
        preparation_(request, tree_, outside_, all_libc_, tree_name_) {}

  void prepare(const std::vector<std::string>& sources) { preparation_.run(sources); }

  std::vector<SourceTarget> targets() {
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
    warn_of_doubtful();
    return made_of_groups();
  }

  [[nodiscard]] Workplace place() const {
    Workplace out;
    out.tree = tree_.root();
    out.work = request_.work;
    // Those whose generator is missing are none that rules can be made of; what is missing stops the run.
    for (std::size_t i = 0; i < preparation_.grammars().size(); ++i) {
      out.grammars.push_back(preparation_.grammars()[i]);
      out.generators.push_back(preparation_.generators()[i]);
    }
    out.makers = preparation_.makers();
    out.filled_sources = preparation_.filled_sources();
    out.generated_folders = preparation_.folders();
    out.notes = preparation_.notes();
    return out;
  }

  [[nodiscard]] std::vector<std::string> headers_for(const std::vector<std::string>& sources) const {
    return sources.empty() ? std::vector<std::string>{} : public_headers(tree_, sources);
  }

  std::vector<model::LeftOut> left_out;
  std::vector<Problem> warnings;

 private:
  struct Candidate {
    std::string path;    // relative; of a source that is made where it would lie
    std::string source;  // as settings name it: the path, or what it is made of
    std::string language;
    FolderRole role = FolderRole::own;
    Reach reach;
    // With what it is compiled besides, for what is none of the tree's.
    std::vector<std::string> folders;
    std::vector<std::string> definitions;
    std::vector<std::string> options;
    Trial trial;
    bool counts = true;            // else it has been left out
    std::string part_of;           // a file that includes it
    std::set<std::string> called;  // of one that does not compile: names that its text calls or defines
  };

  [[nodiscard]] std::set<std::string> languages() const {
    std::set<std::string> out;
    for (const auto& file : tree_.files()) {
      if (!file.language.empty()) out.insert(file.language);
    }
    return out;
  }

  void leave_out(const std::string& path, const std::string& reason) {
    left_out.push_back({"source", path, {path, 0, 0}, reason});
  }
  void leave_out(Candidate& one, const std::string& reason) {
    one.counts = false;
    leave_out(one.path, reason);
  }
  void warn(const Place& place, const std::string& what, const std::string& remedy) {
    warnings.push_back({Exit::done, place, what, {}, remedy, {}});
  }

  // ---- which sources there are
  // ---------------------------------------------------------------------------------------
  void collect() {
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
      throw Fault(
          {Exit::description,
           {},
           "nothing says how the tree is built, and it has " + text::grouped(candidates_.size()) + " sources",
           "what belongs together is found out by compiling every one of at most " + text::grouped(most_sources),
           "leave folders out with leave-out under [tree] of coctilis.toml, or name [[target]]s",
           {}});
  }

  // Sources that came into being while the tree was made ready.
  void collect_made() {
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
      for (const auto& maker : preparation_.makers()) {
        if (one.counts && maker.source == one.path)
          leave_out(one, "it makes " + maker.output + ", and is run for that");
      }
    }
  }

  // Sources that others include are no sources of their own, but where one only gathers them.
  void find_fragments() {
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
      if (it != by_path.end() && sources.size() >= 3 && gathers(file.path, sources)) {
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
  void judge_parts() {
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
          one.trial.compiled &&
          std::any_of(one.trial.symbols.begin(), one.trial.symbols.end(), [&](const auto& symbol) {
            return symbol.defined && !symbol.weak && !symbol.shared && !defined.contains(symbol.name);
          });
      if (!stands_alone) leave_out(one, "it is a part of " + one.part_of + ", which includes it");
    }
  }

  // A source of little but includes of others that could stand alone.
  [[nodiscard]] bool gathers(const std::string& path, const std::vector<std::size_t>& sources) const {
    const auto text = files::read(tree_.absolute(path));
    const auto* language = survey::language_of(path);
    if (!text || language == nullptr) return false;
    std::size_t directives = 0;
    for (const auto& line : text::split(*text, '\n')) directives += text::trim(line).starts_with('#') ? 1 : 0;
    const auto lines = survey::count_lines(*text, *language);
    return lines.code <= directives + 20 && sources.size() >= 3;
  }

  // ---- compiling on trial
  // --------------------------------------------------------------------------------------------
  void find_outside(Candidate& one) {
    for (const auto& absent : one.reach.absent) {
      if (outside_.is_found(absent.name)) continue;
      const auto use = outside_.use_of(absent.name);
      if (!use) continue;
      const auto add = [](std::vector<std::string>& to, const std::vector<std::string>& from) {
        for (const auto& word : from) {
          if (std::find(to.begin(), to.end(), word) == to.end()) to.push_back(word);
        }
      };
      add(one.folders, use->usage.include_folders);
      add(one.definitions, use->usage.definitions);
      add(one.options, use->usage.compile_options);
    }
  }

  [[nodiscard]] std::vector<std::string> generated_near(const std::string& path) const {
    return folders_by_distance(preparation_.folders(), request_.work, folder_of(path));
  }

  [[nodiscard]] TrialSource trial_of(const Candidate& one) const {
    TrialSource out;
    out.path = tree_.absolute(one.path);
    out.language = one.language;
    if (one.language != "Fortran") {
      if (preparation_.wants_have_config()) out.options.emplace_back("-DHAVE_CONFIG_H");
      for (const auto& definition : one.definitions) out.options.push_back("-D" + definition);
      for (const auto& folder : generated_near(one.path)) out.options.push_back("-I" + folder);
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
      out.further = {"-std=legacy", "-std=legacy -ffree-line-length-none"};
      const auto& text = tree_.scanned_before(one.path);
      out.defines_modules = text.defines_modules;
      out.uses_modules = text.uses_modules;
    }
    return out;
  }

  // The names that conditions ask for and that this system has, where no header that is made says so.
  [[nodiscard]] std::string asked_of(const Candidate& one) const {
    if (preparation_.wants_have_config()) return {};
    std::string out;
    for (const auto& name : one.reach.asked) {
      const auto value = preparation_.value(name);
      if (value && *value == "1") out += (out.empty() ? "-D" : " -D") + name;
    }
    return out;
  }

  void compile() {
    std::vector<TrialSource> sources;
    std::vector<std::size_t> which;
    for (std::size_t i = 0; i < candidates_.size(); ++i) {
      if (!candidates_[i].counts) continue;
      find_outside(candidates_[i]);
      static_cast<void>(tree_.scanned(candidates_[i].path));
      sources.push_back(trial_of(candidates_[i]));
      which.push_back(i);
    }
    auto& locator = request_.locator;
    auto trials = compile_on_trial(sources, locator.toolchain(), locator.settings().jobs, locator.answers(),
                                   [&](std::size_t done) {
                                     locator.progress("compiling on trial: " + std::to_string(done) + " of " +
                                                      text::count(sources.size(), "source"));
                                   });
    for (std::size_t k = 0; k < which.size(); ++k) candidates_[which[k]].trial = std::move(trials[k]);
  }

  // ---- what did not compile
  // ------------------------------------------------------------------------------------------ Where a header is asked
  // for, of those that one reaches.
  [[nodiscard]] static Place place_of(const Candidate& one, const std::string& header) {
    for (const auto& absent : one.reach.absent) {
      if (absent.name == header) return {absent.file, absent.line, 0};
    }
    return {one.path, 0, 0};
  }

  [[nodiscard]] bool has_entry(const Candidate& one) const {
    const auto text = files::read(tree_.absolute(one.path));
    const auto* language = survey::language_of(one.path);
    return text && language != nullptr && !survey::count_lines(*text, *language).entry_lines.empty();
  }

  [[nodiscard]] static bool is_aside(const Candidate& one) {
    return one.role != FolderRole::own || is_name_of_test(stem_of(one.path));
  }

  // Symbols that compiled sources leave to others and that nothing has.
  [[nodiscard]] std::set<std::string> wanted_nowhere() {
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
  [[nodiscard]] std::set<std::string> headers() const {
    std::set<std::string> out;
    for (const auto& one : candidates_) {
      if (one.counts) out.insert(one.reach.elsewhere.begin(), one.reach.elsewhere.end());
    }
    return out;
  }

  void judge_failures() {
    std::vector<Candidate*> failed;
    bool any_program = false;
    bool any = false;
    for (auto& one : candidates_) {
      if (!one.counts) continue;
      any = any || one.trial.compiled;
      any_program = any_program || (one.trial.compiled && !is_aside(one) && defines_main(one.trial));
      if (one.trial.compiled) continue;
      if (locate::is_header_of_other_system(one.trial.missing_header)) {
        leave_out(one, "it needs " + one.trial.missing_header + ", which systems of another kind have");
      } else if (one.trial.no_compiler) {
        // Said as any compiler that is missing is.
        languages_without_compiler_.insert(one.language);
        failed.push_back(&one);
      } else {
        failed.push_back(&one);
      }
    }
    if (failed.empty()) return;
    std::map<std::string, std::string> wanted;  // as texts have it -> the symbol
    for (const auto& symbol : wanted_nowhere()) wanted.emplace(plain_name(symbol), symbol);
    for (auto* one : failed) {
      auto& trial = one->trial;
      const bool before = !trial.symbols.empty();  // from when it compiled
      const bool entry = !before && has_entry(*one);
      std::vector<std::string> defines;
      if (!before) {
        const std::string text = files::read(tree_.absolute(one->path)).value_or("");
        static const RE2 call(R"(([A-Za-z_][A-Za-z0-9_]*)\s*\()");
        re2::StringPiece rest(text);
        std::string name;
        std::set<std::string> seen;
        while (RE2::FindAndConsume(&rest, call, &name)) {
          const auto it = wanted.find(name);
          if (it != wanted.end() && seen.insert(name).second) defines.push_back(it->second);
        }
      }
      const bool belongs = before || !defines.empty() || (entry && !is_aside(*one) && !any_program) || !any;
      const std::string package = trial.missing_header.empty() ? "" : locate::package_of_header(trial.missing_header);
      if (!trial.missing_header.empty()) {
        model::Requirement want;
        want.kind = model::RequirementKind::header;
        want.name = trial.missing_header;
        want.required_by = one->path;
        want.place = place_of(*one, trial.missing_header);
        want.required = !package.empty() && !is_aside(*one) && (belongs || entry);
        if (!package.empty()) request_.locator.keep(request_.locator.header(want, {}));
        if (want.required) missing_ = true;
      }
      if (one->trial.no_compiler) {
        leave_out(*one, trial.failure);
        continue;
      }
      if (!belongs) {
        const std::string reason =
            !package.empty() ? "it needs " + trial.missing_header + ", which is not there (package " + package + ")"
            : !trial.missing_header.empty() ? "it needs " + trial.missing_header + ", which is not there"
                                            : "it does not compile: " + shorter(trial.failure);
        leave_out(*one, reason);
        if (!is_aside(*one) && package.empty()) {
          if (doubtful_.empty()) doubtful_failure_ = shorter(trial.failure);
          doubtful_.push_back(one->path);
        }
        continue;
      }
      // It stays, and its step says what is wrong with it.
      if (before) continue;
      if (entry) trial.symbols.push_back({"main", true, false, false});
      for (const auto& symbol : defines) trial.symbols.push_back({symbol, true, false, false});
    }
  }

  // Sources that lie among those of the tree and do not compile: somebody may miss them.
  void warn_of_doubtful() {
    if (doubtful_.empty()) return;
    const std::size_t more = doubtful_.size() - 1;
    const auto good =
        static_cast<std::size_t>(std::count_if(candidates_.begin(), candidates_.end(), [](const auto& one) {
          return one.counts && one.trial.compiled && !is_aside(one);
        }));
    // A tree of which most does not compile is not one that has been understood.
    if (doubtful_.size() > good)
      throw Fault({Exit::description,
                   {doubtful_.front(), 0, 0},
                   "nothing says how the tree is built, and " + text::count(doubtful_.size(), "source") + " of " +
                       std::to_string(doubtful_.size() + good) + " do not compile",
                   "the first: " + doubtful_failure_,
                   "install what they need, leave them out with leave-out under [tree] of coctilis.toml, or name what "
                   "is built with [[target]]",
                   {}});
    warn({doubtful_.front(), 0, 0},
         doubtful_.front() + (more > 0 ? " and " + text::count(more, "further source") : "") +
             (more > 0 ? " do not compile and are" : " does not compile and is") + " left out",
         "'coctilis plan' says what is wrong with each; [[target]]s of coctilis.toml build them all the same");
  }

  [[nodiscard]] static bool defines_main(const Trial& trial) {
    return std::any_of(trial.symbols.begin(), trial.symbols.end(), [](const auto& symbol) {
      return symbol.defined && !symbol.weak && (symbol.name == "main" || symbol.name == "MAIN__");
    });
  }

  // A compiler's message without the folder of the tree.
  [[nodiscard]] std::string shorter(const std::string& failure) const {
    return text::clip(text::printable_line(text::replace_all(failure, tree_.root() + "/", "")), 160);
  }

  // ---- targets
  // -------------------------------------------------------------------------------------------------------
  std::vector<SourceTarget> made_of_groups() {
    std::vector<Object> objects;
    std::vector<std::size_t> which;
    for (std::size_t i = 0; i < candidates_.size(); ++i) {
      const auto& one = candidates_[i];
      if (!one.counts) continue;
      objects.push_back({one.path, one.language, one.role, one.trial.symbols});
      which.push_back(i);
    }
    const auto grouping = group(objects, tree_name_, library_hints(tree_, tree_name_), libc_);
    for (const auto& note : grouping.notes) warn({}, note, "");
    for (const auto& one : grouping.left_out) leave_out(objects[one.object].path, one.why);
    std::set<std::string> wanted;
    for (const auto& group : grouping.groups) wanted.insert(group.wanted.begin(), group.wanted.end());
    outside_.ask(wanted, headers());
    std::vector<bool> fails(grouping.groups.size());
    bool any_product = false;
    std::vector<Problem> unlinked;
    std::vector<SourceTarget> out(grouping.groups.size());
    for (std::size_t g = 0; g < grouping.groups.size(); ++g) {
      const auto& group = grouping.groups[g];
      auto open = group.wanted;
      std::erase_if(open, [&](const auto& symbol) { return outside_.is_defined(symbol); });
      // What nothing defines cannot be linked; whether somebody else is to define it, a library does not say.
      if (group.kind == Group::Kind::program && !open.empty()) {
        fails[g] = true;
        const auto& path = objects[group.objects.front()].path;
        const std::string first = for_people(*open.begin());
        const std::string reason = "it needs " + first +
                                   (open.size() > 1 ? " and " + text::count(open.size() - 1, "more symbol") : "") +
                                   ", which nothing here defines";
        leave_out(path, reason);
        const auto asks = asker(group, objects, *open.begin());
        unlinked.push_back({Exit::description,
                            {asks, 0, 0},
                            "the program " + group.name + " (" + path + ") cannot be linked: " + asks + " needs " +
                                first + ", which neither the tree nor a library of this system defines",
                            open.size() > 1 ? "so are " + text::count(open.size() - 1, "more symbol") : std::string{},
                            "install the library that has it, or leave the source out with leave-out under [tree] of "
                            "coctilis.toml",
                            {}});
      } else {
        any_product = any_product || (group.kind != Group::Kind::archive && group.by_default);
        out[g] = target_of(group, grouping, objects, which);
      }
    }
    std::vector<SourceTarget> targets;
    std::size_t products = 0;
    for (std::size_t g = 0; g < out.size(); ++g) {
      if (fails[g]) continue;
      // An archive whose users have gone is nobody's.
      if (grouping.groups[g].kind == Group::Kind::archive) {
        bool used = false;
        for (std::size_t u = 0; u < out.size(); ++u) {
          const auto& libraries = grouping.groups[u].libraries;
          used = used || (!fails[u] && std::find(libraries.begin(), libraries.end(), g) != libraries.end());
        }
        if (!used) {
          for (const auto object : grouping.groups[g].objects)
            leave_out(objects[object].path, "only programs that are left out need it");
          continue;
        }
      } else {
        ++products;
      }
      targets.push_back(std::move(out[g]));
    }
    if (missing_) return targets;  // what is missing is said first
    if (products == 0) {
      if (!unlinked.empty()) throw Fault(unlinked.front());
      if (!languages_without_compiler_.empty()) {
        keep_missing_compilers();
        return targets;
      }
      throw Fault({Exit::description,
                   {},
                   "nothing says how the tree is built, and its " + text::count(candidates_.size(), "source") +
                       " make no program and no library",
                   left_out.empty() ? std::string{} : left_out.front().name + ": " + left_out.front().reason,
                   "name what is built with [[target]] in coctilis.toml",
                   {}});
    }
    if (!languages_without_compiler_.empty()) keep_missing_compilers();
    for (const auto& problem : unlinked) {
      const bool aside = std::any_of(candidates_.begin(), candidates_.end(), [&](const auto& one) {
        return problem.what.find("(" + one.path + ")") != std::string::npos && is_aside(one);
      });
      if (!aside) warn(problem.place, problem.what, problem.remedy);
    }
    // With nothing else to build, tests and examples are what there is.
    if (!any_product) {
      for (auto& target : targets) target.by_default = true;
    }
    return targets;
  }

  void keep_missing_compilers() {
    for (const auto& language : languages_without_compiler_) {
      model::Finding finding;
      finding.requirement = {
          model::RequirementKind::toolchain, language + " compiler", {}, true, "the sources", {}, {}};
      finding.reason = "the tool chain has none";
      finding.package = locate::package_of_compiler(request_.locator.toolchain(), language);
      request_.locator.keep(std::move(finding));
    }
  }

  static std::string asker(const Group& group, const std::vector<Object>& objects, const std::string& symbol) {
    for (const auto i : group.objects) {
      for (const auto& one : objects[i].symbols) {
        if (!one.defined && one.name == symbol) return objects[i].path;
      }
    }
    return objects[group.objects.front()].path;
  }

  SourceTarget target_of(const Group& group, const Grouping& grouping, const std::vector<Object>& objects,
                         const std::vector<std::size_t>& which) {
    SourceTarget out;
    out.name = file_name(group);
    out.kind = group.kind == Group::Kind::program   ? SourceTarget::Kind::program
               : group.kind == Group::Kind::library ? SourceTarget::Kind::library
                                                    : SourceTarget::Kind::archive;
    out.by_default = group.by_default;
    out.why = group.why;
    std::set<std::string> headers;
    std::vector<const Candidate*> members;
    for (const auto object : group.objects) {
      members.push_back(&candidates_[which[object]]);
      headers.insert(members.back()->reach.elsewhere.begin(), members.back()->reach.elsewhere.end());
    }
    out.place = {members.front()->path, 0, 0};
    for (const auto library : group.libraries) out.use.push_back(file_name(grouping.groups[library]));
    auto wanted = group.wanted;
    // What a program wants of the system by way of an archive is the archive's to name.
    if (group.kind == Group::Kind::program) {
      std::set<std::string> own;
      for (const auto object : group.objects) {
        for (const auto& symbol : objects[object].symbols) {
          if (!symbol.defined) own.insert(symbol.name);
        }
      }
      std::erase_if(wanted, [&](const auto& symbol) { return !own.contains(symbol); });
    } else if (group.kind == Group::Kind::archive) {
      for (const auto object : group.objects) {
        for (const auto& symbol : objects[object].symbols) {
          if (!symbol.defined && !symbol.weak && !libc_.contains(symbol.name)) wanted.insert(symbol.name);
        }
      }
      std::erase_if(wanted,
                    [&](const auto& symbol) { return !outside_.is_defined(symbol) || defined_here(objects, symbol); });
    }
    for (const auto& library : outside_.libraries(wanted, headers, "'" + out.name + "'", out.place, group.by_default))
      out.libraries.push_back(library.item.starts_with("-l") ? library.item.substr(2) : library.item);
    out.parts = parts_of(members, needs_common(group, objects));
    return out;
  }

  bool defined_here(const std::vector<Object>& objects, const std::string& symbol) {
    if (!defined_) {
      defined_.emplace();
      for (const auto& object : objects) {
        for (const auto& one : object.symbols) {
          if (one.defined) defined_->insert(one.name);
        }
      }
    }
    return defined_->contains(symbol);
  }

  static std::string file_name(const Group& group) {
    return group.kind == Group::Kind::library ? "lib" + group.name : group.name;
  }

  // Two of the objects define the same variable in the way of old.
  static bool needs_common(const Group& group, const std::vector<Object>& objects) {
    std::set<std::string> seen;
    for (const auto i : group.objects) {
      if (objects[i].language != "C") continue;
      for (const auto& symbol : objects[i].symbols) {
        if (symbol.defined && symbol.shared && !symbol.weak && !seen.insert(symbol.name).second) return true;
      }
    }
    return false;
  }

  // ---- parts: sources that are compiled alike
  // ------------------------------------------------------------------------
  [[nodiscard]] std::string relative(const std::string& folder) const {
    if (folder == tree_.root()) return ".";
    return files::below(folder, tree_.root());
  }

  std::vector<SourceTarget::Part> parts_of(const std::vector<const Candidate*>& members, bool common) {
    // All folders of all, where that does not change which headers are meant.
    std::vector<std::string> folders;
    for (const auto* one : members) {
      for (const auto* list : {&one->reach.folders, &one->folders}) {
        for (const auto& folder : *list) {
          if (std::find(folders.begin(), folders.end(), folder) == folders.end()) folders.push_back(folder);
        }
      }
    }
    // Those of the tree before those of others.
    std::stable_partition(folders.begin(), folders.end(),
                          [&](const auto& folder) { return files::is_below(folder, tree_.root()); });
    std::vector<SourceTarget::Part> out;
    std::map<std::string, std::size_t> index;
    for (const auto* one : members) {
      SourceTarget::Part part;
      std::vector<std::string> mine = one->reach.folders;
      mine.insert(mine.end(), one->folders.begin(), one->folders.end());
      for (const auto& folder : means_the_same(*one, folders) ? folders : mine) {
        // What is generated is found without a word.
        if (!files::is_below(folder, generated_folder(request_.work, ""))) part.include.push_back(relative(folder));
      }
      for (const auto& folder : one->reach.quote_folders) part.quote_include.push_back(relative(folder));
      if (preparation_.wants_have_config() && one->language != "Fortran") part.define.emplace_back("HAVE_CONFIG_H");
      part.define.insert(part.define.end(), one->definitions.begin(), one->definitions.end());
      part.options = one->options;
      for (const auto& option : one->trial.options) {
        if (option.starts_with("-D"))
          part.define.push_back(option.substr(2));
        else
          part.options.push_back(option);
      }
      if (common && one->language == "C") part.options.emplace_back("-fcommon");
      const std::string key = text::join(part.include, "\n") + "\n\n" + text::join(part.quote_include, "\n") + "\n\n" +
                              text::join(part.define, "\n") + "\n\n" + text::join(part.options, "\n");
      const auto [it, fresh] = index.try_emplace(key, out.size());
      if (fresh) out.push_back(std::move(part));
      out[it->second].sources.push_back(one->source);
    }
    return out;
  }

  [[nodiscard]] bool is_file(const std::string& path) {
    const auto it = is_file_.find(path);
    if (it != is_file_.end()) return it->second;
    const bool there = files::is_file(path);
    is_file_[path] = there;
    return there;
  }

  bool means_the_same(const Candidate& one, const std::vector<std::string>& folders) {
    const auto first = [&](const std::string& name) -> std::string {
      for (const auto& folder : folders) {
        if (is_file(folder + "/" + name)) return files::absolute(folder + "/" + name);
      }
      return {};
    };
    for (const auto& name : one.reach.elsewhere) {
      const std::string found = first(name);
      if (!found.empty() && files::is_below(found, tree_.root())) return false;
    }
    return std::all_of(one.reach.named.begin(), one.reach.named.end(), [&](const auto& named) {
      const std::string found = first(named.first);
      return found.empty() ? files::is_below(named.second, request_.work) : found == named.second;
    });
  }

  const ReadRequest& request_;
  Outside outside_;
  const std::string tree_name_;
  Tree tree_;
  const std::set<std::string> libc_;
  const std::set<std::string> all_libc_;
  Preparation preparation_;
  std::vector<Candidate> candidates_;
  std::set<std::string> languages_without_compiler_;
  std::vector<std::string> doubtful_;
  std::string doubtful_failure_;  // of the first
  std::optional<std::set<std::string>> defined_;
  std::map<std::string, bool> is_file_;
  bool missing_ = false;  // a header that is required
};

Discovery::Discovery(const ReadRequest& request) : work_(std::make_unique<Work>(request)) {}
Discovery::~Discovery() = default;
void Discovery::prepare(const std::vector<std::string>& sources) { work_->prepare(sources); }
std::vector<SourceTarget> Discovery::targets() { return work_->targets(); }
Workplace Discovery::place() const { return work_->place(); }
std::vector<std::string> Discovery::headers_for(const std::vector<std::string>& library_sources) const {
  return work_->headers_for(library_sources);
}
const std::vector<model::LeftOut>& Discovery::left_out() const { return work_->left_out; }
const std::vector<Problem>& Discovery::warnings() const { return work_->warnings; }

}  // namespace coctilis::describe::sources
