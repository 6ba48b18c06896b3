// What ELF files say of themselves.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace coctilis {

struct ElfFacts {
  int bits = 64;
  int machine = 0;  // e_machine of the ELF header
  bool dynamic = false;
  bool has_run_path = false;          // DT_RUNPATH, which switches DT_RPATH off
  std::vector<std::string> needed;    // DT_NEEDED
  std::vector<std::string> run_path;  // DT_RUNPATH or else DT_RPATH, as written
  std::string shared_name;            // DT_SONAME
};

// The ELF file, or the first ELF member of an archive (then only bits and machine). Nothing when the file is no ELF
// file or cannot be read (System V ABI, "Dynamic Section"; archives: "Archive file").
[[nodiscard]] std::optional<ElfFacts> read_elf(const std::string& path);

// What the bytes of an ELF file, or of all members of an archive, are.
struct SectionSizes {
  std::uint64_t code = 0;   // machine code
  std::uint64_t data = 0;   // what else is loaded from the file
  std::uint64_t room = 0;   // what is set aside when it is loaded, and in no file (SHT_NOBITS)
  std::uint64_t debug = 0;  // debugging information (".debug...")
  std::uint64_t rest = 0;   // names, headers, and all else in the file
};
// Nothing when the file is neither ("Sections").
[[nodiscard]] std::optional<SectionSizes> section_sizes(const std::string& path);

// A symbol that files see of each other.
struct ElfSymbol {
  std::string name;
  bool defined = false;  // else it is left for others to define
  bool weak = false;     // another definition may take its place; left to others, it may stay without one
  bool shared = false;   // several may define it, and one is kept: a common block, or one of a COMDAT group
};
// The global symbols of an object, of the members of an archive, or of a shared library what it offers and wants
// ("Symbol Table"), with the names that the linker knows; hidden ones too, for others in the same link see them.
// Nothing when the file is none of these.
[[nodiscard]] std::vector<ElfSymbol> symbols_of(const std::string& path);

struct SymbolUse {
  bool defined = false;
  bool wanted = false;  // left for others to define
};
// What a file, or any member of an archive, has to do with a symbol: its name as the linker knows it, or as a person
// writes it in C++, without its parameters.
[[nodiscard]] SymbolUse symbol_use(const std::string& path, const std::string& name);

// True when code for `facts` can be linked into programs of the machine that a triplet names ("aarch64-linux-gnu"); a
// processor that is not known here fits.
[[nodiscard]] bool fits_machine(const ElfFacts& facts, const std::string& triplet);
// "64-bit x86_64", "32-bit i386", "64-bit machine 258".
[[nodiscard]] std::string machine_text(const ElfFacts& facts);

}  // namespace coctilis
