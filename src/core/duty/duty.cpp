#include "duty/duty.h"
#include "io/json_reader.h"
#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <set>

namespace ng {
namespace {

constexpr double multiple_tolerance = 0.05; // tables are rounded

constexpr std::array<std::pair<TestKind, const char*>, 10> kind_words{{{TestKind::service, "service"},
                                                                       {TestKind::geometry, "geometry"},
                                                                       {TestKind::highest, "highest"},
                                                                       {TestKind::extinction, "extinction"},
                                                                       {TestKind::ac_minutes, "ac_minutes"},
                                                                       {TestKind::wet, "wet"},
                                                                       {TestKind::fog, "fog"},
                                                                       {TestKind::ac_hours, "ac_hours"},
                                                                       {TestKind::dc, "dc"},
                                                                       {TestKind::impulse, "impulse"}}};

/// What the values of one class say of each other.
Result<void> check_class(const DutyClass& row, const std::string& item) {
    const double u0 = row.u0();
    const LevelSpec* dry = nullptr;
    for (const auto& spec : row.specs)
        if (spec.kind == TestKind::ac_minutes &&
            (!dry || row.levels.at(spec.name).value > row.levels.at(dry->name).value))
            dry = &spec;
    for (const auto& spec : row.specs) {
        const auto& v = row.levels.at(spec.name);
        if (spec.u0_multiple && v.provenance != Provenance::user) {
            const double expected = *spec.u0_multiple * u0;
            if (std::abs(v.value / expected - 1) > multiple_tolerance)
                return refuse(item,
                              fmt::format("“{}” is {:g}, but {:g} times U0 of {:.3g} kV is {:.3g}", spec.name,
                                          v.value, *spec.u0_multiple, u0, expected),
                              "Correct the value, the multiple or U0");
        }
        if (!dry || &spec == dry) continue;
        const double withstand = row.levels.at(dry->name).value;
        const bool peak = spec.kind == TestKind::impulse;
        if (spec.kind == TestKind::dc) continue; // of either side in practice
        const double beside = peak ? withstand * std::numbers::sqrt2 : withstand;
        if (peak ? v.value < beside : v.value > beside)
            return refuse(item,
                          fmt::format("“{}” of {:g} kV is {} {} of “{}”, {:.3g} kV", spec.name, v.value,
                                      peak ? "below" : "above", peak ? "the crest" : "that", dry->name,
                                      beside),
                          "Correct one of the two");
    }
    return {};
}

Result<void> check_rising(const StandardsPack& pack) {
    for (std::size_t i = 1; i < pack.classes.size(); ++i) {
        const auto &before = pack.classes[i - 1], &row = pack.classes[i];
        const auto item = fmt::format("{} class {:g} kV", pack.title, row.class_kV);
        if (!(row.class_kV > before.class_kV))
            return refuse(item, "classes are not in rising order", "Sort the pack");
        for (const auto& spec : pack.specs)
            if (row.levels.at(spec.name).value < before.levels.at(spec.name).value)
                return refuse(item, fmt::format("“{}” is below that of the class before", spec.name),
                              "Correct the pack");
    }
    return {};
}

/// Names of tests that no pack's level stands for (schedule.h).
const std::set<std::string> reserved_names{"service", "service_highest", "earth_fault", "leakage"};

/// Whether a highest voltage is meant between lines. Packs of version 1 do not say so: a voltage between
/// lines is sqrt 3 times U0 and more, one to earth little more than U0. None: it is neither.
std::optional<bool> is_line_to_line(double value_kV, double u0_kV) {
    constexpr double most_to_earth = 1.3, least_between_lines = 1.6;
    const double ratio = value_kV / u0_kV;
    if (ratio >= least_between_lines) return true;
    if (ratio <= most_to_earth) return false;
    return {};
}

Result<LevelSpec> read_spec(const nlohmann::json& value, const std::string& item) {
    JsonReader in(value, item);
    LevelSpec spec;
    spec.name = in.text("name");
    spec.title = in.text("title");
    const auto kind = in.text("kind");
    spec.duration_s = in.optional_number("duration_s").value_or(0);
    spec.u0_multiple = in.optional_number("u0_multiple");
    spec.outdoor_only = in.boolean_or("outdoor_only", false);
    spec.indoor_only = in.boolean_or("indoor_only", false);
    spec.prestress = in.optional_number("prestress").value_or(1);
    spec.conductor_C = in.optional_number("conductor_C");
    spec.film_uS = in.optional_number("film_uS").value_or(0);
    spec.line_to_line = in.boolean_or("line_to_line", false);
    if (!in.ok()) return tl::unexpected(*in.error());
    if (!(spec.prestress >= 1 && spec.prestress <= 3))
        return refuse(item + ", " + spec.name, "its pre-stress is not between 1 and 3 times the level",
                      "Correct it, or leave it out");
    const auto known = test_kind_from_word(kind);
    if (!known)
        return refuse(item + ", " + spec.name, fmt::format("its kind “{}” is unknown", kind),
                      "Use highest, extinction, ac_minutes, wet, fog, ac_hours, dc or impulse");
    spec.kind = *known;
    if (spec.conductor_C &&
        !(spec.kind == TestKind::impulse && *spec.conductor_C >= 20 && *spec.conductor_C <= 250))
        return refuse(item + ", " + spec.name,
                      "its conductor_C is not between 20 and 250 degC, or not of an impulse test",
                      "Correct it, or leave it out");
    if ((spec.kind == TestKind::fog) != (spec.film_uS > 0) || spec.film_uS > 1000)
        return refuse(item + ", " + spec.name,
                      "a fog test, and no other, needs film_uS above 0 and up to 1000", "Correct it");
    if (reserved_names.contains(spec.name))
        return refuse(
            item, fmt::format("a level is called “{}”, which is the name of a test of its own", spec.name),
            "Give the level another name");
    if (spec.outdoor_only && spec.indoor_only)
        return refuse(item + ", " + spec.name, "it is for outdoors only and for indoors only",
                      "Keep one of the two");
    return spec;
}

} // namespace

std::optional<TestKind> test_kind_from_word(const std::string& word) {
    for (const auto& [kind, known] : kind_words)
        if (word == known && kind != TestKind::service && kind != TestKind::geometry) return kind;
    return {};
}

const char* test_kind_word(TestKind kind) {
    for (const auto& [known, word] : kind_words)
        if (kind == known) return word;
    return "service";
}

const char* test_unit(TestKind kind) {
    return kind == TestKind::dc ? "kV" : kind == TestKind::impulse ? "kV peak" : "kV rms";
}

std::string no_level_words(TestKind kind) {
    return fmt::format("Not judged: the standards pack has no level of kind “{}”.", test_kind_word(kind));
}

double DutyClass::u0() const {
    return u0_kV.value_or(class_kV / std::sqrt(3.0));
}

const LevelSpec* DutyClass::of_kind(TestKind kind) const {
    const LevelSpec* out = nullptr;
    const auto asks = [&](const LevelSpec& spec) { return spec.prestress * value_of(spec).value; };
    for (const auto& spec : specs)
        if (spec.kind == kind && (!out || asks(spec) > asks(*out))) out = &spec;
    return out;
}

const DutyClass* StandardsPack::find(double class_kV) const {
    for (const auto& c : classes)
        if (std::abs(c.class_kV - class_kV) < 1e-6) return &c;
    return nullptr;
}

const DutyClass* StandardsPack::for_cable(double cable_class_kV) const {
    constexpr double rounded = 0.97;
    const DutyClass* lowest = nullptr;
    for (const auto& c : classes)
        if (c.class_kV >= rounded * cable_class_kV && (!lowest || c.class_kV < lowest->class_kV)) lowest = &c;
    return lowest;
}

double Duty::u0() const {
    return u0_kV ? *u0_kV : class_u0_kV > 0 ? class_u0_kV : class_kV / std::sqrt(3.0);
}

Result<StandardsPack> read_standards_pack(const nlohmann::json& document) {
    if (auto v = check_format(document, "needlegauge-standards", standards_format_version, "standards pack");
        !v)
        return tl::unexpected(v.error());
    JsonReader top(document, "standards pack");
    StandardsPack pack;
    pack.id = top.text("id");
    pack.title = top.text("title");
    pack.edition = top.text("edition");
    pack.scope = top.text_or("scope", "");
    pack.in_scope = top.boolean_or("in_scope", true);
    pack.pd_limit_pC = top.number("pd_limit_pC");
    std::set<std::string> names;
    std::map<std::string, bool> said_between_lines; ///< by level, where the pack says it
    for (const auto& value : top.array("levels", true)) {
        auto spec = read_spec(value, "standards pack " + pack.id);
        if (!spec) return tl::unexpected(spec.error());
        if (value.contains("line_to_line")) said_between_lines[spec->name] = spec->line_to_line;
        if (!names.insert(spec->name).second)
            return refuse("standards pack " + pack.id, fmt::format("level “{}” is there twice", spec->name),
                          "Keep one of them");
        pack.specs.push_back(std::move(*spec));
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    if (pack.specs.empty())
        return refuse("standards pack " + pack.id, "“levels” names no test", "Add its tests to the pack");
    for (const auto& value : top.array("classes", true)) {
        JsonReader in(value, "standards pack " + pack.id);
        DutyClass row;
        row.class_kV = in.number("class_kV");
        row.u0_kV = in.optional_number("u0_kV");
        row.specs = pack.specs;
        const auto item = fmt::format("{} class {:g} kV", pack.title, row.class_kV);
        const auto& levels = in.object("levels", true);
        if (!in.ok()) return tl::unexpected(*in.error());
        if (!(row.u0() > 0)) return refuse(item, "its U0 is not above zero", "Correct the pack");
        for (auto& spec : row.specs) {
            if (!levels.contains(spec.name))
                return refuse(item, fmt::format("“{}” is missing", spec.name), "Add it to the pack");
            JsonReader level(levels[spec.name], item + ", " + spec.name);
            SourcedValue v{level.number("value"),
                           level.text("unit"),
                           provenance_from_word(level.text("provenance")),
                           level.boolean_or("verified", false),
                           pack.edition,
                           level.text_or("by", ""),
                           level.text_or("on", "")};
            if (const auto own = level.optional_number("u0_multiple")) spec.u0_multiple = own;
            if (!level.ok()) return tl::unexpected(*level.error());
            if (!(v.value > 0))
                return refuse(item, fmt::format("“{}” is not above zero", spec.name), "Correct the pack");
            if (spec.kind == TestKind::highest) {
                const auto meant = is_line_to_line(v.value, row.u0());
                const auto said = said_between_lines.find(spec.name);
                if (said == said_between_lines.end() ? !meant : meant && *meant != said->second)
                    return refuse(
                        item,
                        fmt::format("“{}” of {:g} kV is {:.2f} times U0: {}", spec.name, v.value,
                                    v.value / row.u0(),
                                    said == said_between_lines.end()
                                        ? "whether it is meant between lines or to earth is not clear"
                                        : "that is not what its line_to_line says"),
                        "Give the level line_to_line true or false, and correct the value");
                spec.line_to_line = said == said_between_lines.end() ? *meant : said->second;
            }
            row.levels[spec.name] = v;
        }
        if (auto ok = check_class(row, item); !ok) return tl::unexpected(ok.error());
        pack.classes.push_back(std::move(row));
    }
    if (!top.ok()) return tl::unexpected(*top.error());
    if (pack.classes.empty()) return refuse("standards pack " + pack.id, "it has no class", "Add one");
    if (auto ok = check_rising(pack); !ok) return tl::unexpected(ok.error());
    return pack;
}

nlohmann::ordered_json write_standards_pack(const StandardsPack& pack) {
    nlohmann::ordered_json out{{"format", "needlegauge-standards"},
                               {"version", standards_format_version},
                               {"id", pack.id},
                               {"title", pack.title},
                               {"edition", pack.edition},
                               {"scope", pack.scope}};
    if (!pack.in_scope) out["in_scope"] = false;
    out["pd_limit_pC"] = pack.pd_limit_pC;
    out["levels"] = nlohmann::ordered_json::array();
    for (const auto& spec : pack.specs) {
        nlohmann::ordered_json level{
            {"name", spec.name}, {"title", spec.title}, {"kind", test_kind_word(spec.kind)}};
        if (spec.duration_s > 0) level["duration_s"] = spec.duration_s;
        if (spec.u0_multiple) level["u0_multiple"] = *spec.u0_multiple;
        if (spec.kind == TestKind::highest) level["line_to_line"] = spec.line_to_line;
        if (spec.outdoor_only) level["outdoor_only"] = true;
        if (spec.indoor_only) level["indoor_only"] = true;
        if (spec.conductor_C) level["conductor_C"] = *spec.conductor_C;
        if (spec.film_uS > 0) level["film_uS"] = spec.film_uS;
        if (spec.prestress > 1) level["prestress"] = spec.prestress;
        out["levels"].push_back(std::move(level));
    }
    out["classes"] = nlohmann::ordered_json::array();
    for (const auto& row : pack.classes) {
        nlohmann::ordered_json item{{"class_kV", row.class_kV}};
        if (row.u0_kV) item["u0_kV"] = *row.u0_kV;
        for (std::size_t i = 0; i < pack.specs.size(); ++i) {
            const auto& spec = row.specs[i];
            const auto& v = row.levels.at(spec.name);
            nlohmann::ordered_json value{{"value", v.value},
                                         {"unit", v.unit},
                                         {"provenance", to_word(v.provenance)},
                                         {"verified", v.verified}};
            if (spec.u0_multiple != pack.specs[i].u0_multiple) value["u0_multiple"] = *spec.u0_multiple;
            if (!v.by.empty()) value["by"] = v.by;
            if (!v.on.empty()) value["on"] = v.on;
            item["levels"][spec.name] = std::move(value);
        }
        out["classes"].push_back(std::move(item));
    }
    return out;
}

std::string level_key(const std::string& standard, double class_kV, const std::string& level) {
    return fmt::format("{}/{:g}/{}", standard, class_kV, level);
}

Result<std::vector<StandardsPack>> with_overrides(std::vector<StandardsPack> packs,
                                                  const std::map<std::string, Override>& by_key) {
    if (by_key.empty()) return packs;
    for (auto& pack : packs)
        for (auto& row : pack.classes) {
            bool changed = false;
            for (auto& [name, value] : row.levels)
                if (const auto it = by_key.find(level_key(pack.id, row.class_kV, name)); it != by_key.end()) {
                    value = overridden(value, it->second);
                    changed = true;
                    if (!(value.value > 0) || !std::isfinite(value.value) || value.value > 5000)
                        return refuse(fmt::format("{} class {:g} kV, {}", pack.title, row.class_kV, name),
                                      fmt::format("{:g} kV cannot be a test level", value.value),
                                      "Correct or remove the override");
                }
            if (!changed) continue;
            if (auto ok = check_class(row, fmt::format("{} class {:g} kV", pack.title, row.class_kV)); !ok)
                return tl::unexpected(ok.error());
        }
    return packs;
}

const std::vector<std::string> pollution_levels{"very light", "light", "medium", "heavy", "very heavy"};

std::optional<double> specific_creepage_mm_per_kV(const std::string& pollution) {
    constexpr std::array<double, 5> values{12.7, 16, 20, 25, 31};
    const auto it = std::find(pollution_levels.begin(), pollution_levels.end(), pollution);
    if (it == pollution_levels.end()) return {};
    return values[it - pollution_levels.begin()];
}

std::string specific_creepage_words() {
    // Of Um / sqrt 3 as the editions from 2008 round them, from memory.
    constexpr std::array<double, 5> to_earth{22.0, 27.8, 34.7, 43.3, 53.7};
    std::string out;
    for (std::size_t i = 0; i < pollution_levels.size(); ++i)
        out += fmt::format("{}{} {:g} / {:.1f}", i > 0 ? ", " : "", pollution_levels[i],
                           *specific_creepage_mm_per_kV(pollution_levels[i]), to_earth[i]);
    return out;
}

double altitude_factor(double altitude_m) {
    return std::exp(std::max(0.0, altitude_m - 1000) / 8150);
}

Result<DutyClass> duty_levels(const Duty& duty, const std::vector<StandardsPack>& packs) {
    const auto it =
        std::find_if(packs.begin(), packs.end(), [&](const auto& p) { return p.id == duty.standard; });
    if (it == packs.end())
        return refuse("duty", fmt::format("standard “{}” is not installed", duty.standard),
                      "Choose one from the list");
    if (!(duty.u0() > 0) || !std::isfinite(duty.u0()) || duty.u0() > 200)
        return refuse("duty", "U0 is not a usable voltage", "Give U0 in kV, above 0");
    if (!(duty.frequency_hz > 0) || duty.frequency_hz > 1000)
        return refuse("duty", "the frequency is not usable", "Give it in Hz, such as 50 or 60");
    if (!(duty.altitude_m >= -500 && duty.altitude_m <= 6000))
        return refuse("duty", "the altitude is not usable", "Give it in metres, -500 to 6000");
    if (!(duty.ambient_C >= -60 && duty.ambient_C <= 90))
        return refuse("duty", "the ambient temperature is not usable",
                      "Give it in degrees Celsius, -60 to 90");
    if (!(duty.wet_film_Mohm >= 1e-3 && duty.wet_film_Mohm <= 1e6))
        return refuse("duty", "the wet film's resistance is not usable",
                      "Give it in megohms per square, 0.001 to 1000000");
    for (const auto& [mm, what] : {std::pair{duty.phase_clearance_mm, "between phases"},
                                   std::pair{duty.earth_clearance_mm, "to earth"}})
        if (mm && !(*mm >= 1 && *mm <= 20000))
            return refuse("duty", fmt::format("the clearance {} is not usable", what),
                          "Give it in mm, 1 to 20000, or leave it empty");
    if (!specific_creepage_mm_per_kV(duty.pollution))
        return refuse("duty", fmt::format("pollution “{}” is unknown", duty.pollution),
                      "Use very light, light, medium, heavy or very heavy");
    if (const auto* row = it->find(duty.class_kV)) return *row;
    std::string known;
    for (const auto& c : it->classes) known += fmt::format("{}{:g}", known.empty() ? "" : ", ", c.class_kV);
    return refuse("duty", fmt::format("{} has no class {:g} kV", it->title, duty.class_kV),
                  "Choose one of " + known);
}

} // namespace ng
