// The wet test: a conductive film on the leakage surface, from an earthed band to the live end.
#pragma once
#include "accessory/family.h"

namespace ng {

constexpr double wet_film_thickness_mm = 0.4; ///< drawn; only its surface resistance matters
constexpr double water_eps_r = 80;

/// The section with a film of this surface resistance, ohm per square; the path "wet film" runs along its air
/// side. Analysis complex, or nonlinear where a layer depends on the field. Refuses an accessory without a
/// leakage surface and one whose surface is too creased for a film.
Result<Section> with_wet_film(const BuiltAccessory& built, double ohm_per_square);

} // namespace ng
