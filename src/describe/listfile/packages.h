// What the ways of finding a package share: what is asked for, and what a description learns of it.
#pragma once

#include <string>
#include <vector>

#include "describe/listfile/evaluator.h"
#include "locate/known.h"

namespace coctilis::describe::listfile {

// The words of a find_package call.
struct PackageWish {
  std::string name;
  std::string version;
  bool exact = false;
  bool quiet = false;
  bool required = false;
  bool config_only = false;
  bool module_only = false;
  std::vector<std::string> components;
  std::vector<std::string> optional_components;
  std::vector<std::string> names;
  std::vector<std::string> hints;
  [[nodiscard]] std::string constraint() const { return version.empty() ? "" : (exact ? "= " : ">= ") + version; }
};

// The variables of a version, as a whole and part by part.
void set_version(Evaluator& e, const std::string& prefix, const std::string& version);
// Sets NAME_FOUND, the version's variables and those of the components.
void set_found(Evaluator& e, const PackageWish& wish, bool found, const std::string& version);
[[nodiscard]] model::Requirement requirement_of(const PackageWish& wish, model::RequirementKind kind,
                                                const Invocation& i);
// An imported target with what its users need; absent libraries get one too, so that reading can go on.
void imported_target(Evaluator& e, const std::string& name, const model::Usage& usage, const Invocation& i);
// An imported program; none for an empty path or a name that is taken.
void imported_program(Evaluator& e, const std::string& name, const std::string& path, const Invocation& i);

// Packages that are programs, or parts of the tool chain and the C library. Each gives false when the wish is not for
// what it knows.
[[nodiscard]] bool find_compiler_part(Evaluator& e, const PackageWish& wish, const Invocation& i);
[[nodiscard]] bool find_interpreter(Evaluator& e, const PackageWish& wish, const Invocation& i);
[[nodiscard]] bool find_program_package(Evaluator& e, const PackageWish& wish, const Invocation& i);
[[nodiscard]] bool find_own_work(Evaluator& e, const PackageWish& wish);
// The same for packages whose own program tells how to compile and link with them, by the table.
[[nodiscard]] bool find_told(Evaluator& e, const PackageWish& wish, const Invocation& i);
// What include(${NAME_USE_FILE}) does for a folder that uses such a package; false when the file is none of theirs.
[[nodiscard]] bool use_told(Evaluator& e, const std::string& use_file, const Invocation& i);
// The parts of a library that descriptions ask for one by one; `base` is what its main library needs.
void set_parts(Evaluator& e, const locate::KnownLibrary& known, const model::Usage& base, const Invocation& i);
// Another library that comes with it, by a name of its own; `items` are the words that link the library itself.
void set_beside(Evaluator& e, const locate::KnownLibrary& known, const std::vector<std::string>& items,
                const Invocation& i);

}  // namespace coctilis::describe::listfile
