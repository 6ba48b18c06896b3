#include "describe/listfile/inner_tree.h"

#include "base/files.h"
#include "base/own_program.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/tool.h"

namespace coctilis::describe::listfile {

namespace {

constexpr const char* depth_name = "COCTILIS_INNER_DEPTH";
constexpr int most_depth = 5;

// What a folder was configured for, for calls that name only the folder.
std::string note_of(const std::string& binary) { return binary + "/.inner-tree"; }

}  // namespace

bool add_setting(InnerCall& call, const std::string& word) {
  const auto equals = word.find('=');
  if (!word.starts_with("-D") || equals == std::string::npos || equals < 3) return false;
  std::string name = word.substr(2, equals - 2);
  if (const auto colon = name.find(':'); colon != std::string::npos) name.resize(colon);
  call.sets.push_back(name + word.substr(equals));
  return true;
}

bool understand_inner(const std::vector<std::string>& words, const std::string& folder, InnerCall& call) {
  if (words.empty()) return false;
  const auto value_of = [&](std::size_t& at) { return at + 1 < words.size() ? words[++at] : std::string{}; };
  if (words[0] == "--build" || words[0] == "--install") {
    if (words.size() < 2) return false;
    call.kind = words[0] == "--build" ? InnerCall::Kind::build : InnerCall::Kind::install;
    call.binary = files::absolute(words[1], folder);
    for (std::size_t k = 2; k < words.size() && words[k] != "--"; ++k) {
      const std::string& word = words[k];
      if (word == "--prefix") {
        call.prefix = files::absolute(value_of(k), folder);
      } else if (word == "--target" || word == "-t") {
        while (k + 1 < words.size() && !words[k + 1].starts_with('-')) call.targets.push_back(words[++k]);
      } else if (word == "--config" || word == "--component") {
        (void)value_of(k);
      } else if (word == "-j" || word == "--parallel") {
        if (k + 1 < words.size() && !words[k + 1].starts_with('-')) ++k;
      } else if (!word.starts_with("-j") && word != "--clean-first" && word != "--verbose" && word != "-v" &&
                 word != "--use-stderr") {
        return false;
      }
    }
    if (std::erase(call.targets, "install") > 0) call.kind = InnerCall::Kind::install;
    std::erase(call.targets, "all");
    return true;
  }
  call.kind = InnerCall::Kind::configure;
  call.binary = folder;
  bool configures = false;
  for (std::size_t k = 0; k < words.size(); ++k) {
    const std::string& word = words[k];
    if (word == "-S" || word == "-B") {
      (word == "-S" ? call.source : call.binary) = files::absolute(value_of(k), folder);
      configures = true;
    } else if (word.starts_with("-S") || word.starts_with("-B")) {
      (word[1] == 'S' ? call.source : call.binary) = files::absolute(word.substr(2), folder);
      configures = true;
    } else if (word.starts_with("-H") && word.size() > 2) {
      call.source = files::absolute(word.substr(2), folder);
      configures = true;
    } else if (word == "-D") {
      if (!add_setting(call, "-D" + value_of(k))) return false;
    } else if (word.starts_with("-D")) {
      if (!add_setting(call, word)) return false;
    } else if (word == "-G" || word == "-A" || word == "-T") {
      (void)value_of(k);
      configures = true;
    } else if (word.starts_with("-G") || word.starts_with("-W") || word.starts_with("--no-warn") || word.empty()) {
      continue;
    } else if (!word.starts_with('-') && files::is_file(files::absolute(word, folder) + "/CMakeLists.txt")) {
      call.source = files::absolute(word, folder);
      configures = true;
    } else {
      return false;
    }
  }
  if (call.source.empty()) call.source = folder;
  return configures && files::is_file(call.source + "/CMakeLists.txt");
}

InnerDone run_inner(Evaluator& e, const Invocation& i, InnerCall call) {
  call.binary = e.writable(call.binary, i.place);
  files::make_folder(call.binary);
  const std::string note = note_of(call.binary);
  if (call.source.empty()) {
    const auto kept = text::split(files::read(note).value_or(""), '\0');
    if (kept.front().empty())
      e.fail(i, "'" + e.shown(call.binary) + "' is to be built, but was not configured", "look at what comes before");
    call.source = kept.front();
    call.sets.assign(kept.begin() + 1, kept.end());
  } else {
    std::string kept = call.source;
    for (const auto& set : call.sets) kept += '\0' + set;
    files::write_if_different(note, kept);
  }
  const int depth = std::atoi(e.environment_value(depth_name).c_str());
  if (depth >= most_depth)
    e.fail(i, "trees configure each other more than " + std::to_string(most_depth) + " deep",
           "look for a tree that configures itself");
  if (call.prefix.empty()) {
    for (const auto& set : call.sets) {
      if (set.starts_with("CMAKE_INSTALL_PREFIX=")) call.prefix = files::absolute(set.substr(21), call.binary);
    }
  }
  if (call.kind == InnerCall::Kind::install) {
    if (call.prefix.empty())
      e.not_understood(i, "installing '" + e.shown(call.source) + "' without a prefix in the output folder");
    call.prefix = e.writable(call.prefix, i.place);
  }
  coctilis::Command command;
  command.argv = {own_program()};
  switch (call.kind) {
    case InnerCall::Kind::configure: command.argv.emplace_back("plan"); break;
    case InnerCall::Kind::build: command.argv.emplace_back("build"); break;
    case InnerCall::Kind::install: command.argv.emplace_back("stage"); break;
  }
  const auto& settings = e.locator.settings();
  command.argv.insert(command.argv.end(), {"--kiln=" + call.binary + "/.kiln", "--plain", "--quiet",
                                           "--only-these-options", "--jobs=" + std::to_string(settings.jobs)});
  const auto variant = settings.variants.find(settings.variant);
  if (variant != settings.variants.end()) command.argv.push_back("--variant=" + variant->second.base);
  if (!settings.machine.empty())
    command.argv.push_back("--toolchain=" + settings.machine);
  else if (settings.toolchain.size() == 1)
    command.argv.push_back("--toolchain=" + settings.toolchain.front().text);
  for (const auto& prefix : settings.prefixes) command.argv.push_back("--with=" + prefix);
  for (const auto& set : call.sets) command.argv.push_back("--set=" + set);
  if (call.kind == InnerCall::Kind::install) command.argv.push_back("--prefix=" + call.prefix);
  // What follows are names, whatever they begin with.
  command.argv.insert(command.argv.end(), {"--", call.source});
  if (call.kind == InnerCall::Kind::build)
    command.argv.insert(command.argv.end(), call.targets.begin(), call.targets.end());
  command.folder = call.binary;
  command.merge_errors = true;
  command.limit_seconds = 3600;
  for (const auto& [name, value] : e.environment) command.environment[name] = value;
  command.environment[depth_name] = std::to_string(depth + 1);
  e.locator.progress("a tree of its own: " + e.shown(call.source));
  const Ended ended = coctilis::run(command);
  if (ended.how == Ended::How::exited && ended.code == static_cast<int>(Exit::missing)) {
    throw Fault({Exit::missing,
                 i.place,
                 "the tree '" + e.shown(call.source) + "', which the description " +
                     (call.kind == InnerCall::Kind::configure ? "configures" : "builds") +
                     " while it is read, lacks something",
                 std::string(text::trim(text::printable(ended.output))),
                 "provide what is missing; an option of the tree may turn off what wants it",
                 {}});
  }
  return {ended.how == Ended::How::exited ? ended.code : 1, ended.output};
}

}  // namespace coctilis::describe::listfile
