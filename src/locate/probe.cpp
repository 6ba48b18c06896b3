#include "locate/probe.h"

#include "base/files.h"
#include "base/process.h"

namespace coctilis::locate {

Answer ask(const Probe& probe, const model::Toolchain& toolchain) {
  Answer answer;
  const auto& compiler = toolchain.compiler(probe.language);
  if (!compiler.present()) {
    answer.output = "no " + probe.language + " compiler";
    return answer;
  }
  const files::ScratchFolder scratch("probe");
  const std::string folder = scratch.path().string();
  const std::string source = folder + (probe.language == "C" ? "/probe.c" : "/probe.cpp");
  files::write(source, probe.source);
  Command command;
  command.folder = folder;
  command.limit_seconds = 60;
  command.environment = {{"LC_ALL", "C"}};
  command.argv = {compiler.path};
  command.argv.insert(command.argv.end(), probe.compile_options.begin(), probe.compile_options.end());
  const bool link = probe.how != Probe::How::compile;
  if (!link) command.argv.emplace_back("-c");
  command.argv.insert(command.argv.end(), {"-o", link ? "probe" : "probe.o", source});
  if (link) command.argv.insert(command.argv.end(), probe.link_options.begin(), probe.link_options.end());
  const Ended made = run(command);
  answer.output = made.output;
  answer.compiled = made.good();
  if (!answer.compiled) return answer;
  answer.object = files::read(folder + (link ? "/probe" : "/probe.o")).value_or("");
  if (probe.how == Probe::How::run) {
    Command start;
    start.argv = {folder + "/probe"};
    start.folder = folder;
    start.limit_seconds = 20;
    const Ended ended = run(start);
    answer.ran = ended.how == Ended::How::exited;
    answer.exit = ended.code;
    answer.run_output = ended.output;
  }
  return answer;
}

}  // namespace coctilis::locate
