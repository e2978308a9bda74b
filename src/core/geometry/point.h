// Places in a half plane or plane.
#pragma once
#include <cmath>
#include <tuple>

namespace ng {

/// Place in the section, mm: (r, z) axisymmetric, (x, y) planar.
struct Point {
    double r = 0;
    double z = 0;
    friend bool operator==(const Point&, const Point&) = default;
    auto fields() const { return std::tie(r, z); }
};

inline Point operator+(Point a, Point b) {
    return {a.r + b.r, a.z + b.z};
}
inline Point operator-(Point a, Point b) {
    return {a.r - b.r, a.z - b.z};
}
inline Point operator*(double k, Point a) {
    return {k * a.r, k * a.z};
}
inline double dot(Point a, Point b) {
    return a.r * b.r + a.z * b.z;
}
inline double cross(Point a, Point b) {
    return a.r * b.z - a.z * b.r;
}
inline double length(Point a) {
    return std::sqrt(dot(a, a));
}
inline double distance(Point a, Point b) {
    return length(a - b);
}

} // namespace ng
