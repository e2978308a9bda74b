// Duty: voltage class, U0, frequency, site, and the test levels of a standards pack, each with its
// provenance.
#pragma once
#include "units/provenance.h"
#include "units/result.h"
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <tuple>
#include <vector>

namespace ng {

/// What a test or a level asks of an accessory: the schedule answers each kind with its own analysis and
/// limits, and checks ask for a kind, never for a level's name. `service` (U0, the highest voltage, an earth
/// fault of any duration) and `geometry` are no levels of a pack.
enum class TestKind { service, geometry, highest, extinction, ac_minutes, wet, fog, ac_hours, dc, impulse };
/// Of a level in a standards pack; nothing for an unknown word.
std::optional<TestKind> test_kind_from_word(const std::string& word);
const char* test_kind_word(TestKind kind);
/// "kV rms", "kV peak" or "kV".
const char* test_unit(TestKind kind);

/// One test of a standard, for all its classes.
struct LevelSpec {
    std::string name;  ///< key of the values in the pack's file, such as "pd_extinction_kV": any name will do
    std::string title; ///< in words
    TestKind kind = TestKind::highest;
    double duration_s = 0; ///< 0: none is stated
    std::optional<double>
        u0_multiple;      ///< the rule behind the values, where it is one; a class may have its own
    double prestress = 1; ///< of an extinction test: raised to so many times the level first
    bool outdoor_only = false, indoor_only = false;
    std::optional<double> conductor_C; ///< of an impulse test on a hot cable: temperature of its conductor
    double film_uS = 0;                ///< of a fog test: conductance of the film that it leaves, per square
    bool line_to_line = false;         ///< of the highest voltage: between lines; else to earth
};

/// One voltage class of a standard: levels by name.
struct DutyClass {
    double class_kV = 0;
    std::optional<double> u0_kV; ///< where the standard does not mean class / sqrt(3)
    std::map<std::string, SourcedValue> levels;
    std::vector<LevelSpec> specs; ///< of the pack, in its order, with this class's multiples

    double u0() const;
    /// The level of this kind; of several the one with the highest voltage, pre-stress included. None: the
    /// pack has none of this kind.
    const LevelSpec* of_kind(TestKind kind) const;
    /// Of one of `specs`.
    const SourcedValue& value_of(const LevelSpec& spec) const { return levels.at(spec.name); }
};
/// "Not judged: the standards pack has no level of kind “extinction”."
std::string no_level_words(TestKind kind);

struct StandardsPack {
    std::string id, title, edition, scope;
    bool in_scope = true; ///< false: its levels are shown, the schedule says that they are out of scope
    std::vector<LevelSpec> specs;
    std::vector<DutyClass> classes;
    double pd_limit_pC = 5;
    const DutyClass* find(double class_kV) const;
    /// The class that a cable of this class is made for: the lowest that is not below it, names rounded (34.5
    /// and 35 kV are one). None: the cable is above all of them.
    const DutyClass* for_cable(double cable_class_kV) const;
};

/// Refuses, by item, a pack with a missing, negative or non-increasing value, or one whose values contradict
/// each other: a multiple of U0 that a value misses by more than 5 %, a wet or longer test above the short
/// dry one, an extinction voltage above a withstand voltage.
Result<StandardsPack> read_standards_pack(const nlohmann::json& document);
constexpr int standards_format_version = 2;
nlohmann::ordered_json write_standards_pack(const StandardsPack& pack);

/// Key of Job::level_overrides, such as "ieee48/15/bil_kV".
std::string level_key(const std::string& standard, double class_kV, const std::string& level);
/// The packs with a job's overrides in place. Refuses what they contradict.
Result<std::vector<StandardsPack>> with_overrides(std::vector<StandardsPack> packs,
                                                  const std::map<std::string, Override>& by_key);

/// What a design is asked to hold.
struct Duty {
    std::string standard = "ieee48";
    double class_kV = 15;
    std::optional<double> u0_kV; ///< overrides that of the class
    double frequency_hz = 60;
    bool outdoor = true;
    double altitude_m = 0;
    double ambient_C = 20;
    std::string pollution = "medium"; ///< one of pollution_levels
    double wet_film_Mohm = 1; ///< surface resistance of the conductive film of the wet test, per square
    /// Clear distances in air as installed, between live parts of two phases and to earth; none: nobody said.
    std::optional<double> phase_clearance_mm, earth_clearance_mm;
    nlohmann::json unknown = nlohmann::json::object();
    double class_u0_kV = 0; ///< of the standards pack, once looked up; 0: class / sqrt(3)

    double u0() const;
    auto fields() const {
        return std::tie(standard, class_kV, u0_kV, frequency_hz, outdoor, altitude_m, ambient_C, pollution,
                        wet_film_Mohm, phase_clearance_mm, earth_clearance_mm, unknown, class_u0_kV);
    }
    friend bool operator==(const Duty&, const Duty&) = default;
};

/// Specific creepage, mm per kV of the highest phase-to-phase voltage, by pollution level: 12.7 to 31
/// (IEC 60815 of 1986, from memory). Nothing for an unknown level.
std::optional<double> specific_creepage_mm_per_kV(const std::string& pollution);
extern const std::vector<std::string> pollution_levels;
/// All levels with both ways of stating them: "very light 12.7 / 22.0, light 16 / 27.8, ...".
std::string specific_creepage_words();

/// Factor on external withstand voltages above 1000 m: exp((altitude - 1000) / 8150), 1 below (IEC 62271-1
/// with exponent 1, from memory).
double altitude_factor(double altitude_m);

/// The class of the duty, or a refusal that names the standard and class.
Result<DutyClass> duty_levels(const Duty& duty, const std::vector<StandardsPack>& packs);

} // namespace ng
