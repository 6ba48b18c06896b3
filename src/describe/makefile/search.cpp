// Finds files and the rules that make them without being named.
#include <dirent.h>
#include <sys/stat.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/makefile/make.h"
#include "describe/makefile/words.h"

namespace coctilis::describe::makefile {

std::string Make::absolute(const std::string& name) const {
  // The usual name needs no working out.
  if (!name.empty() && name[0] != '/' && name.find("./") == std::string::npos && name.find("//") == std::string::npos &&
      !name.ends_with('/') && !name.ends_with("..") && name != ".")
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
  if (::stat(path.c_str(), &info) == 0)
    it->second = static_cast<std::int64_t>(info.st_mtim.tv_sec) * 1'000'000'000 + info.st_mtim.tv_nsec;
  return it->second;
}

bool Make::exists(const std::string& name) { return modified(name) >= 0; }

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
      auto [it, fresh] = folders_.try_emplace(folder);
      if (fresh) {
        if (DIR* stream = ::opendir(folder.c_str()); stream != nullptr) {
          while (const dirent* entry = ::readdir(stream)) {
            const std::string name = entry->d_name;
            if (name != "." && name != "..") it->second.push_back(name);
          }
          ::closedir(stream);
        }
        std::sort(it->second.begin(), it->second.end());
      }
      for (const auto& name : it->second) {
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
  if (name.starts_with('/')) return {};
  std::string stem;
  for (const auto& [pattern, folders] : vpaths_) {
    if (!match_pattern(pattern, name, stem)) continue;
    for (const auto& folder : folders) {
      const std::string candidate = (folder.ends_with('/') ? folder : folder + "/") + name;
      if (exists(candidate)) return candidate;
    }
  }
  const auto it = variables_.find("VPATH");
  if (it == variables_.end() || it->second.value.empty()) return {};
  for (const auto& word : text::words(value("VPATH"))) {
    for (const auto& folder : text::split(word, ':')) {
      if (folder.empty() || folder == ".") continue;
      const std::string candidate = (folder.ends_with('/') ? folder : folder + "/") + name;
      if (exists(candidate)) return candidate;
    }
  }
  // A library by the name after -l.
  if (name.starts_with("-l")) {
    for (const auto& pattern : text::words(value(".LIBPATTERNS"))) {
      const std::string file = fill_pattern(pattern, name.substr(2));
      for (const char* folder : {"", "/lib/", "/usr/lib/", "/usr/local/lib/", "/usr/lib/x86_64-linux-gnu/"}) {
        if (exists(folder + file)) return folder + file;
      }
    }
  }
  return {};
}

bool Make::ought_to_exist(const std::string& name) const {
  if (mentioned_.contains(name)) return true;
  const auto it = entries_.find(name);
  return it != entries_.end() && !it->second.rules.empty();
}

bool Make::implicit(const std::string& target, Found& found, int depth, std::set<const PatternRule*>& used) {
  if (depth > 8) return false;
  count_work({});
  const auto slash = target.rfind('/');
  const std::string_view base =
      slash == std::string::npos ? std::string_view(target) : std::string_view(target).substr(slash + 1);
  const std::string folder = slash == std::string::npos ? std::string{} : target.substr(0, slash + 1);
  std::string archive;
  std::string member;
  const std::string in_brackets = split_member(target, archive, member) ? "(" + member + ")" : std::string{};
  struct Candidate {
    const PatternRule* rule;
    std::size_t which;
    std::string stem;
    bool in_folder;
    bool anything;
  };
  std::vector<Candidate> candidates;
  bool specific = false;
  for (const auto& rule : patterns_) {
    if (used.contains(&rule)) continue;
    for (std::size_t i = 0; i < rule.divided.size(); ++i) {
      const auto& [before, behind] = rule.divided[i];
      const bool whole = before.find('/') != std::string::npos || behind.find('/') != std::string::npos;
      const bool of_member = !in_brackets.empty() && before.starts_with('(');
      const std::string_view name = of_member ? std::string_view(in_brackets) : whole ? std::string_view(target) : base;
      if (name.size() <= before.size() + behind.size() || !name.starts_with(before) || !name.ends_with(behind))
        continue;
      const bool anything = before.empty() && behind.empty();
      if (!anything) specific = true;
      candidates.push_back({&rule, i,
                            std::string(name.substr(before.size(), name.size() - before.size() - behind.size())),
                            !whole && !of_member && !folder.empty(), anything});
      break;
    }
  }
  if (candidates.empty()) return false;
  if (!specific) {
    for (const auto& suffix : suffixes_) {
      if (suffix.size() < target.size() && target.ends_with(suffix)) specific = true;
    }
  }
  // What fits everything is not tried for names that something more special fits.
  std::erase_if(candidates, [&](const Candidate& c) { return c.anything && specific && !c.rule->terminal; });
  std::stable_sort(candidates.begin(), candidates.end(),
                   [](const Candidate& a, const Candidate& b) { return a.stem.size() < b.stem.size(); });
  for (const bool chained : {false, true}) {
    for (const auto& candidate : candidates) {
      const PatternRule& rule = *candidate.rule;
      if (chained && (rule.terminal || depth >= 8)) continue;
      Found here;
      here.rule = &rule;
      const auto fill = [&](const std::string& pattern) {
        if (pattern.find('%') == std::string::npos) return plain_name(pattern);
        std::string name = fill_pattern(pattern, candidate.stem);
        if (candidate.in_folder) name = folder + name;
        return plain_name(name);
      };
      here.stem = candidate.in_folder ? folder + candidate.stem : candidate.stem;
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
      bool all = true;
      for (const auto& name : here.prerequisites) {
        if (name == target) {
          all = false;
          break;
        }
        if (exists(name) || ought_to_exist(name) || !search_path(name).empty()) continue;
        if (!chained) {
          all = false;
          break;
        }
        used.insert(&rule);
        Found behind;
        const bool can = implicit(name, behind, depth + 1, used);
        used.erase(&rule);
        if (!can) {
          all = false;
          break;
        }
      }
      if (all) {
        found = std::move(here);
        return true;
      }
    }
  }
  return false;
}

}  // namespace coctilis::describe::makefile
