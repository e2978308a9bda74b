// Random legal changes of sections: shapes, materials, voltages, analyses, and probes anywhere.
#pragma once
#include "random_designs.h"
#include "section/voltages.h"
#include "section_changes.h"
#include <filesystem>
#include <fstream>
#include <random>
#include <sstream>

namespace ng::test {

class Chance {
  public:
    explicit Chance(unsigned long seed) : generator_(seed) {}
    double between(double a, double b) { return std::uniform_real_distribution<>(a, b)(generator_); }
    bool once_in(double n) { return between(0, n) < 1; }
    double log_between(double a, double b) { return std::pow(10, between(std::log10(a), std::log10(b))); }
    std::size_t below(std::size_t n) {
        return std::uniform_int_distribution<std::size_t>(0, n - 1)(generator_);
    }
    std::mt19937& generator() { return generator_; }

  private:
    std::mt19937 generator_;
};

/// Whether a line z = at meets no arc, nor comes near one's centre.
inline bool clear_of_arcs(const Section& s, double at) {
    bool clear = true;
    const auto outline = [&](const Outline& o) {
        Point from = o.start;
        for (const auto& step : o.steps) {
            if (step.centre) {
                const double low = std::min({from.z, step.to.z, step.centre->z}),
                             high = std::max({from.z, step.to.z, step.centre->z});
                clear = clear && (at < low - 1e-3 || at > high + 1e-3);
            }
            from = step.to;
        }
    };
    for (const auto& region : s.regions) outline(region.outline);
    for (const auto& electrode : s.electrodes) outline(electrode.outline);
    return clear;
}

/// What lies above some height moved up or down, lines between drawn out; all lengths scaled; the section
/// shifted.
inline void change_shapes(Section& s, Chance& chance) {
    double low = 1e9, high = -1e9;
    for (const auto& region : s.regions)
        for (const auto& p : polygon_of(region.outline, 0.3))
            low = std::min(low, p.z), high = std::max(high, p.z);
    for (int cut = 0; cut < 3; ++cut) {
        const double at = chance.between(low, high), by = chance.between(-0.03, 0.1) * (high - low);
        if (!clear_of_arcs(s, at)) continue;
        auto moved = changed(s, [&](Point& p) { p.z += p.z > at ? by : 0; });
        if (validate(moved)) s = moved;
    }
    const double scale = chance.log_between(0.6, 1.7), shift = chance.between(-50, 50);
    auto moved = changed(s, [&](Point& p) { p = {scale * p.r, scale * p.z + shift}; });
    if (validate(moved)) s = moved;
}

/// Probes at random places of random regions.
inline void add_probes(Section& s, Chance& chance, int count) {
    s.probes.clear();
    for (int k = 0; k < count * 20 && static_cast<int>(s.probes.size()) < count; ++k) {
        const auto& region = s.regions[chance.below(s.regions.size())];
        Point low{1e9, 1e9}, high{-1e9, -1e9};
        for (const auto& p : polygon_of(region.outline, 0.3)) {
            low = {std::min(low.r, p.r), std::min(low.z, p.z)};
            high = {std::max(high.r, p.r), std::max(high.z, p.z)};
        }
        auto with = s;
        with.probes.push_back({fmt::format("probe {}", s.probes.size() + 1),
                               {chance.between(low.r, high.r), chance.between(low.z, high.z)},
                               region.name});
        if (validate(with)) s = with;
    }
}

inline void change_materials(Section& s, Chance& chance) {
    for (auto& [name, material] : s.materials)
        if (material.eps_r > 1) material.eps_r = std::max(1.0, material.eps_r * chance.log_between(0.6, 2));
    const double factor = chance.log_between(0.3, 3);
    scale_voltages(s, factor);
}

/// One of the analyses that this section can be given, with conduction to suit.
inline void change_analysis(Section& s, Chance& chance, const std::string& wanted) {
    s.frequency_hz = chance.log_between(0.1, 1e5);
    s.cycles = {};
    s.impulse = {};
    s.dc_duration_s.reset();
    for (auto& [name, material] : s.materials) material.conduction.reset();
    const auto conduct = [&](double least, double most, double share, bool field_dependent) {
        for (auto& [name, material] : s.materials) {
            if (chance.between(0, 1) > share) continue;
            Conduction law;
            law.law = "constant";
            law.sigma0_S_per_m = chance.log_between(least, most);
            if (field_dependent && chance.once_in(2)) {
                law.law = "power";
                law.E0_kV_per_mm = chance.between(0.3, 3);
                law.exponent = chance.between(1, 5);
                law.field = "peak";
            }
            material.conduction = law;
        }
    };
    if (wanted == "capacitive") {
        s.analysis = *analysis_from_word(wanted);
    } else if (wanted == "complex") {
        s.analysis = *analysis_from_word(wanted);
        conduct(1e-12, 1e-5, 0.5, false);
    } else if (wanted == "nonlinear") {
        s.analysis = *analysis_from_word(wanted);
        s.frequency_hz = chance.between(16, 100);
        conduct(1e-11, 1e-8, 0.4, true);
    } else if (wanted == "dc") {
        s.analysis = *analysis_from_word(wanted);
        conduct(1e-18, 1e-10, 1, chance.once_in(3));
    } else if (wanted == "dc step") {
        s.analysis = Analysis::dc;
        conduct(1e-16, 1e-11, 1, chance.once_in(4));
        s.dc_duration_s = chance.log_between(1, 1e4);
    } else { // impulse
        s.analysis = Analysis::impulse;
        conduct(1e-9, 1e-3, 0.4, chance.once_in(3));
        s.impulse.negative = chance.once_in(2);
        if (chance.once_in(4))
            s.impulse.front_us = 250, s.impulse.tail_us = 2500;
        else if (chance.once_in(3))
            s.impulse.chopped_at_us = chance.between(1, 6);
    }
}

/// Sections to begin with: files of the reference sections and of the demo designs, and the random designs of
/// all families.
inline std::optional<Section> base_section(Chance& chance, const std::string& reference_dir,
                                           const Library& library) {
    static const auto files = [&] {
        std::vector<std::filesystem::path> out;
        for (const char* folder : {"sections", "designs"})
            for (const auto& entry :
                 std::filesystem::directory_iterator(std::filesystem::path(reference_dir) / folder))
                if (entry.path().extension() == ".ngsection") out.push_back(entry.path());
        std::sort(out.begin(), out.end());
        return out;
    }();
    if (chance.once_in(3)) {
        const auto& family = FamilyTable::shipped()[chance.below(FamilyTable::shipped().size())];
        const auto job = random_job(family, chance.generator());
        const auto prepared = prepare_design(job, "random", library);
        if (!prepared) return std::nullopt;
        return prepared->built.section;
    }
    std::ifstream in(files[chance.below(files.size())]);
    std::stringstream text;
    text << in.rdbuf();
    auto section = read_section_text(text.str(), "base");
    if (!section) return std::nullopt;
    return *section;
}

} // namespace ng::test
