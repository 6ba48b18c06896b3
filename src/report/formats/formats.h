// A run in forms that other programs read. Each is a file here, and a line in the table of record/record.cpp.
#pragma once

#include <string>

#include "model/run.h"

namespace coctilis::report {

// What compilers said, as static analysis results (SARIF 2.1.0, OASIS standard): the warnings, and where the run
// stopped. Places are relative to the tree ("TREE") or, of files that were made, to the kiln ("KILN").
[[nodiscard]] std::string warnings_sarif(const model::Run& run);

// What went into what (SPDX 2.3, JSON): each result with the sources it was made from, by SHA-1 and SHA-256, and the
// libraries of the system that it links, with version and package. Runs that come to the same differ in the time only.
[[nodiscard]] std::string parts_spdx(const model::Run& run);

// The steps over time, as viewers of traces open them (Trace Event Format, JSON object form, complete events).
[[nodiscard]] std::string trace_json(const model::Run& run);

// What uses what, in the graph description language of layout programs (DOT).
[[nodiscard]] std::string graph_dot(const model::Run& run);

}  // namespace coctilis::report
