// Makes facts of what a CMakeLists.txt declares.
#pragma once

#include <memory>
#include <vector>

#include "describe/listfile/declared.h"

namespace coctilis::describe::listfile::lower {

// `output_root` (absolute): the folder that the description's own operations may write to.
[[nodiscard]] std::shared_ptr<const model::Facts> facts_of(std::shared_ptr<const Declared> project,
                                                           std::string output_root);
// What a project was declared as; nullptr when another kind of description has it.
[[nodiscard]] const Declared* declared_by(const model::Project& project);
// What is known of the targets before anything is worked out.
[[nodiscard]] std::vector<model::Outline> outlines_of(const Declared& project);

}  // namespace coctilis::describe::listfile::lower
