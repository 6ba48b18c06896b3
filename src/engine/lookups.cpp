#include "engine/lookups.h"

#include <algorithm>
#include <set>

#include "base/files.h"
#include "base/observed.h"

namespace coctilis::engine {

namespace {

std::string_view folder_of(std::string_view path) {
  const auto slash = path.rfind('/');
  return slash == std::string_view::npos ? std::string_view{} : path.substr(0, slash);
}
std::string_view base_of(std::string_view path) { return path.substr(path.rfind('/') + 1); }

std::string joined(std::string_view folder, std::string_view name) {
  return files::absolute(name, std::string(folder));
}

// The name in <> or "" that begins behind `at`. Whatever else stands there, a comment say, makes it one that is worked
// out.
enum class Found { name, worked_out, nothing };
Found name_at(std::string_view text, std::size_t at, NamedHeaders::Name& out) {
  at = text.find_first_not_of(" \t", at);
  if (at == std::string_view::npos || text[at] == '\n' || text[at] == '\r') return Found::nothing;
  const char end = text[at] == '<' ? '>' : text[at] == '"' ? '"' : '\0';
  if (end == '\0') return Found::worked_out;
  const auto stop = text.find_first_of(std::string{end, '\n'}, at + 1);
  if (stop == std::string_view::npos || text[stop] != end) return Found::nothing;
  out.text = std::string(text.substr(at + 1, stop - at - 1));
  out.quoted = end == '"';
  return out.text.empty() ? Found::nothing : Found::name;
}

}  // namespace

NamedHeaders headers_named_in(std::string_view text) {
  NamedHeaders out;
  constexpr std::string_view asking = "__has_include";
  for (auto at = text.find(asking); at != std::string_view::npos; at = text.find(asking, at)) {
    at += asking.size();
    NamedHeaders::Name name;
    name.next = text.substr(at).starts_with("_next");
    if (name.next) at += 5;
    const auto bracket = text.find_first_not_of(" \t\\\r\n", at);
    if (bracket == std::string_view::npos || text[bracket] != '(') continue;  // only whether it is known
    const auto begin = text.find_first_not_of(" \t\\\r\n", bracket + 1);
    if (begin == std::string_view::npos) break;
    const Found found = name_at(text, begin, name);
    if (found == Found::name) out.asked.push_back(std::move(name));
    out.any_asked = out.any_asked || found == Found::worked_out;
  }
  for (std::size_t line = 0; line < text.size();) {
    const auto end = std::min(text.find('\n', line), text.size());
    auto at = text.find_first_not_of(" \t", line);
    if (at < end && text[at] == '#') {
      at = text.find_first_not_of(" \t", at + 1);
      for (const std::string_view word : {"include_next", "include", "import"}) {
        if (at >= end || !text.substr(at).starts_with(word)) continue;
        const auto behind = at + word.size();
        if (behind < text.size() &&
            (std::isalnum(static_cast<unsigned char>(text[behind])) != 0 || text[behind] == '_'))
          break;
        NamedHeaders::Name name;
        name.next = word == "include_next";
        const Found found = name_at(text, at + word.size(), name);
        if (found == Found::name) out.included.push_back(std::move(name));
        out.any_included = out.any_included || found == Found::worked_out;
        break;
      }
    }
    line = end + 1;
  }
  return out;
}

const NamedHeaders& Lookups::named_in(PathId file) {
  const auto [it, fresh] = named_.try_emplace(file);
  if (fresh) {
    const observe::Apart apart;
    if (const auto text = files::read(journal_.path(file))) it->second = headers_named_in(*text);
  }
  return it->second;
}

std::vector<Lookups::Way> Lookups::ways(const model::SearchPath& path, std::string_view file) const {
  std::vector<Way> out;
  for (std::size_t i = 0; i < path.folders.size(); ++i) {
    const auto& folder = path.folders[i];
    if (file.size() > folder.size() + 1 && file.starts_with(folder) && file[folder.size()] == '/')
      out.push_back({i, file.substr(folder.size() + 1)});
  }
  return out;
}

bool Lookups::is_own_of_compiler(const model::SearchPath& path, std::string_view file) const {
  for (std::size_t i = path.own; i < path.folders.size(); ++i) {
    if (files::is_below(file, path.folders[i])) return true;
  }
  return false;
}

std::vector<std::string> Lookups::asking_folders(const model::SearchPath& path, const std::string& source,
                                                 const std::vector<PathId>& read) const {
  std::vector<std::string> out = {std::string(folder_of(source))};
  for (const PathId file : read) {
    const std::string_view text = journal_.path(file);
    if (is_own_of_compiler(path, text)) continue;
    if (const auto folder = folder_of(text); std::find(out.begin(), out.end(), folder) == out.end())
      out.emplace_back(folder);
  }
  return out;
}

Lookups::Searched Lookups::of(std::size_t search, const std::string& source, const std::vector<PathId>& read,
                              const Moment& when) {
  Searched out;
  if (search == 0) return out;
  const auto& path = plan_.searches[search - 1];
  std::set<PathId> folders;
  std::set<std::string_view> below;  // folders in names by which something was found
  for (const PathId file : read) {
    const std::uint64_t key = std::uint64_t{search} << 32U | file;
    auto [it, fresh] = on_the_way_.try_emplace(key);
    for (const auto& way : ways(path, journal_.path(file))) {
      const std::string_view inner = folder_of(way.name);
      below.insert(inner);
      if (!fresh) continue;
      for (std::size_t i = 0; i < way.folder; ++i) it->second.push_back(journal_.id(joined(path.folders[i], inner)));
      for (const auto& folder : path.quoted) it->second.push_back(journal_.id(joined(folder, inner)));
    }
    folders.insert(it->second.begin(), it->second.end());
  }
  for (const auto& folder : asking_folders(path, source, read)) {
    for (const auto& inner : below) folders.insert(journal_.id(joined(folder, inner)));
  }
  std::vector<ContentId> contents;
  for (const PathId folder : folders)
    contents.push_back(journal_.content(contents_.take_as_of(folder, Form::names, when)));
  std::sort(contents.begin(), contents.end());
  out.folders = journal_.list(contents);

  // What texts ask for is looked up like what they include, up to the first that is there.
  std::set<ContentId> names;
  const auto look_up = [&](const std::string& place) {
    const auto content = contents_.take_as_of(journal_.id(place), Form::presence, when);
    names.insert(journal_.content(content));
    return !content.hash.empty();
  };
  const auto ask = [&](PathId file) {
    if (!contents_.now(file).asks_for_names) return;
    const NamedHeaders& named = named_in(file);
    if (named.any_asked && !is_own_of_compiler(path, journal_.path(file))) out.any_name = true;
    for (const auto& asked : named.asked) {
      const std::string& name = asked.text;
      if (name.starts_with('/')) {
        look_up(name);
        continue;
      }
      if (asked.quoted && look_up(joined(folder_of(journal_.path(file)), name))) continue;
      if (asked.quoted && std::any_of(path.quoted.begin(), path.quoted.end(),
                                      [&](const auto& folder) { return look_up(joined(folder, name)); }))
        continue;
      static_cast<void>(std::any_of(path.folders.begin(), path.folders.end(),
                                    [&](const auto& folder) { return look_up(joined(folder, name)); }));
    }
  };
  for (const PathId file : read) ask(file);
  if (!source.empty()) ask(journal_.id(source));
  out.names.assign(names.begin(), names.end());
  return out;
}

std::string Lookups::found_since(const Journal::Entry& entry, std::size_t search, const std::string& source) {
  std::vector<std::pair<std::string_view, std::set<std::string>>> changed;
  for (const ContentId id : journal_.list(entry.searched)) {
    const Content folder = journal_.content(id);
    if (contents_.is(folder)) continue;
    const std::string path(journal_.path(folder.path));
    if (entry.any_name) return path;
    const observe::Apart apart;
    const auto names = files::names_in(path);
    changed.emplace_back(journal_.path(folder.path), std::set<std::string>(names.begin(), names.end()));
  }
  if (changed.empty()) return {};
  if (search == 0) return std::string(changed.front().first);
  const auto& path = plan_.searches[search - 1];
  std::vector<PathId> read;
  std::set<std::string_view> known;
  for (const ContentId id : journal_.inputs(entry)) {
    const Content& input = journal_.content(id);
    if (form_of(input.form) != Form::content) continue;
    read.push_back(input.path);
    known.insert(journal_.path(input.path));
  }
  // A file that is there now in a folder in which another is.
  std::string found;
  const auto is_there_now = [&](std::string_view folder, std::string_view name) {
    const std::string place = joined(folder, name);
    const std::string_view in = folder_of(place);
    const std::string base(base_of(place));
    for (const auto& [changed_folder, names] : changed) {
      if (changed_folder != in) continue;
      // A precompiled header is taken before the header itself.
      for (const auto& candidate : {place, place + ".gch"}) {
        if (found.empty() && names.contains(std::string(base_of(candidate))) && !known.contains(candidate) &&
            leads_to(path, source, read, place))
          found = candidate;
      }
    }
    return !found.empty();
  };
  const auto asking = asking_folders(path, source, read);
  for (const PathId file : read) {
    for (const auto& way : ways(path, journal_.path(file))) {
      for (std::size_t i = 0; i < way.folder; ++i) {
        if (is_there_now(path.folders[i], way.name)) return found;
      }
      for (const auto* list : {&path.quoted, &asking}) {
        for (const auto& folder : *list) {
          if (is_there_now(folder, way.name)) return found;
        }
      }
    }
  }
  return {};
}

bool Lookups::leads_to(const model::SearchPath& path, const std::string& source, const std::vector<PathId>& read,
                       const std::string& place) {
  std::set<std::string_view> known;
  for (const PathId file : read) known.insert(journal_.path(file));
  const auto from = [&](PathId file) {
    const NamedHeaders& named = named_in(file);
    if (named.any_included) return true;
    for (const auto& [name, quoted, next] : named.included) {
      std::vector<std::string> folders;
      if (quoted) folders.emplace_back(folder_of(journal_.path(file)));
      if (quoted) folders.insert(folders.end(), path.quoted.begin(), path.quoted.end());
      folders.insert(folders.end(), path.folders.begin(), path.folders.end());
      for (const auto& folder : folders) {
        const std::string candidate = joined(folder, name);
        if (candidate == place) return true;
        // Here it was found, unless the search began behind it.
        if (!next && known.contains(candidate)) break;
      }
    }
    return false;
  };
  return (!source.empty() && from(journal_.id(source))) || std::any_of(read.begin(), read.end(), from);
}

ListId Lookups::as_they_are(ListId folders) {
  std::vector<ContentId> out;
  for (const ContentId id : journal_.list(folders))
    out.push_back(journal_.content(contents_.take(journal_.content(id).path, Form::names)));
  std::sort(out.begin(), out.end());
  return journal_.list(out);
}

}  // namespace coctilis::engine
