#include "study/worst.h"
#include "units/parallel.h"
#include <algorithm>
#include <cmath>
#include <nlopt.hpp>
#include <set>

namespace ng {
namespace {

constexpr double box_share = 0.005; // left out at either end
constexpr double moves = 0.01;      // of its limit: a check that nothing moves by more stays as it is

using Named = std::pair<std::string, std::string>;
using Shares = std::map<Named, std::pair<double, double>>; // share of the limit, error of it

std::optional<Shares> shares_of(const Study& study, const std::vector<double>& drawn,
                                const CancelFlag* cancel) {
    const auto judged = study.evaluated(drawn, cancel);
    if (!judged) return {};
    Shares out;
    for (const auto& check : judged->verdict.checks)
        if (check.limit > 0)
            out[{check.id, check.title}] = {1 - check.margin,
                                            check.relative_error * check.value / check.limit};
    return out;
}

} // namespace

Result<WorstCase> find_worst(const Study& study, int most_solves, const CancelFlag* cancel,
                             const std::function<void(const WorstCase&)>& found) {
    const auto& varied = study.plan().varied;
    const auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    WorstCase out;
    std::vector<double> nominal;
    for (auto v : varied) {
        v.blunder_share = 0;
        out.low.push_back(v.quantile(box_share));
        out.high.push_back(v.quantile(1 - box_share));
        nominal.push_back(std::clamp(v.middle, out.low.back(), out.high.back()));
    }
    const auto as_designed = shares_of(study, nominal, cancel);
    if (stopped()) return refuse("worst case", "cancelled", "");
    if (!as_designed)
        return refuse("worst case", "the design as it is cannot be judged",
                      "Correct what its own message says");
    // Each quantity by itself to both its ends.
    std::vector<std::optional<Shares>> ends(2 * varied.size());
    in_parallel(
        ends.size(), usable_threads(),
        [&](std::size_t k) {
            auto drawn = nominal;
            drawn[k / 2] = k % 2 ? out.high[k / 2] : out.low[k / 2];
            ends[k] = shares_of(study, drawn, cancel);
        },
        cancel);
    if (stopped()) return refuse("worst case", "cancelled", "");
    out.solves = 1 + static_cast<int>(ends.size());
    std::set<Named> moving;
    for (const auto& end : ends) {
        out.refused += !end;
        if (end)
            for (const auto& [check, now] : *as_designed)
                if (const auto it = end->find(check);
                    it != end->end() && std::abs(it->second.first - now.first) > moves)
                    moving.insert(check);
    }
    const auto look = [&](const std::vector<double>& drawn, const std::optional<Shares>& shares) {
        double worst = 0;
        if (shares)
            for (const auto& [check, share] : *shares) {
                if (!moving.contains(check)) continue;
                worst = std::max(worst, share.first);
                if (!(share.first > out.share)) continue;
                out.share = share.first, out.error = share.second;
                out.check = check.second;
                out.drawn = drawn;
            }
        return worst;
    };
    look(nominal, as_designed);
    out.nominal_share = out.share;
    // The corner of each check.
    std::set<std::vector<double>> corners;
    for (const auto& check : moving) {
        auto corner = nominal;
        for (std::size_t k = 0; k < varied.size(); ++k) {
            const auto share = [&](std::size_t end) {
                return ends[end] && ends[end]->contains(check) ? ends[end]->at(check).first : -1.0;
            };
            const double low = share(2 * k), high = share(2 * k + 1), now = as_designed->at(check).first;
            if (std::max(low, high) > now) corner[k] = low > high ? out.low[k] : out.high[k];
        }
        corners.insert(std::move(corner));
    }
    const std::vector<std::vector<double>> tried(corners.begin(), corners.end());
    std::vector<std::optional<Shares>> at_corners(tried.size());
    in_parallel(
        tried.size(), usable_threads(),
        [&](std::size_t k) { at_corners[k] = shares_of(study, tried[k], cancel); }, cancel);
    if (stopped()) return refuse("worst case", "cancelled", "");
    out.solves += static_cast<int>(tried.size());
    for (std::size_t k = 0; k < tried.size(); ++k) {
        out.refused += !at_corners[k];
        look(tried[k], at_corners[k]);
    }
    if (found) found(out);
    // Inside: in shares of the box.
    const auto n = static_cast<unsigned>(varied.size());
    const int left = most_solves - out.solves;
    if (left > 2 && !moving.empty()) {
        nlopt::opt search(n > 1 ? nlopt::LN_BOBYQA : nlopt::LN_COBYLA, n);
        search.set_lower_bounds(0.0);
        search.set_upper_bounds(1.0);
        search.set_maxeval(left);
        search.set_xtol_abs(1e-3);
        search.set_initial_step(0.15);
        std::vector<double> shares;
        for (std::size_t k = 0; k < varied.size(); ++k)
            shares.push_back((out.drawn[k] - out.low[k]) / (out.high[k] - out.low[k]));
        const auto objective = [&](const std::vector<double>& x) {
            if (stopped()) throw nlopt::forced_stop();
            auto drawn = nominal;
            for (std::size_t k = 0; k < varied.size(); ++k)
                drawn[k] = out.low[k] + std::clamp(x[k], 0.0, 1.0) * (out.high[k] - out.low[k]);
            const auto judged = shares_of(study, drawn, cancel);
            ++out.solves;
            out.refused += !judged;
            const double before = out.share, worst = look(drawn, judged);
            if (found && out.share > before) found(out);
            return worst;
        };
        using Objective = decltype(objective);
        search.set_max_objective([](const std::vector<double>& x, std::vector<double>&,
                                    void* self) { return (*static_cast<const Objective*>(self))(x); },
                                 const_cast<void*>(static_cast<const void*>(&objective)));
        double best = 0;
        try {
            search.optimize(shares, best);
        } catch (const nlopt::forced_stop&) {
            return refuse("worst case", "cancelled", "");
        } catch (const std::exception&) { // rounding, or no way on: what was found stays
        }
    }
    return out;
}

nlohmann::ordered_json worst_json(const Study& study, const WorstCase& worst) {
    using nlohmann::ordered_json;
    ordered_json out{{"format", "needlegauge-worst-case"},
                     {"version", 1},
                     {"design", study.plan().design},
                     {"share_of_limit", worst.share},
                     {"error", worst.error},
                     {"as_designed", worst.nominal_share},
                     {"check", worst.check},
                     {"solves", worst.solves},
                     {"cannot_be_built", worst.refused},
                     {"numbers", ordered_json::array()}};
    const auto& varied = study.plan().varied;
    for (std::size_t k = 0; k < varied.size() && !worst.drawn.empty(); ++k)
        out["numbers"].push_back({{"key", varied[k].key},
                                  {"label", varied[k].label},
                                  {"designed", varied[k].middle},
                                  {"lowest", worst.low[k]},
                                  {"highest", worst.high[k]},
                                  {"worst", worst.drawn[k]}});
    return out;
}

} // namespace ng
