// Loads of the adjoint problems: derivatives of what is read with respect to the nodal potentials.
#include "field/readings.h"
#include "units/promise.h"
#include <algorithm>
#include <cmath>

namespace ng {

std::pair<Eigen::VectorXd, Eigen::VectorXd> Readings::goal_load(const PlaceFields& fields,
                                                                const Solution* errors, double goal) const {
    const bool phasor = !fields.imaginary.empty();
    std::vector<double> weight(reading_of_.size(), 0.0);
    // The weighted mean over some places, over its own size; once errors are known, over the peak that they
    // are held to.
    auto mean_of = [&](std::size_t first, std::size_t count, auto weight_of, double peak, double factor) {
        double sum = 0;
        for (std::size_t i = 0; i < count; ++i) {
            weight[first + i] = weight_of(i);
            sum += weight[first + i] * (errors ? peak : fields.size(first + i));
        }
        for (std::size_t i = 0; i < count && sum > 0; ++i) weight[first + i] *= factor / sum;
    };
    double largest = 0;
    for (std::size_t k = 0; k < plan_->paths.size(); ++k) {
        const auto& path = plan_->paths[k];
        const auto first = first_of_path_[k], count = path.samples.size();
        double peak = 0;
        for (std::size_t i = 0; i < count; ++i)
            if (!path.samples[i].near_singular) peak = std::max(peak, fields.size(first + i));
        largest = std::max(largest, peak);
        if (!(peak > 0)) continue;
        mean_of(
            first, count,
            [&](std::size_t i) {
                if (path.samples[i].near_singular) return 0.0;
                const double size = fields.size(first + i) / peak;
                if (!errors) return path.share_mm[i] * size * size;
                return path.share_mm[i] *
                       tuning::urgency(tuning::own_error(errors->paths[k].samples[i].error_kV_per_mm / peak,
                                                         errors->paths[k].relative_error),
                                       path.slack * goal);
            },
            peak, 1 / path.slack);
    }
    for (std::size_t n = 0; n < reported_edges_.size(); ++n) {
        const auto k = reported_edges_[n];
        const auto first = first_of_edge_[k], count = plan_->edges[k].share.size();
        double peak = 0;
        for (std::size_t i = 0; i < count; ++i) peak = std::max(peak, fields.size(first + i));
        const double slack = plan_->edges[k].slack;
        const double factor =
            (errors ? tuning::urgency(errors->edges[n].relative_error, slack * goal) : 1) / slack;
        if (!(peak > 0) || factor == 0) continue;
        mean_of(
            first, count,
            [&](std::size_t i) {
                if (!present(first + i) || plan_->edges[k].near_singular[i]) return 0.0;
                const double size = fields.size(first + i) / peak;
                const auto& share = plan_->edges[k].share;
                return (share[std::min(i + 1, count - 1)] - share[i > 0 ? i - 1 : 0]) * size * size;
            },
            peak, factor);
    }
    for (std::size_t k = 0; k < section_->probes.size(); ++k)
        largest = std::max(largest, fields.size(place_of_probe(k)));
    for (std::size_t k = 0; k < section_->probes.size() && largest > 0; ++k) {
        const double size = std::max(fields.size(place_of_probe(k)), tuning::field_floor * largest);
        weight[place_of_probe(k)] =
            (errors ? tuning::urgency(errors->probes[k].error_kV_per_mm / size, goal) : 1) / size;
    }
    std::vector<Point> real(reader_->places().size()), imaginary(phasor ? real.size() : 0);
    for (std::size_t place = 0; place < weight.size(); ++place) {
        const double size = fields.size(place);
        if (weight[place] == 0 || size == 0 || !present(place)) continue;
        const auto k = static_cast<std::size_t>(reading_of_[place]);
        real[k] = (weight[place] / size) * fields.field[place];
        if (phasor) imaginary[k] = (weight[place] / size) * fields.imaginary[place];
    }
    std::pair<Eigen::VectorXd, Eigen::VectorXd> load{reader_->load(real),
                                                     phasor ? reader_->load(imaginary) : Eigen::VectorXd()};
    double largest_kV = 0;
    for (const auto& c : mesh_->conductors) largest_kV = std::max(largest_kV, std::abs(c.voltage_kV));
    for (std::size_t k = 0; k < section_->probes.size() && largest_kV > 0; ++k) {
        const auto place = place_of_probe(k);
        const double re = fields.potential[place], im = phasor ? fields.potential_imaginary[place] : 0,
                     size = std::max(std::hypot(re, im), tuning::potential_floor * largest_kV);
        const double w =
            (errors ? tuning::urgency(errors->probes[k].potential_error_kV / size, goal) : 1) / size;
        if (w == 0) continue;
        const auto own = potential_load(fields, place);
        load.first += w * own.first;
        if (phasor) load.second += w * own.second;
    }
    return load;
}

std::pair<Eigen::VectorXd, Eigen::VectorXd> Readings::field_load(const PlaceFields& fields,
                                                                 std::size_t place) const {
    promise(present(place), "the place is on this mesh");
    const bool phasor = !fields.imaginary.empty();
    std::vector<Point> real(reader_->places().size()), imaginary(phasor ? real.size() : 0);
    if (const double size = fields.size(place); size > 0) {
        const auto k = static_cast<std::size_t>(reading_of_[place]);
        real[k] = (1 / size) * fields.field[place];
        if (phasor) imaginary[k] = (1 / size) * fields.imaginary[place];
    }
    return {reader_->load(real), phasor ? reader_->load(imaginary) : Eigen::VectorXd()};
}

std::pair<Eigen::VectorXd, Eigen::VectorXd> Readings::potential_load(const PlaceFields& fields,
                                                                     std::size_t place) const {
    promise(present(place), "the place is on this mesh");
    const bool phasor = !fields.imaginary.empty();
    const double re = fields.potential[place], im = phasor ? fields.potential_imaginary[place] : 0,
                 own = std::hypot(re, im);
    Eigen::VectorXd real = Eigen::VectorXd::Zero(static_cast<Eigen::Index>(mesh_->nodes.size())),
                    imaginary = phasor ? real : Eigen::VectorXd();
    if (own > 0) {
        const auto& reading = reader_->places()[static_cast<std::size_t>(reading_of_[place])];
        const auto n = shape_values(reading.at);
        for (std::size_t i = 0; i < 6; ++i) {
            const int node = mesh_->triangles[reading.triangle][i];
            real[node] = n[i] * re / own;
            if (phasor) imaginary[node] = n[i] * im / own;
        }
    }
    return {std::move(real), std::move(imaginary)};
}

} // namespace ng
