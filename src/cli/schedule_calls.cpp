#include "cli/schedule_calls.h"
#include "design/revisions.h"
#include "fault/fault.h"
#include "io/file.h"
#include "io/json_reader.h"
#include "schedule/compare.h"
#include "schedule/sensitivity.h"
#include "units/quantity.h"
#include "units/version.h"
#include <cstdio>
#include <fmt/format.h>
#include <iostream>

namespace ng::cli {
using nlohmann::ordered_json;

Result<void> replace_duty(Duty& duty, const std::string& words) {
    if (words.empty()) return {};
    const auto colon = words.find(':');
    duty.standard = words.substr(0, colon);
    if (colon == std::string::npos) return {};
    const auto value = parse_number(words.substr(colon + 1), "kV", "--duty");
    if (!value) return tl::unexpected(value.error());
    duty.class_kV = *value;
    duty.u0_kV.reset();
    return {};
}

void print_schedule(const Schedule& schedule) {
    fmt::print("  schedule: {} ({:.1f} s)\n", status_words(schedule.status, schedule.set_aside),
               schedule.seconds);
    for (const auto& t : schedule.tests) {
        fmt::print("    {:<14} {}: {:.4g} {} ({}){}\n", status_text(t), t.title, t.voltage_kV, t.unit,
                   t.voltage_origin, t.applies ? "" : ". " + t.why);
        if (!t.applies) continue;
        fmt::print("    {:<14} {}; {:.2f} s, error at most {:.2g} %\n", "", t.model, t.seconds,
                   100 * t.relative_error);
        for (const auto& c : t.checks) {
            fmt::print("      {:<12} {}: {} of {} {}; {}\n", status_word(c.status), c.title,
                       format_supported(c.value, c.relative_error), format_figures(c.limit, 3), c.unit,
                       c.limit_origin);
            if (c.status != Status::holds)
                fmt::print("      {:<12} {} Usual remedy, not computed: {}.\n", "", c.why, c.cure);
        }
        for (const auto& note : t.notes) fmt::print("      note: {}\n", note);
    }
    for (const auto& statement : schedule.statements) fmt::print("  {}\n", statement);
    for (const auto& a : schedule.assumptions) fmt::print("  assumed: {}\n", a.words);
}

int run_standards(const StandardsArguments& arguments, const Library& library) {
    auto packs = library.standards;
    if (!arguments.file.empty()) {
        const auto text = read_file(arguments.file, most_table_bytes);
        if (!text) return complain(text.error());
        const auto document = parse_json(*text, arguments.file);
        if (!document) return complain(document.error());
        auto pack = read_standards_pack(*document);
        if (!pack) return complain(pack.error());
        packs = {std::move(*pack)};
    }
    if (arguments.json) {
        auto list = ordered_json::array();
        for (const auto& pack : packs) list.push_back(write_standards_pack(pack));
        std::cout << list.dump(1) << '\n';
        return exit_holds;
    }
    for (const auto& pack : packs) {
        fmt::print("{} ({}), edition {}. {}\n", pack.title, pack.id, pack.edition, pack.scope);
        for (const auto& row : pack.classes) {
            fmt::print("  {:g} kV, U0 {:.3g} kV:", row.class_kV, row.u0());
            for (const auto& spec : row.specs) {
                const auto& v = row.levels.at(spec.name);
                fmt::print(" {} {:g}{}", spec.title, v.value, v.verified ? "" : "†");
                fmt::print("{}", &spec == &row.specs.back() ? "\n" : ";");
            }
        }
    }
    fmt::print("† from memory or computed: verify against your edition.\n");
    return exit_holds;
}

int run_compare(const CompareArguments& arguments, const Library& library) {
    auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    const auto other = arguments.with.empty() ? arguments.design : arguments.with;
    ScheduleCache cache;
    std::optional<Judgement> sides[2];
    std::string revisions[2];
    const std::pair<std::string, std::string> asked[2] = {
        {arguments.design, arguments.duty},
        {other, arguments.with_duty.empty() ? arguments.duty : arguments.with_duty}};
    for (int i = 0; i < 2; ++i) {
        auto state = state_of(*job, asked[i].first);
        if (!state) return complain(state.error());
        auto* design = state->job.find_design(state->design);
        if (auto ok = replace_duty(design->duty, asked[i].second); !ok) return complain(ok.error());
        auto judged = judge_design(state->job, state->design, library,
                                   preparer(arguments.with_faults && i == 0), true, &cache);
        if (!judged) return complain(judged.error());
        if (state->is_frozen) revisions[i] = ", " + state->revision;
        if (!judged->schedule)
            return complain({"design " + asked[i].first, "it did not converge", "See check"});
        sides[i] = std::move(*judged);
    }
    const auto name = [&](int i) {
        const auto& p = sides[i]->prepared;
        return fmt::format("{}, {} {:g} kV{}", p.design.title, p.standard_title, p.design.duty.class_kV,
                           revisions[i]);
    };
    const auto rows = compare(*sides[0]->schedule, *sides[1]->schedule);
    if (arguments.csv) {
        std::cout << compared_csv(rows, name(0), name(1));
    } else {
        fmt::print("A: {}\nB: {}\n", name(0), name(1));
        const auto number = [](const std::optional<double>& v, const std::optional<double>& limit) {
            if (!v) return std::string("–");
            return format_figures(*v, 3) + (limit ? " of " + format_figures(*limit, 3) : "");
        };
        for (const auto& r : rows)
            fmt::print("{}{:<64} A {:>16} {:<12} B {:>16} {:<12} {}\n", r.check.empty() ? "" : "  ",
                       r.check.empty() ? r.test : r.check, number(r.left, r.left_limit), r.left_status,
                       number(r.right, r.right_limit), r.right_status, r.unit);
    }
    return worse_exit(exit_of(sides[0]->schedule->status), exit_of(sides[1]->schedule->status));
}

int run_why(const WhyArguments& arguments, const Library& library) {
    const auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    const auto check = check_of(arguments.check);
    if (!check)
        return complain({"--check", fmt::format("“{}” is no check", one_line(arguments.check)),
                         "Give an id that “check --json” lists"});
    const auto found =
        find_sensitivity({*job, arguments.design, *check}, library, preparer(arguments.with_faults));
    if (!found) return complain(found.error());
    if (arguments.json) {
        auto list = ordered_json::array();
        for (const auto& e : found->effects)
            list.push_back({{"key", e.key},
                            {"label", e.label},
                            {"change", e.change},
                            {"value", e.value},
                            {"limit", e.limit},
                            {"gain", e.gain},
                            {"refined", e.refined},
                            {"breaks", e.breaks}});
        std::cout << ordered_json{{"format", "needlegauge-why"},
                                  {"version", 1},
                                  {"made_by", made_by(library.version)},
                                  {"check", name_of(found->check)},
                                  {"value", found->value},
                                  {"tried", found->tried},
                                  {"refused", found->refused},
                                  {"not_solved", found->not_solved},
                                  {"effects", list}}
                         .dump(1)
                  << '\n';
        return exit_holds;
    }
    fmt::print("{}: {}; {}\n", name_of(found->check), format_figures(found->value, 3), tried_words(*found));
    for (const auto& e : found->effects)
        fmt::print("  {:+6.1f} % of the limit  {} {}{}{}\n", 100 * e.gain, e.label, e.change,
                   e.refined ? "" : " (coarse)",
                   e.breaks.empty() ? "" : fmt::format("; breaks: {}", fmt::join(e.breaks, ", ")));
    return exit_holds;
}

} // namespace ng::cli
