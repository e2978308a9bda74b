// Conductivity as a function of field: constant, power, exponential or table, with its slope for Newton
// steps.
//
// Two measures of the field: an AC phasor has a root-mean-square magnitude, an instant has a value. A law
// stated in "rms" means the rms field of a sine, one stated in "peak" its crest (and so the instantaneous
// field). Each is turned into the other by sqrt 2. What that cannot carry over is the wave form: an rms law
// fitted to a nonlinear layer already holds its harmonics, an instantaneous law does not
// (docs/verification.md).
#pragma once
#include "field/monotone.h"
#include "section/section.h"
#include <memory>
#include <vector>

namespace ng {

enum class FieldMeasure { phasor_rms, instantaneous };

/// sigma in S/m and d sigma / d E in S/m per kV/mm.
struct Conductivity {
    double sigma_S_per_m = 0;
    double slope = 0;
};

class ConductionLaw {
  public:
    /// The law must have passed validate().
    explicit ConductionLaw(const Conduction& law, FieldMeasure measure = FieldMeasure::phasor_rms);

    /// `field_kV_per_mm`: magnitude in the measure chosen above. Beyond a table's ends its end values hold;
    /// an exponential law stops growing at exp(60), beyond anything physical.
    Conductivity at(double field_kV_per_mm) const;
    bool depends_on_field() const { return law_.depends_on_field(); }
    /// Largest field that a table covers, in the measure chosen above; infinite for the other laws.
    double known_up_to_kV_per_mm() const;

  private:
    Conduction law_;
    double to_law_ = 1;             ///< law's field per field given
    double factor_ = 1;             ///< temperature
    std::optional<Monotone> table_; ///< ln sigma over E
};

/// The laws of a section's regions: constant conductivities as numbers, field-dependent ones as laws.
class RegionLaws {
  public:
    RegionLaws(const Section& section, FieldMeasure measure);
    std::vector<double>
        constant_S_per_m; ///< per region; 0 without conduction and where it depends on the field
    std::vector<const ConductionLaw*> dependent; ///< per region; null elsewhere
    bool any_dependent() const;

  private:
    std::vector<std::unique_ptr<ConductionLaw>> owned_;
};

} // namespace ng
