// The readers of trees in Java: pom.xml, build.xml, and, where there is neither, module files of editors or the sources
// alone.
#pragma once

#include "describe/readers.h"

namespace coctilis::describe::java {

[[nodiscard]] Reader pom_reader();
[[nodiscard]] Reader build_reader();

// A tree without a description whose sources are Java. Errors as for project_of.
[[nodiscard]] Result<model::Project> read_sources(const ReadRequest& request);

}  // namespace coctilis::describe::java
