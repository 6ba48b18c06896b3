// Digests by the names that other programs agree on (MD5: RFC 1321, SHA-1 and SHA-2: FIPS 180-4, SHA-3: FIPS 202).
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace coctilis {

// The digest as small hexadecimal digits; nothing for a name other than MD5, SHA1, SHA224, SHA256, SHA384, SHA512,
// SHA3_224, SHA3_256, SHA3_384 and SHA3_512.
[[nodiscard]] std::optional<std::string> digest(const std::string& algorithm, std::string_view bytes);

// A name-based UUID (RFC 4122, 4.3) of version 3 ("MD5") or 5 ("SHA1"); nothing when `name_space` is no UUID.
[[nodiscard]] std::optional<std::string> name_uuid(const std::string& algorithm, const std::string& name_space,
                                                   std::string_view name);

}  // namespace coctilis
