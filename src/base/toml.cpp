#define TOML_IMPLEMENTATION
#include "base/toml.h"
