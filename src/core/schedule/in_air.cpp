#include "schedule/in_air.h"
#include "closedform/air.h"
#include "closedform/pollution.h"
#include "units/quantity.h"
#include "verdict/leakage.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace ng {
namespace {

constexpr double highest_altitude_m =
    4000;                          // beyond it the altitude rule is not used (IEC 60071-2, from memory)
constexpr double dry_band_mm = 20; // chosen: some tenth of a surface
constexpr double dry_surface_kV_peak_per_mm = 0.5; // to design (from memory, 60 % sure)

/// Resistance of the film that a level of pollution leaves when it is wet, ohm per square: 1, 2, 5, 15 and
/// 40 uS (rain 1 to 3, heavy pollution 10 to 40 uS, from memory).
double film_of(const std::string& pollution) {
    constexpr std::array<double, 5> siemens{1e-6, 2e-6, 5e-6, 15e-6, 40e-6};
    const auto it = std::find(pollution_levels.begin(), pollution_levels.end(), pollution);
    const auto k = it == pollution_levels.end() ? 4 : it - pollution_levels.begin();
    return 1 / siemens[k];
}

std::string altitude_words(double altitude_m, const char* how) {
    if (altitude_m <= 1000) return "";
    return fmt::format(", {} {:.3f} for {:g} m (from 1000 m up; IEC 62271-1, from memory)", how,
                       altitude_factor(altitude_m), altitude_m);
}

Check in_air(const TestResult& test, CheckId id, const char* title) {
    Check c;
    c.id = id;
    c.title = title;
    c.voltage_kV = test.voltage_kV;
    c.level = test.title;
    c.voltage_origin = test.voltage_origin;
    c.place = place::outer_surface;
    return c;
}

void leave_high_altitudes(Check& check, double altitude_m) {
    if (altitude_m <= highest_altitude_m) return;
    check.status = Status::not_judged;
    check.why = fmt::format("The altitude rule is not valid above {:g} m.", highest_altitude_m);
}

/// "172 mm between the screen edge and the insulation end".
std::string ends_words(const BuiltAccessory& built, double mm) {
    if (!built.air_ends) return fmt::format("{:.0f} mm", mm);
    return fmt::format("{:.0f} mm between the {} and the {}", mm, name_of(built.air_ends->earthed),
                       name_of(built.air_ends->live));
}

/// The part of the surface that a film bridges.
std::vector<Point> film_surface(const BuiltAccessory& built) {
    return measure_leakage(built.leakage_surface, built.air_ends).between;
}

std::optional<Check> clearance(const PreparedDesign& p, const TestResult& test, CheckId id, const char* title,
                               std::optional<double> typed_mm) {
    if (!typed_mm) return {};
    const auto* bil = p.levels.of_kind(TestKind::impulse);
    if (!bil) { // the clearance was typed in, and nothing says what it must bear
        auto c = in_air(test, id, title);
        c.set_aside = true;
        c.why = no_level_words(TestKind::impulse);
        return c;
    }
    const auto& duty = p.design.duty;
    auto c = in_air(test, id, title);
    c.voltage_kV = p.levels.value_of(*bil).value;
    c.voltage_origin = p.levels.value_of(*bil).origin();
    c.level = bil->title;
    c.value = *typed_mm;
    c.limit = closedform::impulse_clearance_mm(c.voltage_kV) * altitude_factor(duty.altitude_m);
    c.unit = "mm";
    c.at_least = true;
    c.limit_origin = fmt::format("clearance in air for {:g} kV, rod to structure, indoors and outdoors, IEC "
                                 "60071-2 from memory{}",
                                 c.voltage_kV, altitude_words(duty.altitude_m, "times"));
    c.protects_against = "flashover in air between what is installed side by side";
    c.cure = "Space the terminations further, or put a barrier that the local code allows between them";
    judge_plain(c);
    leave_high_altitudes(c, duty.altitude_m);
    return c;
}

} // namespace

std::optional<Check> flashover_check(const PreparedDesign& p, const TestResult& test,
                                     const std::string& rule) {
    const auto* limit = p.limits.find(rule);
    if (p.built.leakage_surface.size() < 2 || !limit) return {};
    const auto measured = measure_leakage(p.built.leakage_surface, p.built.air_ends);
    const auto& duty = p.design.duty;
    auto c = in_air(test, CheckKind::flashover, "Voltage over the distance in air");
    c.value = test.voltage_kV / measured.arc_mm;
    c.limit = limit->value.value / altitude_factor(duty.altitude_m);
    c.unit = limit->value.unit;
    c.at = p.built.leakage_surface.back();
    c.limit_origin = limit->value.origin() + altitude_words(duty.altitude_m, "divided by");
    c.protects_against = limit->protects_against;
    c.cure = "Lengthen the insulation, or use sheds that lengthen the arc";
    judge_plain(c);
    c.why =
        fmt::format("{:.0f} kV over {}: {}", test.voltage_kV, ends_words(p.built, measured.arc_mm), c.why);
    leave_high_altitudes(c, duty.altitude_m);
    return c;
}

std::optional<Check> arc_distance_check(const PreparedDesign& p, const TestResult& test) {
    if (p.built.leakage_surface.size() < 2) return {};
    const auto measured = measure_leakage(p.built.leakage_surface, p.built.air_ends);
    const auto& duty = p.design.duty;
    auto c = in_air(test, CheckKind::arc_distance, "Distance in air for the impulse");
    c.value = measured.arc_mm;
    c.limit = closedform::impulse_clearance_mm(test.voltage_kV) * altitude_factor(duty.altitude_m);
    c.unit = "mm";
    c.at_least = true;
    c.at = p.built.leakage_surface.back();
    c.limit_origin =
        "clearance rod to structure, IEC 60071-2, from memory" + altitude_words(duty.altitude_m, "times");
    c.protects_against = "flashover of the air round the termination by the impulse";
    c.cure = "Lengthen the insulation, or use sheds that lengthen the arc";
    judge_plain(c);
    c.why = fmt::format("{}; at least {:.0f} mm are needed.", ends_words(p.built, measured.arc_mm), c.limit);
    leave_high_altitudes(c, duty.altitude_m);
    return c;
}

std::optional<Check> film_flashover_check(const PreparedDesign& p, const TestResult& test, double voltage_kV,
                                          double ohm_per_square, const std::string& film) {
    if (p.built.leakage_surface.size() < 2) return {};
    const auto measured = measure_leakage(p.built.leakage_surface, p.built.air_ends);
    const double ohm = closedform::film_resistance_ohm(measured.between, ohm_per_square);
    auto c = in_air(test, CheckKind::pollution_flashover, "Flashover of the polluted surface");
    c.voltage_kV = c.value = voltage_kV;
    c.limit = closedform::polluted_flashover_kV_peak(measured.between_mm, ohm) / std::numbers::sqrt2;
    c.unit = "kV rms";
    c.at = p.built.leakage_surface.front();
    c.limit_origin =
        fmt::format("arcs in series with a film of {:.3g} megohm per square ({}), Rizk, from memory",
                    1e-6 * ohm_per_square, film);
    c.protects_against = "arcs that bridge a wet polluted surface";
    c.cure = "Add sheds or lengthen the insulation; see that the pollution is that of the site";
    judge_plain(c);
    c.why = fmt::format("{:.1f} kV to earth; arcs bridge the {:.0f} mm of surface from {:.1f} kV.",
                        voltage_kV, measured.between_mm, c.limit);
    return c;
}

std::vector<std::string> film_words(const PreparedDesign& p, const TestResult& test, double ohm_per_square) {
    const auto surface = film_surface(p.built);
    const double ohm = closedform::film_resistance_ohm(surface, ohm_per_square);
    if (!(ohm > 0)) return {};
    double length = 0;
    for (std::size_t i = 1; i < surface.size(); ++i) length += distance(surface[i - 1], surface[i]);
    const double peak_kV = std::numbers::sqrt2 * test.voltage_kV, milliampere = 1e6 * test.voltage_kV / ohm,
                 flashover = closedform::polluted_flashover_kV_peak(length, ohm);
    const double band_kV = dry_surface_kV_peak_per_mm * dry_band_mm;
    return {
        fmt::format(
            "A film of {:.3g} megohm per square over {:.0f} mm carries {:.2g} mA rms at this voltage.",
            1e-6 * ohm_per_square, length, milliampere),
        fmt::format("A dry band takes nearly all of the voltage: {:.1f} kV peak over {:g} mm of dry surface, "
                    "which bears some {:g}: it {}.",
                    peak_kV, dry_band_mm, band_kV, peak_kV > band_kV ? "sparks" : "does not spark"),
        fmt::format(
            "Arcs in series with this film bridge the surface from {:.0f} kV rms (Rizk, from memory); "
            "in a test of seconds no bands dry, and this is not judged.",
            flashover / std::numbers::sqrt2)};
}

void judge_air(const PreparedDesign& p, double highest_line_kV, TestResult& test) {
    const auto& built = p.built;
    const auto& duty = p.design.duty;
    const auto measured = measure_leakage(built.leakage_surface, built.air_ends);
    test.notes.emplace_back(fmt::format(
        "Creepage {:.0f} mm from metal to metal: {:.0f} mm over earthed parts, "
        "{:.0f} mm between, {:.0f} mm over "
        "live ones. Distance in air {}. {} sheds.",
        measured.creepage_mm, measured.over_earthed_mm, measured.between_mm, measured.over_live_mm,
        ends_words(built, measured.arc_mm), find_sheds(built.leakage_surface).size()));
    if (!duty.outdoor)
        test.notes.emplace_back(
            "Indoors: no creepage by pollution level is asked for; dust and dew are the user's call.");
    else
        test.notes.emplace_back("Specific creepage, mm/kV between phases and to earth: " +
                                specific_creepage_words() + " (IEC 60815, from memory).");
    test.checks = judge_leakage(built.leakage_surface, duty, highest_line_kV, p.limits, built.air_ends);
    for (auto& c : test.checks) c.at = built.leakage_surface.front();
    if (duty.outdoor) {
        if (auto c = film_flashover_check(p, test, highest_line_kV / std::numbers::sqrt3,
                                          film_of(duty.pollution), duty.pollution + " pollution"))
            test.checks.push_back(std::move(*c));
    }
    if (auto c = clearance(p, test, CheckKind::clearance_phases, "Clearance between phases as installed",
                           duty.phase_clearance_mm))
        test.checks.push_back(std::move(*c));
    if (auto c = clearance(p, test, CheckKind::clearance_earth, "Clearance to earth as installed",
                           duty.earth_clearance_mm))
        test.checks.push_back(std::move(*c));
    if (!duty.phase_clearance_mm || !duty.earth_clearance_mm)
        test.notes.emplace_back("Clearances as installed that nobody typed in (DUTY, Site) are not judged.");
}

} // namespace ng
