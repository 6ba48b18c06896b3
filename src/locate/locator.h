// Answers a reader's questions about the outside, and keeps every answer as a finding.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "base/answers.h"
#include "locate/packages.h"
#include "locate/pc_file.h"
#include "locate/probe.h"
#include "locate/probe_ahead.h"
#include "model/requirement.h"
#include "model/settings.h"
#include "model/toolchain.h"

namespace coctilis::locate {

struct KnownLibrary;

// Where something is looked for: before the usual places, there or not, and behind them.
struct SearchFolders {
  SearchFolders() = default;
  SearchFolders(std::vector<std::string> first_) : first(std::move(first_)) {}  // NOLINT: meant to convert
  std::vector<std::string> first;
  bool usual = true;
  std::vector<std::string> last;
  // All, where the usual places are `places`.
  [[nodiscard]] std::vector<std::string> with(const std::vector<std::string>& places) const;
};

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
  // Why a path comes before the system's own places: "--with /opt/x", "coctilis.toml:4", "CPATH"; empty for the rest.
  [[nodiscard]] std::string why(const std::string& path) const;
  // Where is looked and in which order, a line each, for those who ask.
  [[nodiscard]] std::vector<std::string> search_order() const;

  // A library by any of its names: its .pc file, else header and library, else the library alone. The want's name may
  // also be a .pc module.
  [[nodiscard]] model::Finding library(const model::Requirement& want) const;
  // A .pc module, with the constraint of the want.
  [[nodiscard]] model::Finding module(const model::Requirement& want, bool statically = false) const;
  // A library by the name after -l, as the linker would look for it. Files for another machine,
  // and what is no library at all, are passed over. ":NAME" is a whole file name.
  [[nodiscard]] model::Finding link_name(const model::Requirement& want, const SearchFolders& folders) const;
  [[nodiscard]] model::Finding program(const model::Requirement& want, const std::vector<std::string>& names,
                                       const SearchFolders& folders) const;
  // A header in the search folders, `folders` first.
  [[nodiscard]] model::Finding header(const model::Requirement& want, const std::vector<std::string>& folders) const;
  // A header or file in `folders` and nowhere else. Anything of the name will do, a device for one, but for a file no
  // folder.
  [[nodiscard]] model::Finding file_in(const model::Requirement& want, const std::vector<std::string>& folders) const;

  // The version a program tells when asked with --version; empty when it tells none. Kept with the other answers.
  [[nodiscard]] std::string version_of_program(const std::string& path) const;
  // What a command prints, output and errors in one. It is kept until the program changes, or what lies in the folders
  // that `looks_at` tells from the output. Limit: 20 s.
  using LooksAt = std::function<std::vector<std::string>(const std::string& output)>;
  [[nodiscard]] std::string told_by(
      const std::vector<std::string>& command,
      const LooksAt& looks_at = [](const std::string&) { return std::vector<std::string>{}; }) const;

  // Puts a question to the compiler, or takes the kept answer. `asked` (name, required_by, place) is kept with it.
  [[nodiscard]] Answer ask(const Probe& probe, model::Question asked);
  // What the description made of the last answer.
  void conclude(const std::string& value) { questions_.back().value = value; }
  [[nodiscard]] const std::vector<model::Question>& questions() const { return questions_; }
  // Whether asking would cost no compiler run.
  [[nodiscard]] bool knows(const Probe& probe);
  // Probes that are likely to be asked for next; they are put to the compiler side by side.
  void ask_ahead(const std::vector<Probe>& probes);

  // What every command of the tree has in its environment besides that of this program.
  [[nodiscard]] const std::map<std::string, std::string>& environment() const { return environment_; }
  void set_environment(std::map<std::string, std::string> environment) { environment_ = std::move(environment); }
  // Told what goes on while a reader runs long commands.
  std::function<void(const std::string&)> progress = [](const std::string&) {};

  // Keeps a finding. The same thing asked for again is kept once; a required want wins over an optional one, and a
  // finding over a miss.
  void keep(model::Finding finding);
  [[nodiscard]] const std::vector<model::Finding>& findings() const { return findings_; }
  [[nodiscard]] bool any_required_missing() const;
  [[nodiscard]] Packages& packages() const { return *packages_; }
  [[nodiscard]] Answers* answers() const { return answers_; }  // may be null
  // Where .pc files are looked for, in order.
  [[nodiscard]] const std::vector<std::string>& pc_folders() const { return search_.folders; }

 private:
  const model::Toolchain& toolchain_;
  model::Settings settings_;
  Answers* answers_;
  // Looked into only when something is missing or has no version of its own.
  std::shared_ptr<Packages> packages_;
  [[nodiscard]] std::string no_library(const std::string& path) const;
  [[nodiscard]] std::string runtime_only(const std::string& name, const std::vector<std::string>& folders) const;
  [[nodiscard]] std::optional<model::Finding> told_library(const model::Requirement& want,
                                                           const KnownLibrary& known) const;
  [[nodiscard]] model::Finding by_header_and_library(const model::Requirement& want, const KnownLibrary* known) const;
  void tell_version(model::Finding& finding, const KnownLibrary* known, const std::string& header_folder) const;
  [[nodiscard]] std::string mixed(const model::Finding& finding, const KnownLibrary* known) const;
  void tell_others(model::Finding& finding, const KnownLibrary* known) const;
  PcSearch search_;
  std::vector<model::Finding> findings_;
  std::vector<model::Question> questions_;
  std::map<std::string, std::string> environment_;
  ProbeAhead ahead_;
};

}  // namespace coctilis::locate
