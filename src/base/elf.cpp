#include "base/elf.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <gelf.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <functional>
#include <initializer_list>
#include <set>

#include "base/demangle.h"
#include "base/observed.h"
#include "base/text.h"

namespace coctilis {

namespace {

struct Handle {
  int fd = -1;
  Elf* elf = nullptr;
  ~Handle() {
    if (elf != nullptr) elf_end(elf);
    if (fd >= 0) ::close(fd);
  }
};

std::optional<ElfFacts> first_member(const Handle& archive) {
  Elf_Cmd command = ELF_C_READ;
  std::optional<ElfFacts> facts;
  // Indexes and name tables come before the members.
  for (int i = 0; i < 64 && !facts; ++i) {
    Elf* member = elf_begin(archive.fd, command, archive.elf);
    if (member == nullptr) break;
    GElf_Ehdr header;
    if (elf_kind(member) == ELF_K_ELF && gelf_getehdr(member, &header) != nullptr) {
      facts.emplace();
      facts->bits = gelf_getclass(member) == ELFCLASS32 ? 32 : 64;
      facts->machine = header.e_machine;
    }
    command = elf_next(member);
    elf_end(member);
  }
  return facts;
}

struct Machine {
  const char* processor;
  int machine;
  int bits;
};
// Processors as triplets begin with them, and e_machine with the class (System V ABI, "ELF Header").
const std::vector<Machine>& machines() {
  static const std::vector<Machine> table = {
      {"x86_64", EM_X86_64, 64}, {"aarch64", EM_AARCH64, 64},   {"i386", EM_386, 32},
      {"i486", EM_386, 32},      {"i586", EM_386, 32},          {"i686", EM_386, 32},
      {"arm", EM_ARM, 32},       {"armv7l", EM_ARM, 32},        {"riscv64", EM_RISCV, 64},
      {"riscv32", EM_RISCV, 32}, {"powerpc64le", EM_PPC64, 64}, {"powerpc64", EM_PPC64, 64},
      {"powerpc", EM_PPC, 32},   {"s390x", EM_S390, 64},        {"mips64el", EM_MIPS, 64},
      {"mipsel", EM_MIPS, 32},   {"mips", EM_MIPS, 32},         {"sparc64", EM_SPARCV9, 64},
      {"loongarch64", 258, 64}};
  return table;
}

}  // namespace

namespace {

void add_sections(Elf* elf, SectionSizes& out) {
  std::size_t names = 0;
  if (elf_getshdrstrndx(elf, &names) != 0) return;
  for (Elf_Scn* section = elf_nextscn(elf, nullptr); section != nullptr; section = elf_nextscn(elf, section)) {
    GElf_Shdr header;
    if (gelf_getshdr(section, &header) == nullptr) continue;
    const char* name = elf_strptr(elf, names, header.sh_name);
    if (header.sh_type == SHT_NOBITS) {
      if ((header.sh_flags & SHF_TLS) == 0) out.room += header.sh_size;
    } else if (name != nullptr && std::string_view(name).starts_with(".debug")) {
      out.debug += header.sh_size;
    } else if ((header.sh_flags & SHF_EXECINSTR) != 0) {
      out.code += header.sh_size;
    } else if ((header.sh_flags & SHF_ALLOC) != 0) {
      out.data += header.sh_size;
    }
  }
}

}  // namespace

std::optional<SectionSizes> section_sizes(const std::string& path) {
  if (elf_version(EV_CURRENT) == EV_NONE) return std::nullopt;
  Handle handle;
  handle.fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  struct stat info {};
  if (handle.fd < 0 || ::fstat(handle.fd, &info) != 0 || !S_ISREG(info.st_mode)) return std::nullopt;
  handle.elf = elf_begin(handle.fd, ELF_C_READ, nullptr);
  if (handle.elf == nullptr) return std::nullopt;
  SectionSizes out;
  if (elf_kind(handle.elf) == ELF_K_ELF) {
    add_sections(handle.elf, out);
  } else if (elf_kind(handle.elf) == ELF_K_AR) {
    Elf_Cmd command = ELF_C_READ;
    while (Elf* member = elf_begin(handle.fd, command, handle.elf)) {
      if (elf_kind(member) == ELF_K_ELF) add_sections(member, out);
      command = elf_next(member);
      elf_end(member);
    }
  } else {
    return std::nullopt;
  }
  // What a damaged file says of itself is no more than it has.
  const auto bytes = static_cast<std::uint64_t>(info.st_size);
  if (out.code > bytes || out.data > bytes || out.debug > bytes) return SectionSizes{0, 0, 0, 0, bytes};
  out.rest = bytes - std::min(bytes, out.code + out.data + out.debug);
  return out;
}

std::optional<ElfFacts> read_elf(const std::string& path) {
  observe::content(path);
  if (elf_version(EV_CURRENT) == EV_NONE) return std::nullopt;
  Handle handle;
  handle.fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (handle.fd < 0) return std::nullopt;
  handle.elf = elf_begin(handle.fd, ELF_C_READ, nullptr);
  if (handle.elf == nullptr) return std::nullopt;
  if (elf_kind(handle.elf) == ELF_K_AR) return first_member(handle);
  if (elf_kind(handle.elf) != ELF_K_ELF) return std::nullopt;
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

namespace {

// The sections that belong to a group of which one is kept (SHT_GROUP with GRP_COMDAT).
std::set<std::size_t> kept_once(Elf* elf) {
  std::set<std::size_t> out;
  for (Elf_Scn* section = elf_nextscn(elf, nullptr); section != nullptr; section = elf_nextscn(elf, section)) {
    GElf_Shdr header;
    if (gelf_getshdr(section, &header) == nullptr || header.sh_type != SHT_GROUP) continue;
    const Elf_Data* data = elf_getdata(section, nullptr);
    if (data == nullptr || data->d_buf == nullptr || data->d_size < sizeof(GElf_Word)) continue;
    const auto* words = static_cast<const GElf_Word*>(data->d_buf);
    if ((words[0] & GRP_COMDAT) == 0) continue;
    for (std::size_t i = 1; i < data->d_size / sizeof(GElf_Word); ++i) out.insert(words[i]);
  }
  return out;
}

// Calls `use` for the file, or for each member of an archive. Nothing when it is neither.
void with_each_file(const std::string& path, const std::function<void(Elf*)>& use) {
  if (elf_version(EV_CURRENT) == EV_NONE) return;
  Handle handle;
  handle.fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
  if (handle.fd < 0) return;
  handle.elf = elf_begin(handle.fd, ELF_C_READ, nullptr);
  if (handle.elf == nullptr) return;
  if (elf_kind(handle.elf) == ELF_K_ELF) use(handle.elf);
  if (elf_kind(handle.elf) != ELF_K_AR) return;
  Elf_Cmd command = ELF_C_READ;
  while (Elf* member = elf_begin(handle.fd, command, handle.elf)) {
    if (elf_kind(member) == ELF_K_ELF) use(member);
    command = elf_next(member);
    elf_end(member);
  }
}

// Calls `use` for each named symbol of the tables that are of one of `types`.
void with_each_symbol(Elf* elf, std::initializer_list<GElf_Word> types,
                      const std::function<void(const char*, const GElf_Sym&)>& use) {
  for (Elf_Scn* section = elf_nextscn(elf, nullptr); section != nullptr; section = elf_nextscn(elf, section)) {
    GElf_Shdr header;
    if (gelf_getshdr(section, &header) == nullptr || header.sh_entsize == 0 ||
        std::find(types.begin(), types.end(), header.sh_type) == types.end())
      continue;
    Elf_Data* data = elf_getdata(section, nullptr);
    if (data == nullptr) continue;
    for (int i = 0; static_cast<GElf_Xword>(i) < header.sh_size / header.sh_entsize; ++i) {
      GElf_Sym symbol;
      if (gelf_getsym(data, i, &symbol) == nullptr) break;
      const char* name = elf_strptr(elf, header.sh_link, symbol.st_name);
      if (name != nullptr && *name != '\0') use(name, symbol);
    }
  }
}

}  // namespace

std::vector<ElfSymbol> symbols_of(const std::string& path) {
  std::vector<ElfSymbol> out;
  observe::content(path);
  with_each_file(path, [&](Elf* elf) {
    GElf_Ehdr file;
    if (gelf_getehdr(elf, &file) == nullptr) return;
    const bool object = file.e_type == ET_REL;
    const auto once = object ? kept_once(elf) : std::set<std::size_t>{};
    with_each_symbol(
        elf, {static_cast<GElf_Word>(object ? SHT_SYMTAB : SHT_DYNSYM)}, [&](const char* name, const GElf_Sym& symbol) {
          const int bind = GELF_ST_BIND(symbol.st_info);
          if (bind != STB_GLOBAL && bind != STB_WEAK && bind != STB_GNU_UNIQUE) return;
          const bool shared = bind == STB_GNU_UNIQUE || symbol.st_shndx == SHN_COMMON || once.contains(symbol.st_shndx);
          out.push_back({name, symbol.st_shndx != SHN_UNDEF, bind == STB_WEAK, shared});
        });
  });
  return out;
}

SymbolUse symbol_use(const std::string& path, const std::string& name) {
  SymbolUse use;
  const auto is_meant = [&](const std::string& symbol) {
    if (symbol == name) return true;
    if (!symbol.starts_with("_Z")) return false;
    const std::string plain = demangled(symbol);
    return plain.starts_with(name) && (plain.size() == name.size() || plain[name.size()] == '(');
  };
  with_each_file(path, [&](Elf* elf) {
    with_each_symbol(elf, {SHT_SYMTAB, SHT_DYNSYM}, [&](const char* text, const GElf_Sym& symbol) {
      if (is_meant(text)) (symbol.st_shndx == SHN_UNDEF ? use.wanted : use.defined) = true;
    });
  });
  return use;
}

bool fits_machine(const ElfFacts& facts, const std::string& triplet) {
  const std::string processor = triplet.substr(0, triplet.find('-'));
  for (const auto& entry : machines()) {
    if (processor == entry.processor)
      return facts.machine == entry.machine &&
             (facts.bits == entry.bits || triplet.ends_with("gnux32") || triplet.ends_with("n32"));
  }
  return true;
}

std::string machine_text(const ElfFacts& facts) {
  for (const auto& entry : machines()) {
    if (facts.machine == entry.machine && facts.bits == entry.bits)
      return fmt::format("{}-bit {}", facts.bits, entry.processor);
  }
  return fmt::format("{}-bit machine {}", facts.bits, facts.machine);
}

}  // namespace coctilis
