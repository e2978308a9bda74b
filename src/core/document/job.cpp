#include "document/job.h"
#include "document/cable_io.h"
#include "document/drawing_io.h"
#include "document/json_parts.h"
#include "document/tolerance_io.h"
#include "io/fields.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "units/text.h"
#include <algorithm>
#include <fmt/format.h>
#include <fmt/ranges.h>
#include <set>

namespace ng {
namespace {
using nlohmann::json;
using nlohmann::ordered_json;

const Keys job_keys{"format",
                    "version",
                    "title",
                    "note",
                    "open_design",
                    "limit_overrides",
                    "level_overrides",
                    "standards_packs",
                    "material_overrides",
                    "step_texts",
                    "drawings",
                    "cables",
                    "designs"};
const Keys design_keys{"id",      "title",     "family",  "cable",      "cable_b",
                       "drawing", "note",      "numbers", "choices",    "duty",
                       "work",    "revisions", "faults",  "tolerances", "correlated"};
const Keys fault_keys{"kind", "side", "size_mm", "from_edge_mm", "width_mm", "filling", "sheet_ohm"};
const Keys revision_keys{"name", "on", "by", "why", "frozen"};
const Keys work_keys{"datum", "long_side", "numbers", "schools"};
const Keys duty_keys{"standard",          "class_kV",  "u0_kV",     "frequency_hz",  "outdoor",
                     "altitude_m",        "ambient_C", "pollution", "wet_film_Mohm", "phase_clearance_mm",
                     "earth_clearance_mm"};

/// A number (of older files), or an object with who and when.
std::map<std::string, Override> override_map(JsonReader& in, const char* key) {
    std::map<std::string, Override> out;
    for (const auto& [name, value] : in.object(key).items()) {
        if (value.is_number()) {
            out[name].value = value.get<double>();
        } else if (value.is_object()) {
            JsonReader entry(value, fmt::format("“{}” in “{}”", name, key));
            out[name] = {entry.optional_number("value"), entry.text_or("by", ""), entry.text_or("on", ""),
                         entry.text_or("note", "")};
            if (!entry.ok()) {
                in.fail(fmt::format("“{}” in “{}”: {}", name, key, entry.error()->problem), "Correct it");
                break;
            }
        } else {
            in.fail(fmt::format("“{}” in “{}” is not a number", name, key), "Correct it");
            break;
        }
    }
    return out;
}

ordered_json override_json(const std::map<std::string, Override>& by_key) {
    ordered_json out;
    for (const auto& [key, change] : by_key) {
        auto entry = ordered_json::object();
        if (change.value) entry["value"] = *change.value;
        if (!change.by.empty()) entry["by"] = change.by;
        if (!change.on.empty()) entry["on"] = change.on;
        if (!change.note.empty()) entry["note"] = change.note;
        out[key] = std::move(entry);
    }
    return out;
}

std::map<std::string, std::string> text_map(JsonReader& in, const char* key) {
    std::map<std::string, std::string> out;
    for (const auto& [name, value] : in.object(key).items()) {
        if (value.is_string())
            out[name] = value.get<std::string>();
        else
            in.fail(fmt::format("“{}” in “{}” is not text", name, key), "Correct it");
    }
    return out;
}

Result<Design> read_design(const json& value) {
    JsonReader in(value, "design");
    Design d;
    d.id = in.text("id");
    if (!in.ok()) return tl::unexpected(*in.error());
    JsonReader named(value, "design " + d.id);
    d.title = named.text("title");
    d.family = named.text("family");
    d.cable_id = named.text("cable");
    d.other_cable_id = named.text_or("cable_b", "");
    d.drawing_id = named.text_or("drawing", "");
    d.note = named.text_or("note", "");
    d.numbers = number_map(named, "numbers");
    d.choices = text_map(named, "choices");
    const auto& work = named.object("work");
    JsonReader work_in(work, "work of design " + d.id);
    if (const auto datum = work_in.text_or("datum", ""); !datum.empty()) {
        d.work.datum = place_of(datum);
        if (!d.work.datum)
            work_in.fail(fmt::format("“{}” is no place to measure from", datum),
                         "Give “cable end”, “jacket cut”, “joint centre” or what the family measures from");
    }
    d.work.long_side = work_in.text_or("long_side", "a");
    d.work.numbers = number_map(work_in, "numbers");
    d.work.schools = text_map(work_in, "schools");
    if (!work_in.ok()) return tl::unexpected(*work_in.error());
    for (const auto& entry : named.array("revisions")) {
        JsonReader revision(entry, "revision of design " + d.id);
        d.revisions.push_back({revision.text("name"),
                               revision.text("on"),
                               revision.text("by"),
                               revision.text("why"),
                               revision.object("frozen", true),
                               {}});
        if (!revision.ok()) return tl::unexpected(*revision.error());
        d.revisions.back().unknown = leftover(entry, revision_keys);
    }
    for (const auto& entry : named.array("faults")) {
        JsonReader one(entry, "fault of design " + d.id);
        Fault fault;
        fault.kind = one.text("kind");
        const auto side = one.text_or("side", "");
        if (!side.empty() && side != "A" && side != "B")
            one.fail(fmt::format("“{}” is neither A nor B", side), "Correct it");
        fault.side = side == "A" ? Side::a : side == "B" ? Side::b : Side::none;
        fault.size_mm = one.number_or("size_mm", 0); // of some kinds there is none
        fault.from_edge_mm = one.optional_number("from_edge_mm");
        fault.width_mm = one.optional_number("width_mm");
        fault.filling = one.text_or("filling", "air");
        fault.sheet_ohm = one.optional_number("sheet_ohm");
        if (!one.ok()) return tl::unexpected(*one.error());
        fault.unknown = leftover(entry, fault_keys);
        d.faults.push_back(std::move(fault));
    }
    auto tolerances = read_tolerances(named.object("tolerances"), "design " + d.id);
    if (!tolerances) return tl::unexpected(tolerances.error());
    d.tolerances = std::move(*tolerances);
    auto correlated = read_correlations(named.array("correlated"), "design " + d.id);
    if (!correlated) return tl::unexpected(correlated.error());
    d.correlated = std::move(*correlated);
    const auto& duty = named.object("duty", true);
    JsonReader duty_in(duty, "duty of design " + d.id);
    d.duty.standard = duty_in.text("standard");
    d.duty.class_kV = duty_in.number("class_kV");
    d.duty.u0_kV = duty_in.optional_number("u0_kV");
    d.duty.frequency_hz = duty_in.number("frequency_hz");
    d.duty.outdoor = duty_in.boolean_or("outdoor", true);
    d.duty.altitude_m = duty_in.optional_number("altitude_m").value_or(d.duty.altitude_m);
    d.duty.ambient_C = duty_in.optional_number("ambient_C").value_or(d.duty.ambient_C);
    d.duty.pollution = duty_in.text_or("pollution", d.duty.pollution);
    d.duty.wet_film_Mohm = duty_in.optional_number("wet_film_Mohm").value_or(d.duty.wet_film_Mohm);
    d.duty.phase_clearance_mm = duty_in.optional_number("phase_clearance_mm");
    d.duty.earth_clearance_mm = duty_in.optional_number("earth_clearance_mm");
    if (!named.ok()) return tl::unexpected(*named.error());
    if (!duty_in.ok()) return tl::unexpected(*duty_in.error());
    d.duty.unknown = leftover(duty, duty_keys);
    d.work.unknown = leftover(work, work_keys);
    d.unknown = leftover(value, design_keys);
    return d;
}

ordered_json design_json(const Design& d) {
    ordered_json duty{{"standard", d.duty.standard}, {"class_kV", d.duty.class_kV}};
    if (d.duty.u0_kV) duty["u0_kV"] = *d.duty.u0_kV;
    duty["frequency_hz"] = d.duty.frequency_hz;
    duty["outdoor"] = d.duty.outdoor;
    const Duty usual;
    if (d.duty.altitude_m != usual.altitude_m) duty["altitude_m"] = d.duty.altitude_m;
    if (d.duty.ambient_C != usual.ambient_C) duty["ambient_C"] = d.duty.ambient_C;
    if (d.duty.pollution != usual.pollution) duty["pollution"] = d.duty.pollution;
    if (d.duty.wet_film_Mohm != usual.wet_film_Mohm) duty["wet_film_Mohm"] = d.duty.wet_film_Mohm;
    if (d.duty.phase_clearance_mm) duty["phase_clearance_mm"] = *d.duty.phase_clearance_mm;
    if (d.duty.earth_clearance_mm) duty["earth_clearance_mm"] = *d.duty.earth_clearance_mm;
    add_unknown(duty, d.duty.unknown);
    ordered_json out{{"id", d.id}, {"title", d.title}, {"family", d.family}, {"cable", d.cable_id}};
    if (!d.other_cable_id.empty()) out["cable_b"] = d.other_cable_id;
    if (!d.drawing_id.empty()) out["drawing"] = d.drawing_id;
    out["duty"] = duty;
    if (!d.note.empty()) out["note"] = d.note;
    out["numbers"] = d.numbers.empty() ? ordered_json::object() : ordered_json(d.numbers);
    out["choices"] = d.choices.empty() ? ordered_json::object() : ordered_json(d.choices);
    if (d.work != WorkChoices{}) {
        auto work = ordered_json::object();
        if (d.work.datum) work["datum"] = name_of(*d.work.datum);
        if (d.work.long_side != "a") work["long_side"] = d.work.long_side;
        if (!d.work.numbers.empty()) work["numbers"] = d.work.numbers;
        if (!d.work.schools.empty()) work["schools"] = d.work.schools;
        add_unknown(work, d.work.unknown);
        out["work"] = work;
    }
    for (const auto& fault : d.faults) {
        ordered_json entry{{"kind", fault.kind}, {"size_mm", fault.size_mm}};
        if (fault.side != Side::none) entry["side"] = side_letter(fault.side);
        if (fault.from_edge_mm) entry["from_edge_mm"] = *fault.from_edge_mm;
        if (fault.width_mm) entry["width_mm"] = *fault.width_mm;
        if (fault.filling != "air") entry["filling"] = fault.filling;
        if (fault.sheet_ohm) entry["sheet_ohm"] = *fault.sheet_ohm;
        add_unknown(entry, fault.unknown);
        out["faults"].push_back(std::move(entry));
    }
    for (const auto& [key, tolerance] : d.tolerances) out["tolerances"][key] = tolerance_json(tolerance);
    for (const auto& one : d.correlated) out["correlated"].push_back(correlation_json(one));
    for (const auto& r : d.revisions) {
        ordered_json entry{
            {"name", r.name}, {"on", r.on}, {"by", r.by}, {"why", r.why}, {"frozen", r.frozen}};
        add_unknown(entry, r.unknown);
        out["revisions"].push_back(std::move(entry));
    }
    add_unknown(out, d.unknown);
    return out;
}

} // namespace

const Cable* Job::find_cable(const std::string& id) const {
    const auto it = std::find_if(cables.begin(), cables.end(), [&](const auto& c) { return c.id == id; });
    return it == cables.end() ? nullptr : &*it;
}

const Design* Job::find_design(const std::string& id) const {
    const auto it = std::find_if(designs.begin(), designs.end(), [&](const auto& d) { return d.id == id; });
    return it == designs.end() ? nullptr : &*it;
}

Design* Job::find_design(const std::string& id) {
    return const_cast<Design*>(std::as_const(*this).find_design(id));
}

void Job::put_drawing(BodyDrawing drawing) {
    const auto same =
        std::find_if(drawings.begin(), drawings.end(), [&](const auto& d) { return d.id == drawing.id; });
    if (same == drawings.end())
        drawings.push_back(std::move(drawing));
    else
        *same = std::move(drawing);
}

Result<Job> read_job(const json& document, const std::string& file_name) {
    if (auto v = check_format(document, "needlegauge-job", job_format_version, file_name); !v)
        return tl::unexpected(v.error());
    JsonReader top(document, file_name);
    Job job;
    job.title = top.text("title");
    job.note = top.text_or("note", "");
    job.open_design = top.text_or("open_design", "");
    job.limit_overrides = override_map(top, "limit_overrides");
    job.level_overrides = override_map(top, "level_overrides");
    for (const auto& pack : top.array("standards_packs")) {
        if (auto ok = read_standards_pack(pack); !ok) return tl::unexpected(ok.error());
        job.standards_packs.push_back(pack);
    }
    job.material_overrides = number_map(top, "material_overrides");
    job.step_texts = text_map(top, "step_texts");
    std::set<std::string> ids;
    for (const auto& value : top.array("drawings")) {
        const auto id = value.is_object() && value.contains("id") && value["id"].is_string()
                            ? value["id"].get<std::string>()
                            : fmt::format("{}", job.drawings.size() + 1);
        auto drawing = read_drawing(value, "drawing " + one_line(id));
        if (!drawing) return tl::unexpected(drawing.error());
        if (!ids.insert(drawing->id).second)
            return refuse("drawing " + drawing->id, "its id is used twice", "Give each drawing its own id");
        job.drawings.push_back(std::move(*drawing));
    }
    ids.clear();
    const auto& cables = top.array("cables", true);
    if (!top.ok()) return tl::unexpected(*top.error());
    for (const auto& value : cables) {
        auto cable = read_cable(value);
        if (!cable) return tl::unexpected(cable.error());
        if (!ids.insert(cable->id).second)
            return refuse("cable " + cable->id, "its id is used twice", "Give each cable its own id");
        job.cables.push_back(std::move(*cable));
    }
    ids.clear();
    for (const auto& value : top.array("designs", true)) {
        auto design = read_design(value);
        if (!design) return tl::unexpected(design.error());
        if (!ids.insert(design->id).second)
            return refuse("design " + design->id, "its id is used twice", "Give each design its own id");
        if (!job.find_cable(design->cable_id))
            return refuse("design " + design->id,
                          fmt::format("its cable “{}” is not in the job", design->cable_id),
                          "Correct the cable's id");
        if (!design->other_cable_id.empty() && !job.find_cable(design->other_cable_id))
            return refuse("design " + design->id,
                          fmt::format("its cable of side B “{}” is not in the job", design->other_cable_id),
                          "Correct the cable's id");
        job.designs.push_back(std::move(*design));
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    if (job.designs.empty()) return refuse(file_name, "it has no design", "Add one, or choose another file");
    if (!job.find_design(job.open_design)) job.open_design = job.designs.front().id;
    job.unknown = leftover(document, job_keys);
    return job;
}

std::vector<UnknownField> unknown_fields(const Job& job) {
    std::vector<UnknownField> out;
    const auto take = [&](const std::string& item, const json& unknown, const Keys& known) {
        for (const auto& [key, value] : unknown.items()) out.push_back({item, key, nearest_key(key, known)});
    };
    take("job", job.unknown, job_keys);
    for (const auto& cable : job.cables) take("cable " + cable.id, cable.unknown, cable_keys());
    for (const auto& design : job.designs) {
        take("design " + design.id, design.unknown, design_keys);
        take("duty of design " + design.id, design.duty.unknown, duty_keys);
        take("work of design " + design.id, design.work.unknown, work_keys);
        for (const auto& fault : design.faults)
            take(fmt::format("fault of design {}", design.id), fault.unknown, fault_keys);
        for (const auto& revision : design.revisions)
            take(fmt::format("revision {} of design {}", revision.name, design.id), revision.unknown,
                 revision_keys);
        for (const auto& [key, tolerance] : design.tolerances)
            take(fmt::format("tolerance “{}” of design {}", key, design.id), tolerance.unknown,
                 tolerance_keys());
    }
    return out;
}

std::string UnknownField::words() const {
    return fmt::format("{}: “{}” is not a field that this program knows{}; it is kept, and changes nothing",
                       item, key, nearest.empty() ? "" : fmt::format(" (“{}”?)", nearest));
}

Result<Job> load_job(const std::filesystem::path& path) {
    const auto text = read_file(path, most_document_bytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = parse_json(*text, path.filename().string());
    if (!document) return tl::unexpected(document.error());
    return read_job(*document, path.filename().string());
}

ordered_json write_job(const Job& job) {
    ordered_json out{{"format", "needlegauge-job"}, {"version", job_format_version}, {"title", job.title}};
    if (!job.note.empty()) out["note"] = job.note;
    out["open_design"] = job.open_design;
    if (!job.material_overrides.empty()) out["material_overrides"] = job.material_overrides;
    if (!job.step_texts.empty()) out["step_texts"] = job.step_texts;
    if (!job.limit_overrides.empty()) out["limit_overrides"] = override_json(job.limit_overrides);
    if (!job.level_overrides.empty()) out["level_overrides"] = override_json(job.level_overrides);
    for (const auto& drawing : job.drawings) out["drawings"].push_back(drawing_json(drawing));
    for (const auto& pack : job.standards_packs) out["standards_packs"].push_back(ordered_json(pack));
    out["cables"] = ordered_json::array();
    for (const auto& cable : job.cables) out["cables"].push_back(cable_json(cable));
    out["designs"] = ordered_json::array();
    for (const auto& design : job.designs) out["designs"].push_back(design_json(design));
    add_unknown(out, job.unknown);
    return out;
}

Result<void> save_job(const Job& job, const std::filesystem::path& path) {
    return write_file_safely(path, write_job(job).dump(1) + "\n");
}

Job new_job() {
    Job job;
    job.title = "New job";
    Cable cable;
    cable.id = "cable-1";
    cable.title = "15 kV cable";
    job.cables.push_back(cable);
    Design design;
    design.id = "design-1";
    design.title = "Termination";
    design.family = "heat_shrink_termination";
    design.cable_id = cable.id;
    job.designs.push_back(design);
    job.open_design = design.id;
    return job;
}

} // namespace ng
