#include "io/json_reader.h"
#include "section/outline_json.h"
#include "section/section.h"
#include "section/section_fields.h"
#include <fmt/format.h>

namespace ng {
namespace {
using nlohmann::json;
using nlohmann::ordered_json;

// What check_fields() has passed has every required field, of its type.

Point read_point(const json& value) {
    return {value[0].get<double>(), value[1].get<double>()};
}

std::vector<Point> read_points(const json& list) {
    std::vector<Point> points;
    for (const auto& value : list) points.push_back(read_point(value));
    return points;
}

std::vector<std::pair<double, double>> read_rows(const json& list) {
    std::vector<std::pair<double, double>> rows;
    for (const auto& row : list) rows.emplace_back(row[0].get<double>(), row[1].get<double>());
    return rows;
}

ordered_json point_json(Point p) {
    return ordered_json::array({p.r, p.z});
}

ordered_json points_json(const std::vector<Point>& points) {
    auto list = ordered_json::array();
    for (const auto& p : points) list.push_back(point_json(p));
    return list;
}

SectionMaterial read_material(const json& value) {
    SectionMaterial material;
    material.eps_r = value["eps_r"];
    material.title = value.value("title", "");
    if (value.contains("eps_r_by_frequency"))
        material.eps_r_by_frequency = read_rows(value["eps_r_by_frequency"]);
    material.eps_provenance = value.value("eps_provenance", "");
    if (!value.contains("conduction")) return material;
    const auto& law = value["conduction"];
    Conduction c;
    c.law = law["law"];
    c.sigma0_S_per_m = law.value("sigma0_S_per_m", c.sigma0_S_per_m);
    c.E0_kV_per_mm = law.value("E0_kV_per_mm", c.E0_kV_per_mm);
    c.exponent = law.value("exponent", c.exponent);
    c.a = law.value("a", c.a);
    c.field = law.value("field", "");
    if (law.contains("table")) c.table = read_rows(law["table"]);
    c.provenance = law.value("provenance", "");
    if (law.contains("temperature")) {
        c.per_kelvin = law["temperature"]["per_kelvin"];
        c.reference_C = law["temperature"]["reference_C"];
        c.actual_C = law["temperature"]["actual_C"];
    }
    material.conduction = c;
    return material;
}

ordered_json material_json(const SectionMaterial& material) {
    ordered_json out{{"eps_r", material.eps_r}};
    if (!material.title.empty()) out["title"] = material.title;
    for (const auto& [hz, eps_r] : material.eps_r_by_frequency)
        out["eps_r_by_frequency"].push_back({hz, eps_r});
    if (!material.eps_provenance.empty()) out["eps_provenance"] = material.eps_provenance;
    if (material.conduction) {
        const auto& c = *material.conduction;
        ordered_json law{{"law", c.law}};
        if (c.law != "table") law["sigma0_S_per_m"] = c.sigma0_S_per_m;
        if (c.law == "power") law["E0_kV_per_mm"] = c.E0_kV_per_mm;
        if (c.law == "power" || c.law == "exponential") law["exponent"] = c.exponent;
        if (c.law == "exponential") law["a"] = c.a;
        if (!c.field.empty()) law["field"] = c.field;
        for (const auto& [field, sigma] : c.table) law["table"].push_back({field, sigma});
        if (c.per_kelvin != 0)
            law["temperature"] = {
                {"per_kelvin", c.per_kelvin}, {"reference_C", c.reference_C}, {"actual_C", c.actual_C}};
        if (!c.provenance.empty()) law["provenance"] = c.provenance;
        out["conduction"] = law;
    }
    return out;
}

/// Fills one list of items; `take` reads an item's own fields.
template <class Item, class Take>
Result<void> read_list(const json& document, const char* key, const char* kind, std::vector<Item>& into,
                       Take take) {
    if (!document.contains(key)) return {};
    for (const auto& value : document[key]) {
        Item item;
        item.name = value["name"];
        if (auto ok = take(value, fmt::format("{} {}", kind, item.name), item); !ok) return ok;
        into.push_back(std::move(item));
    }
    return {};
}

Result<void> store(Outline& into, Result<Outline> value) {
    if (!value) return tl::unexpected(value.error());
    into = std::move(*value);
    return {};
}

std::optional<double> optional_number(const json& object, const char* key) {
    return object.contains(key) ? std::optional<double>(object[key].get<double>()) : std::nullopt;
}

/// The settings of single analyses.
void read_runs(const json& document, Section& section) {
    if (document.contains("impulse")) {
        const auto& in = document["impulse"];
        auto& wave = section.impulse;
        wave.front_us = in["front_us"];
        wave.tail_us = in["tail_us"];
        wave.negative = in.value("polarity", "positive") == "negative";
        wave.chopped_at_us = optional_number(in, "chopped_at_us");
        wave.duration_us = optional_number(in, "duration_us");
    }
    if (document.contains("nonlinear")) {
        const auto& in = document["nonlinear"];
        section.cycles.in_time = in["method"] == "time";
        section.cycles.most_cycles = in.value("most_cycles", section.cycles.most_cycles);
    }
    if (document.contains("dc")) {
        section.dc_duration_s = document["dc"]["duration_s"].get<double>();
        section.dc_ramp_s = document["dc"].value("ramp_s", 0.0);
    }
}

void write_runs(const Section& section, ordered_json& out) {
    const Section plain;
    if (section.impulse != plain.impulse || section.analysis == Analysis::impulse) {
        const auto& wave = section.impulse;
        out["impulse"] = {{"front_us", wave.front_us},
                          {"tail_us", wave.tail_us},
                          {"polarity", wave.negative ? "negative" : "positive"}};
        if (wave.chopped_at_us) out["impulse"]["chopped_at_us"] = *wave.chopped_at_us;
        if (wave.duration_us) out["impulse"]["duration_us"] = *wave.duration_us;
    }
    if (section.cycles != plain.cycles)
        out["nonlinear"] = {{"method", section.cycles.in_time ? "time" : "phasor"},
                            {"most_cycles", section.cycles.most_cycles}};
    if (section.dc_duration_s) {
        out["dc"] = {{"duration_s", *section.dc_duration_s}};
        if (section.dc_ramp_s > 0) out["dc"]["ramp_s"] = section.dc_ramp_s;
    }
}

} // namespace

Result<Outline> read_outline(const json& list, const std::string& item) {
    if (list.size() < 2) return refuse(item, "its outline has fewer than two entries", "Give a closed shape");
    Outline outline;
    outline.start = read_point(list[0]);
    for (std::size_t i = 1; i < list.size(); ++i) {
        const auto& value = list[i];
        OutlineStep step;
        if (!value.is_object()) {
            step.to = read_point(value);
        } else if (value.contains("to")) {
            step.to = read_point(value["to"]);
        } else {
            step.to = read_point(value["arc_to"]);
            step.centre = read_point(value["centre"]);
            step.name = value.value("name", "");
            if (value.contains("clockwise")) step.clockwise = value["clockwise"].get<bool>();
        }
        outline.steps.push_back(step);
    }
    return outline;
}

ordered_json outline_json(const Outline& outline) {
    auto list = ordered_json::array({point_json(outline.start)});
    for (const auto& step : outline.steps) {
        if (!step.centre) {
            list.push_back(point_json(step.to));
            continue;
        }
        ordered_json arc{{"arc_to", point_json(step.to)}, {"centre", point_json(*step.centre)}};
        if (step.clockwise) arc["clockwise"] = *step.clockwise;
        if (!step.name.empty()) arc["name"] = step.name;
        list.push_back(arc);
    }
    return list;
}

Result<Section> read_section(const json& document) {
    if (auto version = check_format(document, "needlegauge-section", section_format_version, "section");
        !version)
        return tl::unexpected(version.error());
    if (auto known = check_fields(document, section_fields(), "section"); !known)
        return tl::unexpected(known.error());
    Section section;
    section.symmetry = document["symmetry"] == "planar" ? Symmetry::planar : Symmetry::axisymmetric;
    section.frequency_hz = document.value("frequency_hz", section.frequency_hz);
    section.analysis = // a word of the table of fields
        analysis_from_word(document.value("analysis", analysis_word(section.analysis)))
            .value_or(section.analysis);
    for (const auto& [name, value] : document["materials"].items())
        section.materials[name] = read_material(value);
    auto ok = read_list(document, "regions", "region", section.regions,
                        [](const json& in, const std::string& item, Region& region) {
                            region.material = in["material"];
                            region.covers_electrodes = in.value("covers_electrodes", false);
                            return store(region.outline, read_outline(in["outline"], item));
                        });
    if (ok)
        ok = read_list(document, "electrodes", "electrode", section.electrodes,
                       [](const json& in, const std::string& item, Electrode& electrode) {
                           electrode.floating = in.value("floating", false);
                           electrode.voltage_kV = in.value("voltage_kV", 0.0);
                           return store(electrode.outline, read_outline(in["outline"], item));
                       });
    if (!ok) return tl::unexpected(ok.error());
    const auto take_boundary = [](const json& in, const std::string&, Boundary& boundary) -> Result<void> {
        boundary.voltage_kV = in["voltage_kV"];
        boundary.along = read_points(in["along"]);
        return {};
    };
    const auto take_path = [](const json& in, const std::string&, Path& path) -> Result<void> {
        path.side = in["side"];
        path.points = read_points(in["points"]);
        return {};
    };
    const auto take_probe = [](const json& in, const std::string&, Probe& probe) -> Result<void> {
        probe.side = in["side"];
        probe.at = read_point(in["at"]);
        return {};
    };
    ok = read_list(document, "boundaries", "boundary", section.boundaries, take_boundary);
    if (ok) ok = read_list(document, "paths", "path", section.paths, take_path);
    if (ok) ok = read_list(document, "probes", "probe", section.probes, take_probe);
    if (!ok) return tl::unexpected(ok.error());
    read_runs(document, section);
    if (auto valid = validate(section); !valid) return tl::unexpected(valid.error());
    return section;
}

Result<Section> read_section_text(const std::string& text, const std::string& file_name) {
    auto document = parse_json(text, file_name);
    if (!document) return tl::unexpected(document.error());
    return read_section(*document);
}

ordered_json write_section(const Section& section) {
    ordered_json out;
    out["format"] = "needlegauge-section";
    out["version"] = section_format_version;
    out["symmetry"] = section.symmetry == Symmetry::planar ? "planar" : "axisymmetric";
    out["analysis"] = analysis_word(section.analysis);
    out["frequency_hz"] = section.frequency_hz;
    write_runs(section, out);
    for (const auto& [name, material] : section.materials) out["materials"][name] = material_json(material);
    for (const auto& region : section.regions) {
        ordered_json item{
            {"name", region.name}, {"material", region.material}, {"outline", outline_json(region.outline)}};
        if (region.covers_electrodes) item["covers_electrodes"] = true;
        out["regions"].push_back(std::move(item));
    }
    for (const auto& electrode : section.electrodes) {
        ordered_json item{{"name", electrode.name}};
        if (electrode.floating)
            item["floating"] = true;
        else
            item["voltage_kV"] = electrode.voltage_kV;
        item["outline"] = outline_json(electrode.outline);
        out["electrodes"].push_back(item);
    }
    for (const auto& boundary : section.boundaries)
        out["boundaries"].push_back({{"name", boundary.name},
                                     {"voltage_kV", boundary.voltage_kV},
                                     {"along", points_json(boundary.along)}});
    for (const auto& path : section.paths)
        out["paths"].push_back(
            {{"name", path.name}, {"points", points_json(path.points)}, {"side", path.side}});
    for (const auto& probe : section.probes)
        out["probes"].push_back({{"name", probe.name}, {"at", point_json(probe.at)}, {"side", probe.side}});
    return out;
}

} // namespace ng
