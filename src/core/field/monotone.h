// A curve through given points that is monotone between them.
#pragma once
#include <memory>
#include <vector>

namespace ng {

/// Steffen's interpolation (Astron. Astrophys. 239, 1990), by GSL; a straight line through two points.
class Monotone {
  public:
    /// `x` rising; at least two points.
    Monotone(const std::vector<double>& x, const std::vector<double>& y);
    ~Monotone();
    Monotone(Monotone&&) noexcept;

    /// `x` within the points.
    double at(double x) const;
    double slope(double x) const;

  private:
    struct Spline;
    std::unique_ptr<Spline> spline_;
};

} // namespace ng
