// The screen edge off its mark, while what is laid over it lies where it was marked.
#include "fault/mark_shift.h"
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

/// What is placed by marks of its own, not from the edge that hands cut.
bool is_placed(MarkKind kind) {
    return kind == MarkKind::tube_end || kind == MarkKind::body_end || kind == MarkKind::anchor ||
           kind == MarkKind::cone || kind == MarkKind::tape_end;
}

Result<void> slip(Job& job, const Fault& fault, const std::string& id, const Library& library, double sign) {
    auto shift =
        MarkShift::begin(job, fault, id, library,
                         sign > 0 ? "screen edge too near to the live end" : "screen edge too far back");
    if (!shift) return tl::unexpected(shift.error());
    const auto marks = shift->marks();
    const auto edge = std::find_if(marks.begin(), marks.end(),
                                   [](const auto& m) { return m.kind == MarkKind::screen_edge; });
    if (edge == marks.end()) return tl::unexpected(shift->misfit("this design has no screen edge here"));
    if (auto ok = shift->put(*edge, MarkShift::towards_live(edge->from_datum_mm, sign * fault.size_mm)); !ok)
        return tl::unexpected(shift->misfit(ok.error().problem));
    for (const auto& m : marks) {
        if (!is_placed(m.kind) || !shift->is_own(m)) continue;
        const auto z = shift->z_of(m.place);
        if (!z) return tl::unexpected(shift->misfit(z.error().problem));
        if (std::abs(*z - m.z_mm) < 0.01) continue;
        if (auto ok = shift->put(m, m.from_datum_mm); !ok)
            return tl::unexpected(
                shift->misfit(fmt::format("{} cannot stay where it was: {}", m.label, ok.error().problem)));
    }
    shift->end();
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
