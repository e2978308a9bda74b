#include "study/sequence.h"
#include "units/promise.h"
#include <boost/random/sobol.hpp>

namespace ng {
namespace {

std::uint32_t reversed(std::uint32_t x) {
    x = ((x >> 1) & 0x55555555u) | ((x & 0x55555555u) << 1);
    x = ((x >> 2) & 0x33333333u) | ((x & 0x33333333u) << 2);
    x = ((x >> 4) & 0x0f0f0f0fu) | ((x & 0x0f0f0f0fu) << 4);
    x = ((x >> 8) & 0x00ff00ffu) | ((x & 0x00ff00ffu) << 8);
    return (x >> 16) | (x << 16);
}

std::uint32_t combined(std::uint32_t seed, std::uint32_t with) {
    return mixed_bits(seed ^ (with + 0x9e3779b9u + (seed << 6) + (seed >> 2)));
}

} // namespace

std::uint32_t mixed_bits(std::uint32_t x) {
    x ^= x >> 16;
    x *= 0x7feb352du;
    x ^= x >> 15;
    x *= 0x846ca68bu;
    x ^= x >> 16;
    return x;
}

std::uint32_t scrambled_bits(std::uint32_t x, std::uint32_t seed) {
    x = reversed(x);
    x += seed;
    x ^= x * 0x6c50b47cu;
    x ^= x * 0xb82f1e52u;
    x ^= x * 0xc7afe638u;
    x ^= x * 0x8d22f6e6u;
    return reversed(x);
}

Scrambled::Scrambled(int dimensions, std::uint64_t seed) : dimensions_(dimensions), seed_(seed) {
    promise(dimensions > 0 && dimensions <= 1000, "a study varies something, and not more than there is");
}

std::vector<double> Scrambled::sample(std::uint64_t index) const {
    const auto point = index / scramblings;
    const auto scrambling = static_cast<std::uint32_t>(index % scramblings);
    std::vector<std::uint32_t> bits(static_cast<std::size_t>(dimensions_), 0);
    if (point > 0) { // the engine leaves the first point, all zero, out
        boost::random::sobol engine(static_cast<std::size_t>(dimensions_));
        engine.seed(point - 1);
        for (auto& b : bits) b = static_cast<std::uint32_t>(engine() >> 32);
    }
    std::vector<double> out;
    const auto low = static_cast<std::uint32_t>(seed_), high = static_cast<std::uint32_t>(seed_ >> 32);
    for (std::size_t d = 0; d < bits.size(); ++d) {
        const auto own =
            combined(combined(combined(mixed_bits(low), high), scrambling), static_cast<std::uint32_t>(d));
        out.push_back((scrambled_bits(bits[d], own) + 0.5) * 0x1p-32);
    }
    return out;
}

} // namespace ng
