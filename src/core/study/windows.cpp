// Windows: how far one mark may lie off before a check falls short that holds now.
#include "study/study.h"
#include <algorithm>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

constexpr int grid_steps = 6;
constexpr double looked_mm = 40, least_step_mm = 0.5, known_to_mm = 0.05;
constexpr int most_solves = 12;

} // namespace

Result<std::vector<MarkWindow>>
find_windows(const Study& study, int others, const CancelFlag* cancel,
             const std::function<void(const MarkWindow&, int done, int all)>& found) {
    const auto& plan = study.plan();
    const auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    // The draws that the others have: as designed, or those of the plan's first samples.
    std::vector<std::vector<double>> sets;
    std::vector<double> nominal;
    for (const auto& v : plan.varied) nominal.push_back(v.middle);
    if (others <= 0) sets.push_back(nominal);
    for (int i = 0; i < others; ++i) sets.push_back(study.drawn_of(static_cast<std::uint64_t>(i)));
    std::vector<std::size_t> marks;
    for (std::size_t k = 0; k < plan.varied.size(); ++k)
        if (plan.varied[k].blunder_share > 0) marks.push_back(k);
    std::vector<MarkWindow> out;
    for (const auto k : marks) {
        MarkWindow window;
        window.key = plan.varied[k].key;
        window.label = plan.varied[k].label;
        window.now = plan.varied[k].middle;
        window.looked_low = window.looked_high = window.now;
        std::string why;
        /// Logarithm of the worst share of a limit of checks that hold as designed; none: it cannot be built.
        const auto nearness = [&](double value) -> std::optional<double> {
            double worst = 0;
            for (auto drawn : sets) {
                drawn[k] = value;
                const auto judged = study.evaluated(drawn, cancel);
                if (!judged || stopped()) return {};
                for (const auto& check : judged->verdict.checks) {
                    if (!(check.limit > 0)) continue;
                    const auto& before = study.nominal().verdict.checks;
                    const auto same = std::find_if(before.begin(), before.end(), [&](const auto& b) {
                        return b.id == check.id && b.title == check.title;
                    });
                    if (same == before.end() || same->status == Status::falls_short) continue;
                    if (1 - check.margin > worst) {
                        worst = 1 - check.margin;
                        if (worst > 1) why = check.title;
                    }
                }
            }
            return std::log(std::max(worst, 1e-3));
        };
        const auto at_middle = nearness(window.now);
        if (stopped()) return refuse("windows", "cancelled", "");
        for (const int way : {-1, 1}) {
            auto& bound = way < 0 ? window.lowest : window.highest;
            auto& looked = way < 0 ? window.looked_low : window.looked_high;
            if (!at_middle) break;
            double good = window.now, how_good = *at_middle, bad = 0, how_bad = 0;
            if (how_good > 0) { // with the others off it falls short already
                bound = window.now;
                (way < 0 ? window.why_low : window.why_high) = why;
                continue;
            }
            for (int i = 0; i < grid_steps && how_bad <= 0; ++i) {
                const double step =
                    least_step_mm * std::pow(looked_mm / least_step_mm, i / (grid_steps - 1.0));
                const auto near = nearness(window.now + way * step);
                if (stopped()) return refuse("windows", "cancelled", "");
                if (!near) break; // cannot be built any further
                looked = window.now + way * step;
                if (*near > 0)
                    bad = looked, how_bad = *near;
                else
                    good = looked, how_good = *near;
            }
            if (how_bad <= 0) continue;
            how_good = std::min(how_good, -1e-9);
            boost::uintmax_t most = most_solves;
            const auto f = [&](double value) {
                const auto near = nearness(value).value_or(1e-9);
                return near == 0 ? 1e-12 : near;
            };
            const auto bracket =
                good < bad ? boost::math::tools::toms748_solve(
                                 f, good, bad, how_good, how_bad,
                                 [](double a, double b) { return std::abs(b - a) < known_to_mm; }, most)
                           : boost::math::tools::toms748_solve(
                                 f, bad, good, how_bad, how_good,
                                 [](double a, double b) { return std::abs(b - a) < known_to_mm; }, most);
            if (stopped()) return refuse("windows", "cancelled", "");
            bound = way < 0 ? bracket.second : bracket.first; // the side that holds
            window.error = std::max(window.error, bracket.second - bracket.first);
            (way < 0 ? window.why_low : window.why_high) = why;
        }
        out.push_back(window);
        if (found) found(out.back(), static_cast<int>(out.size()), static_cast<int>(marks.size()));
    }
    return out;
}

void accept_windows(const std::vector<MarkWindow>& windows, CutPlan& plan) {
    for (auto& mark : plan.marks)
        for (const auto& w : windows) {
            if (w.key != mark.parameter || !(std::abs(mark.per_mm) > 0)) continue;
            const double shorter = (w.now - w.lowest.value_or(w.looked_low)) / std::abs(mark.per_mm),
                         longer = (w.highest.value_or(w.looked_high) - w.now) / std::abs(mark.per_mm);
            AcceptanceWindow out;
            out.field_towards_mm = mark.per_mm > 0 ? shorter : longer;
            out.field_away_mm = mark.per_mm > 0 ? longer : shorter;
            const auto down = [](double mm) { return std::floor(10 * std::max(0.0, mm)) / 10; };
            out.towards_end_mm = std::min(mark.tolerance_mm, down(out.field_towards_mm));
            out.away_mm = std::min(mark.tolerance_mm, down(out.field_away_mm));
            const bool field = out.towards_end_mm < mark.tolerance_mm || out.away_mm < mark.tolerance_mm;
            out.origin = field ? fmt::format("the field; the usual tolerance is ± {:g} mm", mark.tolerance_mm)
                               : fmt::format("the usual tolerance; the field allows {:.1f} mm towards the "
                                             "end and {:.1f} mm away",
                                             down(out.field_towards_mm), down(out.field_away_mm));
            mark.accepted = out;
        }
}

} // namespace ng
