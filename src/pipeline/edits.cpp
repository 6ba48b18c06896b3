#include "pipeline/edits.h"

#include <re2/re2.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/mirror.h"
#include "survey/survey.h"

namespace coctilis::pipeline {

namespace {

// What a pattern matches is replaced, and told.
std::string edited(const std::string& content, const model::Edit& edit, std::vector<model::EditedPlace>& told) {
  const RE2 pattern("(?m)" + edit.pattern, RE2::Quiet);
  std::string out;
  re2::StringPiece whole(content);
  std::size_t at = 0;
  std::vector<re2::StringPiece> groups(static_cast<std::size_t>(pattern.NumberOfCapturingGroups()) + 1);
  while (at <= content.size() &&
         pattern.Match(whole, at, content.size(), RE2::UNANCHORED, groups.data(), static_cast<int>(groups.size()))) {
    const auto begin = static_cast<std::size_t>(groups[0].data() - content.data());
    out.append(content, at, begin - at);
    std::string replacement;
    pattern.Rewrite(&replacement, edit.replacement, groups.data(), static_cast<int>(groups.size()));
    told.push_back({edit.file,
                    1 + static_cast<int>(std::count(content.begin(), content.begin() + static_cast<long>(begin), '\n')),
                    std::string(groups[0]), replacement, edit.place});
    out += replacement;
    at = begin + groups[0].size();
    if (groups[0].empty()) {
      // It matches where nothing is: the next place is behind the next letter.
      if (at < content.size()) out += content[at];
      ++at;
    }
  }
  if (at < content.size()) out.append(content, at, std::string::npos);
  return out;
}

std::string content_of(const std::string& tree, const model::Edit& edit) {
  const std::string path = tree + "/" + edit.file;
  if (files::is_link(path) || !files::is_file(path))
    throw Fault({Exit::usage,
                 edit.place,
                 "the file '" + text::printable_line(edit.file) + "' of an [[edit]] is " +
                     (files::is_link(path) ? "a link" : "not there"),
                 {},
                 files::is_link(path) ? "name the file that it leads to" : "name a file of the tree",
                 {}});
  const auto content = files::read(path);
  if (!content)
    throw Fault({Exit::usage,
                 edit.place,
                 "the file '" + text::printable_line(edit.file) + "' of an [[edit]] cannot be read",
                 {},
                 "make it readable",
                 {}});
  return *content;
}

}  // namespace

void edit_tree(model::Run& run) {
  if (run.settings.edits.empty()) return;
  // Whether these lie there is no news to whoever works out a plan: what they come to is.
  const observe::Apart own;
  const std::string root = survey::kiln_root(run.tree, run.options.kiln);
  const std::string place = root + "/edited";
  const std::string copy = place + "/" + std::filesystem::path(run.tree).filename().string();
  std::map<std::string, std::string> contents;
  for (const auto& edit : run.settings.edits) {
    const auto it = contents.find(edit.file);
    const std::string before = it == contents.end() ? content_of(run.tree, edit) : it->second;
    const std::size_t known = run.edits.size();
    contents[edit.file] = edited(before, edit, run.edits);
    if (run.edits.size() == known)
      throw Fault({Exit::usage,
                   edit.place,
                   "nothing in '" + text::printable_line(edit.file) + "' is matched by '" +
                       text::printable_line(edit.pattern) + "'",
                   "the file may have changed since the [[edit]] was written",
                   "look into the file, and write a pattern for what it has now",
                   {}});
  }
  files::make_folder(place);
  if (const auto mirrored = describe::mirror(run.tree, copy); !mirrored) throw Fault(mirrored.problem());
  // What is edited no more is the tree's again.
  const std::string list = place + "/files";
  for (const auto& before : text::split(files::read(list).value_or(""), '\n')) {
    if (before.empty() || contents.contains(before)) continue;
    if (const auto content = files::read(run.tree + "/" + before); content && files::is_file(copy + "/" + before))
      files::write_if_different(copy + "/" + before, *content);
  }
  std::string names;
  for (const auto& [file, content] : contents) {
    files::write_if_different(copy + "/" + file, content);
    names += file + "\n";
  }
  files::write_if_different(list, names);
  for (auto& one : run.edits) {
    one.place.file = files::below(one.place.file, run.tree);
    run.notes.push_back(one.file + ":" + std::to_string(one.line) + " is built with '" +
                        text::clip(text::printable_line(one.after), 60) + "' in the place of '" +
                        text::clip(text::printable_line(one.before), 60) + "' (" + one.place.text() + ")");
  }
  if (run.original_tree.empty()) run.original_tree = run.tree;
  run.tree = copy;
  run.options.kiln = root;
}

}  // namespace coctilis::pipeline
