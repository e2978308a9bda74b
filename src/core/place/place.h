// Places: what is meant by a part, an edge, a surface, a mark or a cut, whatever it is called for people. All
// that speaks of a place (paths, edges, parts, marks, checks, gaps, steps of the sheet) holds one of these;
// labels are only for people.
//
// In sections, job files, step books and JSON a place is written as its name: one fixed text for each place,
// which this file alone makes and reads.
#pragma once
#include <compare>
#include <optional>
#include <string>
#include <string_view>
#include <tuple>

namespace ng {

// clang-format off
/// Kind of place, and the words that it is written with; # is where a number stands, at the end if there is none.
#define NEEDLEGAUGE_PLACES(X)                                                                                     \
    /* of the cable */                                                                                             \
    X(conductor, "conductor") X(conductor_screen, "conductor screen") X(insulation, "insulation")                  \
    X(insulation_screen, "insulation screen") X(metallic_screen, "metallic screen") X(jacket, "jacket")            \
    X(insulation_surface, "insulation surface") X(screen_edge, "screen edge") X(conductor_end, "conductor end")    \
    X(insulation_end, "insulation end") X(conductor_screen_end, "conductor screen end")                            \
    X(pencil_start, "pencil start") X(metallic_cut, "metallic screen cut") X(jacket_cut, "jacket cut")             \
    X(core_tube_end, "core tube end") X(cable_end, "cable end")                           \
    X(bedding_cut, "bedding cut") X(armour_cut, "armour cut") X(calibration_mark, "calibration mark")              \
    /* what lies at the datum */                                                                                   \
    X(joint_centre, "joint centre") X(bushing_centre, "bushing centre line") X(lug_end, "lug end")                 \
    X(adapter_end, "adapter end")                                                                                  \
    /* connectors */                                                                                               \
    X(connector, "connector") X(connector_end, "connector end") X(connector_mastic, "connector mastic")            \
    X(connector_cover, "connector cover") X(cover_mastic, "mastic at the cover's end") X(connector_tape, "connector tape") X(lug, "lug")                        \
    X(lug_barrel_end, "lug barrel end") X(lug_sealant, "lug sealant")                                              \
    X(metallic_screen_sealant, "metallic screen sealant")                                                          \
    /* stress control */                                                                                           \
    X(relief_mastic, "relief mastic") X(mastic_on_insulation, "mastic onto insulation")                            \
    X(mastic_on_screen, "mastic onto screen") X(stress_tube, "stress tube") X(air_under_tube, "air under tube") X(pocket, "pocket")    \
    X(stress_tube_end, "stress tube end") X(stress_tube_lower_end, "stress tube lower end")                        \
    X(stress_tube_upper_end, "stress tube upper end") X(tube_heel_filler, "tube heel filler")                      \
    X(tube_end_filler, "tube end filler") X(graded_layer, "graded layer")                                          \
    X(graded_layer_upper_end, "graded layer upper end") X(step_at_screen_edge, "step at the screen edge")          \
    X(air_wedge, "air wedge") X(cone, "cone") X(cone_flare, "cone flare") X(deflector, "deflector")\
    X(deflector_edge, "deflector edge") X(inner_electrode_edge, "inner electrode edge") X(cone_start, "cone start")              \
    X(inner_electrode, "inner electrode")                                                                          \
    /* insulation, covers and bodies */                                                                            \
    X(sleeve, "sleeve") X(air_under_sleeve, "air under sleeve") X(sleeve_surface, "sleeve surface") X(outer_surface, "outer surface")                \
    X(sleeve_lower_end, "sleeve lower end") X(sleeve_upper_end, "sleeve upper end") X(body, "body")                \
    X(body_core, "body core") X(body_surface, "body surface") X(body_end, "body end")                              \
    X(body_lower_end, "body lower end") X(step_under_body, "step under the body") X(anchor_mark, "anchor mark")    \
    X(shed, "shed") X(insulating_tube, "insulating tube") X(air_under_insulating_tube, "air under insulating tube")\
    X(insulating_tube_inside, "insulating tube, inside") X(insulating_tube_end, "insulating tube end")             \
    X(insulating_tubes, "insulating tubes")                                                                        \
    X(dual_wall_tube, "dual-wall tube") X(air_under_dual_wall_tube, "air under dual-wall tube")                    \
    X(dual_wall_tube_end, "dual-wall tube end") X(joint_screen, "joint screen")                                    \
    X(under_joint_screen, "under joint screen") X(air, "air") X(nearby_earth, "nearby earth")                      \
    /* tape and resin */                                                                                           \
    X(insulating_tape, "insulating tape") X(insulating_tape_stop, "insulating tape stops")                         \
    X(tape_in_steps, "tape in steps") X(tape_cone, "tape cone") X(cone_top, "cone top") X(taper_top, "taper top")  \
    X(screen_tape_end, "semiconductive tape ends") X(jacket_tape, "jacket tape") X(resin, "resin")                 \
    X(splice_surface, "splice surface") X(rejacketing_sleeve, "re-jacketing sleeve")                               \
    /* paper */                                                                                                    \
    X(oil_barrier, "oil barrier") X(oil_mastic, "oil mastic") X(screen_tube, "screen tube")                        \
    X(screen_tube_end, "conductive tube end")                                                                      \
    /* rod */                                                                                                      \
    X(rod, "rod") X(rod_screen, "rod screen") X(rod_surface, "rod surface") X(butt, "butt") X(butt_mastic, "mastic at the butt")  \
    X(padded_end, "padded conductor end")                        \
    /* across the axis */                                                                                          \
    X(core, "core") X(core_outward, "core # outward") X(core_inward, "core # inward")                              \
    X(between_cores, "between cores") X(paper, "paper") X(belt, "belt") X(filler, "filler")                        \
    X(lead_sheath, "lead sheath") X(packing, "packing") X(hull, "hull") X(outward, "outward") X(upward, "upward") X(crotch, "crotch")                        \
    /* outside the section: of the whole end */                                                                    \
    X(armour, "armour") X(bedding, "bedding") X(laid_up_cores, "laid-up cores") X(breakout, "breakout")            \
    X(core_tube, "core tube")                                                                                      \
    /* of faults */                                                                                                \
    X(fault, "fault") X(fault_gap, "gap of fault")                                                                 \
    /* of a schedule's wet surface */                                                                              \
    X(wet_film, "wet film") X(earthed_band, "earthed band")
// clang-format on

enum class PlaceKind {
#define NEEDLEGAUGE_PLACE(name, words) name,
    NEEDLEGAUGE_PLACES(NEEDLEGAUGE_PLACE)
#undef NEEDLEGAUGE_PLACE
};

/// Of a joint: A or B; of a live-end cap: the rod that stands in for a side B.
enum class Side { none, a, b, rod };
/// Rounded edges of an electrode.
enum class EdgePart { none, inner, outer, tip };

struct PlaceId {
    PlaceKind kind{};
    Side side = Side::none;
    int index = 0; ///< 0: the only one; else from 1
    EdgePart edge = EdgePart::none;

    constexpr PlaceId() = default;
    explicit constexpr PlaceId(PlaceKind of) : kind(of) {}
    constexpr PlaceId on(Side its) const {
        return changed([&](PlaceId& p) { p.side = its; });
    }
    constexpr PlaceId number(int its) const {
        return changed([&](PlaceId& p) { p.index = its; });
    }
    constexpr PlaceId part(EdgePart its) const {
        return changed([&](PlaceId& p) { p.edge = its; });
    }

    auto fields() const { return std::tie(kind, side, index, edge); }
    friend constexpr auto operator<=>(const PlaceId&, const PlaceId&) = default;

  private:
    template <class Change> constexpr PlaceId changed(Change change) const {
        PlaceId out = *this;
        change(out);
        return out;
    }
};

/// Each kind as the place of which there is one: place::insulation_surface, place::shed.number(2).
namespace place {
#define NEEDLEGAUGE_PLACE(name, words) inline constexpr PlaceId name{PlaceKind::name};
NEEDLEGAUGE_PLACES(NEEDLEGAUGE_PLACE)
#undef NEEDLEGAUGE_PLACE
} // namespace place

/// Conductor, insulation, screens and jacket.
bool is_cable_layer(PlaceKind kind);
/// The words of a kind, without a number: "stress tube".
std::string_view words_of(PlaceKind kind);
/// " A", " B", " of the rod" or nothing: after a name or a label.
const char* tag_of(Side side);
/// "A", "B" or nothing: in files and tables.
const char* side_letter(Side side);
/// "insulation surface A", "shed 2", "screen edge, inner": one for each place.
std::string name_of(const PlaceId& place);
/// The place that has this name; none: no place has.
std::optional<PlaceId> place_of(std::string_view name);
/// The kind that has these words; none: no kind has.
std::optional<PlaceKind> place_kind(std::string_view words);

} // namespace ng
