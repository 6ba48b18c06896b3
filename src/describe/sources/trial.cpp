#include "describe/sources/trial.h"

#include <re2/re2.h>

#include <algorithm>
#include <map>
#include <optional>

#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"

namespace coctilis::describe::sources {

namespace {

// What stands for an object in the kept answers: a letter and a name a line, then the files that were read.
std::string text_of(const Trial& trial) {
  std::string out;
  for (const auto& option : trial.options) out += "o" + option + "\n";
  for (const auto& symbol : trial.symbols) {
    const int bits = (symbol.defined ? 1 : 0) + (symbol.weak ? 2 : 0) + (symbol.shared ? 4 : 0);
    out += std::string(1, static_cast<char>('0' + bits)) + symbol.name + "\n";
  }
  return out;
}

Trial trial_of(const std::string& text) {
  Trial out;
  out.compiled = true;
  for (const auto& line : text::split(text, '\n')) {
    if (line.empty()) continue;
    if (line[0] == 'o') {
      out.options.push_back(line.substr(1));
    } else {
      const int bits = line[0] - '0';
      out.symbols.push_back({line.substr(1), (bits & 1) != 0, (bits & 2) != 0, (bits & 4) != 0});
    }
  }
  return out;
}

// The files that a compiler noted as read (rules for make: "object: file file \").
std::vector<std::string> read_files(const std::string& path) {
  std::string content = files::read(path).value_or("");
  content = text::replace_all(content, "\\\n", " ");
  const auto colon = content.find(": ");
  if (colon == std::string::npos) return {};
  const auto end = content.find('\n', colon);
  std::string list = content.substr(colon + 2, end == std::string::npos ? end : end - colon - 2);
  list = text::replace_all(list, "\\ ", "\x01");
  auto out = text::words(list);
  for (auto& file : out) file = text::replace_all(text::replace_all(file, "\x01", " "), "$$", "$");
  return out;
}

class Trials {
 public:
  Trials(const std::vector<TrialSource>& sources, const model::Toolchain& toolchain, unsigned jobs, Answers* answers,
         const std::function<void(std::size_t)>& progress)
      : sources_(sources),
        toolchain_(toolchain),
        jobs_(std::max(1U, jobs)),
        answers_(answers),
        progress_(progress),
        scratch_("trial"),
        results_(sources.size()) {
    for (std::size_t i = 0; i < sources_.size(); ++i) {
      for (const auto& module : sources_[i].defines_modules) {
        auto& all = definers_[module];
        if (all.empty() || all.back() != i) all.push_back(i);
      }
    }
    for (std::size_t i = 0; i < sources_.size(); ++i) {
      // Compilers complain of folders that are not there.
      if (sources_[i].language == "Fortran") files::make_folder(module_folder(i));
    }
  }

  std::vector<Trial> run() {
    for (const auto& wave : waves()) compile(wave);
    return std::move(results_);
  }

 private:
  [[nodiscard]] const model::Compiler& compiler(const TrialSource& source) const {
    return toolchain_.compiler(source.language == "Assembler" ? "C" : source.language);
  }

  // Those that define modules come before those that use them.
  [[nodiscard]] std::vector<std::vector<std::size_t>> waves() const {
    std::vector<int> level(sources_.size(), -1);
    const std::function<int(std::size_t, int)> level_of = [&](std::size_t i, int depth) -> int {
      if (level[i] >= 0 || depth > 2000) return std::max(level[i], 0);
      level[i] = 0;
      int mine = 0;
      for (const auto& module : sources_[i].uses_modules) {
        const auto other = definer(module, i);
        if (other && *other != i) mine = std::max(mine, level_of(*other, depth + 1) + 1);
      }
      return level[i] = mine;
    };
    std::vector<std::vector<std::size_t>> out;
    for (std::size_t i = 0; i < sources_.size(); ++i) {
      const auto l = static_cast<std::size_t>(level_of(i, 0));
      if (out.size() <= l) out.resize(l + 1);
      out[l].push_back(i);
    }
    return out;
  }

  // Of several sources that define a module, programs with one of the same name each, say: the one that lies nearest to
  // the source that uses it.
  [[nodiscard]] std::optional<std::size_t> definer(const std::string& module, std::size_t user) const {
    const auto it = definers_.find(module);
    if (it == definers_.end()) return std::nullopt;
    const auto shared = [&](std::size_t other) {
      const auto& one = sources_[user].path;
      const auto& two = sources_[other].path;
      const auto parted = std::mismatch(one.begin(), one.end(), two.begin(), two.end()).first;
      return std::count(one.begin(), parted, '/');
    };
    return *std::max_element(it->second.begin(), it->second.end(),
                             [&](std::size_t a, std::size_t b) { return shared(a) < shared(b); });
  }

  // Where a source writes its modules: those of one name in two sources must not get into each other's way.
  [[nodiscard]] std::string module_folder(std::size_t i) const {
    const bool apart = std::any_of(sources_[i].defines_modules.begin(), sources_[i].defines_modules.end(),
                                   [&](const auto& module) { return definers_.at(module).front() != i; });
    return scratch_.path().string() + "/modules" + (apart ? "-" + std::to_string(i) : std::string{});
  }

  // What a source of Fortran is compiled with to write modules and to find those of others, nearest definers first.
  [[nodiscard]] std::vector<std::string> module_options(std::size_t i) const {
    std::vector<std::string> out = {"-J", module_folder(i)};
    for (const auto& module : sources_[i].uses_modules) {
      const auto other = definer(module, i);
      const auto folder = other ? module_folder(*other) : std::string{};
      if (!folder.empty() && std::find(out.begin(), out.end(), "-I" + folder) == out.end())
        out.push_back("-I" + folder);
    }
    out.push_back("-I" + scratch_.path().string() + "/modules");
    return out;
  }

  [[nodiscard]] std::string object(std::size_t i) const {
    return scratch_.path().string() + "/" + std::to_string(i) + ".o";
  }

  [[nodiscard]] Command command(std::size_t i, const std::vector<std::string>& more) const {
    const auto& source = sources_[i];
    Command out;
    auto& argv = out.argv;
    argv = {compiler(source).path};
    const auto add = [&](const std::vector<std::string>& words) {
      argv.insert(argv.end(), words.begin(), words.end());
    };
    add(toolchain_.options);
    add({"-O0"});
    if (source.trial_options.empty()) add({"-w"});
    add(source.trial_options);
    add(source.options);
    add(more);
    if (source.language == "Fortran")
      add(module_options(i));
    else
      add({"-MD", "-MF", object(i) + ".d"});
    add({"-o", object(i), "-c", source.path});
    out.folder = scratch_.path().string();
    out.writable = {scratch_.path().string()};
    out.environment["LC_ALL"] = "C.UTF-8";
    out.limit_seconds = 300;
    out.output_limit = 64U << 10U;
    return out;
  }

  [[nodiscard]] std::string question(std::size_t i) const {
    const auto& source = sources_[i];
    return "trial 1\n" + compiler(source).identity + "\n" + text::join(toolchain_.options, " ") + "\n" +
           text::join(source.options, " ") + "\n" + text::join(source.further, " ") + "\n" + source.path;
  }

  // Under which what it had when it last compiled is kept.
  [[nodiscard]] static std::string last_question(const std::string& path) { return "trial that compiled 1\n" + path; }

  // Only what the compiler notes is known to have been read; with modules that is not all.
  [[nodiscard]] bool can_be_kept(std::size_t i) const {
    return answers_ != nullptr && sources_[i].language != "Fortran";
  }

  void compile(const std::vector<std::size_t>& wave) {
    const observe::Apart apart;
    std::vector<std::size_t> open;
    for (const auto i : wave) {
      if (!compiler(sources_[i]).present()) {
        results_[i].failure = "there is no compiler for " + sources_[i].language;
        results_[i].no_compiler = true;
        done();
        continue;
      }
      if (const auto kept = can_be_kept(i) ? answers_->get(question(i)) : std::nullopt) {
        results_[i] = trial_of(*kept);
        done();
      } else {
        open.push_back(i);
      }
    }
    // Tens of thousands of objects need not lie there at once.
    constexpr std::size_t at_once = 64;
    std::vector<std::string> more;
    for (std::size_t round = 0; !open.empty(); ++round) {
      std::vector<std::size_t> failed;
      for (std::size_t begin = 0; begin < open.size() && interrupted_by == 0; begin += at_once) {
        const std::vector<std::size_t> part(
            open.begin() + static_cast<std::ptrdiff_t>(begin),
            open.begin() + static_cast<std::ptrdiff_t>(std::min(open.size(), begin + at_once)));
        std::vector<Command> commands;
        for (const auto i : part) commands.push_back(command(i, further(i, round)));
        const auto ended = run_all(commands, jobs_);
        for (std::size_t k = 0; k < part.size(); ++k) {
          take(part[k], ended[k], round);
          const bool again = !results_[part[k]].compiled && round < sources_[part[k]].further.size() &&
                             results_[part[k]].missing_header.empty();
          if (again) {
            failed.push_back(part[k]);
            continue;
          }
          if (!results_[part[k]].compiled) remember(part[k]);
          done();
        }
      }
      if (interrupted_by != 0) throw Fault({Exit::description, {}, "interrupted", {}, "run it again", {}});
      open = std::move(failed);
    }
  }

  // The first round is without any; each later one has one more option instead of the one before.
  [[nodiscard]] std::vector<std::string> further(std::size_t i, std::size_t round) const {
    if (round == 0 || round > sources_[i].further.size()) return {};
    return text::words(sources_[i].further[round - 1]);
  }

  void take(std::size_t i, const Ended& ended, std::size_t round) {
    auto& result = results_[i];
    if (ended.good()) {
      result = {};
      result.compiled = true;
      result.options = further(i, round);
      result.symbols = symbols_of(object(i));
      if (answers_ != nullptr) answers_->put(last_question(sources_[i].path), text_of(result), {});
      if (can_be_kept(i)) {
        std::vector<Watched> watched;
        for (const auto& file : read_files(object(i) + ".d"))
          watched.push_back({files::absolute(file, scratch_.path()), false});
        for (const auto& word : sources_[i].options) {
          // A header that comes to lie in a folder before the one that was taken would be another answer.
          if (word.starts_with("-I")) watched.push_back({word.substr(2), true});
        }
        if (watched.size() > 0) answers_->put(question(i), text_of(result), watched);
      }
    } else if (round == 0) {
      const std::string output = text::printable(ended.output);
      static const RE2 error(R"((?m)^([^\n]*(?:\berror\b|Error:)[^\n]*)$)");
      static const RE2 missing(R"((?m)fatal error: '?([^\s':]+)'?(?:: No such file or directory| file not found))");
      static const RE2 missing_module(R"(Cannot open module file [‘'"]([^’'"\n]+)\.mod)");
      if (!RE2::PartialMatch(output, error, &result.failure))
        result.failure = output.empty() ? ended.text() : text::clip(output.substr(0, output.find('\n')), 200);
      RE2::PartialMatch(output, missing, &result.missing_header);
      if (RE2::PartialMatch(output, missing_module, &result.missing_module))
        result.failure = "no source that compiles defines the module '" + result.missing_module + "'";
    }
    std::error_code gone;
    std::filesystem::remove(object(i), gone);
    std::filesystem::remove(object(i) + ".d", gone);
  }

  // One that compiled before is one that somebody is about to change.
  void remember(std::size_t i) {
    const auto kept = answers_ != nullptr ? answers_->get(last_question(sources_[i].path)) : std::nullopt;
    if (!kept) return;
    auto before = trial_of(*kept);
    results_[i].symbols = std::move(before.symbols);
    results_[i].options = std::move(before.options);
  }

  void done() { progress_(++done_); }

  const std::vector<TrialSource>& sources_;
  const model::Toolchain& toolchain_;
  const unsigned jobs_;
  Answers* answers_;
  const std::function<void(std::size_t)>& progress_;
  files::ScratchFolder scratch_;
  std::map<std::string, std::vector<std::size_t>> definers_;  // of modules: the sources, in their order
  std::vector<Trial> results_;
  std::size_t done_ = 0;
};

}  // namespace

std::vector<Trial> compile_on_trial(const std::vector<TrialSource>& sources, const model::Toolchain& toolchain,
                                    unsigned jobs, Answers* answers, const std::function<void(std::size_t)>& progress) {
  return Trials(sources, toolchain, jobs, answers, progress).run();
}

}  // namespace coctilis::describe::sources
