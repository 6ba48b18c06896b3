#include "base/archive_library.h"

namespace coctilis {

constinit const SharedLibrary archive_library(COCTILIS_ARCHIVE_SONAME);

}  // namespace coctilis
