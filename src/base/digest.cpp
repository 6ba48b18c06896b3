#include "base/digest.h"

#include <fmt/format.h>
#include <openssl/evp.h>

#include <map>

#include "base/shared_library.h"

namespace coctilis {

namespace {
constexpr SharedLibrary crypto_library(COCTILIS_CRYPTO_SONAME);
#define COCTILIS_CRYPTO(name) COCTILIS_FUNCTION_OF(crypto_library, name)

using Algorithm = const EVP_MD* (*)();

std::string raw_digest(Algorithm algorithm, std::string_view bytes) {
  unsigned char out[EVP_MAX_MD_SIZE];
  unsigned int size = 0;
  const int done = COCTILIS_CRYPTO(EVP_Digest)(bytes.data(), bytes.size(), out, &size, algorithm(), nullptr);
  if (done != 1) return {};
  return {reinterpret_cast<const char*>(out), size};
}

std::string hex(std::string_view bytes) {
  std::string out;
  for (const char c : bytes) out += fmt::format("{:02x}", static_cast<unsigned char>(c));
  return out;
}
}  // namespace

std::optional<std::string> digest(const std::string& algorithm, std::string_view bytes) {
  static const std::map<std::string, Algorithm> kinds = {
      {"MD5", COCTILIS_CRYPTO(EVP_md5)},           {"SHA1", COCTILIS_CRYPTO(EVP_sha1)},
      {"SHA224", COCTILIS_CRYPTO(EVP_sha224)},     {"SHA256", COCTILIS_CRYPTO(EVP_sha256)},
      {"SHA384", COCTILIS_CRYPTO(EVP_sha384)},     {"SHA512", COCTILIS_CRYPTO(EVP_sha512)},
      {"SHA3_224", COCTILIS_CRYPTO(EVP_sha3_224)}, {"SHA3_256", COCTILIS_CRYPTO(EVP_sha3_256)},
      {"SHA3_384", COCTILIS_CRYPTO(EVP_sha3_384)}, {"SHA3_512", COCTILIS_CRYPTO(EVP_sha3_512)},
  };
  const auto it = kinds.find(algorithm);
  if (it == kinds.end()) return std::nullopt;
  return hex(raw_digest(it->second, bytes));
}

std::optional<std::string> name_uuid(const std::string& algorithm, const std::string& name_space,
                                     std::string_view name) {
  std::string bytes;
  std::string digits;
  for (const char c : name_space) {
    if (c == '-') continue;
    if (std::isxdigit(static_cast<unsigned char>(c)) == 0) return std::nullopt;
    digits += c;
  }
  if (digits.size() != 32 || name_space.size() != 36) return std::nullopt;
  for (std::size_t k = 0; k < 32; k += 2) bytes += static_cast<char>(std::stoi(digits.substr(k, 2), nullptr, 16));
  bytes += name;
  std::string out =
      raw_digest(algorithm == "MD5" ? COCTILIS_CRYPTO(EVP_md5) : COCTILIS_CRYPTO(EVP_sha1), bytes).substr(0, 16);
  if (out.size() < 16) return std::nullopt;  // the library refuses the algorithm
  out[6] = static_cast<char>((out[6] & 0x0F) | (algorithm == "MD5" ? 0x30 : 0x50));
  out[8] = static_cast<char>((out[8] & 0x3F) | 0x80);
  const std::string text = hex(out);
  return text.substr(0, 8) + "-" + text.substr(8, 4) + "-" + text.substr(12, 4) + "-" + text.substr(16, 4) + "-" +
         text.substr(20);
}

}  // namespace coctilis
