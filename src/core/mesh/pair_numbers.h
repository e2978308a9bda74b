// Numbers for pairs of a node and something else (another node, a region): few of them at each node, so a
// short list each is quicker than a table of all.
#pragma once
#include <cstddef>
#include <utility>
#include <vector>

namespace ng {

class PairNumbers {
  public:
    explicit PairNumbers(std::size_t nodes) : first_(nodes, none) {}
    /// The number of a pair, and whether the pair is new: its number is -1 then. Good until the next call.
    std::pair<int&, bool> at(int node, int other) {
        auto& first = first_[static_cast<std::size_t>(node)];
        for (int k = first; k != none; k = pairs_[static_cast<std::size_t>(k)].next)
            if (auto& pair = pairs_[static_cast<std::size_t>(k)]; pair.other == other)
                return {pair.number, false};
        pairs_.push_back({other, -1, first});
        first = static_cast<int>(pairs_.size()) - 1;
        return {pairs_.back().number, true};
    }
    void reserve(std::size_t pairs) { pairs_.reserve(pairs); }

  private:
    static constexpr int none = -1;
    struct Pair {
        int other, number, next;
    };
    std::vector<int> first_; ///< of each node
    std::vector<Pair> pairs_;
};

} // namespace ng
