// Paths as uniform resource identifiers (RFC 3986; of files: RFC 8089).
#pragma once

#include <string>

namespace coctilis::report {

// A relative or absolute path, with what may not stand in a URI's path as it is in percent form.
[[nodiscard]] std::string uri_path(const std::string& path);
// "file:///...", of an absolute path.
[[nodiscard]] std::string file_uri(const std::string& path);

}  // namespace coctilis::report
