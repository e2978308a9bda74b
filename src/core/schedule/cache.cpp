#include "schedule/cache.h"

namespace ng {
namespace {

/// About what a solution holds in memory: its mesh, potentials and field are nearly all of it.
std::size_t bytes_of(const Solution& s) {
    std::size_t out = sizeof(Solution);
    if (s.mesh)
        out += s.mesh->nodes.size() * (2 * sizeof(Point) + sizeof(int)) +
               s.mesh->triangles.size() * (sizeof(s.mesh->triangles[0]) + sizeof(int)) +
               s.mesh->arc_edges.size() * (sizeof(s.mesh->arc_edges[0]) + 2 * sizeof(int));
    out += static_cast<std::size_t>(s.potential_kV.size() + s.imaginary_kV.size()) * sizeof(double);
    out += (s.field.layout ? s.field.layout->of.size() * sizeof(s.field.layout->of[0]) : 0) +
           (s.field.field.size() + s.field.imaginary.size()) * sizeof(Point);
    for (const auto& path : s.paths) out += path.samples.size() * sizeof(path.samples[0]);
    return out;
}

} // namespace

std::shared_ptr<const Solution> ScheduleCache::find(const std::string& key) const {
    const std::lock_guard lock(mutex_);
    const auto it = solutions_.find(key);
    return it == solutions_.end() ? nullptr : it->second;
}

void ScheduleCache::keep(const std::string& key, std::shared_ptr<const Solution> solution) {
    const std::lock_guard lock(mutex_);
    const auto bytes = bytes_of(*solution);
    if (!solutions_.try_emplace(key, std::move(solution)).second) return;
    order_.emplace_back(key, bytes);
    bytes_ += bytes;
    while (bytes_ > most_bytes && order_.size() > 1) {
        bytes_ -= order_.front().second;
        solutions_.erase(order_.front().first);
        order_.pop_front();
    }
}

std::size_t ScheduleCache::bytes() const {
    const std::lock_guard lock(mutex_);
    return bytes_;
}

} // namespace ng
