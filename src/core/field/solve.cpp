#include "field/solve.h"
#include "field/sampling.h"
#include "field/steady.h"
#include "field/transient.h"
#include <algorithm>
#include <fmt/format.h>
#include <future>
#include <limits>
#include <mutex>
#include <numbers>
#include <numeric>
#include <thread>

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
        growth_ = options.coarse ? 0.6 : 0.55;
        largest_ = extent / (options.coarse ? 8 : 10);
        auto add_arcs = [&](const Outline& outline, bool named_only) {
            Point at = outline.start;
            for (const auto& step : outline.steps) {
                if (step.centre && !(named_only && step.name.empty()))
                    if (const auto arc = resolve_arc(at, step))
                        sources_.push_back(
                            {arc->centre, arc->centre, arc->radius_mm, arc->radius_mm * arc_step_rad * 1.05});
                at = step.to;
            }
        };
        for (const auto& electrode : section.electrodes) add_arcs(electrode.outline, false);
        for (const auto& region : section.regions) add_arcs(region.outline, true);
        for (const auto& path : section.paths) {
            double total = 0;
            for (std::size_t i = 0; i + 1 < path.points.size(); ++i)
                total += distance(path.points[i], path.points[i + 1]);
            for (std::size_t i = 0; i < path.points.size(); ++i) {
                sources_.push_back({path.points[i], path.points[i], 0, total / (options.coarse ? 40 : 60)});
                if (i > 0)
                    sources_.push_back(
                        {path.points[i - 1], path.points[i], 0, total / (options.coarse ? 20 : 40)});
            }
        }
        // Corners beside a path: the field varies on the scale of the distance to them, from their reach
        // outwards.
        const auto lines = sources_;
        for (const auto& corner : singular) {
            if (options.coarse && !corner.strong) continue;
            for (const auto& line : lines)
                if (line.distance_to(corner.at) < 3 * corner.reach_mm) {
                    const double share = options.coarse ? 2.0 : corner.strong ? 0.4 : 1.0;
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

/// Half the size of the triangles that carry most of the goal's error; `forced`: per triangle a smaller share
/// of its size where a reading is known to be off, else 1.
class Refinement {
  public:
    Refinement(const Mesh& mesh, const std::vector<double>& indicator, const std::vector<double>& forced,
               double share)
        : wanted_(mesh.triangles.size(), 0) {
        std::vector<int> order(indicator.size());
        std::iota(order.begin(), order.end(), 0);
        std::sort(order.begin(), order.end(), [&](int a, int b) {
            return indicator[static_cast<std::size_t>(a)] > indicator[static_cast<std::size_t>(b)];
        });
        const double total = std::accumulate(indicator.begin(), indicator.end(), 0.0);
        double sum = 0;
        std::vector<double> factor(forced);
        // At most so many that the unknowns about double; at least so many that the change tells of the
        // error.
        std::ptrdiff_t marked_count = 0;
        auto left = static_cast<std::ptrdiff_t>(indicator.size() / 3) -
                    std::count_if(forced.begin(), forced.end(), [](double f) { return f < 1; });
        for (const int t : order) {
            const bool few = marked_count < static_cast<std::ptrdiff_t>(indicator.size() / 20);
            if ((sum >= share * total && !few) || left-- <= 0) break;
            ++marked_count;
            sum += indicator[static_cast<std::size_t>(t)];
            factor[static_cast<std::size_t>(t)] = std::min(factor[static_cast<std::size_t>(t)], halved);
        }
        for (std::size_t t = 0; t < factor.size(); ++t) {
            if (!(factor[t] < 1)) continue;
            const auto& n = mesh.triangles[t];
            double longest = 0;
            for (std::size_t i = 0; i < 3; ++i)
                longest = std::max(longest, distance(mesh.nodes[static_cast<std::size_t>(n[i])],
                                                     mesh.nodes[static_cast<std::size_t>(n[(i + 1) % 3])]));
            wanted_[part_.triangles.size()] = factor[t] * longest;
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

    static constexpr double halved = 0.55; // the mesher's edges come out a little shorter than asked

  private:
    Mesh part_; // the marked triangles only: a small tree, quick to ask
    std::vector<double> wanted_;
    std::unique_ptr<TriangleTree> tree_;
};

/// Share of a change between two meshes that is taken as the error of the finer: Richardson's extrapolation
/// for a figure whose error falls with the square of the local size (recovered fields do at least), no better
/// than size ratios can be trusted, and the whole change where the mesh was hardly refined. There nothing may
/// change though the error is still what it was: `error_before` lives on with its own share. 0: not known,
/// and the rate is not either; the whole change is taken.
double error_after(double change, double error_before, double size_before, double size_now) {
    if (error_before == 0) return change;
    const double squared = size_now / size_before * size_now / size_before;
    const double q = std::clamp(squared, 0.25, 0.5);
    return std::max(change * q / (1 - q), error_before * std::clamp(squared, 0.1, 1.0));
}

/// Errors of paths and edges of `now` from the solution on the mesh before.
void compare(const Solution& before, const Readings& readings_before, const Readings& readings_now,
             Solution& now) {
    now.report.worst_error = 0;
    // Of transients the two may have their largest values with different signs.
    const bool signless = now.analysis != "capacitive" && now.analysis != "dc";
    auto change = [&](double a, double b) { return signless ? std::abs(a) - std::abs(b) : a - b; };
    for (std::size_t k = 0; k < now.paths.size(); ++k) {
        auto& path = now.paths[k];
        double worst = 0;
        for (std::size_t i = 0; i < path.samples.size(); ++i) {
            auto& a = path.samples[i];
            const auto& b = before.paths[k].samples[i];
            a.error_kV_per_mm = error_after(std::hypot(change(a.E_t_kV_per_mm, b.E_t_kV_per_mm),
                                                       change(a.E_n_kV_per_mm, b.E_n_kV_per_mm)),
                                            b.error_kV_per_mm, readings_before.size_at_sample(k, i),
                                            readings_now.size_at_sample(k, i));
            if (!a.near_singular) worst = std::max(worst, a.error_kV_per_mm);
        }
        path.relative_error = path.peak_kV_per_mm > 0 ? worst / path.peak_kV_per_mm : 0;
        now.report.worst_error = std::max(now.report.worst_error, path.relative_error);
    }
    for (std::size_t k = 0; k < now.edges.size(); ++k) {
        auto& edge = now.edges[k];
        const auto& old = before.edges[k];
        if (!(edge.peak_kV_per_mm > 0)) continue;
        edge.relative_error =
            error_after(std::abs(edge.peak_kV_per_mm - old.peak_kV_per_mm) / edge.peak_kV_per_mm,
                        old.relative_error, readings_before.size_on_edge(k), readings_now.size_on_edge(k));
        now.report.worst_error = std::max(now.report.worst_error, edge.relative_error);
    }
}

bool is_transient(const Section& section) {
    return section.analysis == "impulse" || (section.analysis == "dc" && section.dc_duration_s) ||
           (section.analysis == "nonlinear" && section.cycles.in_time);
}

Result<void> check_analysis(const Section& section) {
    const auto& a = section.analysis;
    for (const auto& region : section.regions) {
        const auto& conduction = section.materials.at(region.material).conduction;
        if (a == "capacitive" && conduction)
            return refuse("material " + region.material,
                          "it conducts, and a capacitive analysis would ignore that",
                          "Use \"analysis\": \"complex\", or remove its conduction");
        if (a == "complex" && conduction && conduction->depends_on_field())
            return refuse("material " + region.material,
                          "its conduction depends on the field, which one linear solution cannot follow",
                          "Use \"analysis\": \"nonlinear\"");
        if (a == "dc" && !conduction)
            return refuse(
                "material " + region.material,
                fmt::format("it has no conductivity, and at DC that decides the field in “{}”", region.name),
                "Give it a conduction law, however small");
    }
    if ((a == "complex" || a == "nonlinear") && !(section.frequency_hz > 0))
        return refuse("section", fmt::format("a {} analysis at frequency {:g} Hz", a, section.frequency_hz),
                      "Give a frequency above 0, or use \"analysis\": \"dc\"");
    return {};
}

/// What the mesh of a transient is adapted to: the phasor state at the frequency of its steepest part.
Section surrogate_of(const Section& section) {
    Section out = section;
    if (section.analysis == "nonlinear") {
        out.cycles.in_time = false;
    } else if (section.analysis == "dc") {
        out.dc_duration_s.reset();
    } else {
        out.analysis = section.depends_on_field() ? "nonlinear"
                       : section.conducts()       ? "complex"
                                                  : "capacitive";
        out.frequency_hz = 1e6 / (std::numbers::pi * section.impulse.front_us);
        for (auto& e : out.electrodes) e.voltage_kV /= std::numbers::sqrt2;
        for (auto& b : out.boundaries) b.voltage_kV /= std::numbers::sqrt2;
    }
    return out;
}

using End = SolveReport::End;

/// One mesh with all that is kept of it.
struct Level {
    std::shared_ptr<const Assembly> assembly;
    std::shared_ptr<SteadyModel> model;
    std::shared_ptr<const Readings> readings;
};

struct Adapted {
    Solution solution;
    Level fine, coarse; ///< the last mesh and the one before; `coarse` empty after a single pass
    bool cancelled() const { return solution.report.end == End::cancelled; }
};

Solution cancelled_solution(const SolveReport& report) {
    Solution none;
    none.report = report;
    none.report.end = End::cancelled;
    return none;
}

InputError singular_equations() {
    return {"section", "the equations are singular", "Check for degenerate outlines"};
}

/// Solves a steady analysis on one level.
Result<Solution> solve_level(const Section& section, const Level& level, const Solution* start,
                             SolveReport& report) {
    Stopwatch watch;
    Solution now;
    now.report = report;
    now.report.notes.clear();
    const double factored = level.model->factor_seconds();
    const auto outcome = level.model->solve(section, start, now);
    const double factor_s = level.model->factor_seconds() - factored;
    report.factor_s += factor_s;
    report.solve_s += watch.lap() - factor_s;
    if (outcome.cancelled) return cancelled_solution(report);
    if (outcome.singular) return tl::unexpected(singular_equations());
    level.readings->report(level.readings->read(now.potential_kV, now.imaginary_kV), now);
    report.sampling_s += watch.lap();
    report.iterations = now.report.iterations;
    report.residual = now.report.residual;
    report.converged = now.report.converged;
    report.notes = now.report.notes;
    report.triangles = static_cast<int>(now.mesh->triangles.size());
    report.unknowns = level.assembly->unknown_count();
    now.report = report;
    return now;
}

/// The field for pictures, and the end of the clock.
void finish(Solution& solution) {
    Stopwatch watch;
    solution.field = averaged_field(*solution.mesh, solution.potential_kV, solution.imaginary_kV);
    solution.report.recovery_s += watch.lap();
}

Result<Adapted> adapt(const Section& section, const SolveOptions& options) {
    Stopwatch total, watch;
    SolveReport report;
    report.goal = options.goal;
    auto stopped = [&] { return options.cancel && options.cancel->load(std::memory_order_relaxed); };
    auto cancelled = [&] { return Adapted{cancelled_solution(report), {}, {}}; };

    MesherOptions mesher_options;
    mesher_options.arc_step_rad = std::numbers::pi / (options.coarse ? 14 : 16);
    mesher_options.most_triangles =
        options.most_unknowns / 2; // about two unknowns a triangle: the budget holds within a pass too
    mesher_options.region_weight = region_weights(section);
    auto mesher = Mesher::create(section, mesher_options);
    if (!mesher) return tl::unexpected(mesher.error());
    const FirstSizes first(section, mesher->singular(), options, mesher_options.arc_step_rad);
    SizeField sizes = std::cref(first);
    std::unique_ptr<Refinement> refinement;
    const auto kept_section = std::make_shared<const Section>(section);
    std::unique_ptr<Adapted> before;

    for (;;) {
        watch.lap();
        const bool complete = mesher->refine(sizes, options.cancel);
        if (stopped()) return cancelled();
        if (!complete && !before)
            return refuse("section", "the mesh outgrows its limit before the first solution",
                          "Look for slivers: outlines that meet at a very small angle or very thin gaps");
        auto mesh = mesher->mesh();
        if (!mesh) return tl::unexpected(mesh.error());
        if (const int region = isolated_region(*mesh); region >= 0)
            return refuse("region " + section.regions[static_cast<std::size_t>(region)].name,
                          "no electrode holds its potential",
                          "Join it to a region with an electrode, or give it one");
        report.mesh_s += watch.lap();
        Adapted now;
        now.fine.assembly = std::make_shared<const Assembly>(std::make_shared<const Mesh>(std::move(*mesh)),
                                                             section.symmetry);
        now.fine.model = std::make_shared<SteadyModel>(now.fine.assembly, options.cancel);
        report.assembly_s += watch.lap();
        auto readings = Readings::make(kept_section, now.fine.assembly->mesh_pointer());
        if (!readings) return tl::unexpected(readings.error());
        now.fine.readings = std::make_shared<const Readings>(std::move(*readings));
        report.sampling_s += watch.lap();
        if (stopped()) return cancelled();
        auto solved = solve_level(section, now.fine, before ? &before->solution : nullptr, report);
        if (!solved) return tl::unexpected(solved.error());
        if (solved->report.end == End::cancelled || stopped()) return cancelled();
        now.solution = std::move(*solved);
        ++report.passes;
        report.total_s += total.lap();
        now.solution.report = report;
        if (before) {
            compare(before->solution, *before->fine.readings, *now.fine.readings, now.solution);
            now.coarse = before->fine;
        }
        report.worst_error = now.solution.report.worst_error;

        auto& final = now.solution.report;
        const bool done = before && report.worst_error <= options.goal;
        if (options.coarse) final.end = End::single_pass;
        if (done) final.end = End::goal_met;
        if (!done && !options.coarse) final.end = End::budget;
        if (options.coarse || done || !complete || report.passes >= options.most_passes ||
            report.unknowns > options.most_unknowns / 2)
            return now;
        if (options.progress) options.progress(now.solution.report);
        if (stopped()) return cancelled();

        watch.lap();
        const auto& state = now.solution;
        const auto& mesh_now = *state.mesh;
        const auto weights = region_weights(section);
        const auto own =
            averaging_error(mesh_now, weights, section.symmetry, state.potential_kV, state.imaginary_kV,
                            averaged_field(mesh_now, state.potential_kV, state.imaginary_kV));
        const auto adjoint = now.fine.model->adjoint(
            now.fine.readings->goal_load(now.fine.readings->read(state.potential_kV, state.imaginary_kV)));
        const auto weight =
            averaging_error(mesh_now, weights, section.symmetry, adjoint.first, adjoint.second,
                            averaged_field(mesh_now, adjoint.first, adjoint.second));
        std::vector<double> indicator(own.size());
        for (std::size_t t = 0; t < own.size(); ++t) indicator[t] = own[t] * weight[t];
        std::vector<double> forced(own.size(), 1.0);
        // Errors of recovered fields fall about with the square of the size.
        auto force = [&](int t, double error) {
            auto& factor = forced[static_cast<std::size_t>(t)];
            factor =
                std::min(factor, std::clamp(std::sqrt(0.7 * options.goal / error), 0.38, Refinement::halved));
        };
        for (std::size_t k = 0; k < mesh_now.arc_edges.size(); ++k) {
            const auto& name = mesh_now.arcs[static_cast<std::size_t>(mesh_now.arc_of_edge[k])].name;
            const auto* edge = state.edge(name);
            if (edge && (!before || edge->relative_error > options.goal))
                force(mesh_now.arc_edge_triangle[k], options.goal);
        }
        for (std::size_t k = 0; k < state.paths.size(); ++k) {
            const auto& path = state.paths[k];
            for (std::size_t i = 0; i < path.samples.size(); ++i) {
                const auto& sample = path.samples[i];
                const double error = before ? sample.error_kV_per_mm / path.peak_kV_per_mm : options.goal;
                if (!sample.near_singular && error > 0.7 * options.goal)
                    force(now.fine.readings->reading_of(k, i).triangle, error);
            }
        }
        refinement = std::make_unique<Refinement>(mesh_now, indicator, forced, before ? 0.3 : 0.5);
        sizes = std::cref(*refinement);
        report.recovery_s += watch.lap();
        before = std::make_unique<Adapted>(std::move(now));
    }
}

/// The transient on the adapted meshes, coarse first: their difference is its error.
Result<Solution> step_through(const Section& section, Adapted adapted, const SolveOptions& options) {
    auto& report = adapted.solution.report;
    Stopwatch watch;
    const auto section_kept = std::make_shared<const Section>(section);
    const auto wave = section.analysis == "impulse" ? Waveform::impulse(section.impulse)
                      : section.analysis == "dc"    ? Waveform::step()
                                                    : Waveform::sine(section.frequency_hz);
    const double end_s =
        section.analysis == "impulse" ? wave.suggested_end_s() : section.dc_duration_s.value_or(0);
    TransientOptions transient;
    transient.cancel = options.cancel;
    std::unique_ptr<Solution> before;
    std::unique_ptr<Readings> readings_before;
    for (const auto* level : {&adapted.coarse, &adapted.fine}) {
        if (!level->assembly) continue;
        auto readings = Readings::make(section_kept, level->assembly->mesh_pointer());
        if (!readings) return tl::unexpected(readings.error());
        Solution now;
        now.report = report;
        now.report.worst_error = 0;
        const auto outcome =
            run_transient(section, level->assembly, *readings, wave, end_s,
                          section.analysis == "nonlinear" ? &adapted.solution : nullptr, transient, now);
        if (outcome.cancelled) return cancelled_solution(report);
        if (outcome.failed)
            return refuse("section",
                          fmt::format("time stepping could not go on at {:.3g} s", outcome.reached_s),
                          "Check the conduction laws: one of them may rise too steeply");
        now.report.solve_s += watch.lap();
        if (before) {
            compare(*before, *readings_before, *readings, now);
            now.report.end = now.report.worst_error <= options.goal ? End::goal_met : End::budget;
        } else {
            now.report.end = End::single_pass;
        }
        before = std::make_unique<Solution>(std::move(now));
        readings_before = std::make_unique<Readings>(std::move(*readings));
    }
    return std::move(*before);
}

/// The shapes of a section, for comparing.
bool same_shapes(const Section& a, const Section& b) {
    const auto shapes = [](const Section& s) {
        auto document = write_section(s);
        for (const char* free : {"materials", "frequency_hz", "analysis", "impulse", "nonlinear", "dc"})
            document.erase(free);
        for (auto* list : {"electrodes", "boundaries"})
            if (document.contains(list))
                for (auto& item : document[list]) item.erase("voltage_kV");
        for (auto& item : document["regions"]) item.erase("material");
        return document;
    };
    return shapes(a) == shapes(b);
}

} // namespace

Result<Solution> solve(const Section& section, const SolveOptions& options) {
    auto kept = Kept::make(section, options);
    if (!kept) return tl::unexpected(kept.error());
    return std::move(*kept).take();
}

struct Kept::State {
    Section section;
    SolveOptions options; ///< as the work sees them: its own flag and its own reports
    Adapted adapted;
    const CancelFlag* callers_cancel = nullptr;
    CancelFlag cancel{false};
    std::mutex mutex;
    std::vector<SolveReport> reports; ///< not yet given to the caller
    bool abandoned = false;

    Result<void> build();
};

Kept::Kept(std::shared_ptr<State> state) : state_(std::move(state)) {}
Kept::~Kept() = default;
Kept::Kept(Kept&&) noexcept = default;
Kept& Kept::operator=(Kept&&) noexcept = default;

Result<void> Kept::State::build() {
    Stopwatch total;
    SolveOptions inner = options;
    const bool transient = is_transient(section);
    if (transient) inner.most_unknowns = std::min(options.most_unknowns, most_unknowns_in_time);
    auto found = adapt(transient ? surrogate_of(section) : section, inner);
    if (!found) return tl::unexpected(found.error());
    adapted = std::move(*found);
    if (transient && !adapted.cancelled()) {
        auto stepped = step_through(section, adapted, options);
        if (!stepped) return tl::unexpected(stepped.error());
        adapted.solution = std::move(*stepped);
    }
    auto& solution = adapted.solution;
    if (!adapted.cancelled()) {
        if (options.capacitance_matrix) {
            if (transient || section.analysis == "nonlinear" || section.analysis == "dc")
                solution.report.notes.push_back(
                    "no capacitance matrix: it belongs to capacitive and complex analyses");
            else
                solution.capacitance_F = adapted.fine.model->capacitance_F();
        }
        finish(solution);
        if (!solution.report.converged)
            solution.report.notes.insert(
                solution.report.notes.begin(),
                fmt::format(
                    "NOT CONVERGED: a correction of {:.2g} of the voltage is left; do not use these figures",
                    solution.report.residual));
    }
    solution.report.total_s = total.lap();
    return {};
}

Result<Kept> Kept::make(const Section& section, const SolveOptions& options) {
    if (auto ok = validate(section); !ok) return tl::unexpected(ok.error());
    if (auto ok = check_analysis(section); !ok) return tl::unexpected(ok.error());
    auto state = std::make_shared<State>();
    state->section = section;
    state->options = options;
    state->callers_cancel = options.cancel;
    state->options.cancel = options.cancel ? &state->cancel : nullptr;
    auto deliver = [&] {
        std::vector<SolveReport> reports;
        {
            const std::lock_guard lock(state->mutex);
            reports.swap(state->reports);
        }
        for (const auto& report : reports)
            if (options.progress) options.progress(report);
    };
    if (options.cancel)
        state->options.progress = [raw = state.get()](const SolveReport& report) {
            const std::lock_guard lock(raw->mutex);
            raw->reports.push_back(report);
        };
    auto built = std::make_shared<Result<void>>();
    if (!run_unless_cancelled([state, built] { *built = state->build(); }, options.cancel, deliver)) {
        state->cancel = true; // what is still at work ends soon, and unseen
        state = std::make_shared<State>();
        state->abandoned = true;
        state->adapted.solution = cancelled_solution({});
        return Kept(std::move(state));
    }
    if (!*built) return tl::unexpected(built->error());
    deliver();
    return Kept(std::move(state));
}

const Solution& Kept::solution() const {
    return state_->adapted.solution;
}

Solution Kept::take() && {
    return std::move(state_->adapted.solution);
}

Result<Solution> Kept::solve(const Section& section) {
    if (auto ok = validate(section); !ok) return tl::unexpected(ok.error());
    if (auto ok = check_analysis(section); !ok) return tl::unexpected(ok.error());
    if (state_->abandoned || state_->adapted.cancelled()) return cancelled_solution({});
    if (!same_shapes(section, state_->section))
        return refuse("section", "its shapes, paths or probes differ from those of the kept mesh",
                      "Solve it afresh");
    if (is_transient(section))
        return refuse("section", "a kept mesh serves steady analyses only", "Solve it afresh");
    auto work = [state = state_, section]() -> Result<Solution> {
        Stopwatch total;
        auto& adapted = state->adapted;
        SolveReport report;
        report.goal = state->options.goal;
        std::unique_ptr<Solution> before;
        for (const auto* level : {&adapted.coarse, &adapted.fine}) {
            if (!level->model) continue;
            auto now = solve_level(section, *level, before ? before.get() : nullptr, report);
            if (!now || now->report.end == End::cancelled) return now;
            ++report.passes;
            now->report.passes = report.passes;
            if (before) {
                compare(*before, *adapted.coarse.readings, *adapted.fine.readings, *now);
                now->report.end = now->report.worst_error <= report.goal ? End::goal_met : End::budget;
            }
            before = std::make_unique<Solution>(std::move(*now));
        }
        finish(*before);
        before->report.total_s = total.lap();
        return std::move(*before);
    };
    auto out = std::make_shared<Result<Solution>>(Solution{});
    if (!run_unless_cancelled([work, out] { *out = work(); }, state_->callers_cancel, [] {})) {
        state_->cancel = true;
        state_ = std::make_shared<State>();
        state_->abandoned = true;
        state_->adapted.solution = cancelled_solution({});
        return cancelled_solution({});
    }
    return std::move(*out);
}

std::vector<Result<Solution>> solve_many(const std::vector<Section>& sections, const SolveOptions& options) {
    std::vector<Result<Solution>> out(sections.size(), Result<Solution>(Solution{}));
    std::atomic<std::size_t> next{0};
    auto work = [&] {
        for (std::size_t k = next++; k < sections.size(); k = next++) out[k] = solve(sections[k], options);
    };
    const auto workers =
        std::min<std::size_t>(std::max(1U, std::thread::hardware_concurrency()), sections.size());
    std::vector<std::future<void>> running;
    for (std::size_t k = 1; k < workers; ++k) running.push_back(std::async(std::launch::async, work));
    work();
    for (auto& r : running) r.get();
    return out;
}

} // namespace ng
