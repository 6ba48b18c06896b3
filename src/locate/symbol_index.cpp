#include "locate/symbol_index.h"

#include <algorithm>
#include <filesystem>

#include "base/elf.h"
#include "base/files.h"
#include "base/observed.h"
#include "base/text.h"

namespace coctilis::locate {

namespace {

// A file by its name in one of the folders; empty when none has it.
std::string in_folders(const std::vector<std::string>& folders, const std::string& name) {
  for (const auto& folder : folders) {
    if (files::is_file(folder + "/" + name)) return folder + "/" + name;
  }
  return {};
}

// A library that is a script for the linker stands for the first file that it names.
std::string behind_script(const std::string& path) {
  const std::string text = files::read_beginning(path, 4096);
  if (text.empty() ||
      text.starts_with("\x7f"
                       "ELF") ||
      text.starts_with("!<"))
    return path;
  for (const auto& word : text::words(text::replace_all(text::replace_all(text, "(", " "), ")", " "))) {
    if (word.starts_with('/') && word.find(".so") != std::string::npos && files::is_file(word)) return word;
  }
  return path;
}

// Libraries that programs can be linked with: the name after -l, and the file that is read for its symbols.
std::map<std::string, std::string> linkable(const Locator& locator, std::vector<Watched>& watched) {
  std::map<std::string, std::string> out;
  std::map<std::string, std::string> archives;
  for (const auto& folder : locator.link_folders()) {
    // The compiler's own: what it needs it brings by itself, and the rest are sanitizers, which have everybody's names.
    if (folder.find("/lib/gcc") != std::string::npos) continue;
    watched.push_back({folder, true});
    for (const auto& name : files::names_in(folder)) {
      if (!name.starts_with("lib")) continue;
      const std::string path = folder + "/" + name;
      if (name.ends_with(".so"))
        out.emplace(name.substr(3, name.size() - 6), path);
      else if (name.ends_with(".a"))
        archives.emplace(name.substr(3, name.size() - 5), path);
    }
  }
  for (const auto& [name, path] : archives) out.emplace(name, path);
  for (auto& [name, path] : out) path = behind_script(path);
  return out;
}

}  // namespace

std::set<std::string> symbols_of_toolchain(const Locator& locator, const std::set<std::string>& languages,
                                           bool with_mathematics) {
  // Where the linker script of the C library leads, and what the compilers' drivers add.
  std::vector<std::string> names = {"libc.so.6",
                                    "libgcc_s.so.1",
                                    "libgcc.a",
                                    "libc_nonshared.a",
                                    "libpthread.so.0",
                                    "libdl.so.2",
                                    "librt.so.1",
                                    "ld-linux-x86-64.so.2",
                                    "ld-linux-aarch64.so.1",
                                    "libmvec.so.1",
                                    "libc.a",
                                    "libm.a"};
  if (languages.contains("C++")) names.insert(names.end(), {"libstdc++.so", "libstdc++.so.6"});
  if (languages.contains("Fortran"))
    names.insert(names.end(), {"libgfortran.so", "libgfortran.so.5", "libquadmath.so"});
  if (with_mathematics) names.insert(names.end(), {"libm.so.6", "libm.a"});
  std::set<std::string> out = {"_GLOBAL_OFFSET_TABLE_",
                               "__dso_handle",
                               "_end",
                               "end",
                               "_etext",
                               "etext",
                               "_edata",
                               "edata",
                               "__bss_start",
                               "_DYNAMIC",
                               "__ehdr_start",
                               "__executable_start",
                               "_init",
                               "_fini",
                               "__init_array_start",
                               "__init_array_end",
                               "_TLS_MODULE_BASE_",
                               "__tls_get_addr"};
  const auto& folders = locator.link_folders();
  bool shared = false;
  for (const auto& name : names) {
    // The archives stand in where a system has no shared C library.
    if (shared && (name == "libc.a")) continue;
    const std::string path = in_folders(folders, name);
    if (path.empty()) continue;
    shared = shared || name == "libc.so.6";
    for (const auto& symbol : symbols_of(path)) {
      if (symbol.defined) out.insert(symbol.name);
    }
  }
  return out;
}

std::map<std::string, std::vector<std::string>> libraries_with(const Locator& locator,
                                                               const std::set<std::string>& symbols,
                                                               const std::set<std::string>& first) {
  std::map<std::string, std::vector<std::string>> out;
  if (symbols.empty()) return out;
  std::vector<Watched> watched;
  const auto libraries = linkable(locator, watched);
  std::string question = "libraries with 2\n" + locator.toolchain().machine + "\n";
  for (const auto& symbol : symbols) question += symbol + "\n";
  for (const auto& name : first) question += "first " + name + "\n";
  for (const auto& [name, path] : libraries) question += path + "\n";
  std::string answer;
  if (const auto kept = locator.answers() != nullptr ? locator.answers()->get(question) : std::nullopt) {
    answer = *kept;
  } else {
    const observe::Apart apart;
    std::set<std::string> open = symbols;
    const auto look = [&](const std::string& name, const std::string& path, std::set<std::string>& found) {
      watched.push_back({path, false});
      const auto facts = read_elf(path);
      if (!facts || !fits_machine(*facts, locator.toolchain().machine)) return;
      std::set<std::string> seen;
      for (const auto& symbol : symbols_of(path)) {
        if (!symbol.defined || !open.contains(symbol.name) || !seen.insert(symbol.name).second) continue;
        answer += symbol.name + " " + name + "\n";
        found.insert(symbol.name);
      }
    };
    std::set<std::string> found;
    for (const auto& name : first) {
      const auto it = libraries.find(name);
      if (it != libraries.end()) look(name, it->second, found);
    }
    for (const auto& symbol : found) open.erase(symbol);
    for (const auto& [name, path] : libraries) {
      if (open.empty()) break;
      if (!first.contains(name)) look(name, path, found);
    }
    if (locator.answers() != nullptr) locator.answers()->put(question, answer, watched);
  }
  for (const auto& line : text::split(answer, '\n')) {
    const auto blank = line.find(' ');
    if (blank != std::string::npos) out[line.substr(0, blank)].push_back(line.substr(blank + 1));
  }
  return out;
}

}  // namespace coctilis::locate
