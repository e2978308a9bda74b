// How the field behaves where two dielectrics meet on smooth metal.
#pragma once

namespace ng {

/// Order k of the potential, r^k, where two dielectrics meet on smooth metal: the smallest root of
/// eps cot(k a) + eps_other cot(k (pi - a)) = 0, `eps` filling the angle `a` (0 < a < pi) and the other the
/// rest (any textbook on corner singularities). Below 1 the field grows as r^(k - 1) without a limit; above 1
/// it vanishes.
double triple_point_order(double eps_r, double other_eps_r, double angle_rad);

} // namespace ng
