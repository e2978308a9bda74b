#include "field/corner_errors.h"
#include "field/tuning.h"
#include "units/promise.h"
#include <algorithm>
#include <cmath>
#include <limits>

namespace ng {

std::vector<CornerTip> corner_tips(const Mesh& mesh) {
    std::vector<CornerTip> out;
    std::vector<int> corner_of(static_cast<std::size_t>(mesh.corner_count), -1);
    for (const auto& corner : mesh.singular) {
        std::size_t tip = 0;
        double nearest = std::numeric_limits<double>::max();
        for (std::size_t n = 0; n < corner_of.size(); ++n) {
            const Point off = mesh.nodes[n] - corner.at;
            if (const double away = dot(off, off); away < nearest) nearest = away, tip = n;
        }
        corner_of[tip] = static_cast<int>(out.size());
        out.push_back({corner, 0, {}});
    }
    for (std::size_t n = 0; n < mesh.triangles.size(); ++n)
        for (std::size_t i = 0; i < 3; ++i) {
            const auto& t = mesh.triangles[n];
            if (corner_of[t[i]] < 0) continue;
            auto& tip = out[corner_of[t[i]]];
            const auto side = [&](std::size_t j) { return distance(mesh.nodes[t[j % 3]], mesh.nodes[t[i]]); };
            tip.size_mm = std::max({tip.size_mm, side(i + 1), side(i + 2)});
            tip.triangles.push_back(static_cast<int>(n));
        }
    return out;
}

namespace {

std::complex<double> at_node(NodePotentials v, int node) {
    return {v.real[node], v.imaginary.size() > 0 ? v.imaginary[node] : 0.0};
}

} // namespace

std::vector<std::complex<double>> missed_at_tips(const std::vector<CornerTip>& tips, const Assembly& assembly,
                                                 const std::vector<std::complex<double>>& coefficient,
                                                 NodePotentials u, NodePotentials v) {
    const auto& mesh = assembly.mesh();
    std::vector<std::complex<double>> out(tips.size());
    for (std::size_t k = 0; k < tips.size(); ++k) {
        const double order = tips[k].corner.order;
        if (order >= 1) continue;
        for (const int t : tips[k].triangles) {
            const auto& element = assembly.stiffness_of(t);
            const auto& nodes = mesh.triangles[t];
            std::complex<double> held = 0;
            for (std::size_t i = 0; i < 6; ++i)
                for (std::size_t j = 0; j < 6; ++j)
                    held += element[Assembly::packed_index[i][j]] * at_node(u, nodes[i]) *
                            std::conj(at_node(v, nodes[j]));
            out[k] += coefficient[mesh.region[t]] * held;
        }
        out[k] *= tuning::missed_at_tip * (1 - order) * (1 - order);
    }
    return out;
}

std::vector<double> share_missed_at_tips(const std::vector<CornerTip>& tips, const Assembly& assembly,
                                         const std::vector<double>& weights, NodePotentials u) {
    double all = 0;
    for (const auto* potential : {&u.real, &u.imaginary}) {
        if (potential->size() == 0) continue;
        Eigen::VectorXd flux = Eigen::VectorXd::Zero(potential->size());
        assembly.multiply<double>(weights, *potential, flux);
        all += potential->dot(flux);
    }
    const auto missed = missed_at_tips(tips, assembly, {weights.begin(), weights.end()}, u, u);
    std::vector<double> out;
    for (const auto& m : missed) out.push_back(all > 0 ? std::abs(m) / all : 0);
    return out;
}

double tip_share(double order, double most) {
    if (order >= 1) return 1;
    return std::pow(std::min(1.0, most / (tuning::pollution_weight * (1 - order))), 0.5 / order);
}

CornerErrors::CornerErrors(const std::vector<CornerTip>& tips, const std::vector<double>& missed)
    : tips_(tips), missed_(missed) {
    promise(missed_.empty() || missed_.size() == tips_.size(), "one share for each corner");
    for (const auto& tip : tips_)
        seen_mm_.push_back(tip.size_mm / tip_share(tip.corner.order, tuning::least_pollution));
    for (const double m : missed_) missed_by_all_ += m;
}

double CornerErrors::unresolved_growth(Point at, double size_mm) const {
    double most = 0;
    for (const auto& tip : tips_) {
        const auto& corner = tip.corner;
        const double within = std::min(size_mm, corner.influence_mm),
                     away = std::max({distance(corner.at, at), corner.reach_mm, 1e-3 * within});
        if (away >= within) continue;
        const double power = std::pow(within / away, std::abs(1 - corner.order));
        most = std::max(most, corner.order < 1 ? power - 1 : 1 - 1 / power);
    }
    return most;
}

double CornerErrors::beside(std::size_t k, Point at) const {
    const auto& [corner, size_mm, triangles] = tips_[k];
    const double away = distance(corner.at, at);
    if (corner.order >= 1 || away >= seen_mm_[k]) return 0;
    const double share = std::min(1.0, size_mm / std::max(away, 1e-12));
    return tuning::pollution_weight * (1 - corner.order) * std::pow(share, 2 * corner.order);
}

double CornerErrors::pollution(Point at) const {
    double most = 0;
    for (std::size_t k = 0; k < tips_.size(); ++k) most = std::max(most, beside(k, at));
    return most + tuning::missed_weight * missed_by_all_;
}

void CornerErrors::ask_of_tips(Point at, double most, std::vector<double>& factor) const {
    const double of_all = tuning::missed_weight * missed_by_all_;
    for (std::size_t k = 0; k < tips_.size(); ++k) {
        const auto& [corner, size_mm, triangles] = tips_[k];
        double wanted = 1;
        if (beside(k, at) > 0.5 * most)
            wanted = tip_share(corner.order, 0.5 * most) * distance(corner.at, at) / size_mm;
        if (of_all > 0.5 * most && missed_[k] > 0.1 * missed_by_all_)
            wanted = std::min(wanted, std::pow(0.5 * most / of_all, 0.5 / corner.order));
        if (wanted >= 1) continue;
        for (const int t : triangles)
            factor[t] = std::min(factor[t], std::clamp(wanted, tuning::least_factor, tuning::halved));
    }
}

} // namespace ng
