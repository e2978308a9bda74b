// What a test asks of the air round an accessory: distances between live and earthed ends, films of rain and
// pollution, clearances as installed. Measured and worked out; no field is solved.
#pragma once
#include "schedule/schedule.h"

namespace ng {

/// Voltage of a test over the distance in air, against the limit `rule` ("flashover.minutes"). Nothing where
/// the accessory has no surface in air or the rule is not in the table.
std::optional<Check> flashover_check(const PreparedDesign& prepared, const TestResult& test,
                                     const std::string& rule);
/// The distance in air against the clearance for an impulse.
std::optional<Check> arc_distance_check(const PreparedDesign& prepared, const TestResult& test);

/// Creepage and sheds; outdoors the flashover of the polluted surface at the highest continuous voltage;
/// clearances between phases and to earth where they were typed in.
void judge_air(const PreparedDesign& prepared, double highest_line_kV, TestResult& test);

/// The flashover of the surface under a film of this resistance, at this voltage to earth, kV rms; `film`:
/// what it is, in words. Nothing where the accessory has no surface in air.
std::optional<Check> film_flashover_check(const PreparedDesign& prepared, const TestResult& test,
                                          double voltage_kV, double ohm_per_square, const std::string& film);

/// What a film of this resistance does at the voltage of the test: current, sparks over a dry band, the
/// voltage at which it flashes over. Said, not judged.
std::vector<std::string> film_words(const PreparedDesign& prepared, const TestResult& test,
                                    double ohm_per_square);

} // namespace ng
