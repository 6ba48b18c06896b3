// Shell scripts that start a program from where they lie: with files whose places count from the script's own.
#pragma once

#include <string>
#include <vector>

namespace coctilis {

// A word of such a script: the file at `path`, which counts from the script's folder. Quoted.
[[nodiscard]] std::string from_script(const std::string& path);

// The script. `what`: what it starts, for people who read it. `words`: the command, each as the shell reads it; the
// words that the script is given follow. `settings`: NAME=VALUE for its environment, as the shell reads them.
[[nodiscard]] std::string starter_script(const std::string& what, const std::vector<std::string>& words,
                                         const std::vector<std::string>& settings = {});

}  // namespace coctilis
