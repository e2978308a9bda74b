// A conductive film on the leakage surface, from an earthed band upwards: rain over all of it (the wet test),
// or dirt on some of it.
#pragma once
#include "accessory/family.h"

namespace ng {

constexpr double wet_film_thickness_mm = 0.4; ///< drawn; only its surface resistance matters
constexpr double water_eps_r = 80;

/// What is wet of a leakage surface: its line from the earthed end, and the film's air side beside it.
struct WetFilm {
    std::vector<Point> inner, outer;
    Outline outline() const;
};
/// Over this length of the surface from its earthed end. Refuses as `item` an accessory without a leakage
/// surface, one whose surface is too creased for a film, and a length that leaves nothing of it dry.
Result<WetFilm> wet_film(const BuiltAccessory& built, const std::string& item,
                         double length_mm = std::numeric_limits<double>::infinity());
/// The material of a film that conducts: its surface resistance, ohm per square, over its thickness.
SectionMaterial film_material(double ohm_per_square, double thickness_mm, double eps_r,
                              const std::string& title, const std::string& provenance);
/// The earthed band that the film drains to, below its lower end.
Electrode earthed_band(const WetFilm& film);

/// The section with a film of this surface resistance, ohm per square; the path "wet film" runs along its air
/// side. Analysis complex, or nonlinear where a layer depends on the field. Refuses an accessory without a
/// leakage surface and one whose surface is too creased for a film.
Result<Section> with_wet_film(const BuiltAccessory& built, double ohm_per_square);

} // namespace ng
