// Finds files and the rules that make them without being named.
#include <dirent.h>
#include <sys/stat.h>

#include <algorithm>

#include "base/files.h"
#include "base/machine.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/makefile/make.h"
#include "describe/makefile/words.h"

namespace coctilis::describe::makefile {

std::string Make::absolute(const std::string& name) const {
  // The usual name needs no working out.
  if (!name.empty() && name[0] != '/' && name.find("./") == std::string::npos && name.find("//") == std::string::npos &&
      !name.ends_with('/') && !name.ends_with('.'))
    return call_.folder + "/" + name;
  return files::absolute(name, call_.folder);
}

bool Make::may_write(const std::string& path) const {
  return !call_.output_root.empty() && files::is_below(path, call_.output_root);
}

std::int64_t Make::modified(const std::string& name) {
  const auto [it, fresh] = times_.try_emplace(name, -1);
  if (!fresh) return it->second;
  struct stat info {};
  const std::string path = name.starts_with('/') ? name : call_.folder + "/" + name;
  observe::presence(path);
  if (::stat(path.c_str(), &info) == 0)
    it->second = static_cast<std::int64_t>(info.st_mtim.tv_sec) * 1'000'000'000 + info.st_mtim.tv_nsec;
  return it->second;
}

const Make::Listing& Make::listing(std::string_view folder) {
  if (const auto known = folders_.find(folder); known != folders_.end()) return known->second;
  Listing& out = folders_[std::string(folder)];
  const std::string path = folder.starts_with('/') ? std::string(folder)
                           : folder.empty()        ? call_.folder
                                                   : call_.folder + "/" + std::string(folder);
  observe::entries(path);
  std::vector<std::pair<std::string, unsigned char>> all;
  if (DIR* stream = ::opendir(path.c_str()); stream != nullptr) {
    while (const dirent* entry = ::readdir(stream)) {
      const std::string_view name = entry->d_name;
      if (name != "." && name != "..") all.emplace_back(name, entry->d_type);
    }
    ::closedir(stream);
  }
  std::sort(all.begin(), all.end());
  out.names.reserve(all.size());
  out.kinds.reserve(all.size());
  for (auto& [name, kind] : all) {
    out.names.push_back(std::move(name));
    out.kinds.emplace(out.names.back(), kind);
    const auto end = end_of(out.names.back());
    if (std::find(out.ends.begin(), out.ends.end(), end) == out.ends.end()) out.ends.push_back(end);
  }
  return out;
}

bool Make::exists(const std::string& name) {
  if (const auto known = times_.find(name); known != times_.end()) return known->second >= 0;
  const auto slash = name.rfind('/');
  const std::string_view base = std::string_view(name).substr(slash == std::string::npos ? 0 : slash + 1);
  // One look at a folder of the tree answers for all files in it, which are asked for one after the other.
  if (base.empty() || base == "." || base == ".." || slash == 0 || (name[0] == '/' && !files::is_below(name, tree_)))
    return modified(name) >= 0;
  const Listing& there =
      listing(slash == std::string::npos ? std::string_view{} : std::string_view(name).substr(0, slash));
  const auto it = there.kinds.find(base);
  if (it == there.kinds.end()) return false;
  return (it->second != DT_LNK && it->second != DT_UNKNOWN) || modified(name) >= 0;
}

std::vector<std::string> Make::matching(const std::string& pattern) {
  if (pattern.find_first_of("*?[") == std::string::npos)
    return exists(pattern) ? std::vector<std::string>{pattern} : std::vector<std::string>{};
  // Part by part: those that hold no pattern are taken as they are.
  std::vector<std::string> found = {pattern.starts_with('/') ? "/" : ""};
  const auto parts = text::split(pattern, '/');
  for (std::size_t i = 0; i < parts.size(); ++i) {
    const std::string& part = parts[i];
    if (part.empty()) continue;
    const bool last = i + 1 == parts.size();
    std::vector<std::string> next;
    for (const auto& base : found) {
      if (part.find_first_of("*?[") == std::string::npos) {
        const std::string name = base + part;
        if (exists(name)) next.push_back(last ? name : name + "/");
        continue;
      }
      const std::string folder = base.empty() ? call_.folder : absolute(base);
      const std::size_t length = base.size() > 1 ? base.size() - 1 : base.size();
      for (const auto& name : listing(std::string_view(base).substr(0, length)).names) {
        if (name.starts_with('.') && !part.starts_with('.')) continue;
        if (!files::matches(part, name)) continue;
        if (!last && !files::is_folder(folder + "/" + name)) continue;
        next.push_back(last ? base + name : base + name + "/");
      }
    }
    found = std::move(next);
    if (found.size() > 1'000'000) break;
  }
  if (pattern.ends_with('/')) {
    std::erase_if(found, [&](const std::string& name) { return !files::is_folder(absolute(name)); });
  }
  return found;
}

std::string Make::search_path(const std::string& name) {
  if (name.starts_with("-l")) return search_library(name.substr(2));
  if (name.starts_with('/') || !searches_) return {};
  std::string stem;
  for (const auto& [pattern, folders] : vpaths_) {
    if (!match_pattern(pattern, name, stem)) continue;
    for (const auto& folder : folders) {
      const std::string candidate = (folder.ends_with('/') ? folder : folder + "/") + name;
      if (exists(candidate)) return candidate;
    }
  }
  for (const auto& word : text::words(value("VPATH"))) {
    for (const auto& folder : text::split(word, ':')) {
      if (folder.empty() || folder == ".") continue;
      const std::string candidate = (folder.ends_with('/') ? folder : folder + "/") + name;
      if (exists(candidate)) return candidate;
    }
  }
  return {};
}

std::string Make::search_library(const std::string& name) {
  const std::string machine = "/usr/lib/" + host_processor() + "-linux-gnu/";
  for (const auto& pattern : text::words(value(".LIBPATTERNS"))) {
    const std::string file = fill_pattern(pattern, name);
    if (exists(file)) return file;
    if (std::string found = search_path(file); !found.empty()) return found;
    for (const std::string& folder :
         {std::string("/lib/"), std::string("/usr/lib/"), std::string("/usr/local/lib/"), machine}) {
      if (exists(folder + file)) return folder + file;
    }
  }
  return {};
}

bool Make::ought_to_exist(const std::string& name) const {
  if (!named_ends_.test(end_of(name))) return false;
  if (mentioned_.contains(name)) return true;
  const auto it = entries_.find(name);
  return it != entries_.end() && !it->second.rules.empty();
}

namespace {
// The part of a name up to its last '/', with that.
std::string_view folder_part(std::string_view target) { return target.substr(0, target.rfind('/') + 1); }
}  // namespace

// The pattern rules that fit `target`, those that are to be tried first in front; without those of `used`.
std::vector<Make::Candidate> Make::candidates_for(const std::string& target, const std::set<const PatternRule*>& used) {
  const std::string_view folder = folder_part(target);
  const std::string_view base = std::string_view(target).substr(folder.size());
  std::string archive;
  std::string member;
  // Stems stay parts of the target.
  const std::string_view in_brackets =
      split_member(target, archive, member) ? std::string_view(target).substr(archive.size()) : std::string_view{};
  std::vector<Candidate> candidates;
  candidates.reserve(16);
  bool specific = false;
  const auto consider = [&](std::size_t index) {
    const PatternRule& rule = patterns_[index];
    if (used.contains(&rule)) return;
    for (std::size_t i = 0; i < rule.divided.size(); ++i) {
      const auto& [before, behind] = rule.divided[i];
      const bool whole = before.find('/') != std::string::npos || behind.find('/') != std::string::npos;
      const bool of_member = !in_brackets.empty() && before.starts_with('(');
      const std::string_view name = of_member ? in_brackets : whole ? std::string_view(target) : base;
      if (name.size() <= before.size() + behind.size() || !name.starts_with(before) || !name.ends_with(behind))
        continue;
      const bool anything = before.empty() && behind.empty();
      if (!anything) specific = true;
      candidates.push_back({&rule, i, name.substr(before.size(), name.size() - before.size() - behind.size()),
                            !whole && !of_member && !folder.empty(), anything});
      break;
    }
  };
  // Both lists at once, in the order of the rules.
  const auto& by_end = patterns_by_end_[target.empty() ? 0 : static_cast<unsigned char>(target.back())];
  auto any = patterns_of_any_end_.begin();
  for (const auto index : by_end) {
    for (; any != patterns_of_any_end_.end() && *any <= index; ++any) {
      if (*any != index) consider(*any);
    }
    consider(index);
  }
  for (; any != patterns_of_any_end_.end(); ++any) {
    if (!std::binary_search(by_end.begin(), by_end.end(), *any)) consider(*any);
  }
  if (candidates.empty()) return candidates;
  if (!specific) {
    for (const auto& suffix : suffixes_) {
      if (suffix.size() < target.size() && target.ends_with(suffix)) specific = true;
    }
  }
  // What fits everything is not tried for names that something more special fits.
  std::erase_if(candidates, [&](const Candidate& c) { return c.anything && specific && !c.rule->terminal; });
  // The rule that leaves least to the '%' comes first; a folder that its pattern does not name is left to that as well.
  const auto length = [&](const Candidate& c) { return c.stem.size() + (c.in_folder ? folder.size() : 0); };
  if (candidates.size() > 1)
    std::stable_sort(candidates.begin(), candidates.end(),
                     [&](const Candidate& a, const Candidate& b) { return length(a) < length(b); });
  return candidates;
}

// Whether any pattern rule may fit the name.
bool Make::may_be_made(std::string_view name) const {
  if (any_end_counts_ || name.empty() || !patterns_by_end_[static_cast<unsigned char>(name.back())].empty())
    return true;
  return !patterns_of_any_end_.empty() &&
         std::none_of(suffixes_.begin(), suffixes_.end(), [&](const auto& suffix) { return name.ends_with(suffix); });
}

bool Make::can_be_there(const std::string& name) {
  return exists(name) || ought_to_exist(name) || !search_path(name).empty();
}

// Most candidates fall at their first prerequisite: it is looked at before anything else is worked out. `chained`: what
// is not there may be made by another pattern rule.
bool Make::falls_at_first(const std::string& target, Candidate& candidate, bool chained, std::string& needed) {
  const PatternRule& rule = *candidate.rule;
  const std::string_view folder = folder_part(target);
  const auto& [before, behind] = rule.divided_prerequisites.front();
  // Most often nothing that is there or named ends as it does.
  if (!chained && behind && behind->size() >= 2 && !searches_ && before.find('/') == std::string::npos &&
      (candidate.in_folder || folder.empty()) && (folder.empty() || folder[0] != '/')) {
    const auto end = end_of(*behind);
    const auto& ends = listing(folder.substr(0, folder.empty() ? 0 : folder.size() - 1)).ends;
    if (!named_ends_.test(end) && std::find(ends.begin(), ends.end(), end) == ends.end()) {
      candidate.first_missing = true;
      return true;
    }
  }
  if (chained && behind && !behind->empty() && !may_be_made(*behind)) return true;
  needed.clear();
  if (behind && candidate.in_folder) needed += folder;
  needed += before;
  if (behind) needed.append(candidate.stem).append(*behind);
  if (needed.starts_with("./")) needed = plain_name(needed);
  if (needed == target) return true;
  candidate.first_missing = chained || !can_be_there(needed);
  return candidate.first_missing && (!chained || !may_be_made(needed));
}

// What the rule of a candidate says of `target`.
Make::Found Make::filled_in(const std::string& target, const Candidate& candidate) {
  const PatternRule& rule = *candidate.rule;
  const std::string_view folder = folder_part(target);
  Found here;
  here.rule = &rule;
  const auto fill = [&](const std::string& pattern) {
    if (pattern.find('%') == std::string::npos) return plain_name(pattern);
    std::string name = fill_pattern(pattern, std::string(candidate.stem));
    if (candidate.in_folder) name.insert(0, folder);
    return plain_name(name);
  };
  here.stem = std::string(candidate.in_folder ? folder : std::string_view{}).append(candidate.stem);
  if (!rule.late.empty()) {
    Automatic automatic;
    automatic.target = &target;
    automatic.stem = &here.stem;
    Automatic* outer = automatic_;
    automatic_ = &automatic;
    std::vector<std::string> words = text::words(rule.late);
    std::string filled;
    for (const auto& word : words) filled += (filled.empty() ? "" : " ") + fill(word);
    split_prerequisites(expand(filled, rule.place), here.prerequisites, here.order_only);
    automatic_ = outer;
  } else {
    for (const auto& pattern : rule.prerequisites) here.prerequisites.push_back(fill(pattern));
    for (const auto& pattern : rule.order_only) here.order_only.push_back(fill(pattern));
  }
  for (std::size_t i = 0; i < rule.targets.size(); ++i) {
    if (i != candidate.which) here.also.push_back(fill(rule.targets[i]));
  }
  return here;
}

bool Make::implicit(const std::string& target, Found& found, int depth, std::set<const PatternRule*>& used) {
  if (depth > 8) return false;
  count_work({});
  auto candidates = candidates_for(target, used);
  std::string needed;
  for (const bool chained : {false, true}) {
    for (auto& candidate : candidates) {
      const PatternRule& rule = *candidate.rule;
      if (chained && (rule.terminal || depth >= 8)) continue;
      if (rule.late.empty() && !rule.divided_prerequisites.empty() && (!chained || candidate.first_missing) &&
          falls_at_first(target, candidate, chained, needed))
        continue;
      Found here = filled_in(target, candidate);
      const auto can_be_had = [&](const std::string& name) {
        if (name == target) return false;
        if (can_be_there(name)) return true;
        if (!chained) return false;
        used.insert(&rule);
        Found behind;
        const bool can = implicit(name, behind, depth + 1, used);
        used.erase(&rule);
        return can;
      };
      if (!std::all_of(here.prerequisites.begin(), here.prerequisites.end(), can_be_had)) continue;
      found = std::move(here);
      return true;
    }
  }
  return false;
}

}  // namespace coctilis::describe::makefile
