#include "smoke/client.h"

#include <unistd.h>

#include <algorithm>
#include <map>
#include <optional>
#include <set>

#include "base/elf.h"
#include "base/file_watch.h"
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "locate/pc_file.h"

namespace coctilis::smoke {

using model::Verdict;

namespace {

constexpr std::size_t most_headers = 60;
constexpr std::size_t most_symbols = 200;
constexpr double limit_seconds = 60;

std::string name_of(const std::string& path) { return std::filesystem::path(path).filename().string(); }
std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }

bool is_header(const std::string& name) {
  static const std::set<std::string> endings = {".h", ".hh", ".hpp", ".hxx", ".H", ".h++"};
  return endings.contains(std::filesystem::path(name).extension().string());
}

std::vector<std::string> files_below(const std::string& folder) {
  std::vector<std::string> out;
  std::error_code error;
  for (auto it = std::filesystem::recursive_directory_iterator(folder, error);
       !error && it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
    if (it->is_regular_file(error)) out.push_back(it->path().string());
  }
  std::sort(out.begin(), out.end());
  return out;
}

// The first line that tells of an error, without the place where it was tried.
std::string first_error(const std::string& output) {
  for (const auto& line : text::split(output, '\n')) {
    if (const auto at = line.find("error: "); at != std::string::npos) return text::printable_line(line.substr(at + 7));
    if (line.find("undefined reference") != std::string::npos) return text::printable_line(line);
  }
  return text::printable_line(std::string(text::trim(output.substr(0, 200))));
}

// The symbols that a linker found nowhere, each once.
std::vector<std::string> undefined_in(const std::string& output) {
  std::vector<std::string> out;
  for (const auto& line : text::split(output, '\n')) {
    for (const std::string_view mark : {"undefined reference to `", "undefined symbol: ", "undefined reference to '"}) {
      const auto at = line.find(mark);
      if (at == std::string::npos) continue;
      std::string name = line.substr(at + mark.size());
      if (mark.back() != ' ') name = name.substr(0, name.find_last_of('\''));
      name = text::printable_line(name);
      if (std::find(out.begin(), out.end(), name) == out.end()) out.push_back(std::move(name));
      break;
    }
  }
  return out;
}

std::string shown(std::vector<std::string> names) {
  const auto all = names.size();
  if (all > 5) names.resize(5);
  return text::join(names, ", ") + (all > 5 ? " and " + std::to_string(all - 5) + " more" : "");
}

class Client {
 public:
  Client(const InstalledLibrary& library, const model::Toolchain& toolchain, Runner& runner,
         const std::vector<std::string>& prefixes, unsigned jobs)
      : library_(library), toolchain_(toolchain), runner_(runner), prefixes_(prefixes), jobs_(std::max(1U, jobs)) {}

  ClientSeen run() {
    out_.files = {library_.target->output, library_.file};
    find_headers();
    find_pc();
    choose_language();
    if (compiler_.path.empty()) {
      out_.judgement = {Verdict::skipped, "there is no compiler of " + language_ + " in the tool chain"};
      return std::move(out_);
    }
    if (pc_) {
      attempt_by_pc();
      if (out_.judgement.verdict == Verdict::passed || interrupted_by != 0) return std::move(out_);
      // Whoever knows better can use it all the same.
      const Judgement by_pc = std::exchange(out_.judgement, {});
      out_.remarks.clear();
      out_.remarks.push_back("not by " + name_of(pc_->path) + ": " + by_pc.reason +
                             (by_pc.cause.empty() ? "" : " (" + by_pc.cause + ")"));
      pc_.reset();
    }
    attempt_without_pc();
    return std::move(out_);
  }

 private:
  void fail(const std::string& reason, const std::string& cause, const std::string& remedy,
            std::vector<std::string> evidence = {}) {
    out_.judgement = {Verdict::failed, reason};
    out_.judgement.cause = cause;
    out_.judgement.remedy = remedy;
    out_.judgement.evidence = std::move(evidence);
  }

  // ---- how it is used ----------------------------------------------------------------------------------------------
  void find_headers() {
    for (const auto& path : files_below(library_.prefix + "/include")) {
      out_.files.push_back(path);
      if (is_header(path)) headers_.push_back(path);
    }
    std::stable_sort(headers_.begin(), headers_.end(),
                     [&](const auto& a, const auto& b) { return bears_name(a) > bears_name(b); });
    if (headers_.size() > most_headers) {
      left_ = headers_.size() - most_headers;
      headers_.resize(most_headers);
    }
  }

  [[nodiscard]] bool bears_name(const std::string& header) const {
    const std::string stem = text::lower(std::filesystem::path(header).stem().string());
    const std::string name = text::lower(library_.name);
    return stem == name || "lib" + stem == name || stem == "lib" + name;
  }

  // The .pc file that was installed for the library.
  void find_pc() {
    for (const auto& path : files_below(library_.prefix)) {
      if (!path.ends_with(".pc")) continue;
      out_.files.push_back(path);
      const auto parsed = locate::parse_pc(files::read(path).value_or(""), path);
      if (!parsed || pc_) continue;
      const auto& links = parsed->link_flags;
      if (std::find(links.begin(), links.end(), "-l" + library_.name) != links.end()) pc_ = *parsed;
    }
  }

  void attempt_by_pc() {
    if (use_pc(*pc_) && include_in_some_language() && link()) start();
  }

  // By all that it was itself compiled with.
  void attempt_without_pc() {
    compile_ = {"-I" + library_.prefix + "/include"};
    link_ = {library_.file};
    const auto& plan = runner_.plan();
    for (const auto* list : {&library_.target->include_folders, &library_.target->system_include_folders}) {
      for (const auto& folder : *list) {
        if (!files::is_below(folder, plan.tree) && !files::is_below(folder, plan.kiln))
          compile_.push_back("-I" + folder);
      }
    }
    for (const auto& definition : library_.target->definitions) compile_.push_back("-D" + definition);
    if (include_in_some_language() && link()) start();
  }

  bool use_pc(const locate::PcFile& file) {
    std::vector<std::string> prefixes = {library_.prefix};
    prefixes.insert(prefixes.end(), prefixes_.begin(), prefixes_.end());
    auto search = locate::pc_search(prefixes, toolchain_.machine, {});
    search.folders.insert(search.folders.begin(), folder_of(file.path));
    const auto module = locate::find_pc({file.module, {}, {}}, search, !library_.is_shared);
    if (!module.problem.empty()) {
      fail(module.problem, "it requires what is not to be had, or not in this version", {});
      return false;
    }
    // It may name the place that it is meant for; what is tried lies here.
    const auto it = file.variables.find("prefix");
    const std::string meant = it == file.variables.end() ? std::string{} : it->second;
    const auto here = [&](const std::string& option, const std::string& path) {
      const bool moved = !meant.empty() && path.starts_with('/') && files::is_below(path, meant);
      return option + (moved ? library_.prefix + path.substr(meant.size()) : path);
    };
    for (const auto& folder : module.usage.include_folders) compile_.push_back(here("-I", folder));
    compile_.push_back("-I" + library_.prefix + "/include");
    for (const auto& definition : module.usage.definitions) compile_.push_back("-D" + definition);
    for (const auto& option : module.usage.compile_options) compile_.push_back(option);
    for (const auto& folder : module.usage.link_folders) link_.push_back(here("-L", folder));
    link_.push_back("-L" + folder_of(library_.file));
    for (const auto& item : module.usage.link_items) {
      // Of two forms of one name the linker would take the shared one.
      link_.push_back(item == "-l" + library_.name ? library_.file : here("", item));
    }
    return true;
  }

  void choose_language() {
    bool plus = !headers_.empty() && std::none_of(headers_.begin(), headers_.end(),
                                                  [](const auto& header) { return header.ends_with(".h"); });
    const auto& plan = runner_.plan();
    for (const auto index : library_.target->steps) {
      if (index < plan.steps.size() && plan.steps[index].language == "C++") plus = true;
    }
    language_ = plus ? "C++" : "C";
    compiler_ = toolchain_.compiler(language_);
    for (const auto& option : library_.target->compile_options) {
      if (option.starts_with("-std=") && (option.find("++") != std::string::npos) == plus) standard_ = {option};
    }
  }

  // ---- trying it ---------------------------------------------------------------------------------------------------
  Command compile(const std::string& source, std::vector<std::string> more) {
    Command command;
    command.argv = {compiler_.path};
    const auto add = [&](const std::vector<std::string>& words) {
      command.argv.insert(command.argv.end(), words.begin(), words.end());
    };
    add(toolchain_.options);
    add(standard_);
    add(compile_);
    command.argv.insert(command.argv.end(),
                        {"-fPIC", "-w", "-x", language_ == "C" ? "c" : "c++", source, "-x", "none"});
    command.argv.insert(command.argv.end(), more.begin(), more.end());
    command.folder = scratch_.path().string();
    command.environment["LC_ALL"] = "C.UTF-8";
    command.writable = runner_.writable_with(command.folder);
    command.watch = WatchFor::opening;
    return command;
  }

  void take_files(const Observation& seen) {
    out_.watched = out_.watched && seen.ended.watched;
    for (const auto& path : seen.ended.files.read) {
      // None of the attempt itself.
      if (!files::is_below(path, scratch_.path().string()) && !tells_of_running_system(path))
        out_.files.push_back(path);
    }
  }

  [[nodiscard]] std::string source_with(const std::vector<std::string>& headers) const {
    std::string out;
    for (const auto& header : headers) out += "#include <" + files::below(header, library_.prefix + "/include") + ">\n";
    return out;
  }

  // Headers of C++ may end like those of C, and nobody may have said what the library is written in.
  bool include_in_some_language() {
    if (include_headers()) return true;
    const auto& plus = toolchain_.compiler("C++");
    if (language_ != "C" || !plus.present() || interrupted_by != 0) return false;
    const auto judgement = std::exchange(out_.judgement, {});
    const auto remarks = out_.remarks;
    language_ = "C++";
    compiler_ = plus;
    standard_.clear();
    if (include_headers()) return true;
    out_.judgement = judgement;
    out_.remarks = remarks;
    return false;
  }

  // Each header by itself.
  bool include_headers() {
    struct Running {
      std::size_t header;
      Observing observing;
    };
    std::vector<Running> running;
    std::map<std::size_t, std::string> errors;
    std::size_t next = 0;
    const auto told = out_.remarks.size();
    const auto end_one = [&](Running& one) {
      const Observation seen = one.observing.take();
      take_files(seen);
      if (!seen.ended.good()) errors[one.header] = first_error(seen.ended.output);
    };
    while ((next < headers_.size() && interrupted_by == 0) || !running.empty()) {
      while (next < headers_.size() && running.size() < jobs_ && interrupted_by == 0) {
        const std::string source =
            scratch_.path().string() + "/header" + std::to_string(next) + (language_ == "C" ? ".c" : ".cpp");
        files::write(source, source_with({headers_[next]}));
        Command command = compile(source, {"-fsyntax-only"});
        if (next == 0) out_.command = text::shell_join(command.argv);
        running.push_back({next++, runner_.begin(command, limit_seconds)});
      }
      for (std::size_t i = 0; i < running.size();) {
        if (!running[i].observing.ended()) {
          ++i;
          continue;
        }
        end_one(running[i]);
        running.erase(running.begin() + static_cast<std::ptrdiff_t>(i));
      }
      ::usleep(2000);
    }
    std::optional<std::string> named;
    alone_.clear();
    for (std::size_t i = 0; i < headers_.size(); ++i) {
      const auto it = errors.find(i);
      if (it == errors.end()) {
        alone_.push_back(headers_[i]);
        continue;
      }
      const std::string name = files::below(headers_[i], library_.prefix + "/include");
      out_.remarks.push_back(name + " cannot be included by itself: " + it->second);
      if (bears_name(headers_[i]) && !named) named = name;
    }
    if (interrupted_by != 0) {
      out_.judgement = {Verdict::skipped, "interrupted"};
      return false;
    }
    if (headers_.empty() || (!named && !alone_.empty())) return true;
    if (behind_usual_headers()) return true;
    const std::string what = named ? "its header " + *named : "none of its " + text::count(headers_.size(), "header");
    fail(what + (named ? " cannot be included by itself" : " can be included by itself"),
         "it uses what it does not include, or what users are not told of",
         pc_ ? "include what it uses, or name it in Requires of " + name_of(pc_->path)
             : "include what it uses; a .pc file with Requires tells users what else they need",
         {out_.remarks.begin() + static_cast<std::ptrdiff_t>(told), out_.remarks.end()});
    out_.remarks.resize(told);
    return false;
  }

  // Many headers of C count on those of the language that everybody includes.
  bool behind_usual_headers() {
    usual_ = language_ == "C" ? "#include <stddef.h>\n#include <stdint.h>\n#include <stdio.h>\n#include <stdlib.h>\n"
                                "#include <string.h>\n#include <sys/types.h>\n"
                              : "#include <cstddef>\n#include <cstdint>\n#include <cstdio>\n#include <cstdlib>\n"
                                "#include <memory>\n#include <string>\n#include <vector>\n";
    const std::string source = scratch_.path().string() + (language_ == "C" ? "/usual.c" : "/usual.cpp");
    for (const auto& header : headers_) {
      if (!bears_name(header) && headers_.size() > 1) break;
      files::write(source, usual_ + source_with({header}));
      Command command = compile(source, {"-fsyntax-only"});
      const Observation seen = runner_.observe(command, limit_seconds);
      take_files(seen);
      if (!seen.ended.good()) continue;
      alone_.push_back(header);
      return true;
    }
    usual_.clear();
    return false;
  }

  // Functions that headers name and the library defines; of C++, some that it defines.
  [[nodiscard]] std::vector<std::string> symbols() const {
    std::set<std::string> words;
    for (const auto& header : alone_) {
      const std::string content = files::read(header).value_or("");
      std::string word;
      for (const char c : content) {
        if (std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_') {
          word += c;
        } else if (!word.empty()) {
          // What is called, or declared with parameters.
          if (c == '(' || c == ' ') words.insert(word);
          word.clear();
        }
      }
    }
    std::vector<std::string> out;
    for (const auto& symbol : symbols_of(library_.file)) {
      if (!symbol.defined || symbol.weak || out.size() >= most_symbols) continue;
      const bool mangled = symbol.name.starts_with("_ZN") && language_ == "C++";
      const bool plain = symbol.name.find_first_of("@.$") == std::string::npos;
      if (plain && (mangled || words.contains(symbol.name))) out.push_back(symbol.name);
    }
    return out;
  }

  // The command that links a program which includes those headers and takes the addresses of those symbols.
  Command link_with(const std::vector<std::string>& headers, const std::vector<std::string>& symbols) {
    // In the assembler's words: whatever the headers say of their types.
    std::string source = headers.empty() ? std::string{} : usual_ + source_with(headers);
    if (!symbols.empty()) {
      source += "__asm__(\".pushsection .data\\n.balign 8\\n\"\n";
      for (const auto& symbol : symbols) source += "        \".dc.a " + symbol + "\\n\"\n";
      source += "        \".popsection\");\n";
    }
    source += "int main(void) { return 0; }\n";
    const std::string path = scratch_.path().string() + (language_ == "C" ? "/client.c" : "/client.cpp");
    files::write(path, source);
    program_ = scratch_.path().string() + "/client";
    std::vector<std::string> more = {"-o", program_, "-no-pie"};
    more.insert(more.end(), link_.begin(), link_.end());
    // What the library itself needs of others that were installed with it.
    for (const auto& folder : library_folders()) more.push_back("-Wl,-rpath-link," + folder);
    more.insert(more.end(), toolchain_.link_options.begin(), toolchain_.link_options.end());
    return compile(path, more);
  }

  bool link() {
    const auto named = symbols();
    const auto attempt = [&](const std::vector<std::string>& headers) {
      Command command = link_with(headers, named);
      out_.command = text::shell_join(command.argv);
      Observation seen = runner_.observe(command, limit_seconds);
      take_files(seen);
      return seen;
    };
    Observation seen = attempt(alone_);
    symbols_ = named.size();
    out_.output = seen.ended.output;
    if (seen.ended.good()) return true;
    // Code that stands in headers may want others, and headers may not agree with each other: that is not the library.
    if (!alone_.empty() && interrupted_by == 0) {
      const auto wanted = undefined_in(seen.ended.output);
      const Observation without = attempt({});
      if (without.ended.good()) {
        out_.remarks.push_back(wanted.empty()
                                   ? "its headers cannot be included together: " + first_error(seen.ended.output)
                                   : "code in its headers uses what it is not linked with: " + shown(wanted));
        without_headers_ = true;
        out_.output = without.ended.output;
        return true;
      }
      seen = without;
      out_.output = seen.ended.output;
    }
    if (interrupted_by != 0) {
      out_.judgement = {Verdict::skipped, "interrupted"};
      return false;
    }
    const auto missing = undefined_in(seen.ended.output);
    const bool of_its_own = library_.is_shared || pc_.has_value();
    if (missing.empty() || !of_its_own) {
      // What an archive wants nobody says.
      out_.judgement = {Verdict::skipped, missing.empty()
                                              ? "a client of it could not be linked: " + first_error(seen.ended.output)
                                              : "what else users have to link is not said: it wants " + shown(missing)};
      return false;
    }
    if (const std::string user = user_that_defines(missing); library_.is_shared && !user.empty()) {
      out_.judgement = {Verdict::skipped, "who uses it has to define " + shown(missing) + ", as " + user + " does"};
      return false;
    }
    const std::string pc = pc_ ? name_of(pc_->path) : std::string{};
    fail("a client of it cannot be linked: " + shown(missing) + (missing.size() == 1 ? " is" : " are") +
             " nowhere defined",
         library_.is_shared ? "the library uses what it is not linked with"
                            : pc + " does not say what has to be linked with it",
         library_.is_shared ? "link the library with what defines that"
                            : "name it in Libs.private or Requires.private of " + pc);
    return false;
  }

  // A program that was installed with the library, is linked with it, and defines all of these symbols itself: they are
  // what the library asks of its users. Empty when there is none.
  [[nodiscard]] std::string user_that_defines(const std::vector<std::string>& names) const {
    const auto facts = read_elf(library_.file);
    if (!facts || facts->shared_name.empty() || names.empty()) return {};
    const std::string folder = library_.prefix + "/bin";
    for (const auto& program : files::names_in(folder)) {
      const std::string path = folder + "/" + program;
      const auto of = read_elf(path);
      if (of && of->dynamic && lists::contains(of->needed, facts->shared_name) &&
          std::all_of(names.begin(), names.end(), [&](const auto& name) { return symbol_use(path, name).defined; }))
        return program;
    }
    return {};
  }

  // Folders of the libraries that were installed.
  [[nodiscard]] std::vector<std::string> library_folders() const {
    std::vector<std::string> out = {folder_of(library_.file)};
    for (const auto& other : installed_libraries(runner_.plan(), library_.prefix)) {
      if (other.is_shared && std::find(out.begin(), out.end(), folder_of(other.file)) == out.end())
        out.push_back(folder_of(other.file));
    }
    return out;
  }

  void start() {
    std::string said =
        headers_.empty()
            ? "a client links"
            : "a client that includes " +
                  (alone_.size() == headers_.size() && left_ == 0
                       ? text::count(alone_.size(), "header")
                       : std::to_string(alone_.size()) + " of " + text::count(headers_.size() + left_, "header")) +
                  " links";
    if (without_headers_) said = "a client links";
    if (symbols_ > 0) said += " with " + text::count(symbols_, "symbol");
    if (pc_) said += " by " + name_of(pc_->path);
    if (!usual_.empty()) said += " behind the usual headers of " + language_;
    if (const std::string why = runner_.cannot_start(program_); !why.empty()) {
      out_.judgement = {Verdict::passed, said + "; not run: " + why};
      return;
    }
    Command command;
    command.argv = runner_.launched({program_});
    command.folder = scratch_.path().string();
    const char* before = std::getenv("LD_LIBRARY_PATH");
    command.environment["LD_LIBRARY_PATH"] =
        text::join(library_folders(), ":") + (before == nullptr ? std::string{} : ":" + std::string(before));
    command.writable = runner_.writable_with(command.folder);
    command.watch = WatchFor::opening;
    const Observation seen = runner_.observe(command, 10);
    take_files(seen);
    out_.output += seen.ended.output;
    if (seen.ended.good()) {
      out_.judgement = {Verdict::passed, said + " and starts"};
    } else if (interrupted_by != 0) {
      out_.judgement = {Verdict::skipped, "interrupted"};
    } else {
      fail("a client that only links it does not start: " + seen.ended.text(),
           "what the library does when it is loaded fails", "run a program that uses it under a debugger");
    }
  }

  const InstalledLibrary& library_;
  const model::Toolchain& toolchain_;
  Runner& runner_;
  const std::vector<std::string>& prefixes_;
  const unsigned jobs_;
  const files::ScratchFolder scratch_{"client"};
  ClientSeen out_;
  std::vector<std::string> headers_;  // those that bear the library's name first
  std::vector<std::string> alone_;    // those that can be included by themselves
  std::size_t left_ = 0;              // headers that were not tried
  std::optional<locate::PcFile> pc_;  // by which it is tried
  std::string usual_;                 // headers of the language without which its own cannot be included
  std::vector<std::string> compile_;
  std::vector<std::string> link_;
  std::vector<std::string> standard_;
  std::string language_;
  model::Compiler compiler_;
  std::string program_;
  std::size_t symbols_ = 0;
  bool without_headers_ = false;  // it could only be linked so
};

}  // namespace

namespace {

// "clay" of libclay.so.2, as after -l.
std::string link_name_of(const std::string& path, bool shared) {
  std::string name = name_of(path);
  if (name.starts_with("lib")) name.erase(0, 3);
  if (const auto at = name.find(shared ? ".so" : ".a"); at != std::string::npos) name.resize(at);
  return name;
}

// The folder that a library was installed below, with its headers: the nearest that has a folder "include".
std::string prefix_with(const std::string& file, const std::string& top) {
  std::string folder = folder_of(folder_of(file));
  for (std::string at = folder; files::is_below(at, top); at = folder_of(at)) {
    if (files::is_folder(at + "/include")) return at;
  }
  return folder;
}

// Whether others link with it. What has neither the beginning that linkers look for nor a name of its own is loaded by
// a program, which has what it leaves undefined.
bool is_to_be_linked_with(const std::string& path, bool shared) {
  if (!shared || name_of(path).starts_with("lib")) return true;
  const auto facts = read_elf(path);
  return facts && !facts->shared_name.empty();
}

}  // namespace

std::vector<InstalledLibrary> installed_libraries(const model::Plan& plan, const std::string& prefix) {
  std::vector<InstalledLibrary> out;
  std::map<std::string, std::string> by_name;  // of what recipes have installed
  std::set<std::string> seen;                  // one file under several names, as libclay.so and libclay.so.2, is one
  if (plan.install.empty() && !prefix.empty()) {
    for (const auto& path : files_below(prefix)) by_name.emplace(name_of(path), path);
  }
  for (const auto& target : plan.targets) {
    const bool shared = target.kind == model::TargetKind::shared_library;
    if ((!shared && target.kind != model::TargetKind::static_library) || target.output.empty()) continue;
    if (plan.install.empty()) {
      const auto it = by_name.find(name_of(target.output));
      if (it == by_name.end() || !target.installed || !is_to_be_linked_with(it->second, shared)) continue;
      std::error_code error;
      const auto real = std::filesystem::canonical(it->second, error).string();
      if (!error && !seen.insert(real).second) continue;
      out.push_back({&target, it->second, prefix_with(it->second, prefix), link_name_of(it->second, shared), shared});
      continue;
    }
    for (const auto& item : plan.install) {
      if (item.kind != model::InstallItem::Kind::file || item.to.starts_with('/') || item.from != target.output)
        continue;
      // The name for linking is the shortest: libclay.so of libclay.so.2 and libclay.so.2.1.
      std::string name = target.output;
      for (const auto& other : target.names) {
        if (name_of(other).size() < name_of(name).size()) name = other;
      }
      out.push_back({&target, files::absolute(item.to, prefix), prefix, link_name_of(name, shared), shared});
      break;
    }
  }
  return out;
}

ClientSeen try_client(const InstalledLibrary& library, const model::Toolchain& toolchain, Runner& runner,
                      const std::vector<std::string>& prefixes, unsigned jobs) {
  return Client(library, toolchain, runner, prefixes, jobs).run();
}

}  // namespace coctilis::smoke
