#include "support.h"

#include <linux/capability.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <cstdlib>

#include "base/text.h"

namespace coctilis::test {

TreeFolder::TreeFolder() : scratch_("test") { files::make_folder(scratch_.path() / "tree"); }

std::string TreeFolder::path(const std::string& below) const {
  const std::string tree = (scratch_.path() / "tree").string();
  return below.empty() ? tree : tree + "/" + below;
}

void TreeFolder::write(const std::string& below, const std::string& text) const { files::write(path(below), text); }
std::string TreeFolder::read(const std::string& below) const { return files::read(path(below)).value_or(""); }

std::vector<std::string> TreeFolder::named(std::vector<std::string> texts) const {
  for (auto& text : texts) text = text::replace_all(text, path(), "TREE");
  return texts;
}

std::string TreeFolder::label_folder() const {
  std::error_code error;
  for (const auto& entry : std::filesystem::directory_iterator(kiln(), error)) {
    if (entry.is_directory()) return entry.path().string();
  }
  return {};
}

std::string Said::all() const { return text::join(text::words(out + " " + err), " "); }

namespace {
Said drive(const std::vector<std::string>& arguments,
           const std::map<std::string, std::optional<std::string>>& environment, const std::string& folder,
           bool modes_count) {
  const char* program = std::getenv("COCTILIS_PROGRAM");
  Command command;
  command.argv = {program == nullptr ? "coctilis" : program};
  command.argv.insert(command.argv.end(), arguments.begin(), arguments.end());
  command.environment = environment;
  command.environment.emplace("NO_COLOR", "1");
  command.environment.emplace("XDG_CACHE_HOME", TEST_CACHE);
  command.folder = folder;
  command.merge_errors = false;
  command.limit_seconds = 250;
  command.modes_count = modes_count;
  const Ended ended = run(command);
  Said said;
  said.exit = ended.how == Ended::How::exited ? ended.code : 1000 + ended.code;
  said.out = ended.output;
  said.err = ended.errors;
  return said;
}
}  // namespace

Said coctilis(const std::vector<std::string>& arguments,
              const std::map<std::string, std::optional<std::string>>& environment, const std::string& folder) {
  return drive(arguments, environment, folder, false);
}
Said coctilis_by_modes(const std::vector<std::string>& arguments) { return drive(arguments, {}, "/", true); }

bool obey_modes() {
  __user_cap_header_struct header{_LINUX_CAPABILITY_VERSION_3, 0};
  __user_cap_data_struct data[2] = {};
  if (::syscall(SYS_capget, &header, data) != 0) return false;
  data[0].effective &= ~((1U << CAP_DAC_OVERRIDE) | (1U << CAP_DAC_READ_SEARCH));
  return ::syscall(SYS_capset, &header, data) == 0;
}

nlohmann::json TreeFolder::record() const {
  return nlohmann::json::parse(files::read(label_folder() + "/runs/latest/run.json").value_or("{}"));
}

std::set<std::string> TreeFolder::ran() const {
  std::set<std::string> out;
  auto kept = record();
  for (const auto& step : kept["build"]["steps"]) {
    if (step["state"] == "done" || step["state"] == "unchanged") out.insert(step["subject"].get<std::string>());
  }
  return out;
}

Said DrivenTree::run(const std::string& command, const std::vector<std::string>& more) const {
  std::vector<std::string> words = {command, tree.path()};
  if (command != "survey") words.insert(words.end(), {"--kiln", tree.kiln()});
  words.insert(words.end(), more.begin(), more.end());
  return coctilis(words);
}
std::string DrivenTree::said_by(const std::string& name) const {
  Command command;
  command.argv = {tree.label_folder() + "/bin/" + name};
  return coctilis::run(command).output;
}
bool DrivenTree::is_built(const std::string& name) const { return files::exists(tree.label_folder() + "/bin/" + name); }

Said DrivenTree::built_on_a_terminal() const {
  const char* program = std::getenv("COCTILIS_PROGRAM");
  Command command;
  // script(1) gives what it starts a terminal.
  command.argv = {"script", "-qec",
                  "'" + std::string(program == nullptr ? "" : program) + "' build '" + tree.path() + "' --kiln '" +
                      tree.kiln() + "'",
                  "/dev/null"};
  command.environment = {{"TERM", "xterm-256color"}, {"NO_COLOR", std::nullopt}};
  command.limit_seconds = 100;
  const Ended ended = coctilis::run(command);
  return {ended.how == Ended::How::exited ? ended.code : -1, ended.output, {}};
}

void write_small_tree(const TreeFolder& tree) {
  tree.write("CMakeLists.txt",
             "cmake_minimum_required(VERSION 3.16)\n"
             "project(press C)\n"
             "add_executable(press press.c)\n");
  tree.write("press.c", "#include <stdio.h>\nint main(void) { puts(\"40 bricks\"); return 0; }\n");
}

}  // namespace coctilis::test
