#include "accessory/profile.h"
#include <algorithm>

namespace ng {
namespace {

constexpr double same_mm = 1e-6;
constexpr double same_end_mm =
    5e-3; // chosen: no hand places two ends nearer than this, and no mesh need show it
constexpr double crossing_apart_mm = 1e-3; // a crossing nearer to a point than this is that point

/// Spans falling steps from left to right.
std::vector<Point> span_falls(const std::vector<Point>& raw, double slope) {
    std::vector<Point> out{raw.front()};
    std::size_t i = 1;
    while (i < raw.size()) {
        const Point from = out.back();
        const Point next = raw[i];
        if (from.r - next.r <= slope * (next.z - from.z) + same_mm) {
            out.push_back(next);
            ++i;
            continue;
        }
        // The line of the span falls from `from`; walk until it meets the profile again.
        auto line = [&](double z) { return from.r - slope * (z - from.z); };
        bool met = false;
        for (std::size_t j = i; j + 1 < raw.size() && !met; ++j) {
            const Point a = raw[j], b = raw[j + 1];
            const double gap_a = line(a.z) - a.r, gap_b = line(b.z) - b.r;
            if (gap_b > 0) continue;
            const double f = gap_a - gap_b > 0 ? std::clamp(gap_a / (gap_a - gap_b), 0.0, 1.0) : 0.0;
            const Point meeting = a + f * (b - a);
            out.push_back({line(meeting.z), meeting.z});
            i = j + 1;
            met = true;
        }
        if (!met) { // it does not meet the profile before its end
            out.push_back({line(raw.back().z), raw.back().z});
            return out;
        }
    }
    return out;
}

void drop_repeats(std::vector<Point>& points) {
    points.erase(
        std::unique(points.begin(), points.end(), [](Point a, Point b) { return distance(a, b) < same_mm; }),
        points.end());
}

} // namespace

std::vector<Point> mirrored(std::vector<Point> points) {
    std::reverse(points.begin(), points.end());
    for (auto& p : points) p.z = -p.z;
    return points;
}

double Profile::radius(double z_mm) const {
    double best = 0;
    for (std::size_t i = 0; i + 1 < points_.size(); ++i) {
        const Point a = points_[i], b = points_[i + 1];
        if (z_mm < a.z - same_mm || z_mm > b.z + same_mm) continue;
        const double f = b.z - a.z < same_mm ? 0 : std::clamp((z_mm - a.z) / (b.z - a.z), 0.0, 1.0);
        best = std::max(best, b.z - a.z < same_mm ? std::max(a.r, b.r) : a.r + f * (b.r - a.r));
    }
    return best;
}

Profile Profile::between(double z0_mm, double z1_mm) const {
    std::vector<Point> out;
    for (std::size_t i = 0; i + 1 < points_.size(); ++i) {
        const Point a = points_[i], b = points_[i + 1];
        if (b.z < z0_mm - same_mm || a.z > z1_mm + same_mm) continue;
        auto at = [&](double z) {
            return b.z - a.z < same_mm ? a.r : a.r + (b.r - a.r) * (z - a.z) / (b.z - a.z);
        };
        out.push_back(a.z < z0_mm ? Point{at(z0_mm), z0_mm} : a);
        out.push_back(b.z > z1_mm ? Point{at(z1_mm), z1_mm} : b);
    }
    drop_repeats(out);
    // A step exactly at an end belongs to the neighbour, not to this part.
    if (out.size() > 2 && out[1].z - out[0].z < same_mm) out.erase(out.begin());
    if (out.size() > 2 && out.back().z - out[out.size() - 2].z < same_mm) out.pop_back();
    return Profile(std::move(out));
}

Profile Profile::spanned(double length_per_height) const {
    const double slope = 1 / length_per_height;
    auto out = mirrored(span_falls(mirrored(span_falls(points_, slope)), slope));
    drop_repeats(out);
    return Profile(std::move(out)).above(*this); // where a span all but follows the profile, it follows it
}

Profile Profile::grown(const std::function<double(double)>& outer) const {
    auto out = points_;
    for (auto& p : out) p.r = outer(p.r);
    return Profile(std::move(out));
}

Profile Profile::covered_by(const Profile& part) const {
    const double z0 = part.points_.front().z, z1 = part.points_.back().z;
    std::vector<Point> out;
    if (points_.front().z < z0 - same_mm) out = between(points_.front().z, z0).points_;
    out.insert(out.end(), part.points_.begin(), part.points_.end());
    if (points_.back().z > z1 + same_mm) {
        const auto rest = between(z1, points_.back().z).points_;
        out.insert(out.end(), rest.begin(), rest.end());
    }
    drop_repeats(out);
    return Profile(std::move(out));
}

double Profile::place_near(double z_mm) const {
    for (const auto& p : points_)
        if (std::abs(p.z - z_mm) < same_end_mm) return p.z;
    return z_mm;
}

Profile Profile::above(const Profile& floor) const {
    std::vector<double> places;
    for (const auto* profile : {this, &floor})
        for (const auto& p : profile->points_)
            if (p.z >= points_.front().z - same_mm && p.z <= points_.back().z + same_mm)
                places.push_back(p.z);
    std::sort(places.begin(), places.end());
    places.erase(
        std::unique(places.begin(), places.end(), [](double a, double b) { return b - a < same_mm; }),
        places.end());
    std::vector<Point> out;
    for (std::size_t i = 0; i < places.size(); ++i) {
        const double z = places[i], own = radius(z), under = floor.radius(z);
        if (i > 0) { // where the two cross in between
            const double before = radius(places[i - 1]) - floor.radius(places[i - 1]), now = own - under;
            if (before * now < 0) {
                const double f = before / (before - now), at = places[i - 1] + f * (z - places[i - 1]);
                if (at - places[i - 1] > crossing_apart_mm && z - at > crossing_apart_mm)
                    out.push_back({floor.radius(at), at});
            }
        }
        out.push_back({own > under + touching_mm ? own : under, z});
    }
    drop_repeats(out);
    return Profile(std::move(out));
}

Outline Profile::down_to(double inner_radius_mm) const {
    Outline outline;
    outline.start = {inner_radius_mm, points_.front().z};
    for (const auto& p : points_) outline.line_to(p);
    outline.line_to({inner_radius_mm, points_.back().z});
    return outline;
}

double Profile::greatest_radius() const {
    return std::max_element(points_.begin(), points_.end(), [](Point a, Point b) { return a.r < b.r; })->r;
}

double Profile::smallest_radius() const {
    return std::min_element(points_.begin(), points_.end(), [](Point a, Point b) { return a.r < b.r; })->r;
}

} // namespace ng
