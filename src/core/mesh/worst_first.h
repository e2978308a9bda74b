// The faces that the mesher still has to divide, worst first.
#pragma once
#include <algorithm>
#include <cstddef>
#include <utility>
#include <vector>

namespace ng {

/// A queue of faces by badness, those of one badness in the order in which they came. A face keeps its own
/// place in it (`queued`), so that it is taken out without a search. `Quality` has urgency(): larger first.
template <class Face, class Quality> class WorstFirst {
  public:
    using Entry = std::pair<Quality, Face>;

    bool empty() const { return count_ == 0; }
    std::size_t size() const { return count_; }
    void clear() {
        entries_.clear();
        heap_.clear();
        count_ = 0;
    }
    bool insert(const Face& face, const Quality& quality) {
        if (holds(face)) return false;
        face->queued = entries_.size();
        heap_.push_back({quality.urgency(), entries_.size()});
        std::push_heap(heap_.begin(), heap_.end());
        entries_.emplace_back(quality, face);
        ++count_;
        return true;
    }
    bool erase(const Face& face) {
        if (!holds(face)) return false;
        entries_[face->queued].second = {};
        --count_;
        forget_erased();
        return true;
    }
    /// Of a queue that is not empty.
    const Entry* front() const { return &entries_[heap_.front().place]; }
    void pop_front() { erase(Face(front()->second)); }

  private:
    struct Waiting {
        double urgency;
        std::size_t place; ///< in entries_
        bool operator<(const Waiting& other) const {
            return urgency < other.urgency || (urgency == other.urgency && place > other.place);
        }
    };
    std::vector<Entry> entries_; ///< of all that came; without a face: taken out
    std::vector<Waiting> heap_;  ///< its first is not taken out
    std::size_t count_ = 0;

    bool holds(const Face& face) const {
        return face->queued < entries_.size() && entries_[face->queued].second == face;
    }
    void forget_erased() {
        while (!heap_.empty() && entries_[heap_.front().place].second == Face()) {
            std::pop_heap(heap_.begin(), heap_.end());
            heap_.pop_back();
        }
    }
};

} // namespace ng
