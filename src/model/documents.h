// What counts as a document: a machine that cannot make it can still build the rest.
#pragma once

#include <string>

namespace coctilis::model {

// True for manuals, pages and printed forms, by what the name ends with, compressed ones as well; and for texts and
// pictures in a folder for documents.
[[nodiscard]] bool is_document(const std::string& path);

}  // namespace coctilis::model
