#include "field/steady.h"
#include "field/permittivity.h"
#include "field/tuning.h"
#include "mesh/triangle_tree.h"
#include "units/promise.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>
#include <numbers>

namespace ng {
namespace {

double omega(const Section& section) {
    return 2 * std::numbers::pi * section.frequency_hz;
}

FieldMeasure measure_of(const Section& section) {
    return section.analysis == Analysis::dc ? FieldMeasure::instantaneous : FieldMeasure::phasor_rms;
}

/// kappa of a conductivity, added to a permittivity.
template <class Scalar> Scalar coefficient(double eps_r, double sigma, const Section& section) {
    if constexpr (std::is_same_v<Scalar, double>)
        return section.analysis == Analysis::dc ? sigma : eps_r;
    else
        return {eps_r, -sigma / (omega(section) * eps0_F_per_m)};
}
/// Factor of sigma in kappa.
template <class Scalar> Scalar conduction_scale(const Section& section) {
    if constexpr (std::is_same_v<Scalar, double>)
        return 1.0;
    else
        return {0, -1 / (omega(section) * eps0_F_per_m)};
}

double real_part(double x) {
    return x;
}
double real_part(SymmetricComplex x) {
    return x.re;
}

template <class Scalar> NodeVector<Scalar> joined(const Solution& start, const Mesh& mesh) {
    const bool phasor = !std::is_same_v<Scalar, double> && start.is_phasor();
    Eigen::MatrixXd parts(start.potential_kV.size(), phasor ? 2 : 1);
    parts.col(0) = start.potential_kV;
    if (phasor) parts.col(1) = start.imaginary_kV;
    if (start.mesh.get() != &mesh) parts = carried_over(*start.mesh, parts, mesh);
    if constexpr (std::is_same_v<Scalar, double>) {
        return parts.col(0);
    } else {
        NodeVector<Scalar> out(parts.rows());
        for (Eigen::Index i = 0; i < out.size(); ++i) out[i] = {parts(i, 0), phasor ? parts(i, 1) : 0};
        return out;
    }
}

void split(const Eigen::VectorXd& v, Solution& out) {
    out.potential_kV = v;
    out.imaginary_kV.resize(0);
}
void split(const NodeVector<SymmetricComplex>& v, Solution& out) {
    out.potential_kV.resize(v.size());
    out.imaginary_kV.resize(v.size());
    for (Eigen::Index i = 0; i < v.size(); ++i) {
        out.potential_kV[i] = v[i].re;
        out.imaginary_kV[i] = v[i].im;
    }
}

} // namespace

std::vector<std::complex<double>> region_coefficients(const Section& section) {
    const auto eps_r = permittivities(section);
    std::vector<std::complex<double>> out;
    for (std::size_t k = 0; k < section.regions.size(); ++k) {
        const auto& material = section.materials.at(section.regions[k].material);
        double sigma = 0;
        if (material.conduction && section.analysis != Analysis::capacitive)
            sigma = ConductionLaw(*material.conduction, measure_of(section)).at(1.0).sigma_S_per_m;
        if (section.analysis == Analysis::dc) {
            out.emplace_back(sigma);
        } else if (section.frequency_hz <= 0) {
            out.emplace_back(eps_r[k]);
        } else {
            const auto kappa = coefficient<SymmetricComplex>(eps_r[k], sigma, section);
            out.emplace_back(kappa.re, kappa.im);
        }
    }
    return out;
}

std::vector<double> region_weights(const Section& section) {
    std::vector<double> out;
    for (const auto& kappa : region_coefficients(section)) out.push_back(std::abs(kappa));
    return out;
}

Eigen::MatrixXd carried_over(const Mesh& from, const Eigen::MatrixXd& potential_kV, const Mesh& to) {
    promise(potential_kV.rows() == static_cast<Eigen::Index>(from.nodes.size()),
            "one potential for each node");
    const TriangleTree tree(from);
    Eigen::MatrixXd out(static_cast<Eigen::Index>(to.nodes.size()), potential_kV.cols());
    out.setZero();
    int t = -1; // neighbours follow one another
    for (std::size_t node = 0; node < to.nodes.size(); ++node) {
        t = tree.find(to.nodes[node], -1, 1.0, t);
        if (t < 0) continue;
        const auto n = shape_values(nearest_point(from, t, to.nodes[node]));
        for (std::size_t i = 0; i < 6; ++i)
            out.row(static_cast<Eigen::Index>(node)) += n[i] * potential_kV.row(from.triangles[t][i]);
    }
    return out;
}

SteadyModel::SteadyModel(std::shared_ptr<const Assembly> assembly, const CancelFlag* cancel)
    : assembly_(std::move(assembly)), cancel_(cancel) {}
SteadyModel::~SteadyModel() = default;
SteadyModel::SteadyModel(SteadyModel&&) noexcept = default;

SteadyOutcome SteadyModel::solve(const Section& section, const Solution* start, Solution& out) {
    promise(section.electrodes.size() + section.boundaries.size() == assembly_->mesh().conductors.size(),
            "the mesh was made of this section's shapes");
    last_was_complex_ = section.analysis == Analysis::complex || section.analysis == Analysis::nonlinear;
    if (last_was_complex_) {
        if (!complex_) complex_ = std::make_unique<LinearSystem<SymmetricComplex>>(assembly_, cancel_);
        return run(*complex_, section, start, out);
    }
    if (!real_) real_ = std::make_unique<LinearSystem<double>>(assembly_, cancel_);
    return run(*real_, section, start, out);
}

double SteadyModel::factor_seconds() const {
    return (real_ ? real_->factor_seconds : 0) + (complex_ ? complex_->factor_seconds : 0);
}

/// The potentials: one linear solve, or Newton's iteration.
template <class Scalar>
SteadyOutcome SteadyModel::find(LinearSystem<Scalar>& system, const Section& section, const Solution* start,
                                const std::vector<Scalar>& kappa, NodeVector<Scalar>& v, Solution& out) {
    const auto& mesh = assembly_->mesh();
    const auto volts = conductor_voltages(section);
    const std::vector<Scalar> held(volts.begin(), volts.end());
    if (elements_->empty()) {
        system.set(kappa);
        if (!system.factorise()) return {!system.cancelled(), system.cancelled()};
        v = system.solve(held);
        return {};
    }
    const Scalar scale = conduction_scale<Scalar>(section);
    if (start) {
        v = joined<Scalar>(*start, mesh);
        for (std::size_t node = 0; node < mesh.nodes.size(); ++node) // exact on conductors
            if (const int c = mesh.conductor[node]; c >= 0 && !mesh.conductors[c].floating)
                v[static_cast<Eigen::Index>(node)] = held[c];
    } else {
        std::vector<Scalar> at_low_field = kappa;
        for (std::size_t k = 0; k < kappa.size(); ++k)
            if (laws_->dependent[k])
                at_low_field[k] =
                    coefficient<Scalar>(out.eps_r[k], laws_->dependent[k]->at(0.1).sigma_S_per_m, section);
        system.set(at_low_field);
        if (!system.factorise()) return {!system.cancelled(), system.cancelled()};
        v = system.solve(held);
    }
    const NodeVector<Scalar> first = v;
    auto newton = solve_nonlinear<Scalar>(system, kappa, *elements_, scale, held, v, {});
    if (!newton.converged && !newton.cancelled) {
        // From far away: raise the voltage in steps.
        constexpr int steps = 8;
        v = Scalar(1.0 / steps) * first;
        for (int step = 1; step <= steps && !newton.cancelled; ++step) {
            std::vector<Scalar> part;
            for (const auto& h : held) part.push_back(h * Scalar(static_cast<double>(step) / steps));
            const int before = newton.iterations;
            if (step > 1) v = Scalar(static_cast<double>(step) / (step - 1)) * v;
            newton = solve_nonlinear<Scalar>(system, kappa, *elements_, scale, part, v, {});
            newton.iterations += before;
        }
    }
    out.report.iterations = newton.iterations;
    out.report.residual = newton.residual;
    out.report.converged = newton.converged;
    return {false, newton.cancelled};
}

template <> NodeVector<double>& SteadyModel::last_state<double>() {
    return real_state_;
}
template <> NodeVector<SymmetricComplex>& SteadyModel::last_state<SymmetricComplex>() {
    return complex_state_;
}
template <> const NodeVector<double>& SteadyModel::last_state<double>() const {
    return real_state_;
}
template <> const NodeVector<SymmetricComplex>& SteadyModel::last_state<SymmetricComplex>() const {
    return complex_state_;
}

template <class Scalar>
SteadyOutcome SteadyModel::run(LinearSystem<Scalar>& system, const Section& section, const Solution* start,
                               Solution& out) {
    const auto& mesh = assembly_->mesh();
    elements_.reset(); // it points to the laws
    laws_ = std::make_unique<RegionLaws>(section, measure_of(section));
    out.symmetry = section.symmetry;
    out.analysis = section.analysis;
    out.linear = section.analysis == Analysis::capacitive || !laws_->any_dependent();
    out.mesh = assembly_->mesh_pointer();
    out.region_names.clear();
    for (const auto& region : section.regions) out.region_names.push_back(region.name);
    out.eps_r = permittivities(section);
    elements_ = std::make_unique<NonlinearElements>(
        *assembly_,
        out.linear ? std::vector<const ConductionLaw*>(section.regions.size(), nullptr) : laws_->dependent);

    std::vector<Scalar> material_kappa;
    for (std::size_t k = 0; k < section.regions.size(); ++k)
        material_kappa.push_back(coefficient<Scalar>(out.eps_r[k], laws_->constant_S_per_m[k], section));
    auto kappa = material_kappa;
    weights_ = region_weights(section);
    const auto factors = floating_body_factors(mesh, weights_);
    // Bodies of field-dependent conduction are left to the ordinary sums: their laws are not in kappa.
    auto of_bodies = weights_;
    const double least = *std::min_element(weights_.begin(), weights_.end());
    for (std::size_t k = 0; k < of_bodies.size(); ++k)
        if (laws_->dependent[k]) of_bodies[k] = least;
    bodies_ = find_bodies(mesh, of_bodies);
    for (std::size_t k = 0; k < kappa.size(); ++k) {
        if (factors[k] == 1.0 || laws_->dependent[k]) continue;
        kappa[k] *= Scalar(factors[k]);
        out.report.notes.push_back(fmt::format(
            "region {}: conducts so well and touches no electrode; solved as an equipotential body",
            section.regions[k].name));
    }
    NodeVector<Scalar> v;
    const auto outcome = find<Scalar>(system, section, start, kappa, v, out);
    if (outcome.singular || outcome.cancelled) return outcome;
    split(v, out);
    fill_figures<Scalar>({section, *assembly_, *laws_, *elements_, kappa, material_kappa, out.eps_r, bodies_,
                          conduction_scale<Scalar>(section), v},
                         out);
    if (elements_->empty()) return outcome;
    last_state<Scalar>() = v;
    law_scale_ = SymmetricComplex(conduction_scale<Scalar>(section));
    const auto states = elements_->states<Scalar>(v);
    for (std::size_t k = 0; k < states.size(); ++k)
        if (const auto* law = laws_->dependent[k];
            law && states[k].largest_field_kV_per_mm > law->known_up_to_kV_per_mm())
            out.report.notes.push_back(fmt::format(
                "region {}: the field reaches {} kV/mm, beyond its table; its last value was used there",
                section.regions[k].name, format_figures(states[k].largest_field_kV_per_mm, 3)));
    return outcome;
}

/// Solution of the last (linearised) equations for these conductor values.
template <class Scalar>
NodeVector<Scalar> SteadyModel::unit_state(const LinearSystem<Scalar>& system,
                                           const std::vector<double>& conductor_values) const {
    const std::vector<Scalar> values(conductor_values.begin(), conductor_values.end());
    if (elements_->empty()) return system.solve(values);
    const NodeVector<Scalar> none = NodeVector<Scalar>::Zero(assembly_->unknown_count());
    const NodeVector<Scalar> held = assembly_->scatter<Scalar>(none, values);
    NodeVector<Scalar> flux = system.reaction(held);
    Scalar scale;
    if constexpr (std::is_same_v<Scalar, double>)
        scale = law_scale_.re;
    else
        scale = law_scale_;
    elements_->template add_flux_change<Scalar>(last_state<Scalar>(), held, scale, flux);
    return assembly_->scatter<Scalar>(system.solve_unknowns(-assembly_->gather(flux)), values);
}

std::pair<Eigen::VectorXd, Eigen::VectorXd> SteadyModel::adjoint(const AdjointLoad& load) const {
    if (!last_was_complex_) return {real_->solve_adjoint(load.real) + unit_state(*real_, load.conductor), {}};
    // For a symmetric matrix A the adjoint state is conj(A^-1 conj(load)).
    NodeVector<SymmetricComplex> right(load.real.size());
    for (Eigen::Index i = 0; i < right.size(); ++i)
        right[i] = {load.real[i], load.imaginary.size() > 0 ? -load.imaginary[i] : 0};
    const NodeVector<SymmetricComplex> z =
        complex_->solve_adjoint(right) + unit_state(*complex_, load.conductor);
    Eigen::VectorXd re(z.size()), im(z.size());
    for (Eigen::Index i = 0; i < z.size(); ++i) re[i] = z[i].re, im[i] = -z[i].im;
    return {re, im};
}

void SteadyModel::add_integrals(const Section& section, const Solution& solution, bool errors_known,
                                double goal, AdjointLoad& load) const {
    // Sections of which nothing is read bring no load of their own.
    if (load.real.size() == 0) load.real = Eigen::VectorXd::Zero(solution.potential_kV.size());
    if (solution.is_phasor() && load.imaginary.size() == 0)
        load.imaginary = Eigen::VectorXd::Zero(load.real.size());
    const bool dc = section.analysis == Analysis::dc;
    const auto urgent = [&](double error, double size) {
        return errors_known ? tuning::urgency(error / size, goal) : 1.0;
    };
    const double unit = volts_per_unit(section.symmetry) * (dc ? 1 : eps0_F_per_m);
    double largest = 0;
    const auto flux = [&](const ConductorResult& c) {
        const double size = dc ? c.current_A : c.charge_C;
        return solution.is_phasor() && std::cos(c.charge_phase_deg * std::numbers::pi / 180) < 0 ? -size
                                                                                                 : size;
    };
    for (const auto& c : solution.conductors) largest = std::max(largest, std::abs(flux(c)));
    load.conductor.assign(solution.conductors.size(), 0.0);
    for (std::size_t k = 0; k < load.conductor.size() && largest > 0; ++k) {
        const auto& c = solution.conductors[k];
        if (c.floating) continue;
        const double own = flux(c), size = std::max(std::abs(own), tuning::charge_floor * largest);
        load.conductor[k] =
            (own < 0 ? -1 : 1) * unit / size * urgent(dc ? c.current_error_A : c.charge_error_C, size);
    }
    if (dc) add_free_charges(section, *assembly_, solution, errors_known, goal, load.real);
    double total = 0;
    for (const auto& loss : solution.losses) total += loss.power_W;
    if (!(total > 0)) return;
    const double to_watt = 1e3 * volts_per_unit(section.symmetry);
    std::vector<double> coefficient(section.regions.size(), 0.0);
    for (const auto& loss : solution.losses)
        for (std::size_t k = 0; k < coefficient.size(); ++k) {
            if (section.regions[k].name != loss.region) continue;
            const double size = std::max(loss.power_W, tuning::part_floor * total);
            coefficient[k] =
                2 * to_watt * laws_->constant_S_per_m[k] / size * urgent(loss.power_error_W, size);
        }
    // Good conductors' own potentials are rounding: their losses hang on the current, which is in the
    // charges.
    for (std::size_t k = 0; k < coefficient.size(); ++k)
        if (bodies_.region[k]) coefficient[k] = 0;
    assembly_->multiply<double>(coefficient, solution.potential_kV, load.real);
    if (solution.is_phasor()) assembly_->multiply<double>(coefficient, solution.imaginary_kV, load.imaginary);
}

Eigen::MatrixXd SteadyModel::capacitance_F() const {
    const auto& mesh = assembly_->mesh();
    const auto count = static_cast<Eigen::Index>(mesh.conductors.size());
    Eigen::MatrixXd out = Eigen::MatrixXd::Zero(count, count);
    auto column = [&](auto& system, Eigen::Index j) {
        using Scalar = typename std::decay_t<decltype(system)>::Matrix::Scalar;
        std::vector<double> unit(static_cast<std::size_t>(count), 0.0);
        unit[j] = 1;
        const auto flux = system.reaction(unit_state<Scalar>(system, unit));
        NodeVector<Scalar> sum = NodeVector<Scalar>::Zero(count);
        for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
            if (mesh.conductor[node] >= 0) sum[mesh.conductor[node]] += flux[static_cast<Eigen::Index>(node)];
        const double per_kV = eps0_F_per_m * volts_per_unit(assembly_->symmetry());
        for (Eigen::Index i = 0; i < count; ++i)
            if (!mesh.conductors[i].floating) out(i, j) = 1e-3 * per_kV * real_part(sum[i]);
    };
    for (Eigen::Index j = 0; j < count; ++j) {
        if (mesh.conductors[j].floating) continue;
        if (last_was_complex_)
            column(*complex_, j);
        else
            column(*real_, j);
    }
    return out;
}

} // namespace ng
