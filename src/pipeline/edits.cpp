#include "pipeline/edits.h"

#include <re2/re2.h>

#include <algorithm>
#include <map>

#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/mirror.h"
#include "engine/kiln.h"
#include "survey/survey.h"

namespace coctilis::pipeline {

namespace {

// The content with all that the pattern matches replaced, and an account of that.
std::string edited(const std::string& content, const model::Edit& edit, model::AppliedEdit& applied) {
  const RE2 pattern("(?m)" + edit.pattern, RE2::Quiet);
  const re2::StringPiece whole(content);
  std::vector<re2::StringPiece> groups(static_cast<std::size_t>(pattern.NumberOfCapturingGroups()) + 1);
  std::string out;
  std::size_t at = 0;
  while (at <= content.size() &&
         pattern.Match(whole, at, content.size(), RE2::UNANCHORED, groups.data(), static_cast<int>(groups.size()))) {
    const auto begin = static_cast<std::size_t>(groups[0].data() - content.data());
    std::string replacement;
    pattern.Rewrite(&replacement, edit.replacement, groups.data(), static_cast<int>(groups.size()));
    if (applied.places++ == 0) {
      applied.line =
          1 + static_cast<int>(std::count(content.begin(), content.begin() + static_cast<long>(begin), '\n'));
      applied.before = std::string(groups[0]);
      applied.after = replacement;
    }
    out.append(content, at, begin - at) += replacement;
    at = begin + groups[0].size();
    // Where it matches nothing, the next place is behind the next letter.
    if (groups[0].empty()) {
      if (at < content.size()) out += content[at];
      ++at;
    }
    if (out.size() > files::most_bytes)
      throw Fault({Exit::usage,
                   edit.place,
                   "'" + text::printable_line(edit.file) + "' becomes larger than " + text::size(files::most_bytes) +
                       " by this [[edit]]",
                   {},
                   "write a pattern that matches fewer places",
                   {}});
  }
  if (at < content.size()) out.append(content, at, std::string::npos);
  if (applied.places == 0)
    throw Fault({Exit::usage,
                 edit.place,
                 "nothing in '" + text::printable_line(edit.file) + "' is matched by '" +
                     text::printable_line(edit.pattern) + "'",
                 "the file may have changed since the [[edit]] was written",
                 "look into the file, and write a pattern for what it has now",
                 {}});
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

std::string edited_folder(const std::string& kiln_root) { return kiln_root + "/edited"; }

void edit_tree(model::Run& run) {
  if (run.settings.edits.empty()) return;
  // Where the copy comes from is no news to whoever works out a plan: what lies in it is.
  const observe::Apart own;
  const std::string root = survey::kiln_root(run.tree, run.options.kiln);
  // By its name trees without a description are called.
  const std::string copy = edited_folder(root) + "/" + std::filesystem::path(run.tree).filename().string();
  for (const auto& place : {edited_folder(root), copy}) {
    if (auto astray = engine::led_astray(place, root)) throw Fault(*astray);
  }
  std::map<std::string, std::string> contents;  // by path in the copy
  for (const auto& edit : run.settings.edits) {
    const auto [it, first] = contents.try_emplace(copy + "/" + edit.file);
    if (first) it->second = content_of(run.tree, edit);
    model::AppliedEdit applied;
    applied.file = edit.file;
    applied.place = edit.place;
    applied.place.file = files::below(edit.place.file, run.tree);
    it->second = edited(it->second, edit, applied);
    run.notes.push_back(applied.file + ":" + std::to_string(applied.line) + " is built with '" +
                        text::clip(text::printable_line(applied.after), 60) + "' in the place of '" +
                        text::clip(text::printable_line(applied.before), 60) + "'" +
                        (applied.places > 1 ? ", and so in " + text::count(applied.places - 1, "more place") : "") +
                        " (" + applied.place.text() + ")");
    run.edits.push_back(std::move(applied));
  }
  files::make_folder(edited_folder(root));
  // What is another there than it was put there is put there anew, but for what is edited.
  const auto is_edited = [&](const std::string& path) { return contents.contains(path); };
  if (const auto mirrored = describe::mirror(run.tree, copy, is_edited); !mirrored) throw Fault(mirrored.problem());
  for (const auto& [path, content] : contents) files::write_if_different(path, content);
  if (run.original_tree.empty()) run.original_tree = run.tree;
  run.tree = copy;
  run.options.kiln = root;
}

}  // namespace coctilis::pipeline
