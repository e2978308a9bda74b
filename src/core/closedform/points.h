// Metal points and ridges on a plane, across an even field: how much stronger the field is at their tips.
#pragma once

namespace ng::closedform {

/// Field at the tip of half a prolate spheroid on a plane over the field far from it: 1 / N with the
/// depolarisation N of an axis ratio a (height over half width) (Stratton, Electromagnetic Theory, from
/// memory); 3 at a = 1, 9.2 at a = 3. `slender` from 1.
double hemispheroid_factor(double slender);

/// Of half an elliptic cylinder, a ridge: 1 + a (any textbook of conformal mapping); 2 at a = 1, 4 at a = 3.
double ridge_factor(double slender);

/// By how much a point is worse than the ridge of the same shape: 1.5 at a = 1, 2.3 at a = 3.
double point_over_ridge(double slender);

} // namespace ng::closedform
