// What a question asks of a path's samples: for the verdict, and for what says which changes are worth
// solving.
#pragma once
#include "accessory/family.h"
#include "field/solution.h"
#include <algorithm>
#include <cmath>

namespace ng {

/// kV/mm.
inline double quantity_asked(const CheckRequest& request, const PathSample& sample) {
    return request.quantity == CheckRequest::Quantity::tangential ? std::abs(sample.E_t_kV_per_mm)
                                                                  : sample.E_kV_per_mm;
}

/// Whether the sample lies on a stretch that the question leaves out.
inline bool is_left_out(const CheckRequest& request, const PathSample& sample) {
    return std::any_of(request.leave_out.begin(), request.leave_out.end(), [&](const auto& stretch) {
        return sample.s_mm >= stretch.first && sample.s_mm <= stretch.second;
    });
}

} // namespace ng
