// All voltages of a section at once.
#pragma once
#include "section/section.h"

namespace ng {

/// Electrodes and boundaries alike, times `factor`.
inline void scale_voltages(Section& section, double factor) {
    for (auto& electrode : section.electrodes) electrode.voltage_kV *= factor;
    for (auto& boundary : section.boundaries) boundary.voltage_kV *= factor;
}

} // namespace ng
