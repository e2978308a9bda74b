// Closed profiles from a drawing (DXF by dxflib): lines, arcs, circles, polylines with bulges, ellipses and
// splines. Arcs stay arcs; ellipses and splines become chords within `flattened_within_mm`.
//
// Not good for: profiles drawn as hatches, blocks that are not exploded, three-dimensional models.
#pragma once
#include "geometry/outline.h"
#include <filesystem>

namespace ng {

/// Ends nearer than this are one point; curves other than arcs are divided to this.
constexpr double joined_within_mm = 0.01, flattened_within_mm = 0.01;
/// No profile is smaller or larger: the unit would be wrong.
constexpr double smallest_profile_mm = 0.5, largest_profile_mm = 3000;

struct DxfReadOptions {
    std::optional<double> mm_per_unit;       ///< of drawings that do not say their unit
    std::vector<std::string> layers;         ///< of which profiles are wanted; empty: all
    enum class Axis { x, y } axis = Axis::x; ///< of the drawing, on which the cable's axis lies
};

/// A profile in the half plane: the drawing's axis as z, the distance from it as r, mm.
struct DrawnProfile {
    std::string layer;
    Outline outline;
    std::string begins; ///< the entity that it begins with, in words: "LINE 2F"
};

struct DxfProfiles {
    double mm_per_unit = 1;
    bool unit_was_read = false;
    std::vector<std::string> layers; ///< all that hold lines, in the drawing's order
    std::vector<DrawnProfile> profiles;
};

/// Refuses by entity: open and branching profiles, profiles that cross themselves or lie beyond the axis,
/// splines without control points, blocks, sizes that no accessory has; and drawings without a unit where
/// none is given, or with another than is given.
Result<DxfProfiles> read_dxf_profiles(const std::filesystem::path& path, const DxfReadOptions& options);
/// The same from the text of a file; `file` is what refusals call it.
Result<DxfProfiles> read_dxf_text(const std::string& text, const std::string& file,
                                  const DxfReadOptions& options);

} // namespace ng
