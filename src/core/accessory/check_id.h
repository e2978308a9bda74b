// What is judged of an accessory: one id for each check. All that speaks of a check (requests, verdicts,
// studies, cures, records) holds one of these; its name is for files, calls and help pages alone.
#pragma once
#include "place/place.h"
#include <compare>
#include <optional>
#include <string>
#include <string_view>

namespace ng {

// clang-format off
/// Kind of check, and its name in files.
#define NEEDLEGAUGE_CHECKS(X)                                                                                      \
    /* insulation surface of a cable end */                                                                        \
    X(edge_zone_half, "edge_zone_half") X(edge_zone_one, "edge_zone_one")                                          \
    X(insulation_tangential, "insulation_tangential") X(insulation_tangential_peak, "insulation_tangential_peak")  \
    X(live_end_tangential, "live_end_tangential") X(insulation_ratio, "insulation_ratio")                          \
    /* edges and surfaces of electrodes */                                                                         \
    X(screen_edge, "screen_edge") X(rod_screen_edge, "rod_screen_edge") X(conductor_end, "conductor_end")          \
    X(connector_end, "connector_end") X(connector_cover, "connector_cover") X(connector_tape, "connector_tape")    \
    X(screen_tube_edge, "screen_tube_edge") X(inner_electrode, "inner_electrode")                                  \
    X(cone_surface, "cone_surface") X(cone_tip, "cone_tip") X(deflector_edge, "deflector_edge")                    \
    X(fault_edge, "fault_edge")                                                                                    \
    /* interfaces */                                                                                               \
    X(tape_cone, "tape_cone") X(tube_interface, "tube_interface") X(rod_tangential, "rod_tangential")              \
    X(hull_tangential, "hull_tangential") X(butt, "butt")                                                          \
    /* insulation across the axis */                                                                               \
    X(cores_ratio, "cores_ratio") X(belted_peak_paper, "belted_peak_paper")                                        \
    X(belted_between_paper, "belted_between_paper")                                                                \
    /* air beside the accessory, and air shut in */                                                                \
    X(sleeve_tangential, "sleeve_tangential") X(body_tangential, "body_tangential")                                \
    X(splice_tangential, "splice_tangential") X(air_extinction, "air_extinction") X(air_wedge, "air_wedge")        \
    X(air_pocket, "pocket") X(butt_air, "butt_air") X(crotch_air, "crotch_air") X(void_allowance, "void_allowance")\
    /* distances in air, creepage and sheds */                                                                     \
    X(flashover, "flashover") X(arc_distance, "arc_distance") X(pollution_flashover, "pollution_flashover")        \
    X(clearance_phases, "clearance_phases") X(clearance_earth, "clearance_earth") X(creepage, "creepage")          \
    X(creepage_over_arc, "creepage_over_arc") X(shed_overhang, "shed_overhang")                                    \
    X(shed_spacing_over_overhang, "shed_spacing_over_overhang") X(shed_clear_spacing, "shed_clear_spacing")
// clang-format on

enum class CheckKind {
#define NEEDLEGAUGE_CHECK(name, words) name,
    NEEDLEGAUGE_CHECKS(NEEDLEGAUGE_CHECK)
#undef NEEDLEGAUGE_CHECK
};

struct CheckId {
    CheckKind kind{};
    Side side = Side::none; ///< of a joint
    int index = 0;          ///< of air pockets and faults, from 1; 0: there is one alone

    constexpr CheckId() = default;
    constexpr CheckId(CheckKind of, Side its = Side::none, int number = 0) // NOLINT: a kind is an id
        : kind(of), side(its), index(number) {}
    friend constexpr auto operator<=>(const CheckId&, const CheckId&) = default;
};

/// "insulation_tangential_a": one for each check.
std::string name_of(const CheckId& check);
/// None: no check has this name.
std::optional<CheckId> check_of(std::string_view name);

} // namespace ng
