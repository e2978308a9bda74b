// A section: what the field engine eats. Materials, regions, electrodes, paths and probes in one half plane
// (axisymmetric: r, z) or plane (planar: x, y). It knows nothing of cables.
//
// Lengths are mm. Painter's order: a later region covers an earlier one, electrodes cover all regions, and
// those that say so cover electrodes, a later one over an earlier. Edges that are neither electrode nor named
// boundary are natural (symmetry) boundaries.
#pragma once
#include "geometry/outline.h"
#include <cmath>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <tuple>
#include <vector>

namespace ng {

/// Conduction of a material. Laws: constant sigma0; power sigma0 (1 + (E/E0)^exponent); exponential
/// sigma0 exp(a E^exponent); table of points, between which ln sigma is interpolated monotonically.
struct Conduction {
    std::string law; ///< "constant", "power", "exponential" or "table"
    double sigma0_S_per_m = 0;
    double E0_kV_per_mm = 0;
    double exponent = 0;
    double a = 0; ///< of the exponential law, (mm/kV)^exponent
    std::string
        field; ///< "rms" or "peak": which field of the cycle the law is stated in (docs/section-format.md)
    std::vector<std::pair<double, double>> table; ///< E in kV/mm, sigma in S/m
    double per_kelvin = 0;                        ///< sigma grows by exp(per_kelvin (actual - reference))
    double reference_C = 20, actual_C = 20;
    std::string provenance; ///< where the law comes from; may be empty
    friend bool operator==(const Conduction&, const Conduction&) = default;
    bool depends_on_field() const { return law != "constant"; }
    double temperature_factor() const { return std::exp(per_kelvin * (actual_C - reference_C)); }
    auto fields() const {
        return std::tie(law, sigma0_S_per_m, E0_kV_per_mm, exponent, a, field, table, per_kelvin, reference_C,
                        actual_C, provenance);
    }
};

struct SectionMaterial {
    double eps_r = 1;
    std::optional<Conduction> conduction;
    std::string title; ///< for people; may be empty
    /// Hz, relative permittivity: rising frequency, permittivity that does not rise. Empty: eps_r at every
    /// frequency; else eps_r is only what the material is said to have at power frequency.
    std::vector<std::pair<double, double>> eps_r_by_frequency = {};
    std::string eps_provenance = {}; ///< of the table; may be empty
    auto fields() const { return std::tie(eps_r, conduction, title, eps_r_by_frequency, eps_provenance); }
    friend bool operator==(const SectionMaterial&, const SectionMaterial&) = default;
};

struct Region {
    std::string name;
    std::string material;
    Outline outline;
    /// Lies over electrodes too: a notch in a connector, a bubble at a screen, a screen that is torn away.
    bool covers_electrodes = false;
    auto fields() const { return std::tie(name, material, outline, covers_electrodes); }
    friend bool operator==(const Region&, const Region&) = default;
};

struct Electrode {
    std::string name;
    double voltage_kV = 0; ///< rms for AC, peak for impulse
    bool floating = false; ///< one unknown potential, zero net charge
    Outline outline;
    auto fields() const { return std::tie(name, voltage_kV, floating, outline); }
    friend bool operator==(const Electrode&, const Electrode&) = default;
};

struct Boundary {
    std::string name;
    double voltage_kV = 0;
    std::vector<Point> along;
    auto fields() const { return std::tie(name, voltage_kV, along); }
    friend bool operator==(const Boundary&, const Boundary&) = default;
};

/// A line along which the field is sampled, in the region named `side`.
struct Path {
    std::string name;
    std::vector<Point> points;
    std::string side;
    auto fields() const { return std::tie(name, points, side); }
    friend bool operator==(const Path&, const Path&) = default;
};

struct Probe {
    std::string name;
    Point at;
    std::string side;
    auto fields() const { return std::tie(name, at, side); }
    friend bool operator==(const Probe&, const Probe&) = default;
};

enum class Symmetry { axisymmetric, planar };

/// What is solved of a section (docs/section-format.md).
enum class Analysis {
    capacitive, ///< alternating, by permittivity alone
    complex,    ///< alternating, conduction and permittivity
    nonlinear,  ///< the same, conduction depending on the field
    impulse,    ///< an impulse followed in time
    dc          ///< conduction alone: its final state, or the way to it in time
};
/// As section files and results write it: "capacitive".
const char* analysis_word(Analysis analysis);
/// None: no analysis is called so.
std::optional<Analysis> analysis_from_word(std::string_view word);
/// All words, in the order of the analyses.
std::vector<std::string> analysis_words();

/// What an impulse analysis applies: every electrode voltage (peak) times this wave.
struct ImpulseWave {
    double front_us = 1.2; ///< front time, IEC 60060-1 (front <= 20 us), or time to peak (longer: slow front)
    double tail_us = 50;   ///< time to half value
    bool negative = false;
    std::optional<double> chopped_at_us; ///< collapse begins here
    std::optional<double> duration_us;   ///< default: tail time and a little
    friend bool operator==(const ImpulseWave&, const ImpulseWave&) = default;
    auto fields() const { return std::tie(front_us, tail_us, negative, chopped_at_us, duration_us); }
};

/// How the steady state of a field-dependent section is found.
struct CycleRun {
    bool in_time = false; ///< time stepping over cycles instead of the phasor iteration
    int most_cycles = 12;
    friend bool operator==(const CycleRun&, const CycleRun&) = default;
    auto fields() const { return std::tie(in_time, most_cycles); }
};

struct Section {
    Symmetry symmetry = Symmetry::axisymmetric;
    double frequency_hz = 60;
    Analysis analysis = Analysis::capacitive;
    std::map<std::string, SectionMaterial> materials;
    std::vector<Region> regions;
    std::vector<Electrode> electrodes;
    std::vector<Boundary> boundaries;
    std::vector<Path> paths;
    std::vector<Probe> probes;
    ImpulseWave impulse;
    CycleRun cycles;
    std::optional<double>
        dc_duration_s;    ///< follow the transient from the step this long; none: final state only
    double dc_ramp_s = 0; ///< in which the voltage rises evenly; 0: a step

    bool depends_on_field() const; ///< some region's conduction does
    bool conducts() const;
    bool depends_on_frequency() const; ///< some region's permittivity does
    auto fields() const {
        return std::tie(symmetry, frequency_hz, analysis, materials, regions, electrodes, boundaries, paths,
                        probes, impulse, cycles, dc_duration_s, dc_ramp_s);
    }
    friend bool operator==(const Section&, const Section&) = default;
};

/// Whether two sections differ by their materials, voltages, frequency and analysis alone: they can share a
/// mesh.
bool same_shapes(const Section& a, const Section& b);

/// Limits of what is solved: regions and electrodes (as many paths and probes), and points of all lines.
constexpr std::size_t most_shapes = 2000, most_points = 50000;

/// Refuses what cannot be solved: non-finite or negative-radius points, crossing or empty outlines, unknown
/// materials, no electrode, paths and probes outside or on the wrong side. Names the item.
Result<void> validate(const Section& section);

/// Reads the section format (docs/section-format.md) and validates it.
Result<Section> read_section(const nlohmann::json& document);
Result<Section> read_section_text(const std::string& text, const std::string& file_name);
nlohmann::ordered_json write_section(const Section& section);

constexpr int section_format_version = 2;

} // namespace ng
