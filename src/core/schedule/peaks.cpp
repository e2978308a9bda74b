#include "schedule/peaks.h"
#include "units/quantity.h"
#include <algorithm>
#include <fmt/format.h>

namespace ng {

std::vector<BodyPeak> body_peaks(const Solution& solution, double factor) {
    std::vector<BodyPeak> out;
    if (!solution.mesh || !solution.field.layout) return out;
    const auto& mesh = *solution.mesh;
    out.resize(solution.region_names.size());
    for (std::size_t t = 0; t < mesh.region.size(); ++t) {
        auto& body = out[mesh.region[t]];
        for (int i = 0; i < 3; ++i) {
            const Point at = mesh.nodes[mesh.triangles[t][i]];
            const double E =
                factor * solution.field.magnitude(static_cast<std::size_t>(solution.field.layout->of[t][i]));
            if (E <= body.E_kV_per_mm) continue;
            if (corner_that_reaches(solution.corners, at)) continue;
            body.E_kV_per_mm = E;
            body.at = at;
        }
    }
    for (std::size_t k = 0; k < out.size(); ++k) out[k].region = solution.region_names[k];
    std::erase_if(out, [](const auto& body) { return body.E_kV_per_mm <= 0; });
    std::sort(out.begin(), out.end(),
              [](const auto& a, const auto& b) { return a.E_kV_per_mm > b.E_kV_per_mm; });
    return out;
}

std::string end_state_words(const Solution& solution, double factor) {
    const auto largest = [&](EndState::Field EndState::*which) {
        const auto it = std::max_element(solution.end_states.begin(), solution.end_states.end(),
                                         [&](const auto& a, const auto& b) {
                                             return (a.*which).peak_kV_per_mm < (b.*which).peak_kV_per_mm;
                                         });
        const auto& field = (*it).*which;
        return fmt::format("{} +- {} kV/mm ({})", format_figures(factor * field.peak_kV_per_mm, 3),
                           format_figures(factor * field.error_kV_per_mm, 1), it->path);
    };
    return fmt::format(
        "At its end the largest field is {}; just after earthing {}, just after a reversal {}: "
        "stated, not judged. Charges that the test has laid stay for hours: the earth stays on.",
        largest(&EndState::end), largest(&EndState::earthed), largest(&EndState::reversed));
}

} // namespace ng
