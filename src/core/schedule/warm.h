// A design with its conductor hot.
#pragma once
#include "accessory/family.h"

namespace ng {

/// `section`, one of `built`'s, with all of its materials at this temperature, degC: permittivities and
/// conductivities as `built.warming` says, from 20 degC on. That of the conductor for all of them: the outer
/// ones are cooler, and of all of them the inner ones carry the stress. A law that states its own growth with
/// temperature keeps it.
Section warmed(const BuiltAccessory& built, Section section, double to_C);

} // namespace ng
