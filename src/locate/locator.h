// Answers a reader's questions about the outside, and keeps every answer as a finding.
#pragma once

#include <string>
#include <vector>

#include "base/answers.h"
#include "locate/pc_file.h"
#include "locate/probe.h"
#include "model/settings.h"
#include "model/toolchain.h"
#include "model/want.h"

namespace coctilis::locate {

class Locator {
 public:
  // `toolchain` and `answers` (may be null: nothing is kept) must outlive the locator.
  Locator(const model::Toolchain& toolchain, const model::Settings& settings, Answers* answers = nullptr);

  [[nodiscard]] const model::Toolchain& toolchain() const { return toolchain_; }
  [[nodiscard]] const model::Settings& settings() const { return settings_; }
  // Folders in search order: --with prefixes, then what the compilers have built in.
  [[nodiscard]] std::vector<std::string> include_folders() const;
  [[nodiscard]] std::vector<std::string> link_folders() const;
  [[nodiscard]] std::vector<std::string> prefixes() const;  // --with, then /usr/local, /usr, /

  // A library by any of its names: its .pc file, else header and library, else the library alone. The want's name may
  // also be a .pc module.
  [[nodiscard]] model::Finding library(const model::Want& want) const;
  // A .pc module, with the constraint of the want.
  [[nodiscard]] model::Finding module(const model::Want& want, bool statically = false) const;
  // A library by the name after -l, as the linker would look for it; `folders` come first.
  [[nodiscard]] model::Finding link_name(const model::Want& want, const std::vector<std::string>& folders) const;
  [[nodiscard]] model::Finding program(const model::Want& want, const std::vector<std::string>& names,
                                       const std::vector<std::string>& folders) const;
  // A header in the search folders, `folders` first.
  [[nodiscard]] model::Finding header(const model::Want& want, const std::vector<std::string>& folders) const;

  // Puts a question to the compiler, or takes the kept answer.
  [[nodiscard]] Answer ask(const Probe& probe) const { return locate::ask(probe, toolchain_, answers_); }

  // Keeps a finding. The same thing asked for again is kept once; a required want wins over an optional one, and a
  // finding over a miss.
  void keep(model::Finding finding);
  [[nodiscard]] const std::vector<model::Finding>& findings() const { return findings_; }
  [[nodiscard]] bool any_required_missing() const;

 private:
  const model::Toolchain& toolchain_;
  model::Settings settings_;
  Answers* answers_;
  PcSearch search_;
  std::vector<model::Finding> findings_;
};

}  // namespace coctilis::locate
