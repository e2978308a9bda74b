#include "schedule/assumptions.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

const char* unit_of(ParameterKind kind) {
    return kind == ParameterKind::length ? " mm" : kind == ParameterKind::conductivity ? " S/m" : "";
}

} // namespace

Result<std::vector<Assumption>> find_assumptions(const Job& job, const std::string& design_id,
                                                 const Library& library, const Preparer& prepare,
                                                 const CancelFlag* cancel) {
    const auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    const EvaluateOptions how{Use::compared, {}, cancel};
    const auto base = evaluate(job, design_id, {}, library, prepare, how);
    if (!base) return tl::unexpected(base.error());
    const auto& prepared = base->prepared;
    const auto context = prepared.context();
    const auto* family = prepared.family;
    std::map<CheckId, std::string> titles;
    for (const auto& check : base->verdict.checks) titles[check.id] = check.title;
    const auto before = outcome_of(*base);
    std::vector<Assumption> out;
    for (const auto& spec : family->parameters) {
        if (prepared.design.numbers.contains(spec.key) || !spec.may_be) continue;
        const double assumed = number_of(context, spec.key);
        const auto other = spec.may_be(context, assumed);
        if (!other) continue;
        if (stopped()) return std::vector<Assumption>{};
        Assumption one;
        one.key = spec.key;
        one.label = spec.group + ": " + spec.label;
        one.assumed = assumed;
        one.other = std::clamp(*other, spec.lowest, spec.highest);
        const auto after = outcome_of(job, design_id, {{{spec.key, one.other}}, {}}, library, prepare, how);
        if (!after) continue; // it cannot be that: nothing to say
        for (const auto& reading : after->readings) {
            const auto& id = check_id_of(reading.check);
            const auto* was = before.find(id);
            if (!was || !(was->value > 0) || !(reading.limit > 0)) continue;
            // What is far from its limit either way decides nothing.
            if (std::max(was->share(), reading.share()) < 0.3F) continue;
            const double moves = reading.value / was->value - 1;
            if (std::abs(moves) <= std::abs(one.moves)) continue;
            one.moves = moves;
            one.check = titles.contains(id) ? titles[id] : name_of(id);
        }
        if (std::abs(one.moves) < assumption_moves) continue;
        one.words = fmt::format("{} is taken as {}{}; were it {}{}, “{}” would {} by {:.0f} %.", one.label,
                                format_figures(one.assumed, 3), unit_of(spec.kind),
                                format_figures(one.other, 3), unit_of(spec.kind), one.check,
                                one.moves > 0 ? "rise" : "fall", 100 * std::abs(one.moves));
        out.push_back(std::move(one));
    }
    std::sort(out.begin(), out.end(),
              [](const auto& a, const auto& b) { return std::abs(a.moves) > std::abs(b.moves); });
    return out;
}

} // namespace ng
