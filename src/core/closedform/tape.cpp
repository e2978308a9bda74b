#include "closedform/tape.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace ng {
namespace {

/// Integral of pi r^2 dz under a profile of straight lines: a sum of frusta.
double under_mm3(std::span<const Point> profile) {
    double sum = 0;
    for (std::size_t i = 0; i + 1 < profile.size(); ++i) {
        const double a = profile[i].r, b = profile[i + 1].r;
        sum += (profile[i + 1].z - profile[i].z) * (a * a + a * b + b * b) / 3;
    }
    return std::numbers::pi * sum;
}

/// Greatest radius of `outer` above `inner` beneath it, and the radius of `inner` there.
std::pair<double, double> highest(std::span<const Point> inner, std::span<const Point> outer) {
    auto at = [](std::span<const Point> profile, double z) {
        double r = 0;
        for (std::size_t i = 0; i + 1 < profile.size(); ++i) {
            const Point a = profile[i], b = profile[i + 1];
            if (z < a.z - 1e-9 || z > b.z + 1e-9) continue;
            const double f = b.z > a.z ? (z - a.z) / (b.z - a.z) : 1;
            r = std::max(r, a.r + f * (b.r - a.r));
        }
        return r;
    };
    std::pair<double, double> best{0, 0};
    for (const auto* profile : {&inner, &outer})
        for (const auto& p : *profile) {
            const double under = at(inner, p.z), height = at(outer, p.z) - under;
            if (height > best.first) best = {height, under};
        }
    return best;
}

} // namespace

Result<Tape> tape_of(const std::map<std::string, double>& numbers) {
    Tape tape;
    for (const auto& f : tape_figures) {
        const auto it = numbers.find(f.key);
        if (it == numbers.end()) continue;
        const char* unit = f.is_length ? " mm" : "";
        if (!(it->second >= f.lowest && it->second <= f.highest))
            return refuse(f.label, fmt::format("{:g}{} is out of range", it->second, unit),
                          fmt::format("Give {:g} to {:g}{}", f.lowest, f.highest, unit));
        tape.*f.figure = it->second;
    }
    return tape;
}

double Tape::laid_thickness_mm() const {
    return thickness_mm / std::sqrt(stretch);
}

double Tape::laid_width_mm() const {
    return width_mm / std::sqrt(stretch);
}

double volume_between_mm3(std::span<const Point> inner, std::span<const Point> outer) {
    return std::max(0.0, under_mm3(outer) - under_mm3(inner));
}

TapeQuantity tape_quantity(std::span<const Point> inner, std::span<const Point> outer, const Tape& tape) {
    TapeQuantity out;
    out.volume_mm3 = volume_between_mm3(inner, outer);
    const auto [height, beneath] = highest(inner, outer);
    out.passes = static_cast<int>(std::ceil(height / tape.pass_mm() - 1e-9));
    out.laid_diameter_mm = 2 * (beneath + out.passes * tape.pass_mm());
    out.supplied_mm = out.volume_mm3 / (tape.width_mm * tape.thickness_mm); // stretching keeps the volume
    out.rolls = static_cast<int>(std::ceil(out.supplied_mm / tape.roll_mm - 1e-9));
    return out;
}

TapeQuantity tape_quantity(double from_diameter_mm, double to_diameter_mm, double length_mm,
                           const Tape& tape) {
    const Point inner[] = {{from_diameter_mm / 2, 0}, {from_diameter_mm / 2, length_mm}};
    const Point outer[] = {{to_diameter_mm / 2, 0}, {to_diameter_mm / 2, length_mm}};
    return tape_quantity(inner, outer, tape);
}

double cone_step_mm(double cone_length_mm, int passes) {
    return passes > 0 ? cone_length_mm / passes : 0;
}

} // namespace ng
