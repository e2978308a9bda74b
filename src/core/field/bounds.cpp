#include "field/bounds.h"
#include "field/corner_errors.h"
#include "field/errors.h"
#include "field/figures.h"
#include "field/gradient_square.h"
#include "field/permittivity.h"
#include "field/tuning.h"
#include "mesh/corner.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <complex>
#include <limits>
#include <numbers>

namespace ng {
namespace {

/// Estimate of an error's energy norm per triangle, and the differences of gradients that it comes from.
struct EnergyError {
    std::vector<double> size;
    std::vector<FieldDifference> differences;
    Eigen::VectorXd real, imaginary; ///< the state's potentials
    NodePotentials potentials() const { return {real, imaginary}; }
};

/// Two estimates of what an error does to a figure: the product of the error and of that of the figure's
/// adjoint, summed up with its sign, which is near the truth but may vanish by chance, and without, which
/// bounds it; and apart from these what is missed at the tips of corners.
struct Product {
    double with_sign = 0, absolute = 0, tips = 0;
    friend Product operator*(double unit, Product p) {
        return {unit * p.with_sign, unit * p.absolute, unit * p.tips};
    }
    /// Of a part that has no sign.
    Product operator+(double part) const { return {with_sign + part, absolute + part, tips}; }
    double stated(const tuning::ProductWeights& weights, double change,
                  double change_weight = tuning::change_beside_product) const {
        return weights.with_sign * with_sign + weights.absolute * absolute + weights.tips * tips +
               change_weight * change;
    }
};

class Bounds {
  public:
    Bounds(const Section& section, const Assembly& assembly, const SteadyModel& model,
           const std::vector<CornerTip>& tips, Solution& now)
        : section_(section), assembly_(assembly), model_(model), now_(now), weights_(model.weights()),
          coefficients_(region_coefficients(section)), dc_(section.analysis == Analysis::dc),
          charge_unit_(eps0_F_per_m * volts_per_unit(section.symmetry)),
          flux_unit_(dc_ ? volts_per_unit(section.symmetry) : charge_unit_), tips_(tips),
          at_tip_(assembly.mesh().triangles.size(), 0), own_(error_of(now.potential_kV, now.imaginary_kV)) {
        for (const auto& tip : tips_)
            if (grows_without_limit(tip.corner.order))
                for (const int t : tip.triangles) at_tip_[t] = 1;
    }

    void conductors();
    void capacitances();
    void energy();
    void losses();
    void free_charges();
    void probes(const Readings& readings, const PlaceFields& fields, bool potentials, std::size_t threads);

  private:
    const Section& section_;
    const Assembly& assembly_;
    const SteadyModel& model_;
    Solution& now_;
    const std::vector<double>& weights_;             ///< per region
    std::vector<std::complex<double>> coefficients_; ///< per region: weights_ is their magnitude
    bool dc_;
    double charge_unit_, flux_unit_;
    const std::vector<CornerTip>& tips_;
    std::vector<char> at_tip_;         ///< per triangle: at one of them at which the field has no limit
    EnergyError own_;                  ///< of the state
    std::vector<EnergyError> of_unit_; ///< per conductor: of the state with 1 on it alone

    EnergyError error_of(const Eigen::VectorXd& re, const Eigen::VectorXd& im) const {
        const auto& mesh = assembly_.mesh();
        EnergyError out;
        out.real = re, out.imaginary = im;
        out.size = averaging_error(mesh, weights_, section_.symmetry, re, im,
                                   averaged_field(mesh, assembly_.layout(), re, im), &out.differences);
        return out;
    }
    Product product(const EnergyError& a, const EnergyError& b) const {
        Product out;
        std::vector<std::complex<double>> per_region(weights_.size());
        for (std::size_t t = 0; t < a.size.size(); ++t) {
            if (at_tip_[t]) continue;
            out.absolute += a.size[t] * b.size[t];
            auto& sum = per_region[assembly_.mesh().region[t]];
            for (std::size_t i = 0; i < a.differences[t].size(); ++i)
                sum += a.differences[t][i] * std::conj(b.differences[t][i]);
        }
        std::complex<double> sum = 0;
        for (std::size_t k = 0; k < weights_.size(); ++k)
            if (weights_[k] > 0) sum += per_region[k] * coefficients_[k] / weights_[k];
        out.with_sign = std::abs(sum);
        for (const auto& missed :
             missed_at_tips(tips_, assembly_, coefficients_, a.potentials(), b.potentials()))
            out.tips += std::abs(missed);
        return out;
    }
    /// Of a figure with this derivative with respect to the potential of each node, real and imaginary.
    Product of_load(Eigen::VectorXd real, Eigen::VectorXd imaginary) const {
        AdjointLoad load;
        load.real = std::move(real);
        load.imaginary = std::move(imaginary);
        load.conductor.assign(now_.conductors.size(), 0.0);
        const auto z = model_.adjoint(load);
        return product(own_, error_of(z.first, z.second));
    }
    Product of_charge(const ChargeWeights& weights) const {
        return charge_unit_ * of_load(charge_load(section_, assembly_, now_, weights), {});
    }
    /// Of the field in the elements that surround a region, relative: what is wrong with the current that
    /// enters it.
    double error_round(std::size_t region) const;
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
    const auto at_border_ends =
        dc_ ? charge_at_border_ends(section_, assembly_, model_.bodies(), now_.potential_kV)
            : std::vector<double>();
    for (std::size_t k = 0; k < now_.conductors.size(); ++k) {
        auto& c = now_.conductors[k];
        if (c.floating) continue;
        load.conductor.assign(now_.conductors.size(), 0.0);
        load.conductor[k] = 1;
        const auto z = model_.adjoint(load);
        of_unit_[k] = error_of(z.first, z.second);
        const auto of_flux = flux_unit_ * product(own_, of_unit_[k]);
        const double contacts = tuning::contact_weight * c.at_contacts;
        if (dc_) {
            c.current_error_A = of_flux.stated(tuning::of_charges, c.current_error_A) + contacts +
                                tuning::integral_floor * std::abs(c.current_A);
            c.charge_error_C =
                of_charge({unit(k, now_.conductors.size()), {}})
                    .stated(tuning::of_charges, c.charge_error_C, tuning::change_beside_dc_charge) +
                tuning::border_end_weight * at_border_ends[k] + tuning::integral_floor * std::abs(c.charge_C);
        } else {
            c.charge_error_C =
                of_flux.stated(tuning::of_charges, c.charge_error_C, tuning::change_beside_charge) +
                contacts + tuning::integral_floor * std::abs(c.charge_C);
            c.current_error_A = c.charge_error_C * 2 * std::numbers::pi * section_.frequency_hz;
        }
    }
}

void Bounds::capacitances() {
    for (Eigen::Index i = 0; i < now_.capacitance_error_F.rows(); ++i)
        for (Eigen::Index j = 0; j < now_.capacitance_error_F.cols(); ++j) {
            const auto &a = of_unit_[i], &b = of_unit_[j];
            auto& error = now_.capacitance_error_F(i, j);
            if (!a.size.empty() && !b.size.empty())
                error = (1e-3 * flux_unit_ * product(a, b)).stated(tuning::of_charges, error) +
                        tuning::integral_floor * std::abs(now_.capacitance_F(i, j));
        }
}

void Bounds::energy() {
    // The energy is the form that the equations make least only where nothing conducts; else it is a figure
    // like another, to first order in the error.
    const auto eps = permittivities(section_);
    double missed = 0;
    for (std::size_t t = 0; t < own_.size.size(); ++t) {
        const auto region = static_cast<std::size_t>(assembly_.mesh().region[t]);
        if (weights_[region] > 0) missed += own_.size[t] * own_.size[t] * eps[region] / weights_[region];
    }
    Product first;
    if (section_.conducts())
        first = 1e3 * charge_unit_ *
                of_load(weighted(eps, now_.potential_kV),
                        now_.is_phasor() ? weighted(eps, now_.imaginary_kV) : Eigen::VectorXd());
    now_.energy_error_J =
        (first + 0.5e3 * charge_unit_ * missed).stated(tuning::of_other_figures, now_.energy_error_J) +
        tuning::integral_floor * now_.energy_J;
}

double Bounds::error_round(std::size_t region) const {
    const auto& mesh = assembly_.mesh();
    const auto& inside = model_.bodies().inside;
    std::vector<char> of_body(mesh.nodes.size(), 0);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        if (static_cast<std::size_t>(mesh.region[t]) == region)
            for (const int node : mesh.triangles[t]) of_body[node] = 1;
    double missed = 0, whole = 0;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& nodes = mesh.triangles[t];
        if (inside[t] || std::none_of(nodes.begin(), nodes.end(), [&](int n) { return of_body[n] != 0; }))
            continue;
        missed += own_.size[t] * own_.size[t];
        for (const auto* potential : {&now_.potential_kV, &now_.imaginary_kV}) {
            if (potential->size() == 0) continue;
            std::array<double, 6> v;
            for (std::size_t i = 0; i < 6; ++i) v[i] = (*potential)[nodes[i]];
            whole += weights_[mesh.region[t]] * gradient_square(assembly_, static_cast<int>(t), v).integral;
        }
    }
    return whole > 0 ? std::sqrt(missed / whole) : 0;
}

void Bounds::losses() {
    // What the elements miss of the field in the region itself, and what reaches it from elsewhere.
    std::vector<double> missed(section_.regions.size(), 0.0);
    for (std::size_t t = 0; t < own_.size.size(); ++t)
        missed[assembly_.mesh().region[t]] += own_.size[t] * own_.size[t];
    const double to_watt = 1e3 * volts_per_unit(section_.symmetry);
    double worst_flux = 0, largest = 0, all = 0;
    for (const auto& loss : now_.losses) all += loss.power_W;
    for (const auto& c : now_.conductors) largest = std::max(largest, std::abs(c.current_A));
    for (const auto& c : now_.conductors)
        if (largest > 0) worst_flux = std::max(worst_flux, c.current_error_A / largest);
    for (auto& loss : now_.losses)
        for (std::size_t k = 0; k < missed.size(); ++k) {
            const double sigma = model_.laws().constant_S_per_m[k];
            if (section_.regions[k].name != loss.region || !(weights_[k] > 0)) continue;
            auto& error = loss.power_error_W;
            if (!(sigma > 0)) { // of a law of the field: a share of what the fields themselves are off by
                error = std::max(error, tuning::law_loss_share * worst_reading_error(now_) * loss.power_W);
            } else if (model_.bodies().region[k]) { // by the square of the current that it carries
                error = std::max(error, 2 * worst_flux * loss.power_W) +
                        std::min(tuning::nil_loss_share * all,
                                 2 * tuning::body_flux_weight * error_round(k) * loss.power_W);
            } else {
                std::vector<double> only(missed.size(), 0.0);
                only[k] = 2 * to_watt * sigma;
                const auto first =
                    of_load(weighted(only, now_.potential_kV),
                            now_.is_phasor() ? weighted(only, now_.imaginary_kV) : Eigen::VectorXd());
                error = (first + to_watt * sigma / weights_[k] * missed[k])
                            .stated(tuning::of_other_figures, error) +
                        tuning::integral_floor * loss.power_W;
            }
            if (!model_.bodies().region[k]) error += tuning::nil_loss_share * all;
        }
}

void Bounds::free_charges() {
    double largest = 0;
    for (const auto& c : now_.conductors) largest = std::max(largest, std::abs(c.charge_C));
    for (std::size_t k = 0; k < now_.interface_charges.size(); ++k) {
        auto& error = now_.interface_charges[k].charge_error_C;
        error = of_charge({{}, unit(k, now_.interface_charges.size())}).stated(tuning::of_charges, error, 1) +
                tuning::nil_charge_share * largest;
    }
}

void Bounds::probes(const Readings& readings, const PlaceFields& fields, bool potentials,
                    std::size_t threads) {
    const auto of = [&](std::pair<Eigen::VectorXd, Eigen::VectorXd> load) {
        return of_load(std::move(load.first), std::move(load.second));
    };
    const double field_kV_per_mm = largest_field(now_), potential_kV = largest_voltage_kV(section_);
    double least = std::numeric_limits<double>::max();
    for (const double weight : weights_)
        if (weight > 0) least = std::min(least, weight);
    in_parallel(now_.probes.size(), threads, [&](std::size_t k) {
        auto& probe = now_.probes[k];
        const auto place = readings.place_of_probe(k);
        const auto region = assembly_.mesh().region[readings.triangle_at(place)];
        const double screened = std::min(1.0, weights_[region] / (tuning::nil_contrast * least));
        const auto of_field = of(readings.field_load(fields, place));
        probe.error_kV_per_mm = tuning::probe_signed_weight * of_field.with_sign +
                                tuning::probe_tips_weight * of_field.tips +
                                tuning::change_beside_probe * probe.error_kV_per_mm +
                                screened * tuning::nil_field_share * field_kV_per_mm;
        probe.potential_error_kV = !potentials
                                       ? std::abs(probe.potential_kV)
                                       : of(readings.potential_load(fields, place))
                                                 .stated(tuning::of_potentials, probe.potential_error_kV) +
                                             screened * tuning::nil_potential_share * potential_kV;
    });
}

} // namespace

void bound_figures(const Section& section, const Assembly& assembly, const SteadyModel& model,
                   const Readings& readings, const PlaceFields& fields, const Slack& slack,
                   std::size_t threads, Solution& now) {
    Bounds bounds(section, assembly, model, readings.tips(), now);
    if (slack.asks_integrals()) {
        bounds.conductors();
        bounds.capacitances();
        bounds.energy();
        bounds.losses();
        bounds.free_charges();
    }
    bounds.probes(readings, fields, slack.potentials, threads);
}

} // namespace ng
