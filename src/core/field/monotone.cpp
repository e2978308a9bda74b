#include "field/monotone.h"
#include "units/promise.h"
#include <gsl/gsl_spline.h>

namespace ng {

struct Monotone::Spline {
    gsl_spline* spline;
    double low, high;
    Spline(std::size_t count, double from, double to)
        : spline(gsl_spline_alloc(count > 2 ? gsl_interp_steffen : gsl_interp_linear, count)), low(from),
          high(to) {}
    Spline(const Spline&) = delete;
    Spline& operator=(const Spline&) = delete;
    ~Spline() { gsl_spline_free(spline); }
};

Monotone::Monotone(const std::vector<double>& x, const std::vector<double>& y) {
    promise(x.size() >= 2 && x.size() == y.size(), "a curve needs two points or more");
    for (std::size_t i = 1; i < x.size(); ++i) promise(x[i] > x[i - 1], "a curve's places rise");
    spline_ = std::make_unique<Spline>(x.size(), x.front(), x.back());
    gsl_spline_init(spline_->spline, x.data(), y.data(), x.size());
}
Monotone::~Monotone() = default;
Monotone::Monotone(Monotone&&) noexcept = default;

double Monotone::at(double x) const {
    promise(x >= spline_->low && x <= spline_->high, "a curve is not asked beyond its ends");
    return gsl_spline_eval(spline_->spline, x, nullptr);
}

double Monotone::slope(double x) const {
    promise(x >= spline_->low && x <= spline_->high, "a curve is not asked beyond its ends");
    return gsl_spline_eval_deriv(spline_->spline, x, nullptr);
}

} // namespace ng
