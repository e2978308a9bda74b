// What an element's potentials say of losses in it.
#pragma once
#include "field/assembly.h"
#include "field/symmetric_complex.h"

namespace ng {

/// |grad v|^2 of a triangle: over its volume (as Assembly::stiffness_of), and in its middle (per mm^2).
struct GradientSquare {
    double integral = 0, in_the_middle = 0;
};
template <class Scalar>
GradientSquare gradient_square(const Assembly& assembly, int triangle, const std::array<Scalar, 6>& v) {
    GradientSquare out;
    const auto& element = assembly.stiffness_of(triangle);
    for (std::size_t i = 0; i < 6; ++i)
        for (std::size_t j = 0; j < 6; ++j)
            out.integral += element[Assembly::packed_index[i][j]] * projected(v[i], v[j]);
    const auto middle = evaluate(assembly.mesh(), triangle, {1.0 / 3, 1.0 / 3});
    Scalar r{}, z{};
    for (std::size_t i = 0; i < 6; ++i) {
        r += v[i] * Scalar(middle.gradient[i].r);
        z += v[i] * Scalar(middle.gradient[i].z);
    }
    out.in_the_middle = squared(r) + squared(z);
    return out;
}

} // namespace ng
