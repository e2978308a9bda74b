#include "trainer/chance.h"
#include "io/digest.h"
#include <cmath>
#include <fmt/format.h>

namespace ng {

Chance::Chance(std::uint64_t seed, std::string_view stream)
    : bits_(std::stoull(sha256_hex(fmt::format("{}|{}", seed, stream)).substr(0, 16), nullptr, 16)) {}

double Chance::one() {
    return (static_cast<double>(bits_() >> 11) + 0.5) * 0x1p-53;
}

double Chance::log_between(double low, double high) {
    return low * std::pow(high / low, one());
}

std::size_t Chance::below(std::size_t n) {
    return static_cast<std::size_t>(one() * static_cast<double>(n));
}

} // namespace ng
