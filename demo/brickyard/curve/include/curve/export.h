// What the shared library shows to the outside.
#pragma once

#if defined(CURVE_BUILD) || defined(__GNUC__)
#define CURVE_API __attribute__((visibility("default")))
#else
#define CURVE_API
#endif
