#include "base/starter_script.h"

#include "base/text.h"

namespace coctilis {

std::string from_script(const std::string& path) { return "\"$here\"/" + text::shell_quote(path); }

std::string starter_script(const std::string& what, const std::vector<std::string>& words,
                           const std::vector<std::string>& settings) {
  std::string out = "#!/bin/sh\n# Starts " + text::printable_line(what) +
                    ".\nhere=$(dirname \"$(readlink -f \"$0\")\") || exit 127\n";
  for (const auto& setting : settings) out += setting + "\nexport " + setting.substr(0, setting.find('=')) + "\n";
  return out + "exec " + text::join(words, " ") + " \"$@\"\n";
}

}  // namespace coctilis
