// A design with its conductor hot.
#pragma once
#include "accessory/family.h"

namespace ng {

/// The section with all of its materials at this temperature, degC: permittivities and conductivities as
/// `built.warming` says, from 20 degC on. That of the conductor for all of them: the outer ones are cooler,
/// and of all of them the inner ones carry the stress. Laws that state their temperature keep it.
Section warmed(const BuiltAccessory& built, double to_C);

} // namespace ng
