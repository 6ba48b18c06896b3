#include "describe/sources/tree.h"

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "survey/fortran.h"
#include "survey/languages.h"
#include "survey/survey.h"

namespace coctilis::describe::sources {

std::string folder_of(const std::string& path) {
  const auto slash = path.rfind('/');
  return slash == std::string::npos ? "" : path.substr(0, slash);
}

std::string stem_of(const std::string& path) {
  const std::string name = path.substr(path.rfind('/') + 1);
  return name.substr(0, name.find('.', 1));
}

std::size_t distance(const std::string& from, const std::string& to) {
  const auto parts = [](const std::string& path) {
    return path.empty() ? std::vector<std::string>{} : text::split(path, '/');
  };
  const auto a = parts(from);
  const auto b = parts(to);
  std::size_t same = 0;
  while (same < a.size() && same < b.size() && a[same] == b[same]) ++same;
  return a.size() + b.size() - 2 * same;
}

Tree::Tree(std::string root, const model::Settings& settings, std::function<bool(const std::string&)> system_has)
    : root_(std::move(root)), settings_(settings), system_has_(std::move(system_has)) {
  walk("", 0);
}

std::string Tree::absolute(const std::string& path) const {
  if (path.starts_with('/')) return path;
  const auto it = generated_.find(path);
  return it != generated_.end() ? it->second : root_ + "/" + path;
}

void Tree::walk(const std::string& relative, int depth) {
  if (depth > 64) return;
  const std::string folder = relative.empty() ? root_ : root_ + "/" + relative;
  for (const auto& name : files::names_in(folder)) {
    if (name.starts_with('.')) continue;
    const std::string path = relative.empty() ? name : relative + "/" + name;
    if (survey::is_left_out(settings_, path)) continue;
    const std::string full = root_ + "/" + path;
    if (files::is_link(full)) {
      // What lies outside is none of the tree's; a link within it is a second name.
      std::error_code error;
      const auto real = std::filesystem::canonical(full, error);
      if (error || !files::is_below(real.string(), root_) || files::is_folder(full)) continue;
    }
    if (files::is_folder(full)) {
      if (survey::is_kiln(full)) continue;
      walk(path, depth + 1);
      continue;
    }
    by_name_[name].push_back(files_.size());
    paths_.insert(path);
    files_.push_back({path, survey::compiled_language(name), survey::role_of_path(folder_of(path))});
  }
}

void Tree::add_generated(const std::string& path, const std::string& name, const std::string& in) {
  const std::string stands_for = in.empty() ? name : in + "/" + name;
  generated_[stands_for] = path;
  meant_.clear();
  if (!paths_.insert(stands_for).second) return;
  by_name_[name.substr(name.rfind('/') + 1)].push_back(files_.size());
  files_.push_back({stands_for, survey::compiled_language(name), survey::role_of_path(in)});
}

void Tree::leave_out_folder(const std::string& folder) {
  std::erase_if(files_, [&](const auto& file) { return files::is_below("/" + file.path, "/" + folder); });
  by_name_.clear();
  paths_.clear();
  meant_.clear();
  for (std::size_t i = 0; i < files_.size(); ++i) {
    by_name_[files_[i].path.substr(files_[i].path.rfind('/') + 1)].push_back(i);
    paths_.insert(files_[i].path);
  }
}

const Scanned& Tree::scanned(const std::string& path) {
  const auto it = scanned_.find(path);
  if (it != scanned_.end()) return it->second;
  const auto content = files::read(absolute(path));
  const bool fortran = survey::compiled_language(path) == "Fortran";
  return scanned_[path] =
             content ? scan(*content, fortran, fortran && survey::is_laid_out_fixed(path, *content)) : Scanned{};
}

std::vector<std::string> Tree::ending_in(const std::string& name, const std::string& from) const {
  std::vector<std::string> out;
  const auto it = by_name_.find(name.substr(name.rfind('/') + 1));
  if (it == by_name_.end()) return out;
  // Whatever comes before is not looked at: "../common/clay.h" may mean any "common/clay.h".
  std::string tail = name;
  while (tail.starts_with("../") || tail.starts_with("./")) tail = tail.substr(tail.find('/') + 1);
  for (const auto index : it->second) {
    const auto& path = files_[index].path;
    if (path == tail || path.ends_with("/" + tail)) out.push_back(path);
  }
  const std::string here = folder_of(from);
  const auto rank = [&](const std::string& path) {
    const auto role = survey::role_of_path(folder_of(path));
    const bool same_kind = role == survey::FolderRole::own || role == survey::role_of_path(here);
    const std::string folder = path.size() > tail.size() ? path.substr(0, path.size() - tail.size() - 1) : "";
    const std::string last = folder.substr(folder.rfind('/') + 1);
    const bool meant_for_it = last == "include" || last == "inc" || last == "includes" || last == "headers";
    return std::make_tuple(role == survey::FolderRole::elsewhere, !same_kind, distance(here, folder), !meant_for_it,
                           path);
  };
  std::sort(out.begin(), out.end(), [&](const auto& a, const auto& b) { return rank(a) < rank(b); });
  return out;
}

std::string Tree::meant(const Included& include, const std::string& from, std::string* by_folder) {
  if (include.name.starts_with('/')) return {};
  const std::string here = folder_of(from);
  if (include.quoted) {
    const std::string beside = files::absolute("/" + (here.empty() ? "" : here + "/") + include.name).substr(1);
    if (paths_.contains(beside)) {
      // What will be made lies elsewhere than what it is beside.
      if (by_folder != nullptr && generated_.contains(beside))
        *by_folder = absolute(beside).substr(0, absolute(beside).size() - include.name.size() - 1);
      return beside;
    }
  }
  const auto candidates = ending_in(include.name, from);
  if (candidates.empty()) return {};
  // A name of the C library in angle brackets means that one, unless the tree's own is the only one.
  if (!include.quoted && system_has_(include.name)) return {};
  const auto& path = candidates.front();
  if (survey::role_of_path(folder_of(path)) == survey::FolderRole::elsewhere) return {};
  if (by_folder != nullptr) {
    const std::string full = absolute(path);
    std::string tail = include.name;
    std::string up;
    while (tail.starts_with("../") || tail.starts_with("./")) {
      if (tail.starts_with("../")) up += "/..";
      tail = tail.substr(tail.find('/') + 1);
    }
    std::string folder = full.size() > tail.size() + 1 ? full.substr(0, full.size() - tail.size() - 1) : root_;
    // "../clay.h" is found from any folder in that of clay.h.
    if (!up.empty()) {
      const auto names = files::names_in(folder);
      const auto below = std::find_if(names.begin(), names.end(),
                                      [&](const auto& name) { return files::is_folder(folder + "/" + name); });
      if (below == names.end() || up != "/..") return {};
      folder += "/" + *below;
    }
    *by_folder = folder;
  }
  return path;
}

const std::vector<Tree::Meant>& Tree::all_meant(const std::string& file) {
  const auto it = meant_.find(file);
  if (it != meant_.end()) return it->second;
  std::vector<Meant> all;
  for (const auto& include : scanned(file).includes) {
    Meant one;
    one.path = meant(include, file, &one.by_folder);
    all.push_back(std::move(one));
  }
  return meant_[file] = std::move(all);
}

Reach Tree::reach(const std::string& source) {
  Reach out;
  std::set<std::string> seen = {source};
  std::vector<std::string> queue = {source};
  std::vector<std::pair<std::string, bool>> folders;  // with whether only names in quotes are looked for there
  for (std::size_t at = 0; at < queue.size() && at < 20000; ++at) {
    const std::string from = queue[at];
    const Scanned& text = scanned(from);
    out.asked.insert(text.asked.begin(), text.asked.end());
    const auto& all = all_meant(from);
    for (std::size_t i = 0; i < text.includes.size(); ++i) {
      const auto& include = text.includes[i];
      const std::string& path = all[i].path;
      const std::string& folder = all[i].by_folder;
      if (path.empty()) {
        out.elsewhere.insert(include.name);
        if (!system_has_(include.name))
          out.absent.push_back({include.name, include.quoted, from, include.line, include.condition});
        continue;
      }
      if (!folder.empty()) {
        out.named.emplace(include.name, absolute(path));
        const auto it =
            std::find_if(folders.begin(), folders.end(), [&](const auto& one) { return one.first == folder; });
        if (it == folders.end())
          folders.emplace_back(folder, include.quoted);
        else
          it->second = it->second && include.quoted;
      }
      if (seen.insert(path).second) queue.push_back(path);
    }
  }
  out.files.assign(queue.begin() + 1, queue.end());
  for (const auto& [folder, quoted] : folders) {
    // A folder with names of the C library would hide that library's headers from everybody.
    if (quoted && !hides_.contains(folder)) {
      const auto names = files::names_in(folder);
      hides_[folder] = std::any_of(names.begin(), names.end(),
                                   [&](const auto& name) { return name.ends_with(".h") && system_has_(name); });
    }
    (quoted && hides_.at(folder) ? out.quote_folders : out.folders).push_back(folder);
  }
  return out;
}

}  // namespace coctilis::describe::sources
