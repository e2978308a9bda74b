// Questions that several families put to the solved field, in one wording.
#pragma once
#include "accessory/cable_end.h"

namespace ng::checks {

/// Nearer to an edge than this its radius sets the figure: the edge check judges that.
constexpr double judged_from_edge_mm = 1.0;

struct Words {
    std::string because; ///< what it means when it falls short
    std::string cure;
};

/// "screen_edge", "screen_edge_a" and "screen_edge_b": stable ids of the two sides of a joint.
std::string with_side(const std::string& id, Side side);

/// Tangential stress along the insulation surface of a cable end, from 1 mm past the screen edge.
CheckRequest insulation_tangential(const CableEnd& end, const Words& words);
/// Tangential stress along another filled interface.
CheckRequest interface_tangential(const std::string& id, const std::string& title, const PlaceId& path,
                                  const Words& words);
CheckRequest screen_edge(const CableEnd& end, const Words& words);
/// Peak at rounded electrode edges.
CheckRequest electrode_edge(const std::string& id, const std::string& title, std::vector<PlaceId> edges,
                            const Words& words);
/// Magnitude along an electrode's surface, against the same limit as edges.
CheckRequest electrode_surface(const std::string& id, const std::string& title, const PlaceId& path,
                               const Words& words);
/// Cable insulation beside its undisturbed conductor stress.
CheckRequest insulation_ratio(const CableEnd& end, double cable_stress_kV_per_mm, const std::string& cure);
/// Outer surface in air: tangential at U0, and magnitude at the extinction voltage.
std::vector<CheckRequest> surface_in_air(const std::string& part, const PlaceId& path,
                                         const Words& tangential, const std::string& cure_of_extinction);
/// A line through the air that a ring-cut or filed edge leaves under a spanning tube, for `enclosed_air`.
std::vector<Point> air_wedge(const CableEnd& end);
/// Air enclosed under a part, at the extinction voltage.
CheckRequest enclosed_air(const std::string& id, const std::string& title, const PlaceId& path,
                          const Words& words);

} // namespace ng::checks
