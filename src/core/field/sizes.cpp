#include "field/sizes.h"
#include "field/corner_errors.h"
#include "field/tuning.h"
#include "mesh/corner.h"
#include "units/promise.h"
#include <algorithm>
#include <limits>
#include <numeric>

namespace ng {

double FirstSizes::Source::distance_to(Point p) const {
    const Point u = b - a;
    const double f = dot(u, u) > 0 ? std::clamp(dot(p - a, u) / dot(u, u), 0.0, 1.0) : 0.0;
    return distance(p, a + f * u);
}

FirstSizes::FirstSizes(const Section& section, const Mesher& mesher, bool coarse, const Slack& slack)
    : growth_(coarse ? tuning::coarse_growth : tuning::growth) {
    const auto& stretch = mesher.stretch();
    Box box;
    for (const auto& region : section.regions)
        for (const auto& p : polygon_of(region.outline, 0.3)) box.take(stretch.to_mesh(p));
    const double extent = distance(box.low, box.high);
    largest_ = extent * (coarse ? tuning::coarse_largest_share : tuning::largest_share);
    const double step = 1.05 * (coarse ? tuning::coarse_arc_step_rad : tuning::arc_step_rad);
    auto add_arcs = [&](const Outline& outline, bool named_only) {
        Point at = outline.start;
        for (const auto& s : outline.steps) {
            if (s.centre && !(named_only && s.name.empty()))
                if (const auto arc = resolve_arc(at, s)) {
                    // Nothing is stretched where arcs are, but their centres may lie elsewhere.
                    const Point centre = stretch.to_mesh(at) + (arc->centre - at);
                    sources_.push_back({centre, centre, arc->radius_mm, arc->radius_mm * step});
                }
            at = s.to;
        }
    };
    for (const auto& electrode : section.electrodes) add_arcs(electrode.outline, false);
    for (const auto& region : section.regions) add_arcs(region.outline, true);
    for (const auto& path : section.paths) {
        std::vector<Point> points;
        double total = 0;
        for (const auto& p : path.points) {
            points.push_back(stretch.to_mesh(p));
            if (points.size() > 1) total += distance(points[points.size() - 2], points.back());
        }
        const double wide =
            slack(path.name); // corners of the outline that it follows stay corners of the mesh
        const double at_points =
            wide * total * (coarse ? tuning::coarse_path_point_share : tuning::path_point_share);
        const double along = wide * total * (coarse ? tuning::coarse_path_share : tuning::path_share);
        for (std::size_t i = 0; i < points.size(); ++i) {
            sources_.push_back({points[i], points[i], 0, at_points});
            if (i > 0) sources_.push_back({points[i - 1], points[i], 0, along});
        }
    }
    // Corners beside a path: the field varies on the scale of the distance to them, from their reach
    // outwards.
    const auto lines = sources_;
    for (const auto& corner : mesher.singular()) {
        if (!grows_without_limit(corner.order) || (coarse && !corner.strong())) continue;
        const Point at = stretch.to_mesh(corner.at);
        const double share = coarse            ? tuning::coarse_corner_share
                             : corner.strong() ? tuning::corner_share
                                               : tuning::weak_corner_share;
        double nearest = std::numeric_limits<double>::max();
        for (const auto& line : lines) nearest = std::min(nearest, line.distance_to(at));
        double size = std::numeric_limits<double>::max();
        if (nearest < 3 * corner.reach_mm)
            size = corner.reach_mm * share;
        else if (!coarse && corner.strong() && !lines.empty())
            size = nearest * tip_share(corner.order, tuning::first_pollution);
        // A short edge that nearly all flux enters by: what its ends miss changes all that it feeds.
        if (!coarse && corner.order < tuning::sharp_tip && corner.reach_mm < longest_singular_reach_mm)
            size = std::min(size, tuning::sharp_tip_share * corner.reach_mm);
        if (size < largest_) sources_.push_back({at, at, 0, size});
    }
    for (const auto& probe : section.probes) {
        const Point at = stretch.to_mesh(probe.at);
        sources_.push_back({at, at, 0, extent * tuning::probe_share});
    }
    Part all;
    all.box = box.grown(0.1 * extent); // chords and arcs beyond the polygons too
    all.sources.resize(sources_.size());
    std::iota(all.sources.begin(), all.sources.end(), 0);
    parts_.push_back(std::move(all));
    halve(0, 10);
}

/// What a source asks at `p`, were it nearer by that much.
double FirstSizes::at_source(int source, Point p, double nearer) const {
    const auto& s = sources_[source];
    return s.size + growth_ * std::max(0.0, s.distance_to(p) - nearer - s.reach);
}

/// Keeps of a part's sources those that may be the least somewhere in it, and halves it while they are many.
void FirstSizes::halve(int part, int times) {
    const Box box = parts_[part].box;
    const Point middle = box.middle();
    const double half = (0.5 + 1e-9) * distance(box.low, box.high);
    auto sources = std::move(parts_[part].sources);
    double enough = largest_;
    for (const int s : sources) enough = std::min(enough, at_source(s, middle, -half));
    std::erase_if(sources, [&](int s) { return at_source(s, middle, half) > enough; });
    if (times == 0 || sources.size() < 4) {
        parts_[part].sources = std::move(sources);
        return;
    }
    const int halves = parts_[part].halves = static_cast<int>(parts_.size());
    const bool by_r = parts_[part].by_r = box.high.r - box.low.r > box.high.z - box.low.z;
    parts_[part].at = by_r ? middle.r : middle.z;
    Part low, high;
    low.box = high.box = box;
    (by_r ? low.box.high.r : low.box.high.z) = parts_[part].at;
    (by_r ? high.box.low.r : high.box.low.z) = parts_[part].at;
    low.sources = sources;
    high.sources = std::move(sources);
    parts_.push_back(std::move(low));
    parts_.push_back(std::move(high));
    halve(halves, times - 1);
    halve(halves + 1, times - 1);
}

double FirstSizes::operator()(Point p) const {
    const auto* part = &parts_.front();
    while (part->halves >= 0) part = &parts_[part->halves + ((part->by_r ? p.r : p.z) > part->at)];
    double size = largest_;
    for (const int s : part->sources) size = std::min(size, at_source(s, p, 0));
    return size;
}

RefinedSizes::RefinedSizes(const Mesh& mesh, const std::vector<double>& factor, bool marked_only)
    : marked_only_(marked_only) {
    promise(factor.size() == mesh.triangles.size(), "one factor for each triangle");
    promise(mesh.on_drawing.size() == static_cast<std::size_t>(mesh.corner_count),
            "the mesh comes from a mesher");
    shape_.nodes = mesh.on_drawing;
    Box box;
    for (const auto& p : shape_.nodes) box.take(p);
    const double least = tuning::least_share * distance(box.low, box.high);
    for (std::size_t t = 0; t < factor.size(); ++t) {
        if (marked_only && !(factor[t] < 1)) continue;
        const auto& n = mesh.triangles[t];
        double longest = 0;
        for (std::size_t i = 0; i < 3; ++i)
            longest = std::max(longest, distance(shape_.nodes[n[i]], shape_.nodes[n[(i + 1) % 3]]));
        wanted_.push_back(std::max(factor[t] * longest, std::min(longest, least)));
        shape_.triangles.push_back({n[0], n[1], n[2], n[0], n[1], n[2]}); // its tree looks at all six
    }
    shape_.region.assign(shape_.triangles.size(), 0);
    shape_.curved.assign(shape_.triangles.size(), 0);
    tree_ = std::make_unique<TriangleTree>(shape_);
}

double RefinedSizes::operator()(Point p) const {
    constexpr double nothing = std::numeric_limits<double>::max();
    if (shape_.triangles.empty()) return nothing;
    int t = tree_->find(p, -1, 1e-9);
    if (!marked_only_) // beside an arc's chord a place may lie a little outside
        for (double reach = 1e-5; t < 0 && reach < 1e6; reach *= 1e4) t = tree_->find(p, -1, reach);
    return t < 0 ? nothing : wanted_[t];
}

} // namespace ng
