// Finds the compilers of this machine and asks each for what it is and where it looks; chooses the one for a tree.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "base/answers.h"
#include "base/result.h"
#include "model/requirement.h"
#include "model/settings.h"
#include "model/toolchain.h"

namespace coctilis::locate {

// All tool chains of the gcc and clang families: those that CC, CXX and FC name, those in bin/ of `prefixes`, those on
// PATH, also with a machine triplet before or a version behind the name; each once, best first. Compilers are asked
// side by side; what they say is kept in `answers`. With a `sysroot`, what they say with it.
[[nodiscard]] std::vector<model::Toolchain> toolchains(const std::vector<std::string>& prefixes, Answers& answers,
                                                       const std::string& sysroot = {});

// True when `toolchain` is what `wish` names: a family ("gcc"), a family with a version ("gcc >= 12", "clang 14",
// "gcc-12"), or a machine triplet.
[[nodiscard]] bool answers_wish(const model::Toolchain& toolchain, const std::string& wish);

// The first tool chain that the settings allow and that has a compiler for every one of `languages` ("C", "C++",
// "Fortran"), if there is one. Every tool chain of `all` gets its verdict. When none is allowed, the finding says what
// there is, whether a neighbour will do, and which package has the wanted one.
struct Choice {
  model::Toolchain toolchain;
  model::Finding finding;
};
// `standards`: the language standard that the tree needs, by language ("C++" -> 20); compilers too old for it are left.
[[nodiscard]] Choice choose(std::vector<model::Toolchain>& all, const model::Settings& settings,
                            const std::set<std::string>& languages = {},
                            const std::map<std::string, int>& standards = {});

// True when a compiler of this tool chain knows the standard ("C++", 20).
[[nodiscard]] bool knows_standard(const model::Toolchain& toolchain, const std::string& language, int standard);

// Makes the chosen tool chain link with the linker that the settings name. The finding tells when it has none of that
// name, and which package has it; nothing when no linker was asked for.
[[nodiscard]] std::optional<model::Finding> choose_linker(model::Toolchain& chain, const model::Settings& settings);

// The Debian package that has the compiler of a language ("C" or "C++") which this chain lacks, for the machine that it
// compiles for; empty when Debian has none.
[[nodiscard]] std::string package_of_compiler(const model::Toolchain& toolchain, const std::string& language);
// The newest language standard ("C" or "C++", as a year: 11, 20, 23) that a compiler of this family and version knows
// well enough to be asked for.
[[nodiscard]] int newest_standard(const model::Toolchain& toolchain, const std::string& language);

// Environment variables that are set and have a say, with what they do.
[[nodiscard]] std::vector<model::EnvironmentUse> environment_in_use();

}  // namespace coctilis::locate
