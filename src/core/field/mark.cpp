#include "field/mark.h"
#include "field/tuning.h"
#include "units/promise.h"
#include <algorithm>
#include <numeric>

namespace ng {

Marks mark(const std::vector<double>& indicator, const std::vector<double>& forced, double share,
           double enough_left, double most) {
    promise(indicator.size() == forced.size(), "one indicator and one forced factor for each triangle");
    promise(share > 0 && share <= 1 && most > 0 && most <= 1, "shares lie between 0 and 1");
    std::vector<std::size_t> order(indicator.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(), [&](auto a, auto b) { return indicator[a] > indicator[b]; });
    const double total = std::accumulate(indicator.begin(), indicator.end(), 0.0);
    Marks out{forced, 0};
    const auto by_force = std::count_if(forced.begin(), forced.end(), [](double f) { return f < 1; });
    auto room = static_cast<std::ptrdiff_t>(most * static_cast<double>(indicator.size())) - by_force;
    double sum = 0;
    for (const auto t : order) {
        if (sum >= share * total || total - sum <= enough_left || room-- <= 0) break;
        sum += indicator[t];
        out.factor[t] = std::min(out.factor[t], tuning::halved);
    }
    for (std::size_t t = 0; t < indicator.size(); ++t)
        if (!(out.factor[t] < 1)) out.left_over += indicator[t];
    return out;
}

} // namespace ng
