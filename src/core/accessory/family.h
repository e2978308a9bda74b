// Accessory families: a family turns a design on a cable into a section, with its marks, handles and checks.
// A new family is one file in this folder and one line in `families()`; nothing else switches on a family.
#pragma once
#include "cable/cable.h"
#include "duty/duty.h"
#include "material/material.h"
#include "section/section.h"
#include <functional>
#include <map>
#include <string>
#include <vector>

namespace ng {

/// An accessory on a cable: what the user set; the rest comes from the family's defaults.
struct Design {
    std::string id;
    std::string title;
    std::string family;
    std::string cable_id;
    Duty duty;
    std::map<std::string, double> numbers;      ///< by parameter key
    std::map<std::string, std::string> choices; ///< by parameter key
    std::string note;
    nlohmann::json unknown = nlohmann::json::object();
};

/// What a family may look at.
struct DesignContext {
    const Design& design;
    const Cable& cable;
    const CableDimensions& dimensions;
    const MaterialTable& materials;
};

enum class ParameterKind { length, permittivity, conductivity, number, choice };

struct ParameterSpec {
    std::string key;   ///< as in the job file, with its unit suffix
    std::string group; ///< heading in the panel
    std::string label;
    std::string help;
    ParameterKind kind = ParameterKind::length;
    double lowest = 0, highest = 0; ///< absurd beyond
    std::function<double(const DesignContext&)> default_value;
    std::vector<std::pair<std::string, std::string>>
        options; ///< choice: value, words; the first is the default
};

/// A layer or body as it is drawn and labelled.
struct Part {
    std::string region; ///< region or electrode of the section
    std::string label;
    std::string hatch;
    bool electrode = false;
};

/// A cut or edge to be marked on the cable, mm from the datum (cable end).
struct Mark {
    std::string label;
    double from_datum_mm = 0;
};

/// A place in BUILD that can be dragged along the cable: parameter = datum_z - z.
struct Handle {
    std::string key;
    std::string label;
    Point at;
};

/// One question to the solved field; limits and voltages by name, so that verdicts need not know families.
struct CheckRequest {
    std::string id;
    std::string title;
    enum class Quantity { tangential, magnitude, edge_peak } quantity = Quantity::tangential;
    std::vector<std::string> places; ///< path names, or edge names for edge_peak
    double from_s_mm = 0;            ///< nothing nearer to the path's start than this is judged
    double edge_s_mm = 0;            ///< where on the path the screen edge is, for readings beside it
    std::string at_level;            ///< "u0" or a level of the duty
    std::string limit_id;
    double divide_by = 1; ///< reference for ratio checks: field of the undisturbed cable at U0
    std::string because;  ///< what it means when it falls short
    std::string cure;     ///< what would help
};

/// Closed-form figure shown while the field is being solved.
struct FirstEstimate {
    std::string check_id;
    double value = 0;
    std::string formula;
};

struct BuiltAccessory {
    Section section;
    double datum_z_mm = 0; ///< z of the datum (cable end); a mark at distance p lies at z = datum_z - p
    double view_z0_mm = 0, view_z1_mm = 0; ///< what is worth seeing, along the cable
    double view_r0_mm = 0, view_r_mm = 0;  ///< and radially: the conductor is shown broken off at view_r0
    std::vector<Part> parts;
    std::vector<Mark> marks;
    std::vector<Handle> handles;
    std::vector<CheckRequest> checks;
    std::vector<FirstEstimate> estimates;
    std::vector<std::string> cautions;
    std::map<std::string, double> derived; ///< such as recovered walls, by words with unit
};

struct Family {
    std::string id;
    std::string title;
    std::vector<ParameterSpec> parameters;
    std::function<Result<BuiltAccessory>(const DesignContext&)> build;

    const ParameterSpec* parameter(const std::string& key) const;
};

const std::vector<Family>& families();
const Family* find_family(const std::string& id);

/// The value of a parameter in this design: the user's or the default.
double number_of(const Family& family, const DesignContext& context, const std::string& key);
std::string choice_of(const Family& family, const DesignContext& context, const std::string& key);

/// Builds after checking every parameter against its range; refusals name the parameter by its label.
Result<BuiltAccessory> build_accessory(const DesignContext& context);

Family heat_shrink_termination();

} // namespace ng
