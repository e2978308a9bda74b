#include "field/shape_derivative.h"
#include "field/in_time.h"
#include "field/readings.h"
#include "field/steady.h"
#include "mesh/motion.h"
#include <cmath>

namespace ng {
namespace {

/// The size of a phasor or of a real field, and its derivative with respect to either part.
struct Size {
    double value = 0;
    Point by_real, by_imaginary;
};

Size size_of(Point a, Point b) {
    Size out;
    out.value = major_axis(a, b);
    if (!(out.value > 0)) return out;
    // M^2 = (|a|^2 + |b|^2 + D) / 2 with D^2 = (|a|^2 - |b|^2)^2 + (2 a.b)^2.
    const double d = dot(a, a) - dot(b, b), m = 2 * dot(a, b), D = std::hypot(d, m), half = 0.5 / out.value;
    const double p = D > 0 ? d / D : 0, q = D > 0 ? m / D : 0;
    out.by_real = half * ((1 + p) * a + q * b);
    out.by_imaginary = half * ((1 - p) * b + q * a);
    return out;
}

Size size_along(Point a, Point b, Point u) {
    const double x = dot(a, u), y = dot(b, u), size = std::hypot(x, y);
    if (!(size > 0)) return {};
    return {size, (x / size) * u, (y / size) * u};
}

/// A direction in the section, of length 1, of one in a triangle's reference coordinates.
Point direction_of(const Mesh& mesh, const Reading& place, Point reference) {
    const auto slope = shape_gradients(place.at);
    Point out;
    for (std::size_t i = 0; i < 6; ++i)
        out = out + (slope[i][0] * reference.r + slope[i][1] * reference.z) *
                        mesh.nodes[mesh.triangles[place.triangle][i]];
    return (1 / length(out)) * out;
}

/// The other way.
Point reference_of(const Mesh& mesh, const Reading& place, Point direction) {
    const auto slope = shape_gradients(place.at);
    Point a, b;
    for (std::size_t i = 0; i < 6; ++i) {
        const auto& node = mesh.nodes[mesh.triangles[place.triangle][i]];
        a = a + slope[i][0] * node;
        b = b + slope[i][1] * node;
    }
    const double det = a.r * b.z - a.z * b.r;
    return {(direction.r * b.z - direction.z * b.r) / det, (a.r * direction.z - a.z * direction.r) / det};
}

} // namespace

struct ShapeDerivative::State {
    Section section;
    std::shared_ptr<const Assembly> assembly;
    Motion motion;
    std::vector<Reading> places = {};
    std::vector<std::optional<Point>> along = {}; ///< in reference coordinates
    Eigen::VectorXd real = {}, imaginary = {};    ///< potentials, kV
    std::vector<double> values = {};
    std::vector<std::pair<Eigen::VectorXd, Eigen::VectorXd>> adjoints = {}; ///< by figure
    std::vector<double> left_as_is = {}; ///< left_over() of the section itself: rounding

    std::vector<Size> sizes_on(const Mesh& mesh) const;
    /// What the old potentials leave of the equations of a mesh, times each adjoint.
    std::vector<double> left_over(const Section& on, const Assembly& its) const;
};

std::vector<Size> ShapeDerivative::State::sizes_on(const Mesh& mesh) const {
    const FieldReader reader(mesh, places);
    const auto re = reader.field(real);
    const auto im = imaginary.size() > 0 ? reader.field(imaginary) : std::vector<Point>(re.size());
    std::vector<Size> out;
    for (std::size_t k = 0; k < places.size(); ++k)
        out.push_back(along[k] ? size_along(re[k], im[k], direction_of(mesh, places[k], *along[k]))
                               : size_of(re[k], im[k]));
    return out;
}

std::vector<double> ShapeDerivative::State::left_over(const Section& on, const Assembly& its) const {
    const auto kappa = region_coefficients(on);
    std::vector<double> out(places.size());
    if (imaginary.size() == 0) {
        std::vector<double> by_region;
        for (const auto& k : kappa) by_region.push_back(k.real());
        Eigen::VectorXd left = Eigen::VectorXd::Zero(real.size());
        its.multiply<double>(by_region, real, left);
        for (std::size_t k = 0; k < out.size(); ++k) out[k] = adjoints[k].first.dot(left);
        return out;
    }
    std::vector<SymmetricComplex> by_region;
    for (const auto& k : kappa) by_region.push_back({k.real(), k.imag()});
    NodeVector<SymmetricComplex> v(real.size()), left(real.size());
    for (Eigen::Index i = 0; i < real.size(); ++i) v[i] = {real[i], imaginary[i]}, left[i] = {};
    its.multiply<SymmetricComplex>(by_region, v, left);
    for (std::size_t k = 0; k < out.size(); ++k)
        for (Eigen::Index i = 0; i < left.size(); ++i)
            out[k] += adjoints[k].first[i] * left[i].re + adjoints[k].second[i] * left[i].im;
    return out;
}

std::optional<ShapeDerivative> ShapeDerivative::of(const Section& section, const Solution& solution,
                                                   const std::vector<FieldFigure>& figures,
                                                   const CancelFlag* cancel) {
    if (!solution.linear || !solution.mesh || section.analysis != solution.analysis || is_transient(section))
        return {};
    const auto& mesh = *solution.mesh;
    auto motion = Motion::of(section, solution.mesh);
    if (!motion) return {};
    auto state = std::make_shared<State>(State{
        section, std::make_shared<const Assembly>(solution.mesh, section.symmetry), std::move(*motion)});
    const TriangleTree tree(mesh);
    for (const auto& figure : figures) {
        const auto place =
            locate(mesh, tree, figure.at, figure.region.empty() ? -1 : region_index(section, figure.region));
        if (place.triangle < 0) return {};
        state->places.push_back(place);
        state->along.push_back(figure.along ? std::optional(reference_of(mesh, place, *figure.along))
                                            : std::nullopt);
    }
    SteadyModel model(state->assembly, cancel);
    Solution again;
    const auto outcome = model.solve(section, nullptr, again);
    if (outcome.singular || outcome.cancelled || !again.linear) return {};
    state->real = std::move(again.potential_kV);
    state->imaginary = std::move(again.imaginary_kV);
    const auto sizes = state->sizes_on(mesh);
    const FieldReader reader(mesh, state->places);
    for (std::size_t k = 0; k < sizes.size(); ++k) {
        state->values.push_back(sizes[k].value);
        std::vector<Point> weights(sizes.size());
        weights[k] = sizes[k].by_real;
        AdjointLoad load{reader.load(weights), {}, std::vector<double>(mesh.conductors.size(), 0.0)};
        if (state->imaginary.size() > 0) {
            weights[k] = sizes[k].by_imaginary;
            load.imaginary = reader.load(weights);
        }
        state->adjoints.push_back(model.adjoint(load));
    }
    state->left_as_is = state->left_over(section, *state->assembly);
    return ShapeDerivative(std::move(state));
}

const std::vector<double>& ShapeDerivative::values() const {
    return state_->values;
}

std::optional<std::vector<double>> ShapeDerivative::change(const Section& to) const {
    const auto& s = *state_;
    if (to.analysis != s.section.analysis || to.frequency_hz != s.section.frequency_hz ||
        conductor_voltages(to) != conductor_voltages(s.section))
        return {};
    auto moved = s.motion.moved(to);
    if (!moved) return {};
    const auto mesh = std::make_shared<const Mesh>(std::move(*moved));
    const Assembly assembly(mesh, *s.assembly);
    const auto sizes = s.sizes_on(*mesh);
    const auto left = s.left_over(to, assembly);
    std::vector<double> out;
    for (std::size_t k = 0; k < sizes.size(); ++k)
        out.push_back(sizes[k].value - s.values[k] - (left[k] - s.left_as_is[k]));
    return out;
}

} // namespace ng
