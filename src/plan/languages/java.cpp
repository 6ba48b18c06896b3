// Java: the sources of a unit are compiled in one go, into a folder of classes that this step alone fills; classes and
// resources are packed into an archive; a class with main gets a script that starts it.
#include "plan/languages/java.h"

#include <set>

#include "base/archive.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/starter_script.h"
#include "base/text.h"
#include "plan/languages/whole.h"
#include "plan/operations.h"

namespace coctilis::plan {

using model::Action;
using model::Step;
using model::StepKind;
using model::Unit;

namespace {

// A word of an options file (javac(1), "Command-Line Argument Files").
std::string line_of_options(const std::string& word) {
  std::string out = "\"";
  for (const char c : word) {
    if (c == '"' || c == '\\') out += '\\';
    out += c;
  }
  return out + "\"";
}

// A line of a manifest: of at most 72 bytes, going on behind a blank (JAR File Specification, "Notes on Manifest and
// Signature Files").
std::string manifest_line(std::string line) {
  for (auto& c : line) {
    if (static_cast<unsigned char>(c) < 0x20) c = ' ';
  }
  std::string out;
  std::size_t at = 0;
  for (std::size_t most = 70; line.size() - at > most; most = 69) {
    out.append(line, at, most).append("\r\n ");
    at += most;
  }
  out.append(line, at).append("\r\n");
  return out;
}

// The files of a folder whose paths patterns take.
void add_matching(const std::string& folder, const std::string& below, const std::vector<std::string>& includes,
                  const std::vector<std::string>& excludes, std::vector<files::Packed>& out) {
  const auto fits = [](const std::vector<std::string>& patterns, const std::string& path) {
    return std::any_of(patterns.begin(), patterns.end(),
                       [&](const auto& pattern) { return files::path_matches(pattern, path); });
  };
  for (const auto& name : files::names_in(folder)) {
    const std::string path = folder + "/" + name;
    const std::string shown = below.empty() ? name : below + "/" + name;
    if (files::is_folder(path))
      add_matching(path, shown, includes, excludes, out);
    else if ((includes.empty() || fits(includes, shown)) && !fits(excludes, shown))
      out.push_back({path, shown});
  }
}

class JavaSteps {
 public:
  JavaSteps(Planning& planning, const Unit& unit) : planning_(planning), unit_(unit), whole_(*unit.whole) {
    base_ = unit.work_folder + "/.java/" + unit.name;
    std::set<std::string> seen;
    for (const auto& name : whole_.units) add_unit(name, seen);
  }

  std::vector<Step> steps() {
    if (!whole_.entry.empty()) return {starter()};
    // One that has resources only is packed.
    if (unit_.sources.empty() || !whole_.classes_of.empty()) return {pack()};
    return {compile(), pack()};
  }

 private:
  // The archive of a unit with those behind it; each once, in order.
  void add_unit(const std::string& name, std::set<std::string>& seen) {
    const auto it = planning_.units.find(name);
    if (it == planning_.units.end() || !seen.insert(name).second) return;
    const Unit& other = *it->second;
    own_.push_back(other.result.file);
    if (!other.whole) return;
    for (const auto& path : other.whole->libraries) add_library(path);
    for (const auto& behind : other.whole->units) add_unit(behind, seen);
  }
  void add_library(const std::string& path) {
    if (std::find(libraries_.begin(), libraries_.end(), path) == libraries_.end()) libraries_.push_back(path);
  }

  [[nodiscard]] std::vector<std::string> class_path() const {
    std::vector<std::string> out = own_;
    out.insert(out.end(), whole_.libraries.begin(), whole_.libraries.end());
    for (const auto& path : libraries_) {
      if (std::find(out.begin(), out.end(), path) == out.end()) out.push_back(path);
    }
    return out;
  }

  Step compile() {
    const std::string classes = base_ + "/classes";
    Step out = whole_step(unit_, StepKind::compile, text::count(unit_.sources.size(), "source") + " of " + unit_.name);
    out.output_folders = {classes};
    out.outputs = {base_ + "/compiled"};
    out.tools = {whole_.compiler};
    const auto path = class_path();
    for (const auto& source : unit_.sources) out.inputs.push_back(source.path);
    out.inputs.insert(out.inputs.end(), path.begin(), path.end());
    // Command lines have a limit that many sources are beyond.
    std::string list;
    for (const auto& source : unit_.sources) list += line_of_options(source.path) + "\n";
    const std::string file = base_ + "/sources";
    planning_.plan.files.push_back({file, list, false});
    out.identity = whole_.compiler + "\n" + hash_bytes(list).text();
    Action action;
    action.folder = unit_.work_folder;
    action.argv = {whole_.compiler, "-d", classes, "-encoding", whole_.encoding, "-g", "-implicit:none"};
    if (!whole_.level.empty()) action.argv.insert(action.argv.end(), {"--release", whole_.level});
    if (!path.empty()) action.argv.insert(action.argv.end(), {"-cp", text::join(path, ":")});
    action.argv.insert(action.argv.end(), whole_.options.begin(), whole_.options.end());
    action.argv.push_back("@" + file);
    out.actions = {std::move(action), {Action::How::builtin, {"touch", out.outputs.front()}, unit_.work_folder, {}}};
    return out;
  }

  Step pack() {
    Step out = whole_step(unit_, StepKind::archive, files::below(unit_.result.file, planning_.project.binary_root));
    const std::string of = whole_.classes_of.empty() ? base_ : unit_.work_folder + "/.java/" + whole_.classes_of;
    const std::string classes = of + "/classes";
    const std::string manifest = base_ + "/manifest";
    std::string text = "Manifest-Version: 1.0\r\nCreated-By: Coctilis\r\n";
    for (const auto& [name, value] : whole_.manifest) text += manifest_line(name + ": " + value);
    planning_.plan.files.push_back({manifest, text, false});
    out.outputs = {unit_.result.file};
    out.inputs = {manifest};
    if (!unit_.sources.empty() || !whole_.classes_of.empty()) {
      out.input_folders = {classes};
      out.inputs.push_back(of + "/compiled");
    }
    std::vector<std::string> words = {"pack-classes",
                                      unit_.result.file,
                                      classes,
                                      manifest,
                                      text::join(whole_.class_includes, "\n"),
                                      text::join(whole_.class_excludes, "\n")};
    for (const auto& resource : whole_.resources) {
      out.inputs.push_back(resource.from);
      words.insert(words.end(), {resource.from, resource.name});
    }
    out.actions = {{Action::How::builtin, std::move(words), unit_.work_folder, {}}};
    return out;
  }

  Step starter() {
    const std::string folder = std::filesystem::path(unit_.result.file).parent_path().string();
    std::vector<std::string> words;
    for (const auto& path : class_path()) {
      // Its own count from where it lies, so that all of it may be moved.
      const bool own = files::is_below(path, planning_.project.binary_root);
      words.push_back(own ? from_script(files::relative(path, folder)) : text::shell_quote(path));
    }
    Step out = starter_step(
        planning_, unit_, whole_.entry + " with the archives that it needs",
        {text::shell_quote(whole_.runtime), "-cp", text::join(words, ":"), text::shell_quote(whole_.entry)});
    // It starts nothing before they are there.
    out.inputs = own_;
    return out;
  }

  Planning& planning_;
  const Unit& unit_;
  const model::Whole& whole_;
  std::string base_;
  std::vector<std::string> own_;        // archives of the tree
  std::vector<std::string> libraries_;  // that those behind it need
};

}  // namespace

std::vector<Step> java_steps(Planning& planning, const Unit& unit) { return JavaSteps(planning, unit).steps(); }

int pack_classes(const std::vector<std::string>& words, const std::string& root, std::string& output) {
  if (!may_write(words[0], root, output)) return 1;
  std::vector<files::Packed> what = {{words[2], "META-INF/MANIFEST.MF"}};
  if (words[3].empty() && words[4].empty()) {
    for (const auto& name : files::names_in(words[1])) what.push_back({words[1] + "/" + name, name});
  } else {
    const std::vector<std::string> none;
    add_matching(words[1], {}, words[3].empty() ? none : text::split(words[3], '\n'),
                 words[4].empty() ? none : text::split(words[4], '\n'), what);
  }
  for (std::size_t i = 5; i + 1 < words.size(); i += 2) what.push_back({words[i], words[i + 1]});
  std::string why;
  if (files::pack_reproducibly(words[0], what, why)) return 0;
  output += why + "\n";
  return 1;
}

}  // namespace coctilis::plan
