#include "record/site_test.h"
#include "fault/fault.h"
#include "io/csv.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "units/quantity.h"
#include "units/text.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace ng {
namespace {

const std::vector<std::string> high_voltage_cautions{
    "Tests are for licensed people with the permit to test. Local codes and the owner's rules go before "
    "every line.",
    "Both ends guarded and closed off; nobody at the cable until it is discharged and earthed again.",
    "Discharge through a resistor, then earth. A cable that was under DC charges itself again: leave the "
    "earth on."};

constexpr double held_within = 0.02;          // of the level
constexpr std::size_t most_trace_rows = 2000; // kept in a row of the log

std::string class_words(double class_kV) {
    return fmt::format("{:g} kV", class_kV);
}

} // namespace

const char* occasion_word(Occasion occasion) {
    return occasion == Occasion::installation ? "installation"
           : occasion == Occasion::acceptance ? "acceptance"
                                              : "maintenance";
}

std::optional<Occasion> occasion_of(const std::string& word) {
    for (const auto o : {Occasion::installation, Occasion::acceptance, Occasion::maintenance})
        if (word == occasion_word(o)) return o;
    return std::nullopt;
}

Result<SiteLevels> read_site_levels(const nlohmann::json& document, const std::string& file) {
    if (auto v = check_format(document, "needlegauge-site-levels", 1, file); !v)
        return tl::unexpected(v.error());
    JsonReader top(document, file);
    const auto section = [&](const char* key, const std::vector<const char*>& numbers) -> Result<void> {
        JsonReader in(top.object(key, true), fmt::format("{}, “{}”", file, key));
        in.text_or("source", "");
        for (const char* n : numbers)
            if (!(in.number(n) > 0)) in.fail(fmt::format("“{}” is not above zero", n), "Correct it");
        // A section that is not there is the file's fault; without one, reading on has nothing under it.
        if (!top.ok()) return tl::unexpected(*top.error());
        return in.ok() ? Result<void>() : tl::unexpected(*in.error());
    };
    for (const auto& [key, numbers] : std::vector<std::pair<const char*, std::vector<const char*>>>{
             {"vlf_sine_kV_rms", {}},
             {"minutes", {"installation", "acceptance", "maintenance"}},
             {"iec_vlf", {"times_u0", "minutes"}},
             {"jacket", {"kV_per_mm", "most_kV", "minutes"}},
             {"insulation_resistance", {"kV", "minutes", "least_Mohm"}},
             {"screen_continuity", {"most_ohm"}},
             {"partial_discharge", {"times_u0", "most_pC", "minutes"}},
             {"withstand_leakage", {"most_mA"}}})
        if (auto ok = section(key, numbers); !ok) return tl::unexpected(ok.error());
    JsonReader vlf(top.object("vlf_sine_kV_rms", true), file + ", “vlf_sine_kV_rms”");
    for (const auto& row : vlf.array("rows", true)) {
        JsonReader in(row, file + ", a row of “vlf_sine_kV_rms”");
        for (const char* n : {"class_kV", "installation", "acceptance", "maintenance"})
            if (!(in.number(n) > 0)) in.fail(fmt::format("“{}” is not above zero", n), "Correct it");
        if (!in.ok()) return tl::unexpected(*in.error());
    }
    if (!vlf.ok()) return tl::unexpected(*vlf.error());
    return SiteLevels{document};
}

Result<SiteLevels> load_site_levels(const Library& library) {
    const auto path = library.folder / "tests/site-levels.json";
    const auto text = read_file(path, most_table_bytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = parse_json(*text, "site-levels.json");
    if (!document) return tl::unexpected(document.error());
    return read_site_levels(*document, "site-levels.json");
}

Result<std::vector<SiteTest>> site_tests(const PreparedDesign& prepared, Occasion occasion,
                                         const SiteLevels& levels) {
    const auto& d = levels.document;
    const auto source = [&](const char* key) {
        return JsonReader(d[key], key).text_or("source", "not said");
    };
    std::vector<SiteTest> out;
    SiteTest continuity{"screen-continuity", "Continuity of the metallic screen", "continuity"};
    continuity.unit = "";
    continuity.most = d["screen_continuity"]["most_ohm"].get<double>();
    continuity.reading_unit = "ohm";
    continuity.limits = source("screen_continuity");
    continuity.how = "Screen of one end against screen of the other, through the finished accessory.";
    continuity.cautions = {
        "The cable is isolated, proved dead and earthed before its earths are taken off for this test."};
    out.push_back(continuity);
    const auto& cable = prepared.cable;
    SiteTest jacket{"jacket", "Jacket, DC", "dc"};
    jacket.level = std::min(d["jacket"]["most_kV"].get<double>(),
                            d["jacket"]["kV_per_mm"].get<double>() * cable.jacket_thickness_mm);
    jacket.minutes = d["jacket"]["minutes"];
    jacket.reading_unit = "mA";
    jacket.most = d["withstand_leakage"]["most_mA"].get<double>();
    jacket.limits = source("jacket");
    jacket.how = "Between the metallic screen and earth; the screen's earths are off.";
    jacket.cautions = high_voltage_cautions;
    out.push_back(jacket);
    SiteTest resistance{"insulation-resistance", "Insulation resistance before the withstand", "insulation"};
    resistance.level = d["insulation_resistance"]["kV"];
    resistance.minutes = d["insulation_resistance"]["minutes"];
    resistance.least = d["insulation_resistance"]["least_Mohm"].get<double>();
    resistance.reading_unit = "Mohm";
    resistance.limits = source("insulation_resistance");
    resistance.how = "Conductor against screen, after one minute.";
    resistance.cautions = high_voltage_cautions;
    out.push_back(resistance);
    const bool iec = prepared.design.duty.standard.rfind("iec", 0) == 0;
    SiteTest withstand{"withstand", "Withstand at 0.1 Hz", "vlf"};
    withstand.frequency_hz = 0.1;
    withstand.reading_unit = "mA";
    withstand.most = d["withstand_leakage"]["most_mA"].get<double>();
    withstand.cautions = high_voltage_cautions;
    withstand.how = "Phase to earth, one phase after the other, the others earthed.";
    if (iec) {
        withstand.level = d["iec_vlf"]["times_u0"].get<double>() * prepared.design.duty.u0();
        withstand.minutes = d["iec_vlf"]["minutes"];
        withstand.limits = source("iec_vlf");
    } else {
        // The lowest class of the table that is no lower than the duty's.
        const nlohmann::json* row = nullptr;
        for (const auto& r : d["vlf_sine_kV_rms"]["rows"])
            if (r["class_kV"].get<double>() >= prepared.design.duty.class_kV &&
                (!row || r["class_kV"].get<double>() < (*row)["class_kV"].get<double>()))
                row = &r;
        if (!row)
            return refuse(
                "Site tests",
                fmt::format("there is no level for class {}", class_words(prepared.design.duty.class_kV)),
                "Give your owner's own levels");
        withstand.level = (*row)[occasion_word(occasion)];
        withstand.minutes = d["minutes"][occasion_word(occasion)];
        withstand.limits = source("vlf_sine_kV_rms");
    }
    out.push_back(withstand);
    SiteTest pd{"partial-discharge", "Partial discharge", "pd"};
    pd.level = d["partial_discharge"]["times_u0"].get<double>() * prepared.design.duty.u0();
    pd.minutes = d["partial_discharge"]["minutes"];
    pd.frequency_hz = prepared.design.duty.frequency_hz;
    pd.most = d["partial_discharge"]["most_pC"].get<double>();
    pd.reading_unit = "pC";
    pd.limits = source("partial_discharge");
    pd.how =
        "Calibrate first, note the background, raise to the level, then lower it until it is quiet again.";
    pd.cautions = high_voltage_cautions;
    out.push_back(pd);
    auto again = resistance;
    again.id = "insulation-resistance-after";
    again.title = "Insulation resistance after the withstand";
    out.push_back(again);
    for (auto& test : out)
        if (test.limits.find("verify") == std::string::npos &&
            test.limits.find("memory") != std::string::npos)
            test.limits += ", verify against your edition";
    return out;
}

TestOutcome judge_reading(const SiteTest& test, double reading) {
    const auto value = fmt::format("{} {}", format_figures(reading, 4), test.reading_unit);
    if (!std::isfinite(reading)) return {"aborted", "nothing was read", reading};
    if (test.least && reading < *test.least)
        return {"fail", fmt::format("{}, at least {:g} is wanted", value, *test.least), reading};
    if (test.most && reading > *test.most)
        return {"fail", fmt::format("{}, at most {:g} is allowed", value, *test.most), reading};
    return {"pass", value, reading};
}

TestOutcome judge_trace(const SiteTest& test, const std::vector<TracePoint>& trace, bool broke_down) {
    double longest_s = 0, since = -1, worst = 0;
    for (const auto& p : trace) {
        const bool held = p.level >= test.level * (1 - held_within);
        if (!held) {
            since = -1;
            continue;
        }
        if (since < 0) since = p.s;
        longest_s = std::max(longest_s, p.s - since);
        worst = std::max(worst, p.reading);
    }
    if (broke_down) return {"fail", fmt::format("breakdown after {:.0f} s at the level", longest_s), worst};
    constexpr double slack_s = 0.5; // of the last reading
    if (longest_s + slack_s < 60 * test.minutes)
        return {"aborted", fmt::format("held for {:.1f} of {:g} min", longest_s / 60, test.minutes), worst};
    if (test.most && worst > *test.most)
        return {"fail",
                fmt::format("{} {}, at most {:g} is allowed", format_figures(worst, 4), test.reading_unit,
                            *test.most),
                worst};
    return {"pass",
            fmt::format("held {:g} min at {} {}, at most {} {}", test.minutes, format_figures(test.level, 4),
                        test.unit, format_figures(worst, 3), test.reading_unit),
            worst};
}

Result<std::vector<TracePoint>> read_trace(const std::string& csv, const std::string& file) {
    const auto rows = read_csv(csv, file);
    if (!rows) return tl::unexpected(rows.error());
    std::vector<TracePoint> out;
    for (const auto& row : *rows) {
        TracePoint p;
        for (const auto& [column, into] :
             {std::pair{"time_s", &p.s}, std::pair{"level", &p.level}, std::pair{"reading", &p.reading}}) {
            const auto value = row.number(column, file);
            if (!value) return tl::unexpected(value.error());
            *into = *value;
        }
        if (!out.empty() && p.s < out.back().s)
            return refuse(file, fmt::format("line {}: its time lies before that of the line above", row.line),
                          "Give the trace in the order of time");
        out.push_back(p);
    }
    if (out.empty()) return refuse(file, "it has no rows", "Give the trace of a test");
    return out;
}

std::string trace_csv(const SiteTest& test, const std::vector<TracePoint>& trace) {
    std::string out = csv_line({"time_s", "level", "reading", "level_unit", "reading_unit"});
    for (const auto& p : trace)
        out += csv_line({format_figures(p.s, 6), format_figures(p.level, 5), format_figures(p.reading, 5),
                         test.unit, test.reading_unit});
    return out;
}

EntryDraft test_entry(const SiteTest& test, const TestOutcome& outcome, const std::vector<TracePoint>& trace,
                      const Who& who, std::int64_t accessory, const std::string& source) {
    EntryDraft draft;
    draft.kind = "test";
    draft.who = who;
    draft.accessory = accessory;
    draft.body = {{"test", test.id},          {"title", test.title}, {"set", test.set},
                  {"result", outcome.result}, {"why", outcome.why},  {"limits", test.limits},
                  {"minutes", test.minutes},  {"source", source}};
    if (std::isfinite(outcome.reading)) draft.body["reading"] = outcome.reading;
    draft.body["reading_unit"] = test.reading_unit;
    if (test.level > 0) {
        draft.body["level"] = test.level;
        draft.body["unit"] = test.unit;
    }
    if (test.frequency_hz > 0) draft.body["frequency_hz"] = test.frequency_hz;
    const std::size_t every = trace.size() / most_trace_rows + 1;
    auto levels = nlohmann::json::array(), readings = nlohmann::json::array();
    for (std::size_t i = 0; i < trace.size(); i += every) {
        const double s = std::round(trace[i].s * 10) / 10;
        levels.push_back({s, std::round(trace[i].level * 1000) / 1000});
        readings.push_back({s, trace[i].reading});
    }
    if (!trace.empty()) {
        draft.body["trace"] = levels;
        draft.body["readings"] = readings;
    }
    return draft;
}

Result<FieldAtTest> field_at_test(const Job& job, const std::string& design, const SiteTest& test,
                                  const Library& library, const CancelFlag* cancel) {
    if (!(test.frequency_hz > 0) || !(test.level > 0))
        return refuse(test.title, "it has no frequency", "The field of a resistance test is not solved");
    FieldAtTest out;
    out.voltage_kV = test.level;
    out.test_hz = test.frequency_hz;
    auto at = job;
    auto* d = at.find_design(design);
    if (!d) return refuse("design " + design, "it is not in the job", "Name one of the job's designs");
    out.power_hz = d->duty.frequency_hz;
    d->duty.u0_kV = test.level;
    EvaluateOptions options;
    options.cancel = cancel;
    auto power = evaluate(at, design, {}, library, prepare_with_faults, options);
    if (!power) return tl::unexpected(power.error());
    d->duty.frequency_hz = test.frequency_hz;
    auto slow = evaluate(at, design, {}, library, prepare_with_faults, options);
    if (!slow) return tl::unexpected(slow.error());
    for (const auto& c : power->verdict.checks) {
        if (std::abs(c.voltage_kV - test.level) > 1e-6 * test.level || c.unit.rfind("kV/mm", 0) != 0)
            continue;
        for (const auto& s : slow->verdict.checks)
            if (s.id == c.id)
                out.rows.push_back({c.title, c.unit, c.value, s.value, c.relative_error + s.relative_error});
    }
    out.at_power = std::make_shared<const Evaluation>(std::move(*power));
    out.at_test = std::make_shared<const Evaluation>(std::move(*slow));
    return out;
}

} // namespace ng
