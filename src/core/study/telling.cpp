#include "study/telling.h"
#include <algorithm>

namespace ng {

CheckShares shares_of(const Verdict& verdict) {
    CheckShares out;
    for (const auto& check : verdict.checks)
        if (check.limit > 0)
            out[check.title] = {1 - check.margin, check.relative_error * check.value / check.limit};
    return out;
}

std::vector<NearestLimit> nearest_limits(const std::vector<CheckShares>& all) {
    constexpr double tells = 0.1; // of its limit: a check that differs by less
    std::map<std::string, std::pair<double, double>> spread;
    for (const auto& of_one : all)
        for (const auto& [check, share] : of_one) {
            auto& [low, high] = spread.try_emplace(check, share.first, share.first).first->second;
            low = std::min(low, share.first), high = std::max(high, share.first);
        }
    std::vector<NearestLimit> out(all.size());
    for (std::size_t k = 0; k < all.size(); ++k)
        for (const auto& [check, share] : all[k]) {
            const auto& [low, high] = spread.at(check);
            if ((high - low < tells && high <= 1) || share.first <= out[k].share) continue;
            out[k] = {share.first, share.second, check};
        }
    return out;
}

} // namespace ng
