// The faces that the mesher still has to divide, worst first.
#pragma once
#include <cstddef>
#include <queue>
#include <utility>
#include <vector>

namespace ng {

/// A queue of faces by badness, those of one badness in the order in which they came. A face keeps its own
/// place in it (`queued`), so that it is taken out without a search. `Quality` has urgency(): larger first.
template <class Face, class Quality> class WorstFirst {
  public:
    using Entry = std::pair<Quality, Face>;

    bool empty() const { return waiting_.empty(); }
    void clear() {
        entries_.clear();
        waiting_ = {};
    }
    bool insert(const Face& face, const Quality& quality) {
        if (holds(face)) return false;
        face->queued = entries_.size();
        waiting_.push({quality.urgency(), entries_.size()});
        entries_.emplace_back(quality, face);
        return true;
    }
    bool erase(const Face& face) {
        if (!holds(face)) return false;
        entries_[face->queued].second = {};
        while (!waiting_.empty() && entries_[waiting_.top().place].second == Face()) waiting_.pop();
        return true;
    }
    /// Of a queue that is not empty.
    const Entry* front() const { return &entries_[waiting_.top().place]; }
    void pop_front() { erase(Face(front()->second)); }

  private:
    struct Waiting {
        double urgency;
        std::size_t place; ///< in entries_
        bool operator<(const Waiting& other) const {
            return urgency < other.urgency || (urgency == other.urgency && place > other.place);
        }
    };
    std::vector<Entry> entries_;           ///< of all that came; without a face: taken out
    std::priority_queue<Waiting> waiting_; ///< its first is not taken out

    bool holds(const Face& face) const {
        return face->queued < entries_.size() && entries_[face->queued].second == face;
    }
};

} // namespace ng
