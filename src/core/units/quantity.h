// Quantities as people type and read them. Inside the core lengths are mm and voltages kV; this is the only
// place where text becomes a number with a unit, and the reverse.
#pragma once
#include "units/result.h"
#include <string>
#include <string_view>

namespace ng {

enum class LengthUnit { mm, inch };

/// In what field strength is shown; inside the program it is kV/mm.
enum class StressUnit { kV_per_mm, V_per_mil, kV_per_inch };

constexpr double mm_per_inch = 25.4;                // exact, international inch
constexpr double mm2_per_kcmil = 0.506707479097498; // pi/4 (0.0254 mm)^2 x 1000
constexpr double eps0_F_per_m = 8.8541878128e-12;   // CODATA 2018

/// Decimals may be typed with a point or a comma; a comma that could also part thousands ("1,234") is
/// refused. Length in mm from text such as "12.5", "0.175 in", "4.45mm", "175 mil", "2 1/8 in", "1.2 cm". A
/// bare number is taken in `bare_unit`. Refuses anything else, NaN, infinity and absurd sizes (over 100 m).
Result<double> parse_length_mm(std::string_view text, LengthUnit bare_unit, std::string_view item = "length");

/// Voltage in kV from "15", "15 kV", "8700 V".
Result<double> parse_voltage_kV(std::string_view text, std::string_view item = "voltage");

/// A pure number; `suffix` (such as "Hz") is allowed behind it.
Result<double> parse_number(std::string_view text, std::string_view suffix, std::string_view item = "value");

/// Length for reading: 2 decimals in mm below 100 mm (1 above), 3 decimals in inches; with its unit.
std::string format_length(double length_mm, LengthUnit unit, bool with_unit = true);
/// In millimetres, as messages write lengths.
inline std::string in_mm(double value_mm) {
    return format_length(value_mm, LengthUnit::mm);
}

/// To one decimal; never "-0.0".
std::string one_decimal(double value);

/// From kV/mm: 25.4 for both others (1 kV/mm = 1000 V in 1/0.0254 mil; 25.4 mm in an inch).
double stress_factor(StressUnit unit);
/// The same of a value in this unit; 1 where that is no field strength.
double stress_factor(const std::string& unit, StressUnit shown);
/// "kV/mm rms" in that unit: "V/mil rms"; a unit that is no field strength as it is.
std::string in_stress_unit(const std::string& unit, StressUnit shown);

/// The same of each figure of a sentence that stands before "kV/mm", with as many figures as it had.
std::string words_in_stress_unit(const std::string& words, StressUnit shown);
/// A field strength as typed, kV/mm; a bare number is in `bare_unit`, each of the three may stand behind it.
Result<double> parse_stress_kV_per_mm(std::string_view text, StressUnit bare_unit,
                                      std::string_view item = "stress");

/// `value` with no more digits than `relative_error` supports (3 significant figures below 1 %, else 2).
std::string format_supported(double value, double relative_error);

/// `value` to `figures` significant figures, without exponent for ordinary sizes.
std::string format_figures(double value, int figures);

} // namespace ng
