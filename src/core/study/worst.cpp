#include "study/worst.h"
#include "io/csv.h"
#include "units/parallel.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <mutex>
#include <nlopt.hpp>
#include <set>

namespace ng {
namespace {

constexpr double box_share = 0.005; // left out at either end
constexpr double moves = 0.01;      // of its limit: a check that nothing moves by more stays as it is

/// What a check's value is of its limit.
struct Share {
    double share = 0, error = 0;
    std::string title; ///< of the check
};
using Shares = std::map<CheckId, Share>;

std::optional<Shares> shares_of(const Study& study, const std::vector<double>& drawn,
                                const CancelFlag* cancel) {
    const auto judged = study.evaluated(drawn, cancel);
    if (!judged) return {};
    Shares out;
    for (const auto& check : judged->verdict.checks)
        if (check.limit > 0)
            out[check.id] = {1 - check.margin, check.relative_error * check.value / check.limit, check.title};
    return out;
}

/// An end of its tolerance; 0: as designed.
double end_of(Varied v, int end) {
    v.blunder_share = 0;
    const double low = v.quantile(box_share), high = v.quantile(1 - box_share);
    return end < 0 ? low : end > 0 ? high : std::clamp(v.middle, low, high);
}

/// Each quantity by itself at both ends of its tolerance.
struct Ends {
    std::vector<double> low, high, nominal;
    Shares as_designed;
    std::vector<std::optional<Shares>> at; ///< low and high of each in turn
    std::set<CheckId> moving;              ///< checks that some quantity moves
};

Result<Ends> ends_of(const Study& study, const std::string& what, const CancelFlag* cancel,
                     const std::function<void(int, int)>& progress = {}) {
    const auto& varied = study.plan().varied;
    const auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    Ends out;
    for (const auto& v : varied) {
        out.low.push_back(end_of(v, -1));
        out.high.push_back(end_of(v, 1));
        out.nominal.push_back(end_of(v, 0));
    }
    auto as_designed = shares_of(study, out.nominal, cancel);
    if (stopped()) return refuse(what, "cancelled", "");
    if (!as_designed)
        return refuse(what, "the design as it is cannot be judged", "Correct what its own message says");
    out.as_designed = std::move(*as_designed);
    out.at.resize(2 * varied.size());
    std::mutex telling;
    int done = 0;
    const auto tell = [&] {
        if (!progress) return;
        const std::lock_guard lock(telling);
        progress(++done, static_cast<int>(out.at.size()) + 1);
    };
    tell();
    in_parallel(
        out.at.size(), usable_threads(),
        [&](std::size_t k) {
            auto drawn = out.nominal;
            drawn[k / 2] = k % 2 ? out.high[k / 2] : out.low[k / 2];
            out.at[k] = shares_of(study, drawn, cancel);
            tell();
        },
        cancel);
    if (stopped()) return refuse(what, "cancelled", "");
    for (const auto& end : out.at)
        if (end)
            for (const auto& [check, now] : out.as_designed)
                if (const auto it = end->find(check);
                    it != end->end() && std::abs(it->second.share - now.share) > moves)
                    out.moving.insert(check);
    return out;
}

std::vector<ToleranceCorner> corners_of(const StudyPlan& plan, const Ends& ends) {
    std::vector<ToleranceCorner> out;
    for (const auto& check : ends.moving) {
        ToleranceCorner corner{ends.as_designed.at(check).title, {}};
        for (std::size_t k = 0; k < plan.varied.size(); ++k) {
            const auto share = [&](std::size_t end) {
                return ends.at[end] && ends.at[end]->contains(check) ? ends.at[end]->at(check).share : -1.0;
            };
            const double low = share(2 * k), high = share(2 * k + 1), now = ends.as_designed.at(check).share;
            if (std::max(low, high) > now) corner.high_end[plan.varied[k].key] = high >= low;
        }
        if (std::none_of(out.begin(), out.end(),
                         [&](const auto& known) { return known.high_end == corner.high_end; }))
            out.push_back(std::move(corner));
    }
    return out;
}

} // namespace

std::vector<double> ToleranceCorner::drawn(const StudyPlan& plan) const {
    std::vector<double> out;
    for (const auto& v : plan.varied) {
        const auto it = high_end.find(v.key);
        out.push_back(end_of(v, it == high_end.end() ? 0 : it->second ? 1 : -1));
    }
    return out;
}

Result<std::vector<ToleranceCorner>> corners_of(const Study& study, const CancelFlag* cancel) {
    return ends_of(study, "corners of the tolerances", cancel).map([&](const Ends& ends) {
        return corners_of(study.plan(), ends);
    });
}

double Swing::reach(double nominal) const {
    double out = 0;
    for (const auto* end : {&at_low, &at_high})
        if (*end) out = std::max(out, std::abs((*end)->share - nominal));
    return out;
}

Result<Tornado> one_at_a_time(const Study& study, const CancelFlag* cancel,
                              const std::function<void(int, int)>& progress) {
    const auto ends = ends_of(study, "one at a time", cancel, progress);
    if (!ends) return tl::unexpected(ends.error());
    const auto worst_of = [&](const Shares& shares) {
        Swing::End out;
        for (const auto& [check, share] : shares)
            if (ends->moving.contains(check) && share.share > out.share)
                out = {share.share, share.error, share.title};
        return out;
    };
    Tornado out;
    out.nominal = worst_of(ends->as_designed);
    for (std::size_t k = 0; k < ends->low.size(); ++k) {
        Swing swing{k, ends->low[k], ends->high[k], {}, {}};
        if (ends->at[2 * k]) swing.at_low = worst_of(*ends->at[2 * k]);
        if (ends->at[2 * k + 1]) swing.at_high = worst_of(*ends->at[2 * k + 1]);
        out.swings.push_back(std::move(swing));
    }
    std::stable_sort(out.swings.begin(), out.swings.end(), [&](const Swing& a, const Swing& b) {
        return a.reach(out.nominal.share) > b.reach(out.nominal.share);
    });
    return out;
}

nlohmann::ordered_json tornado_json(const StudyPlan& plan, const Tornado& tornado) {
    using nlohmann::ordered_json;
    const auto end = [](double at, const std::optional<Swing::End>& e) {
        ordered_json out{{"at", at}};
        if (e)
            out.update({{"share_of_limit", e->share}, {"error", e->error}, {"check", e->check}});
        else
            out["share_of_limit"] = nullptr;
        return out;
    };
    ordered_json out{{"format", "needlegauge-one-at-a-time"},
                     {"version", 1},
                     {"design", plan.design},
                     {"as_designed", tornado.nominal.share},
                     {"error", tornado.nominal.error},
                     {"check", tornado.nominal.check},
                     {"swings", ordered_json::array()}};
    for (const auto& s : tornado.swings) {
        const auto& v = plan.varied[s.varied];
        out["swings"].push_back({{"key", v.key},
                                 {"label", v.label},
                                 {"designed", v.middle},
                                 {"low", end(s.low, s.at_low)},
                                 {"high", end(s.high, s.at_high)}});
    }
    return out;
}

std::string tornado_csv(const StudyPlan& plan, const Tornado& tornado) {
    auto out = csv_line({"key", "label", "designed", "low", "high", "share of limit at low", "error at low",
                         "check at low", "share of limit at high", "error at high", "check at high"});
    for (const auto& s : tornado.swings) {
        const auto& v = plan.varied[s.varied];
        std::vector<std::string> row{v.key, v.label, fmt::format("{:.6g}", v.middle),
                                     fmt::format("{:.6g}", s.low), fmt::format("{:.6g}", s.high)};
        for (const auto* end : {&s.at_low, &s.at_high}) {
            row.push_back(*end ? fmt::format("{:.5f}", (*end)->share) : "");
            row.push_back(*end ? fmt::format("{:.5f}", (*end)->error) : "");
            row.push_back(*end ? (*end)->check : "cannot be built");
        }
        out += csv_line(row);
    }
    return out;
}

Result<WorstCase> find_worst(const Study& study, int most_solves, const CancelFlag* cancel,
                             const std::function<void(const WorstCase&)>& found) {
    const auto& varied = study.plan().varied;
    const auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    const auto begun = ends_of(study, "worst case", cancel);
    if (!begun) return tl::unexpected(begun.error());
    const auto& nominal = begun->nominal;
    const auto& ends = begun->at;
    const auto& moving = begun->moving;
    WorstCase out;
    out.low = begun->low;
    out.high = begun->high;
    out.solves = 1 + static_cast<int>(ends.size());
    for (const auto& end : ends) out.refused += !end;
    const auto look = [&](const std::vector<double>& drawn, const std::optional<Shares>& shares) {
        double worst = 0;
        if (shares)
            for (const auto& [check, share] : *shares) {
                if (!moving.contains(check)) continue;
                worst = std::max(worst, share.share);
                if (!(share.share > out.share)) continue;
                out.share = share.share, out.error = share.error;
                out.check = share.title;
                out.drawn = drawn;
            }
        return worst;
    };
    look(nominal, begun->as_designed);
    out.nominal_share = out.share;
    std::vector<std::vector<double>> tried;
    for (const auto& corner : corners_of(study.plan(), *begun)) tried.push_back(corner.drawn(study.plan()));
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
