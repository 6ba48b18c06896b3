// What a user says once for all trees: $XDG_CONFIG_HOME/coctilis/config.toml, else ~/.config/coctilis/config.toml (XDG
// Base Directory Specification). The command line comes before it, and so does what a tree says of its tool chain.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/result.h"
#include "model/settings.h"

namespace coctilis::survey {

struct UserSettings {
  std::string path;                         // the file; it need not be there
  unsigned jobs = 0;                        // parallel jobs; 0: not said
  double load = 0;                          // no step begins while the machine's load is higher; 0: not said
  std::string colour;                       // "always", "never", "auto"; empty: not said
  std::string toolchain;                    // as --toolchain takes it
  std::vector<std::string> with;            // prefixes, absolute; searched after those of the command line
  std::map<std::string, std::string> kits;  // the prefixes, absolute, of kits that trees need by name
  std::vector<model::Mirror> mirrors;       // the longest beginning first
  // Of the keys that are said; of kits and mirrors "kits.NAME" and "mirrors.BEGINNING".
  std::map<std::string, Place> places;
};

// Where the file would be; empty when neither variable names a folder.
[[nodiscard]] std::string user_settings_path();

// What the file says; nothing when it is not there. Errors: Exit::usage, with file:line.
[[nodiscard]] Result<UserSettings> read_user_settings(const std::string& path);

}  // namespace coctilis::survey
