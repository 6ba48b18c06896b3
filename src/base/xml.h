// Reading XML 1.0. Entities that a document defines for itself are not replaced, so that none explodes.
#pragma once

#include <pugixml.hpp>
#include <string>

namespace coctilis {

// Reads `path` into `document`. Errors, with the line, are Faults (Exit::description): a file that is not there, cannot
// be read or has more than 64 MB, and one that is no XML. `shown`: how messages name the file; `kind`: what it is, as
// in "the project file"; `remedy`: what can be done about one that is broken.
void load_xml(pugi::xml_document& document, const std::string& path, const std::string& shown, const std::string& kind,
              const std::string& remedy);
// The line (from 1) in which a node begins; `content` is the text that it was read from.
[[nodiscard]] int line_of(const pugi::xml_node& node, const std::string& content);

}  // namespace coctilis
