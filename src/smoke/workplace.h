// Where and with what the programs of a check run: the working folder with what has to lie in it, the environment, what
// starts them. Both [[smoke]] and [[service]] have one.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <system_error>
#include <vector>

#include "base/files.h"
#include "base/process.h"
#include "model/asked_check.h"
#include "smoke/expectations.h"
#include "smoke/runner.h"

namespace coctilis::smoke {

// The shell that a person is given: their own, SHELL, or else sh.
[[nodiscard]] std::string shell_of_user();

class Workplace {
 public:
  // Makes the working folder, and what has to be there. `program`: the first that runs in it, as the check names it.
  // `values`: what is replaced besides the folders, name and value. `shares_network`: with other programs that run
  // meanwhile. All must outlive this.
  Workplace(Runner& runner, const model::Surroundings& asked, const std::string& program,
            std::map<std::string, std::string> values = {}, bool shares_network = false);

  // What is in the way of running anything here: failed, or skipped where the machine lacks something.
  [[nodiscard]] const std::optional<Judgement>& obstacle() const { return obstacle_; }

  struct Start {
    Command command;
    std::string program;                // absolute; empty: there is none
    std::string shown;                  // the command for people
    std::optional<Judgement> obstacle;  // why it cannot be started
    bool emulated = false;
  };
  // How a program is started here. `input`, `input_file`: what it reads (CheckStep).
  [[nodiscard]] Start start_of(const std::vector<std::string>& run,
                               const std::optional<std::string>& input = std::nullopt,
                               const std::string& input_file = {});

  // A shell here, for a person: that of their own, SHELL, or else sh.
  [[nodiscard]] Start start_of_shell();

  // The text with all that is to be replaced in it.
  [[nodiscard]] std::string with_values(std::string text) const;
  // A file that the check names from the working folder: where it lies for this program.
  [[nodiscard]] std::string file(const std::string& name) const { return folder_ + "/" + name; }
  // The same of one that a program has made: empty when there is none, or something that leads out of the working
  // folder.
  [[nodiscard]] std::string made_file(const std::string& name) const;
  // The working folder: for this program, and as those that run in it see it.
  [[nodiscard]] const std::string& folder() const { return folder_; }
  [[nodiscard]] const std::string& seen_folder() const { return seen_folder_; }
  [[nodiscard]] Runner& runner() const { return runner_; }
  [[nodiscard]] const model::Surroundings& asked() const { return asked_; }

 private:
  void put_files();
  void cannot_put(const std::string& what, const std::error_code& error);
  void find_devices();

  Runner& runner_;
  const model::Surroundings& asked_;
  std::map<std::string, std::string> values_;
  bool shares_network_;
  files::ScratchFolder scratch_;
  std::string folder_;
  std::string seen_folder_;
  bool in_tree_ = false;
  bool starts_shell_ = false;
  std::unique_ptr<files::ScratchFolder> inputs_;  // made when something is to be read
  int input_ = 0;
  std::optional<Judgement> obstacle_;
};

}  // namespace coctilis::smoke
