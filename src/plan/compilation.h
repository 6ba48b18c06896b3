// What the sources of a target are compiled with: definitions, folders, options, and headers that come first.
#pragma once

#include <string>
#include <vector>

#include "model/plan.h"
#include "model/settings.h"
#include "model/toolchain.h"
#include "plan/usage.h"

namespace coctilis::plan {

// The options that all compilations of a language of a target share.
struct Compilation {
  CompileUsage usage;
  std::vector<std::string> definitions;  // with -D
  std::vector<std::string> folders;      // with -I and -isystem
  std::vector<std::string> options;
  std::vector<std::string> ahead;  // headers that every source includes first
  std::string ahead_header;        // the file that includes them all; empty: each is included by itself
};

class Compilations {
 public:
  // `notes` gets what a user should know of. All must outlive this.
  Compilations(const model::Project& project, const model::Toolchain& toolchain, const model::Settings& settings,
               const Usage& usage, std::vector<std::string>& notes);

  // `language`: "C", "C++", "ASM" or one of the project's other compilers. Throws Fault (Exit::description) for a
  // standard that is not known.
  [[nodiscard]] Compilation of(const model::Target& target, const std::string& language);
  // What stands before a folder of the tree: the one for files that the description wrote there. Empty: none does.
  [[nodiscard]] std::string overlay_of(const std::string& folder) const;
  // True when objects are kept in a form that is optimised once all are known.
  [[nodiscard]] bool optimises_when_linking(const model::Target& target) const;

 private:
  [[nodiscard]] std::vector<std::string> property_options(const model::Target& target,
                                                          const std::string& language) const;

  const model::Project& project_;
  const model::Toolchain& toolchain_;
  const Usage& usage_;
  std::vector<std::string>& notes_;
  model::Variant variant_;
  const bool warnings_as_errors_;
  bool told_of_warnings_ = false;
};

}  // namespace coctilis::plan
