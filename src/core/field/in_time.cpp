#include "field/in_time.h"
#include "field/errors.h"
#include "field/permittivity.h"
#include "field/transient.h"
#include "field/tuning.h"
#include "section/voltages.h"
#include "units/parallel.h"
#include "units/promise.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <optional>

namespace ng {
namespace {

using End = SolveReport::End;

/// A run on one level: what it says, and its envelope.
struct Timed {
    Solution solution;
    TransientOutcome outcome;
};

class InTime {
  public:
    InTime(const Section& section, const SolveOptions& options)
        : section_(section), options_(options),
          wave_(section.analysis == Analysis::impulse ? Waveform::impulse(section.impulse)
                : section.analysis == Analysis::dc    ? Waveform::direct(section.dc_ramp_s)
                                                      : Waveform::sine(section.frequency_hz)),
          end_s_(section.analysis == Analysis::impulse ? wave_.suggested_end_s()
                                                       : section.dc_duration_s.value_or(0)),
          largest_kV_(largest_voltage_kV(section)) {}

    double tolerance() const { return std::min(options_.goal, 0.05) * tuning::integrator_share; }
    double largest_kV() const { return largest_kV_; }

    Result<Timed> run(const Level& level, const TransientOptions& how, const SolveReport& report) const {
        Stopwatch watch;
        Timed out;
        out.solution.report = report;
        out.solution.report.worst_error = 0;
        out.solution.report.notes.clear();
        out.solution.report.iterations = 0;
        out.outcome =
            run_transient(section_, level.assembly, *level.readings, wave_, end_s_, how, out.solution);
        if (out.outcome.cancelled) {
            out.solution.report.end = End::cancelled;
            return out;
        }
        if (out.outcome.failed)
            return refuse("section",
                          fmt::format("time stepping could not go on at {:.3g} s", out.outcome.reached_s),
                          "Check the conduction laws: one of them may rise too steeply");
        out.solution.report.triangles = static_cast<int>(out.solution.mesh->triangles.size());
        out.solution.report.unknowns = level.assembly->unknown_count();
        out.solution.report.solve_s += watch.lap();
        return out;
    }

  private:
    const Section& section_;
    const SolveOptions& options_;
    Waveform wave_;
    double end_s_, largest_kV_ = 0;
};

/// What the integrator adds to the error of `tight`: from a run on the same mesh with a tolerance `ratio`
/// times as large (the error falls about with its root, or faster), no less than some tolerances, and for AC
/// what cycles still change.
PlaceErrors stepping_errors(const Timed& loose, const Timed& tight, double ratio, double tolerance) {
    auto out = changes(loose.outcome.envelope, tight.outcome.envelope);
    const double weight = tuning::stepping_weight * std::sqrt(tuning::loose_over_tight / ratio);
    const double least = tuning::steps_of_tolerance * tolerance + tight.solution.report.cycle_change;
    const auto& scale = tight.outcome.scale;
    for (std::size_t i = 0; i < out.field.size(); ++i) {
        out.field[i] = std::max(weight * out.field[i], least * scale.field[i]);
        out.potential[i] = std::max(weight * out.potential[i], least * scale.potential[i]);
    }
    return out;
}

/// The same of a course that was combined of states: what the last of them may still be off by, and no less
/// than the tolerance.
PlaceErrors stepping_errors(const Timed& run, double tolerance) {
    promise(run.outcome.left_out.has_value(), "constant conduction is combined of states");
    const auto& scale = run.outcome.scale;
    PlaceErrors out = *run.outcome.left_out;
    for (std::size_t i = 0; i < out.field.size(); ++i) {
        out.field[i] = std::max(out.field[i], tolerance * scale.field[i]);
        out.potential[i] = std::max(out.potential[i], tolerance * scale.potential[i]);
    }
    return out;
}

/// Probes' potentials in time are known no better than those of the steady states that bound the course,
/// which their adjoints tell (two meshes may agree by chance), in shares of the largest voltage.
void cover_potentials(const std::vector<Section>& loads, const std::vector<Solution>& states,
                      double largest_kV, Solution& solution) {
    for (std::size_t s = 0; s < states.size(); ++s) {
        promise(states[s].probes.size() == solution.probes.size(), "all are read at the same probes");
        const double of_state_kV = largest_voltage_kV(loads[s]);
        if (!(of_state_kV > 0)) continue;
        for (std::size_t k = 0; k < solution.probes.size(); ++k) {
            auto& error = solution.probes[k].potential_error_kV;
            error = std::max(error, states[s].probes[k].potential_error_kV * largest_kV / of_state_kV);
        }
    }
}

/// sqrt 2 Im(V exp(j w t)) at t = 0: the sine's own phase.
Eigen::VectorXd state_at_zero(const Solution& phasor) {
    return phasor.is_phasor() ? Eigen::VectorXd(std::numbers::sqrt2 * phasor.imaginary_kV)
                              : Eigen::VectorXd(Eigen::VectorXd::Zero(phasor.potential_kV.size()));
}

} // namespace

bool is_transient(const Section& section) {
    return section.analysis == Analysis::impulse ||
           (section.analysis == Analysis::dc && section.dc_duration_s) ||
           (section.analysis == Analysis::nonlinear && section.cycles.in_time);
}

std::vector<Section> bounding_states(const Section& section) {
    Section out = section;
    if (section.analysis == Analysis::nonlinear) {
        out.cycles.in_time = false;
        return {out};
    }
    if (section.analysis == Analysis::dc) {
        Section first = section;
        first.analysis = Analysis::capacitive;
        first.dc_duration_s.reset();
        first.dc_ramp_s = 0;
        for (auto& [name, material] : first.materials) {
            material.eps_r = eps_r_at(material, equivalent_frequency_hz(section));
            material.eps_r_by_frequency.clear();
            material.conduction.reset();
        }
        // What the step has become when it ends, which may be ages before the steady state: a state between
        // the two, with errors where neither has them.
        Section last = first;
        last.analysis = section.depends_on_field() ? Analysis::nonlinear : Analysis::complex;
        for (auto& [name, material] : last.materials)
            material.conduction = section.materials.at(name).conduction;
        last.frequency_hz = 1 / (2 * std::numbers::pi * *section.dc_duration_s);
        scale_voltages(last, 1 / std::numbers::sqrt2);
        out.dc_duration_s.reset();
        out.dc_ramp_s = 0;
        return {first, out, last};
    }
    out.analysis = section.depends_on_field() ? Analysis::nonlinear
                   : section.conducts()       ? Analysis::complex
                                              : Analysis::capacitive;
    for (auto& [name, material] : out.materials) {
        material.eps_r = eps_r_at(material, equivalent_frequency_hz(section));
        material.eps_r_by_frequency.clear();
    }
    out.frequency_hz = equivalent_frequency_hz(section);
    scale_voltages(out, 1 / std::numbers::sqrt2);
    if (!section.conducts()) return {out};
    Section tail = out;
    const double last_us =
        section.impulse.chopped_at_us ? *section.impulse.chopped_at_us : section.impulse.tail_us;
    tail.frequency_hz = 1e6 / (2 * std::numbers::pi * last_us); // e-folding in about the time to half value
    if (tail.frequency_hz > 0.5 * out.frequency_hz) return {out};
    return {out, tail};
}

Result<Solution> solve_in_time(const Section& section, Adaptation& adaptation,
                               const std::vector<Section>& loads, const std::vector<Solution>& states,
                               const SolveOptions& options) {
    promise(!loads.empty() && loads.size() == states.size(), "a solution for each bounding state");
    const InTime in_time(section, options);
    SolveReport report = states.front().report;
    const bool ac = section.analysis == Analysis::nonlinear;
    const auto cancelled = [](const Timed& t) { return t.solution.report.end == End::cancelled; };
    Eigen::VectorXd start;
    const Mesh* start_mesh = nullptr;
    if (ac) start = state_at_zero(states.front()), start_mesh = states.front().mesh.get();
    const auto run = [&](const Level& level, double tolerance) {
        TransientOptions how;
        how.tolerance = tolerance;
        // Under laws of the field steps differ from cycle to cycle, and with them the peaks, which never
        // repeat much more closely.
        if (section.depends_on_field())
            how.repeats = std::max(how.repeats, tuning::repeats_of_tolerance * tolerance);
        how.cancel = options.cancel;
        if (start_mesh) how.start_mesh = start_mesh, how.start_kV = &start;
        return in_time.run(level, how, report);
    };
    if (!adaptation.coarse()) {
        auto only = run(adaptation.fine(), in_time.tolerance());
        if (!only) return tl::unexpected(only.error());
        if (!cancelled(*only)) only->solution.report.end = End::single_pass;
        return std::move(only->solution);
    }
    double tolerance = in_time.tolerance();
    std::shared_ptr<const Mesh> kept_mesh;
    const auto go_on_from =
        [&](const Timed& t) { // AC: a later run begins where an earlier one repeated itself
            if (!ac) return;
            start = t.outcome.end_kV;
            kept_mesh = t.solution.mesh;
            start_mesh = kept_mesh.get();
        };
    // The integrator's share of the error: the coarser mesh, stepped less exactly too.
    std::optional<Timed> loose;
    if (section.depends_on_field() || ac) {
        auto made = run(adaptation.coarse(), tuning::loose_over_tight * tolerance);
        if (!made) return tl::unexpected(made.error());
        if (cancelled(*made)) return cancelled_solution(report);
        go_on_from(*made);
        loose = std::move(*made);
    }
    // Both meshes are followed at once: what either takes hangs on nothing of the other.
    const auto follow_both = [&] {
        auto finer = beside(options.threads, [&] { return run(adaptation.fine(), tolerance); });
        auto coarser = run(adaptation.coarse(), tolerance);
        return std::pair{std::move(coarser), finer.get()};
    };
    auto [before, now] = follow_both();
    if (!before) return tl::unexpected(before.error());
    if (cancelled(*before)) return cancelled_solution(report);
    auto stepping = loose ? stepping_errors(*loose, *before, tuning::loose_over_tight, tolerance)
                          : stepping_errors(*before, tolerance);
    PlaceErrors earlier;
    bool grew = true;
    for (;;) {
        if (!now) return tl::unexpected(now.error());
        if (cancelled(*now)) return cancelled_solution(report);
        auto& solution = now->solution;
        const auto& readings = *adaptation.fine().readings;
        auto errors = errors_after(changes(before->outcome.envelope, now->outcome.envelope),
                                   earlier.field.empty() ? nullptr : &earlier, now->outcome.roughness,
                                   *adaptation.coarse().readings, readings);
        solution.missed_at_tips.assign(readings.mesh().singular.size(), 0.0);
        for (const auto& state : states) // of these meshes or of coarser ones
            for (std::size_t k = 0; k < state.missed_at_tips.size() && k < solution.missed_at_tips.size();
                 ++k)
                solution.missed_at_tips[k] = std::max(solution.missed_at_tips[k], state.missed_at_tips[k]);
        const auto worst_with = [&](const PlaceErrors* integrator) {
            write_errors(readings, errors, integrator, adaptation.left_over(), in_time.largest_kV(),
                         solution);
            return worst_error(solution, options.slack);
        };
        write_integral_errors(before->solution, adaptation.coarse().divided_all, adaptation.left_over(),
                              solution);
        const double of_mesh = worst_with(nullptr), of_both = worst_with(&stepping);
        solution.report.worst_error = of_both;
        cover_potentials(loads, states, in_time.largest_kV(), solution);
        cover_free_charges(solution);
        cover_end_states(before->solution, solution);
        if (!options.slack.asks_integrals()) forget_integrals(solution);
        const bool met = of_both <= options.goal;
        solution.report.end = met ? End::goal_met : End::budget;
        if (!std::isfinite(of_both))
            return refuse("section", "the figures of its solution are not finite",
                          "Check voltages and materials");
        if (met) return std::move(now->solution);
        if (const double of_stepping = of_both - of_mesh;
            of_stepping > tuning::most_stepping * options.goal && tolerance > tuning::least_tolerance) {
            const double share = std::clamp(tuning::stepping_aim * options.goal / of_stepping,
                                            tuning::least_tightening, 1 / tuning::loose_over_tight);
            tolerance = std::max(share * tolerance, tuning::least_tolerance);
            go_on_from(*now);
            auto [tighter, finer] = follow_both();
            if (!tighter) return tl::unexpected(tighter.error());
            if (cancelled(*tighter)) return cancelled_solution(report);
            stepping = loose ? stepping_errors(*before, *tighter, 1 / share, tolerance)
                             : stepping_errors(*tighter, tolerance);
            before = std::move(tighter);
            now = std::move(finer);
            continue;
        }
        if (!adaptation.may_refine(options, report) || !grew) return std::move(now->solution);
        // The indicator of the bounding states again, on the finer mesh, and what the transient itself
        // misses.
        auto more = adaptation.refine_for(loads, solution, options, report);
        if (!more) return tl::unexpected(more.error());
        if (!*more) return cancelled_solution(report);
        // A mesh that hardly grew has nothing left to give to what still misses the goal.
        grew = adaptation.fine().assembly->unknown_count() > tuning::least_growth * solution.report.unknowns;
        ++report.passes;
        go_on_from(*now);
        earlier = std::move(errors);
        before = std::move(now);
        now = run(adaptation.fine(), tolerance);
    }
}

} // namespace ng
