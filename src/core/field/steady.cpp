#include "field/steady.h"
#include "mesh/triangle_tree.h"
#include "units/quantity.h"
#include <algorithm>
#include <boost/pending/disjoint_sets.hpp>
#include <complex>
#include <fmt/format.h>
#include <limits>
#include <map>
#include <numbers>
#include <set>

namespace ng {
namespace {

const SectionMaterial& material_of(const Section& section, const Region& region) {
    return section.materials.at(region.material);
}

double omega(const Section& section) {
    return 2 * std::numbers::pi * section.frequency_hz;
}

FieldMeasure measure_of(const Section& section) {
    return section.analysis == "dc" ? FieldMeasure::instantaneous : FieldMeasure::phasor_rms;
}

std::vector<double> permittivities(const Section& section) {
    std::vector<double> out;
    for (const auto& region : section.regions) out.push_back(material_of(section, region).eps_r);
    return out;
}

/// kappa of a conductivity, added to a permittivity.
template <class Scalar> Scalar coefficient(double eps_r, double sigma, const Section& section) {
    if constexpr (std::is_same_v<Scalar, double>)
        return section.analysis == "dc" ? sigma : eps_r;
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
double degrees(SymmetricComplex x) {
    return magnitude(x) > 0 ? std::atan2(x.im, x.re) * 180 / std::numbers::pi : 0;
}

template <class Scalar> NodeVector<Scalar> joined(const Solution& start, const Mesh& mesh) {
    const bool same = start.mesh.get() == &mesh;
    const Eigen::VectorXd re =
        same ? start.potential_kV : carried_over(*start.mesh, start.potential_kV, mesh);
    if constexpr (std::is_same_v<Scalar, double>) {
        return re;
    } else {
        Eigen::VectorXd im = Eigen::VectorXd::Zero(re.size());
        if (start.is_phasor())
            im = same ? start.imaginary_kV : carried_over(*start.mesh, start.imaginary_kV, mesh);
        NodeVector<Scalar> out(re.size());
        for (Eigen::Index i = 0; i < re.size(); ++i) out[i] = {re[i], im[i]};
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

/// Conductor of each node, where a much better conducting body that lies on one held conductor only counts as
/// part of it: the charge is then read where the field is, not as the difference of huge numbers inside the
/// body.
std::vector<int> conductors_with_bodies(const Mesh& mesh, const std::vector<double>& weight) {
    constexpr double much_better = 1e6;
    std::vector<int> out = mesh.conductor;
    const double least = *std::min_element(weight.begin(), weight.end());
    const auto none = static_cast<int>(mesh.nodes.size());
    boost::disjoint_sets_with_storage<> bodies(mesh.nodes.size());
    auto root = [&](int node) { return static_cast<int>(bodies.find_set(static_cast<std::size_t>(node))); };
    std::vector<char> in_body(mesh.nodes.size(), 0);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        if (weight[static_cast<std::size_t>(mesh.region[t])] <= much_better * least) continue;
        for (const int node : mesh.triangles[t]) {
            in_body[static_cast<std::size_t>(node)] = 1;
            bodies.union_set(static_cast<std::size_t>(node), static_cast<std::size_t>(mesh.triangles[t][0]));
        }
    }
    std::map<int, int> owner; // body root: the one conductor it touches, or `none` for several
    for (std::size_t node = 0; node < out.size(); ++node) {
        if (!in_body[node] || mesh.conductor[node] < 0) continue;
        const auto [it, fresh] = owner.try_emplace(root(static_cast<int>(node)), mesh.conductor[node]);
        if (!fresh && it->second != mesh.conductor[node]) it->second = none;
    }
    for (std::size_t node = 0; node < out.size(); ++node)
        if (in_body[node] && out[node] < 0)
            if (const auto it = owner.find(root(static_cast<int>(node)));
                it != owner.end() && it->second != none)
                out[node] = it->second;
    return out;
}

/// Length of a region along the axis, m.
std::vector<double> axial_extent_m(const Mesh& mesh, std::size_t regions) {
    std::vector<double> low(regions, std::numeric_limits<double>::max()), high(regions, -low[0]), out;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (const int node : mesh.triangles[t]) {
            const auto k = static_cast<std::size_t>(mesh.region[t]);
            low[k] = std::min(low[k], mesh.nodes[static_cast<std::size_t>(node)].z);
            high[k] = std::max(high[k], mesh.nodes[static_cast<std::size_t>(node)].z);
        }
    for (std::size_t k = 0; k < regions; ++k) out.push_back(1e-3 * std::max(0.0, high[k] - low[k]));
    return out;
}

/// Losses of regions of constant conductivity (from the elements) and of the others (from their states).
template <class Scalar>
std::vector<LossResult> losses(const Section& section, const Assembly& assembly, const RegionLaws& laws,
                               const NonlinearElements& elements, const NodeVector<Scalar>& v) {
    const auto& mesh = assembly.mesh();
    const auto count = section.regions.size();
    std::vector<double> power(count, 0), peak(count, 0); // S/m kV^2 mm, S/m kV^2/mm^2
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto k = static_cast<std::size_t>(mesh.region[t]);
        const double sigma = laws.constant_S_per_m[k];
        if (sigma <= 0) continue;
        const auto& element = assembly.stiffness_of(static_cast<int>(t));
        std::array<Scalar, 6> local;
        for (std::size_t i = 0; i < 6; ++i) local[i] = v[mesh.triangles[t][i]];
        double sum = 0;
        for (std::size_t i = 0; i < 6; ++i)
            for (std::size_t j = 0; j < 6; ++j)
                sum += element[static_cast<std::size_t>(Assembly::packed_index[i][j])] *
                       projected(local[i], local[j]);
        power[k] += sigma * sum;
        Scalar r{}, z{};
        const auto centre = evaluate(mesh, static_cast<int>(t), {1.0 / 3, 1.0 / 3});
        for (std::size_t i = 0; i < 6; ++i) {
            r += local[i] * Scalar(centre.gradient[i].r);
            z += local[i] * Scalar(centre.gradient[i].z);
        }
        peak[k] = std::max(peak[k], sigma * (squared(r) + squared(z)));
    }
    if (!elements.empty()) {
        const auto states = elements.states<Scalar>(v);
        for (std::size_t k = 0; k < count; ++k)
            if (laws.dependent[k]) power[k] = states[k].loss, peak[k] = states[k].peak_loss_density;
    }
    const auto extent = axial_extent_m(mesh, count);
    const double to_watt = 1e3 * volts_per_unit(section.symmetry);
    std::vector<LossResult> out;
    for (std::size_t k = 0; k < count; ++k) {
        if (laws.constant_S_per_m[k] <= 0 && !laws.dependent[k]) continue;
        LossResult loss;
        loss.region = section.regions[k].name;
        loss.power_W = to_watt * power[k];
        if (section.symmetry == Symmetry::axisymmetric && extent[k] > 0)
            loss.per_length_W = loss.power_W / extent[k];
        loss.peak_W_per_m3 = 1e12 * peak[k];
        out.push_back(loss);
    }
    return out;
}

} // namespace

std::vector<double> conductor_voltages(const Section& section) {
    std::vector<double> out;
    for (const auto& electrode : section.electrodes)
        out.push_back(electrode.floating ? 0 : electrode.voltage_kV);
    for (const auto& boundary : section.boundaries) out.push_back(boundary.voltage_kV);
    return out;
}

std::vector<double> region_weights(const Section& section) {
    std::vector<double> out;
    for (const auto& region : section.regions) {
        const auto& material = material_of(section, region);
        double sigma = 0;
        if (material.conduction && section.analysis != "capacitive")
            sigma = ConductionLaw(*material.conduction, measure_of(section)).at(1.0).sigma_S_per_m;
        out.push_back(section.analysis == "dc" || section.frequency_hz <= 0
                          ? (section.analysis == "dc" ? sigma : material.eps_r)
                          : magnitude(coefficient<SymmetricComplex>(material.eps_r, sigma, section)));
    }
    return out;
}

double volts_per_unit(Symmetry symmetry) {
    return symmetry == Symmetry::planar ? 1e3 : 1.0;
}

Eigen::VectorXd carried_over(const Mesh& from, const Eigen::VectorXd& potential_kV, const Mesh& to) {
    const TriangleTree tree(from);
    Eigen::VectorXd out(static_cast<Eigen::Index>(to.nodes.size()));
    for (std::size_t node = 0; node < to.nodes.size(); ++node) {
        const int t = tree.find(to.nodes[node], -1, 1.0);
        double v = 0;
        if (t >= 0) {
            auto x = map_to_reference(from, t, to.nodes[node]);
            x.a = std::clamp(x.a, 0.0, 1.0);
            x.b = std::clamp(x.b, 0.0, 1.0 - x.a);
            const auto n = shape_values(x);
            for (std::size_t i = 0; i < 6; ++i)
                v += n[i] * potential_kV[from.triangles[static_cast<std::size_t>(t)][i]];
        }
        out[static_cast<Eigen::Index>(node)] = v;
    }
    return out;
}

SteadyModel::SteadyModel(std::shared_ptr<const Assembly> assembly, const CancelFlag* cancel)
    : assembly_(std::move(assembly)), cancel_(cancel) {}
SteadyModel::~SteadyModel() = default;
SteadyModel::SteadyModel(SteadyModel&&) noexcept = default;

SteadyOutcome SteadyModel::solve(const Section& section, const Solution* start, Solution& out) {
    last_was_complex_ = section.analysis == "complex" || section.analysis == "nonlinear";
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

template <class Scalar>
NodeVector<Scalar> SteadyModel::charges(const LinearSystem<Scalar>& system,
                                        const NodeVector<Scalar>& flux) const {
    const auto& mesh = system.assembly().mesh();
    NodeVector<Scalar> out = NodeVector<Scalar>::Zero(static_cast<Eigen::Index>(mesh.conductors.size()));
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
        if (mesh.conductor[node] >= 0) out[mesh.conductor[node]] += flux[static_cast<Eigen::Index>(node)];
    return out;
}

template <class Scalar>
SteadyOutcome SteadyModel::run(LinearSystem<Scalar>& system, const Section& section, const Solution* start,
                               Solution& out) {
    const auto& mesh = assembly_->mesh();
    const RegionLaws laws(section, measure_of(section));
    out.symmetry = section.symmetry;
    out.analysis = section.analysis;
    out.linear = section.analysis == "capacitive" || !laws.any_dependent();
    out.mesh = assembly_->mesh_pointer();
    out.region_names.clear();
    for (const auto& region : section.regions) out.region_names.push_back(region.name);
    out.eps_r = permittivities(section);

    std::vector<Scalar> kappa;
    for (std::size_t k = 0; k < section.regions.size(); ++k)
        kappa.push_back(coefficient<Scalar>(out.eps_r[k], laws.constant_S_per_m[k], section));
    const auto weights = region_weights(section);
    const auto factors = floating_body_factors(mesh, weights);
    for (std::size_t k = 0; k < kappa.size(); ++k) {
        if (factors[k] == 1.0 || laws.dependent[k]) continue;
        kappa[k] *= Scalar(factors[k]);
        out.report.notes.push_back(fmt::format(
            "region {}: conducts so well and touches no electrode; solved as an equipotential body",
            section.regions[k].name));
    }
    const auto volts = conductor_voltages(section);
    const std::vector<Scalar> held(volts.begin(), volts.end());
    const NonlinearElements elements(*assembly_, laws.dependent);

    NodeVector<Scalar> v;
    SteadyOutcome outcome;
    const bool nonlinear = !elements.empty() && section.analysis != "capacitive";
    if (!nonlinear) {
        system.set(kappa);
        if (!system.factorise()) return {!system.cancelled(), system.cancelled()};
        v = system.solve(held);
    } else {
        const Scalar scale = conduction_scale<Scalar>(section);
        if (start) {
            v = joined<Scalar>(*start, mesh);
            for (std::size_t node = 0; node < mesh.nodes.size(); ++node) // exact on conductors
                if (const int c = mesh.conductor[node];
                    c >= 0 && !mesh.conductors[static_cast<std::size_t>(c)].floating)
                    v[static_cast<Eigen::Index>(node)] = held[static_cast<std::size_t>(c)];
        } else {
            std::vector<Scalar> at_low_field = kappa;
            for (std::size_t k = 0; k < kappa.size(); ++k)
                if (laws.dependent[k])
                    at_low_field[k] =
                        coefficient<Scalar>(out.eps_r[k], laws.dependent[k]->at(0.1).sigma_S_per_m, section);
            system.set(at_low_field);
            if (!system.factorise()) return {!system.cancelled(), system.cancelled()};
            v = system.solve(held);
        }
        const NodeVector<Scalar> first = v;
        auto newton = solve_nonlinear<Scalar>(system, kappa, elements, scale, held, v, {});
        if (!newton.converged && !newton.cancelled) {
            // From far away: raise the voltage in steps.
            constexpr int steps = 8;
            v = Scalar(1.0 / steps) * first;
            for (int step = 1; step <= steps && !newton.cancelled; ++step) {
                std::vector<Scalar> part;
                for (const auto& h : held) part.push_back(h * Scalar(static_cast<double>(step) / steps));
                const int before = newton.iterations;
                if (step > 1) v = Scalar(static_cast<double>(step) / (step - 1)) * v;
                newton = solve_nonlinear<Scalar>(system, kappa, elements, scale, part, v, {});
                newton.iterations += before;
            }
        }
        outcome.cancelled = newton.cancelled;
        out.report.iterations = newton.iterations;
        out.report.residual = newton.residual;
        out.report.converged = newton.converged;
        if (outcome.cancelled) return outcome;
    }
    split(v, out);

    // Charges: of elements that lie wholly in one conductor's body nothing leaves the body.
    conductor_of_node_ = conductors_with_bodies(mesh, weights);
    const auto charge_of = [&](const std::vector<Scalar>& coefficients, bool with_law) {
        NodeVector<Scalar> sum = NodeVector<Scalar>::Zero(static_cast<Eigen::Index>(mesh.conductors.size()));
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
            const auto& nodes = mesh.triangles[t];
            const int first = conductor_of_node_[static_cast<std::size_t>(nodes[0])];
            const bool inside = first >= 0 && std::all_of(nodes.begin(), nodes.end(), [&](int n) {
                                    return conductor_of_node_[static_cast<std::size_t>(n)] == first;
                                });
            const bool none = std::all_of(nodes.begin(), nodes.end(), [&](int n) {
                return conductor_of_node_[static_cast<std::size_t>(n)] < 0;
            });
            if (inside || none) continue;
            const auto& k = assembly_->stiffness_of(static_cast<int>(t));
            const Scalar c = coefficients[static_cast<std::size_t>(mesh.region[t])];
            for (std::size_t i = 0; i < 6; ++i) {
                const int owner = conductor_of_node_[static_cast<std::size_t>(nodes[i])];
                if (owner < 0) continue;
                for (std::size_t j = 0; j < 6; ++j)
                    sum[owner] +=
                        c * Scalar(k[static_cast<std::size_t>(Assembly::packed_index[i][j])]) * v[nodes[j]];
            }
        }
        if (with_law) {
            NodeVector<Scalar> law_flux = NodeVector<Scalar>::Zero(v.size());
            elements.add_flux<Scalar>(v, conduction_scale<Scalar>(section), law_flux);
            for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
                if (const int owner = conductor_of_node_[node]; owner >= 0)
                    sum[owner] += law_flux[static_cast<Eigen::Index>(node)];
        }
        return sum;
    };
    const auto through = charge_of(kappa, nonlinear);
    const double unit = volts_per_unit(section.symmetry);
    out.conductors.clear();
    const bool dc = section.analysis == "dc";
    NodeVector<Scalar> dielectric; // DC: charge by permittivity
    if (dc) {
        const std::vector<Scalar> eps(out.eps_r.begin(), out.eps_r.end());
        dielectric = charge_of(eps, false);
    }
    for (std::size_t c = 0; c < mesh.conductors.size(); ++c) {
        ConductorResult result;
        result.name = mesh.conductors[c].name;
        result.floating = mesh.conductors[c].floating;
        Scalar potential = held[c];
        if (result.floating)
            for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
                if (mesh.conductor[node] == static_cast<int>(c)) {
                    potential = v[static_cast<Eigen::Index>(node)];
                    break;
                }
        const auto i = static_cast<Eigen::Index>(c);
        if constexpr (std::is_same_v<Scalar, double>) {
            result.potential_kV = potential;
            result.charge_C = eps0_F_per_m * unit * (dc ? dielectric[i] : through[i]);
            result.current_A = dc ? unit * through[i] : omega(section) * std::abs(result.charge_C);
        } else {
            result.potential_kV = magnitude(potential);
            result.potential_phase_deg = degrees(potential);
            result.charge_C = eps0_F_per_m * unit * magnitude(through[i]);
            result.charge_phase_deg = degrees(through[i]);
            result.current_A = omega(section) * result.charge_C;
        }
        out.conductors.push_back(std::move(result));
    }
    NodeVector<Scalar> displacement = NodeVector<Scalar>::Zero(v.size());
    const std::vector<Scalar> eps(out.eps_r.begin(), out.eps_r.end());
    assembly_->multiply<Scalar>(eps, v, displacement);
    double sum = 0;
    for (Eigen::Index i = 0; i < v.size(); ++i) sum += projected(v[i], displacement[i]);
    out.energy_J = 0.5e3 * eps0_F_per_m * unit * sum;
    out.losses.clear();
    out.interface_charges.clear();
    if (section.analysis != "capacitive") out.losses = losses<Scalar>(section, *assembly_, laws, elements, v);
    if (dc) out.interface_charges = interface_charges(section, *assembly_, out.potential_kV);
    for (std::size_t k = 0; nonlinear && k < laws.dependent.size(); ++k)
        if (const auto* law = laws.dependent[k]) {
            const double most = elements.states<Scalar>(v)[k].largest_field_kV_per_mm;
            if (most > law->known_up_to_kV_per_mm())
                out.report.notes.push_back(fmt::format(
                    "region {}: the field reaches {} kV/mm, beyond its table; its last value was used there",
                    section.regions[k].name, format_figures(most, 3)));
        }
    return outcome;
}

std::pair<Eigen::VectorXd, Eigen::VectorXd>
SteadyModel::adjoint(const std::pair<Eigen::VectorXd, Eigen::VectorXd>& load) const {
    if (!last_was_complex_) return {real_->solve_adjoint(load.first), {}};
    // For a symmetric matrix A the adjoint state is conj(A^-1 conj(load)).
    NodeVector<SymmetricComplex> right(load.first.size());
    for (Eigen::Index i = 0; i < right.size(); ++i)
        right[i] = {load.first[i], load.second.size() > 0 ? -load.second[i] : 0};
    const auto z = complex_->solve_adjoint(right);
    Eigen::VectorXd re(z.size()), im(z.size());
    for (Eigen::Index i = 0; i < z.size(); ++i) re[i] = z[i].re, im[i] = -z[i].im;
    return {re, im};
}

Eigen::MatrixXd SteadyModel::capacitance_F() const {
    const auto& mesh = assembly_->mesh();
    const auto count = static_cast<Eigen::Index>(mesh.conductors.size());
    Eigen::MatrixXd out = Eigen::MatrixXd::Zero(count, count);
    auto column = [&](auto& system, Eigen::Index j) {
        using Scalar = typename std::decay_t<decltype(system)>::Matrix::Scalar;
        std::vector<Scalar> unit(static_cast<std::size_t>(count), Scalar(0));
        unit[static_cast<std::size_t>(j)] = Scalar(1);
        const auto flux = system.reaction(system.solve(unit));
        const auto sum = charges<Scalar>(system, flux);
        const double per_kV =
            eps0_F_per_m * (mesh.conductors.empty() ? 1 : volts_per_unit(assembly_->symmetry()));
        for (Eigen::Index i = 0; i < count; ++i)
            if (!mesh.conductors[static_cast<std::size_t>(i)].floating)
                out(i, j) = 1e-3 * per_kV * real_part(sum[i]);
    };
    for (Eigen::Index j = 0; j < count; ++j) {
        if (mesh.conductors[static_cast<std::size_t>(j)].floating) continue;
        if (last_was_complex_)
            column(*complex_, j);
        else
            column(*real_, j);
    }
    return out;
}

std::vector<InterfaceCharge> interface_charges(const Section& section, const Assembly& assembly,
                                               const Eigen::VectorXd& potential_kV) {
    const auto& mesh = assembly.mesh();
    Eigen::VectorXd flux = Eigen::VectorXd::Zero(potential_kV.size());
    const auto eps = permittivities(section);
    assembly.multiply<double>(eps, potential_kV, flux);
    std::vector<std::pair<int, int>> regions(mesh.nodes.size(), {-1, -1});
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (const int node : mesh.triangles[t]) {
            auto& [a, b] = regions[static_cast<std::size_t>(node)];
            if (a < 0)
                a = mesh.region[t];
            else if (a != mesh.region[t] && b < 0)
                b = mesh.region[t];
        }
    std::map<std::pair<int, int>, double> sum;
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node) {
        if (mesh.conductor[node] >= 0) continue;
        auto [a, b] = regions[node];
        if (a < 0) continue;
        if (b < 0) b = a;
        sum[{std::min(a, b), std::max(a, b)}] += flux[static_cast<Eigen::Index>(node)];
    }
    std::vector<InterfaceCharge> out;
    for (const auto& [pair, charge] : sum) {
        const auto& a = section.regions[static_cast<std::size_t>(pair.first)];
        const auto& b = section.regions[static_cast<std::size_t>(pair.second)];
        const auto& conduction = material_of(section, a).conduction;
        if (pair.first == pair.second && !(conduction && conduction->depends_on_field()))
            continue; // nothing but round-off
        out.push_back({a.name, b.name, eps0_F_per_m * volts_per_unit(section.symmetry) * charge});
    }
    return out;
}

} // namespace ng
