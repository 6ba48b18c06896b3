// What is installed besides the results of targets.
#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/meson_build/evaluator.h"

namespace coctilis::describe::meson_build {

namespace {

Value install_data(Evaluator& e, Arguments& a) {
  e.check_names(
      a, {"install_dir", "install_mode", "install_tag", "rename", "sources", "preserve_path", "follow_symlinks"});
  auto values = flattened(a.positional);
  for (auto& one : e.list(a, "sources")) values.push_back(std::move(one));
  const auto renamed = e.texts(a, "rename");
  std::string folder = e.install_folder(a, "install_dir", "datadir");
  if (a.find("install_dir") == nullptr) folder += "/" + e.scope().name;
  std::size_t index = 0;
  for (const auto& value : values) {
    const auto paths = e.paths_of({value}, a);
    for (const auto& path : paths) {
      std::string name = index < renamed.size() ? renamed[index] : base_name(path);
      if (e.truth_or(a, "preserve_path", false) && value.text() != nullptr) name = *value.text();
      e.install_file(path, folder + "/" + name, 0, a);
      ++index;
    }
  }
  return {};
}

Value install_headers(Evaluator& e, Arguments& a) {
  e.check_names(a, {"install_dir", "subdir", "install_mode", "install_tag", "preserve_path", "follow_symlinks"});
  std::string folder = e.install_folder(a, "install_dir", "includedir");
  if (a.find("install_dir") == nullptr) {
    if (const std::string below = e.text_or(a, "subdir"); !below.empty()) folder += "/" + below;
  }
  for (const auto& value : flattened(a.positional)) {
    for (const auto& path : e.paths_of({value}, a)) {
      std::string name = base_name(path);
      if (e.truth_or(a, "preserve_path", false)) name = files::relative(path, e.source_folder());
      e.install_file(path, folder + "/" + name, 0, a);
    }
  }
  return {};
}

Value install_man(Evaluator& e, Arguments& a) {
  e.check_names(a, {"install_dir", "install_mode", "install_tag", "locale"});
  for (const auto& path : e.paths_of(flattened(a.positional), a)) {
    const std::string name = base_name(path);
    const std::string section = name.substr(name.rfind('.') + 1);
    std::string folder = e.install_folder(a, "install_dir", "mandir");
    const std::string locale = e.text_or(a, "locale");
    if (a.find("install_dir") == nullptr)
      folder += (locale.empty() ? "" : "/" + locale) + "/man" + section.substr(0, 1);
    e.install_file(path, folder + "/" + (locale.empty() ? name : text::replace_all(name, "." + locale, "")), 0, a);
  }
  return {};
}

Value install_subdir(Evaluator& e, Arguments& a) {
  e.check_names(a, {"install_dir", "exclude_files", "exclude_directories", "strip_directory", "install_mode",
                    "install_tag", "follow_symlinks"});
  const std::string name = e.text(a, 0);
  const std::string from = e.source_path(name);
  std::string to = e.install_folder(a, "install_dir", "datadir");
  if (!e.truth_or(a, "strip_directory", false)) to += "/" + base_name(from);
  model::InstallItem item;
  item.kind = model::InstallItem::Kind::folder;
  // One that is not there is made.
  if (files::is_folder(from)) item.from = from;
  item.to = to;
  item.keep_mode = true;
  for (const auto& one : e.texts(a, "exclude_files")) item.patterns.push_back({false, base_name(one), true, 0});
  for (const auto& one : e.texts(a, "exclude_directories")) item.patterns.push_back({false, base_name(one), true, 0});
  item.place = a.place;
  e.build.install.push_back(std::move(item));
  return {};
}

Value install_emptydir(Evaluator& e, Arguments& a) {
  e.check_names(a, {"install_mode", "install_tag"});
  for (const auto& folder : e.texts(flattened(a.positional), a)) {
    model::InstallItem item;
    item.kind = model::InstallItem::Kind::folder;
    item.to = e.below_prefix(folder);
    item.place = a.place;
    e.build.install.push_back(std::move(item));
  }
  return {};
}

Value install_symlink(Evaluator& e, Arguments& a) {
  e.check_names(a, {"install_dir", "install_tag", "pointing_to"});
  model::InstallItem item;
  item.kind = model::InstallItem::Kind::link;
  item.from = e.text_or(a, "pointing_to");
  item.to = e.install_folder(a, "install_dir", "datadir") + "/" + e.text(a, 0);
  item.place = a.place;
  e.build.install.push_back(std::move(item));
  return {};
}

}  // namespace

unsigned Evaluator::mode_of(const Arguments& a) const {
  const auto given = list(a, "install_mode");
  if (given.empty() || given.front().text() == nullptr) return 0;
  const std::string& text = *given.front().text();
  if (text.size() != 9)
    fail(a, "'" + text::clip(text::printable_line(text), 40) + "' is no mode: it is one like 'rwxr-xr-x'");
  unsigned mode = 0;
  for (const char c : text) mode = mode * 2 + (c == '-' || c == 'S' || c == 'T' ? 0 : 1);
  if (text[2] == 's' || text[2] == 'S') mode |= 04000U;
  if (text[5] == 's' || text[5] == 'S') mode |= 02000U;
  if (text[8] == 't' || text[8] == 'T') mode |= 01000U;
  return mode;
}

void Evaluator::install_file(const std::string& from, const std::string& to, unsigned mode, const Arguments& a) {
  if (documents_left_out.contains(from)) return;
  if (files::is_below(from, tree) && !files::is_below(from, work) && !files::exists(from))
    fail(a, "'" + text::printable_line(files::below(from, tree)) + "', which is to be installed, is not there");
  model::InstallItem item;
  item.from = from;
  item.to = to;
  item.mode = mode != 0 ? mode : mode_of(a);
  item.place = a.place;
  build.install.push_back(std::move(item));
}

void add_install_functions(FunctionTable& table) {
  table["install_data"] = install_data;
  table["install_headers"] = install_headers;
  table["install_man"] = install_man;
  table["install_subdir"] = install_subdir;
  table["install_emptydir"] = install_emptydir;
  table["install_symlink"] = install_symlink;
}

}  // namespace coctilis::describe::meson_build
