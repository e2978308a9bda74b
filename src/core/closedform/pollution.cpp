#include "closedform/pollution.h"
#include <cmath>
#include <numbers>

namespace ng::closedform {

double film_resistance_ohm(const std::vector<Point>& surface, double ohm_per_square) {
    double form = 0;
    for (std::size_t i = 1; i < surface.size(); ++i) {
        const Point a = surface[i - 1], b = surface[i];
        const double length = distance(a, b), change = b.r - a.r;
        if (!(length > 0)) continue;
        // ds / r along a straight piece of a cone is integrated in closed form.
        form += std::abs(change) > 1e-9 * a.r ? length / change * std::log(b.r / a.r) : length / a.r;
    }
    return ohm_per_square * form / (2 * std::numbers::pi);
}

double polluted_flashover_kV_peak(double length_mm, double film_ohm) {
    if (!(length_mm > 0) || !(film_ohm > 0)) return 0;
    const double length_cm = 0.1 * length_mm;
    return 1e-3 * 23 * std::pow(film_ohm / length_cm, 0.40) * length_cm;
}

double dry_band_arc_V_per_cm(double peak_A) {
    return 63 * std::pow(peak_A, -0.76);
}

} // namespace ng::closedform
