// The packages of a Debian system: what is installed, and what could be. Read from the package database and from the
// package lists as they lie on the machine; nothing is started and nothing is fetched.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "base/answers.h"
#include "model/requirement.h"
#include "model/toolchain.h"

namespace coctilis::locate {

class Packages {
 public:
  // `root`: the system whose packages these are ("/", or a system unpacked somewhere). COCTILIS_SYSTEM_ROOT names
  // another. `answers` may be null.
  explicit Packages(std::string root = usual_root(), Answers* answers = nullptr);
  [[nodiscard]] static std::string usual_root();

  // The installed package that has a file; links on the way are followed. Empty when none has.
  [[nodiscard]] std::string owner(const std::string& path);
  // The version of an installed package, without epoch and Debian revision; empty when it is not installed.
  [[nodiscard]] std::string version(const std::string& package);
  [[nodiscard]] bool installed(const std::string& package);
  // True when the package is in the lists of what can be installed. Without lists nothing is known.
  [[nodiscard]] bool available(const std::string& package);
  [[nodiscard]] bool has_lists();
  // The author's version of a package that can be installed; empty when it is not in the lists.
  [[nodiscard]] std::string available_version(const std::string& package);
  // True when packages for the architecture ("arm64") can be installed: it is this machine's, or was added to it.
  [[nodiscard]] bool takes_architecture(const std::string& architecture);

  // The package that has a file whose path ends in one of `endings` ("/include/zlib.h"), for every question, by the
  // contents lists; one pass over them answers all. Development packages come before others.
  [[nodiscard]] std::vector<std::string> with_files(const std::vector<std::vector<std::string>>& questions,
                                                    const std::string& architecture);

 private:
  // What `work_out` gives, kept from run to run while the package database is as it was: reading that takes far longer.
  std::string kept(const std::string& question, const std::string& watched,
                   const std::function<std::string()>& work_out);
  [[nodiscard]] std::string status_path() const { return root_ + "/var/lib/dpkg/status"; }
  [[nodiscard]] std::string lists_folder() const { return root_ + "/var/lib/apt/lists"; }
  void read_status();
  void read_lists();
  std::string root_;
  Answers* answers_;
  bool status_read_ = false;
  bool lists_read_ = false;
  std::map<std::string, std::string> installed_;  // package -> version; of a foreign architecture also "name:arch"
  std::map<std::string, std::string> available_;  // package -> version
  std::map<std::string, std::string> owners_;
};

// Debian's name for the architecture of a triplet: "amd64", "arm64"; empty when it has none.
[[nodiscard]] std::string debian_architecture(const std::string& triplet);

// What helps when something is missing that a package has: a command, or else why no command does.
struct Advice {
  std::string command;  // "apt-get install zlib1g-dev"
  std::string reason;
};
// `package`: its name, for another machine "name:arch". Installing helps only if it is not installed, is in the lists
// where there are any, is new enough for `constraint` (">= 2.1"), and for an architecture that this system takes.
// `listed`: the contents lists named it, so that it is in the lists.
[[nodiscard]] Advice advice_for(const std::string& package, Packages& packages, const std::string& constraint = {},
                                bool listed = false);

// Names the package for every finding that is missing, in `package`, and what the package database says about it: an
// installed package whose file is not found says so in `reason`. For a foreign machine libraries are named "name:arch".
void name_packages(std::vector<model::Finding>& findings, const model::Toolchain& toolchain, Packages& packages);

// Takes packages away that would not help from findings whose package is known already, and says why in `reason`.
void check_packages(std::vector<model::Finding>& findings, Packages& packages);

// One command that installs all that is missing and can be installed; empty when there is nothing.
[[nodiscard]] std::vector<std::string> install_command(const std::vector<model::Finding>& findings);

}  // namespace coctilis::locate
