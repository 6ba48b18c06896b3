#include "report/formats/uri.h"

#include <fmt/format.h>

namespace coctilis::report {

std::string uri_path(const std::string& path) {
  std::string out;
  for (const char letter : path) {
    const auto byte = static_cast<unsigned char>(letter);
    // "unreserved", and of the rest what a segment may have besides (RFC 3986, 2.3 and 3.3); ":" would look like a
    // scheme.
    const bool plain = (byte >= 'a' && byte <= 'z') || (byte >= 'A' && byte <= 'Z') || (byte >= '0' && byte <= '9') ||
                       std::string_view("-._~/!$&'()*+,;=@").find(letter) != std::string_view::npos;
    out += plain ? std::string(1, letter) : fmt::format("%{:02X}", byte);
  }
  return out;
}

std::string file_uri(const std::string& path) { return "file://" + uri_path(path); }

}  // namespace coctilis::report
