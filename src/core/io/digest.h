// Secure Hash Algorithm of 256 bits (FIPS 180-4), by OpenSSL.
#pragma once
#include <string>
#include <string_view>

namespace ng {

/// 64 hexadecimal digits, small letters.
std::string sha256_hex(std::string_view bytes);

} // namespace ng
