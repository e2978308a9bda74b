// Limits for the duration of a test, by the material that ages.
#pragma once
#include "design/prepared.h"

namespace ng {

/// The limit `id` of this request for a test of this duration, s, with the exponents of the materials in
/// which it is read, on a hot cable by its share there; none: the table has none.
std::optional<Limit> limit_for(const PreparedDesign& prepared, const std::string& id,
                               const CheckRequest& request, double duration_s, bool hot = false);

} // namespace ng
