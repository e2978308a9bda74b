// Fit of kit to cable: each part against what it goes on, with the uncertainty of the diameters.
#pragma once
#include "closedform/tape.h"
#include "fit/kit.h"
#include "verdict/verdict.h"

namespace ng {

struct FitCheck {
    std::string part;
    std::string title;
    double value = 0, uncertainty = 0; ///< of what the part goes on
    double lowest = 0, highest = 0;    ///< its range; a highest of 0: none
    std::string unit = "mm";
    Status status = Status::not_judged;
    std::string why;
    std::string cure;
    std::string suggestion; ///< size of the kit table that fits, or that none does
};

struct Quantity {
    std::string part;
    double volume_cm3 = 0;
    std::optional<TapeQuantity> tape; ///< of tapes
};

struct FitReport {
    Status status = Status::holds;
    std::vector<FitCheck> checks;
    std::vector<Quantity> quantities;
    std::vector<std::string> notes; ///< such as the estimated interface pressure
    struct Pressure {
        std::string part;
        double kPa = 0; ///< when fresh, on what it lies on first
    };
    std::vector<Pressure> pressures; ///< of rubber bodies
};

struct FitContext {
    const DesignContext& design;
    const BuiltAccessory& built;
    const LimitTable& limits;
    const std::vector<KitSize>& kits;
    const std::vector<Connector>& connectors;
    Tape tape;
};

FitReport check_fit(const FitContext& context);

/// Holds, falls short, or marginal where the uncertainty crosses an end of the range.
Status within_range(double value, double uncertainty, double lowest, double highest);

/// The size of a kit table for this part whose range is furthest from its ends for all that it lies on.
const KitSize* best_size(const std::vector<KitSize>& kits, const FitItem& item, double uncertainty_mm,
                         const LimitTable& limits);

/// Connectors of this use for a conductor, those that fit first.
std::vector<const Connector*> connectors_for(const std::vector<Connector>& all, const std::string& use,
                                             const Cable& cable, const CableDimensions& dimensions);
/// What this connector sets in the design.
void take_connector(Design& design, const ConnectorRole& role, const Connector& connector);

/// Pressure of a stretched rubber tube on its core, kPa: neo-Hookean, incompressible, length kept (finite
/// elasticity, e.g. Ogden, Non-linear Elastic Deformations): p = G [ln(la/lb) + (1/lb^2 - 1/la^2)/2] with the
/// hoop stretches la inside and lb outside.
double interface_pressure_kPa(const closedform::ShrinkTube& relaxed, double core_diameter_mm,
                              double shear_modulus_MPa);

} // namespace ng
