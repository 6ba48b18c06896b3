#include "locate/toolchain.h"

#include <dirent.h>
#include <re2/re2.h>

#include "base/files.h"
#include "base/hash.h"
#include "base/process.h"
#include "base/text.h"

namespace coctilis::locate {

namespace {

// Compilers print what is parsed here in the language of the user otherwise.
Command ask(std::vector<std::string> argv) {
  Command command;
  command.argv = std::move(argv);
  command.environment = {{"LC_ALL", "C"}, {"LANGUAGE", std::nullopt}};
  command.limit_seconds = 20;
  return command;
}

std::string first_line(const Ended& ended) {
  return ended.good() ? std::string(text::trim(ended.output.substr(0, ended.output.find('\n')))) : std::string{};
}

std::string real_path(const std::string& path) {
  std::error_code error;
  const auto real = std::filesystem::canonical(path, error);
  return error ? path : real.string();
}

struct Pair {
  std::string c;
  std::string cxx;
  std::string prefix;
  std::string family;
  std::string suffix;
  bool wished = false;
};

std::vector<std::string> path_folders() {
  const char* path = std::getenv("PATH");
  std::vector<std::string> out;
  for (auto& folder : text::split(path != nullptr ? path : "/usr/local/bin:/usr/bin:/bin", ':')) {
    if (!folder.empty() && std::find(out.begin(), out.end(), folder) == out.end()) out.push_back(folder);
  }
  return out;
}

std::vector<Pair> pairs_on_path() {
  static const RE2 pattern(R"(((?:[A-Za-z0-9_]+-){2,})?(gcc|g\+\+|clang|clang\+\+)(-[0-9][0-9.]*)?)");
  std::vector<Pair> pairs;
  for (const auto& folder : path_folders()) {
    DIR* stream = ::opendir(folder.c_str());
    if (stream == nullptr) continue;
    std::vector<std::string> names;
    while (const dirent* entry = ::readdir(stream)) names.emplace_back(entry->d_name);
    ::closedir(stream);
    std::sort(names.begin(), names.end());
    for (const auto& name : names) {
      std::string prefix;
      std::string program;
      std::string suffix;
      if (!RE2::FullMatch(name, pattern, &prefix, &program, &suffix)) continue;
      const std::string path = folder + "/" + name;
      if (!files::is_program(path)) continue;
      const bool cxx = program.ends_with("++");
      const std::string family = program[0] == 'g' ? "gcc" : "clang";
      auto it = std::find_if(pairs.begin(), pairs.end(), [&](const Pair& p) {
        return p.prefix == prefix && p.family == family && p.suffix == suffix;
      });
      if (it == pairs.end()) it = pairs.insert(pairs.end(), {{}, {}, prefix, family, suffix, false});
      std::string& slot = cxx ? it->cxx : it->c;
      if (slot.empty()) slot = path;
    }
  }
  // Plain names before versions, the machine's own compilers before those with a prefix, newer before older.
  std::stable_sort(pairs.begin(), pairs.end(), [](const Pair& a, const Pair& b) {
    const auto rank = [](const Pair& p) {
      return std::make_tuple(!p.prefix.empty(), p.family != "gcc", !p.suffix.empty());
    };
    if (rank(a) != rank(b)) return rank(a) < rank(b);
    return text::compare_versions(a.suffix, b.suffix) > 0;
  });
  return pairs;
}

void add_environment_choice(std::vector<Pair>& pairs) {
  const char* c = std::getenv("CC");
  const char* cxx = std::getenv("CXX");
  const auto path_of = [](const char* value) {
    const auto words = text::shell_words(value == nullptr ? "" : value);
    return words.empty() ? std::string{} : find_program(words.front());
  };
  Pair pair{path_of(c), path_of(cxx), {}, {}, {}, true};
  if (pair.c.empty() && pair.cxx.empty()) return;
  // One of the two is enough: its partner lies beside it under the usual name.
  const auto partner = [](const std::string& path, const std::string& from, const std::string& to) {
    const auto slash = path.rfind('/');
    std::string name = path.substr(slash + 1);
    const auto at = name.rfind(from);
    if (at == std::string::npos) return std::string{};
    name.replace(at, from.size(), to);
    const std::string candidate = path.substr(0, slash + 1) + name;
    return files::is_program(candidate) ? candidate : std::string{};
  };
  if (pair.cxx.empty())
    pair.cxx =
        pair.c.find("clang") != std::string::npos ? partner(pair.c, "clang", "clang++") : partner(pair.c, "gcc", "g++");
  if (pair.c.empty())
    pair.c = pair.cxx.find("clang++") != std::string::npos ? partner(pair.cxx, "clang++", "clang")
                                                           : partner(pair.cxx, "g++", "gcc");
  pairs.insert(pairs.begin(), pair);
}

void read_macros(const std::string& output, model::Compiler& compiler) {
  for (const auto& line : text::split(output, '\n')) {
    if (!line.starts_with("#define ")) continue;
    const auto blank = line.find(' ', 8);
    compiler.macros[line.substr(8, blank == std::string::npos ? std::string::npos : blank - 8)] =
        blank == std::string::npos ? "" : line.substr(blank + 1);
  }
}

void read_include_folders(const std::string& output, model::Compiler& compiler) {
  bool inside = false;
  for (const auto& line : text::split(output, '\n')) {
    if (line.starts_with("#include <...>"))
      inside = true;
    else if (line.starts_with("End of search list"))
      inside = false;
    else if (inside && line.starts_with(' '))
      compiler.include_folders.push_back(files::absolute(text::trim(line)));
  }
}

void read_link_folders(const std::string& output, model::Compiler& compiler) {
  for (const auto& line : text::split(output, '\n')) {
    if (!line.starts_with("libraries: =")) continue;
    for (const auto& folder : text::split(line.substr(12), ':')) {
      const std::string normal = files::absolute(folder);
      if (files::is_folder(normal) && std::find(compiler.link_folders.begin(), compiler.link_folders.end(), normal) ==
                                          compiler.link_folders.end()) {
        compiler.link_folders.push_back(normal);
      }
    }
  }
}

}  // namespace

std::vector<model::Toolchain> toolchains() {
  std::vector<Pair> pairs = pairs_on_path();
  add_environment_choice(pairs);
  std::vector<Command> commands;
  for (const auto& pair : pairs) {
    const std::string& any = pair.c.empty() ? pair.cxx : pair.c;
    commands.push_back(ask({any, "-dumpmachine"}));
    commands.push_back(ask({any, "-E", "-dM", "-x", "c", "/dev/null"}));
  }
  const auto answers = run_all(commands, 4);
  std::vector<model::Toolchain> found;
  std::set<std::tuple<std::string, std::string, std::string>> seen;
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    const auto& pair = pairs[i];
    if (!answers[2 * i].good() || !answers[2 * i + 1].good()) continue;  // something else under a compiler's name
    model::Compiler probe;
    read_macros(answers[2 * i + 1].output, probe);
    model::Toolchain chain;
    chain.family = probe.macros.contains("__clang__") ? "clang" : "gcc";
    const char* const parts[2][3] = {{"__GNUC__", "__GNUC_MINOR__", "__GNUC_PATCHLEVEL__"},
                                     {"__clang_major__", "__clang_minor__", "__clang_patchlevel__"}};
    std::vector<std::string> numbers;
    for (const char* part : parts[chain.family == "clang" ? 1 : 0])
      numbers.push_back(probe.macros.contains(part) ? probe.macros[part] : "0");
    chain.version = text::join(numbers, ".");
    chain.machine = first_line(answers[2 * i]);
    // One family names the vendor in its triplet, the other leaves it out; labels and folders use the short one.
    chain.machine = text::replace_all(chain.machine, "-pc-linux-", "-linux-");
    // A wrapper may stand for several compilers under one file: what it answers tells them apart.
    const std::string self = chain.family + chain.version + chain.machine;
    if (!seen.insert({pair.c.empty() ? "" : real_path(pair.c), pair.cxx.empty() ? "" : real_path(pair.cxx), self})
             .second)
      continue;
    chain.name = chain.family + " " + chain.version.substr(0, chain.version.find('.'));
    for (auto* compiler : {&chain.c, &chain.cxx}) {
      compiler->language = compiler == &chain.c ? "C" : "C++";
      compiler->path = compiler == &chain.c ? pair.c : pair.cxx;
      compiler->family = chain.family;
      compiler->version = chain.version;
      compiler->machine = chain.machine;
    }
    found.push_back(std::move(chain));
  }
  return found;
}

void complete(model::Toolchain& chain) {
  std::vector<Command> commands;
  std::vector<model::Compiler*> compilers;
  for (auto* compiler : {&chain.c, &chain.cxx}) {
    if (compiler->present()) compilers.push_back(compiler);
  }
  if (compilers.empty()) return;
  for (auto* compiler : compilers) {
    const std::string language = compiler->language == "C" ? "c" : "c++";
    commands.push_back(ask({compiler->path, "-E", "-dM", "-x", language, "/dev/null"}));
    commands.push_back(ask({compiler->path, "-E", "-v", "-x", language, "/dev/null"}));
    commands.push_back(ask({compiler->path, "-print-search-dirs"}));
    commands.push_back(ask({compiler->path, "-print-sysroot"}));
  }
  const std::vector<std::pair<std::string, std::string*>> programs = {
      {"ld", &chain.linker},        {"ar", &chain.archiver},           {"ranlib", &chain.archive_indexer},
      {"nm", &chain.symbol_lister}, {"strip", &chain.symbol_stripper}, {"objcopy", &chain.object_copier}};
  for (const auto& [name, slot] : programs)
    commands.push_back(ask({compilers.front()->path, "-print-prog-name=" + name}));
  auto answers = run_all(commands, 4);
  std::size_t at = 0;
  for (auto* compiler : compilers) {
    read_macros(answers[at].output, *compiler);
    read_include_folders(answers[at + 1].output, *compiler);
    read_link_folders(answers[at + 2].output, *compiler);
    if (answers[at + 3].good() && files::is_folder(first_line(answers[at + 3])))
      compiler->sysroot = first_line(answers[at + 3]);
    const auto real = real_path(compiler->path);
    std::error_code error;
    const auto size = std::filesystem::file_size(real, error);
    const auto stamp = std::filesystem::last_write_time(real, error).time_since_epoch().count();
    compiler->identity =
        hash_bytes(fmt::format("{} {} {} {} {}", real, size, stamp, compiler->version, answers[at].output)).text();
    at += 4;
  }
  for (const auto& [name, slot] : programs) {
    const std::string answer = first_line(answers[at++]);
    *slot = answer.find('/') != std::string::npos ? files::absolute(answer) : find_program(answer);
    // A machine prefix is part of the name: x86_64-linux-gnu-ar beside ar.
    if (slot->empty()) *slot = find_program(chain.machine + "-" + name);
  }
  if (!chain.linker.empty()) chain.linker_version = first_line(run(ask({chain.linker, "--version"})));
}

bool answers(const model::Toolchain& chain, const std::string& wish) {
  if (wish.empty()) return true;
  if (wish == chain.machine || wish == chain.name) return true;
  std::string family;
  std::string rest;
  if (!RE2::FullMatch(wish, R"((gcc|g\+\+|clang|clang\+\+)[ -]?(.*))", &family, &rest)) return false;
  if (family == "g++") family = "gcc";
  if (family == "clang++") family = "clang";
  if (family != chain.family) return false;
  rest = std::string(text::trim(rest));
  if (rest.empty()) return true;
  if (RE2::FullMatch(rest, "[0-9.]+")) return chain.version == rest || chain.version.starts_with(rest + ".");
  return text::version_meets(chain.version, rest);
}

Choice choose(const std::vector<model::Toolchain>& all, const model::Settings& settings) {
  Choice choice;
  auto& finding = choice.finding;
  finding.want.kind = model::WantKind::toolchain;
  finding.want.name = settings.toolchain.empty() ? "C and C++ compilers" : settings.toolchain;
  if (!settings.machine.empty()) finding.want.name += " for " + settings.machine;
  finding.want.asked_by = settings.toolchain.empty() && settings.machine.empty() ? "the sources" : "the user";
  finding.want.place = settings.toolchain_place;
  for (const auto& chain : all) {
    if (!answers(chain, settings.toolchain) || (!settings.machine.empty() && chain.machine != settings.machine))
      continue;
    choice.toolchain = chain;
    complete(choice.toolchain);
    finding.found = true;
    finding.where = chain.c.present() ? chain.c.path : chain.cxx.path;
    finding.version = chain.version;
    finding.how = "on PATH";
    return choice;
  }
  for (const auto& folder : path_folders()) finding.looked.push_back(folder);
  if (!all.empty()) {
    std::vector<std::string> names;
    for (const auto& chain : all) names.push_back(chain.name + " (" + chain.machine + ")");
    finding.reason = "there are " + text::join(names, ", ");
  }
  const std::string wish = settings.toolchain + settings.machine;
  finding.package = wish.find("clang") != std::string::npos ? "clang"
                    : settings.machine.empty()              ? "g++"
                                                            : "g++-" + text::replace_all(settings.machine, "_", "-");
  return choice;
}

}  // namespace coctilis::locate
