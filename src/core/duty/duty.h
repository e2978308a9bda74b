// Duty: voltage class, U0, frequency and the test levels of a standards pack, each with its provenance.
#pragma once
#include "units/provenance.h"
#include "units/result.h"
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

namespace ng {

/// One voltage class of a standard: levels by name, such as "pd_extinction_kV".
struct DutyClass {
    double class_kV = 0;
    std::map<std::string, SourcedValue> levels;
};

struct StandardsPack {
    std::string id, title, edition, scope;
    std::map<std::string, std::string> level_titles; ///< level name -> words
    std::vector<std::string> level_order;
    std::vector<DutyClass> classes;
    double pd_limit_pC = 5;
    const DutyClass* find(double class_kV) const;
};

/// Refuses, by item, a pack with a missing, negative or non-increasing value.
Result<StandardsPack> read_standards_pack(const nlohmann::json& document);

/// What a design is asked to hold.
struct Duty {
    std::string standard = "ieee48";
    double class_kV = 15;
    std::optional<double> u0_kV; ///< overrides class / sqrt(3)
    double frequency_hz = 60;
    bool outdoor = true;
    nlohmann::json unknown = nlohmann::json::object();

    double u0() const;
};

/// The class of the duty, or a refusal that names the standard and class.
Result<DutyClass> duty_levels(const Duty& duty, const std::vector<StandardsPack>& packs);

} // namespace ng
