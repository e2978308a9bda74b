#include "closedform/points.h"
#include <cmath>

namespace ng::closedform {

double hemispheroid_factor(double a) {
    if (a < 1 + 1e-6) return 3;
    const double e = std::sqrt(1 - 1 / (a * a)); // eccentricity
    const double N = (1 - e * e) / (e * e * e) * (std::atanh(e) - e);
    return 1 / N;
}

double ridge_factor(double a) {
    return 1 + a;
}

double point_over_ridge(double a) {
    return hemispheroid_factor(a) / ridge_factor(a);
}

} // namespace ng::closedform
