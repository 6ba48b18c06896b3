// TOML (toml.io, v1.0), by a library whose own code is compiled once, in toml.cpp.
#pragma once

#ifndef TOML_HEADER_ONLY
#define TOML_HEADER_ONLY 0
#define TOML_ENABLE_FORMATTERS 0
#endif
#include <toml++/toml.h>
