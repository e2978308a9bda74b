// A cable core, extruded or paper-insulated, layer by layer. Every diameter is derived from the layers
// beneath, or overridden by a measured value; each says where it comes from.
#pragma once
#include "cable/measurement.h"
#include "units/provenance.h"
#include "units/result.h"
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <tuple>
#include <vector>

namespace ng {

/// What the user describes. Thicknesses and diameters mm; ids of materials as in the materials table.
struct Cable {
    std::string id;
    std::string title;
    int cores = 1;                             ///< 1 or 3; dimensions are those of one core
    std::string conductor_size = "4/0 AWG";    ///< "240 mm2", "4/0 AWG", "500 kcmil"
    std::string conductor_material = "copper"; ///< or "aluminium"
    std::string stranding = "compressed";      ///< "compressed", "compact", "class 2", "solid"
    double conductor_screen_thickness_mm = 0.5;
    std::string insulation_material = "xlpe";      ///< "xlpe", "tr-xlpe", "epr", "paper"
    double insulation_class_kV = 15;               ///< with the level, looks the thickness up
    std::string insulation_level = "100%";         ///< "100%", "133%", "173%", "IEC"
    std::optional<double> insulation_thickness_mm; ///< overrides class and level
    double insulation_screen_thickness_mm = 0.8;
    bool strippable_screen = true;
    std::string metallic_screen = "wires";     ///< of cable_words().metallic_screen
    double metallic_screen_thickness_mm = 1.3; ///< wire diameter, tape build, corrugation, wall of a sheath
    std::string armour = "none"; ///< "none", "round wire", "steel tape", "interlocked"; of all cores together
    double armour_thickness_mm = 2.0, bedding_thickness_mm = 1.4; ///< where there is armour
    std::string jacket_material = "polyethylene";                 ///< or "PVC"
    double jacket_thickness_mm = 2.0;
    std::map<std::string, double> measured_diameter_mm; ///< by layer name: overrides the derived diameter
    std::map<std::string, std::vector<CaliperReading>>
        caliper_readings; ///< by layer name: their mean goes before `measured_diameter_mm`
    nlohmann::json unknown = nlohmann::json::object(); ///< fields of the file that this version does not know
    auto fields() const {
        return std::tie(id, title, cores, conductor_size, conductor_material, stranding,
                        conductor_screen_thickness_mm, insulation_material, insulation_class_kV,
                        insulation_level, insulation_thickness_mm, insulation_screen_thickness_mm,
                        strippable_screen, metallic_screen, metallic_screen_thickness_mm, armour,
                        armour_thickness_mm, bedding_thickness_mm, jacket_material, jacket_thickness_mm,
                        measured_diameter_mm, caliper_readings, unknown);
    }
    friend bool operator==(const Cable&, const Cable&) = default;
};

/// The words that fields of a cable may hold; the first is the usual one.
struct CableWords {
    std::vector<std::string> conductor_material, stranding, metallic_screen, armour, jacket_material;
};
const CableWords& cable_words();

/// Names of the layers from inside out: keys of `measured_diameter_mm`.
const std::vector<std::string>& cable_layers();

struct LayerDimension {
    std::string name;
    double diameter_mm = 0;  ///< outer
    double thickness_mm = 0; ///< radial; of the conductor its radius
    Provenance provenance = Provenance::computed;
    std::string note;          ///< such as "table: compressed, from memory"
    double uncertainty_mm = 0; ///< of the diameter, expanded (k = 2): from readings, or from usual tolerances
    std::string contradiction =
        {}; ///< a measured diameter beside what size, class and level give; empty: none
};

struct CableDimensions {
    std::vector<LayerDimension> layers;
    double conductor_area_mm2 = 0;
    const LayerDimension& layer(const std::string& name) const;
    double radius_mm(const std::string& name) const { return layer(name).diameter_mm / 2; }
};

/// Conductor and insulation tables (data/cables).
struct CableTables {
    struct Conductor {
        std::string size, stranding;
        SourcedValue diameter_mm;
    };
    struct Insulation {
        double class_kV;
        std::string level;
        SourcedValue thickness_mm;
    };
    std::vector<Conductor> conductors;
    std::vector<Insulation> insulations;
};
Result<CableTables> read_cable_tables(const nlohmann::json& conductors, const nlohmann::json& insulation);

/// Area in mm^2 of "240 mm2", "4/0 AWG" (ASTM B258: d = 0.127 mm x 92^((36-n)/39)), "500 kcmil".
Result<double> conductor_area_mm2(const std::string& size);

/// All diameters. Refuses by layer: unknown size, thickness not above zero, layers that overlap after
/// measured values.
Result<CableDimensions> derive_dimensions(const Cable& cable, const CableTables& tables);

/// Diameters over what lies over all cores together; of one core without armour only the jacket's.
struct OverallDimensions {
    double laid_up_mm = 0;                ///< over the cores: three touch one another
    double bedding_mm = 0, armour_mm = 0; ///< 0: there is none
    double jacket_mm = 0;
};
OverallDimensions overall_dimensions(const Cable& cable, const CableDimensions& dimensions);

/// Electrical figures at a voltage to earth.
struct CableElectrical {
    double capacitance_F_per_m;
    double charging_current_A_per_m;
    double stress_conductor_screen_kV_per_mm;  ///< at the conductor screen
    double stress_insulation_screen_kV_per_mm; ///< just inside the insulation screen
};
CableElectrical cable_electrical(const CableDimensions& dimensions, double insulation_eps_r, double u0_kV,
                                 double frequency_hz);

} // namespace ng
