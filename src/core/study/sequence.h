// Scrambled Sobol' points by index: each a pure function of seed and index, integers until the last step.
#pragma once
#include <cstdint>
#include <vector>

namespace ng {

/// 16 independent scramblings of one Sobol' sequence: sample i is point i div 16 of scrambling i mod 16, so
/// that the spread between scramblings tells the error of a mean (randomised quasi-Monte Carlo; Owen 1995).
/// Direction numbers of Joe and Kuo (Boost.Random), nested uniform scrambling by hashing (Burley, JCGT 9,
/// 2020).
class Scrambled {
  public:
    static constexpr int scramblings = 16;
    Scrambled(int dimensions, std::uint64_t seed);
    /// A number in (0, 1) for each dimension: multiples of 2^-32, plus half of one.
    std::vector<double> sample(std::uint64_t index) const;

  private:
    int dimensions_;
    std::uint64_t seed_;
};

/// 32 bits that differ in about half of their places for inputs that differ in one (Wellons' lowbias32).
std::uint32_t mixed_bits(std::uint32_t x);
/// Owen's nested uniform scrambling of a 32 bit fraction, by Laine and Karras' hash as Burley gives it.
std::uint32_t scrambled_bits(std::uint32_t x, std::uint32_t seed);

} // namespace ng
