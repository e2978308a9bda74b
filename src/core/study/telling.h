// Of many verdicts over one design: how near each comes to a limit, by the checks that tell them apart.
#pragma once
#include "verdict/verdict.h"
#include <map>

namespace ng {

/// By title of the check: share of its limit, and what is open of it.
using CheckShares = std::map<std::string, std::pair<double, double>>;
CheckShares shares_of(const Verdict& verdict);

struct NearestLimit {
    double share = 0, error = 0;
    std::string check;
};
/// Of each verdict the greatest share. A check that is about the same in all of them tells nothing of what
/// differs, unless it fails somewhere.
std::vector<NearestLimit> nearest_limits(const std::vector<CheckShares>& all);

} // namespace ng
