#include "io/digest.h"
#include "units/promise.h"
#include <fmt/format.h>
#include <openssl/evp.h>

namespace ng {

std::string sha256_hex(std::string_view bytes) {
    unsigned char digest[EVP_MAX_MD_SIZE];
    unsigned int length = 0;
    promise(EVP_Digest(bytes.data(), bytes.size(), digest, &length, EVP_sha256(), nullptr) == 1,
            "OpenSSL has SHA-256");
    std::string out;
    for (unsigned int i = 0; i < length; ++i) out += fmt::format("{:02x}", digest[i]);
    return out;
}

} // namespace ng
