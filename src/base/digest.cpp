#include "base/digest.h"

#include <fmt/format.h>
#include <openssl/evp.h>

#include <map>

namespace coctilis {

namespace {
std::string raw_digest(const EVP_MD* kind, std::string_view bytes) {
  unsigned char out[EVP_MAX_MD_SIZE];
  unsigned int size = 0;
  if (EVP_Digest(bytes.data(), bytes.size(), out, &size, kind, nullptr) != 1) return {};
  return {reinterpret_cast<const char*>(out), size};
}

std::string hex(std::string_view bytes) {
  std::string out;
  for (const char c : bytes) out += fmt::format("{:02x}", static_cast<unsigned char>(c));
  return out;
}
}  // namespace

std::optional<std::string> digest(const std::string& algorithm, std::string_view bytes) {
  static const std::map<std::string, const EVP_MD* (*)()> kinds = {
      {"MD5", EVP_md5},           {"SHA1", EVP_sha1},         {"SHA224", EVP_sha224},     {"SHA256", EVP_sha256},
      {"SHA384", EVP_sha384},     {"SHA512", EVP_sha512},     {"SHA3_224", EVP_sha3_224}, {"SHA3_256", EVP_sha3_256},
      {"SHA3_384", EVP_sha3_384}, {"SHA3_512", EVP_sha3_512},
  };
  const auto it = kinds.find(algorithm);
  if (it == kinds.end()) return std::nullopt;
  return hex(raw_digest(it->second(), bytes));
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
  std::string out = raw_digest(algorithm == "MD5" ? EVP_md5() : EVP_sha1(), bytes).substr(0, 16);
  if (out.size() < 16) return std::nullopt;  // the library refuses the algorithm
  out[6] = static_cast<char>((out[6] & 0x0F) | (algorithm == "MD5" ? 0x30 : 0x50));
  out[8] = static_cast<char>((out[8] & 0x3F) | 0x80);
  const std::string text = hex(out);
  return text.substr(0, 8) + "-" + text.substr(8, 4) + "-" + text.substr(12, 4) + "-" + text.substr(16, 4) + "-" +
         text.substr(20);
}

}  // namespace coctilis
