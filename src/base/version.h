// The version of Coctilis, "major.minor.patch".
#pragma once

namespace coctilis {
extern const char* const version;
}
