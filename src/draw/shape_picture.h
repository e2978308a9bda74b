// Profiles of shape aids as SVG drawings at full size.
#pragma once
#include "shape/aids.h"

namespace ng::draw {

/// Smooth curve, straight lines, axis and a 50 mm scale bar, 1:1 in millimetres.
Result<void> write_profile_svg(const ShapeProfile& profile, const std::string& title,
                               const std::string& path);

} // namespace ng::draw
