// Chance that is the same everywhere for the same seed: a stream for every purpose, so that one question
// moves no other.
#pragma once
#include <cstdint>
#include <random>
#include <string_view>
#include <vector>

namespace ng {

class Chance {
  public:
    /// mt19937_64 (its bits are fixed by the C++ standard), seeded by SHA-256 of seed and stream.
    Chance(std::uint64_t seed, std::string_view stream);
    /// In (0, 1): a multiple of 2^-53, plus half of one.
    double one();
    double between(double low, double high) { return low + (high - low) * one(); }
    /// Even in the logarithm.
    double log_between(double low, double high);
    std::size_t below(std::size_t n); ///< 0 to n - 1
    bool happens(double probability) { return one() < probability; }
    template <class T> void shuffle(std::vector<T>& list) {
        for (std::size_t i = list.size(); i > 1; --i) std::swap(list[i - 1], list[below(i)]);
    }

  private:
    std::mt19937_64 bits_;
};

} // namespace ng
