// The first place along a line of trials where something fails: a grid, then a bracket round the first
// crossing.
#pragma once
#include "units/cancel.h"
#include "units/result.h"
#include <algorithm>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <optional>
#include <vector>

namespace ng {

struct Crossing {
    std::optional<double> holds, fails; ///< the two ends of the bracket; none: no trial held, none failed
    double looked = 0;                  ///< the last trial that could be made
    double steepness = 0;               ///< of the logarithm of the nearness, per unit, over the grid's step
    std::optional<InputError> refused;  ///< of a trial that could not be made
    bool cancelled = false;
};

/// `nearness(x)`: how near x is to failing, above 1 where it fails; refuses what cannot be tried. Tries
/// `grid` in its order, which goes away from what is sound, until one fails or cannot be tried (those beyond
/// it could not either), then brackets the crossing by its logarithm (Alefeld, Potra, Shi, TOMS 748) to
/// `wide`. The grid tells the first crossing only as finely as its steps. `starts_from`: a place that is
/// known to hold, before the grid.
template <class Nearness>
Crossing first_crossing(const std::vector<double>& grid, double wide, const CancelFlag* cancel,
                        Nearness nearness, std::optional<std::pair<double, double>> starts_from = {}) {
    constexpr double far = 5;      // of a logarithm: what is beyond tells no more
    constexpr double least = 1e-9; // so that neither side is the crossing itself
    boost::uintmax_t most_trials = 12;
    Crossing out;
    double how_holds = 0, how_fails = 0;
    const auto stopped = [&] { return out.cancelled = cancel && cancel->load(std::memory_order_relaxed); };
    const auto take = [&](double x, double near) {
        const double how = std::clamp(std::log(std::max(near, least)), -far, far);
        if (near > 1) {
            out.fails = x;
            return how_fails = std::max(how, least);
        }
        out.holds = x;
        return how_holds = std::min(how, -least);
    };
    if (starts_from) out.looked = starts_from->first, take(starts_from->first, starts_from->second);
    for (std::size_t k = 0; k < grid.size() && !out.fails; ++k) {
        if (stopped()) return out;
        const Result<double> near = nearness(grid[k]);
        if (stopped()) return out;
        if (!near) {
            if (!out.holds) out.refused = near.error();
            return out;
        }
        out.looked = grid[k];
        take(grid[k], *near);
    }
    if (!out.fails || !out.holds) return out;
    out.steepness = (how_fails - how_holds) / std::abs(*out.fails - *out.holds);
    const bool up = *out.holds < *out.fails;
    const auto bracket = boost::math::tools::toms748_solve(
        [&](double x) -> double {
            if (out.refused || stopped()) return 0;
            const Result<double> near = nearness(x);
            if (stopped()) return 0;
            if (!near) {
                out.refused = near.error();
                return 0;
            }
            return take(x, *near);
        },
        up ? *out.holds : *out.fails, up ? *out.fails : *out.holds, up ? how_holds : how_fails,
        up ? how_fails : how_holds, [&](double a, double b) { return std::abs(b - a) < wide; }, most_trials);
    out.holds = up ? bracket.first : bracket.second;
    out.fails = up ? bracket.second : bracket.first;
    return out;
}

} // namespace ng
