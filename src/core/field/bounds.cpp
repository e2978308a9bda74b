#include "field/bounds.h"
#include "field/errors.h"
#include "field/figures.h"
#include "field/permittivity.h"
#include "field/tuning.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace ng {
namespace {

class Bounds {
  public:
    Bounds(const Section& section, const Assembly& assembly, const SteadyModel& model, Solution& now)
        : section_(section), assembly_(assembly), model_(model), now_(now), weights_(model.weights()),
          dc_(section.analysis == "dc"), charge_unit_(eps0_F_per_m * volts_per_unit(section.symmetry)),
          flux_unit_(dc_ ? volts_per_unit(section.symmetry) : charge_unit_),
          own_(error_of(now.potential_kV, now.imaginary_kV)) {}

    void conductors();
    void capacitances();
    void energy();
    void losses();
    void free_charges();
    void probes(const Readings& readings, const PlaceFields& fields);

  private:
    const Section& section_;
    const Assembly& assembly_;
    const SteadyModel& model_;
    Solution& now_;
    const std::vector<double>& weights_; ///< per region
    bool dc_;
    double charge_unit_, flux_unit_;
    std::vector<double> own_;                  ///< per triangle, of the state
    std::vector<std::vector<double>> of_unit_; ///< per conductor: of the state with 1 on it alone

    std::vector<double> error_of(const Eigen::VectorXd& re, const Eigen::VectorXd& im) const {
        const auto& mesh = assembly_.mesh();
        return averaging_error(mesh, weights_, section_.symmetry, re, im, averaged_field(mesh, re, im));
    }
    static double product(const std::vector<double>& a, const std::vector<double>& b) {
        double sum = 0;
        for (std::size_t t = 0; t < a.size(); ++t) sum += a[t] * b[t];
        return sum;
    }
    /// Of a figure with this derivative with respect to the potential of each node, real and imaginary.
    double of_load(Eigen::VectorXd real, Eigen::VectorXd imaginary,
                   double weight = tuning::part_bound_weight) const {
        AdjointLoad load;
        load.real = std::move(real);
        load.imaginary = std::move(imaginary);
        load.conductor.assign(now_.conductors.size(), 0.0);
        const auto z = model_.adjoint(load);
        return weight * product(own_, error_of(z.first, z.second));
    }
    double of_charge(const ChargeWeights& weights) const {
        return of_load(charge_load(section_, assembly_, now_, weights), {});
    }
    static std::vector<double> unit(std::size_t k, std::size_t count) {
        std::vector<double> out(count, 0.0);
        out[k] = 1;
        return out;
    }
    Eigen::VectorXd weighted(const std::vector<double>& per_region,
                             const Eigen::VectorXd& potential_kV) const {
        Eigen::VectorXd out = Eigen::VectorXd::Zero(potential_kV.size());
        assembly_.multiply<double>(per_region, potential_kV, out);
        return out;
    }
};

void Bounds::conductors() {
    AdjointLoad load;
    load.real = Eigen::VectorXd::Zero(now_.potential_kV.size());
    if (now_.is_phasor()) load.imaginary = load.real;
    of_unit_.resize(now_.conductors.size());
    for (std::size_t k = 0; k < now_.conductors.size(); ++k) {
        auto& c = now_.conductors[k];
        if (c.floating) continue;
        load.conductor.assign(now_.conductors.size(), 0.0);
        load.conductor[k] = 1;
        const auto z = model_.adjoint(load);
        of_unit_[k] = error_of(z.first, z.second);
        const double bound = tuning::bound_weight * flux_unit_ * product(own_, of_unit_[k]) +
                             tuning::contact_weight * c.at_contacts;
        // What a law of the field does to the flux beyond its linearisation only the change tells.
        const bool by_change = section_.depends_on_field();
        if (dc_) {
            c.current_error_A = std::max(by_change ? c.current_error_A : 0,
                                         bound + tuning::integral_floor * std::abs(c.current_A));
            c.charge_error_C =
                std::max(c.charge_error_C, charge_unit_ * of_charge({unit(k, now_.conductors.size()), {}}));
        } else {
            c.charge_error_C = std::max(by_change ? c.charge_error_C : 0,
                                        bound + tuning::integral_floor * std::abs(c.charge_C));
            c.current_error_A = c.charge_error_C * 2 * std::numbers::pi * section_.frequency_hz;
        }
    }
}

void Bounds::capacitances() {
    for (Eigen::Index i = 0; i < now_.capacitance_error_F.rows(); ++i)
        for (Eigen::Index j = 0; j < now_.capacitance_error_F.cols(); ++j) {
            const auto &a = of_unit_[i], &b = of_unit_[j];
            auto& error = now_.capacitance_error_F(i, j);
            if (!a.empty() && !b.empty())
                error = tuning::bound_weight * 1e-3 * flux_unit_ * product(a, b) +
                        tuning::integral_floor * std::abs(now_.capacitance_F(i, j));
        }
}

void Bounds::energy() {
    // The energy is the form that the equations make least only where nothing conducts; else it is a figure
    // like another, to first order in the error.
    const auto eps = permittivities(section_);
    double missed = 0;
    for (std::size_t t = 0; t < own_.size(); ++t) {
        const auto region = static_cast<std::size_t>(assembly_.mesh().region[t]);
        if (weights_[region] > 0) missed += own_[t] * own_[t] * eps[region] / weights_[region];
    }
    const double least = tuning::bound_weight * 0.5e3 * charge_unit_ * missed;
    double first = 0;
    if (section_.conducts())
        first = 1e3 * charge_unit_ *
                of_load(weighted(eps, now_.potential_kV),
                        now_.is_phasor() ? weighted(eps, now_.imaginary_kV) : Eigen::VectorXd());
    now_.energy_error_J = (dc_ ? std::max(now_.energy_error_J, first + least) : first + least) +
                          tuning::integral_floor * now_.energy_J;
}

void Bounds::losses() {
    // What the elements miss of the field in the region itself, and what reaches it from elsewhere.
    std::vector<double> missed(section_.regions.size(), 0.0);
    for (std::size_t t = 0; t < own_.size(); ++t) missed[assembly_.mesh().region[t]] += own_[t] * own_[t];
    const double to_watt = 1e3 * volts_per_unit(section_.symmetry);
    double worst_flux = 0, largest = 0;
    for (const auto& c : now_.conductors) largest = std::max(largest, std::abs(c.current_A));
    for (const auto& c : now_.conductors)
        if (largest > 0) worst_flux = std::max(worst_flux, c.current_error_A / largest);
    for (auto& loss : now_.losses)
        for (std::size_t k = 0; k < missed.size(); ++k) {
            const double sigma = model_.laws().constant_S_per_m[k];
            if (section_.regions[k].name != loss.region || !(weights_[k] > 0)) continue;
            double bound = 0;
            if (!(sigma > 0)) { // of a law of the field: a share of what the fields themselves are off by
                bound = tuning::law_loss_share * worst_reading_error(now_) * loss.power_W;
            } else if (model_.bodies().region[k]) { // by the square of the current that it carries
                bound = 2 * worst_flux * loss.power_W;
            } else {
                std::vector<double> only(missed.size(), 0.0);
                only[k] = 2 * to_watt * sigma;
                bound = tuning::loss_bound_weight * to_watt * sigma / weights_[k] * missed[k] +
                        of_load(weighted(only, now_.potential_kV),
                                now_.is_phasor() ? weighted(only, now_.imaginary_kV) : Eigen::VectorXd(),
                                tuning::loss_bound_weight);
            }
            loss.power_error_W = std::max(loss.power_error_W, bound);
        }
}

void Bounds::free_charges() {
    for (std::size_t k = 0; k < now_.interface_charges.size(); ++k) {
        auto& error = now_.interface_charges[k].charge_error_C;
        error = std::max(error, tuning::free_charge_bound_weight * charge_unit_ *
                                    of_charge({{}, unit(k, now_.interface_charges.size())}));
    }
}

void Bounds::probes(const Readings& readings, const PlaceFields& fields) {
    // Of a law of the field the bound is that of its linearisation: the change tells the rest.
    const double of_change = section_.depends_on_field() ? 1 : tuning::change_beside_bound;
    const auto bounded = [&](std::pair<Eigen::VectorXd, Eigen::VectorXd> load, double by_change) {
        const double bound =
            of_load(std::move(load.first), std::move(load.second), tuning::probe_bound_weight);
        return std::max(bound, of_change * by_change);
    };
    for (std::size_t k = 0; k < now_.probes.size(); ++k) {
        auto& probe = now_.probes[k];
        const auto place = readings.place_of_probe(k);
        probe.error_kV_per_mm = bounded(readings.field_load(fields, place), probe.error_kV_per_mm);
        probe.potential_error_kV = bounded(readings.potential_load(fields, place), probe.potential_error_kV);
    }
}

} // namespace

void bound_figures(const Section& section, const Assembly& assembly, const SteadyModel& model,
                   const Readings& readings, const PlaceFields& fields, Solution& now) {
    Bounds bounds(section, assembly, model, now);
    bounds.conductors();
    bounds.capacitances();
    bounds.energy();
    bounds.losses();
    bounds.free_charges();
    bounds.probes(readings, fields);
}

} // namespace ng
