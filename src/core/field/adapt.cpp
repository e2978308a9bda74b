#include "field/adapt.h"
#include "field/bounds.h"
#include "field/corner_errors.h"
#include "field/errors.h"
#include "field/figures.h"
#include "field/mark.h"
#include "field/tuning.h"
#include "units/parallel.h"
#include "units/promise.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <limits>
#include <numbers>

namespace ng {
namespace {

using End = SolveReport::End;

bool stopped(const SolveOptions& options) {
    return options.cancel && options.cancel->load(std::memory_order_relaxed);
}

InputError not_finite() {
    return {"section", "the figures of its solution are not finite",
            "Check voltages, frequency and materials"};
}

/// A load solved on one level.
struct State {
    Solution solution;
    PlaceFields fields;
    PlaceErrors errors;
    std::vector<double> indicator; ///< per triangle; empty where no finer level was asked for
    bool all =
        false; ///< whether the indicator is that of every reading, not only of those that miss the goal
    double left_over = 0;       ///< share of it that the next level did not divide
    std::vector<double> energy; ///< per triangle: the averaging estimate's square, over the sum of all
};

/// A copy that knows the corners of the mesher's section: assemblies keep their own mesh, only readings look
/// at corners.
Mesh judged(Mesh mesh, const Mesher& mesher) {
    mesh.singular = mesher.singular();
    return mesh;
}

Result<std::shared_ptr<const Readings>> made_readings(std::shared_ptr<const Section> shapes,
                                                      std::shared_ptr<const ReadingPlan> plan,
                                                      std::shared_ptr<const Mesh> mesh) {
    return Readings::make(std::move(shapes), std::move(plan), std::move(mesh)).map([](Readings&& made) {
        return std::make_shared<const Readings>(std::move(made));
    });
}

Result<State> solve_on(const Section& section, Level& level, const Solution* start,
                       const SolveOptions& options, SolveReport& report) {
    Stopwatch watch;
    State out;
    auto& now = out.solution;
    now.report = report;
    now.report.notes.clear();
    const double factored = level.model->factor_seconds();
    const auto outcome = level.model->solve(section, start, now);
    const double factor_s = level.model->factor_seconds() - factored;
    report.factor_s += factor_s;
    report.solve_s += watch.lap() - factor_s;
    if (outcome.cancelled || stopped(options)) {
        now.report.end = End::cancelled;
        return out;
    }
    if (outcome.singular)
        return refuse("section", "the equations are singular", "Check for degenerate outlines");
    if (!now.potential_kV.allFinite() || !now.imaginary_kV.allFinite()) return tl::unexpected(not_finite());
    if (options.capacitance_matrix &&
        (section.analysis == Analysis::capacitive || section.analysis == Analysis::complex))
        now.capacitance_F = level.model->capacitance_F();
    if (auto ready = level.await_readings(); !ready) return tl::unexpected(ready.error());
    now.field.layout = level.assembly->layout();
    out.fields = level.readings->read(now.potential_kV, now.imaginary_kV);
    level.readings->report(out.fields, now);
    report.sampling_s += watch.lap();
    report.iterations = now.report.iterations;
    report.residual = now.report.residual;
    report.converged = now.report.converged;
    report.notes = now.report.notes;
    report.triangles = static_cast<int>(now.mesh->triangles.size());
    report.unknowns = level.assembly->unknown_count();
    now.report = report;
    return out;
}

/// Of each triangle, the share of its size that readings with too large an error ask for; 1: none does.
std::vector<double> forced_by(const Section& section, const Level& level, const State& state, double goal) {
    const auto& readings = *level.readings;
    std::vector<double> forced(readings.mesh().triangles.size(), 1.0);
    // Errors of recovered fields fall about with the square of the size; beside a corner more slowly, until
    // the triangles are smaller than the distance to it.
    const auto force = [&](std::size_t place, double error) {
        auto& factor = forced[readings.triangle_at(place)];
        const double wanted = tuning::forced_aim * goal / error;
        double share = std::clamp(std::sqrt(wanted), tuning::least_factor, tuning::halved);
        if (readings.beside_corner(place))
            share = std::clamp(wanted,
                               std::min(tuning::least_factor, tuning::corner_share_of_distance *
                                                                  readings.corner_distance(place) /
                                                                  readings.size_at(place)),
                               tuning::halved);
        factor = std::min(factor, share);
    };
    const CornerErrors corners(readings.tips(), state.solution.missed_at_tips);
    const double largest = largest_field(state.solution), screened = screened_field(state.solution);
    const auto floored = [&](double peak) { return peak / std::max(peak, screened); };
    for (std::size_t n = 0; n < state.solution.edges.size(); ++n) {
        const auto& edge = state.solution.edges[n];
        const auto k = readings.reported_edges()[n];
        const double error =
            edge.relative_error * floored(edge.peak_kV_per_mm) / readings.plan().edges[k].slack;
        if (!edge.judged || !(error > goal)) continue;
        const auto& places = readings.plan().edges[k];
        for (std::size_t i = 0; i < edge.along_kV_per_mm.size(); ++i)
            if (const auto place = readings.first_of_edge(k) + i;
                readings.present(place) && !places.near_singular[i]) {
                force(place, error);
                corners.ask_of_tips(places.at[i], tuning::forced_aim * goal * edge.relative_error / error,
                                    forced);
            }
    }
    for (std::size_t k = 0; k < state.solution.paths.size(); ++k) {
        const auto& path = state.solution.paths[k];
        const double share = floored(path.peak_kV_per_mm) / readings.plan().paths[k].slack;
        if (!(path.relative_error * share > goal)) continue;
        for (std::size_t i = 0; i < path.samples.size(); ++i) {
            const auto& sample = path.samples[i];
            const double error =
                share * tuning::own_error(sample.error_kV_per_mm / path.peak_kV_per_mm, path.relative_error);
            if (sample.near_singular || !(error > tuning::forced_above * goal)) continue;
            force(readings.place_of_sample(k, i), error);
            corners.ask_of_tips(
                sample.at, tuning::forced_aim * goal * path.peak_kV_per_mm / (share * sample.E_kV_per_mm),
                forced);
        }
    }
    for (std::size_t k = 0; k < section.probes.size(); ++k) {
        const auto& probe = state.solution.probes[k];
        const double size = std::max(probe.E_kV_per_mm, tuning::field_floor * largest);
        if (!probe.judged || !(size > 0) || probe.error_kV_per_mm <= goal * size) continue;
        force(readings.place_of_probe(k), probe.error_kV_per_mm / size);
        for (std::size_t i = 0; i < readings.plan().probes[k].round.size(); ++i)
            if (const auto place = readings.first_round(k) + i; readings.present(place))
                force(place, probe.error_kV_per_mm / size);
    }
    return forced;
}

/// What the triangles that were left as they were may add to the error of every reading, relative.
double left_over_of(const std::vector<double>& indicator, const std::vector<char>& divided) {
    promise(indicator.size() == divided.size(), "an indicator for each triangle");
    double sum = 0, total = 0;
    for (std::size_t t = 0; t < indicator.size(); ++t) {
        total += indicator[t];
        if (!divided[t]) sum += indicator[t];
    }
    return total > 0 ? (tuning::leftover_weight + tuning::leftover_of_all * sum / total) * sum : 0;
}

/// Errors of `now` from the coarser state; returns what was left as it was.
double estimate(const Section& section, const Slack& slack, const Level& coarse, const State& before,
                const Level& fine, State& now) {
    const double left = before.all ? left_over_of(before.indicator, coarse.divided) : before.left_over;
    now.left_over = left;
    auto& solution = now.solution;
    solution.missed_at_tips =
        share_missed_at_tips(fine.readings->tips(), *fine.assembly, fine.model->weights(),
                             {solution.potential_kV, solution.imaginary_kV});
    now.errors = errors_after(
        changes(before.fields, now.fields), before.errors.field.empty() ? nullptr : &before.errors,
        fine.readings->roughness(now.fields, now.solution.potential_kV, now.solution.imaginary_kV),
        *coarse.readings, *fine.readings);
    write_errors(*fine.readings, now.errors, nullptr, left, largest_voltage_kV(section), now.solution);
    write_integral_errors(before.solution, coarse.divided_all, left, now.solution);
    now.solution.report.worst_error = worst_error(now.solution, slack);
    return left;
}

/// Before there is a coarser state: what the elements miss stands for the errors, so that the second mesh is
/// fine where the first was not.
void guess(const Section& section, const Level& level, State& now) {
    PlaceErrors errors;
    errors.field =
        level.readings->roughness(now.fields, now.solution.potential_kV, now.solution.imaginary_kV);
    for (auto& e : errors.field) e *= tuning::guess_weight;
    errors.potential.assign(errors.field.size(), 0.0);
    write_errors(*level.readings, errors, nullptr, 0, largest_voltage_kV(section), now.solution);
}

} // namespace

Result<void> Level::await_readings() {
    if (readings) return {};
    const auto& made = coming.get();
    if (!made) return tl::unexpected(made.error());
    readings = *made;
    coming = {};
    return {};
}

Solution cancelled_solution(const SolveReport& report) {
    Solution none;
    none.report = report;
    none.report.end = End::cancelled;
    return none;
}

void finish(Solution& solution) {
    Stopwatch watch;
    auto layout = solution.field.layout ? solution.field.layout : nodal_layout(*solution.mesh);
    solution.field =
        averaged_field(*solution.mesh, std::move(layout), solution.potential_kV, solution.imaginary_kV);
    solution.report.recovery_s += watch.lap();
}

/// Keeps what is asked; how its meshes are made.
MesherOptions Adaptation::take(const std::vector<Section>& loads, const SolveOptions& options) {
    promise(!loads.empty(), "there is something to solve");
    shapes_ = std::make_shared<const Section>(loads.front());
    slack_ = options.slack;
    MesherOptions how;
    how.arc_step_rad =
        options.coarse || options.coarse_first ? tuning::coarse_arc_step_rad : tuning::arc_step_rad;
    how.most_triangles =
        options.most_unknowns / 2; // about two unknowns a triangle: the budget holds within a pass too
    for (const auto& load : loads) how.region_weights.push_back(region_weights(load));
    weights_ = how.region_weights;
    return how;
}

Result<std::shared_ptr<Mesher>> Adaptation::make_mesher(const Section& shapes, const MesherOptions& how) {
    return Mesher::create(shapes, how).map([](Mesher&& made) {
        return std::make_shared<Mesher>(std::move(made));
    });
}

Result<Adaptation> Adaptation::begin(const std::vector<Section>& loads, const SolveOptions& options) {
    Adaptation out;
    const auto how = out.take(loads, options);
    auto mesher = make_mesher(*out.shapes_, how);
    if (!mesher) return tl::unexpected(mesher.error());
    out.outlook_.mesher = *mesher;
    return out;
}

Adaptation Adaptation::follow(const std::vector<Section>& loads,
                              const std::vector<std::pair<std::shared_ptr<const Mesh>, const Level*>>& meshes,
                              const SolveOptions& options) {
    promise(!meshes.empty(), "there is a mesh to solve on");
    Adaptation out;
    const auto how = out.take(loads, options);
    // Corners, and where to read, are found beside the matrix: that needs neither.
    out.coming_ = beside(options.threads,
                         [shapes = out.shapes_, how, mesh = meshes.front().first,
                          slack = options.slack]() -> Result<Outlook> {
                             auto mesher = make_mesher(*shapes, how);
                             if (!mesher) return tl::unexpected(mesher.error());
                             Outlook outlook{*mesher, nullptr};
                             outlook.plan = std::make_shared<const ReadingPlan>(
                                 ReadingPlan::of(*shapes, judged(*mesh, *outlook.mesher), slack));
                             return outlook;
                         })
                      .share();
    std::vector<Level> levels;
    for (const auto& [mesh, from] : meshes) {
        Level level;
        level.coming =
            beside(options.threads,
                   [shapes = out.shapes_, coming = out.coming_,
                    mesh = mesh]() -> Result<std::shared_ptr<const Readings>> {
                       const auto& outlook = coming.get();
                       if (!outlook) return tl::unexpected(outlook.error());
                       return made_readings(shapes, outlook->plan,
                                            std::make_shared<const Mesh>(judged(*mesh, *outlook->mesher)));
                   })
                .share();
        level.divided = from->divided;
        level.divided_all = from->divided_all;
        levels.push_back(std::move(level));
    }
    for (std::size_t k = 0; k < levels.size(); ++k) {
        levels[k].assembly = std::make_shared<const Assembly>(meshes[k].first, *meshes[k].second->assembly);
        levels[k].model = std::make_shared<SteadyModel>(levels[k].assembly, options.cancel);
    }
    out.fine_ = std::move(levels.back());
    if (levels.size() > 1) out.coarse_ = std::move(levels.front());
    out.exhausted_ = true;
    return out;
}

Result<void> Adaptation::await_outlook() {
    if (outlook_.mesher) return {};
    const auto& made = coming_.get();
    if (!made) return tl::unexpected(made.error());
    outlook_ = *made;
    coming_ = {};
    return {};
}

/// Other loads may make other corners sharp: what is read near them changes, the meshes do not.
Result<void> Adaptation::look_at_corners(const std::vector<Section>& loads, const SolveOptions& options) {
    std::vector<std::vector<double>> weights;
    for (const auto& load : loads) weights.push_back(region_weights(load));
    if (weights == weights_ || !fine_) return {};
    if (auto ready = await_outlook(); !ready) return ready;
    for (auto* level : {&coarse_, &fine_}) // none of its readings looks at the corners any more
        if (*level)
            if (auto ready = level->await_readings(); !ready) return ready;
    weights_ = weights;
    if (!outlook_.mesher->judge_corners(weights)) return {};
    outlook_.plan.reset();
    for (auto* level : {&coarse_, &fine_}) {
        if (!*level) continue;
        begin_readings(*level,
                       std::make_shared<const Mesh>(judged(level->readings->mesh(), *outlook_.mesher)),
                       options.threads);
    }
    return {};
}

Result<MadeMesh> Adaptation::make_mesh(std::vector<double> factor, const SolveOptions& options) {
    auto& mesher = *outlook_.mesher;
    if (!fine_) {
        const FirstSizes sizes(*shapes_, mesher, options.coarse || options.coarse_first, options.slack);
        return mesher.make(std::cref(sizes), options.cancel);
    }
    const auto& last = fine_.assembly->mesh();
    const RefinedSizes sizes(last, factor, true);
    auto made = mesher.add(std::cref(sizes), options.cancel);
    if (!made || !made->spoiled || !made->complete) return made;
    for (auto& f : factor) f *= tuning::asked_over_wanted;
    const RefinedSizes all(last, factor, false);
    return mesher.make(std::cref(all), options.cancel);
}

Result<Level> Adaptation::make_level(const std::vector<double>& factor, const SolveOptions& options,
                                     SolveReport& report, bool& complete) {
    Stopwatch watch;
    auto made = make_mesh(factor, options);
    if (!made) return tl::unexpected(made.error());
    if (made->cancelled || stopped(options)) return Level{};
    complete = made->complete;
    if (!complete && !fine_)
        return refuse(
            "section", "the mesh outgrows its limit before the first solution",
            "Look for slivers: outlines that meet at a very small angle, or thin layers that run aslant or "
            "along a bend for long");
    // Finer meshes join what the first one joins.
    if (const int region = fine_ ? -1 : isolated_region(made->mesh); region >= 0)
        return refuse("region " + shapes_->regions[region].name, "no electrode holds its potential",
                      "Join it to a region with an electrode, or give it one");
    report.mesh_s += watch.lap();
    Level out;
    auto mesh = std::make_shared<const Mesh>(std::move(made->mesh));
    begin_readings(out, mesh, options.threads);
    report.sampling_s += watch.lap();
    out.assembly = std::make_shared<const Assembly>(std::move(mesh), shapes_->symmetry, options.threads);
    out.model = std::make_shared<SteadyModel>(out.assembly, options.cancel);
    report.assembly_s += watch.lap();
    return out;
}

void Adaptation::begin_readings(Level& level, std::shared_ptr<const Mesh> mesh, std::size_t threads) {
    auto& plan = outlook_.plan;
    if (!plan) plan = std::make_shared<const ReadingPlan>(ReadingPlan::of(*shapes_, *mesh, slack_));
    level.readings = nullptr;
    level.coming = beside(threads, [shapes = shapes_, plan, mesh = std::move(mesh)] {
                       return made_readings(shapes, plan, mesh);
                   }).share();
}

std::vector<double> Adaptation::indicator_of(const Section& section, const Level& level,
                                             const Solution& state, bool errors_known,
                                             const SolveOptions& options, std::vector<double>* energy) const {
    const auto& mesh = level.assembly->mesh();
    const auto& weights = level.model->weights();
    const double goal = options.goal;
    const auto estimate_of = [&](const Eigen::VectorXd& real, const Eigen::VectorXd& imaginary) {
        return averaging_error(mesh, weights, section.symmetry, real, imaginary,
                               averaged_field(mesh, level.assembly->layout(), real, imaginary));
    };
    auto of_state =
        beside(options.threads, [&] { return estimate_of(state.potential_kV, state.imaginary_kV); });
    AdjointLoad load;
    std::tie(load.real, load.imaginary) = level.readings->goal_load(
        level.readings->read(state.potential_kV, state.imaginary_kV), errors_known ? &state : nullptr, goal);
    if (slack_.asks_integrals()) level.model->add_integrals(section, state, errors_known, goal, load);
    load.conductor.resize(state.conductors.size(), 0.0);
    const auto adjoint = level.model->adjoint(load);
    const auto weight = estimate_of(adjoint.first, adjoint.second);
    const auto own = of_state.get();
    std::vector<double> out(own.size());
    for (std::size_t t = 0; t < own.size(); ++t) out[t] = own[t] * weight[t];
    if (energy) {
        double sum = 0;
        for (const double e : own) sum += e * e;
        for (const double e : own) energy->push_back(sum > 0 ? e * e / sum : 0);
    }
    return out;
}

bool Adaptation::may_refine(const SolveOptions& options, const SolveReport& report) const {
    // No error is known of one mesh alone: the second may take more of the budget than later ones.
    const double share = report.passes < 2 ? tuning::first_of_budget : tuning::later_of_budget;
    return !options.coarse && !exhausted_ && report.passes < options.most_passes &&
           fine_.assembly->unknown_count() <= share * options.most_unknowns;
}

Result<bool> Adaptation::refine(const std::vector<double>& indicator, const std::vector<double>& energy,
                                const std::vector<double>& forced, double share, bool all,
                                const SolveOptions& options, SolveReport& report) {
    Stopwatch watch;
    auto marks =
        mark(indicator, forced, share, all ? 0 : tuning::enough_left * options.goal, tuning::most_marked);
    if (all && slack_.asks_integrals()) {
        const auto by_energy = mark(energy, forced, share, 0, tuning::most_marked);
        for (std::size_t t = 0; t < marks.factor.size(); ++t)
            marks.factor[t] = std::min(marks.factor[t], by_energy.factor[t]);
    }
    report.recovery_s += watch.lap();
    bool complete = true;
    auto level = make_level(marks.factor, options, report, complete);
    if (!level) return tl::unexpected(level.error());
    if (!*level) return false;
    exhausted_ = !complete;
    coarse_ = std::move(fine_);
    coarse_.divided.clear();
    for (const double f : marks.factor) coarse_.divided.push_back(f < 1);
    coarse_.divided_all = all;
    fine_ = std::move(*level);
    return true;
}

Result<bool> Adaptation::refine_for(const std::vector<Section>& loads, const Solution& solution,
                                    const SolveOptions& options, SolveReport& report) {
    State shown;
    shown.solution = solution;
    const auto forced = forced_by(*shapes_, fine_, shown, options.goal);
    std::vector<double> indicator(forced.size(), 0.0);
    for (const auto& load : loads) {
        auto state = solve_on(load, fine_, nullptr, options, report);
        if (!state) return tl::unexpected(state.error());
        if (state->solution.report.end == End::cancelled || stopped(options)) return false;
        const auto own = indicator_of(load, fine_, state->solution, false, options);
        for (std::size_t t = 0; t < own.size(); ++t) indicator[t] = std::max(indicator[t], own[t]);
    }
    auto made = refine(indicator, indicator, forced, tuning::marked_share, false, options, report);
    if (!made || !*made) return made;
    if (auto ready = fine_.await_readings(); !ready) return tl::unexpected(ready.error());
    left_over_ = left_over_of(indicator, coarse_.divided);
    return made;
}

Result<std::vector<Solution>> Adaptation::run(const std::vector<Section>& loads,
                                              const SolveOptions& options) {
    promise(!loads.empty(), "there is something to solve");
    Stopwatch total;
    SolveReport report;
    report.goal = options.goal;
    const auto cancelled = [&] { return std::vector<Solution>{cancelled_solution(report)}; };
    if (auto ok = look_at_corners(loads, options); !ok) return tl::unexpected(ok.error());
    if (!fine_) {
        bool complete = true;
        auto first = make_level({}, options, report, complete);
        if (!first) return tl::unexpected(first.error());
        if (!*first) return cancelled();
        fine_ = std::move(*first);
        exhausted_ = !complete;
    }
    std::vector<State> before, now;
    Level* level = coarse_ ? &coarse_ : &fine_;
    for (;;) {
        now.clear();
        left_over_ = 0;
        for (std::size_t k = 0; k < loads.size(); ++k) {
            auto state =
                solve_on(loads[k], *level, before.empty() ? nullptr : &before[k].solution, options, report);
            if (!state) return tl::unexpected(state.error());
            if (state->solution.report.end == End::cancelled || stopped(options)) return cancelled();
            if (!before.empty())
                left_over_ = std::max(left_over_,
                                      estimate(loads[k], options.slack, coarse_, before[k], *level, *state));
            else if (!options.coarse)
                guess(loads[k], *level, *state);
            if (auto& solution = state->solution;
                !before.empty() && (worst_reading_error(solution, options.slack) <= options.goal ||
                                    !may_refine(options, report))) {
                if (options.slack.asks_integrals() || !loads[k].probes.empty())
                    bound_figures(loads[k], *level->assembly, *level->model, *level->readings, state->fields,
                                  options.slack, options.threads, solution);
                if (!options.slack.asks_integrals()) forget_integrals(solution);
                solution.report.worst_error = worst_error(solution, options.slack);
            }
            now.push_back(std::move(*state));
            // The adjoint hangs on the factor of this load, which the next one replaces.
            Stopwatch watch;
            const bool last = !options.coarse && !before.empty() && loads.size() == 1 &&
                              now.back().solution.report.worst_error <= options.goal && level == &fine_;
            now.back().all = before.empty() || (options.slack.asks_integrals() &&
                                                worst_integral_error(now.back().solution) > options.goal);
            if (!options.coarse && !last)
                now.back().indicator = indicator_of(loads[k], *level, now.back().solution, !now.back().all,
                                                    options, &now.back().energy);
            report.recovery_s += watch.lap();
        }
        ++report.passes;
        report.total_s += total.lap();
        report.worst_error = 0;
        bool met = !before.empty();
        for (auto& state : now) {
            const double worst = state.solution.report.worst_error;
            if (before.empty()) continue;
            met = met && worst <= options.goal; // never true of a figure that is not one
            report.worst_error = std::isfinite(worst) ? std::max(report.worst_error, worst) : worst;
        }
        for (auto& state : now) {
            auto& own = state.solution.report;
            const double worst = before.empty() ? 0 : own.worst_error;
            const auto notes = own.notes;
            const auto [iterations, residual, converged] =
                std::tuple(own.iterations, own.residual, own.converged);
            own = report;
            own.worst_error = worst;
            own.notes = notes;
            own.iterations = iterations, own.residual = residual, own.converged = converged;
            own.end = options.coarse                             ? End::single_pass
                      : worst <= options.goal && !before.empty() ? End::goal_met
                                                                 : End::budget;
        }
        if (!std::isfinite(report.worst_error)) return tl::unexpected(not_finite());
        const bool further = level != &fine_;
        if (!further && (options.coarse || met || !may_refine(options, report))) break;
        if (options.progress) options.progress(now.front().solution.report);
        if (stopped(options)) return cancelled();
        if (further) {
            before = std::move(now);
            level = &fine_;
            continue;
        }
        const bool all = std::any_of(now.begin(), now.end(), [](const State& state) { return state.all; });
        std::vector<double> indicator(level->assembly->mesh().triangles.size(), 0.0),
            energy(indicator.size(), 0.0), forced(indicator.size(), 1.0);
        for (std::size_t k = 0; k < loads.size(); ++k) {
            const auto by_readings = forced_by(loads[k], *level, now[k], options.goal);
            for (std::size_t t = 0; t < indicator.size(); ++t) {
                indicator[t] = std::max(indicator[t], now[k].indicator[t]);
                energy[t] = std::max(energy[t], now[k].energy[t]);
                forced[t] = std::min(forced[t], by_readings[t]);
            }
        }
        const auto refined =
            refine(indicator, energy, forced,
                   before.empty() ? tuning::first_marked_share : tuning::marked_share, all, options, report);
        if (!refined) return tl::unexpected(refined.error());
        if (!*refined) return cancelled();
        before = std::move(now);
        level = &fine_;
    }
    std::vector<Solution> out;
    for (auto& state : now) out.push_back(std::move(state.solution));
    return out;
}

} // namespace ng
