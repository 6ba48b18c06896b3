// Asking compilers what they are. One question a front ("preprocess this, and say what you do") tells version, machine,
// macros, include folders and C library; one a tool chain tells where it looks for programs and libraries. All else is
// looked up in those folders.
#include "locate/toolchain.h"

#include <fmt/format.h>
#include <re2/re2.h>

#include <thread>

#include "base/confine.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/machine.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "locate/toolchain_search.h"
#include "model/environment_variables.h"

namespace coctilis::locate {

namespace {

// Compilers print what is parsed here in the language of the user otherwise.
Command ask(std::vector<std::string> argv) {
  Command command;
  command.argv = std::move(argv);
  command.environment = {{"LC_ALL", "C"}, {"LANGUAGE", std::nullopt}};
  command.limit_seconds = 20;
  command.merge_errors = false;
  // What is found in a prefix that the tree's settings name is the tree's as well.
  command.sandboxed = true;
  command.writable = temporary_folders_without({});
  return command;
}

std::string first_line(const std::string& output) {
  return std::string(text::trim(output.substr(0, output.find('\n'))));
}

std::string real_path(const std::string& path) {
  observe::content(path);
  std::error_code error;
  const auto real = std::filesystem::canonical(path, error);
  return error ? path : real.string();
}

// The question's source: the C library's own header says which library it is, where there is one.
const char* const question_source =
    "#if defined(__has_include)\n#if __has_include(<features.h>)\n#include <features.h>\n#endif\n#endif\n";

// Variables that change what compilers answer.
std::string asked_in() {
  std::string out;
  for (const auto& variable : model::environment_variables) {
    if ((variable.roles & model::for_answers) == 0) continue;
    const char* value = std::getenv(variable.name);
    out += std::string("\n") + variable.name + "=" + (value == nullptr ? "" : value);
  }
  return out;
}

// What a front answered: `defines` are the predefined macros, `library` those of the C library.
struct FrontAnswer {
  std::map<std::string, std::string> defines;  // those that are asked for later
  std::string all_defines;                     // the hash of all of them: another set is another compiler
  std::map<std::string, std::string> library;
  std::vector<std::string> include_folders;
  std::vector<std::string> absent_folders;
  std::string machine;
  std::string inner_program;  // what the driver starts to do the work
  std::string resource_folder;
};

// Macros that say something to the stages after this one: of hundreds, a few.
bool telling(std::string_view name) {
  for (const char* start : {"__GNUC", "__clang", "__cplusplus", "__STDC_", "__STRICT_ANSI__", "__SIZEOF_",
                            "__BYTE_ORDER__", "__GLIBC", "__SIZE_TYPE__", "__CHAR_BIT__", "__PIC__", "__PIE__"}) {
    if (name.starts_with(start)) return true;
  }
  return false;
}

FrontAnswer read_front(const std::string& preprocessed, const std::string& told) {
  FrontAnswer out;
  bool predefined = true;
  std::string all;
  for (std::size_t at = 0; at < preprocessed.size();) {
    const std::size_t stop = std::min(preprocessed.find('\n', at), preprocessed.size());
    const std::string_view line(preprocessed.data() + at, stop - at);
    at = stop + 1;
    if (line.starts_with("# ")) {
      const auto quote = line.find('"');
      const auto end = quote == std::string_view::npos ? quote : line.find('"', quote + 1);
      if (end == std::string_view::npos) continue;
      const std::string_view file = line.substr(quote + 1, end - quote - 1);
      predefined = file.empty() || file.front() == '<' || file.ends_with("/stdc-predef.h");
    } else if (line.starts_with("#define ")) {
      if (predefined) all.append(line).push_back('\n');
      const auto blank = line.find(' ', 8);
      const std::string_view name = line.substr(8, blank == std::string_view::npos ? blank : blank - 8);
      if (!telling(name)) continue;
      (predefined ? out.defines : out.library)[std::string(name)] =
          blank == std::string_view::npos ? "" : line.substr(blank + 1);
    } else if (line.starts_with("#all ")) {
      out.all_defines = line.substr(5);
    }
  }
  if (out.all_defines.empty()) out.all_defines = hash_bytes(all).text();
  bool inside = false;
  static const RE2 absent(R"re(ignoring nonexistent directory "(.*)")re");
  static const RE2 inner(R"re( "?(/[^ "]+)"? (?:-cc1 .*|.*-quiet .*))re");
  static const RE2 resource(R"re(.* "?-resource-dir"? "?([^ "]+)"?.*)re");
  std::string found;
  for (const auto& line : text::split(told, '\n')) {
    if (line.starts_with("#include <...>"))
      inside = true;
    else if (line.starts_with("End of search list"))
      inside = false;
    else if (inside && line.starts_with(' '))
      out.include_folders.push_back(files::absolute(text::trim(line)));
    else if (line.starts_with("Target: "))
      out.machine = std::string(text::trim(line.substr(8)));
    else if (line.starts_with("ignoring") && RE2::FullMatch(line, absent, &found))
      out.absent_folders.push_back(files::absolute(found));
    else if (out.inner_program.empty() && line.starts_with(' ') && RE2::FullMatch(line, inner, &found)) {
      out.inner_program = found;
      RE2::FullMatch(line, resource, &out.resource_folder);
    }
  }
  return out;
}

// What is kept of an answer: what read_front takes from it, without the thousands of lines around it. Reading it gives
// the same again.
std::string condensed(const FrontAnswer& front, char divider) {
  std::string out = "#all " + front.all_defines + "\n# 1 \"<built-in>\"\n";
  const auto define = [&](const auto& entry) { out += "#define " + entry.first + " " + entry.second + "\n"; };
  for (const auto& entry : front.defines) define(entry);
  out += "# 1 \"library\"\n";
  for (const auto& entry : front.library) {
    if (entry.first.starts_with("__GLIBC")) define(entry);
  }
  out += divider;
  out += "Target: " + front.machine + "\n";
  if (!front.inner_program.empty())
    out += " \"" + front.inner_program + "\" -cc1 \"-resource-dir\" \"" + front.resource_folder + "\" \n";
  for (const auto& folder : front.absent_folders) out += "ignoring nonexistent directory \"" + folder + "\"\n";
  out += "#include <...> search starts here:\n";
  for (const auto& folder : front.include_folders) out += " " + folder + "\n";
  return out + "End of search list.\n";
}

struct FolderAnswer {
  std::vector<std::string> programs;
  std::vector<std::string> libraries;
  std::vector<std::string> looked_for;  // libraries, also those that are not there
};

FolderAnswer read_folders(const std::string& output) {
  FolderAnswer out;
  const auto add = [](std::vector<std::string>& list, const std::string& folder) {
    if (std::find(list.begin(), list.end(), folder) == list.end()) list.push_back(folder);
  };
  for (const auto& line : text::split(output, '\n')) {
    const bool programs = line.starts_with("programs: =");
    if (!programs && !line.starts_with("libraries: =")) continue;
    for (const auto& folder : text::split(line.substr(line.find('=') + 1), ':')) {
      if (folder.empty()) continue;
      const std::string normal = files::absolute(folder);
      if (!programs) add(out.looked_for, normal);
      if (files::is_folder(normal)) add(programs ? out.programs : out.libraries, normal);
    }
  }
  return out;
}

std::string standard_of(const std::string& language, const std::map<std::string, std::string>& macros) {
  const std::string name = language == "C" ? "__STDC_VERSION__" : "__cplusplus";
  const auto it = macros.find(name);
  const std::string prefix =
      std::string(macros.contains("__STRICT_ANSI__") ? "c" : "gnu") + (language == "C" ? "" : "++");
  if (language == "Fortran") return {};
  if (it == macros.end()) return language == "C" ? prefix + "90" : "";
  // Month of adoption -> name (ISO/IEC 9899 6.10.8.1, ISO/IEC 14882 [cpp.predefined]); drafts lie in between.
  const long month = std::strtol(it->second.c_str(), nullptr, 10);
  static const std::vector<std::pair<long, const char*>> c = {
      {202000, "23"}, {201710, "17"}, {201112, "11"}, {199901, "99"}, {0, "90"}};
  static const std::vector<std::pair<long, const char*>> cxx = {
      {202400, "26"}, {202100, "23"}, {202000, "20"}, {201703, "17"}, {201402, "14"}, {201103, "11"}, {0, "98"}};
  for (const auto& [from, year] : language == "C" ? c : cxx) {
    if (month >= from) return prefix + year;
  }
  return {};
}

std::string version_of(const std::string& family, const std::map<std::string, std::string>& macros) {
  const char* const parts[2][3] = {{"__GNUC__", "__GNUC_MINOR__", "__GNUC_PATCHLEVEL__"},
                                   {"__clang_major__", "__clang_minor__", "__clang_patchlevel__"}};
  std::vector<std::string> numbers;
  for (const char* part : parts[family == "clang" ? 1 : 0])
    numbers.push_back(macros.contains(part) ? macros.at(part) : "0");
  return text::join(numbers, ".");
}

std::string program_in(const std::vector<std::string>& folders, const std::string& name) {
  for (const auto& folder : folders) {
    if (files::is_program(folder + "/" + name)) return folder + "/" + name;
  }
  return {};
}

// A program that belongs to the tool chain: in its own folders, else on PATH under the machine's name; under the plain
// name only when it works for this machine anyway.
std::string tool_of(const model::Toolchain& chain, const std::vector<std::string>& folders, const std::string& name) {
  std::string path = program_in(folders, name);
  if (path.empty() && chain.foreign) path = find_program(chain.machine + "-" + name);
  if (path.empty() && !chain.foreign) path = find_program(name);
  if (path.empty()) path = find_program(chain.machine + "-" + name);
  return path.empty() ? path : files::absolute(path);
}

void find_companions(model::Toolchain& chain, const FolderAnswer& folders, const std::string& resource_folder) {
  const std::vector<std::pair<const char*, std::string*>> tools = {{"as", &chain.assembler},
                                                                   {"ld", &chain.linker},
                                                                   {"ar", &chain.archiver},
                                                                   {"nm", &chain.symbol_lister},
                                                                   {"ranlib", &chain.archive_indexer},
                                                                   {"strip", &chain.symbol_stripper},
                                                                   {"objcopy", &chain.object_copier}};
  for (const auto& [name, slot] : tools) *slot = tool_of(chain, folders.programs, name);
  for (const char* name : {"bfd", "gold", "lld", "mold"}) {
    std::string path = tool_of(chain, folders.programs, std::string("ld.") + name);
    // These two link for any machine.
    if (path.empty() && (std::string(name) == "lld" || std::string(name) == "mold"))
      path = find_program(std::string("ld.") + name);
    if (!path.empty()) chain.linkers.push_back({name, path});
  }
  const std::string processor = chain.machine.substr(0, chain.machine.find('-'));
  const std::vector<std::pair<const char*, const char*>> sanitizers = {
      {"address", "asan"}, {"undefined", "ubsan"}, {"thread", "tsan"}, {"leak", "lsan"}, {"memory", "msan"}};
  for (const auto& [word, stem] : sanitizers) {
    std::vector<std::string> candidates;
    if (chain.family == "gcc") {
      for (const auto& folder : chain.any().link_folders) {
        for (const char* ending : {".so", ".a"}) candidates.push_back(folder + "/lib" + stem + ending);
      }
    } else {
      const std::string full = std::string(stem) == "ubsan" ? "ubsan_standalone" : stem;
      candidates = {resource_folder + "/lib/linux/libclang_rt." + full + "-" + processor + ".a",
                    resource_folder + "/lib/" + chain.machine + "/libclang_rt." + full + ".a"};
    }
    if (std::any_of(candidates.begin(), candidates.end(), files::is_file)) chain.sanitizers.emplace_back(word);
  }
}

// An emulator that runs programs of another machine under this kernel, and where they find their own libraries.
void find_launcher(model::Toolchain& chain) {
  if (!chain.foreign) return;
  std::string processor = chain.machine.substr(0, chain.machine.find('-'));
  // Names of processors as the emulator has them.
  static const std::map<std::string, std::string> names = {{"powerpc64le", "ppc64le"}, {"powerpc64", "ppc64"},
                                                           {"powerpc", "ppc"},         {"i486", "i386"},
                                                           {"i586", "i386"},           {"i686", "i386"}};
  if (const auto it = names.find(processor); it != names.end()) processor = it->second;
  std::string path = find_program("qemu-" + processor);
  if (path.empty()) path = find_program("qemu-" + processor + "-static");
  if (path.empty()) return;
  chain.launcher = {path};
  // Libraries of the machine lie below its sysroot, or below a folder of its name.
  const std::string own = "/usr/" + chain.machine;
  const std::string& sysroot = chain.any().sysroot;
  const std::string root = !sysroot.empty() && sysroot != "/" ? sysroot : files::is_folder(own) ? own : "";
  if (!root.empty()) chain.launcher.insert(chain.launcher.end(), {"-L", root});
}

constexpr char divider = '\x1e';

// What compilers answered; each is asked once a language, also when the same program has several names.
class Fronts {
 public:
  Fronts(Answers& answers, std::vector<std::string> options)
      : answers_(answers), options_(std::move(options)), surroundings_(asked_in() + "\n" + text::join(options_, " ")) {}

  // Notes that the program is to be asked: for a language, or "folders", or "sysroot".
  void want(const std::string& path, const std::string& what) {
    if (path.empty() || fronts_.contains(key_of(path, what))) return;
    Front front{path, what, "tool chain 2\n" + what + "\n" + path + "\n" + real_path(path) + surroundings_, {}};
    front.answer = answers_.get(front.question);
    fronts_.emplace(key_of(path, what), std::move(front));
  }

  // Asks all whose answers are not known, several at once.
  void ask_all() {
    std::vector<Command> commands;
    std::vector<Front*> asked;
    std::optional<files::ScratchFolder> scratch;
    for (auto& [key, front] : fronts_) {
      if (front.answer) continue;
      if (!scratch) {
        scratch.emplace("ask");
        files::write(scratch->path() / "question.c", question_source);
      }
      commands.push_back(command_for(front, (scratch->path() / "question.c").string()));
      asked.push_back(&front);
    }
    const auto ended = run_all(commands, std::max(2U, std::thread::hardware_concurrency()));
    for (std::size_t i = 0; i < asked.size(); ++i) keep(*asked[i], ended[i]);
  }

  [[nodiscard]] std::string answer_of(const std::string& path, const std::string& what) const {
    const auto it = fronts_.find(key_of(path, what));
    return it == fronts_.end() ? std::string{} : it->second.answer.value_or("");
  }

 private:
  struct Front {
    std::string path;
    std::string language;
    std::string question;
    std::optional<std::string> answer;  // exit state, then what was preprocessed and what was told
  };

  // One driver under several names ("gcc", "gcc-12") answers the same; a wrapper goes by the name it is called by.
  static std::string key_of(const std::string& path, const std::string& what) {
    static const RE2 driver(R"(.*/(?:[A-Za-z0-9_]+-)*(?:gcc|g\+\+|gfortran|clang)(?:-[0-9.]+)?)");
    const std::string real = real_path(path);
    return what + "\n" + (RE2::FullMatch(real, driver) ? real : path);
  }

  [[nodiscard]] Command command_for(const Front& front, const std::string& source) const {
    std::vector<std::string> argv = {front.path};
    argv.insert(argv.end(), options_.begin(), options_.end());
    const auto add = [&](const std::vector<std::string>& words) {
      argv.insert(argv.end(), words.begin(), words.end());
    };
    if (front.language == "folders")
      add({"-print-search-dirs"});
    else if (front.language == "sysroot")
      add({"-print-sysroot"});
    else if (front.language == "Fortran")
      add({"-E", "-dD", "-v", "-cpp", "-x", "f95-cpp-input", "/dev/null"});
    else
      add({"-E", "-dD", "-v", "-x", front.language == "C" ? "c" : "c++", source});
    return ask(std::move(argv));
  }

  void keep(Front& front, const Ended& ended) {
    const bool folders = front.language == "folders" || front.language == "sysroot";
    const auto told = read_front(folders ? std::string{} : ended.output, ended.errors);
    front.answer = !ended.good() ? std::string{} : folders ? ended.output + divider : condensed(told, divider);
    // What did not come to an answer says nothing about the next time: it may have been the machine's fault.
    if (!ended.good()) return;
    std::vector<Watched> watched = {{front.path, false}, {real_path(front.path), false}};
    for (const auto& path : told.absent_folders) watched.push_back({path, false});
    for (const auto& path : told.include_folders) {
      watched.push_back({path, false});
      watched.push_back({path + "/features.h", false});
    }
    if (!told.inner_program.empty()) watched.push_back({told.inner_program, false});
    answers_.put(front.question, *front.answer, watched);
  }

  Answers& answers_;
  const std::vector<std::string> options_;
  const std::string surroundings_;
  std::map<std::string, Front> fronts_;
};

// Makes a compiler of what the front of a language answered; adds what that tells of the whole tool chain.
void add_compiler(model::Toolchain& chain, const std::string& language, const std::string& path,
                  const FrontAnswer& front, const std::vector<std::string>& link_folders, const std::string& sysroot) {
  auto& compiler = chain.compilers[language];
  compiler.language = language;
  compiler.path = path;
  compiler.family = front.defines.contains("__clang__") ? "clang" : "gcc";
  compiler.version = version_of(compiler.family, front.defines);
  // One family names the vendor in its triplet, the other leaves it out; labels and folders use the short one.
  compiler.machine = text::replace_all(front.machine, "-pc-linux-", "-linux-");
  compiler.default_standard = standard_of(language, front.defines);
  compiler.include_folders = front.include_folders;
  compiler.link_folders = link_folders;
  if (files::is_folder(sysroot)) compiler.sysroot = sysroot;
  compiler.macros = front.defines;
  // What it is called by and what it answers; the content of its programs counts besides, wherever it is run.
  compiler.identity = hash_bytes(fmt::format("{} {} {}", real_path(path), compiler.version, front.all_defines)).text();
  compiler.programs = {path};
  if (!front.inner_program.empty() && front.inner_program != path) compiler.programs.push_back(front.inner_program);
  if (front.library.contains("__GLIBC__")) {
    chain.c_library = "glibc";
    chain.c_library_version =
        front.library.at("__GLIBC__") +
        (front.library.contains("__GLIBC_MINOR__") ? "." + front.library.at("__GLIBC_MINOR__") : "");
  }
}

// The tool chain of a set of compilers; without any when none of them answered.
model::Toolchain toolchain_of(const CompilerSet& set, const Fronts& fronts, const std::vector<std::string>& options,
                              const std::string& asked_sysroot) {
  model::Toolchain chain;
  const auto folders = read_folders(fronts.answer_of(set.any(), "folders"));
  const std::string sysroot_answer = fronts.answer_of(set.any(), "sysroot");
  const std::string sysroot =
      asked_sysroot.empty() ? first_line(sysroot_answer.substr(0, sysroot_answer.find(divider))) : asked_sysroot;
  chain.options = options;
  std::string resource_folder;
  for (const auto& [language, path] : set.paths) {
    const std::string answer = fronts.answer_of(path, language);
    const auto middle = answer.find(divider);
    if (middle == std::string::npos) continue;  // something else under a compiler's name
    const auto front = read_front(answer.substr(0, middle), answer.substr(middle + 1));
    add_compiler(chain, language, path, front, folders.libraries, sysroot);
    if (resource_folder.empty()) resource_folder = front.resource_folder;
  }
  const auto& lead = chain.any();
  if (!lead.present()) return chain;
  chain.family = lead.family;
  chain.version = lead.version;
  chain.machine = lead.machine;
  chain.origin = set.origin;
  chain.name = chain.family + " " + chain.version.substr(0, chain.version.find('.'));
  const std::string processor = chain.machine.substr(0, chain.machine.find('-'));
  chain.foreign = processor != host_processor();
  if (chain.c_library.empty() &&
      std::any_of(folders.libraries.begin(), folders.libraries.end(), [&](const std::string& folder) {
        return files::is_file(folder + "/ld-musl-" + processor + ".so.1");
      }))
    chain.c_library = "musl";
  find_companions(chain, folders, resource_folder);
  for (auto& [language, compiler] : chain.compilers) {
    if (!chain.assembler.empty() && compiler.family == "gcc") compiler.programs.push_back(chain.assembler);
  }
  find_launcher(chain);
  return chain;
}

// Which linker it is costs a process; programs are few, so it is asked for all of them.
void find_linker_versions(std::vector<model::Toolchain>& found, Answers& answers) {
  const auto question_of = [](const std::string& linker) { return "linker 1\n" + linker + "\n" + real_path(linker); };
  std::map<std::string, std::string> linkers;
  std::vector<Command> questions;
  for (const auto& chain : found) {
    if (chain.linker.empty() || linkers.contains(chain.linker)) continue;
    const auto version = answers.get(question_of(chain.linker));
    linkers[chain.linker] = version.value_or("");
    if (!version) questions.push_back(ask({chain.linker, "--version"}));
  }
  const auto told = run_all(questions, std::max(2U, std::thread::hardware_concurrency()));
  for (std::size_t i = 0; i < questions.size(); ++i) {
    const std::string& linker = questions[i].argv.front();
    linkers[linker] = told[i].good() ? first_line(told[i].output) : "";
    answers.put(question_of(linker), linkers[linker], {{linker, false}, {real_path(linker), false}});
  }
  for (auto& chain : found) {
    if (!chain.linker.empty()) chain.linker_version = linkers[chain.linker];
  }
}

}  // namespace

std::vector<model::Toolchain> toolchains(const std::vector<std::string>& prefixes, Answers& answers,
                                         const std::string& asked_sysroot) {
  const std::vector<std::string> options =
      asked_sysroot.empty() ? std::vector<std::string>{} : std::vector<std::string>{"--sysroot=" + asked_sysroot};
  const auto sets = compiler_sets(prefixes);
  Fronts fronts(answers, options);
  for (const auto& set : sets) {
    for (const auto& [language, path] : set.paths) fronts.want(path, language);
    fronts.want(set.any(), "folders");
    if (set.family == "gcc") fronts.want(set.any(), "sysroot");
  }
  const observe::Apart apart;  // what the answers hang on is kept with them
  fronts.ask_all();
  std::vector<model::Toolchain> found;
  std::set<std::tuple<std::string, std::string, std::string>> seen;
  const auto real = [](const model::Compiler& compiler) {
    return compiler.present() ? real_path(compiler.path) : std::string{};
  };
  for (const auto& set : sets) {
    auto chain = toolchain_of(set, fronts, options, asked_sysroot);
    // A wrapper may stand for several compilers under one file: what it answers tells them apart.
    const std::string self = chain.family + chain.version + chain.machine;
    if (chain.any().present() && seen.insert({real(chain.compiler("C")), real(chain.compiler("C++")), self}).second)
      found.push_back(std::move(chain));
  }
  find_linker_versions(found, answers);
  return found;
}

}  // namespace coctilis::locate
