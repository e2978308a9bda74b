#include "field/solve.h"
#include "field/sampling.h"
#include "field/system.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>
#include <limits>
#include <numbers>
#include <numeric>

namespace ng {
namespace {

/// A place or line with a wanted fineness.
struct SizeSource {
    Point a, b;
    double reach; ///< mm round it that have the full fineness
    double size_mm;

    double distance_to(Point p) const {
        const Point u = b - a;
        const double f = dot(u, u) > 0 ? std::clamp(dot(p - a, u) / dot(u, u), 0.0, 1.0) : 0.0;
        return distance(p, a + f * u);
    }
};

/// Wanted edge length before anything is known of the field: fine on electrode arcs and at corners of paths,
/// growing evenly away from them. All lengths scale with the section.
class FirstSizes {
  public:
    FirstSizes(const Section& section, const std::vector<Mesh::Singular>& singular,
               const SolveOptions& options, double arc_step_rad) {
        double r0 = std::numeric_limits<double>::max(), r1 = -r0, z0 = r0, z1 = -r0;
        for (const auto& region : section.regions)
            for (const auto& p : polygon_of(region.outline, 0.3))
                r0 = std::min(r0, p.r), r1 = std::max(r1, p.r), z0 = std::min(z0, p.z),
                z1 = std::max(z1, p.z);
        const double extent = std::hypot(r1 - r0, z1 - z0);
        growth_ = options.coarse ? 0.6 : 0.4;
        largest_ = extent / (options.coarse ? 8 : 14);
        for (const auto& electrode : section.electrodes) {
            Point at = electrode.outline.start;
            for (const auto& step : electrode.outline.steps) {
                if (step.centre)
                    if (const auto arc = resolve_arc(at, step))
                        sources_.push_back(
                            {arc->centre, arc->centre, arc->radius_mm, arc->radius_mm * arc_step_rad * 1.05});
                at = step.to;
            }
        }
        for (const auto& path : section.paths) {
            double total = 0;
            for (std::size_t i = 0; i + 1 < path.points.size(); ++i)
                total += distance(path.points[i], path.points[i + 1]);
            for (std::size_t i = 0; i < path.points.size(); ++i) {
                sources_.push_back({path.points[i], path.points[i], 0, total / (options.coarse ? 40 : 100)});
                if (i > 0)
                    sources_.push_back(
                        {path.points[i - 1], path.points[i], 0, total / (options.coarse ? 20 : 70)});
            }
        }
        // Corners beside a path: the field varies on the scale of the distance to them, from their reach
        // outwards.
        const auto lines = sources_;
        for (const auto& corner : singular) {
            if (options.coarse && !corner.strong) continue;
            for (const auto& line : lines)
                if (line.distance_to(corner.at) < 3 * corner.reach_mm) {
                    const double share = options.coarse ? 2.0 : corner.strong ? 0.25 : 1.0;
                    sources_.push_back({corner.at, corner.at, 0, corner.reach_mm * share});
                    break;
                }
        }
        for (const auto& probe : section.probes) sources_.push_back({probe.at, probe.at, 0, extent / 300});
    }
    double operator()(Point p) const {
        double size = largest_;
        for (const auto& s : sources_)
            size = std::min(size, s.size_mm + growth_ * std::max(0.0, s.distance_to(p) - s.reach));
        return size;
    }

  private:
    std::vector<SizeSource> sources_;
    double growth_ = 0.3, largest_ = 1;
};

/// Half the size of the triangles that carry most of the goal's error.
class Refinement {
  public:
    Refinement(const Mesh& mesh, const std::vector<double>& indicator, const std::vector<char>& forced,
               double share)
        : wanted_(mesh.triangles.size(), 0) {
        std::vector<int> order(indicator.size());
        std::iota(order.begin(), order.end(), 0);
        std::sort(order.begin(), order.end(), [&](int a, int b) {
            return indicator[static_cast<std::size_t>(a)] > indicator[static_cast<std::size_t>(b)];
        });
        const double total = std::accumulate(indicator.begin(), indicator.end(), 0.0);
        double sum = 0;
        std::vector<char> marked(forced);
        // At most so many that the unknowns about double; at least so many that the change tells of the
        // error.
        std::ptrdiff_t marked_count = 0;
        auto left =
            static_cast<std::ptrdiff_t>(indicator.size() / 3) - std::count(forced.begin(), forced.end(), 1);
        for (const int t : order) {
            const bool few = marked_count < static_cast<std::ptrdiff_t>(indicator.size() / 9);
            if ((sum >= share * total && !few) || left-- <= 0) break;
            ++marked_count;
            sum += indicator[static_cast<std::size_t>(t)];
            marked[static_cast<std::size_t>(t)] = 1;
        }
        for (std::size_t t = 0; t < marked.size(); ++t) {
            if (!marked[t]) continue;
            const auto& n = mesh.triangles[t];
            double longest = 0;
            for (std::size_t i = 0; i < 3; ++i)
                longest = std::max(longest, distance(mesh.nodes[static_cast<std::size_t>(n[i])],
                                                     mesh.nodes[static_cast<std::size_t>(n[(i + 1) % 3])]));
            wanted_[part_.triangles.size()] = 0.55 * longest;
            part_.triangles.push_back(n);
            part_.region.push_back(0);
            part_.curved.push_back(0);
        }
        part_.nodes = mesh.nodes;
        tree_ = std::make_unique<TriangleTree>(part_);
    }
    double operator()(Point p) const {
        if (part_.triangles.empty()) return std::numeric_limits<double>::max();
        const int t = tree_->find(p, -1, 1e-9);
        return t < 0 ? std::numeric_limits<double>::max() : wanted_[static_cast<std::size_t>(t)];
    }

  private:
    Mesh part_; // the marked triangles only: a small tree, quick to ask
    std::vector<double> wanted_;
    std::unique_ptr<TriangleTree> tree_;
};

void fill_conductors(const Mesh& mesh, const CapacitiveSystem& system, Solution& out) {
    const auto reaction = system.reaction(out.potential_kV);
    const double to_coulomb = eps0_F_per_m * (out.symmetry == Symmetry::planar ? 1e3 : 1.0); // kV mm = V m
    out.conductors.clear();
    for (const auto& c : mesh.conductors) out.conductors.push_back({c.name, c.floating, c.voltage_kV, 0});
    out.energy_J = 0;
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node) {
        const int conductor = mesh.conductor[node];
        if (conductor < 0) continue;
        auto& c = out.conductors[static_cast<std::size_t>(conductor)];
        const auto i = static_cast<Eigen::Index>(node);
        if (c.floating) c.potential_kV = out.potential_kV[i];
        c.charge_C += to_coulomb * reaction[i];
        out.energy_J += 0.5 * to_coulomb * reaction[i] * out.potential_kV[i] * 1e3;
    }
}

/// Errors from the last coarser solution: the change of each path sample and of each edge's peak.
void compare(const Solution& before, Solution& now) {
    now.report.worst_error = 0;
    for (std::size_t k = 0; k < now.paths.size(); ++k) {
        auto& path = now.paths[k];
        double worst = 0;
        for (std::size_t i = 0; i < path.samples.size(); ++i) {
            auto& a = path.samples[i];
            const auto& b = before.paths[k].samples[i];
            a.error_kV_per_mm =
                std::hypot(a.E_t_kV_per_mm - b.E_t_kV_per_mm, a.E_n_kV_per_mm - b.E_n_kV_per_mm);
            if (!a.near_singular) worst = std::max(worst, a.error_kV_per_mm);
        }

        path.relative_error = path.peak_kV_per_mm > 0 ? worst / path.peak_kV_per_mm : 0;
        now.report.worst_error = std::max(now.report.worst_error, path.relative_error);
    }
    for (auto& edge : now.edges)
        if (const auto* old = before.edge(edge.name)) {
            edge.relative_error = std::abs(edge.peak_kV_per_mm - old->peak_kV_per_mm) / edge.peak_kV_per_mm;
            now.report.worst_error = std::max(now.report.worst_error, edge.relative_error);
        }
}

Result<void> check_analysis(const Section& section) {
    if (section.analysis != "capacitive")
        return refuse("section", fmt::format("analysis “{}” is not solved by this version", section.analysis),
                      "Use \"analysis\": \"capacitive\"");
    for (const auto& region : section.regions)
        if (section.materials.at(region.material).conduction)
            return refuse("material " + region.material,
                          "it conducts, and a capacitive analysis would ignore that",
                          "Remove its conduction to solve with its permittivity alone");
    return {};
}

} // namespace

Result<Solution> solve(const Section& section, const SolveOptions& options) {
    if (auto ok = validate(section); !ok) return tl::unexpected(ok.error());
    if (auto ok = check_analysis(section); !ok) return tl::unexpected(ok.error());
    Stopwatch total, watch;
    SolveReport report;
    report.goal = options.goal;
    auto stopped = [&] { return options.cancel && options.cancel->load(std::memory_order_relaxed); };
    auto cancelled = [&] {
        Solution none;
        none.report = report;
        none.report.end = SolveReport::End::cancelled;
        return none;
    };

    MesherOptions mesher_options;
    mesher_options.arc_step_rad = std::numbers::pi / (options.coarse ? 14 : 24);
    mesher_options.most_triangles =
        options.most_unknowns / 2; // about two unknowns a triangle: the budget holds within a pass too
    auto mesher = Mesher::create(section, mesher_options);
    if (!mesher) return tl::unexpected(mesher.error());
    const FirstSizes first(section, mesher->singular(), options, mesher_options.arc_step_rad);
    SizeField sizes = std::cref(first);
    std::unique_ptr<Refinement> refinement;
    std::unique_ptr<Solution> before;

    for (;;) {
        watch.lap();
        const bool complete = mesher->refine(sizes, options.cancel);
        if (stopped()) return cancelled();
        if (!complete && !before)
            return refuse("section", "the mesh outgrows its limit before the first solution",
                          "Look for slivers: outlines that meet at a very small angle or very thin gaps");
        auto mesh = mesher->mesh();
        if (!mesh) return tl::unexpected(mesh.error());
        Solution now;
        now.symmetry = section.symmetry;
        now.mesh = std::make_shared<const Mesh>(std::move(*mesh));
        for (const auto& region : section.regions) {
            now.region_names.push_back(region.name);
            now.eps_r.push_back(section.materials.at(region.material).eps_r);
        }
        report.mesh_s += watch.lap();
        if (const int region = isolated_region(*now.mesh); region >= 0)
            return refuse("region " + section.regions[static_cast<std::size_t>(region)].name,
                          "no electrode holds its potential",
                          "Join it to a region with an electrode, or give it one");
        CapacitiveSystem system(*now.mesh, now.eps_r, section.symmetry);
        report.assembly_s += watch.lap();
        if (stopped()) return cancelled();
        if (!system.factorise())
            return refuse("section", "the equations are singular", "Check for degenerate outlines");
        report.factor_s += watch.lap();
        now.potential_kV = system.solve();
        fill_conductors(*now.mesh, system, now);
        report.solve_s += watch.lap();
        if (stopped()) return cancelled();
        now.recovered = recover(*now.mesh, now.potential_kV);
        report.recovery_s += watch.lap();
        const TriangleTree tree(*now.mesh);
        auto paths = sample_paths(section, now, tree);
        if (!paths) return tl::unexpected(paths.error());
        auto probes = sample_probes(section, now, tree);
        if (!probes) return tl::unexpected(probes.error());
        now.paths = std::move(*paths);
        now.probes = std::move(*probes);
        now.edges = sample_edges(section, now);
        report.sampling_s += watch.lap();
        ++report.passes;
        report.triangles = static_cast<int>(now.mesh->triangles.size());
        report.unknowns = system.unknown_count();
        report.total_s += total.lap();
        now.report = report;
        if (before) compare(*before, now);
        report.worst_error = now.report.worst_error;

        using End = SolveReport::End;
        if (options.coarse) {
            now.report.end = End::single_pass;
            return now;
        }
        if (before && now.report.worst_error <= options.goal) {
            now.report.end = End::goal_met;
            return now;
        }
        if (!complete || report.passes >= options.most_passes ||
            report.unknowns > options.most_unknowns / 2) {
            now.report.end = End::budget;
            return now;
        }
        if (options.progress) options.progress(now.report);
        if (stopped()) return cancelled();

        watch.lap();
        const auto own =
            recovery_error(*now.mesh, now.eps_r, section.symmetry, now.potential_kV, now.recovered);
        const auto adjoint = system.solve_adjoint(goal_load(section, now, tree));
        const auto weight =
            recovery_error(*now.mesh, now.eps_r, section.symmetry, adjoint, recover(*now.mesh, adjoint));
        std::vector<double> indicator(own.size());
        for (std::size_t t = 0; t < own.size(); ++t) indicator[t] = own[t] * weight[t];
        std::vector<char> forced(own.size(), 0);
        for (std::size_t k = 0; k < now.mesh->arc_edges.size(); ++k) {
            const auto& name = now.mesh->arcs[static_cast<std::size_t>(now.mesh->arc_of_edge[k])].name;
            const auto* edge = now.edge(name);
            if (edge && (!before || edge->relative_error > options.goal))
                forced[static_cast<std::size_t>(now.mesh->arc_edge_triangle[k])] = 1;
        }
        for (std::size_t k = 0; before && k < now.paths.size(); ++k) {
            const auto& path = now.paths[k];
            const int region = region_index(section, path.side);
            for (const auto& sample : path.samples)
                if (!sample.near_singular &&
                    sample.error_kV_per_mm > 0.7 * options.goal * path.peak_kV_per_mm)
                    if (const auto reading = locate(*now.mesh, tree, sample.at, region);
                        reading.triangle >= 0)
                        forced[static_cast<std::size_t>(reading.triangle)] = 1;
        }
        refinement = std::make_unique<Refinement>(*now.mesh, indicator, forced, 0.5);
        sizes = std::cref(*refinement);
        report.recovery_s += watch.lap();
        before = std::make_unique<Solution>(std::move(now));
    }
}

} // namespace ng
