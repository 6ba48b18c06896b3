#include "locate/probe.h"

#include <fmt/format.h>
#include <re2/re2.h>

#include "base/dependency_file.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"

namespace coctilis::locate {

namespace {

std::string source_name(const Probe& probe) {
  return probe.language == "C" ? "probe.c" : probe.language == "Fortran" ? "probe.F90" : "probe.cpp";
}

std::string pack(const Answer& answer) {
  return fmt::format("{} {} {} {} {}\n", answer.compiled ? 1 : 0, answer.ran ? 1 : 0, answer.exit, answer.output.size(),
                     answer.run_output.size()) +
         answer.output + answer.run_output + answer.object;
}

std::optional<Answer> unpack(const std::string& packed) {
  const auto end = packed.find('\n');
  const auto numbers = text::words(packed.substr(0, end));
  if (end == std::string::npos || numbers.size() != 5) return std::nullopt;
  Answer answer;
  answer.compiled = numbers[0] == "1";
  answer.ran = numbers[1] == "1";
  answer.exit = std::atoi(numbers[2].c_str());
  const std::size_t output = std::strtoul(numbers[3].c_str(), nullptr, 10);
  const std::size_t run_output = std::strtoul(numbers[4].c_str(), nullptr, 10);
  if (packed.size() < end + 1 + output + run_output) return std::nullopt;
  answer.output = packed.substr(end + 1, output);
  answer.run_output = packed.substr(end + 1 + output, run_output);
  answer.object = packed.substr(end + 1 + output + run_output);
  answer.kept = true;
  return answer;
}

// What the answer hangs on: headers read; where headers and libraries were looked for, so that new ones are noticed.
std::vector<Watched> watched_by(const Probe& probe, const model::Compiler& compiler, const std::string& dependency_file,
                                const std::string& scratch) {
  std::vector<Watched> out;
  std::vector<std::string> includes = compiler.include_folders;
  std::vector<std::string> links;
  const auto& options = probe.compile_options;
  for (std::size_t i = 0; i < options.size(); ++i) {
    for (const char* option : {"-I", "-isystem", "-iquote", "-idirafter"}) {
      if (options[i] == option && i + 1 < options.size())
        includes.push_back(options[i + 1]);
      else if (options[i].starts_with(option) && options[i].size() > std::string_view(option).size())
        includes.push_back(options[i].substr(std::string_view(option).size()));
    }
  }
  // The folders that headers were asked for in: "a/b.h" may appear in a folder "a" that is there already.
  std::set<std::string> parts = {""};
  static const RE2 include(R"(#\s*include\s*[<"]([^>"]+)[>"])");
  re2::StringPiece rest(probe.source);
  std::string header;
  while (RE2::FindAndConsume(&rest, include, &header)) {
    if (const auto slash = header.rfind('/'); slash != std::string::npos) parts.insert("/" + header.substr(0, slash));
  }
  for (const auto& folder : includes) {
    for (const auto& part : parts) out.push_back({files::absolute(folder, scratch) + part, true});
  }
  for (const auto& header_file : parse_dependency_file(dependency_file)) {
    const std::string path = files::absolute(header_file, scratch);
    if (!files::is_below(path, scratch)) out.push_back({path, false});
  }
  if (probe.how != Probe::How::compile) {
    links = compiler.link_folders;
    for (const auto& item : probe.link_options) {
      if (item.starts_with("-L"))
        links.push_back(files::absolute(item.substr(2), scratch));
      else if (item.starts_with('/'))
        out.push_back({item, false});
    }
    for (const auto& folder : links) out.push_back({folder, true});
  }
  return out;
}

}  // namespace

std::string question_of(const Probe& probe, const model::Toolchain& toolchain) {
  const auto& compiler = toolchain.compiler(probe.language);
  const char* libraries = std::getenv("LIBRARY_PATH");
  std::string more;
  for (const auto& [name, text] : probe.more_sources) more += "\n" + name + "\n" + text;
  for (const auto& argument : probe.arguments) more += "\nargument " + argument;
  if (!probe.run_folder.empty()) more += "\nin " + probe.run_folder;
  if (probe.wants_result) more += "\nwith its result";
  return fmt::format("probe 3\n{}\n{}\n{}\n{}\n{}\n{}\n{}\n{}\n{}\n{}", static_cast<int>(probe.how),
                     text::join(toolchain.options, " ") + " " + text::join(toolchain.link_options, " "), compiler.path,
                     compiler.identity, text::join(compiler.include_folders, "\n"),
                     text::join(compiler.link_folders, "\n"), libraries == nullptr ? "" : libraries,
                     text::join(probe.compile_options, "\n"), text::join(probe.link_options, "\n"), probe.source) +
         more;
}

std::vector<std::string> command_of(const Probe& probe, const model::Toolchain& toolchain) {
  std::vector<std::string> out = {toolchain.compiler(probe.language).path};
  const bool link = probe.how != Probe::How::compile;
  out.insert(out.end(), toolchain.options.begin(), toolchain.options.end());
  if (link) out.insert(out.end(), toolchain.link_options.begin(), toolchain.link_options.end());
  out.insert(out.end(), probe.compile_options.begin(), probe.compile_options.end());
  if (!link) out.emplace_back("-c");
  out.insert(out.end(), {"-MD", "-MF", "probe.dep", "-o", link ? "probe" : "probe.o", source_name(probe)});
  for (const auto& [name, text] : probe.more_sources) out.push_back(name);
  if (link) out.insert(out.end(), probe.link_options.begin(), probe.link_options.end());
  return out;
}

std::optional<Answer> kept_answer(const Probe& probe, const model::Toolchain& toolchain, Answers& answers) {
  const auto kept = answers.get(question_of(probe, toolchain));
  return kept ? unpack(*kept) : std::nullopt;
}

Answer ask(const Probe& probe, const model::Toolchain& toolchain, Answers* answers) {
  Answer answer;
  const auto& compiler = toolchain.compiler(probe.language);
  if (!compiler.present()) {
    answer.output = "no " + probe.language + " compiler";
    return answer;
  }
  // Of several files only the last one's headers would be known.
  if (!probe.more_sources.empty()) answers = nullptr;
  if (answers != nullptr) {
    if (auto known = kept_answer(probe, toolchain, *answers)) return *known;
  }
  const observe::Apart apart;  // what the answer hangs on is kept with it
  const files::ScratchFolder scratch("probe");
  const std::string folder = scratch.path().string();
  files::write(folder + "/" + source_name(probe), probe.source);
  for (const auto& [name, text] : probe.more_sources) files::write(folder + "/" + name, text);
  Command command;
  command.folder = folder;
  command.limit_seconds = 60;
  command.environment = {{"LC_ALL", "C"}};
  command.argv = command_of(probe, toolchain);
  // Its options are the description's words, and a compiler does what they say.
  command.writable = {folder};
  const Ended made = run(command);
  answer.output = text::replace_all(made.output, folder + "/", "");
  answer.compiled = made.good();
  bool keep = made.how == Ended::How::exited;
  if (answer.compiled && (probe.how == Probe::How::compile || probe.wants_result))
    answer.object = files::read(folder + (probe.how == Probe::How::compile ? "/probe.o" : "/probe")).value_or("");
  if (answer.compiled && probe.how == Probe::How::run) {
    Command start;
    start.argv = toolchain.launcher;
    start.argv.push_back(folder + "/probe");
    start.argv.insert(start.argv.end(), probe.arguments.begin(), probe.arguments.end());
    start.folder = probe.run_folder.empty() ? folder : probe.run_folder;
    start.limit_seconds = 20;
    start.writable = {folder};
    if (!probe.run_folder.empty()) start.writable.push_back(probe.run_folder);
    // Without an emulator a program of another machine does not run: the answer is that it did not.
    const Ended ended = toolchain.foreign && toolchain.launcher.empty() ? Ended{} : run(start);
    answer.ran = ended.how == Ended::How::exited;
    answer.exit = ended.code;
    answer.run_output = ended.output;
    keep = keep && answer.ran;
  }
  if (answers != nullptr && keep)
    answers->put(question_of(probe, toolchain), pack(answer),
                 watched_by(probe, compiler, files::read(folder + "/probe.dep").value_or(""), folder));
  return answer;
}

}  // namespace coctilis::locate
