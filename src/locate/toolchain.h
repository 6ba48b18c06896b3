// Finds the compilers on PATH and asks each for what it is and where it looks.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "model/settings.h"
#include "model/toolchain.h"
#include "model/want.h"

namespace coctilis::locate {

// All C and C++ tool chains on PATH (gcc and clang families, also with a machine prefix or a version suffix), the one
// that CC and CXX name first, each once. Only names, versions and machines are asked for here.
[[nodiscard]] std::vector<model::Toolchain> toolchains();

// Asks the compilers of `toolchain` for their folders and macros, and for linker, archiver and their kin.
void complete(model::Toolchain& toolchain);

// True when `toolchain` is what `wish` names: a family ("gcc"), a family with a version ("gcc >= 12", "clang 14",
// "gcc-12"), or a machine triplet.
[[nodiscard]] bool answers(const model::Toolchain& toolchain, const std::string& wish);

// The first tool chain that the settings allow, completed. When there is none, the finding says where was looked and
// which package has one.
struct Choice {
  model::Toolchain toolchain;
  model::Finding finding;
};
[[nodiscard]] Choice choose(const std::vector<model::Toolchain>& all, const model::Settings& settings);

}  // namespace coctilis::locate
