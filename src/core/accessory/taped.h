// Tape work that taped joints and splices share.
#pragma once
#include "accessory/lay_up.h"
#include "accessory/parameters.h"

namespace ng {

/// Semiconductive tape over the connector and up to the insulation ends: an electrode at line voltage.
Result<void> tape_connector(LayUp& lay, const CableEnd& a, const CableEnd& b, double thickness_mm);

/// Course of an insulating build-up between two cable ends: from `stop_mm` past each screen edge, cones of
/// `cone_mm`, to a cylinder of `diameter_mm`. Refuses cones that meet or a build-up lower than the
/// insulation.
Result<Profile> build_up_course(const CableEnd& a, const CableEnd& b, double stop_mm, double cone_mm,
                                double diameter_mm, double covers_half_mm);

} // namespace ng
