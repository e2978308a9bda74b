#include "io/json_reader.h"
#include "section/section.h"
#include <fmt/format.h>

namespace ng {
namespace {
using nlohmann::json;
using nlohmann::ordered_json;

Result<Point> read_point(const json& value, const std::string& item) {
    if (!value.is_array() || value.size() != 2 || !value[0].is_number() || !value[1].is_number())
        return refuse(item, fmt::format("{} is not a point", value.dump().substr(0, 40)),
                      "Write it as [r, z] in mm");
    const Point p{value[0].get<double>(), value[1].get<double>()};
    if (!std::isfinite(p.r) || !std::isfinite(p.z))
        return refuse(item, "a coordinate is not a finite number", "Write it as [r, z] in mm");
    return p;
}

Result<std::vector<Point>> read_points(const json& list, const std::string& item) {
    std::vector<Point> points;
    for (const auto& value : list) {
        const auto p = read_point(value, item);
        if (!p) return tl::unexpected(p.error());
        points.push_back(*p);
    }
    return points;
}

Result<Outline> read_outline(const json& list, const std::string& item) {
    if (list.size() < 2) return refuse(item, "its outline has fewer than two entries", "Give a closed shape");
    const auto start = read_point(list[0], item);
    if (!start) return tl::unexpected(start.error());
    Outline outline;
    outline.start = *start;
    for (std::size_t i = 1; i < list.size(); ++i) {
        const auto& value = list[i];
        OutlineStep step;
        const bool arc = value.is_object() && value.contains("arc_to");
        if (value.is_object() && !arc && !value.contains("to"))
            return refuse(item, fmt::format("outline entry {} is neither a point nor an arc", i + 1),
                          "Use [r, z], {\"to\": …} or {\"arc_to\": …, \"centre\": …}");
        const auto to = read_point(!value.is_object() ? value : arc ? value["arc_to"] : value["to"], item);
        if (!to) return tl::unexpected(to.error());
        step.to = *to;
        if (arc) {
            if (!value.contains("centre"))
                return refuse(item, "an arc has no centre", "Add \"centre\": [r, z]");
            const auto centre = read_point(value["centre"], item);
            if (!centre) return tl::unexpected(centre.error());
            step.centre = *centre;
            JsonReader in(value, item);
            step.name = in.text_or("name", "");
            if (value.contains("clockwise")) step.clockwise = in.boolean_or("clockwise", false);
            if (!in.ok()) return tl::unexpected(*in.error());
        }
        outline.steps.push_back(step);
    }
    return outline;
}

ordered_json point_json(Point p) {
    return ordered_json::array({p.r, p.z});
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

ordered_json points_json(const std::vector<Point>& points) {
    auto list = ordered_json::array();
    for (const auto& p : points) list.push_back(point_json(p));
    return list;
}

Result<SectionMaterial> read_material(const std::string& name, const json& value) {
    SectionMaterial material;
    JsonReader in(value, "material " + name);
    material.eps_r = in.number("eps_r");
    material.title = in.text_or("title", "");
    if (in.ok() && value.contains("conduction")) {
        JsonReader law(in.object("conduction"), "material " + name);
        Conduction c;
        c.law = law.text("law");
        c.sigma0_S_per_m = law.number_or("sigma0_S_per_m", 0);
        c.E0_kV_per_mm = law.number_or("E0_kV_per_mm", 0);
        c.exponent = law.number_or("exponent", 0);
        c.a = law.number_or("a", 0);
        c.field = law.text_or("field", "");
        for (const auto& row : law.array("table")) {
            if (!row.is_array() || row.size() != 2 || !row[0].is_number() || !row[1].is_number())
                return refuse("material " + name, "a table row is not [field, conductivity]",
                              "Correct the table");
            c.table.emplace_back(row[0].get<double>(), row[1].get<double>());
        }
        c.provenance = law.text_or("provenance", "");
        if (law.ok()) {
            JsonReader heat(law.object("temperature"), "material " + name);
            c.per_kelvin = heat.number_or("per_kelvin", 0);
            c.reference_C = heat.number_or("reference_C", 20);
            c.actual_C = heat.number_or("actual_C", c.reference_C);
            if (!heat.ok()) return tl::unexpected(*heat.error());
        }
        if (!law.ok()) return tl::unexpected(*law.error());
        material.conduction = c;
    }
    if (!in.ok()) return tl::unexpected(*in.error());
    return material;
}

ordered_json material_json(const SectionMaterial& material) {
    ordered_json out{{"eps_r", material.eps_r}};
    if (!material.title.empty()) out["title"] = material.title;
    if (material.conduction) {
        const auto& c = *material.conduction;
        ordered_json law{{"law", c.law}, {"sigma0_S_per_m", c.sigma0_S_per_m}};
        if (c.E0_kV_per_mm != 0) law["E0_kV_per_mm"] = c.E0_kV_per_mm;
        if (c.exponent != 0) law["exponent"] = c.exponent;
        if (c.a != 0) law["a"] = c.a;
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

/// Fills one list of named items; `take` reads the item's own fields.
template <class Item, class Take>
Result<void> read_list(JsonReader& top, const char* key, const char* kind, std::vector<Item>& into,
                       Take take) {
    std::size_t count = 0;
    for (const auto& value : top.array(key)) {
        ++count;
        JsonReader in(value, fmt::format("{} {}", kind, count));
        Item item;
        item.name = in.text("name");
        if (!in.ok()) return tl::unexpected(*in.error());
        JsonReader named(value, fmt::format("{} {}", kind, item.name));
        if (auto ok = take(named, item); !ok) return tl::unexpected(ok.error());
        if (!named.ok()) return tl::unexpected(*named.error());
        into.push_back(std::move(item));
    }
    return {};
}

template <class Into, class From> Result<void> store(Into& into, Result<From> value) {
    if (!value) return tl::unexpected(value.error());
    into = std::move(*value);
    return {};
}

/// The settings of single analyses.
Result<void> read_runs(JsonReader& top, Section& section) {
    JsonReader impulse(top.object("impulse"), "impulse");
    auto& wave = section.impulse;
    wave.front_us = impulse.number_or("front_us", wave.front_us);
    wave.tail_us = impulse.number_or("tail_us", wave.tail_us);
    const auto polarity = impulse.text_or("polarity", "positive");
    if (polarity != "positive" && polarity != "negative")
        return refuse("impulse", fmt::format("polarity “{}” is unknown", polarity),
                      "Use positive or negative");
    wave.negative = polarity == "negative";
    wave.chopped_at_us = impulse.optional_number("chopped_at_us");
    wave.duration_us = impulse.optional_number("duration_us");
    if (!impulse.ok()) return tl::unexpected(*impulse.error());
    JsonReader cycles(top.object("nonlinear"), "nonlinear");
    const auto method = cycles.text_or("method", "phasor");
    if (method != "phasor" && method != "time")
        return refuse("nonlinear", fmt::format("method “{}” is unknown", method), "Use phasor or time");
    section.cycles.in_time = method == "time";
    section.cycles.most_cycles =
        static_cast<int>(cycles.number_or("most_cycles", section.cycles.most_cycles));
    if (!cycles.ok()) return tl::unexpected(*cycles.error());
    JsonReader dc(top.object("dc"), "dc");
    section.dc_duration_s = dc.optional_number("duration_s");
    if (!dc.ok()) return tl::unexpected(*dc.error());
    return {};
}

void write_runs(const Section& section, ordered_json& out) {
    const Section plain;
    if (section.impulse != plain.impulse || section.analysis == "impulse") {
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
    if (section.dc_duration_s) out["dc"] = {{"duration_s", *section.dc_duration_s}};
}

} // namespace

Result<Section> read_section(const json& document) {
    if (auto version = check_format(document, "needlegauge-section", section_format_version, "section");
        !version)
        return tl::unexpected(version.error());
    Section section;
    JsonReader top(document, "section");
    const auto symmetry = top.text_or("symmetry", "axisymmetric");
    if (symmetry != "axisymmetric" && symmetry != "planar")
        return refuse("section", fmt::format("symmetry “{}” is unknown", symmetry),
                      "Use axisymmetric or planar");
    section.symmetry = symmetry == "planar" ? Symmetry::planar : Symmetry::axisymmetric;
    section.frequency_hz = top.number_or("frequency_hz", 60);
    section.analysis = top.text_or("analysis", "capacitive");
    for (const auto& [name, value] : top.object("materials", true).items()) {
        auto material = read_material(name, value);
        if (!material) return tl::unexpected(material.error());
        section.materials[name] = *material;
    }
    auto ok = read_list(top, "regions", "region", section.regions, [](JsonReader& in, Region& region) {
        region.material = in.text("material");
        return store(region.outline, read_outline(in.array("outline", true), in.item()));
    });
    if (!ok) return tl::unexpected(ok.error());
    ok = read_list(top, "electrodes", "electrode", section.electrodes,
                   [](JsonReader& in, Electrode& electrode) {
                       electrode.floating = in.boolean_or("floating", false);
                       electrode.voltage_kV = electrode.floating ? 0 : in.number("voltage_kV");
                       return store(electrode.outline, read_outline(in.array("outline", true), in.item()));
                   });
    if (!ok) return tl::unexpected(ok.error());
    ok = read_list(top, "boundaries", "boundary", section.boundaries, [](JsonReader& in, Boundary& boundary) {
        boundary.voltage_kV = in.number("voltage_kV");
        return store(boundary.along, read_points(in.array("along", true), in.item()));
    });
    if (!ok) return tl::unexpected(ok.error());
    ok = read_list(top, "paths", "path", section.paths, [](JsonReader& in, Path& path) {
        path.side = in.text("side");
        return store(path.points, read_points(in.array("points", true), in.item()));
    });
    if (!ok) return tl::unexpected(ok.error());
    ok = read_list(top, "probes", "probe", section.probes, [](JsonReader& in, Probe& probe) {
        probe.side = in.text("side");
        const auto at = in.array("at", true);
        return store(probe.at, read_point(at, in.item()));
    });
    if (!ok) return tl::unexpected(ok.error());
    if (ok = read_runs(top, section); !ok) return tl::unexpected(ok.error());
    if (!top.ok()) return tl::unexpected(*top.error());
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
    out["analysis"] = section.analysis;
    out["frequency_hz"] = section.frequency_hz;
    write_runs(section, out);
    for (const auto& [name, material] : section.materials) out["materials"][name] = material_json(material);
    for (const auto& region : section.regions)
        out["regions"].push_back({{"name", region.name},
                                  {"material", region.material},
                                  {"outline", outline_json(region.outline)}});
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
