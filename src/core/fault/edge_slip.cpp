// The screen edge off its mark, while what is laid over it lies where it was marked.
#include "fault/fault.h"
#include "plan/move_mark.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {
namespace {

/// What is placed by marks of its own, not from the edge that hands cut.
bool is_placed(MarkKind kind) {
    return kind == MarkKind::tube_end || kind == MarkKind::body_end || kind == MarkKind::anchor ||
           kind == MarkKind::cone || kind == MarkKind::tape_end;
}

Result<void> slip(Job& job, const Fault& fault, const std::string& id, const Library& library, double sign) {
    const auto title =
        std::string(sign > 0 ? "screen edge too near to the live end" : "screen edge too far back");
    auto* design = job.find_design(id);
    if (!design) return refuse("design " + id, "it is not in the job", "Name one of the job's designs");
    const auto datum = design->work.datum;
    const auto side = fault.side == Side::b ? CableSide::b : CableSide::a;
    auto before = prepare_design(job, id, library);
    if (!before) return tl::unexpected(before.error());
    before->design.work.datum = design->work.datum = before->built.datum;
    const auto plan = make_plan(*before);
    if (!plan) return tl::unexpected(plan.error());
    const auto* edge = plan->find(MarkKind::screen_edge, side);
    if (plan->two_sides() != (fault.side == Side::a || fault.side == Side::b) || !edge)
        return refuse(title, "this design has no screen edge on this side",
                      plan->two_sides() ? "Say A or B" : "Leave the side out");
    const auto put = [&](const PlaceId& mark, double from_datum_mm) -> Result<void> {
        const auto now = prepare_design(job, id, library);
        if (!now) return tl::unexpected(now.error());
        const auto numbers = numbers_for(job, *now, library, mark, from_datum_mm);
        if (!numbers) return tl::unexpected(numbers.error());
        for (const auto& [key, value] : *numbers) design->numbers[key] = value;
        return {};
    };
    // What follows from the edge by its usual value was marked before the edge was cut: it stays.
    for (const auto& spec : before->family->parameters)
        if (spec.kind == ParameterKind::length && spec.key != edge->parameter)
            design->numbers[spec.key] = number_of(before->context(), spec.key);
    const auto both_sides = [&](const std::string& key) {
        return std::any_of(plan->marks.begin(), plan->marks.end(),
                           [&](const auto& m) { return m.side != side && m.parameter == key; });
    };
    // Distances of the family's datum grow away from the live end.
    if (auto ok = put(edge->place, edge->from_datum_mm - sign * fault.size_mm); !ok)
        return refuse(title, ok.error().problem, "Give a smaller size");
    for (const auto& m : plan->marks) {
        if (m.side != side || !is_placed(m.kind) || m.parameter.empty() || both_sides(m.parameter)) continue;
        const auto now = prepare_design(job, id, library);
        if (!now) return refuse(title, now.error().problem, "Give a smaller size");
        const auto moved = make_plan(*now);
        if (!moved) return tl::unexpected(moved.error());
        const auto* same = moved->find(m.place);
        if (!same || std::abs(same->z_mm - m.z_mm) < 0.01) continue;
        if (auto ok = put(m.place, m.from_datum_mm); !ok)
            return refuse(title, fmt::format("{} cannot stay where it was: {}", m.label, ok.error().problem),
                          "Give a smaller size");
    }
    design->work.datum = datum;
    return {};
}

FaultKind slip_kind(const char* id, const char* title, double sign) {
    FaultKind k;
    k.id = id;
    k.title = title;
    k.model = "The edge is moved, mastic with it; tubes, bodies and cones stay at their marks";
    k.size_words = "slip";
    k.least_mm = 0.5;
    k.most_mm = 30;
    k.inspection = {"steel rule, second person", 0.5, 0.5, 0.97};
    k.hurts_insulation = sign < 0;
    k.rework = "Cut the screen back to its mark, dress and wipe again, measure from the datum";
    k.source = "common practice, no source";
    k.step = "screen-strip";
    k.change = [sign](Job& job, const Fault& fault, const std::string& design, const Library& library) {
        return slip(job, fault, design, library, sign);
    };
    return k;
}

} // namespace

NEEDLEGAUGE_FAULT(edge_too_near, 5) {
    return slip_kind("edge_too_near", "screen edge too near to the live end", 1);
}

NEEDLEGAUGE_FAULT(edge_too_far, 6) {
    return slip_kind("edge_too_far", "screen edge too far back", -1);
}

} // namespace ng
