#include "field/near.h"
#include "units/parallel.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>

namespace ng {

Result<NearSolution> solve_near(const Section& section, Point centre, double half_mm, double goal,
                                const CancelFlag* cancel) {
    constexpr int across = 7;
    auto asked = section;
    asked.paths.clear();
    asked.probes.clear();
    const auto polygons = [](const auto& parts) {
        std::vector<std::vector<Point>> out;
        for (const auto& part : parts) out.push_back(polygon_of(part.outline, 0.05));
        return out;
    };
    const auto regions = polygons(section.regions), electrodes = polygons(section.electrodes);
    const auto in_any = [](const auto& all, Point p) {
        return std::any_of(all.begin(), all.end(), [&](const auto& one) { return inside_polygon(one, p); });
    };
    for (int i = 0; i < across; ++i)
        for (int k = 0; k < across; ++k) {
            const double step = 2 * half_mm / (across - 1);
            // Off the symmetric places, where borders like to lie.
            const Point p{centre.r - half_mm + step * (i + 0.03), centre.z - half_mm + step * (k + 0.02)};
            if (section.symmetry == Symmetry::axisymmetric && p.r <= 0) continue;
            if (in_any(electrodes, p)) continue;
            // The last that is drawn there lies on top.
            for (std::size_t r = regions.size(); r-- > 0;)
                if (inside_polygon(regions[r], p)) {
                    asked.probes.push_back({fmt::format("near {} {}", i, k), p, section.regions[r].name});
                    break;
                }
        }
    NearSolution out;
    out.places = static_cast<int>(asked.probes.size());
    SolveOptions options;
    options.goal = goal;
    options.cancel = cancel;
    options.threads = usable_threads();
    options.coarse_first = true;
    options.slack.others = std::numeric_limits<double>::infinity();
    options.slack.reads_others = false;
    options.slack.integrals = std::numeric_limits<double>::infinity();
    options.slack.potentials = false;
    auto solved = solve(asked, options);
    if (!solved) return tl::unexpected(solved.error());
    double greatest = 0, error = 0;
    for (const auto& probe : solved->probes)
        if (probe.judged) {
            greatest = std::max(greatest, probe.E_kV_per_mm);
            error = std::max(error, probe.error_kV_per_mm);
        }
    if (greatest > 0 && solved->report.error_known()) out.relative_error = error / greatest;
    out.solution = std::move(*solved);
    return out;
}

} // namespace ng
