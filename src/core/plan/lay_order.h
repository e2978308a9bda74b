// What lies beneath what, read from the section itself: whatever is covered must be laid before what covers
// it.
#pragma once
#include "accessory/family.h"

namespace ng {

/// Of every part that hands lay, those that lie beneath it at some place along the cable. Layers of the
/// cable, and parts that lie over one another both ways, are left out.
std::map<PlaceId, std::set<PlaceId>> beneath(const BuiltAccessory& built);

} // namespace ng
