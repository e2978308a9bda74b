#include "mesh/stretch.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace ng {
namespace {

constexpr double arc_step_rad = std::numbers::pi / 24;
/// Each piece away from a span's end is this much longer than the one before, and as long on the mesh: not so
/// much that a well-shaped triangle across a break could turn over.
constexpr double growth = 1.4;
/// Thicknesses of the thinnest layer that a piece is long on the mesh.
constexpr double piece_thicknesses = 2;
/// A span pays where it is longer than this share of what lies across it, for each piece: beside the thin
/// layers triangles may be no longer than they are far from the span's ends, and so no wider than the pieces
/// on the mesh.
constexpr double least_span_over_across = 1.0 / 36;
/// Sections of more lines are not looked at: each long gap looks at all of them.
constexpr std::size_t most_lines = 50000;

} // namespace

double Stretch::Axis::mapped(const std::vector<double>& from, const std::vector<double>& to, double x) {
    if (from.empty()) return x;
    if (x <= from.front()) return to.front() + (x - from.front());
    if (x >= from.back()) return to.back() + (x - from.back());
    const auto k = static_cast<std::size_t>(std::upper_bound(from.begin(), from.end(), x) - from.begin());
    const double share = (x - from[k - 1]) / (from[k] - from[k - 1]);
    return to[k - 1] + share * (to[k] - to[k - 1]);
}

double Stretch::Axis::overlength(double low, double high, double wanted) const {
    if (from.empty()) return 0;
    const double a = back(low), b = back(high);
    if (b - a <= 1.01 * (high - low)) return 0;
    double away = std::numeric_limits<double>::infinity();
    for (const double end : ends) away = std::min(away, std::abs((a + b) / 2 - end));
    return (b - a) / std::max(wanted, away);
}

double Stretch::overlength(const std::array<Point, 3>& on_mesh, double wanted) const {
    const auto [low_r, high_r] = std::minmax({on_mesh[0].r, on_mesh[1].r, on_mesh[2].r});
    const auto [low_z, high_z] = std::minmax({on_mesh[0].z, on_mesh[1].z, on_mesh[2].z});
    return std::max(r_.overlength(low_r, high_r, wanted), z_.overlength(low_z, high_z, wanted));
}

Stretch::Axis Stretch::axis_of(const std::vector<std::pair<Point, Point>>& lines, std::vector<double> stops,
                               bool along_z, bool round, double shortest_span) {
    const auto along = [&](Point p) { return along_z ? p.z : p.r; };
    const auto across = [&](Point p) { return along_z ? p.r : p.z; };
    std::sort(stops.begin(), stops.end());
    stops.erase(std::unique(stops.begin(), stops.end()), stops.end());
    Axis out;
    double shift = 0; // of what lies beyond the spans found so far
    const double extent = stops.empty() ? 0 : stops.back() - stops.front();
    constexpr double far = std::numeric_limits<double>::infinity();
    double lowest = far, highest = -far;
    for (const auto& [p, q] : lines) {
        lowest = std::min({lowest, across(p), across(q)});
        highest = std::max({highest, across(p), across(q)});
    }
    for (std::size_t i = 0; i + 1 < stops.size(); ++i) {
        const double a = stops[i], b = stops[i + 1], span = b - a;
        if (span < 0.01 * extent) continue; // so at most a hundred spans are looked at
        std::vector<double> levels;
        bool even = true;
        for (const auto& [p, q] : lines) {
            const double low = std::min(along(p), along(q)), high = std::max(along(p), along(q));
            if (low > a || high < b) continue;
            even = even && std::abs(across(p) - across(q)) <= 1e-9;
            levels.push_back(across(p));
        }
        if (!even || levels.size() < 2) continue;
        if (round) levels.push_back(0);
        std::sort(levels.begin(), levels.end());
        double thinnest = span;
        for (std::size_t k = 1; k < levels.size(); ++k)
            if (const double t = levels[k] - levels[k - 1]; t > 1e-4) thinnest = std::min(thinnest, t);
        if (span < shortest_span * thinnest) continue;
        // From both ends towards the middle.
        std::vector<double> lengths;
        const double on_mesh = piece_thicknesses * thinnest;
        for (double piece = on_mesh, sum = 0; sum < span / 2; piece *= growth) {
            lengths.push_back(std::min(piece, span / 2 - sum));
            sum += piece;
        }
        if (span < least_span_over_across * 2 * static_cast<double>(lengths.size()) * (highest - lowest))
            continue;
        std::vector<std::pair<double, double>> pieces; // in the section, on the mesh
        double piece = on_mesh;
        for (const double length : lengths)
            pieces.emplace_back(length, on_mesh * length / piece), piece *= growth;
        const auto half = pieces;
        pieces.insert(pieces.end(), half.rbegin(), half.rend());
        double x = a, y = a + shift;
        out.ends.insert(out.ends.end(), {a, b});
        out.from.push_back(x);
        out.to.push_back(y);
        for (const auto& [length, short_length] : pieces) {
            out.from.push_back(x += length);
            out.to.push_back(y += short_length);
        }
        out.from.back() = b;
        shift = y - b;
    }
    // Two spans that follow one another share a break point.
    for (std::size_t k = 1; k < out.from.size();)
        if (out.from[k] <= out.from[k - 1]) {
            out.from.erase(out.from.begin() + static_cast<std::ptrdiff_t>(k));
            out.to.erase(out.to.begin() + static_cast<std::ptrdiff_t>(k));
        } else {
            ++k;
        }
    return out;
}

Stretch Stretch::of(const Section& section, double shortest_span) {
    std::vector<std::pair<Point, Point>> lines;
    std::vector<Point> stops;
    auto add = [&](const Outline& outline) {
        const auto polygon = polygon_of(outline, arc_step_rad);
        for (std::size_t i = 0; i < polygon.size(); ++i) {
            lines.emplace_back(polygon[i], polygon[(i + 1) % polygon.size()]);
            stops.push_back(polygon[i]);
        }
    };
    for (const auto& region : section.regions) add(region.outline);
    for (const auto& electrode : section.electrodes) add(electrode.outline);
    auto add_line = [&](const std::vector<Point>& points, bool is_line) {
        for (std::size_t i = 0; i < points.size(); ++i) {
            stops.push_back(points[i]);
            if (is_line && i > 0) lines.emplace_back(points[i - 1], points[i]);
        }
    };
    for (const auto& boundary : section.boundaries) add_line(boundary.along, true);
    for (const auto& path : section.paths) add_line(path.points, false);
    for (const auto& probe : section.probes) stops.push_back(probe.at);
    Stretch out;
    if (lines.size() > most_lines) return out;
    std::vector<double> r, z;
    for (const auto& p : stops) r.push_back(p.r), z.push_back(p.z);
    out.r_ = axis_of(lines, r, false, false, shortest_span);
    out.z_ = axis_of(lines, z, true, section.symmetry == Symmetry::axisymmetric, shortest_span);
    return out;
}

} // namespace ng
