// Desktop entries of installed programs.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "model/finish.h"
#include "model/outcome.h"

namespace coctilis::stage {

// The entry as a file (Desktop Entry Specification 1.4). `program`, `icon` and `folder`: absolute; the latter two may
// be empty. ${prefix} in arguments is replaced.
[[nodiscard]] std::string desktop_entry_text(const model::DesktopEntry& entry, const std::string& prefix,
                                             const std::string& program, const std::string& icon,
                                             const std::string& folder);

// Writes PREFIX/share/applications/PROGRAM.desktop for each entry, and its icon beside the prefix's others; both are
// added to what is staged. `tree`: where icons come from. Errors: a program or working folder that was not installed,
// an icon that is not there (Exit::usage); a place that cannot be written (Exit::kiln).
[[nodiscard]] Result<bool> add_desktop_entries(const std::vector<model::DesktopEntry>& entries, const std::string& tree,
                                               model::Staged& staged);

}  // namespace coctilis::stage
