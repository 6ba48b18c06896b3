// What a tree without a description needs of the system: folders for headers that are none of its own, and libraries
// for symbols that nothing in it defines.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "locate/known.h"
#include "locate/locator.h"

namespace coctilis::describe::sources {

// Where a header was found that the compiler does not look for by itself.
struct HeaderUse {
  model::Usage usage;
  std::string library;  // what it is a header of, for people: "sdl2", "glib-2.0"
};

class Outside {
 public:
  explicit Outside(locate::Locator& locator) : locator_(locator) {}

  // Whether the C library, the kernel or the compiler has a header of that name.
  [[nodiscard]] bool system_has(const std::string& header);
  // Whether the compiler finds the header without a word.
  [[nodiscard]] bool is_found(const std::string& header);
  // The include folder of a prefix that was pointed at, in which a header or module file lies; empty: none has it.
  [[nodiscard]] std::string folder_in_prefix(const std::string& name) const;
  // The folder in which a distribution keeps a compiled module of that name, below those of libraries; empty: there is
  // none.
  [[nodiscard]] std::string module_folder(const std::string& module);
  // Whether a compiled Fortran module is there, in a prefix or a folder that a *.pc file names.
  [[nodiscard]] bool has_module(const std::string& module);
  // The library whose folder has the header, or the file of a module; nothing when none does.
  [[nodiscard]] std::optional<HeaderUse> use_of(const std::string& header);

  // The libraries for what a unit wants, in the order in which they are linked, with findings for each. `headers`: the
  // names that it includes and that are none of the tree's. What no library defines is left in `wanted`.
  struct Library {
    std::string item;  // of the link line
    std::string name;
  };
  [[nodiscard]] std::vector<Library> libraries(std::set<std::string>& wanted, const std::set<std::string>& headers,
                                               const std::string& unit, const Place& place, bool required);
  // Asks for all symbols that any unit wants at once: one look at all libraries. Those come first whose headers are
  // included; `headers`: the names of all that are none of the tree's.
  void ask(const std::set<std::string>& symbols, const std::set<std::string>& headers);
  // Whether any library has one of those that were asked for last.
  [[nodiscard]] bool is_defined(const std::string& symbol) const { return definers_.contains(symbol); }

 private:
  [[nodiscard]] static const locate::KnownLibrary* known_by(const std::string& name);
  void read_modules();
  [[nodiscard]] std::set<std::string> meant_by(const std::set<std::string>& headers) const;
  locate::Locator& locator_;
  std::map<std::string, bool> system_;
  std::map<std::string, bool> found_;
  std::optional<std::vector<std::string>> module_folders_;
  std::map<std::string, std::optional<HeaderUse>> uses_;
  struct Module {
    std::string name;
    model::Usage usage;
  };
  std::optional<std::vector<Module>> modules_;
  std::map<std::string, std::vector<std::string>> definers_;  // symbol -> libraries
};

}  // namespace coctilis::describe::sources
