#include "smoke/loader.h"

#include <fcntl.h>
#include <gelf.h>
#include <glob.h>
#include <unistd.h>

#include <set>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::smoke {

namespace {

struct Handle {
  int fd = -1;
  Elf* elf = nullptr;
  ~Handle() {
    if (elf != nullptr) elf_end(elf);
    if (fd >= 0) ::close(fd);
  }
};

// Folders that ld.so.conf names, with what it includes.
void read_loader_conf(const std::string& path, std::vector<std::string>& out, int depth) {
  const auto content = files::read(path);
  if (!content || depth > 8) return;
  for (const auto& raw : text::split(*content, '\n')) {
    const std::string line(text::trim(raw.substr(0, raw.find('#'))));
    if (line.starts_with("include ")) {
      std::string pattern(text::trim(line.substr(8)));
      if (!pattern.starts_with('/')) pattern = "/etc/" + pattern;
      glob_t found{};
      if (::glob(pattern.c_str(), 0, nullptr, &found) == 0) {
        for (std::size_t i = 0; i < found.gl_pathc; ++i) read_loader_conf(found.gl_pathv[i], out, depth + 1);
      }
      ::globfree(&found);
    } else if (!line.empty() && !line.starts_with("hwcap")) {
      out.push_back(line);
    }
  }
}

const std::vector<std::string>& system_folders() {
  static const std::vector<std::string> folders = [] {
    std::vector<std::string> out;
    read_loader_conf("/etc/ld.so.conf", out, 0);
    for (const char* folder : {"/lib", "/usr/lib", "/lib64", "/usr/lib64"}) out.emplace_back(folder);
    return out;
  }();
  return folders;
}

std::string origin_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }

std::string expand_origin(std::string entry, const std::string& path) {
  const std::string origin = origin_of(path);
  return text::replace_all(text::replace_all(std::move(entry), "${ORIGIN}", origin), "$ORIGIN", origin);
}

}  // namespace

std::optional<ElfFacts> read_elf(const std::string& path) {
  if (elf_version(EV_CURRENT) == EV_NONE) return std::nullopt;
  Handle handle;
  handle.fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (handle.fd < 0) return std::nullopt;
  handle.elf = elf_begin(handle.fd, ELF_C_READ, nullptr);
  if (handle.elf == nullptr || elf_kind(handle.elf) != ELF_K_ELF) return std::nullopt;
  GElf_Ehdr header;
  if (gelf_getehdr(handle.elf, &header) == nullptr) return std::nullopt;
  ElfFacts facts;
  facts.bits = gelf_getclass(handle.elf) == ELFCLASS32 ? 32 : 64;
  facts.machine = header.e_machine;
  std::vector<std::string> old_path;
  for (Elf_Scn* section = elf_nextscn(handle.elf, nullptr); section != nullptr;
       section = elf_nextscn(handle.elf, section)) {
    GElf_Shdr shdr;
    if (gelf_getshdr(section, &shdr) == nullptr || shdr.sh_type != SHT_DYNAMIC || shdr.sh_entsize == 0) continue;
    facts.dynamic = true;
    Elf_Data* data = elf_getdata(section, nullptr);
    if (data == nullptr) continue;
    const auto text_at = [&](std::size_t offset) {
      const char* found = elf_strptr(handle.elf, shdr.sh_link, offset);
      return found == nullptr ? std::string{} : std::string(found);
    };
    for (int i = 0; static_cast<GElf_Xword>(i) < shdr.sh_size / shdr.sh_entsize; ++i) {
      GElf_Dyn entry;
      if (gelf_getdyn(data, i, &entry) == nullptr || entry.d_tag == DT_NULL) break;
      if (entry.d_tag == DT_NEEDED) facts.needed.push_back(text_at(entry.d_un.d_val));
      if (entry.d_tag == DT_SONAME) facts.shared_name = text_at(entry.d_un.d_val);
      if (entry.d_tag == DT_RPATH) old_path = text::split(text_at(entry.d_un.d_val), ':');
      if (entry.d_tag == DT_RUNPATH) {
        facts.has_run_path = true;
        facts.run_path = text::split(text_at(entry.d_un.d_val), ':');
      }
    }
  }
  if (!facts.has_run_path) facts.run_path = old_path;
  return facts;
}

LoadResult resolve_libraries(const std::string& path) {
  LoadResult result;
  const auto top = read_elf(path);
  if (!top) return result;
  result.is_elf = true;
  std::vector<std::string> environment;
  if (const char* list = std::getenv("LD_LIBRARY_PATH")) environment = text::split(list, ':');
  std::set<std::string> done;
  struct Loaded {
    std::string path;
    ElfFacts facts;
    std::vector<std::string> inherited;  // DT_RPATH of those that loaded it
  };
  std::vector<Loaded> queue = {{path, *top, {}}};
  for (std::size_t at = 0; at < queue.size() && at < 5000; ++at) {
    const Loaded current = queue[at];
    std::vector<std::string> own;
    for (const auto& entry : current.facts.run_path) own.push_back(expand_origin(entry, current.path));
    for (const auto& name : current.facts.needed) {
      if (!done.insert(name).second) continue;
      std::vector<std::string> candidates;
      if (name.find('/') != std::string::npos) {
        candidates.push_back(name);
      } else {
        const auto add = [&](const std::vector<std::string>& folders) {
          for (const auto& folder : folders) {
            if (!folder.empty()) candidates.push_back(folder + "/" + name);
          }
        };
        if (!current.facts.has_run_path) {
          add(own);
          add(current.inherited);
        }
        add(environment);
        if (current.facts.has_run_path) add(own);
        add(system_folders());
      }
      bool found = false;
      for (const auto& candidate : candidates) {
        const auto facts = read_elf(candidate);
        if (!facts || facts->bits != top->bits || facts->machine != top->machine) continue;
        result.found.emplace_back(name, candidate);
        std::vector<std::string> inherited = current.inherited;
        if (!current.facts.has_run_path) inherited.insert(inherited.begin(), own.begin(), own.end());
        queue.push_back({candidate, *facts, inherited});
        found = true;
        break;
      }
      if (!found) result.missing.emplace_back(name, current.path);
    }
  }
  return result;
}

}  // namespace coctilis::smoke
