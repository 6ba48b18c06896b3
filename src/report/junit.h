// The checks of a run in the form that servers for continuous integration read (JUnit's XML: testsuites, testsuite,
// testcase with failure and skipped).
#pragma once

#include <string>

#include "model/run.h"

namespace coctilis::report {

// One document. What XML 1.0 has no place for (section 2.2: control characters, bytes that are no UTF-8) is replaced.
[[nodiscard]] std::string smoke_xml(const model::Run& run);

}  // namespace coctilis::report
