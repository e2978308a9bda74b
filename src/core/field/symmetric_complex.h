// A complex number that Eigen's LDL^T takes as if it were real: conj(x) = x. So a complex symmetric (not
// Hermitian) matrix sigma + j omega eps is factorised as it should be.
//
// Stable without pivoting because real and imaginary part are both positive semidefinite (Higham,
// "Factorizing complex symmetric matrices with positive definite real and imaginary parts", Math. Comp. 67,
// 1998).
#pragma once
#include <Eigen/SparseCholesky>
#include <complex>

namespace ng {

struct SymmetricComplex {
    double re = 0, im = 0;
    SymmetricComplex() = default;
    SymmetricComplex(double real) : re(real) {} // NOLINT: numbers convert
    SymmetricComplex(int real) : re(real) {}    // NOLINT
    SymmetricComplex(double real, double imaginary) : re(real), im(imaginary) {}
    explicit SymmetricComplex(std::complex<double> z) : re(z.real()), im(z.imag()) {}
    explicit operator std::complex<double>() const { return {re, im}; }

    SymmetricComplex operator-() const { return {-re, -im}; }
    SymmetricComplex& operator+=(SymmetricComplex o) { return re += o.re, im += o.im, *this; }
    SymmetricComplex& operator-=(SymmetricComplex o) { return re -= o.re, im -= o.im, *this; }
    SymmetricComplex& operator*=(SymmetricComplex o) { return *this = *this * o; }
    SymmetricComplex& operator/=(SymmetricComplex o) { return *this = *this / o; }
    friend SymmetricComplex operator+(SymmetricComplex a, SymmetricComplex b) {
        return {a.re + b.re, a.im + b.im};
    }
    friend SymmetricComplex operator-(SymmetricComplex a, SymmetricComplex b) {
        return {a.re - b.re, a.im - b.im};
    }
    friend SymmetricComplex operator*(SymmetricComplex a, SymmetricComplex b) {
        return {a.re * b.re - a.im * b.im, a.re * b.im + a.im * b.re};
    }
    friend SymmetricComplex operator/(SymmetricComplex a, SymmetricComplex b) {
        const double scale = 1 / (b.re * b.re + b.im * b.im);
        return {(a.re * b.re + a.im * b.im) * scale, (a.im * b.re - a.re * b.im) * scale};
    }
    friend bool operator==(SymmetricComplex a, SymmetricComplex b) = default;
    // Only named, never run: Eigen's L L^T branch must compile beside its L D L^T.
    friend bool operator<=(SymmetricComplex a, SymmetricComplex b) { return a.re <= b.re; }
    friend SymmetricComplex sqrt(SymmetricComplex z) {
        return SymmetricComplex(std::sqrt(std::complex<double>(z)));
    }
};

inline double magnitude(double x) {
    return std::abs(x);
}
inline double magnitude(SymmetricComplex x) {
    return std::hypot(x.re, x.im);
}

inline double squared(double x) {
    return x * x;
}
inline double squared(SymmetricComplex x) {
    return x.re * x.re + x.im * x.im;
}
/// Re(conj(a) b).
inline double projected(double a, double b) {
    return a * b;
}
inline double projected(SymmetricComplex a, SymmetricComplex b) {
    return a.re * b.re + a.im * b.im;
}

} // namespace ng

namespace Eigen {
template <> struct NumTraits<ng::SymmetricComplex> : NumTraits<double> {
    using Real = ng::SymmetricComplex;
    using NonInteger = ng::SymmetricComplex;
    using Nested = ng::SymmetricComplex;
    using Literal = ng::SymmetricComplex;
    enum {
        IsComplex = 0,
        IsInteger = 0,
        IsSigned = 1,
        RequireInitialization = 0,
        ReadCost = 2,
        AddCost = 2,
        MulCost = 6
    };
};
} // namespace Eigen
