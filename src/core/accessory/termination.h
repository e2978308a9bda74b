// What all terminations share: the cable end with its lug, sheds, the air round them, marks.
// z = 0 at the screen edge, z rises towards the lug. Positions are distances from the cable end, the datum.
#pragma once
#include "accessory/checks.h"
#include "accessory/lay_up.h"
#include "accessory/parameters.h"

namespace ng {

/// Parameters "sheds", "shed_diameter_mm", "first_shed_mm", "shed_spacing_mm".
void add_shed_parameters(ParameterList& list, const std::string& first_shed_after, double by_mm);

class Termination {
  public:
    explicit Termination(const DesignContext& context);

    LayUp lay;
    ParameterValues value;
    CableEnd end;
    double z_barrel = 0, barrel_radius = 0, z_top = 0;

    double z_of(double from_cable_end_mm) const { return edge_at_ - from_cable_end_mm; }
    double from_cable_end(double z) const { return edge_at_ - z; }

    /// Checks cuts and lug, and lays cable and lug. `lower_end_mm` is where the outermost part ends.
    Result<void> begin(double lower_end_mm);
    /// Sealant between insulation and lug, and by "edge_fill" the mastic over the screen edge; the material
    /// that fills what is left of the step under a rubber body ("air" or "grease").
    std::string fill_step();
    /// Sheds on the outermost body, whose profile is `body`; its surface with them.
    Result<Profile> sheds(const Profile& body, const std::string& material, bool moulded);
    /// Air round `surface` out to the nearby earth, and the path `along` it.
    Result<void> surround(const std::vector<Point>& surface, const PlaceId& along);
    /// Of the insulation surface, by the mastic that "edge_fill" or "relief_mastic" puts there.
    checks::Zones zones(double control_to) const;
    BuiltAccessory finish(const std::vector<Point>& surface);

  private:
    double edge_at_ = 0;
    double body_radius_ = 0; ///< greatest, without sheds
};

} // namespace ng
