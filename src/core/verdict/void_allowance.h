// Void allowance: the largest air gap that would stay quiet at each point of an interface.
#pragma once
#include "field/solution.h"

namespace ng {

struct VoidAllowance {
    double relative_density = 1; ///< of the air in the gap (closedform::relative_air_density)
    double voltage_factor =
        1; ///< required extinction voltage over the solution's voltage; linear solutions only
};

/// Relative density of the air in a gap: the thinner of air at the ambient temperature (a gap that is open to
/// it) and at 20 degC (one that was shut in on the site), for which of the two a gap is nobody says.
double gap_air_density(double ambient_C, double altitude_m);

/// Peak field, kV/mm, in a thin flat gap at this sample along its path: the field across it grows by the
/// permittivity of the side, the field along it does not. Of AC solutions sqrt 2 times the rms; of others the
/// value.
double gap_field_kV_per_mm(const Solution& solution, const PathResult& path, const PathSample& sample,
                           double voltage_factor);

/// mm per sample; infinite where no gap could discharge. Not for nonlinear solutions scaled to another
/// voltage: solve those at that voltage and leave the factor at 1.
std::vector<double> void_allowances_mm(const Solution& solution, const PathResult& path,
                                       const VoidAllowance& how);

} // namespace ng
