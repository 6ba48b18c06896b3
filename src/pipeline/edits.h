// The tree as [[edit]]s of coctilis.toml want it: a copy in the place of its kilns in which files are changed. The tree
// itself stays as it is.
#pragma once

#include "model/run.h"

namespace coctilis::pipeline {

// Where the copy lies, in a place for kilns.
[[nodiscard]] std::string edited_folder(const std::string& kiln_root);

// Brings the copy in step with the tree, changes what is to be another in it, and makes it the tree of the run:
// run.original_tree has its own then, run.edits what was changed. Without edits it does nothing. To be called where the
// kilns may be written. Throws Fault: a file is not there, has nothing that a pattern matches, or would become too
// large (Exit::usage); the copy's place leads elsewhere, or cannot be written (Exit::kiln).
void edit_tree(model::Run& run);

}  // namespace coctilis::pipeline
