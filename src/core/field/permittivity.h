// Permittivity of a section's materials at the frequency that an analysis stands for.
#pragma once
#include "section/section.h"
#include <vector>

namespace ng {

/// The frequency whose permittivity an analysis takes: its own of AC; of an impulse that of a sine as steep
/// as its front, 1 / (pi front) (from memory; the bandwidth 0.35 / rise time of the textbooks with the rise
/// from 10 to 90 % taken as the front); of DC 0, where a table's lowest row holds.
double equivalent_frequency_hz(const Section& section);

/// Relative permittivity at a frequency: eps_r, or eps_r_by_frequency interpolated over log f, monotone
/// between the rows (Steffen, Astron. Astrophys. 239, 1990, by GSL); beyond the ends the end values hold. The
/// material must have passed validate().
double eps_r_at(const SectionMaterial& material, double frequency_hz);

/// Of each region, at equivalent_frequency_hz().
std::vector<double> permittivities(const Section& section);

} // namespace ng
