#include "field/errors.h"
#include "field/corner_errors.h"
#include "field/tuning.h"
#include "units/promise.h"
#include <algorithm>
#include <cmath>
#include <complex>
#include <limits>
#include <numbers>

namespace ng {

PlaceErrors changes(const PlaceFields& before, const PlaceFields& now) {
    promise(before.field.size() == now.field.size(), "both meshes are read at the same places");
    PlaceErrors out;
    const bool phasor = !now.imaginary.empty();
    for (std::size_t i = 0; i < now.field.size(); ++i) {
        double field = distance(now.field[i], before.field[i]),
               potential = now.potential[i] - before.potential[i];
        if (phasor) {
            field = std::hypot(field, distance(now.imaginary[i], before.imaginary[i]));
            potential = std::hypot(potential, now.potential_imaginary[i] - before.potential_imaginary[i]);
        }
        out.field.push_back(field);
        out.potential.push_back(std::abs(potential));
    }
    return out;
}

PlaceErrors errors_after(const PlaceErrors& changes, const PlaceErrors* earlier,
                         const std::vector<double>& roughness, const Readings& before, const Readings& now) {
    promise(roughness.size() == now.count(), "a roughness for each place");
    promise(before.count() == now.count() && changes.field.size() == now.count(),
            "errors belong to these places");
    PlaceErrors out = changes;
    for (std::size_t i = 0; i < now.count(); ++i) {
        if (!before.present(i) || !now.present(i)) {
            out.field[i] = out.potential[i] = 0;
            continue;
        }
        const double ratio = now.size_at(i) / before.size_at(i);
        const double q = now.beside_corner(i)
                             ? tuning::corner_rate
                             : std::clamp(ratio * ratio * ratio, tuning::best_rate, tuning::worst_rate);
        const double decay = std::clamp(ratio * ratio, tuning::best_decay, 1.0);
        const auto after = [&](double change, double old) {
            return std::max(change * q / (1 - q), old * decay);
        };
        out.field[i] = std::max(after(changes.field[i], earlier ? earlier->field[i] : 0),
                                tuning::roughness_weight * roughness[i]);
        const double rate = tuning::potential_rate;
        out.potential[i] =
            std::max({changes.potential[i] * rate / (1 - rate), earlier ? earlier->potential[i] * decay : 0,
                      tuning::roughness_of_potential * roughness[i] * now.size_at(i)});
    }
    return out;
}

namespace {

/// Largest value of `error` at the judged places within `half` of `at`, the places rising.
template <class Place, class Error, class Skip>
double largest_within(std::size_t count, std::size_t i, double half, Place place, Error error, Skip skip) {
    double most = error(i);
    for (std::size_t j = i; j-- > 0 && (i - j <= 1 || std::abs(place(i) - place(j)) <= half);)
        if (!skip(j)) most = std::max(most, error(j));
    for (std::size_t j = i + 1; j < count && (j - i <= 1 || std::abs(place(j) - place(i)) <= half); ++j)
        if (!skip(j)) most = std::max(most, error(j));
    return most;
}

} // namespace

double largest_field(const Solution& solution) {
    double most = 0;
    for (const auto& path : solution.paths) most = std::max(most, path.peak_kV_per_mm);
    for (const auto& edge : solution.edges)
        if (edge.judged) most = std::max(most, edge.peak_kV_per_mm);
    for (const auto& probe : solution.probes)
        if (probe.judged) most = std::max(most, probe.E_kV_per_mm);
    return most;
}

double screened_field(const Solution& solution) {
    return solution.history.empty() ? tuning::screened_floor * largest_field(solution) : 0;
}

void write_errors(const Readings& readings, const PlaceErrors& errors, const PlaceErrors* stepping,
                  double left_over, double largest_kV, Solution& solution) {
    const auto stepped = [&](std::size_t place) { return stepping ? stepping->field[place] : 0.0; };
    const auto& plan = readings.plan();
    const auto rounding = readings.rounding(largest_kV);
    const double floor = std::min(tuning::reading_floor, tuning::floor_of_goal * solution.report.goal);
    const CornerErrors corners(readings.tips(), solution.missed_at_tips);
    const double largest = largest_field(solution), screened = screened_field(solution);
    for (std::size_t k = 0; k < solution.paths.size(); ++k) {
        auto& path = solution.paths[k];
        auto& samples = path.samples;
        std::vector<double> near(samples.size()), own(samples.size());
        double worst = 0, worst_near = 0, at_peak = 0, largest_sample = 0;
        for (std::size_t i = 0; i < samples.size(); ++i) {
            const auto place = readings.place_of_sample(k, i);
            near[i] = largest_within(
                samples.size(), i, tuning::window_sizes * readings.size_at(place),
                [&](std::size_t j) { return samples[j].s_mm; },
                [&](std::size_t j) { return errors.field[readings.place_of_sample(k, j)]; },
                [&](std::size_t j) { return samples[j].near_singular; });
            own[i] = stepped(place) + left_over * std::max(path.peak_kV_per_mm, screened) + rounding[place] +
                     samples[i].E_kV_per_mm *
                         (floor + corners.unresolved_growth(samples[i].at, readings.size_at(place)));
            if (samples[i].near_singular) continue;
            worst_near = std::max(worst_near, near[i]);
            largest_sample = std::max(largest_sample, samples[i].E_kV_per_mm);
        }
        for (std::size_t i = 0; i < samples.size(); ++i) {
            // A line's samples share the errors of its elements: none is much better than its worst.
            const double shared = std::max(0.0, worst_near - near[i]);
            samples[i].error_kV_per_mm =
                tuning::sample_weight * (near[i] + tuning::shared_of_path * shared) + own[i];
            if (samples[i].near_singular) continue;
            const double polluted = corners.pollution(samples[i].at) * samples[i].E_kV_per_mm;
            samples[i].error_kV_per_mm = std::max(samples[i].error_kV_per_mm, polluted);
            worst = std::max(worst, samples[i].error_kV_per_mm);
            // What is read at an end or a rim has neighbours on one side only to even it out.
            const bool last = i == 0 || i + 1 == samples.size() || samples[i - 1].near_singular ||
                              samples[i + 1].near_singular;
            const double error = std::max(polluted, last ? samples[i].error_kV_per_mm
                                                         : tuning::peak_weight * near[i] +
                                                               tuning::least_of_path * worst_near + own[i]);
            // A sample that is read as less can be the peak only as far as its error reaches above it.
            at_peak = std::max(at_peak, error - (largest_sample - samples[i].E_kV_per_mm));
        }
        path.relative_error = path.peak_kV_per_mm > 0 ? worst / path.peak_kV_per_mm : 0;
        path.peak_relative_error = path.peak_kV_per_mm > 0 ? at_peak / path.peak_kV_per_mm : 0;
    }
    for (std::size_t n = 0; n < solution.edges.size(); ++n) {
        auto& edge = solution.edges[n];
        const auto k = readings.reported_edges()[n];
        const auto& places = plan.edges[k];
        if (!edge.judged || !(edge.peak_kV_per_mm > 0)) continue;
        const auto count = places.share.size();
        const auto skip = [&](std::size_t i) {
            return !readings.present(readings.first_of_edge(k) + i) || places.near_singular[i];
        };
        double worst = 0, largest_place = 0;
        for (std::size_t i = 0; i < count; ++i)
            if (!skip(i)) largest_place = std::max(largest_place, edge.along_kV_per_mm[i]);
        for (std::size_t i = 0; i < count; ++i) {
            if (skip(i) || edge.along_kV_per_mm[i] < tuning::speaks_for_peak * largest_place) continue;
            const auto place = readings.first_of_edge(k) + i;
            const Point at = places.at[i];
            const double near = largest_within(
                count, i, tuning::window_of_edge, [&](std::size_t j) { return places.share[j]; },
                [&](std::size_t j) { return errors.field[readings.first_of_edge(k) + j]; }, skip);
            worst = std::max(
                {worst, corners.pollution(at) * edge.along_kV_per_mm[i],
                 tuning::edge_weight * near + stepped(place) + rounding[place] +
                     edge.along_kV_per_mm[i] * corners.unresolved_growth(at, readings.size_at(place))});
        }
        edge.relative_error = worst / edge.peak_kV_per_mm + (left_over + floor) *
                                                                std::max(edge.peak_kV_per_mm, screened) /
                                                                edge.peak_kV_per_mm;
    }
    for (std::size_t k = 0; k < solution.probes.size(); ++k) {
        auto& probe = solution.probes[k];
        const auto place = readings.place_of_probe(k);
        double field = errors.field[place], potential = errors.potential[place];
        for (std::size_t i = 0; i < plan.probes[k].round.size(); ++i) {
            field = std::max(field, errors.field[readings.first_round(k) + i]);
            potential = std::max(potential, errors.potential[readings.first_round(k) + i]);
        }
        // Inside a region what is recovered is far better than on its border, where only one side tells.
        const double share = readings.inside(place) ? tuning::inside_share : 1;
        field *= share, potential *= tuning::inside_share;
        probe.error_kV_per_mm =
            field + stepped(place) +
            (share * left_over + floor) * std::max(probe.E_kV_per_mm, tuning::field_floor * largest) +
            rounding[place];
        probe.potential_error_kV =
            potential + (stepping ? stepping->potential[place] : 0.0) +
            (tuning::inside_share * left_over + tuning::potential_floor_share * floor) *
                std::max(std::abs(probe.potential_kV), tuning::potential_floor * largest_kV) +
            4 * std::numeric_limits<double>::epsilon() * largest_kV;
    }
}

namespace {

/// Errors of integrals, one after the other in a fixed order.
class IntegralErrors {
  public:
    IntegralErrors(const IntegralChanges& before, bool finer_all, IntegralChanges& now)
        : before_(before.change), finer_all_(finer_all), now_(now.change) {
        now_.clear();
    }
    double after(double change, double old_error) {
        const auto k = now_.size();
        const double older = k < before_.size() ? before_[k] : -1;
        if (!finer_all_) {
            now_.push_back(-1);
            return std::max(change, old_error);
        }
        now_.push_back(change);
        const double rate = older > 0
                                ? std::clamp(change / older, tuning::integral_best, tuning::integral_worst)
                                : tuning::integral_rate;
        return std::max(change * rate / (1 - rate), old_error * tuning::integral_decay);
    }

  private:
    const std::vector<double>& before_; // -1: not known
    bool finer_all_;
    std::vector<double>& now_;
};

} // namespace

void write_integral_errors(const Solution& before, bool finer_all, double left_over, Solution& now) {
    IntegralErrors errors(before.integral_changes, finer_all, now.integral_changes);
    const auto phasor = [](double size, double degrees) {
        return size * std::polar(1.0, degrees * std::numbers::pi / 180);
    };
    for (std::size_t k = 0; k < now.conductors.size() && k < before.conductors.size(); ++k) {
        auto& c = now.conductors[k];
        const auto& old = before.conductors[k];
        c.charge_error_C = errors.after(std::abs(phasor(c.charge_C, c.charge_phase_deg) -
                                                 phasor(old.charge_C, old.charge_phase_deg)),
                                        old.charge_error_C) +
                           left_over * std::abs(c.charge_C);
        c.current_error_A = errors.after(std::abs(c.current_A - old.current_A), old.current_error_A) +
                            left_over * std::abs(c.current_A);
        const bool dc = now.analysis == Analysis::dc;
        const double ratio = std::abs(c.charge_C) > 0 ? std::abs(c.current_A / c.charge_C) : 0;
        c.charge_error_C +=
            tuning::contact_weight * (dc ? (ratio > 0 ? c.at_contacts / ratio : 0) : c.at_contacts);
        c.current_error_A += tuning::contact_weight * (dc ? c.at_contacts : c.at_contacts * ratio);
        if (c.floating)
            c.potential_error_kV = errors.after(std::abs(phasor(c.potential_kV, c.potential_phase_deg) -
                                                         phasor(old.potential_kV, old.potential_phase_deg)),
                                                old.potential_error_kV);
    }
    now.energy_error_J = errors.after(std::abs(now.energy_J - before.energy_J), before.energy_error_J);
    for (std::size_t k = 0; k < now.losses.size() && k < before.losses.size(); ++k)
        now.losses[k].power_error_W = errors.after(std::abs(now.losses[k].power_W - before.losses[k].power_W),
                                                   before.losses[k].power_error_W) +
                                      left_over * now.losses[k].power_W;
    for (std::size_t k = 0; k < now.interface_charges.size() && k < before.interface_charges.size(); ++k) {
        auto& c = now.interface_charges[k];
        const auto& old = before.interface_charges[k];
        c.charge_error_C =
            tuning::free_charge_weight * errors.after(std::abs(c.charge_C - old.charge_C),
                                                      old.charge_error_C / tuning::free_charge_weight) +
            left_over * std::abs(c.charge_C) + tuning::border_end_weight * c.at_ends;
    }
    if (now.capacitance_F.size() == 0 || now.capacitance_F.size() != before.capacitance_F.size()) return;
    now.capacitance_error_F = now.capacitance_F;
    for (Eigen::Index i = 0; i < now.capacitance_F.size(); ++i)
        now.capacitance_error_F.data()[i] =
            errors.after(std::abs(now.capacitance_F.data()[i] - before.capacitance_F.data()[i]),
                         before.capacitance_error_F.size() > 0 ? before.capacitance_error_F.data()[i] : 0);
}

namespace {

/// The largest of relative errors.
class Worst {
  public:
    void take(double error, double size) {
        finite_ = finite_ && std::isfinite(error) && std::isfinite(size);
        if (size > 0) worst_ = std::max(worst_, error / size);
    }
    double value() const { return finite_ ? worst_ : std::numeric_limits<double>::quiet_NaN(); }

  private:
    double worst_ = 0;
    bool finite_ = true;
};

} // namespace

void cover_free_charges(Solution& solution) {
    double largest = 0;
    for (const auto& c : solution.interface_charges) largest = std::max(largest, std::abs(c.charge_C));
    const double relative = worst_reading_error(solution);
    for (auto& c : solution.interface_charges)
        c.charge_error_C += relative * std::max(std::abs(c.charge_C), tuning::part_floor * largest);
}

void cover_end_states(const Solution& before, Solution& now) {
    promise(before.end_states.size() == now.end_states.size(), "both were read along the same paths");
    for (std::size_t k = 0; k < now.end_states.size(); ++k) {
        const auto& path = now.paths[k];
        const auto cover = [&](EndState::Field& field, const EndState::Field& old) {
            field.error_kV_per_mm =
                std::max(std::abs(field.peak_kV_per_mm - old.peak_kV_per_mm),
                         path.relative_error * std::max(field.peak_kV_per_mm, path.peak_kV_per_mm));
        };
        cover(now.end_states[k].end, before.end_states[k].end);
        cover(now.end_states[k].earthed, before.end_states[k].earthed);
        cover(now.end_states[k].reversed, before.end_states[k].reversed);
    }
}

double worst_integral_error(const Solution& solution) {
    Worst worst;
    double largest_charge = 0, largest_current = 0, all_losses = 0;
    for (const auto& c : solution.conductors) {
        largest_charge = std::max(largest_charge, std::abs(c.charge_C));
        largest_current = std::max(largest_current, std::abs(c.current_A));
    }
    const auto floored = [](double size, double largest) {
        return std::max(std::abs(size), tuning::charge_floor * largest);
    };
    for (const auto& c : solution.conductors) {
        worst.take(c.charge_error_C, floored(c.charge_C, largest_charge));
        if (solution.analysis == Analysis::dc)
            worst.take(c.current_error_A, floored(c.current_A, largest_current));
    }
    worst.take(solution.energy_error_J, solution.energy_J);
    for (const auto& loss : solution.losses) all_losses += loss.power_W;
    for (const auto& loss : solution.losses)
        worst.take(loss.power_error_W, std::max(loss.power_W, tuning::part_floor * all_losses));
    // In time they are those of the last instant, which nothing else asks for: their error is stated, but
    // steers nothing.
    for (const auto& c : solution.interface_charges)
        if (solution.history.empty())
            worst.take(c.charge_error_C, std::max(std::abs(c.charge_C), tuning::part_floor * largest_charge));
    if (solution.capacitance_error_F.size() > 0) {
        const double largest = solution.capacitance_F.cwiseAbs().maxCoeff();
        for (Eigen::Index i = 0; i < solution.capacitance_F.size(); ++i)
            worst.take(solution.capacitance_error_F.data()[i],
                       floored(solution.capacitance_F.data()[i], largest));
    }
    return worst.value();
}

void forget_integrals(Solution& solution) {
    for (auto& c : solution.conductors)
        c.charge_error_C = std::abs(c.charge_C), c.current_error_A = std::abs(c.current_A);
    solution.energy_error_J = solution.energy_J;
    for (auto& loss : solution.losses) loss.power_error_W = loss.power_W;
    for (auto& c : solution.interface_charges) c.charge_error_C = std::abs(c.charge_C);
    solution.capacitance_error_F = solution.capacitance_F.cwiseAbs();
}

double worst_reading_error(const Solution& solution, const Slack& slack) {
    Worst worst;
    const double largest = largest_field(solution), screened = screened_field(solution);
    const auto floored = [&](double size) { return std::max(size, screened); };
    for (const auto& path : solution.paths)
        worst.take(path.relative_error * path.peak_kV_per_mm,
                   slack(path.name) * floored(path.peak_kV_per_mm));
    for (const auto& edge : solution.edges)
        if (edge.judged)
            worst.take(edge.relative_error * edge.peak_kV_per_mm,
                       slack(edge.name) * floored(edge.peak_kV_per_mm));
    for (const auto& probe : solution.probes)
        if (probe.judged)
            worst.take(probe.error_kV_per_mm, std::max(probe.E_kV_per_mm, tuning::field_floor * largest));
    return worst.value();
}

double worst_error(const Solution& solution, const Slack& slack) {
    const double readings = worst_reading_error(solution, slack),
                 integrals = slack.asks_integrals() ? worst_integral_error(solution) / slack.integrals : 0;
    return std::isfinite(readings) && std::isfinite(integrals) ? std::max(readings, integrals)
                                                               : std::numeric_limits<double>::quiet_NaN();
}

} // namespace ng
