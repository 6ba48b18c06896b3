#include "describe/sources/discovery.h"

#include <algorithm>
#include <map>
#include <optional>
#include <set>

#include "base/demangle.h"
#include "base/files.h"
#include "base/text.h"
#include "describe/sources/candidates.h"
#include "describe/sources/grouping.h"
#include "describe/sources/hints.h"
#include "describe/sources/lists.h"
#include "describe/sources/preparation.h"
#include "locate/symbol_index.h"

namespace coctilis::describe::sources {

using model::SourceTarget;
using survey::FolderRole;

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
        lists_(source_lists(tree_, tree_name_)),
        preparation_(request, tree_, outside_, all_libc_, tree_name_, lists_.values),
        candidates_(request, tree_, outside_, preparation_, lists_, libc_) {}

  void prepare(const std::vector<std::string>& sources) { preparation_.run(sources); }

  std::vector<SourceTarget> targets() {
    candidates_.run();
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

  [[nodiscard]] const Candidates& candidates() const { return candidates_; }

 private:
  [[nodiscard]] std::set<std::string> languages() const {
    std::set<std::string> out;
    for (const auto& file : tree_.files()) {
      if (!file.language.empty()) out.insert(file.language);
    }
    return out;
  }

  // ---- targets
  std::vector<SourceTarget> made_of_groups() {
    std::vector<Object> objects;
    std::vector<std::size_t> which;
    for (std::size_t i = 0; i < candidates_.all().size(); ++i) {
      const auto& one = candidates_.all()[i];
      if (!one.counts) continue;
      objects.push_back({one.path, one.language, one.role, one.trial.symbols, {}, {}});
      which.push_back(i);
    }
    add_modules(objects);
    name_programs(objects);
    auto hints = listed_libraries();
    if (hints.empty()) hints = library_hints(tree_, tree_name_);
    const auto grouping = group(objects, tree_name_, hints, libc_);
    for (const auto& note : grouping.notes) candidates_.warnings.push_back({Exit::done, {}, note, {}, {}, {}});
    for (const auto& one : grouping.left_out) candidates_.leave_out(objects[one.object].path, one.why);
    std::set<std::string> wanted;
    for (const auto& group : grouping.groups) wanted.insert(group.wanted.begin(), group.wanted.end());
    outside_.ask(wanted, candidates_.headers());
    std::vector<SourceTarget> targets;
    std::optional<Problem> unlinked;  // the first program that cannot be linked
    bool any_product = false;
    std::set<std::size_t> used;  // groups that are built use them
    std::vector<std::size_t> archives;
    for (std::size_t g = 0; g < grouping.groups.size(); ++g) {
      const auto& group = grouping.groups[g];
      if (auto problem = not_linked(group, objects)) {
        // One of the tree's own is what somebody wants; tests and examples may be for another time.
        if (group.by_default && !candidates_.any_required_missing()) throw Fault(*problem);
        if (!unlinked) unlinked = std::move(problem);
        continue;
      }
      if (group.kind == Group::Kind::archive) {
        archives.push_back(g);
        continue;
      }
      used.insert(group.libraries.begin(), group.libraries.end());
      any_product = any_product || group.by_default;
      targets.push_back(target_of(group, grouping, objects, which));
    }
    if (targets.empty() && !candidates_.any_required_missing() && !candidates_.any_without_compiler()) {
      if (unlinked) throw Fault(*unlinked);
      const auto& left_out = candidates_.left_out;
      throw Fault({Exit::description,
                   {},
                   "nothing says how the tree is built, and its " + text::count(candidates_.all().size(), "source") +
                       " make no program and no library",
                   left_out.empty() ? std::string{} : left_out.front().name + ": " + left_out.front().reason,
                   "name what is built with [[target]] in coctilis.toml",
                   {}});
    }
    // An archive whose users have gone is nobody's. Later ones use those before them.
    for (auto it = archives.rbegin(); it != archives.rend(); ++it) {
      const auto& group = grouping.groups[*it];
      if (used.contains(*it)) {
        used.insert(group.libraries.begin(), group.libraries.end());
        targets.push_back(target_of(group, grouping, objects, which));
        continue;
      }
      for (const auto object : group.objects)
        candidates_.leave_out(objects[object].path, "only programs that are left out need it");
    }
    // With nothing else to build, tests and examples are what there is.
    if (!any_product) {
      for (auto& target : targets) target.by_default = true;
    }
    return targets;
  }

  // What lists beside the sources call the programs whose sources they name.
  void name_programs(std::vector<Object>& objects) const {
    std::set<std::string> named;
    for (const auto& result : lists_.results) {
      if (result.library) continue;
      for (auto& object : objects) {
        const bool has_entry = std::any_of(object.symbols.begin(), object.symbols.end(), [](const auto& symbol) {
          return symbol.defined && (symbol.name == "main" || symbol.name == "MAIN__");
        });
        if (!has_entry ||
            std::find(result.sources.begin(), result.sources.end(), object.path) == result.sources.end() ||
            !named.insert(object.path).second)
          continue;
        object.program = result.name;
        object.program_told = result.place.text() + " lists its sources";
        if (result.test) object.role = FolderRole::tests;
      }
    }
  }

  [[nodiscard]] std::vector<LibraryHint> listed_libraries() const {
    std::vector<LibraryHint> out;
    for (const auto& result : lists_.results) {
      if (result.library && result.installed && !result.sources.empty())
        out.push_back({result.name, {}, result.place.text() + " lists its sources", result.sources});
    }
    return out;
  }

  // A module that has nothing but constants and types leaves no symbol in its object, and its users need it all the
  // same: modules count as symbols, under names that no compiler gives.
  void add_modules(std::vector<Object>& objects) {
    const auto symbol = [](const std::string& module) { return "module " + module; };
    std::set<std::string> defined;
    for (auto& object : objects) {
      if (object.language != "Fortran") continue;
      for (const auto& module : tree_.scanned(object.path).defines_modules) {
        object.symbols.push_back({symbol(module), true, false, false});
        defined.insert(module);
      }
    }
    for (auto& object : objects) {
      if (object.language != "Fortran") continue;
      for (const auto& module : tree_.scanned(object.path).uses_modules) {
        if (defined.contains(module)) object.symbols.push_back({symbol(module), false, false, false});
      }
    }
  }

  // Why a program cannot be linked: something that it wants nobody defines. Whether somebody else is to define it, a
  // library does not say.
  std::optional<Problem> not_linked(const Group& group, const std::vector<Object>& objects) {
    if (group.kind != Group::Kind::program) return std::nullopt;
    auto open = group.wanted;
    std::erase_if(open, [&](const auto& symbol) { return outside_.is_defined(symbol); });
    if (open.empty()) return std::nullopt;
    const auto& path = objects[group.objects.front()].path;
    const std::string first = demangled(*open.begin());
    const std::string more = open.size() > 1 ? " and " + text::count(open.size() - 1, "more symbol") : "";
    candidates_.leave_out(path, "it needs " + first + more + ", which nothing here defines");
    const auto asks = asker(group, objects, *open.begin());
    return Problem{
        Exit::description,
        {asks, 0, 0},
        "the program " + group.name + " (" + path + ") cannot be linked: " + asks + " needs " + first + more +
            ", which neither the tree nor a library of this system defines",
        {},
        "install the library that has it, or leave " + path + " out with leave-out under [tree] of coctilis.toml",
        {}};
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
      members.push_back(&candidates_.all()[which[object]]);
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
  const SourceLists lists_;
  Preparation preparation_;
  Candidates candidates_;
  std::optional<std::set<std::string>> defined_;
  std::map<std::string, bool> is_file_;
};

Discovery::Discovery(const ReadRequest& request) : work_(std::make_unique<Work>(request)) {}
Discovery::~Discovery() = default;
void Discovery::prepare(const std::vector<std::string>& sources) { work_->prepare(sources); }
std::vector<SourceTarget> Discovery::targets() { return work_->targets(); }
Workplace Discovery::place() const { return work_->place(); }
std::vector<std::string> Discovery::headers_for(const std::vector<std::string>& library_sources) const {
  return work_->headers_for(library_sources);
}
const std::vector<model::LeftOut>& Discovery::left_out() const { return work_->candidates().left_out; }
const std::vector<Problem>& Discovery::warnings() const { return work_->candidates().warnings; }

}  // namespace coctilis::describe::sources
