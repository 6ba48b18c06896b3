#include "describe/sources/grouping.h"

#include <re2/re2.h>

#include <algorithm>
#include <functional>
#include <optional>
#include <unordered_map>

#include "base/text.h"
#include "describe/sources/tree.h"

namespace coctilis::describe::sources {

using survey::FolderRole;

bool is_name_of_test(const std::string& stem) {
  static const RE2 pattern(
      R"((?i)(^|[^a-z])(unit)?tests?([^a-z]|$)|^(unit)?tests?|tests?$|(^|[^a-z])(bench|benchmark|example|demo|sample|fuzz(er|ing)?)([^a-z]|$)|^(example|fuzz|bench|speed|timing)|(bench|fuzz|fuzzer|demo|example)$)");
  // Words that only end like that.
  static const RE2 others(R"((?i)(latest|greatest|contest|attest|protest|fastest|request|detest)$)");
  return RE2::PartialMatch(stem, pattern) && !RE2::PartialMatch(stem, others);
}

std::string name_without_version(const std::string& name) {
  static const RE2 version(R"([-_.]?v?[0-9]+([.+~_-][0-9A-Za-z]+)*$)");
  static const RE2 behind(R"(^(.*?[A-Za-z0-9.+])[-_]v?[0-9]+(\.[0-9A-Za-z]+)*([-+~_.][0-9A-Za-z.+~_-]*)?$)");
  static const RE2 branch(R"((?i)[-_](master|main|trunk|head|git|src|source|snapshot|orig)$)");
  std::string out = name;
  std::string shorter;
  if (RE2::FullMatch(out, behind, &shorter)) out = shorter;
  RE2::Replace(&out, branch, "");
  return out.empty() ? name : out;
}

namespace {

class Grouper {
 public:
  Grouper(const std::vector<Object>& objects, std::string tree_name, const std::vector<LibraryHint>& hints,
          const std::set<std::string>& given)
      : objects_(objects),
        tree_name_(std::move(tree_name)),
        hints_(hints),
        given_(given),
        owner_(objects.size(), none) {}

  Grouping run() {
    index();
    find_entries();
    find_libraries();
    merge_circles();
    for (const auto entry : entries_) add_program(entry);
    share();
    leave_out_rest();
    return std::move(out_);
  }

 private:
  static constexpr std::size_t none = static_cast<std::size_t>(-1);

  void index() {
    for (std::size_t i = 0; i < objects_.size(); ++i) {
      for (const auto& symbol : objects_[i].symbols) {
        if (symbol.defined && symbol.name != "main" && symbol.name != "MAIN__") {
          auto& list = definers_[symbol.name];
          if (list.empty() || list.back() != i) list.push_back(i);
          if (!symbol.weak && !symbol.shared) strong_.insert(symbol.name + "\n" + std::to_string(i));
        }
      }
    }
  }
  [[nodiscard]] bool defines_strongly(std::size_t object, const std::string& symbol) const {
    return strong_.contains(symbol + "\n" + std::to_string(object));
  }

  [[nodiscard]] bool is_entry(std::size_t i) const { return entry_set_.contains(i); }

  // Tests, examples and what lies in folders that are not the tree's own work.
  [[nodiscard]] bool is_aside(std::size_t i) const {
    const auto& object = objects_[i];
    return object.role != FolderRole::own || (is_entry(i) && is_name_of_test(stem_of(object.path)));
  }

  void find_entries() {
    for (std::size_t i = 0; i < objects_.size(); ++i) {
      for (const auto& symbol : objects_[i].symbols) {
        if ((symbol.name == "main" || symbol.name == "MAIN__") && symbol.defined && !symbol.weak) {
          if (entry_set_.insert(i).second) entries_.push_back(i);
        }
      }
    }
    std::stable_sort(entries_.begin(), entries_.end(), [&](auto a, auto b) { return is_aside(a) < is_aside(b); });
  }

  // ---- which definition a symbol means -----------------------------------------------------------------------------
  // How well a definition suits somebody: lower is better.
  [[nodiscard]] auto rank(std::size_t candidate, std::size_t for_whom) const {
    const auto& there = objects_[candidate];
    const auto& here = objects_[for_whom];
    const std::string from = folder_of(here.path);
    const std::string to = folder_of(there.path);
    const bool same_role = there.role == here.role || there.role == FolderRole::own;
    return std::make_tuple(there.role == FolderRole::elsewhere, !same_role, distance(from, to), there.path.size(),
                           there.path);
  }

  [[nodiscard]] std::size_t definer(const std::string& symbol, std::size_t for_whom,
                                    const std::set<std::size_t>& have) {
    const auto it = definers_.find(symbol);
    if (it == definers_.end()) return none;
    std::size_t best = none;
    std::size_t others = 0;
    for (const auto candidate : it->second) {
      if (have.contains(candidate)) return candidate;
      if (is_entry(candidate)) continue;
      // What is the tree's own work does not hang on its tests.
      if (!is_aside(for_whom) && is_test(candidate)) continue;
      ++others;
      if (best == none || rank(candidate, for_whom) < rank(best, for_whom)) best = candidate;
    }
    if (others > 1 && best != none && defines_strongly(best, symbol)) note_choice(symbol, best, it->second);
    return best;
  }
  [[nodiscard]] bool is_test(std::size_t i) const {
    const auto role = objects_[i].role;
    return role == FolderRole::tests || role == FolderRole::examples || role == FolderRole::documents;
  }

  void note_choice(const std::string& symbol, std::size_t chosen, const std::vector<std::size_t>& all) {
    for (const auto other : all) {
      if (other == chosen || is_entry(other) || !defines_strongly(other, symbol)) continue;
      const auto pair = std::make_pair(std::min(chosen, other), std::max(chosen, other));
      if (!chosen_.insert(pair).second) continue;
      loser_[other] = chosen;
      // What tests and copies of others' code have twice is nobody's choice.
      const auto is_plain = [&](std::size_t i) {
        return objects_[i].role == FolderRole::own && !is_name_of_test(stem_of(objects_[i].path));
      };
      if (out_.notes.size() < 10 && is_plain(chosen) && is_plain(other))
        out_.notes.push_back("both " + objects_[chosen].path + " and " + objects_[other].path + " define " + symbol +
                             ": the first is taken, which is nearer to what uses it");
    }
  }

  struct Closure {
    std::vector<std::size_t> objects;  // in the order in which they are come upon
    std::set<std::string> wanted;
  };
  // All that the roots need, but for what `without` has.
  Closure closure(const std::vector<std::size_t>& roots, const std::set<std::size_t>& without = {}) {
    Closure out;
    std::set<std::size_t> have(roots.begin(), roots.end());
    have.insert(without.begin(), without.end());
    std::vector<std::size_t> queue = roots;
    for (std::size_t at = 0; at < queue.size(); ++at) {
      const std::size_t i = queue[at];
      out.objects.push_back(i);
      for (const auto& symbol : objects_[i].symbols) {
        if (symbol.defined || given_.contains(symbol.name)) continue;
        const std::size_t by = definer(symbol.name, i, have);
        if (by == none) {
          if (!symbol.weak) out.wanted.insert(symbol.name);
        } else if (have.insert(by).second) {
          queue.push_back(by);
        }
      }
    }
    return out;
  }

  // ---- libraries ---------------------------------------------------------------------------------------------------
  // What the tree's own programs need, without tests and examples.
  std::map<std::size_t, std::set<std::size_t>> needed_by_programs() {
    std::map<std::size_t, std::set<std::size_t>> out;
    for (const auto entry : entries_) {
      if (is_aside(entry)) continue;
      for (const auto i : closure({entry}).objects) {
        if (i != entry) out[i].insert(entry);
      }
    }
    return out;
  }

  // Wants something that only a file with an entry point has.
  [[nodiscard]] bool wants_of_entry(std::size_t i) const {
    return std::any_of(objects_[i].symbols.begin(), objects_[i].symbols.end(), [&](const auto& symbol) {
      if (symbol.defined || given_.contains(symbol.name)) return false;
      const auto it = definers_.find(symbol.name);
      return it != definers_.end() &&
             std::all_of(it->second.begin(), it->second.end(), [&](auto by) { return is_entry(by); });
    });
  }

  void find_libraries() {
    needed_ = needed_by_programs();
    const bool any_program = std::any_of(entries_.begin(), entries_.end(), [&](auto i) { return !is_aside(i); });
    std::vector<std::size_t> own;
    for (std::size_t i = 0; i < objects_.size(); ++i) {
      if (!is_entry(i) && objects_[i].role == FolderRole::own) own.push_back(i);
    }
    if (own.empty()) return;
    if (add_listed_libraries(own)) return;
    // Folders that are called libraries, and have no entry points in them.
    std::map<std::string, std::vector<std::size_t>> by_folder;
    for (const auto i : own) {
      if (const std::string folder = library_folder(objects_[i].path); !folder.empty()) by_folder[folder].push_back(i);
    }
    for (const auto entry : entries_) {
      if (!is_aside(entry)) by_folder.erase(library_folder(objects_[entry].path));
    }
    const bool spoken_of = !hints_.empty() || tree_name_.starts_with("lib") || tree_name_.ends_with("lib");
    if (by_folder.size() > 1 || (by_folder.size() == 1 && !by_folder.begin()->first.empty())) {
      for (const auto& [folder, members] : by_folder) {
        if (folder.empty()) continue;
        const std::string last = folder.substr(folder.rfind('/') + 1);
        const bool general = last == "lib" || last == "libs" || last == "library" || last == "src";
        std::string name = general                                      ? library_name(members)
                           : last.starts_with("lib") && last.size() > 3 ? last.substr(3)
                                                                        : last;
        add_library(name, members, "the folder " + folder + " holds a library");
      }
      return;
    }
    std::vector<std::size_t> members;
    std::string why;
    if (!any_program) {
      members = own;
      why = "the tree has no program of its own";
    } else if (spoken_of) {
      for (const auto i : own) {
        if (!wants_of_entry(i)) members.push_back(i);
      }
      why = hints_.empty() ? "the tree is called " + tree_name_ : hints_.front().why;
    } else {
      for (const auto i : own) {
        if (!needed_.contains(i) && is_used_aside(i)) members.push_back(i);
      }
      if (!members.empty()) {
        members = closure(members).objects;
        std::erase_if(members, [&](auto i) { return is_entry(i); });
        why = "tests use it, and no program does";
      }
    }
    if (!members.empty()) add_library(library_name(members), members, why);
  }

  // Libraries whose sources the tree names. False: there are none.
  bool add_listed_libraries(const std::vector<std::size_t>& own) {
    bool any = false;
    for (const auto& hint : hints_) {
      if (hint.sources.empty()) continue;
      any = true;
      const std::set<std::string> sources(hint.sources.begin(), hint.sources.end());
      std::vector<std::size_t> members;
      for (const auto i : own) {
        if (sources.contains(objects_[i].path)) members.push_back(i);
      }
      if (!members.empty()) add_library(hint.name, members, hint.why);
    }
    return any;
  }

  // Something aside uses it: a test, an example.
  bool is_used_aside(std::size_t i) {
    if (!used_aside_) {
      used_aside_.emplace();
      for (const auto entry : entries_) {
        if (!is_aside(entry)) continue;
        for (const auto object : closure({entry}).objects) used_aside_->insert(object);
      }
    }
    return used_aside_->contains(i);
  }

  // "lib", "src/libclay": the outermost folder on the path that is called a library; empty when none is.
  static std::string library_folder(const std::string& path) {
    const std::string folder = folder_of(path);
    for (std::size_t at = 0; at < folder.size();) {
      const auto slash = std::min(folder.find('/', at), folder.size());
      const std::string part = folder.substr(at, slash - at);
      if (part == "lib" || part == "libs" || part == "library" || (part.starts_with("lib") && part.size() > 3))
        return folder.substr(0, slash);
      at = slash + 1;
    }
    return {};
  }

  // `members`: the objects of the library.
  [[nodiscard]] std::string library_name(const std::vector<std::size_t>& members) const {
    if (!hints_.empty()) return hints_.front().name;
    // A library of one source is called like that where the tree's folder is, too, or has no name of its own.
    static const std::set<std::string> plain = {"tree", "src",   "source", "sources", "code",
                                                "work", "build", "trunk",  "checkout"};
    if (members.size() == 1) {
      const std::string stem = stem_of(objects_[members.front()].path);
      const std::string bare = stem.starts_with("lib") && stem.size() > 3 ? stem.substr(3) : stem;
      const std::string tree = text::lower(tree_name_);
      if (plain.contains(tree) || tree == text::lower(stem) || tree == text::lower(bare)) return bare;
    }
    std::string name = tree_name_;
    if (name.starts_with("lib") && name.size() > 3)
      name = name.substr(3);
    else if (name.ends_with("lib") && name.size() > 3)
      name = name.substr(0, name.size() - 3);
    while (name.ends_with('-') || name.ends_with('_')) name.pop_back();
    return name;
  }

  void add_library(std::string name, std::vector<std::size_t> members, const std::string& why) {
    std::sort(members.begin(), members.end());
    // Of two that define the same the one that programs use counts, else the one that lies less deep.
    std::stable_sort(members.begin(), members.end(), [&](auto a, auto b) {
      const auto key = [&](std::size_t i) {
        return std::make_tuple(loser_.contains(i), !needed_.contains(i),
                               std::count(objects_[i].path.begin(), objects_[i].path.end(), '/'));
      };
      return key(a) < key(b);
    });
    std::map<std::string, std::size_t> defined;
    std::vector<std::size_t> kept;
    for (const auto i : members) {
      if (owner_[i] != none) continue;
      std::size_t rival = none;
      std::string symbol_of_both;
      for (const auto& symbol : objects_[i].symbols) {
        if (!symbol.defined || symbol.weak || symbol.shared) continue;
        const auto it = defined.find(symbol.name);
        if (it == defined.end()) continue;
        rival = it->second;
        symbol_of_both = symbol.name;
        break;
      }
      if (rival != none) {
        out_.left_out.push_back({i, "it defines " + symbol_of_both + ", as " + objects_[rival].path + " does"});
        placed_.insert(i);
        continue;
      }
      for (const auto& symbol : objects_[i].symbols) {
        if (symbol.defined && !symbol.weak && !symbol.shared) defined.emplace(symbol.name, i);
      }
      kept.push_back(i);
    }
    if (kept.empty()) return;
    std::sort(kept.begin(), kept.end());
    // What of others' code it needs is in it.
    std::set<std::size_t> of_others;
    for (const auto& group : out_.groups) of_others.insert(group.objects.begin(), group.objects.end());
    std::set<std::size_t> own(kept.begin(), kept.end());
    auto all = closure(kept, of_others);
    Group group;
    group.kind = Group::Kind::library;
    group.name = unique("lib" + name).substr(3);
    group.why = why;
    for (const auto i : all.objects) {
      if (owner_[i] != none || is_entry(i)) continue;
      // What programs of the tree are to define for it stays theirs.
      if (!own.contains(i) && objects_[i].role == FolderRole::own) continue;
      group.objects.push_back(i);
    }
    group.wanted = std::move(all.wanted);
    const std::size_t index = out_.groups.size();
    for (const auto i : group.objects) owner_[i] = index;
    out_.groups.push_back(std::move(group));
  }

  // The libraries that one needs something of.
  [[nodiscard]] std::set<std::size_t> needs_of(std::size_t index) {
    const auto& group = out_.groups[index];
    const std::set<std::size_t> own(group.objects.begin(), group.objects.end());
    std::set<std::size_t> out;
    for (const auto object : group.objects) {
      for (const auto& symbol : objects_[object].symbols) {
        if (symbol.defined || given_.contains(symbol.name)) continue;
        const std::size_t by = definer(symbol.name, object, own);
        if (by != none && owner_[by] != none && owner_[by] != index) out.insert(owner_[by]);
      }
    }
    return out;
  }

  // Libraries that need each other cannot be linked one after the other: they are one.
  void merge_circles() {
    const std::size_t count = out_.groups.size();
    std::vector<std::set<std::size_t>> reached(count);
    for (std::size_t i = 0; i < count; ++i) {
      std::vector<std::size_t> open = {i};
      for (std::size_t at = 0; at < open.size(); ++at) {
        for (const auto next : needs_of(open[at])) {
          if (reached[i].insert(next).second) open.push_back(next);
        }
      }
    }
    std::vector<std::size_t> now(count);  // where each group is after that
    std::vector<Group> kept;
    for (std::size_t i = 0; i < count; ++i) {
      std::size_t first = i;
      for (std::size_t other = 0; other < i; ++other) {
        if (first == i && reached[i].contains(other) && reached[other].contains(i)) first = other;
      }
      auto& group = out_.groups[i];
      if (first == i) {
        now[i] = kept.size();
        for (const auto object : group.objects) owner_[object] = now[i];
        kept.push_back(std::move(group));
        continue;
      }
      now[i] = now[first];
      auto& whole = kept[now[i]];
      out_.notes.push_back("the libraries " + whole.name + " and " + group.name + " need each other: they are one");
      for (const auto object : group.objects) owner_[object] = now[i];
      whole.objects.insert(whole.objects.end(), group.objects.begin(), group.objects.end());
      whole.wanted.insert(group.wanted.begin(), group.wanted.end());
    }
    out_.groups = std::move(kept);
  }

  // ---- programs ----------------------------------------------------------------------------------------------------
  void add_program(std::size_t entry) {
    const auto all = closure({entry});
    Group group;
    group.kind = Group::Kind::program;
    group.by_default = !is_aside(entry);
    group.why = objects_[entry].program.empty() ? "it has an entry point" : objects_[entry].program_told;
    if (!group.by_default)
      group.why = objects_[entry].role != FolderRole::own
                      ? std::string("it lies in ") + survey::name_of(objects_[entry].role)
                      : "its name is that of a test or an example";
    group.name = unique(program_name(entry));
    group.wanted = all.wanted;
    std::set<std::size_t> libraries;
    for (const auto i : all.objects) {
      if (owner_[i] != none && out_.groups[owner_[i]].kind == Group::Kind::library)
        libraries.insert(owner_[i]);
      else
        group.objects.push_back(i);
    }
    group.libraries.assign(libraries.begin(), libraries.end());
    for (const auto i : group.objects) users_[i].push_back(out_.groups.size());
    out_.groups.push_back(std::move(group));
  }

  [[nodiscard]] std::string program_name(std::size_t entry) const {
    if (!objects_[entry].program.empty()) return objects_[entry].program;
    const std::string& path = objects_[entry].path;
    const std::string stem = stem_of(path);
    // The main source of a program that is called like the tree.
    for (const char* ending : {"cli", "-cli", "_cli", "main", "_main", "-main"}) {
      if (stem == tree_name_ + ending) return tree_name_;
    }
    // A source with its version in its name: "kiln1.2.38.c".
    static const RE2 versioned(R"(^([A-Za-z][A-Za-z_+-]*?)[-_.]?v?[0-9]+(?:\.[0-9]+)+\.[A-Za-z]+$)");
    std::string plain;
    if (RE2::FullMatch(path.substr(path.rfind('/') + 1), versioned, &plain)) return plain;
    if (text::lower(stem) != "main") return stem;
    std::string folder = folder_of(path);
    for (;;) {
      const std::string last = folder.substr(folder.rfind('/') + 1);
      if (folder.empty()) return tree_name_;
      if (last != "src" && last != "source" && last != "sources" && last != "main" && last != "app" && last != "code")
        return last;
      folder = folder_of(folder);
    }
  }

  std::string unique(std::string name) {
    std::string out = name;
    for (int n = 2; !names_.insert(out).second; ++n) out = name + "-" + std::to_string(n);
    return out;
  }

  // What several programs need is in an archive that all of them use; what defines the same as something in there
  // stays with each.
  void share() {
    std::vector<std::size_t> of_own, of_aside;
    for (const auto& [object, users] : users_) {
      if (users.size() < 2) continue;
      const bool own = std::any_of(users.begin(), users.end(), [&](auto user) { return out_.groups[user].by_default; });
      (own ? of_own : of_aside).push_back(object);
    }
    const std::size_t programs = out_.groups.size();
    for (auto* list : {&of_own, &of_aside}) {
      const auto kept = without_rivals(*list);
      if (kept.empty()) continue;
      Group archive;
      archive.kind = Group::Kind::archive;
      archive.name = unique(list == &of_own ? "common" : "test-common");
      archive.why = "several programs need it";
      archive.by_default = list == &of_own;
      archive.objects = kept;
      const std::size_t index = out_.groups.size();
      for (const auto i : kept) {
        owner_[i] = index;
        for (const auto user : users_[i]) {
          auto& group = out_.groups[user];
          std::erase(group.objects, i);
          if (group.libraries.empty() || group.libraries.back() != index) group.libraries.push_back(index);
        }
      }
      out_.groups.push_back(std::move(archive));
    }
    for (std::size_t i = 0; i < out_.groups.size(); ++i) {
      auto& group = out_.groups[i];
      placed_.insert(group.objects.begin(), group.objects.end());
      if (i < programs && group.kind == Group::Kind::program) continue;
      // What a library needs of others; what programs are to define for it is theirs.
      auto libraries = needs_of(i);
      if (group.kind == Group::Kind::library)
        std::erase_if(libraries, [&](auto other) { return out_.groups[other].kind != Group::Kind::library; });
      group.libraries.assign(libraries.begin(), libraries.end());
    }
  }

  [[nodiscard]] std::vector<std::size_t> without_rivals(const std::vector<std::size_t>& objects) const {
    std::vector<std::size_t> out;
    std::set<std::string> defined;
    for (const auto i : objects) {
      std::vector<std::string> names;
      for (const auto& symbol : objects_[i].symbols) {
        if (symbol.defined && !symbol.weak && !symbol.shared) names.push_back(symbol.name);
      }
      if (std::any_of(names.begin(), names.end(), [&](const auto& name) { return defined.contains(name); })) continue;
      defined.insert(names.begin(), names.end());
      out.push_back(i);
    }
    return out;
  }

  void leave_out_rest() {
    for (std::size_t i = 0; i < objects_.size(); ++i) {
      if (placed_.contains(i)) continue;
      const auto role = objects_[i].role;
      out_.left_out.push_back({i, role == FolderRole::own
                                      ? "nothing uses what it defines"
                                      : std::string("it lies in ") + survey::name_of(role) + ", and nothing uses it"});
    }
  }

  const std::vector<Object>& objects_;
  const std::string tree_name_;
  const std::vector<LibraryHint>& hints_;
  const std::set<std::string>& given_;
  std::vector<std::size_t> owner_;  // the library that has an object
  std::unordered_map<std::string, std::vector<std::size_t>> definers_;
  std::set<std::string> strong_;
  std::vector<std::size_t> entries_;
  std::set<std::size_t> entry_set_;
  std::map<std::size_t, std::set<std::size_t>> needed_;
  std::optional<std::set<std::size_t>> used_aside_;
  std::set<std::pair<std::size_t, std::size_t>> chosen_;
  std::map<std::size_t, std::size_t> loser_;
  std::map<std::size_t, std::vector<std::size_t>> users_;
  std::set<std::size_t> placed_;
  std::set<std::string> names_;
  Grouping out_;
};

}  // namespace

Grouping group(const std::vector<Object>& objects, const std::string& tree_name, const std::vector<LibraryHint>& hints,
               const std::set<std::string>& given_elsewhere) {
  return Grouper(objects, tree_name, hints, given_elsewhere).run();
}

}  // namespace coctilis::describe::sources
