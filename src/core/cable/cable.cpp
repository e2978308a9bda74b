#include "cable/cable.h"
#include "closedform/closedform.h"
#include "io/json_reader.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <stdexcept>

namespace ng {

const std::vector<std::string>& cable_layers() {
    static const std::vector<std::string> names{"conductor",         "conductor screen", "insulation",
                                                "insulation screen", "metallic screen",  "jacket"};
    return names;
}

const CableWords& cable_words() {
    static const CableWords words{.conductor_material = {"copper", "aluminium"},
                                  .stranding = {"compressed", "compact", "class 2", "solid"},
                                  .metallic_screen = {"wires", "tape", "straps", "corrugated tape", "lead"},
                                  .armour = {"none", "round wire", "steel tape", "interlocked"},
                                  .jacket_material = {"polyethylene", "PVC"}};
    return words;
}

const LayerDimension& CableDimensions::layer(const std::string& name) const {
    const auto it = std::find_if(layers.begin(), layers.end(), [&](const auto& l) { return l.name == name; });
    if (it == layers.end()) throw std::logic_error("no layer " + name);
    return *it;
}

Result<CableTables> read_cable_tables(const nlohmann::json& conductors, const nlohmann::json& insulation) {
    if (auto v = check_format(conductors, "needlegauge-conductors", 1, "conductor table"); !v)
        return tl::unexpected(v.error());
    if (auto v = check_format(insulation, "needlegauge-insulation", 1, "insulation table"); !v)
        return tl::unexpected(v.error());
    CableTables tables;
    JsonReader top(conductors, "conductor table");
    for (const auto& value : top.array("conductors", true)) {
        JsonReader in(value, "conductor table");
        CableTables::Conductor row;
        row.size = in.text("size");
        row.stranding = in.text("stranding");
        row.diameter_mm = {in.number("diameter_mm"), "mm", provenance_from_word(in.text("provenance")),
                           in.boolean_or("verified", false), ""};
        if (!in.ok()) return tl::unexpected(*in.error());
        tables.conductors.push_back(row);
    }
    JsonReader second(insulation, "insulation table");
    for (const auto& value : second.array("thicknesses", true)) {
        JsonReader in(value, "insulation table");
        CableTables::Insulation row;
        row.class_kV = in.number("class_kV");
        row.level = in.text("level");
        row.thickness_mm = {in.number("thickness_mm"), "mm", provenance_from_word(in.text("provenance")),
                            in.boolean_or("verified", false), ""};
        if (!in.ok()) return tl::unexpected(*in.error());
        tables.insulations.push_back(row);
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    if (!second.ok()) return tl::unexpected(*second.error());
    return tables;
}

Result<double> conductor_area_mm2(const std::string& size) {
    const auto advice = "Use forms like 240 mm2, 4/0 AWG or 500 kcmil";
    const auto space = size.find_last_of(' ');
    if (space == std::string::npos)
        return refuse("conductor size", fmt::format("“{}” has no unit", size), advice);
    const auto number = size.substr(0, space), unit = size.substr(space + 1);
    double value = 0;
    if (unit == "AWG") {
        if (number == "1/0" || number == "2/0" || number == "3/0" || number == "4/0")
            value = 1.0 - (number[0] - '0');
        else if (auto parsed = parse_number(number, ""); parsed && *parsed >= 1 && *parsed <= 20)
            value = *parsed;
        else
            return refuse("conductor size", fmt::format("“{}” is not an AWG size", size), advice);
        const double diameter_mm = 0.127 * std::pow(92.0, (36 - value) / 39);
        return std::numbers::pi / 4 * diameter_mm * diameter_mm;
    }
    const auto parsed = parse_number(number, "", "conductor size");
    if (!parsed) return tl::unexpected(parsed.error());
    if (!(*parsed > 0) || *parsed > 5000)
        return refuse("conductor size", fmt::format("“{}” is not a cable size", size), advice);
    if (unit == "kcmil") return *parsed * mm2_per_kcmil;
    if (unit == "mm2" || unit == "mm²") return *parsed;
    return refuse("conductor size", fmt::format("“{}” is not a unit of conductor size", unit), advice);
}

namespace {

/// Usual tolerances of what is derived and not measured (common practice, no source).
constexpr double conductor_tolerance = 0.01, thickness_tolerance = 0.06;

/// Fill factors of strandings, for sizes that no table lists (common practice, no source).
double fill_factor(const std::string& stranding) {
    if (stranding == "solid") return 1.0;
    if (stranding == "compressed") return 0.80;
    return 0.90;
}

LayerDimension conductor_dimension(const Cable& cable, double area_mm2, const CableTables& tables) {
    for (const auto& row : tables.conductors)
        if (row.size == cable.conductor_size && row.stranding == cable.stranding)
            return {"conductor", row.diameter_mm.value, row.diameter_mm.value / 2, row.diameter_mm.provenance,
                    "table, " + row.diameter_mm.origin()};
    const double diameter = std::sqrt(4 * area_mm2 / (std::numbers::pi * fill_factor(cable.stranding)));
    return {
        "conductor", diameter, diameter / 2, Provenance::computed,
        fmt::format("from the area at fill factor {:.2f}, common practice", fill_factor(cable.stranding))};
}

Result<LayerDimension> insulation_dimension(const Cable& cable, const CableTables& tables) {
    if (cable.insulation_thickness_mm)
        return LayerDimension{"insulation", 0, *cable.insulation_thickness_mm, Provenance::user, "typed in"};
    for (const auto& row : tables.insulations)
        if (row.class_kV == cable.insulation_class_kV && row.level == cable.insulation_level)
            return LayerDimension{"insulation", 0, row.thickness_mm.value, row.thickness_mm.provenance,
                                  "table, " + row.thickness_mm.origin()};
    return refuse("insulation",
                  fmt::format("the table has no {:g} kV at level {}", cable.insulation_class_kV,
                              cable.insulation_level),
                  "Choose another class or level, or type the thickness");
}

} // namespace

Result<CableDimensions> derive_dimensions(const Cable& cable, const CableTables& tables) {
    CableDimensions out;
    const auto area = conductor_area_mm2(cable.conductor_size);
    if (!area) return tl::unexpected(area.error());
    out.conductor_area_mm2 = *area;
    const auto insulation = insulation_dimension(cable, tables);
    if (!insulation) return tl::unexpected(insulation.error());
    // The jacket of one core lies over its armour; that of three cores is no matter of one core.
    const bool armoured = cable.armour != "none" && cable.cores == 1;
    const double armour = armoured ? cable.armour_thickness_mm + cable.bedding_thickness_mm : 0;
    out.layers = {
        conductor_dimension(cable, *area, tables),
        {"conductor screen", 0, cable.conductor_screen_thickness_mm, Provenance::user, "typed in"},
        *insulation,
        {"insulation screen", 0, cable.insulation_screen_thickness_mm, Provenance::user, "typed in"},
        {"metallic screen", 0, cable.metallic_screen_thickness_mm, Provenance::user, "typed in"},
        {"jacket", 0, cable.jacket_thickness_mm + armour, Provenance::user,
         armoured ? "typed in, over bedding and armour" : "typed in"}};
    double beneath = 0, beneath_uncertainty = 0;
    for (auto& layer : out.layers) {
        if (!std::isfinite(layer.thickness_mm) || layer.thickness_mm < 0.01)
            return refuse(layer.name,
                          fmt::format("a thickness of {} is not possible",
                                      format_length(layer.thickness_mm, LengthUnit::mm)),
                          "Give at least 0.01 mm");
        if (layer.thickness_mm > 100)
            return refuse(layer.name, "it is thicker than 100 mm", "Check the unit");
        layer.diameter_mm = beneath + 2 * layer.thickness_mm;
        const bool is_conductor = &layer == &out.layers.front();
        const double own = is_conductor ? conductor_tolerance * layer.diameter_mm
                                        : 2 * thickness_tolerance * layer.thickness_mm;
        layer.uncertainty_mm = std::hypot(beneath_uncertainty, own);
        const double derived = layer.diameter_mm, derived_uncertainty = layer.uncertainty_mm;
        std::optional<double> measured;
        if (const auto it = cable.measured_diameter_mm.find(layer.name);
            it != cable.measured_diameter_mm.end()) {
            measured = it->second;
            layer.note = "measured diameter";
            layer.uncertainty_mm =
                measured_diameter({{it->second}}, layer.name).value_or(MeasuredDiameter{}).uncertainty_mm;
        }
        if (const auto it = cable.caliper_readings.find(layer.name);
            it != cable.caliper_readings.end() && !it->second.empty()) {
            const auto mean = measured_diameter(it->second, layer.name);
            if (!mean) return tl::unexpected(mean.error());
            measured = mean->mean_mm;
            layer.uncertainty_mm = mean->uncertainty_mm;
            layer.note = fmt::format("mean of {} caliper readings, oval by {:.2f} mm, ± {:.2f} mm (k = 2)",
                                     mean->readings, mean->ovality_mm, mean->uncertainty_mm);
        }
        if (measured) {
            if (!std::isfinite(*measured) || *measured > 500)
                return refuse(layer.name, "its measured diameter is not a usable number",
                              "Measure again, or remove the measured value");
            if (*measured < beneath + 0.02)
                return refuse(layer.name,
                              fmt::format("its measured diameter {} is not above the layer beneath, {}",
                                          format_length(*measured, LengthUnit::mm),
                                          format_length(beneath, LengthUnit::mm)),
                              "Measure again, or remove the measured value");
            const double apart = std::abs(*measured - derived);
            // Typed in thicknesses are the user's own: what tables give is what can be the wrong row.
            const bool of_table =
                is_conductor || (layer.name == "insulation" && !cable.insulation_thickness_mm);
            if (of_table && apart > derived_uncertainty + layer.uncertainty_mm)
                layer.contradiction = fmt::format(
                    "{} measures {:.1f} mm ± {:.1f}, but {} gives {:.1f} mm ± {:.1f}: another {}, or another "
                    "layer?",
                    layer.name, *measured, layer.uncertainty_mm,
                    is_conductor ? cable.conductor_size + " " + cable.stranding
                                 : fmt::format("{:g} kV at level {} over what lies beneath",
                                               cable.insulation_class_kV, cable.insulation_level),
                    derived, derived_uncertainty, is_conductor ? "size or stranding" : "class or level");
            layer.diameter_mm = *measured;
            layer.thickness_mm = (layer.diameter_mm - beneath) / 2;
            layer.provenance = Provenance::measured;
        }
        beneath = layer.diameter_mm;
        beneath_uncertainty = layer.uncertainty_mm;
    }
    return out;
}

OverallDimensions overall_dimensions(const Cable& cable, const CableDimensions& dimensions) {
    OverallDimensions out;
    const double core = dimensions.layer("metallic screen").diameter_mm;
    const bool armoured = cable.armour != "none";
    out.laid_up_mm = cable.cores == 3 ? core * (1 + 2 / std::sqrt(3.0)) : core;
    double over = out.laid_up_mm;
    if (armoured) {
        over = out.bedding_mm = over + 2 * cable.bedding_thickness_mm;
        over = out.armour_mm = over + 2 * cable.armour_thickness_mm;
    }
    // A measured diameter goes before what the layers add up to.
    const bool measured =
        cable.measured_diameter_mm.contains("jacket") || cable.caliper_readings.contains("jacket");
    out.jacket_mm = cable.cores == 3 && !measured ? over + 2 * cable.jacket_thickness_mm
                                                  : dimensions.layer("jacket").diameter_mm;
    return out;
}

CableElectrical cable_electrical(const CableDimensions& dimensions, double insulation_eps_r, double u0_kV,
                                 double frequency_hz) {
    const double inner = dimensions.radius_mm("conductor screen"), outer = dimensions.radius_mm("insulation");
    const closedform::RadialLayer layer[] = {{outer, insulation_eps_r}};
    const double capacitance = closedform::capacitance_F_per_m(inner, layer);
    return {capacitance, closedform::charging_current_A_per_m(capacitance, u0_kV, frequency_hz),
            closedform::radial_field_kV_per_mm(u0_kV, inner, layer, inner),
            closedform::radial_field_kV_per_mm(u0_kV, inner, layer, outer)};
}

} // namespace ng
