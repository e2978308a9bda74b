// The averaged field, and how far the elements' own is from it.
#include "field/recovery.h"
#include "field/tuning.h"
#include "mesh/pair_numbers.h"
#include "units/promise.h"
#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

namespace ng {
namespace {

/// Gradients of the six shapes at some places of the reference triangle, worked out once.
template <std::size_t N>
std::array<std::array<std::array<double, 2>, 6>, N> gradients_at(const Reference (&places)[N]) {
    std::array<std::array<std::array<double, 2>, 6>, N> out;
    for (std::size_t k = 0; k < N; ++k) out[k] = shape_gradients(places[k]);
    return out;
}

/// The map from the reference triangle at one place of it.
struct Frame {
    Point da, db;
    double jacobian = 0, inverse = 0;

    Frame(const Mesh& mesh, std::size_t triangle, const std::array<std::array<double, 2>, 6>& shapes) {
        const auto& t = mesh.triangles[triangle];
        if (mesh.curved[triangle]) {
            for (std::size_t i = 0; i < 6; ++i) {
                da = da + shapes[i][0] * mesh.nodes[t[i]];
                db = db + shapes[i][1] * mesh.nodes[t[i]];
            }
        } else {
            da = mesh.nodes[t[1]] - mesh.nodes[t[0]];
            db = mesh.nodes[t[2]] - mesh.nodes[t[0]];
        }
        jacobian = cross(da, db);
        inverse = 1 / jacobian;
    }
    Point gradient(const std::array<double, 6>& v, const std::array<std::array<double, 2>, 6>& shapes) const {
        double a = 0, b = 0;
        for (std::size_t i = 0; i < 6; ++i) a += v[i] * shapes[i][0], b += v[i] * shapes[i][1];
        return {inverse * (a * db.z - b * da.z), inverse * (b * da.r - a * db.r)};
    }
};

std::array<double, 6> at_nodes(const Mesh& mesh, std::size_t triangle, const Eigen::VectorXd& potential_kV) {
    std::array<double, 6> out;
    for (std::size_t i = 0; i < 6; ++i) out[i] = potential_kV[mesh.triangles[triangle][i]];
    return out;
}

} // namespace

double major_axis(Point a, Point b) {
    const double sum = dot(a, a) + dot(b, b), difference = dot(a, a) - dot(b, b), mixed = 2 * dot(a, b);
    return std::sqrt(0.5 * (sum + std::hypot(difference, mixed)));
}

double NodalField::magnitude(std::size_t slot) const {
    return imaginary.empty() ? length(field[slot]) : major_axis(field[slot], imaginary[slot]);
}

namespace {
Point interpolated(const std::vector<Point>& values, const std::array<int, 6>& slots, Reference x) {
    const auto n = shape_values(x);
    Point e;
    for (std::size_t i = 0; i < 6; ++i) e = e + n[i] * values[slots[i]];
    return e;
}
} // namespace

Point NodalField::at(int triangle, Reference x) const {
    return interpolated(field, layout->of[triangle], x);
}

Point NodalField::imaginary_at(int triangle, Reference x) const {
    return imaginary.empty() ? Point{} : interpolated(imaginary, layout->of[triangle], x);
}

double NodalField::magnitude_at(int triangle, Reference x) const {
    return imaginary.empty() ? length(at(triangle, x))
                             : major_axis(at(triangle, x), imaginary_at(triangle, x));
}

std::shared_ptr<const NodalLayout> nodal_layout(const Mesh& mesh) {
    auto out = std::make_shared<NodalLayout>();
    out->of.resize(mesh.triangles.size());
    PairNumbers numbers(mesh.nodes.size()); // of node and region
    numbers.reserve(mesh.nodes.size() * 5 / 4);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (std::size_t i = 0; i < 6; ++i) {
            const auto [slot, fresh] = numbers.at(mesh.triangles[t][i], mesh.region[t]);
            if (fresh) slot = static_cast<int>(out->count++);
            out->of[t][i] = slot;
        }
    return out;
}

NodalField averaged_field(const Mesh& mesh, std::shared_ptr<const NodalLayout> layout,
                          const Eigen::VectorXd& potential_kV, const Eigen::VectorXd& imaginary_kV) {
    promise(layout->of.size() == mesh.triangles.size(), "the layout is of the mesh");
    const auto count = layout->count;
    const auto& index = layout->of;
    NodalField out;
    out.layout = std::move(layout);
    const bool phasor = imaginary_kV.size() > 0;
    out.field.assign(count, Point{});
    if (phasor) out.imaginary.assign(count, Point{});
    std::vector<double> weight(count, 0);
    static const auto shapes = gradients_at(node_places);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto real = at_nodes(mesh, t, potential_kV);
        const auto imaginary = phasor ? at_nodes(mesh, t, imaginary_kV) : std::array<double, 6>{};
        Frame frame(mesh, t, shapes[0]);
        const auto take = [&](std::vector<Point>& sum, const std::array<double, 6>& potential) {
            std::array<Point, 6> gradient;
            for (std::size_t i = 0; i < 3; ++i) gradient[i] = frame.gradient(potential, shapes[i]);
            for (std::size_t i = 0; i < 3; ++i) // linear
                gradient[i + 3] = 0.5 * (gradient[i] + gradient[(i + 1) % 3]);
            for (std::size_t i = 0; i < 6; ++i) {
                auto& of_slot = sum[static_cast<std::size_t>(index[t][i])];
                of_slot = of_slot - frame.jacobian * gradient[i];
            }
        };
        if (!mesh.curved[t]) {
            take(out.field, real);
            if (phasor) take(out.imaginary, imaginary);
            for (std::size_t i = 0; i < 6; ++i)
                weight[static_cast<std::size_t>(index[t][i])] += frame.jacobian;
            continue;
        }
        for (std::size_t i = 0; i < 6; ++i) {
            frame = Frame(mesh, t, shapes[i]);
            const auto s = static_cast<std::size_t>(index[t][i]);
            out.field[s] = out.field[s] - frame.jacobian * frame.gradient(real, shapes[i]);
            if (phasor)
                out.imaginary[s] = out.imaginary[s] - frame.jacobian * frame.gradient(imaginary, shapes[i]);
            weight[s] += frame.jacobian;
        }
    }
    for (std::size_t s = 0; s < count; ++s) {
        out.field[s] = (1 / weight[s]) * out.field[s];
        if (phasor) out.imaginary[s] = (1 / weight[s]) * out.imaginary[s];
    }
    return out;
}

std::vector<double> averaging_error(const Mesh& mesh, const std::vector<double>& weight, Symmetry symmetry,
                                    const Eigen::VectorXd& potential_kV, const Eigen::VectorXd& imaginary_kV,
                                    const NodalField& averaged, std::vector<FieldDifference>* differences) {
    // Three points: the difference is about quadratic, and only triangles are ranked by it.
    constexpr Reference points[3] = {{1.0 / 6, 1.0 / 6}, {2.0 / 3, 1.0 / 6}, {1.0 / 6, 2.0 / 3}};
    const bool phasor = imaginary_kV.size() > 0, planar = symmetry == Symmetry::planar;
    static const auto shapes = gradients_at(points);
    static const std::array<std::array<double, 6>, 3> values{shape_values(points[0]), shape_values(points[1]),
                                                             shape_values(points[2])};
    const auto& slots = averaged.layout->of;
    std::vector<double> out(mesh.triangles.size());
    if (differences) differences->resize(out.size());
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto potential = at_nodes(mesh, t, potential_kV);
        const auto potential_imaginary = phasor ? at_nodes(mesh, t, imaginary_kV) : std::array<double, 6>{};
        double averaged_sum = 0, volume[3], r[3];
        Point at[3];
        std::complex<double> g_r[3], g_z[3]; // gradient of the potential
        Frame frame(mesh, t, shapes[0]);
        for (std::size_t k = 0; k < 3; ++k) {
            if (k > 0 && mesh.curved[t]) frame = Frame(mesh, t, shapes[k]);
            const Point real = frame.gradient(potential, shapes[k]);
            Point imaginary, smooth_real, smooth_imaginary, place;
            for (std::size_t i = 0; i < 6; ++i) {
                const auto slot = static_cast<std::size_t>(slots[t][i]);
                smooth_real = smooth_real + values[k][i] * averaged.field[slot];
                if (phasor) smooth_imaginary = smooth_imaginary + values[k][i] * averaged.imaginary[slot];
                place = place + values[k][i] * mesh.nodes[mesh.triangles[t][i]];
            }
            if (phasor) imaginary = frame.gradient(potential_imaginary, shapes[k]);
            at[k] = place;
            r[k] = place.r;
            volume[k] = frame.jacobian / 6 * (planar ? 1.0 : 2 * std::numbers::pi * place.r);
            g_r[k] = {real.r, imaginary.r};
            g_z[k] = {real.z, imaginary.z};
            const Point a = real + smooth_real, b = imaginary + smooth_imaginary;
            averaged_sum += volume[k] * (dot(a, a) + dot(b, b));
            if (differences) {
                const double root = std::sqrt(weight[mesh.region[t]] * volume[k]);
                (*differences)[t][2 * k] = root * std::complex<double>(a.r, b.r);
                (*differences)[t][2 * k + 1] = root * std::complex<double>(a.z, b.z);
            }
        }
        // What is left of the equation inside: the gradient is linear, its divergence a number and, round the
        // axis, g_r / r.
        const Point u = at[1] - at[0], v = at[2] - at[0];
        const double det = cross(u, v);
        const auto divergence = ((g_r[1] - g_r[0]) * v.z - (g_r[2] - g_r[0]) * u.z + (g_z[2] - g_z[0]) * u.r -
                                 (g_z[1] - g_z[0]) * v.r) /
                                det;
        double residual = 0;
        for (std::size_t k = 0; k < 3; ++k)
            residual += volume[k] * std::norm(divergence + (planar ? 0.0 : g_r[k] / r[k]));
        double longest = 0;
        for (std::size_t i = 0; i < 3; ++i)
            longest = std::max(longest, distance(mesh.nodes[mesh.triangles[t][i]],
                                                 mesh.nodes[mesh.triangles[t][(i + 1) % 3]]));
        const double height = 4 * std::abs(det) / longest; // the points span a quarter of the triangle
        const double inside = tuning::residual_weight * height;
        out[t] = std::sqrt(weight[mesh.region[t]] * std::max(averaged_sum, inside * inside * residual));
    }
    return out;
}

} // namespace ng
