// Commands that do not start.
#include <fcntl.h>
#include <sys/statvfs.h>
#include <unistd.h>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "doctor/case.h"
#include "locate/known.h"

namespace coctilis::doctor {

namespace {

std::string first_line(const std::string& file) {
  char bytes[256];
  const int fd = ::open(file.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (fd < 0) return {};
  const ssize_t size = ::read(fd, bytes, sizeof bytes);
  ::close(fd);
  std::string line(bytes, size > 0 ? static_cast<std::size_t>(size) : 0);
  return line.substr(0, line.find('\n'));
}

std::string shown(const Case& c, const std::string& file) {
  return "'" + text::printable_line(files::below(files::below(file, c.plan.work), c.plan.tree)) + "'";
}

// Where it is mended: in the tree, also when a copy of it is built.
std::string mended(const Case& c, const std::string& file) {
  const std::string original = c.plan.in_original(file);
  return text::shell_quote(!original.empty() && files::exists(original) ? original : file);
}

// A script names the program that runs it in its first line (execve(2), "Interpreter scripts").
Explanation of_script(const Case& c, const std::string& file, std::string line) {
  if (line.ends_with('\r'))
    return {
        "line ends",
        shown(c, file) + " has lines that end in a carriage return: the system looks for an interpreter of that name",
        "give it the line ends of this system: sed -i 's/\\r$//' " + mended(c, file)};
  const auto words = text::shell_words(line.substr(2));
  if (words.empty()) return {};
  std::string interpreter = words.front();
  // "#!/usr/bin/env python3": the program is the next word that is no option.
  if (interpreter.ends_with("/env") && files::exists(interpreter)) {
    for (std::size_t i = 1; i < words.size(); ++i) {
      if (words[i].starts_with('-') || words[i].find('=') != std::string::npos) continue;
      interpreter = words[i];
      break;
    }
  }
  const bool there =
      interpreter.find('/') != std::string::npos ? files::exists(interpreter) : !find_program(interpreter).empty();
  if (there) return {};
  const std::string name = std::filesystem::path(interpreter).filename().string();
  return {"missing interpreter",
          shown(c, file) + " is run by '" + text::printable_line(interpreter) + "', which is not there",
          how_to_install(c, locate::package_of_program(name),
                         "install it, or name another in the first line of the script")};
}

// A file that is there and does not start.
Explanation of_file(const Case& c, const std::string& file) {
  struct statvfs disk {};
  if (::statvfs(file.c_str(), &disk) == 0 && (disk.f_flag & ST_NOEXEC) != 0) {
    const bool own = files::is_below(file, c.plan.kiln);
    return {"programs may not run there",
            shown(c, file) + " lies on a disk that is mounted without the right to run programs (noexec)",
            own ? "choose a kiln on another disk with --kiln DIR" : "move the tree to another disk"};
  }
  if (::access(file.c_str(), X_OK) != 0)
    return {"no right to run it", shown(c, file) + " is there, but may not be run", "chmod +x " + mended(c, file)};
  if (const std::string line = first_line(file); line.starts_with("#!")) return of_script(c, file, line);
  return {};
}

// The file that a name stands for in the step's commands; empty when nothing is there.
std::string file_of(const Case& c, const std::string& name) {
  if (name.find('/') == std::string::npos) return find_program(name);
  for (const auto& action : c.step.actions) {
    const std::string file = files::absolute(name, action.folder);
    if (files::is_file(file)) return file;
  }
  return {};
}

}  // namespace

Explanation missing_command(const Case& c) {
  // What a shell or the system calls "not found" may be there all the same.
  for (const auto& action : c.step.actions) {
    if (!action.folder.empty() && !files::is_folder(action.folder))
      return {"missing folder", "the folder " + shown(c, action.folder) + " in which its commands run is not there",
              "something has to make it first" +
                  (c.step.place.file.empty() ? std::string{} : "; see " + c.step.place.text())};
  }
  if (const std::string file = file_of(c, c.first); !file.empty()) return of_file(c, file);
  Explanation out{"missing command", "the program '" + c.first + "' is not there", {}};
  const std::string name = std::filesystem::path(c.first).filename().string();
  for (const auto& target : c.plan.targets) {
    if (target.kind != model::TargetKind::program ||
        (target.name != name && std::filesystem::path(target.output).filename() != name))
      continue;
    out.remedy = "the tree builds it ('" + target.name + "', " + target.place.text() +
                 "): " + (c.step.target.empty() ? c.step.subject : "'" + c.step.target + "'") +
                 " has to depend on that, and to name the file that is built";
    return out;
  }
  if (const auto* maker = maker_of(c.plan, name); maker != nullptr) {
    out.remedy = "the tree makes it (" + (maker->place.file.empty() ? maker->subject : maker->place.text()) +
                 "): what uses it has to need that";
    return out;
  }
  if (c.first.find('/') != std::string::npos) {
    out.remedy = "look at where the description expects it" +
                 (c.step.place.file.empty() ? std::string{} : ": " + c.step.place.text());
    return out;
  }
  out.remedy = how_to_install(c, locate::package_of_program(c.first), "install it, or put its folder on PATH");
  return out;
}

Explanation missing_interpreter(const Case& c) {
  if (const std::string file = file_of(c, c.first); !file.empty()) return of_file(c, file);
  // env(1) names the interpreter, not the script.
  std::string name = c.first;
  for (const char* end : {"\\r", "\r", "\\015", "$'\\r'"}) {
    if (!name.ends_with(end)) continue;
    return {"line ends", "a script that it runs has lines that end in a carriage return",
            "give the script the line ends of this system"};
  }
  return {"missing interpreter", "'" + name + "', which runs a script, is not there",
          how_to_install(c, locate::package_of_program(name), "install it, or name another in the script")};
}

Explanation command_without_right(const Case& c) {
  const std::string file = file_of(c, c.first);
  return file.empty() ? Explanation{} : of_file(c, file);
}

}  // namespace coctilis::doctor
