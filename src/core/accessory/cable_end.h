// A prepared cable end: what the jointer's cuts leave of the cable. In its own frame the cable comes from
// -z; side B of a joint is the mirror image of such an end.
#pragma once
#include "accessory/family.h"
#include "accessory/profile.h"

namespace ng {

/// Over both conductors of a joint, centred.
struct JointConnector {
    double length_mm = 0, diameter_mm = 0, end_radius_mm = 0;
};

/// A pencil does not run out to nothing: the knife leaves this step on the conductor screen (common
/// practice).
constexpr double pencil_end_step_mm = 0.3;

/// Outer radii of the layers, mm.
struct CableRadii {
    double conductor = 0, conductor_screen = 0, insulation = 0, screen = 0, metallic = 0, jacket = 0;
};
CableRadii radii_of(const CableDimensions& dimensions);

/// How the tool leaves the edge of the insulation screen.
struct EdgePreparation {
    std::string kind = "ring"; ///< "ring", "filed" or "chamfered"
    double radius_mm = 0.15;
    double chamfer_mm = 4;
    std::optional<double> screen_S_per_m; ///< a screen that is no ideal conductor
};

struct CableEnd {
    Side side = Side::none;
    CableRadii r;
    double insulation_eps = 2.3;
    std::string insulation_title; ///< such as "XLPE"
    std::string jacket_title = "jacket", screen_title = "insulation screen", edge_title = "screen edge";
    /// z of where the cable is broken off, and of the ends of its layers, mm.
    double far = 0, jacket = 0, metallic = 0, screen = 0, insulation = 0, conductor = 0;
    EdgePreparation edge;
    double pencil_mm = 0;                ///< length of the pencilled insulation, 0: square
    double conductor_screen_left_mm = 0; ///< past the insulation end
    double flush_end_radius_mm =
        0; ///< above 0: all is cut flush, the conductor's edge rounded (arc "conductor end")

    /// After what is said of this end: "", " A", " B".
    std::string tag() const { return tag_of(side); }
    /// Refuses cuts out of order and preparations that do not fit; items carry the tag.
    Result<void> check() const;
    /// Refuses, as `item`, an insulation end that all but touches metal which begins at `metal_z`.
    Result<void> stands_off(double metal_z, const std::string& item) const;
    /// z of the contact line of the screen's edge with the insulation (profile.h: truncated cusp).
    double contact_z() const;
    Outline screen_outline() const;
    /// The screen's rounded edges.
    std::vector<PlaceId> edges() const;
    /// Insulation with its end, from radius `inner_mm`.
    Outline insulation_outline(double inner_mm) const;
    Outline conductor_outline() const;
    /// Outer profile, from `far` to the conductor's end. Rounded edges are cut by their chord: what is laid
    /// over them then meets the arc at an angle, never in a cusp.
    Profile profile() const;
    /// Points along the insulation surface from the contact line to its end.
    std::vector<Point> insulation_surface() const;
};

/// Mirror image at z = 0.
Point mirrored(Point p);
Outline mirrored(const Outline& outline);

/// A conductive layer between two profiles of one z range, with rounded ends: the outer corner by
/// `outer_radius_mm`, the inner one by `inner_radius_mm` down to the contact with what lies beneath. A radius
/// of 0 leaves that end square. Arcs carry the names of the outer and inner part of `place`.
struct BandEnd {
    double outer_radius_mm = 0;
    double inner_radius_mm = 0;
    PlaceId place = {};
};
/// The rounded edges of such ends: inner and outer of each.
std::vector<PlaceId> edges_of(const std::vector<BandEnd>& ends);
Outline band_outline(const Profile& inner, const Profile& outer, const BandEnd& start, const BandEnd& end);
/// The outer profile of such a layer, each rounded corner cut by this many chords.
Profile rounded_course(const Profile& outer, double start_radius_mm, double end_radius_mm, int chords = 1);

} // namespace ng
