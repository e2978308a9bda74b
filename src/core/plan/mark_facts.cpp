#include "plan/mark_facts.h"
#include <algorithm>

namespace ng {
namespace {

constexpr double ring_cut_mm = 0.4;         // depth of a ring cut in a strippable screen
constexpr double jacket_blade_short_mm = 1; // a jacket score stands this far off full depth
constexpr double insulation_blade_short_mm = 0.5;

/// Least wall at any place of a layer of this nominal thickness (IEC 60502: 0.9 t - 0.1 mm, from memory).
double least_wall(double thickness_mm) {
    return std::max(0.5 * thickness_mm, 0.9 * thickness_mm - 0.1);
}

/// A score that stops short of the layer's depth where it is thinnest; half of a thin layer.
double short_of(double thickness_mm, double by_mm) {
    const double least = least_wall(thickness_mm);
    return least > 2 * by_mm ? least - by_mm : 0.5 * least;
}

} // namespace

bool has_common_sheath(const Cable& cable) {
    return cable.cores == 3 && cable.insulation_material == "paper";
}

const char* armour_words(const Cable& cable) {
    return cable.armour == "round wire"   ? "armour wires"
           : cable.armour == "steel tape" ? "steel tapes"
                                          : "interlocked armour";
}

const MarkFacts& facts(MarkKind kind) {
    const auto of_body = [](double tolerance_mm) {
        return MarkFacts{
            tolerance_mm,
            -1,
            "",
            "",
            "tape mark; release the body to it, check when half released",
            "The body's cone and electrode lie at fixed places in it: this mark puts them on the cable.",
            {PlaceKind::cone, PlaceKind::cone_flare, PlaceKind::insulation_surface,
             PlaceKind::inner_electrode}};
    };
    static const std::map<MarkKind, MarkFacts> all{
        {MarkKind::reference, {0, -1, "", "", "", "All distances count from here.", {}}},
        {MarkKind::cable_end,
         {1,
          0,
          "whole cable",
          "",
          "saw with fine teeth, a guide square to the axis",
          "Everything on this side is measured from a square end.",
          {}}},
        {MarkKind::connector_end,
         {1,
          -1,
          "",
          "",
          "",
          "How far lug or connector reaches over the conductor.",
          {PlaceKind::connector_end, PlaceKind::connector_cover, PlaceKind::connector_tape}}},
        {MarkKind::conductor_screen_end,
         {1,
          1,
          "conductor screen",
          "conductor",
          "blunt knife along the strands, then abrasive cloth",
          "A short length of conductor screen is left for the connector's tape to join.",
          {PlaceKind::connector_end, PlaceKind::connector_cover, PlaceKind::connector_tape}}},
        {MarkKind::insulation_end,
         {1,
          2,
          "insulation",
          "conductor",
          "insulation stripping tool with a depth stop, or string; never a knife against the strands",
          "The conductor goes home in the connector with a little bare length to spare.",
          {PlaceKind::insulation_surface, PlaceKind::connector_end, PlaceKind::connector_cover,
           PlaceKind::connector_tape, PlaceKind::inner_electrode, PlaceKind::conductor_end}}},
        {MarkKind::pencil_start,
         {2,
          3,
          "insulation, tapered",
          "conductor screen",
          "pencilling tool, then abrasive cloth",
          "A taper spreads the field where the insulation ends, and leaves conductor screen for the tape.",
          {PlaceKind::insulation_surface, PlaceKind::connector_end, PlaceKind::connector_cover,
           PlaceKind::connector_tape, PlaceKind::inner_electrode, PlaceKind::conductor_end}}},
        {MarkKind::screen_edge,
         {1,
          4,
          "insulation screen",
          "insulation",
          "ring-cut tool with a fixed depth, or a round file; score, then peel",
          "All equipotentials leave the cable here: the stress control is placed from this edge.",
          {PlaceKind::insulation_surface, PlaceKind::screen_edge, PlaceKind::air_wedge,
           PlaceKind::conductor_screen}}},
        {MarkKind::metallic_cut,
         {3,
          5,
          "screen wires (fold back)",
          "insulation screen",
          "binding wire; fold each wire back over it, do not cut it short",
          "Keeps metal clear of the stress control, and leaves enough of it for the earth connection.",
          {}}},
        {MarkKind::core_tube_end,
         {5, 6, "", "", "tape mark", "The tube that rebuilds the cover of each core ends here.", {}}},
        {MarkKind::crotch,
         {10,
          7,
          "",
          "",
          "spread by hand, radius not below the cable's least",
          "The cores part here; the breakout or the joint's outer seal sits on it.",
          {}}},
        {MarkKind::bedding_cut,
         {3,
          8,
          "bedding",
          "metallic screen",
          "scoring blade with a stop",
          "A short length of bedding keeps the armour's edge off the screen.",
          {}}},
        {MarkKind::armour_cut,
         {5,
          9,
          "armour",
          "bedding",
          "hacksaw half through, then tear against a binding",
          "A stub of armour is left to be bonded and earthed.",
          {}}},
        {MarkKind::jacket_cut,
         {5,
          10,
          "jacket",
          "metallic screen",
          "ring score and two length scores with a stop",
          "Seal and earth connection sit on either side of this edge.",
          {}}},
        {MarkKind::mastic_end,
         {2,
          -1,
          "",
          "",
          "stretch thin, press on; no air at the edge",
          "Relief mastic fills the step at the screen edge: no air stays where the field is highest.",
          {PlaceKind::screen_edge, PlaceKind::insulation_surface, PlaceKind::air_wedge}}},
        {MarkKind::tube_end,
         {3,
          -1,
          "",
          "",
          "tape mark; hold the tube to it while it recovers",
          "Where the stress control ends sets where the equipotentials come out.",
          {PlaceKind::insulation_surface, PlaceKind::insulating_tube_inside, PlaceKind::sleeve_surface,
           PlaceKind::body_surface}}},
        {MarkKind::body_end, of_body(3)},
        {MarkKind::anchor, of_body(1)},
        {MarkKind::cone,
         {2,
          -1,
          "",
          "",
          "follows from the body's mark",
          "The earthed cone lifts the field off the insulation from here.",
          {PlaceKind::cone, PlaceKind::cone_flare, PlaceKind::insulation_surface,
           PlaceKind::inner_electrode}}},
        {MarkKind::tape_end,
         {2,
          -1,
          "",
          "",
          "tape mark; turn back here, half-lapped",
          "Ends of the build-up: a clear length of insulation must stay beyond it.",
          {PlaceKind::tape_cone, PlaceKind::insulation_surface, PlaceKind::splice_surface}}},
        {MarkKind::calibration,
         {1,
          -1,
          "",
          "",
          "tape mark on the jacket, before anything is cut",
          "The joint centre is hidden once the body is over it: this mark finds it again.",
          {}}},
        {MarkKind::rod_edge,
         {1,
          -1,
          "",
          "",
          "measure, it is applied by the maker",
          "The screen on the insulating rod ends as the cable's does.",
          {PlaceKind::rod_surface, PlaceKind::butt}}},
    };
    return all.at(kind);
}

void describe(CutMark& mark, const Cable& cable, const CableDimensions& dimensions) {
    const auto& usual = facts(mark.kind);
    mark.tolerance_mm = usual.tolerance_mm;
    mark.order = usual.order;
    // Cores part outside the lead that lies over all of them: nearer to their ends than its cut.
    if (mark.kind == MarkKind::crotch && has_common_sheath(cable))
        mark.order = facts(MarkKind::metallic_cut).order - 0.5;
    mark.cuts = usual.cuts;
    mark.spares = usual.spares;
    mark.tool = usual.tool;
    mark.why = usual.why;
    const auto thick = [&](const char* layer) { return dimensions.layer(layer).thickness_mm; };
    switch (mark.kind) {
    case MarkKind::insulation_end:
        mark.blade_mm = short_of(thick("insulation"), insulation_blade_short_mm);
        if (cable.insulation_material == "paper")
            mark.tool = "sharp knife round a binding, papers torn off turn by turn";
        break;
    case MarkKind::screen_edge:
        if (cable.strippable_screen) {
            mark.blade_mm = std::min({ring_cut_mm, std::max(0.1, thick("insulation screen") - 0.3),
                                      0.7 * least_wall(thick("insulation screen"))});
        } else {
            mark.blade_mm = thick("insulation screen");
            mark.tool = "shaving tool with a tapered finish; no glass, no open knife";
        }
        break;
    case MarkKind::metallic_cut:
        if (cable.metallic_screen == "tape") {
            mark.cuts = "metallic tape";
            mark.tool = "constant-force spring as a guide: tear against it";
        } else if (cable.metallic_screen == "straps") {
            mark.cuts = "flat straps";
        } else if (cable.metallic_screen == "corrugated tape") {
            mark.cuts = "corrugated tape";
            mark.tool = "shallow scoring tool against a clamp: score round, then break at the score";
        } else if (cable.metallic_screen == "lead") {
            mark.cuts = "lead sheath";
            mark.blade_mm = least_wall(thick("metallic screen")) / 2;
            mark.tool = "lead knife or scoring wheel: half through, then peel";
        }
        break;
    case MarkKind::bedding_cut:
        mark.blade_mm = short_of(cable.bedding_thickness_mm, insulation_blade_short_mm);
        break;
    case MarkKind::armour_cut:
        mark.cuts = armour_words(cable);
        if (cable.armour == "round wire") mark.tool = "hacksaw half through each wire, then break";
        break;
    case MarkKind::jacket_cut:
        if (cable.armour != "none") mark.spares = armour_words(cable);
        mark.blade_mm = short_of(cable.jacket_thickness_mm, jacket_blade_short_mm);
        break;
    default:
        break;
    }
}

} // namespace ng
