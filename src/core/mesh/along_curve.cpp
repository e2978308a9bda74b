#include "mesh/along_curve.h"
#include <CGAL/Hilbert_sort_median_2.h>
#include <CGAL/Simple_cartesian.h>
#include <CGAL/Spatial_sort_traits_adapter_2.h>
#include <CGAL/property_map.h>
#include <numeric>

namespace ng {

std::vector<int> along_curve(const std::vector<Point>& places) {
    using Kernel = CGAL::Simple_cartesian<double>;
    using Traits =
        CGAL::Spatial_sort_traits_adapter_2<Kernel, CGAL::Pointer_property_map<Kernel::Point_2>::type>;
    constexpr int few = 4; // in any order
    std::vector<Kernel::Point_2> points;
    points.reserve(places.size());
    for (const auto& p : places) points.emplace_back(p.r, p.z);
    std::vector<int> order(places.size());
    std::iota(order.begin(), order.end(), 0);
    const CGAL::Hilbert_sort_median_2<Traits, CGAL::Sequential_tag> sort(
        Traits(CGAL::make_property_map(points)), few);
    sort(order.begin(), order.end());
    return order;
}

} // namespace ng
