#include "field/follow.h"
#include "field/errors.h"
#include "field/tuning.h"
#include "units/parallel.h"
#include <algorithm>

namespace ng {

std::shared_ptr<const Follower> Follower::of(const Section& section, const Adaptation& adaptation,
                                             const Solution& solution, std::size_t threads) {
    if (!adaptation.fine()) return nullptr;
    auto out = std::make_shared<Follower>();
    for (const auto& edge : solution.edges) out->errors_[edge.name] = edge.relative_error;
    const auto shapes = std::make_shared<const Section>(section);
    const auto keep = [&](const Level& level) {
        return Kept{level, beside(threads, [shapes, mesh = level.assembly->mesh_pointer()] {
                               return Motion::of(*shapes, mesh);
                           }).share()};
    };
    if (adaptation.coarse()) out->coarse_ = keep(adaptation.coarse());
    out->fine_ = keep(adaptation.fine());
    return out;
}

std::optional<Mesh> Follower::Kept::moved(const Section& section) const {
    const auto& how = motion.get();
    return how ? how->moved(section) : std::nullopt;
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
    return (!coarse_ || coarse_->moved(section)) && fine_->moved(section);
}

std::optional<Adaptation> Follower::follow(const std::vector<Section>& loads,
                                           const SolveOptions& options) const {
    if (coarse_.has_value() == options.coarse) return {}; // a single pass needs one mesh, an error two
    std::vector<std::pair<std::shared_ptr<const Mesh>, const Level*>> meshes;
    for (const auto* kept : {coarse_ ? &*coarse_ : nullptr, &*fine_}) {
        if (!kept) continue;
        auto mesh = kept->moved(loads.front());
        if (!mesh) return {};
        meshes.emplace_back(std::make_shared<const Mesh>(std::move(*mesh)), &kept->level);
    }
    return Adaptation::follow(loads, meshes, options);
}

} // namespace ng
