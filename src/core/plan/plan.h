// The cut plan of a design: every mark from one datum with its tolerance, tool and reason, what is parked
// where, and whether it all goes together. Tolerances, blade settings and allowances are common practice, no
// source.
#pragma once
#include "design/prepared.h"

namespace ng {

/// How far a mark may lie towards the cable end and away from it before the design falls short.
struct AcceptanceWindow {
    double towards_end_mm = 0, away_mm = 0;
    std::string origin;                             ///< such as "the field"
    double field_towards_mm = 0, field_away_mm = 0; ///< what the field alone allows, as far as was looked
    std::string words() const;
};

struct CutMark {
    PlaceId place;
    std::string label; ///< for people
    MarkKind kind = MarkKind::screen_edge;
    CableSide side = CableSide::a;
    double order = -1;        ///< among the cuts, from the cable end; below 0: no cut
    double from_datum_mm = 0; ///< along its own side, away from the chosen datum; negative: beyond it
    double z_mm = 0;          ///< in the section
    std::string neighbour;    ///< the mark next nearer to the cable end on this side; empty: none
    double from_neighbour_mm = 0;
    double tolerance_mm = 0;
    std::optional<AcceptanceWindow>
        accepted;       ///< in place of the tolerance, where a study of the field gives it
    std::string cuts;   ///< layer that is cut here; empty: only a mark
    std::string spares; ///< layer beneath, not to be touched
    std::string tool;
    std::optional<double> blade_mm; ///< depth from the surface of what is cut
    std::string why;
    std::vector<std::string> verdicts; ///< titles of the checks that read what this mark sets
    std::string parameter;             ///< of the design that sets it; empty: follows from others
    double per_mm = 1;                 ///< change of the parameter per mm away from the cable end
};

/// A part that goes on before the connector.
struct ParkedPart {
    std::string part; ///< for people
    PlaceId place;
    CableSide side = CableSide::a;
    double length_mm = 0;
    double bore_mm = 0;       ///< as supplied
    bool over_jacket = false; ///< else on the prepared core
    bool stacks = false;      ///< takes its own length of cable; tubes to be shrunk nest in one another
};

struct PlanCheck {
    std::string title;
    Status status = Status::holds;
    std::string why;
    std::string cure;
};

/// Three cores: where they part, and how long each is cut.
struct CoreLayout {
    double crotch_mm = 0; ///< from the datum of the accessory
    /// From the crotch to each core's end; phases 1, 2, 3. Of a joint: what is longer on side A is as much
    /// shorter on B, for its connector lies that much nearer to B's crotch.
    std::vector<double> core_length_mm;
    std::vector<std::string> phase_labels; ///< to be put on before the cores are cut
    /// How much further out the marks of this core lie than those of the shortest.
    double longer_mm(std::size_t core) const;
};

/// Where the distances of one side begin, and which way they grow.
struct DatumLine {
    double zero_z_mm = 0;
    double grows = -1; ///< 1: towards +z
    double from_datum(double z_mm) const { return grows * (z_mm - zero_z_mm); }
    double z(double from_datum_mm) const { return zero_z_mm + grows * from_datum_mm; }
};

struct CutPlan {
    std::string data_version;    ///< of the library it was made with
    PlaceId datum;               ///< what distances count from
    std::vector<PlaceId> datums; ///< what they may count from; the first if nobody chooses
    DatumLine lines[2];          ///< by side
    std::vector<CutMark> marks;  ///< side A from the cable end backwards, then side B
    std::vector<ParkedPart> parked;
    double room_needed_mm[2] = {0, 0}; ///< for parking, sides A and B
    CableSide long_side = CableSide::a;
    std::optional<CoreLayout> cores[2]; ///< by side
    std::vector<PlanCheck> checks;
    Status status = Status::holds;

    const CutMark* find(const PlaceId& place) const;
    const CutMark* find(MarkKind kind, CableSide side = CableSide::a) const;
    /// Of a mark on the cores: what to add to its distance for each core, where they are cut to unlike
    /// lengths and it counts from behind the crotch; else nothing.
    std::vector<double> added_by_core_mm(const CutMark& mark) const;
    /// How much further apart both sides lie than for cores joined side by side: what the core whose joint
    /// lies furthest towards B needs. 0: not staggered.
    double stagger_mm() const;
    const DatumLine& line(CableSide side) const { return lines[side == CableSide::a ? 0 : 1]; }
    /// A distance from the datum in both units; one the other way says so in words: "40 mm / 1 9/16 in behind
    /// the jacket cut".
    std::string distance_words(double from_datum_mm) const;
    bool two_sides() const { return find(MarkKind::screen_edge, CableSide::b) != nullptr; }
};

/// Refuses a datum that the design does not have.
Result<CutPlan> make_plan(const PreparedDesign& prepared);

/// "screen-edge-a" of "screen edge A".
/// In files, addresses and JSON: "screen-edge-a".
std::string id_of(const PlaceId& place);

nlohmann::ordered_json plan_json(const CutPlan& plan);
std::string plan_csv(const CutPlan& plan);

} // namespace ng
