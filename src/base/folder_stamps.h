// What lies in a folder, told from what the system says of it: enough to see that somebody put in, changed or took away
// something since it was looked at.
#pragma once

#include <map>
#include <string>

#include "base/file_stamp.h"

namespace coctilis {

// The files below a folder, links not followed, by their way from it; no folders. Empty where there is none.
[[nodiscard]] std::map<std::string, FileStamp> stamps_below(const std::string& folder);

// The same as one text, in which two states that differ are different; empty when nothing is there.
[[nodiscard]] std::string listing_of(const std::string& folder);

}  // namespace coctilis
