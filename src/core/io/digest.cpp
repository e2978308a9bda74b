#include "io/digest.h"
#include "units/promise.h"
#include <bit>
#include <nlohmann/json.hpp>
#include <openssl/evp.h>

namespace ng {
namespace {

std::string hex_of(const unsigned char* digest, unsigned int length) {
    constexpr const char* digits = "0123456789abcdef";
    std::string out;
    for (unsigned int i = 0; i < length; ++i) {
        out += digits[digest[i] >> 4];
        out += digits[digest[i] & 15];
    }
    return out;
}

} // namespace

std::string sha256_hex(std::string_view bytes) {
    unsigned char digest[EVP_MAX_MD_SIZE];
    unsigned int length = 0;
    promise(EVP_Digest(bytes.data(), bytes.size(), digest, &length, EVP_sha256(), nullptr) == 1,
            "OpenSSL has SHA-256");
    return hex_of(digest, length);
}

struct Digest::State {
    EVP_MD_CTX* context = EVP_MD_CTX_new();
    ~State() { EVP_MD_CTX_free(context); }
};

Digest::Digest() : state_(std::make_unique<State>()) {
    promise(state_->context && EVP_DigestInit_ex(state_->context, EVP_sha256(), nullptr) == 1,
            "OpenSSL has SHA-256");
}

Digest::~Digest() = default;

void Digest::bytes(const void* from, std::size_t count) {
    promise(EVP_DigestUpdate(state_->context, from, count) == 1, "a digest takes bytes until it is read");
}

Digest& Digest::add_whole(std::int64_t value) {
    std::array<unsigned char, 8> out{};
    for (std::size_t i = 0; i < out.size(); ++i)
        out[i] = static_cast<unsigned char>(static_cast<std::uint64_t>(value) >> (8 * i));
    bytes(out.data(), out.size());
    return *this;
}

Digest& Digest::add(double value) {
    return add_whole(std::bit_cast<std::int64_t>(value == 0 ? 0.0 : value));
}

Digest& Digest::add(std::string_view text) {
    add(text.size());
    bytes(text.data(), text.size());
    return *this;
}

Digest& Digest::add(const nlohmann::json& value) {
    return add(value.empty() ? std::string() : value.dump());
}

std::string Digest::hex() {
    unsigned char digest[EVP_MAX_MD_SIZE];
    unsigned int length = 0;
    promise(EVP_DigestFinal_ex(state_->context, digest, &length) == 1, "a digest is read once");
    return hex_of(digest, length);
}

} // namespace ng
