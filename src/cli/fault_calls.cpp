#include "cli/fault_calls.h"
#include "cli/answer.h"
#include "fault/answer.h"
#include "io/csv.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <iostream>

namespace ng::cli {
namespace {

struct Row {
    Fault fault;
    std::optional<FaultAnswer> answer; ///< at the size given; none: it does not fit
    std::optional<CriticalSize> critical;
    InputError error; ///< why it does not fit
};

/// Its critical size where that is asked for, and what it does: at its own size, or at the one that hurts.
void answer_row(Row& row, const Job& job, const std::string& design, const Library& library,
                const Sound& sound, bool critical, bool own_size, std::size_t threads) {
    auto options = fault_options(sound, shown_loosest);
    if (const auto* kind = find_fault_kind(row.fault.kind); kind && kind->rule)
        critical = false, own_size = true; // it has no size
    if (critical || !own_size) {
        auto found = critical_size(job, design, row.fault, library, sound, nullptr, threads);
        if (found) {
            row.critical = std::move(*found);
            if (!own_size && row.critical->mm) {
                row.fault.size_mm = row.critical->hurting_mm;
                options = fault_options(sound, search_loosest); // as it was found to hurt
            }
        } else if (!own_size) {
            row.error = found.error();
            return;
        }
    }
    auto answer = judge_faults(job, design, {row.fault}, library, sound, options);
    if (answer)
        row.answer = std::move(*answer);
    else
        row.error = answer.error();
}

Result<std::vector<Fault>> asked(const FaultArguments& a, const Design& design, const PreparedDesign& sound) {
    if (a.scan) return possible_faults(sound);
    if (a.kind.empty()) {
        if (design.faults.empty())
            return refuse("design " + design.id, "it has no faults", "Give --kind and --size, or --scan");
        return design.faults;
    }
    Fault fault;
    fault.kind = a.kind;
    fault.filling = a.filling;
    fault.side = a.side == "A" ? Side::a : a.side == "B" ? Side::b : Side::none;
    const auto length = [](const std::string& text, const char* item) {
        return parse_length_mm(text, LengthUnit::mm, item);
    };
    if (a.size.empty()) {
        if (const auto* kind = find_fault_kind(a.kind); kind && !kind->rule) fault.size_mm = kind->least_mm;
    } else {
        const auto size = length(a.size, "--size");
        if (!size) return tl::unexpected(size.error());
        fault.size_mm = *size;
    }
    if (!a.at.empty()) {
        const auto at = length(a.at, "--at");
        if (!at) return tl::unexpected(at.error());
        fault.from_edge_mm = *at;
    }
    if (!a.width.empty()) {
        const auto width = length(a.width, "--width");
        if (!width) return tl::unexpected(width.error());
        fault.width_mm = *width;
    }
    if (!a.sheet.empty()) {
        const auto sheet = parse_number(a.sheet, "ohm", "--sheet");
        if (!sheet) return tl::unexpected(sheet.error());
        fault.sheet_ohm = *sheet;
    }
    return std::vector{fault};
}

std::string figure(const std::optional<double>& v) {
    return v && std::isfinite(*v) ? format_figures(*v, 3) : std::string();
}

void print_csv(const std::vector<Row>& rows) {
    std::cout << csv_line({"kind", "side", "from edge (mm)", "size (mm)", "found from (mm)", "critical (mm)",
                           "inspectability", "inception (kV rms)", "required (kV rms)", "decision", "why"});
    for (const auto& row : rows) {
        const auto& kind = *find_fault_kind(row.fault.kind);
        std::cout << csv_line(
            {row.fault.kind, side_letter(row.fault.side),
             kind.put ? format_figures(row.fault.from_edge_mm.value_or(kind.from_edge_mm), 4) : "",
             kind.rule ? "" : format_figures(row.fault.size_mm, 4), figure(found_from_mm(kind.inspection)),
             row.critical ? figure(row.critical->mm) : "",
             row.critical ? figure(row.critical->inspectability) : "",
             row.answer ? figure(row.answer->inception_kV_rms) : "",
             row.answer ? figure(row.answer->required_kV_rms) : "",
             row.answer ? decision_word(row.answer->decision) : "does not fit",
             row.answer ? row.answer->why : row.error.message()});
    }
}

void print_text(const std::vector<Row>& rows) {
    for (const auto& row : rows) {
        const auto& kind = *find_fault_kind(row.fault.kind);
        fmt::print("{}\n", fault_words(row.fault));
        if (!row.answer) {
            fmt::print("  does not fit: {}\n", row.error.message());
            continue;
        }
        fmt::print("  {}: {}\n", decision_word(row.answer->decision), row.answer->why);
        for (const auto& air : row.answer->air)
            fmt::print("  {}: gap {:.3g} mm, inception {} kV rms ± {:.2g} % (breakdown {}, streamer {}), "
                       "extinction {} "
                       "(at least {}), about {:.2g} pC, first electron after about {:.2g} s\n",
                       air.words, air.gap_mm, figure(air.inception_kV_rms), 100 * air.relative_error,
                       figure(air.breakdown_kV_rms), figure(air.streamer_kV_rms),
                       figure(air.extinction_kV_rms), figure(air.least_extinction_kV_rms), air.charge_pC,
                       air.wait_s);
        const double found = found_from_mm(kind.inspection);
        if (row.critical && row.critical->at_most)
            fmt::print("  critical at most {} mm, the least that was looked at; found from {} by {}: {}\n",
                       figure(row.critical->mm), std::isfinite(found) ? figure(found) + " mm" : "no size",
                       kind.inspection.means, row.critical->why);
        else if (row.critical && row.critical->mm)
            fmt::print("  critical {} ± {} mm; found from {} by {}: {}\n", figure(row.critical->mm),
                       figure(row.critical->error_mm),
                       std::isfinite(found) ? figure(found) + " mm" : "no size", kind.inspection.means,
                       row.critical->why);
        else if (row.critical)
            fmt::print("  no size from {:g} to {:g} mm hurts\n", row.critical->least_mm,
                       row.critical->most_mm);
    }
}

/// Which kinds can be on this design, at the least size that is searched; nothing is solved.
int print_fits(const FaultArguments& arguments, const Job& job, const Library& library) {
    const auto prepared = prepare_design(job, arguments.design, library);
    if (!prepared) return complain(prepared.error());
    nlohmann::ordered_json out{{"format", "needlegauge-fault-kinds"},
                               {"version", 1},
                               {"design", arguments.design},
                               {"family", prepared->design.family},
                               {"kinds", nlohmann::ordered_json::array()}};
    for (const auto& fault : possible_faults(*prepared)) {
        const auto faulty = prepare_faulty(job, arguments.design, {fault}, library);
        const auto side = side_letter(fault.side);
        const auto why = faulty ? std::string() : faulty.error().problem;
        if (arguments.json)
            out["kinds"].push_back(
                {{"kind", fault.kind}, {"side", side}, {"fits", faulty.has_value()}, {"why", why}});
        else
            fmt::print("{:<16} {:<2} {}\n", fault.kind, side, faulty ? "fits" : why);
    }
    if (arguments.json) std::cout << out.dump(1) << '\n';
    return exit_holds;
}

} // namespace

int run_faults(const FaultArguments& arguments, const Library& library) {
    const auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    const auto* design = job->find_design(arguments.design);
    if (!design)
        return complain(
            {"design " + arguments.design, "it is not in the job", "Name one of the job's designs"});
    if (arguments.fits) return print_fits(arguments, *job, library);
    const auto sound = judge_sound(*job, design->id, library);
    if (!sound) return complain(sound.error());
    const auto faults = asked(arguments, *design, sound->evaluation.prepared);
    if (!faults) return complain(faults.error());
    std::vector<Row> rows;
    for (const auto& fault : *faults) rows.push_back({fault, {}, {}, {}});
    const bool own_size = !arguments.scan && !(arguments.size.empty() && !arguments.kind.empty());
    in_parallel(rows.size(), usable_threads(), [&](std::size_t i) { // rows know nothing of one another
        answer_row(rows[i], *job, design->id, library, *sound, !arguments.no_critical, own_size,
                   rows.size() > 1 ? 1 : usable_threads());
    });
    bool hurts = false;
    for (const auto& row : rows) {
        if (!arguments.scan && !row.answer) return complain(row.error);
        hurts = hurts || (!arguments.scan && row.answer->decision != FaultDecision::accept);
    }
    if (arguments.scan)
        std::stable_sort(rows.begin(), rows.end(), [](const auto& a, const auto& b) {
            const auto rank = [](const Row& row) {
                return row.critical && row.critical->inspectability ? *row.critical->inspectability : 1e9;
            };
            return rank(a) < rank(b);
        });
    std::vector<Elsewhere> elsewhere;
    if (arguments.elsewhere) {
        if (rows.size() != 1) return complain({"--elsewhere", "it wants one fault", "Give --kind"});
        elsewhere = judge_elsewhere(*job, design->id, rows.front().fault, library);
    }
    if (arguments.json) {
        nlohmann::ordered_json out{{"format", "needlegauge-faults"},
                                   {"version", 1},
                                   {"design", design->id},
                                   {"faults", nlohmann::ordered_json::array()},
                                   {"not_possible", nlohmann::ordered_json::array()}};
        for (const auto& row : rows)
            if (row.answer)
                out["faults"].push_back(
                    fault_json(row.fault, *row.answer, row.critical ? &*row.critical : nullptr));
            else
                out["not_possible"].push_back({{"kind", row.fault.kind},
                                               {"side", side_letter(row.fault.side)},
                                               {"why", row.error.message()}});
        for (const auto& e : elsewhere)
            out["elsewhere"].push_back(
                {{"design", e.design},
                 {"family", e.family},
                 {"decision",
                  e.decision ? nlohmann::ordered_json(decision_word(*e.decision)) : nlohmann::ordered_json()},
                 {"why", e.why},
                 {"critical_mm", e.critical && e.critical->mm ? nlohmann::ordered_json(*e.critical->mm)
                                                              : nlohmann::ordered_json()}});
        std::cout << out.dump(1) << '\n';
    } else if (arguments.csv) {
        print_csv(rows);
    } else {
        print_text(rows);
        for (const auto& e : elsewhere)
            fmt::print("  on {} ({}): {}{}: {}\n", e.design, e.family,
                       e.decision ? decision_word(*e.decision) : "does not fit",
                       e.critical && e.critical->mm ? fmt::format(", critical {} mm", figure(e.critical->mm))
                                                    : "",
                       e.why);
    }
    return hurts ? exit_falls_short : exit_holds;
}

} // namespace ng::cli
