// Tape and mastic arithmetic: passes, metres and rolls of a build-up.
#pragma once
#include "geometry/point.h"
#include "units/result.h"
#include <array>
#include <map>
#include <span>
#include <string>
#include <vector>

namespace ng {

/// A tape as supplied and as it is pulled.
struct Tape {
    double width_mm = 19;
    double thickness_mm = 0.76;
    double roll_mm = 9000;
    double stretch = 2;   ///< length over supplied length; 1: not stretched
    double overlap = 0.5; ///< share of the width; half-lapped 0.5

    /// Constant volume: width and thickness each fall by 1 / sqrt(stretch).
    double laid_thickness_mm() const;
    double laid_width_mm() const;
    /// What one pass adds to the radius: at half lap two thicknesses lie everywhere.
    double pass_mm() const { return laid_thickness_mm() / (1 - overlap); }
};

/// A figure of the tape at hand that a design may set, in the design's numbers: of every family.
struct TapeFigure {
    const char *key, *label, *help;
    double Tape::*figure;
    double lowest, highest;
    bool is_length; ///< in mm; otherwise a ratio
};
constexpr std::array<TapeFigure, 4> tape_figures{
    {{"tape_width_mm", "Tape width", "As supplied", &Tape::width_mm, 5, 200, true},
     {"tape_thickness_mm", "Tape thickness", "As supplied", &Tape::thickness_mm, 0.05, 5, true},
     {"tape_roll_mm", "Roll length", "As supplied", &Tape::roll_mm, 500, 100000, true},
     {"tape_stretch", "Stretch", "Laid length over supplied length; 2 is double", &Tape::stretch, 1, 4,
      false}}};
/// The usual tape with what these numbers set; refuses a figure out of range.
Result<Tape> tape_of(const std::map<std::string, double>& numbers);

struct TapeQuantity {
    double volume_mm3 = 0;
    int passes = 0;         ///< at the highest place
    double supplied_mm = 0; ///< length of tape as supplied
    int rolls = 0;
    double laid_diameter_mm = 0; ///< after that many whole passes, at the highest place
};

/// Volume of the body of revolution between two profiles of one z range (rising z), mm^3.
double volume_between_mm3(std::span<const Point> inner, std::span<const Point> outer);

/// Tape that fills the build-up between these profiles.
TapeQuantity tape_quantity(std::span<const Point> inner, std::span<const Point> outer, const Tape& tape);
/// Tape from one diameter to another over a length.
TapeQuantity tape_quantity(double from_diameter_mm, double to_diameter_mm, double length_mm,
                           const Tape& tape);

/// How far each pass stops short of the one beneath, for an end cone of this length.
double cone_step_mm(double cone_length_mm, int passes);

} // namespace ng
