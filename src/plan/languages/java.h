// Operations of steps that make Java's results (plan/operations.h).
#pragma once

#include <string>
#include <vector>

namespace coctilis::plan {

// ARCHIVE CLASSES MANIFEST INCLUDES EXCLUDES FILE NAME ...: all below the folder CLASSES that the patterns (a line
// each) take, the manifest, and each file under its name, as a ZIP archive that is the same whenever its content is.
int pack_classes(const std::vector<std::string>& words, const std::string& root, std::string& output);

}  // namespace coctilis::plan
