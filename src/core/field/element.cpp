#include "field/element.h"
#include <numbers>

namespace ng {

std::array<double, 6> shape_values(Reference x) {
    const double a = x.a, b = x.b, c = 1 - a - b;
    return {c * (2 * c - 1), a * (2 * a - 1), b * (2 * b - 1), 4 * c * a, 4 * a * b, 4 * b * c};
}

std::array<std::array<double, 2>, 6> shape_gradients(Reference x) {
    const double a = x.a, b = x.b, c = 1 - a - b;
    return {{{1 - 4 * c, 1 - 4 * c},
             {4 * a - 1, 0},
             {0, 4 * b - 1},
             {4 * (c - a), -4 * a},
             {4 * b, 4 * a},
             {-4 * b, 4 * (c - b)}}};
}

Point map_to_section(const Mesh& mesh, int triangle, Reference x) {
    const auto& t = mesh.triangles[triangle];
    const auto n = shape_values(x);
    Point p;
    for (std::size_t i = 0; i < 6; ++i) p = p + n[i] * mesh.nodes[t[i]];
    return p;
}

Reference map_to_reference(const Mesh& mesh, int triangle, Point p) {
    const auto& t = mesh.triangles[triangle];
    const Point o = mesh.nodes[t[0]];
    const Point u = mesh.nodes[t[1]] - o, v = mesh.nodes[t[2]] - o;
    const double area = cross(u, v);
    Reference x{cross(p - o, v) / area, cross(u, p - o) / area};
    if (!mesh.curved[triangle]) return x;
    for (int iteration = 0; iteration < 5;
         ++iteration) { // converges in two or three: the elements are nearly straight
        const Point miss = p - map_to_section(mesh, triangle, x);
        const auto g = shape_gradients(x);
        Point da, db;
        for (std::size_t i = 0; i < 6; ++i) {
            const Point node = mesh.nodes[t[i]];
            da = da + g[i][0] * node;
            db = db + g[i][1] * node;
        }
        const double determinant = cross(da, db);
        if (determinant == 0) break;
        x.a += cross(miss, db) / determinant;
        x.b += cross(da, miss) / determinant;
    }
    return x;
}

std::span<const QuadraturePoint> quadrature() {
    constexpr double p = 0.445948490915965, q = 0.091576213509771;
    constexpr double wp = 0.223381589678011 / 2, wq = 0.109951743655322 / 2;
    static const QuadraturePoint points[] = {{{p, p}, wp}, {{1 - 2 * p, p}, wp}, {{p, 1 - 2 * p}, wp},
                                             {{q, q}, wq}, {{1 - 2 * q, q}, wq}, {{q, 1 - 2 * q}, wq}};
    return points;
}

ElementPoint evaluate(const Mesh& mesh, int triangle, Reference x) {
    const auto& t = mesh.triangles[triangle];
    ElementPoint out;
    out.value = shape_values(x);
    const auto g = shape_gradients(x);
    Point da, db;
    if (mesh.curved[triangle]) {
        for (std::size_t i = 0; i < 6; ++i) {
            const Point node = mesh.nodes[t[i]];
            da = da + g[i][0] * node;
            db = db + g[i][1] * node;
            out.at = out.at + out.value[i] * node;
        }
    } else {
        const Point o = mesh.nodes[t[0]];
        da = mesh.nodes[t[1]] - o;
        db = mesh.nodes[t[2]] - o;
        out.at = o + x.a * da + x.b * db;
    }
    out.jacobian = cross(da, db);
    for (std::size_t i = 0; i < 6; ++i)
        out.gradient[i] = {(g[i][0] * db.z - g[i][1] * da.z) / out.jacobian,
                           (g[i][1] * da.r - g[i][0] * db.r) / out.jacobian};
    return out;
}

namespace {

/// Integrals over the reference triangle of (its coordinate towards corner c) x (slope of shape i along s) x
/// (of shape j along t): [c][s + t] of s, t as (0,0), (0,1) with (1,0), (1,1).
using Moments = std::array<std::array<Eigen::Matrix<double, 6, 6>, 3>, 3>;
Moments moments() {
    Moments out;
    for (auto& corner : out)
        for (auto& m : corner) m.setZero();
    for (const auto& q : quadrature()) {
        const auto g = shape_gradients(q.at);
        const double share[3] = {1 - q.at.a - q.at.b, q.at.a, q.at.b};
        for (std::size_t c = 0; c < 3; ++c)
            for (std::size_t i = 0; i < 6; ++i)
                for (std::size_t j = 0; j < 6; ++j) {
                    const double w = share[c] * q.weight;
                    const auto row = static_cast<Eigen::Index>(i), column = static_cast<Eigen::Index>(j);
                    out[c][0](row, column) += w * g[i][0] * g[j][0];
                    out[c][1](row, column) += w * (g[i][0] * g[j][1] + g[i][1] * g[j][0]);
                    out[c][2](row, column) += w * g[i][1] * g[j][1];
                }
    }
    return out;
}

Eigen::Matrix<double, 6, 6> straight_stiffness(const Mesh& mesh, int triangle, Symmetry symmetry) {
    static const Moments fixed = moments();
    const auto& t = mesh.triangles[triangle];
    const Point o = mesh.nodes[t[0]], da = mesh.nodes[t[1]] - o, db = mesh.nodes[t[2]] - o;
    const double jacobian = cross(da, db);
    const double metric[3] = {dot(db, db) / jacobian, -dot(da, db) / jacobian, dot(da, da) / jacobian};
    Eigen::Matrix<double, 6, 6> k = Eigen::Matrix<double, 6, 6>::Zero();
    for (std::size_t c = 0; c < 3; ++c) {
        const double radius = symmetry == Symmetry::planar ? 1.0 : 2 * std::numbers::pi * mesh.nodes[t[c]].r;
        for (std::size_t m = 0; m < 3; ++m) k += radius * metric[m] * fixed[c][m];
    }
    return k;
}

} // namespace

Eigen::Matrix<double, 6, 6> stiffness(const Mesh& mesh, int triangle, Symmetry symmetry) {
    // Of a straight triangle the sum over its points is three fixed matrices weighted by its metric
    // (axisymmetric: nine, by the radii of its corners too).
    if (!mesh.curved[triangle]) return straight_stiffness(mesh, triangle, symmetry);
    Eigen::Matrix<double, 6, 6> k = Eigen::Matrix<double, 6, 6>::Zero();
    for (const auto& q : quadrature()) {
        const auto e = evaluate(mesh, triangle, q.at);
        const double volume =
            e.jacobian * q.weight * (symmetry == Symmetry::planar ? 1.0 : 2 * std::numbers::pi * e.at.r);
        Eigen::Matrix<double, 6, 2> g;
        for (int i = 0; i < 6; ++i) {
            g(i, 0) = e.gradient[i].r;
            g(i, 1) = e.gradient[i].z;
        }
        k.noalias() += volume * g * g.transpose();
    }
    return k;
}

} // namespace ng
