#include "field/figures.h"
#include "field/gradient_square.h"
#include "field/permittivity.h"
#include "field/tuning.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numbers>
#include <set>
#include <unordered_map>

namespace ng {
namespace {

double omega(const Section& section) {
    return 2 * std::numbers::pi * section.frequency_hz;
}

double degrees(SymmetricComplex x) {
    return magnitude(x) > 0 ? std::atan2(x.im, x.re) * 180 / std::numbers::pi : 0;
}

/// Length of each region along the axis, m.
std::vector<double> axial_extent_m(const Mesh& mesh, std::size_t regions) {
    std::vector<double> low(regions, std::numeric_limits<double>::max()), high(regions, -low[0]), out;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (const int node : mesh.triangles[t]) {
            const auto k = static_cast<std::size_t>(mesh.region[t]);
            low[k] = std::min(low[k], mesh.nodes[node].z);
            high[k] = std::max(high[k], mesh.nodes[node].z);
        }
    for (std::size_t k = 0; k < regions; ++k) out.push_back(1e-3 * std::max(0.0, high[k] - low[k]));
    return out;
}

/// Shares of the conductors that touch at a node, by node: of the sides that meet there by length, each
/// weighted with what the region beside it conducts: near the point the field on both sides is alike. By
/// length alone where one of the regions conducts by a law of its field.
template <class Scalar>
std::unordered_map<int, std::vector<std::pair<int, double>>>
shares_at_contacts(const SteadyState<Scalar>& s, const std::vector<int>& owner_of,
                   std::span<const Scalar> coefficient) {
    const auto& mesh = s.assembly.mesh();
    std::unordered_map<int, std::vector<std::pair<int, double>>> out;
    for (const auto& node : mesh.shared_nodes) out[node.node] = node.shares;
    if (out.empty()) return out;
    const auto has_law = [&](int region) {
        const auto& conduction =
            s.section.materials.at(s.section.regions[static_cast<std::size_t>(region)].material).conduction;
        return conduction && conduction->depends_on_field();
    };
    std::unordered_map<int, std::map<int, double>> weighted; // node, conductor
    std::set<int> by_length;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& nodes = mesh.triangles[t];
        if (std::all_of(nodes.begin(), nodes.end(), [&](int node) { return owner_of[node] >= 0; })) continue;
        for (std::size_t side = 0; side < 3; ++side) {
            const int a = nodes[side], b = nodes[(side + 1) % 3], owner = owner_of[nodes[side + 3]];
            if (owner < 0) continue;
            for (const int end : {a, b})
                if (out.contains(end)) {
                    if (has_law(mesh.region[t])) by_length.insert(end);
                    weighted[end][owner] += distance(mesh.nodes[a], mesh.nodes[b]) *
                                            magnitude(coefficient[static_cast<std::size_t>(mesh.region[t])]);
                }
        }
    }
    for (const auto& [node, by_conductor] : weighted) {
        double whole = 0;
        for (const auto& [conductor, weight] : by_conductor) whole += weight;
        if (!(whole > 0) || by_length.contains(node)) continue;
        auto& shares = out[node];
        shares.clear();
        for (const auto& [conductor, weight] : by_conductor) shares.emplace_back(conductor, weight / whole);
    }
    return out;
}

/// Sum of the residuals at each conductor's nodes, its bodies counted to it: of elements that lie wholly in
/// one conductor's body nothing leaves the body.
template <class Scalar>
NodeVector<Scalar> flux_from_conductors(const SteadyState<Scalar>& s, const Bodies& bodies,
                                        std::span<const Scalar> coefficient, bool with_laws,
                                        std::vector<double>* at_contacts = nullptr) {
    const auto& mesh = s.assembly.mesh();
    const auto& owner_of = bodies.conductor_of_node;
    const auto shared = shares_at_contacts(s, owner_of, coefficient);
    std::map<std::pair<int, int>, Scalar> at_node; // node, conductor
    NodeVector<Scalar> sum = NodeVector<Scalar>::Zero(static_cast<Eigen::Index>(mesh.conductors.size()));
    const auto take = [&](int node, Scalar flux) {
        const auto between = shared.empty() ? shared.end() : shared.find(node);
        if (between == shared.end()) {
            sum[owner_of[node]] += flux;
            return;
        }
        // Conductors that touch: neither the node's residual nor its charge is one's alone.
        for (const auto& [conductor, share] : between->second) {
            sum[conductor] += Scalar(share) * flux;
            at_node[{node, conductor}] += Scalar(share) * flux;
        }
    };
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& nodes = mesh.triangles[t];
        const auto owner = [&](std::size_t i) { return owner_of[nodes[i]]; };
        const int first = owner(0);
        bool inside = first >= 0, none = first < 0;
        for (std::size_t i = 1; i < 6; ++i) inside = inside && owner(i) == first, none = none && owner(i) < 0;
        if (inside || none) continue;
        const auto& k = s.assembly.stiffness_of(static_cast<int>(t));
        const Scalar c = coefficient[mesh.region[t]];
        for (std::size_t i = 0; i < 6; ++i) {
            if (owner(i) < 0) continue;
            Scalar flux{};
            for (std::size_t j = 0; j < 6; ++j)
                flux += c * Scalar(k[Assembly::packed_index[i][j]]) * s.potential_kV[nodes[j]];
            take(nodes[i], flux);
        }
    }
    if (with_laws && !s.elements.empty()) {
        NodeVector<Scalar> flux = NodeVector<Scalar>::Zero(s.potential_kV.size());
        s.elements.template add_flux<Scalar>(s.potential_kV, s.law_scale, flux);
        for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
            if (owner_of[node] >= 0) take(static_cast<int>(node), flux[static_cast<Eigen::Index>(node)]);
    }
    if (at_contacts) {
        at_contacts->assign(mesh.conductors.size(), 0.0);
        for (const auto& [place, flux] : at_node) (*at_contacts)[place.second] += magnitude(flux);
    }
    return sum;
}

template <class Scalar>
void fill_conductors(const SteadyState<Scalar>& s, const Bodies& bodies, Solution& out) {
    const auto& mesh = s.assembly.mesh();
    const double unit = volts_per_unit(s.section.symmetry);
    const bool dc = s.section.analysis == Analysis::dc;
    std::vector<double> at_contacts;
    const auto through = flux_from_conductors<Scalar>(s, bodies, s.kappa, true, &at_contacts);
    NodeVector<Scalar> dielectric; // DC: charge by permittivity
    if (dc) {
        const std::vector<Scalar> eps(s.eps_r.begin(), s.eps_r.end());
        dielectric = flux_from_conductors<Scalar>(s, bodies, eps, false);
    }
    std::vector<int> any_node(mesh.conductors.size(), -1);
    for (std::size_t node = 0; node < mesh.nodes.size(); ++node)
        if (const int c = mesh.conductor[node]; c >= 0) any_node[c] = static_cast<int>(node);
    const auto held = conductor_voltages(s.section);
    out.conductors.clear();
    for (std::size_t c = 0; c < mesh.conductors.size(); ++c) {
        ConductorResult result;
        result.name = mesh.conductors[c].name;
        result.floating = mesh.conductors[c].floating;
        Scalar potential = held[c];
        if (result.floating && any_node[c] >= 0) potential = s.potential_kV[any_node[c]];
        const auto i = static_cast<Eigen::Index>(c);
        if constexpr (std::is_same_v<Scalar, double>) {
            result.potential_kV = potential;
            result.charge_C = eps0_F_per_m * unit * (dc ? dielectric[i] : through[i]);
            result.current_A = dc ? unit * through[i] : omega(s.section) * std::abs(result.charge_C);
        } else {
            result.potential_kV = magnitude(potential);
            result.potential_phase_deg = degrees(potential);
            result.charge_C = eps0_F_per_m * unit * magnitude(through[i]);
            result.charge_phase_deg = degrees(through[i]);
            result.current_A = omega(s.section) * result.charge_C;
        }
        result.at_contacts = unit * at_contacts[c] * (dc ? 1 : eps0_F_per_m);
        // None flows onto a floating one: that is how its potential was found, no figure of the mesh.
        if (result.floating) {
            result.current_A = 0;
            if (!dc) result.charge_C = 0, result.charge_phase_deg = 0;
            result.at_contacts = 0;
        }
        out.conductors.push_back(std::move(result));
    }
}

template <class Scalar> void fill_losses(const SteadyState<Scalar>& s, const Bodies& bodies, Solution& out) {
    const auto& mesh = s.assembly.mesh();
    const auto count = s.section.regions.size();
    const double to_watt = 1e3 * volts_per_unit(s.section.symmetry);
    std::vector<double> power(count, 0), peak(count, 0); // W, W/m3
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto k = static_cast<std::size_t>(mesh.region[t]);
        const double sigma = s.laws.constant_S_per_m[k];
        if (sigma <= 0 || bodies.inside[t]) continue;
        std::array<Scalar, 6> local;
        for (std::size_t i = 0; i < 6; ++i) local[i] = s.potential_kV[mesh.triangles[t][i]];
        const auto square = gradient_square(s.assembly, static_cast<int>(t), local);
        power[k] += to_watt * sigma * square.integral;
        peak[k] = std::max(peak[k], 1e12 * sigma * square.in_the_middle);
    }
    if (std::any_of(bodies.inside.begin(), bodies.inside.end(), [](char inside) { return inside; })) {
        const auto in_bodies = body_losses<Scalar>(s.assembly, bodies, s.material_kappa,
                                                   s.laws.constant_S_per_m, s.potential_kV);
        for (std::size_t k = 0; k < count; ++k) {
            power[k] += in_bodies.power_W[k];
            peak[k] = std::max(peak[k], in_bodies.peak_W_per_m3[k]);
        }
    }
    if (!s.elements.empty()) {
        const auto states = s.elements.template states<Scalar>(s.potential_kV);
        for (std::size_t k = 0; k < count; ++k)
            if (s.laws.dependent[k])
                power[k] = to_watt * states[k].loss, peak[k] = 1e12 * states[k].peak_loss_density;
    }
    const auto extent = axial_extent_m(mesh, count);
    out.losses.clear();
    for (std::size_t k = 0; k < count; ++k) {
        if (s.laws.constant_S_per_m[k] <= 0 && !s.laws.dependent[k]) continue;
        LossResult loss;
        loss.region = s.section.regions[k].name;
        loss.power_W = power[k];
        if (s.section.symmetry == Symmetry::axisymmetric && extent[k] > 0)
            loss.per_length_W = loss.power_W / extent[k];
        loss.peak_W_per_m3 = peak[k];
        out.losses.push_back(loss);
    }
}

} // namespace

std::vector<double> conductor_voltages(const Section& section) {
    std::vector<double> out;
    for (const auto& electrode : section.electrodes)
        out.push_back(electrode.floating ? 0 : electrode.voltage_kV);
    for (const auto& boundary : section.boundaries) out.push_back(boundary.voltage_kV);
    return out;
}

double largest_voltage_kV(const Section& section) {
    double most = 0;
    for (const double v : conductor_voltages(section)) most = std::max(most, std::abs(v));
    return most;
}

template <class Scalar> void fill_figures(const SteadyState<Scalar>& s, Solution& out) {
    fill_conductors(s, s.bodies, out);
    NodeVector<Scalar> displacement = NodeVector<Scalar>::Zero(s.potential_kV.size());
    const std::vector<Scalar> eps(s.eps_r.begin(), s.eps_r.end());
    s.assembly.template multiply<Scalar>(eps, s.potential_kV, displacement);
    double sum = 0;
    for (Eigen::Index i = 0; i < s.potential_kV.size(); ++i)
        sum += projected(s.potential_kV[i], displacement[i]);
    out.energy_J = 0.5e3 * eps0_F_per_m * volts_per_unit(s.section.symmetry) * sum;
    out.losses.clear();
    out.interface_charges.clear();
    if (s.section.analysis != Analysis::capacitive) fill_losses(s, s.bodies, out);
    if (s.section.analysis == Analysis::dc)
        out.interface_charges = interface_charges(s.section, s.assembly, out.potential_kV);
}

template void fill_figures<double>(const SteadyState<double>&, Solution&);
template void fill_figures<SymmetricComplex>(const SteadyState<SymmetricComplex>&, Solution&);

namespace {

/// Which border each free node lies on, lower region first; a node inside a region has both alike. (-1, -1):
/// on a conductor.
std::vector<std::pair<int, int>> borders_of(const Mesh& mesh) {
    std::vector<std::pair<int, int>> out(mesh.nodes.size(), {-1, -1});
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (const int node : mesh.triangles[t]) {
            auto& [a, b] = out[node];
            if (mesh.conductor[node] >= 0) continue;
            if (a < 0)
                a = b = mesh.region[t];
            else if (a != mesh.region[t] && a == b)
                b = mesh.region[t];
        }
    for (auto& [a, b] : out)
        if (a > b) std::swap(a, b);
    return out;
}

} // namespace

std::vector<InterfaceCharge> interface_charges(const Section& section, const Assembly& assembly,
                                               const Eigen::VectorXd& potential_kV) {
    Eigen::VectorXd flux = Eigen::VectorXd::Zero(potential_kV.size());
    assembly.multiply<double>(permittivities(section), potential_kV, flux);
    const auto& mesh = assembly.mesh();
    const auto borders = borders_of(mesh);
    std::map<std::pair<int, int>, double> sum, at_ends;
    for (std::size_t node = 0; node < borders.size(); ++node)
        if (borders[node].first >= 0) sum[borders[node]] += flux[static_cast<Eigen::Index>(node)];
    std::vector<char> next_to_end(borders.size(), 0);
    for (const auto& triangle : mesh.triangles)
        for (std::size_t side = 0; side < 3; ++side) {
            const auto a = static_cast<std::size_t>(triangle[side]),
                       b = static_cast<std::size_t>(triangle[(side + 1) % 3]),
                       middle = static_cast<std::size_t>(triangle[3 + side]);
            const auto own = borders[middle];
            if (own.first < 0 || own.first == own.second || (borders[a] == own && borders[b] == own))
                continue;
            for (const auto node : {a, b, middle})
                if (borders[node] == own) next_to_end[node] = 1;
        }
    for (std::size_t node = 0; node < borders.size(); ++node)
        if (next_to_end[node]) at_ends[borders[node]] += std::abs(flux[static_cast<Eigen::Index>(node)]);
    const double unit = eps0_F_per_m * volts_per_unit(section.symmetry);
    std::vector<InterfaceCharge> out;
    for (const auto& [pair, charge] : sum) {
        const auto& a = section.regions[pair.first];
        const auto& b = section.regions[pair.second];
        const auto& conduction = section.materials.at(a.material).conduction;
        if (pair.first == pair.second && !(conduction && conduction->depends_on_field()))
            continue; // nothing but round-off
        out.push_back({a.name, b.name, unit * charge, 0, unit * at_ends[pair]});
    }
    return out;
}

namespace {

std::pair<int, int> regions_of(const Section& section, const InterfaceCharge& charge) {
    int a = -1, b = -1;
    for (std::size_t k = 0; k < section.regions.size(); ++k) {
        if (section.regions[k].name == charge.region_a) a = static_cast<int>(k);
        if (section.regions[k].name == charge.region_b) b = static_cast<int>(k);
    }
    return {a, b};
}

} // namespace

Eigen::VectorXd charge_load(const Section& section, const Assembly& assembly, const Solution& solution,
                            const ChargeWeights& weights) {
    const auto& mesh = assembly.mesh();
    std::map<std::pair<int, int>, double> of_border;
    for (std::size_t k = 0; k < weights.free.size(); ++k)
        of_border[regions_of(section, solution.interface_charges[k])] = weights.free[k];
    const auto borders = borders_of(mesh);
    Eigen::VectorXd chosen = Eigen::VectorXd::Zero(static_cast<Eigen::Index>(mesh.nodes.size())),
                    load = chosen;
    for (std::size_t node = 0; node < borders.size(); ++node) {
        auto& weight = chosen[static_cast<Eigen::Index>(node)];
        if (const int c = mesh.conductor[node]; c >= 0)
            weight = weights.conductor.empty() ? 0 : weights.conductor[c];
        else if (const auto it = of_border.find(borders[node]); it != of_border.end())
            weight = it->second;
    }
    assembly.multiply<double>(permittivities(section), chosen, load);
    return load;
}

std::vector<double> charge_at_border_ends(const Section& section, const Assembly& assembly,
                                          const Bodies& bodies, const Eigen::VectorXd& potential_kV) {
    // Of a density that is even along a side of a quadratic element its middle holds 2/3 and each end 1/6.
    constexpr double end_over_middle = 0.25;
    const auto& mesh = assembly.mesh();
    const auto& owner = bodies.conductor_of_node;
    const auto borders = borders_of(mesh);
    Eigen::VectorXd flux = Eigen::VectorXd::Zero(potential_kV.size());
    assembly.multiply<double>(permittivities(section), potential_kV, flux);
    std::vector<double> out(mesh.conductors.size(), 0.0);
    std::vector<char> taken(mesh.nodes.size(), 0); // a side has two triangles
    for (const auto& triangle : mesh.triangles)
        for (std::size_t side = 0; side < 3; ++side) {
            const int a = owner[triangle[side]], b = owner[triangle[(side + 1) % 3]];
            const auto middle = static_cast<std::size_t>(triangle[3 + side]);
            if ((a < 0) == (b < 0) || owner[middle] >= 0 || taken[middle]) continue;
            if (borders[middle].first == borders[middle].second) continue;
            taken[middle] = 1;
            out[std::max(a, b)] += end_over_middle * std::abs(flux[static_cast<Eigen::Index>(middle)]);
        }
    for (auto& charge : out) charge *= eps0_F_per_m * volts_per_unit(section.symmetry);
    return out;
}

void add_free_charges(const Section& section, const Assembly& assembly, const Solution& solution,
                      bool errors_known, double goal, Eigen::VectorXd& load) {
    double largest = 0;
    for (const auto& c : solution.conductors) largest = std::max(largest, std::abs(c.charge_C));
    if (!(largest > 0)) return;
    const double unit = eps0_F_per_m * volts_per_unit(section.symmetry);
    const auto share = [&](double charge, double error, double floor) {
        const double size = std::max(std::abs(charge), floor * largest);
        return (charge < 0 ? -1 : 1) * unit / size * (errors_known ? tuning::urgency(error / size, goal) : 1);
    };
    ChargeWeights weights;
    for (const auto& c : solution.conductors)
        weights.conductor.push_back(share(c.charge_C, c.charge_error_C, tuning::charge_floor));
    for (const auto& c : solution.interface_charges)
        weights.free.push_back(share(c.charge_C, c.charge_error_C, tuning::part_floor));
    load += charge_load(section, assembly, solution, weights);
}

} // namespace ng
