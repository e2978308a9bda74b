#include "field/follow.h"
#include "field/errors.h"
#include "field/tuning.h"
#include <algorithm>

namespace ng {

std::shared_ptr<const Follower> Follower::of(const Section& section, const Adaptation& adaptation,
                                             const Solution& solution) {
    auto out = std::make_shared<Follower>();
    for (const auto& edge : solution.edges) out->errors_[edge.name] = edge.relative_error;
    const auto keep = [&](const Level& level, std::optional<Kept>& kept) {
        if (!level) return true;
        auto motion = Motion::of(section, level.assembly->mesh_pointer());
        if (motion) kept.emplace(Kept{level, std::move(*motion)});
        return kept.has_value();
    };
    if (!adaptation.fine() || !keep(adaptation.coarse(), out->coarse_) ||
        !keep(adaptation.fine(), out->fine_))
        return nullptr;
    return out;
}

void Follower::cover(Solution& solution, const Slack& slack) const {
    for (auto& edge : solution.edges) {
        const auto it = errors_.find(edge.name);
        edge.relative_error =
            std::max(edge.relative_error, it == errors_.end() ? 1.0 : tuning::followed_edges * it->second);
    }
    auto& report = solution.report;
    report.worst_error = worst_error(solution, slack);
    if (report.end == SolveReport::End::goal_met && !(report.worst_error <= report.goal))
        report.end = SolveReport::End::budget;
}

bool Follower::can_follow(const Section& section) const {
    return (!coarse_ || coarse_->motion.moved(section)) && fine_->motion.moved(section);
}

std::optional<Adaptation> Follower::follow(const std::vector<Section>& loads,
                                           const SolveOptions& options) const {
    if (coarse_.has_value() == options.coarse) return {}; // a single pass needs one mesh, an error two
    std::vector<std::pair<std::shared_ptr<const Mesh>, const Level*>> meshes;
    for (const auto* kept : {coarse_ ? &*coarse_ : nullptr, &*fine_}) {
        if (!kept) continue;
        auto mesh = kept->motion.moved(loads.front());
        if (!mesh) return {};
        meshes.emplace_back(std::make_shared<const Mesh>(std::move(*mesh)), &kept->level);
    }
    return Adaptation::follow(loads, meshes, options);
}

} // namespace ng
