// Solutions that a schedule has made, kept for the next run.
#pragma once
#include "field/solution.h"
#include <deque>
#include <map>
#include <memory>
#include <mutex>

namespace ng {

/// Solutions of earlier runs, so that only what an edit invalidates is solved again. May be shared by
/// threads.
class ScheduleCache {
  public:
    std::shared_ptr<const Solution> find(const std::string& key) const;
    void keep(const std::string& key, std::shared_ptr<const Solution> solution);
    std::size_t bytes() const; ///< about; the oldest go where they are more than 48 MB

  private:
    static constexpr std::size_t most_bytes = 48u << 20; ///< chosen: some ten designs
    mutable std::mutex mutex_;
    std::map<std::string, std::shared_ptr<const Solution>> solutions_;
    std::deque<std::pair<std::string, std::size_t>> order_; ///< and how large each is
    std::size_t bytes_ = 0;
};

} // namespace ng
