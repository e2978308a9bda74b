// Questions that several families put to the solved field, in one wording.
#pragma once
#include "accessory/cable_end.h"
#include <limits>

namespace ng::checks {

/// Nearer to an edge than this its radius sets the figure: the checks of the edge judge that.
constexpr double judged_from_edge_mm = 1.0;
/// Length over which the grading is averaged: about what a discharge along an interface has to bridge
/// (chosen).
constexpr double grading_mean_mm = 3.0;

struct Words {
    std::string because; ///< what it means when it falls short
    std::string cure;
};

/// Of a termination's live end.
inline const Words towards_lug{"the lug and the bared conductor lie too near along the surface",
                               "Lengthen the insulation, or end the stress control further from the lug"};

/// Where the zones of an insulation surface lie; z in the frame of its end.
struct Zones {
    bool edge_is_bare = true; ///< the screen edge stands in a dielectric, and not under a cone
    double filled_to = 0;     ///< where relief mastic, or the step at the edge, ends: the grading begins
    double control_to = 0;    ///< where tube, layer or cone ends
    double live_from = 0;     ///< where live metal or a conductive part over the insulation begins
};
/// Of an end whose grading nothing but its own length ends.
constexpr double no_end_of_control = -std::numeric_limits<double>::infinity();
/// Zones of an end with relief mastic or without, whose stress control reaches to `control_to`.
Zones zones_of(const CableEnd& end, double mastic_mm, double control_to, double live_from);

/// The insulation surface of a cable end, told apart: tangential stress at 0.5 and 1 mm from a bare edge,
/// which hangs little on its radius; the grading beyond mastic or step, as mean over 3 mm and as peak; the
/// live end. Between grading and live end lies the middle between the control's end and live parts, or the
/// pencil.
void add_insulation_surface(std::vector<CheckRequest>& to, const CableEnd& end, const Zones& zones,
                            const Words& grading, const Words& live_end);
/// Tangential stress along another filled interface.
CheckRequest interface_tangential(CheckId id, const std::string& title, const PlaceId& path,
                                  const Words& words);
CheckRequest screen_edge(const CableEnd& end, const Words& words);
/// Peak at rounded electrode edges.
CheckRequest electrode_edge(CheckId id, const std::string& title, std::vector<PlaceId> edges,
                            const Words& words);
/// Magnitude along an electrode's surface, against the same limit as edges.
CheckRequest electrode_surface(CheckId id, const std::string& title, const PlaceId& path, const Words& words);
/// Cable insulation beside its undisturbed conductor stress.
CheckRequest insulation_ratio(const CableEnd& end, double cable_stress_kV_per_mm, const std::string& cure);
/// Outer surface in air: tangential at U0, as a check of this kind, and magnitude at the extinction voltage.
std::vector<CheckRequest> surface_in_air(CheckKind kind, const std::string& part, const PlaceId& path,
                                         const Words& tangential, const std::string& cure_of_extinction);
/// A line through the air that a ring-cut or filed edge leaves under a spanning tube, for `enclosed_air`.
std::vector<Point> air_wedge(const CableEnd& end);
/// Air enclosed under a part, at the extinction voltage.
CheckRequest enclosed_air(CheckId id, const std::string& title, const PlaceId& path, const Words& words);

} // namespace ng::checks
