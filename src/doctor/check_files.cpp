// Files, folders, programs and settings that programs of a check looked for.
#include <unistd.h>

#include "base/confine.h"
#include "base/files.h"
#include "base/text.h"
#include "doctor/checks.h"
#include "locate/known.h"

namespace coctilis::doctor {

namespace {

namespace fs = std::filesystem;

std::string file_name(const std::string& path) { return fs::path(path).filename().string(); }

// Files of that name in the tree, nearest to its top first; not those of the kiln. Trees are searched as far as 50,000
// entries.
std::vector<std::string> in_tree(const CheckCase& c, const std::string& name) {
  std::vector<std::string> out;
  std::error_code error;
  std::size_t seen = 0;
  for (auto it = fs::recursive_directory_iterator(c.plan.tree, fs::directory_options::skip_permission_denied, error);
       !error && it != fs::recursive_directory_iterator() && seen < 50000; it.increment(error), ++seen) {
    const std::string path = it->path().string();
    std::error_code ignored;
    if (it->is_directory(ignored) && (path == c.plan.kiln || file_name(path) == ".git" || file_name(path) == "kiln"))
      it.disable_recursion_pending();
    if (file_name(path) == name) out.push_back(path);
  }
  std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) {
    const auto depth = [](const auto& path) { return std::count(path.begin(), path.end(), '/'); };
    return std::make_pair(depth(a), a) < std::make_pair(depth(b), b);
  });
  return out;
}

// In which of the folders that a user thinks of it was looked for.
std::string where_asked(const CheckCase& c, const std::string& path) {
  const std::string folder = fs::path(path).parent_path().string();
  if (folder == c.folder) return "in its working folder";
  if (files::is_below(path, c.folder)) return "in " + files::below(folder, c.folder) + " of its working folder";
  if (folder == fs::path(c.program).parent_path().string()) return "beside the program";
  return "in " + text::printable_line(folder);
}

// It ended as programs do when something is wrong: then what it asked for in vain may be why. One that ended well may
// have done without.
bool ended_badly(const CheckCase& c) { return c.how != Ended::How::exited || c.code != 0; }

bool is_spoken_of(const CheckCase& c, const std::string& path) {
  const std::string name = file_name(path);
  return name.size() > 2 && c.output.find(name) != std::string::npos;
}

// The one of several names that the trouble is about: one that the program speaks of, else one that there is elsewhere,
// else the only one. Several of which nothing more is known are no answer: programs look for much that they can do
// without.
std::string most_likely(const CheckCase& c) {
  std::vector<std::string> own;
  std::string elsewhere;
  for (const auto& path : c.in_vain) {
    const std::string name = file_name(path);
    if (is_spoken_of(c, path)) return path;
    if (!files::is_below(path, c.folder) && !files::is_below(path, fs::path(c.program).parent_path().string()) &&
        !files::is_below(path, c.plan.tree))
      continue;
    if (!name.starts_with('.')) own.push_back(path);
    if (elsewhere.empty() &&
        (files::exists((fs::path(c.program).parent_path() / name).string()) || !in_tree(c, name).empty()))
      elsewhere = path;
  }
  if (!ended_badly(c)) return {};
  return !elsewhere.empty() ? elsewhere : own.size() == 1 ? own.front() : std::string{};
}

// A path in the output that is not there: what a program says without being watched.
std::string absent_in_output(const CheckCase& c) {
  const std::string said = caught_in(
      c,
      R"((?im)(?:can ?not|could ?n(?:o|')t|unable to|failed to|error|no such|not found|missing)[^\n'"]{0,40}?[\s'"`(:=]((?:\.{0,2}/)?[\w.+-]+(?:/[\w.+-]+)*\.[A-Za-z]\w{0,7})(?:[^\w.:(]|:\D|:$|\.\s|\.?$)|(?:^|[\s'"`(:=])((?:\.{0,2}/)?[\w.+-]+(?:/[\w.+-]+)*\.[A-Za-z]\w{0,7})['"`]?: (?:no such file|not found|cannot open))");
  if (said.empty()) return {};
  // What it could not write is not what it looked for.
  if (std::any_of(c.unwritten.begin(), c.unwritten.end(),
                  [&](const auto& other) { return file_name(other) == file_name(said); }))
    return {};
  std::string path = files::absolute(said, c.folder);
  return files::exists(path) ? std::string{} : path;
}

}  // namespace

CheckDiagnosis program_not_found(const CheckCase& c) {
  std::string name = caught_in(c, R"((?m)^(?:\S*sh: (?:line )?\d+: |\S*sh: )([\w.+-]+): (?:command )?not found$)");
  if (name.empty()) name = caught_in(c, R"((?m)^\S*env: ['"‘]?([\w.+-]+)['"’]?: No such file or directory$)");
  if (name.empty() || !find_program(name).empty()) return std::nullopt;
  return model::Diagnosis{"program not found",
                          "it starts the program '" + name + "', which is not there",
                          install_or(locate::package_of_program(name), "install it, or put its folder on PATH"),
                          {line_with(c, name)}};
}

CheckDiagnosis folder_not_there(const CheckCase& c) {
  for (const auto& path : c.unwritten) {
    const std::string folder = fs::path(path).parent_path().string();
    if (!ended_badly(c) && !is_spoken_of(c, path)) continue;
    if (files::exists(folder) || !files::is_below(folder, c.folder)) continue;
    const std::string shown = files::below(folder, c.folder);
    return model::Diagnosis{"folder not there",
                            "it writes to " + files::below(path, c.folder) + ", and its working folder has no " + shown,
                            c.is_asked ? "have it made: folders = [\"" + shown + "\"]"
                                       : "it needs a folder " + shown + " where it is started",
                            {}};
  }
  return std::nullopt;
}

CheckDiagnosis file_not_found(const CheckCase& c) {
  std::string path = most_likely(c);
  if (path.empty()) path = absent_in_output(c);
  if (path.empty()) return std::nullopt;
  const std::string name = file_name(path);
  const std::string beside = (fs::path(c.program).parent_path() / name).string();
  model::Diagnosis out{
      "file not found", "it asked for '" + text::printable_line(name) + "' " + where_asked(c, path), {}};
  const auto others = in_tree(c, name);
  if (beside != path && files::exists(beside)) {
    out.cause += "; there is one beside the program, " + shown_file(c, beside);
    out.remedy = c.is_asked
                     ? "run it there: folder = \"${program}\"; or put the file beside it: files = [\"" + beside + "\"]"
                     : "start it in the folder that it lies in";
  } else if (!others.empty()) {
    const std::string below = files::below(others.front(), c.plan.tree);
    out.cause += "; there is one in the tree, " + text::printable_line(below);
    out.remedy = c.is_asked ? "put it there: files = [\"" + below + "\"]"
                            : "check it where it has that: a [[smoke]] check with files = [\"" + below + "\"]";
  } else {
    out.cause += ", and there is none in the tree";
    out.remedy = "bring it in; as a [[need]] with file = \"...\" it is asked for before anything is built";
  }
  for (const auto& other : c.in_vain) {
    if (out.evidence.size() < 5) out.evidence.push_back("asked for in vain: " + shown_file(c, other));
  }
  return out;
}

CheckDiagnosis not_writable(const CheckCase& c) {
  const std::string said = refused_path(c.output);
  for (const auto& path : c.unwritten) {
    const std::string folder = fs::path(path).parent_path().string();
    if (!ended_badly(c) && !is_spoken_of(c, path)) continue;
    if (!files::exists(folder) || files::is_below(path, c.folder)) continue;
    return model::Diagnosis{"may not write there",
                            "it wants to write to " + text::printable_line(path) + ", outside of its working folder",
                            "have it write to its working folder; programs of a tree write nowhere else",
                            {}};
  }
  if (said.empty()) return std::nullopt;
  return model::Diagnosis{"may not write there",
                          "it wants to write to " + text::printable_line(said) + ", and may not",
                          "have it write to its working folder; programs of a tree write nowhere else",
                          {line_with(c, said)}};
}

CheckDiagnosis locale_unknown(const CheckCase& c) {
  const std::string said = caught_in(
      c,
      R"((?i)(?:cannot|can't|could not|failed to|unable to) (?:set|change|use)[^\n]{0,30}locale|unsupported locale|locale[^\n]{0,40}(?:not supported|not valid|not available|unknown)|std::runtime_error[^\n]*\n[^\n]*locale)");
  if (said.empty()) return std::nullopt;
  return model::Diagnosis{"locale not there",
                          "it wants a locale that this system does not have",
                          c.is_asked ? "use one that every system has: environment = { LC_ALL = \"C.UTF-8\" }"
                                     : "use one that every system has: LC_ALL=C.UTF-8",
                          {line_with(c, said.substr(0, said.find('\n')))}};
}

CheckDiagnosis variable_not_set(const CheckCase& c) {
  const std::string name = caught_in(
      c,
      R"((?:variable |\$|['"`]|\b)\{?([A-Z][A-Z0-9_]{2,})\}?['"`]? (?:environment variable )?(?:(?:is |was |has )?(?:not (?:been )?(?:set|defined)|unset|undefined)\b|(?:must|has to|needs to|should) be (?:set|defined)\b)|(?:[Ss]et|define|export|missing|lacks) (?:the )?environment variable ['"`$]?\{?([A-Z][A-Z0-9_]{2,}))");
  if (name.empty() || c.environment.contains(name)) return std::nullopt;
  return model::Diagnosis{
      "variable not set",
      "it wants the environment variable " + name + ", which is not set",
      c.is_asked ? "set it: environment = { " + name + " = \"...\" }" : "set it: export " + name + "=...",
      {line_with(c, name)}};
}

}  // namespace coctilis::doctor
