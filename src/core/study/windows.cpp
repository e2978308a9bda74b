// Windows: how far one mark may lie off before a check falls short that holds now.
#include "study/crossing.h"
#include "study/study.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace ng {
namespace {

constexpr int grid_steps = 6;
constexpr double looked_mm = 40, least_step_mm = 0.5, known_to_mm = 0.05;

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
    const auto mark_keys = mark_parameters(study.nominal().prepared);
    std::vector<std::size_t> marks;
    for (std::size_t k = 0; k < plan.varied.size(); ++k)
        if (mark_keys.contains(plan.varied[k].key)) marks.push_back(k);
    std::set<CheckId> held; ///< as designed
    for (const auto& check : study.nominal().verdict.checks)
        if (check.status != Status::falls_short) held.insert(check.id);
    std::vector<MarkWindow> out;
    for (const auto k : marks) {
        MarkWindow window;
        window.key = plan.varied[k].key;
        window.label = plan.varied[k].label;
        window.now = plan.varied[k].middle;
        window.looked_low = window.looked_high = window.now;
        std::string why;
        /// The worst share of a limit of checks that hold as designed; refused where a set cannot be built.
        const auto nearness = [&](double value) -> Result<double> {
            double worst = 0;
            for (auto drawn : sets) {
                drawn[k] = value;
                const auto judged = study.evaluated(drawn, cancel);
                if (!judged) return tl::unexpected(judged.error());
                for (const auto& check : judged->verdict.checks) {
                    if (!(check.limit > 0) || !held.contains(check.id)) continue;
                    if (1 - check.margin <= worst) continue;
                    worst = 1 - check.margin;
                    if (worst > 1) why = check.title;
                }
            }
            return worst;
        };
        const auto at_middle = nearness(window.now);
        if (stopped()) return refuse("windows", "cancelled", "");
        for (const int way : {-1, 1}) {
            if (!at_middle) break;
            auto& bound = way < 0 ? window.lowest : window.highest;
            std::vector<double> grid;
            for (int i = 0; i < grid_steps && *at_middle <= 1; ++i)
                grid.push_back(window.now + way * least_step_mm *
                                                std::pow(looked_mm / least_step_mm, i / (grid_steps - 1.0)));
            const auto crossing =
                first_crossing(grid, known_to_mm, cancel, nearness, std::pair{window.now, *at_middle});
            if (crossing.cancelled) return refuse("windows", "cancelled", "");
            if (crossing.refused) return tl::unexpected(*crossing.refused);
            (way < 0 ? window.looked_low : window.looked_high) = crossing.looked;
            if (!crossing.fails) continue;
            bound = crossing.holds.value_or(window.now); // with the others off it falls short already
            if (crossing.holds)
                window.error = std::max(window.error, std::abs(*crossing.fails - *crossing.holds));
            (way < 0 ? window.why_low : window.why_high) = why;
        }
        out.push_back(window);
        if (found) found(out.back(), static_cast<int>(out.size()), static_cast<int>(marks.size()));
    }
    return out;
}

void accept_windows(const std::vector<MarkWindow>& windows, CutPlan& plan) {
    struct Way {
        double mm; ///< as far as it holds
        bool
            field; ///< a check falls short beyond; else it was not looked at, or cannot be built, any further
        double usable() const { return std::floor(10 * std::max(0.0, mm)) / 10; }
    };
    for (auto& mark : plan.marks)
        for (const auto& w : windows) {
            if (w.key != mark.parameter || !(std::abs(mark.per_mm) > 0)) continue;
            const double per = std::abs(mark.per_mm);
            Way towards{(w.now - w.lowest.value_or(w.looked_low)) / per, w.lowest.has_value()},
                away{(w.highest.value_or(w.looked_high) - w.now) / per, w.highest.has_value()};
            if (mark.per_mm < 0) std::swap(towards, away);
            AcceptanceWindow out;
            out.field_towards_mm = towards.mm;
            out.field_away_mm = away.mm;
            out.towards_end_mm = std::min(mark.tolerance_mm, towards.usable());
            out.away_mm = std::min(mark.tolerance_mm, away.usable());
            const auto origin = [&](const Way& way) {
                return way.usable() >= mark.tolerance_mm ? "the usual tolerance"
                       : way.field                       ? "the field"
                                                         : "as far as it can be built";
            };
            const std::string first = origin(towards), second = origin(away);
            const auto words = [](const Way& way) {
                return fmt::format("{}{:.1f} mm", way.field ? "" : "at least ", way.usable());
            };
            out.origin =
                fmt::format("{}; the field allows {} towards the end and {} away",
                            first == second ? first : first + ", " + second, words(towards), words(away));
            mark.accepted = out;
        }
}

} // namespace ng
