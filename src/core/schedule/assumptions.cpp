#include "schedule/assumptions.h"
#include "accessory/parameters.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

struct Doubt {
    double factor; ///< what the value may as well be, over what it is (from memory)
    const char* unit;
};

/// Nothing for values that somebody measures or draws.
std::optional<Doubt> doubt_of(const ParameterSpec& spec, const ParameterValues& value) {
    if (spec.kind == ParameterKind::permittivity) return Doubt{value(spec.key) > 5 ? 0.6 : 1.2, ""};
    if (spec.kind == ParameterKind::conductivity) {
        // Conducts only where that was chosen: "tube_S_per_m" with "tube_conduction", "screen_S_per_m" with
        // "screen_body".
        const auto prefix = spec.key.substr(0, spec.key.find("_S_per_m"));
        const bool used = value.family().parameter(prefix + "_conduction")
                              ? !value.is(prefix + "_conduction", "none")
                          : value.family().parameter("screen_body") ? value.is("screen_body", "resistive")
                                                                    : true;
        return used ? std::optional(Doubt{10, " S/m"}) : std::nullopt;
    }
    if (spec.key == "edge_radius_mm") return Doubt{0.4, " mm"};
    if (spec.key == "earth_distance_mm") return Doubt{0.5, " mm"};
    return {};
}

} // namespace

Result<std::vector<Assumption>> find_assumptions(const Job& job, const std::string& design_id,
                                                 const Library& library, const CancelFlag* cancel) {
    const auto stopped = [&] { return cancel && cancel->load(std::memory_order_relaxed); };
    const EvaluateOptions how{Use::compared, {}, cancel};
    const auto base = evaluate(job, design_id, {}, library, how);
    if (!base) return tl::unexpected(base.error());
    const auto& prepared = base->prepared;
    const auto context = prepared.context();
    const auto* family = find_family(prepared.design.family);
    const ParameterValues value(family->id, context);
    std::map<std::string, std::string> titles;
    for (const auto& check : base->verdict.checks) titles[check.id] = check.title;
    const auto before = outcome_of(*base);
    std::vector<Assumption> out;
    for (const auto& spec : family->parameters) {
        if (prepared.design.numbers.contains(spec.key) || spec.kind == ParameterKind::choice) continue;
        const auto doubt = doubt_of(spec, value);
        if (!doubt) continue;
        if (stopped()) return std::vector<Assumption>{};
        Assumption one{spec.key, spec.group + ": " + spec.label, value(spec.key), 0, {}, 0, {}};
        one.other = std::clamp(one.assumed * doubt->factor, spec.lowest, spec.highest);
        const auto after = outcome_of(job, design_id, {{{spec.key, one.other}}, {}}, library, how);
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
            one.check = titles.contains(id) ? titles[id] : id;
        }
        if (std::abs(one.moves) < assumption_moves) continue;
        one.words =
            fmt::format("{} is taken as {}{}; were it {}{}, “{}” would {} by {:.0f} %.", one.label,
                        format_figures(one.assumed, 3), doubt->unit, format_figures(one.other, 3),
                        doubt->unit, one.check, one.moves > 0 ? "rise" : "fall", 100 * std::abs(one.moves));
        out.push_back(std::move(one));
    }
    std::sort(out.begin(), out.end(),
              [](const auto& a, const auto& b) { return std::abs(a.moves) > std::abs(b.moves); });
    return out;
}

} // namespace ng
