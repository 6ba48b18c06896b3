#include "survey/git_library.h"

namespace coctilis {

constinit const SharedLibrary git_library(COCTILIS_GIT_SONAME);

}  // namespace coctilis
