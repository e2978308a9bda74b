// Lengths as hands measure them: halves of a millimetre and sixteenths of an inch, what the tolerances of
// marks (1 mm and more) allow; below 10 mm, where a tool is set to it, in decimals.
#pragma once
#include "units/quantity.h"

namespace ng {

/// "7 7/16 in", to the nearest sixteenth.
std::string inch_fraction(double value_mm);
/// "189.5 mm" or "7 7/16 in".
std::string hand_length(double value_mm, LengthUnit unit);
/// "189.5 mm / 7 7/16 in".
std::string both_units(double value_mm);
/// The nearest length that hands measure in this unit: below 10 mm tenths of a millimetre or 1/200 in.
double hand_snapped(double value_mm, LengthUnit unit);

} // namespace ng
