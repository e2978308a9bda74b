// Shape aids: what the closed forms propose for a design. Each answer names the formula, can be drawn on the
// section, and says which parameters take it over.
#pragma once
#include "accessory/cable_end.h"
#include "design/prepared.h"

namespace ng {

/// Stresses to design for, kV/mm rms at U0.
struct AidLimits {
    double cone_axial = 0.25;     ///< along the axis, on the surface of a cone
    double cone_tangential = 0.3; ///< along the interface under a cone
    double pencil_tangential = 0.3;
    double graded_tangential = 0.5;
    double electrode_peak = 2.5;
};

/// A profile along the axis: x from its start as z, radius as r.
struct ShapeProfile {
    std::vector<Point> smooth;
    std::vector<Point>
        straight; ///< few straight lines within `straight_tolerance_mm`, to be taped or machined
};
constexpr double straight_tolerance_mm = 0.25;

/// Cone of constant stress on its surface, from the insulation to `top_radius_mm` (closedform:
/// cone_axial_mm).
ShapeProfile cone_of_axial_stress(double voltage_kV, double axial_kV_per_mm, const CableRadii& cable,
                                  double top_radius_mm);
/// Cone of constant stress on the interface (closedform: cone_radius_mm).
ShapeProfile cone_of_tangential_stress(double voltage_kV, double tangential_kV_per_mm,
                                       const CableRadii& cable, double insulation_eps_r, double body_eps_r,
                                       double top_radius_mm);
/// Pencil under an outer screen (closedform: pencil_mm), from the conductor screen to the insulation.
ShapeProfile pencil_of_tangential_stress(double voltage_kV, double tangential_kV_per_mm,
                                         const CableRadii& cable, double outer_screen_radius_mm);

/// Edge radius that gives this peak for a rounded edge this far from an earthed plane: cylinder beside a
/// plane, E = U sqrt((h + r) / (h - r)) / (r acosh(h / r)), h = r + gap (image charges, any textbook). None
/// where even a very large radius does not reach it.
std::optional<double> edge_radius_for_peak_mm(double voltage_kV, double gap_mm, double peak_kV_per_mm);

struct GradedSizing {
    double permittivity_times_wall_mm = 0; ///< needed eps_r x wall, long layer
    double useful_length_mm = 0;           ///< beyond it more length buys nothing: tanh(3) = 0.995
    /// Rows of length, tangential stress at the edge, and share of the voltage left at the layer's end.
    struct Row {
        double length_mm, tangential_kV_per_mm, left_share;
    };
    std::vector<Row> rows;
};
GradedSizing size_graded_layer(double voltage_kV, double tangential_kV_per_mm, const CableRadii& cable,
                               double insulation_eps_r);

struct Aid {
    std::string id;
    std::string title;
    std::string answer;
    std::string formula;
    std::map<std::string, double>
        numbers; ///< parameters that take it over; empty: nothing in this family does
    std::map<std::string, std::string> choices;
    ShapeProfile profile;     ///< may be empty
    std::vector<Point> drawn; ///< the same in the coordinates of the section
};

/// The aids that make sense for a design.
std::vector<Aid> shape_aids(const PreparedDesign& prepared, const AidLimits& limits);
void take_over(Design& design, const Aid& aid);

/// x and radius, both curves, RFC 4180.
std::string profile_csv(const ShapeProfile& profile);
/// Both curves as polylines of a DXF drawing, mm, x along X and radius along Y.
Result<void> write_profile_dxf(const ShapeProfile& profile, const std::filesystem::path& path);

} // namespace ng
