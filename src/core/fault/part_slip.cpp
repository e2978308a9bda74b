// Tubes and bodies off their marks, and stress control that ends short of its mark.
#include "fault/mark_shift.h"
#include <fmt/format.h>

namespace ng {
namespace {

using Picks = std::function<bool(const MarkShift&, const CutMark&)>;

bool is_slipped_on(const MarkShift& shift, const CutMark& mark) {
    return shift.is_own(mark) && (mark.kind == MarkKind::tube_end || mark.kind == MarkKind::body_end ||
                                  mark.kind == MarkKind::anchor || mark.kind == MarkKind::cone);
}

bool is_control_end(const MarkShift& shift, const CutMark& mark) {
    const auto kind = mark.place.kind;
    return shift.has_number(mark) &&
           (kind == PlaceKind::stress_tube_upper_end || kind == PlaceKind::graded_layer_upper_end ||
            kind == PlaceKind::stress_tube_end);
}

bool is_insulation_end(const MarkShift& shift, const CutMark& mark) {
    return shift.is_own(mark) && mark.kind == MarkKind::insulation_end;
}

bool is_pencil_start(const MarkShift& shift, const CutMark& mark) {
    return shift.has_number(mark) && mark.kind == MarkKind::pencil_start;
}

/// Moves the marks that are picked, +1: towards the live end.
FaultKind moving(FaultKind k, double sign, Picks picks, std::string none_here) {
    k.change = [title = k.title, sign, picks = std::move(picks),
                none_here = std::move(none_here)](Job& job, const Fault& fault, const std::string& design,
                                                  const Library& library) -> Result<void> {
        auto shift = MarkShift::begin(job, fault, design, library, title);
        if (!shift) return tl::unexpected(shift.error());
        std::vector<CutMark> moved;
        for (const auto& mark : shift->marks())
            if (picks(*shift, mark)) moved.push_back(mark);
        if (moved.empty()) return refuse(title, none_here, "Choose another kind");
        // The foremost first, so that no part is shorter than nothing on the way.
        if (sign < 0) std::reverse(moved.begin(), moved.end());
        for (const auto& mark : moved)
            if (auto ok = shift->put(mark, MarkShift::towards_live(mark.from_datum_mm, sign * fault.size_mm));
                !ok)
                return tl::unexpected(shift->misfit(fmt::format("{}: {}", mark.label, ok.error().problem)));
        shift->end();
        return {};
    };
    return k;
}

FaultKind slipped(const char* id, const char* title, double sign) {
    FaultKind k;
    k.id = id;
    k.title = title;
    k.model =
        "All that is slipped or shrunk on moves together, the cable stays as it was cut; where one number "
        "sets both sides of a joint, that part stays";
    k.size_words = "slip";
    k.least_mm = 0.5;
    k.most_mm = 40;
    k.inspection = {"steel rule against the mark on the jacket", 0.8, 0.5, 0.97};
    k.rework = "A body is pushed or pulled to its mark while the grease is fresh; a tube that has shrunk is "
               "slit off and replaced";
    k.source = "common practice, no source";
    k.step = "centre";
    return moving(std::move(k), sign, is_slipped_on, "nothing here is placed by a mark of its own");
}

} // namespace

NEEDLEGAUGE_FAULT(part_too_near, 7) {
    return slipped("part_too_near", "body or tube too near to the live end", 1);
}

NEEDLEGAUGE_FAULT(part_too_far, 8) {
    return slipped("part_too_far", "body or tube too far back", -1);
}

NEEDLEGAUGE_FAULT(control_short, 9) {
    FaultKind k;
    k.id = "control_short";
    k.title = "stress control too short";
    k.model = "Its end on the insulation lies short of its mark; the other end stays; on a joint where one "
              "number sets both sides, on both";
    k.size_words = "shortness";
    k.least_mm = 1;
    k.most_mm = 80;
    k.inspection = {"steel rule", 1, 0.5, 0.97};
    k.rework = "A tube that shrank too much is slit off and replaced; tape is wound on";
    k.source = "heat-shrink tubes lose 5 to 10 % of their length: common practice, no source";
    k.step = "place-control";
    return moving(std::move(k), -1, is_control_end, "its stress control does not end at a mark of its own");
}

NEEDLEGAUGE_FAULT(insulation_short, 12) {
    FaultKind k;
    k.id = "insulation_short";
    k.title = "gap beside the connector too long";
    k.model = "The insulation is cut back too far; the conductor is as long as it was";
    k.size_words = "excess";
    k.least_mm = 0.5;
    k.most_mm = 40;
    k.inspection = {"steel rule", 0.8, 0.5, 0.97};
    k.hurts_insulation = true;
    k.rework = "Fill the gap with mastic as far as the maker allows";
    k.source = "common practice, no source";
    k.step = "insulation";
    return moving(std::move(k), -1, is_insulation_end, "its insulation does not end at a mark of its own");
}

NEEDLEGAUGE_FAULT(pencil_short, 13) {
    FaultKind k;
    k.id = "pencil_short";
    k.title = "pencil too short";
    k.model =
        "The pencil begins nearer to the end of the insulation, and is as much steeper; where one number "
        "sets both sides of a joint, on both";
    k.size_words = "shortness";
    k.least_mm = 1;
    k.most_mm = 30;
    k.inspection = {"steel rule", 1, 0.5, 0.97};
    k.rework = "Pencil further back, smooth it, measure again";
    k.source = "common practice, no source";
    k.step = "pencil";
    return moving(std::move(k), 1, is_pencil_start, "this design has no pencil here");
}

} // namespace ng
