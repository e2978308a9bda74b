#include "cli/study_calls.h"
#include "cli/answer.h"
#include "cli/offscreen.h"
#include "draw/duties_picture.h"
#include "draw/effects_picture.h"
#include "draw/histogram_picture.h"
#include "draw/range_picture.h"
#include "draw/tornado_picture.h"
#include "fault/fault.h"
#include "io/file.h"
#include "study/duties.h"
#include "study/range.h"
#include "study/rows_file.h"
#include "study/study.h"
#include "study/worst.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <algorithm>
#include <cmath>
#include <csignal>
#include <fmt/format.h>
#include <iostream>

namespace ng::cli {
namespace {

CancelFlag stop{false};
void on_signal(int) {
    stop.store(true);
}

Result<StudyPlan> plan_of(const StudyArguments& a, const Job& job, const Library& library) {
    if (!a.plan.empty()) {
        const auto text = read_file(a.plan);
        if (!text) return tl::unexpected(text.error());
        auto read = read_plan(nlohmann::json::parse(*text, nullptr, false));
        if (!read) return tl::unexpected(read.error());
        return read;
    }
    const auto prepared = prepare_design(job, a.design, library);
    if (!prepared) return tl::unexpected(prepared.error());
    // A window of a mark hangs on no spread, unless the others are drawn.
    auto plan = a.what == "windows" && a.others <= 0 ? Result<StudyPlan>(usual_plan(*prepared, a.with_faults))
                                                     : design_plan(*prepared, a.with_faults);
    if (!plan) return plan;
    if (a.what != "windows") plan->kind = a.what;
    plan->seed = a.seed;
    plan->samples = a.what == "effects" ? a.samples * (plan->varied.size() + 2) : a.samples;
    return plan;
}

Result<Study> study_of(const StudyArguments& a, const Library& library) {
    const auto job = load_job(a.job);
    if (!job) return tl::unexpected(job.error());
    auto plan = plan_of(a, *job, library);
    if (!plan) return tl::unexpected(plan.error());
    const bool faults = plan->with_faults;
    return Study::begin(*job, std::move(*plan), library, preparer(faults), &stop);
}

Result<StudyTable> table_of(const std::string& file, bool whole = true) {
    const auto text = read_file(file);
    if (!text) return tl::unexpected(text.error());
    return read_table(*text, file, whole);
}

int threads_of(const StudyArguments& a) {
    return a.threads > 0 ? a.threads : static_cast<int>(usable_threads());
}

} // namespace

int run_study_plan(const StudyArguments& a, const Library& library) {
    const auto job = load_job(a.job);
    if (!job) return complain(job.error());
    const auto plan = plan_of(a, *job, library);
    if (!plan) return complain(plan.error());
    std::cout << plan_json(*plan).dump(1) << '\n';
    return exit_holds;
}

int run_study(const StudyArguments& a, const Library& library) {
    const auto shard = read_shard(a.shard);
    if (!shard) return complain(shard.error());
    std::signal(SIGINT, on_signal);
    std::signal(SIGTERM, on_signal);
    const auto study = study_of(a, library);
    if (!study) return complain(study.error());
    std::optional<RowsFile> file;
    std::uint64_t first = 0;
    if (!a.out.empty()) {
        auto opened = RowsFile::open(a.out, *study, *shard);
        if (!opened) return complain(opened.error());
        first = opened->before().size();
        file = std::move(*opened);
    } else {
        std::cout << study->header(*shard);
    }
    bool written = true;
    run_rows(*study, *shard, first, threads_of(a), &stop, [&](const StudyRow& row) {
        written =
            file ? file->add(*study, row) : static_cast<bool>(std::cout << study->line(row) << std::flush);
        if (!written) stop.store(true);
    });
    if (!written)
        return complain({a.out.empty() ? "standard output" : a.out, "the rows could not be written",
                         "Make room, then run the same again: it goes on where it stopped"});
    if (stop) return complain({"study", "stopped", "Run the same again: it goes on where it stopped"});
    return exit_holds;
}

int run_study_merge(const StudyArguments& a) {
    std::vector<StudyTable> tables;
    for (const auto& file : a.files) {
        auto table = table_of(file);
        if (!table) return complain(table.error());
        tables.push_back(std::move(*table));
    }
    const auto merged = merge_tables(tables);
    if (!merged) return complain(merged.error());
    std::cout << *merged;
    return exit_holds;
}

int run_study_summary(const StudyArguments& a) {
    if (a.files.size() != 1)
        return complain({"study summary", "it sums up one file of rows", "Merge the shards first"});
    const auto table = table_of(a.files.front());
    if (!table) return complain(table.error());
    const auto s = summarise(*table);
    if (!a.svg.empty()) {
        const OffscreenGui gui;
        const auto& plan = table->plan;
        const auto ok =
            s.effects.empty()
                ? draw::write_histogram_svg(shares_of_builds(*table, s), plan.design + ": builds", a.svg)
                : draw::write_effects_svg(plan, s, plan.design + ": what its spread hangs on", a.svg);
        if (!ok) return complain(ok.error());
    }
    if (a.json) {
        std::cout << summary_json(*table, s).dump(1) << '\n';
        return exit_holds;
    }
    fmt::print("{}: {} rows, {} cannot be built, {} solved again finer\n", table->plan.design, s.rows,
               s.refused, s.again);
    fmt::print("falls short: {}\n", share_words(s.falls_short, s.failing, s.rows - s.refused));
    for (const auto& c : s.checks)
        if (c.largest > 0)
            fmt::print(
                "  {}: falls short {} ± {} %; share of the limit: median {}, 95 % {}, 99 % {}, largest {}\n",
                c.check, format_figures(100 * c.falls_short.share, 3),
                format_figures(100 * c.falls_short.half_width, 2), format_figures(c.median, 3),
                format_figures(c.p95, 3), format_figures(c.p99, 3), format_figures(c.largest, 3));
    if (!s.effects.empty()) fmt::print("effects on the worst share of a limit, {}\n", blocks_words(s));
    for (const auto& e : s.effects)
        fmt::print("  {}: main effect {}, total {}\n", e.key, format_figures(e.main, 2),
                   format_figures(e.total, 2));
    if (s.worst)
        fmt::print("worst: row {}, {} of its limit\n", s.worst->index, format_figures(s.worst_share, 3));
    return exit_holds;
}

int run_study_sample(const StudyArguments& a, const Library& library) {
    if (a.files.size() != 1)
        return complain({"study sample", "it opens a row of one file", "Name the file of rows"});
    const auto table = table_of(a.files.front());
    if (!table) return complain(table.error());
    const auto job = load_job(a.job);
    if (!job) return complain(job.error());
    const bool faults = table->plan.with_faults;
    const auto study = Study::begin(*job, table->plan, library, preparer(faults));
    if (!study) return complain(study.error());
    for (const auto& row : table->rows)
        if (row.index == a.index) {
            const auto drawn = study->job_of(row.drawn);
            if (!drawn) return complain(drawn.error());
            if (auto ok = save_job(*drawn, a.out); !ok) return complain(ok.error());
            return exit_holds;
        }
    return complain({"study sample", fmt::format("row {} is not in {}", a.index, a.files.front()),
                     "Name a row that is there"});
}

namespace {

/// "20:40", in mm where no unit is given.
Result<std::pair<double, double>> span_of(const std::string& option, const std::string& text) {
    const auto colon = text.find(':');
    if (colon == std::string::npos)
        return refuse(option, fmt::format("“{}” is no range", text),
                      "Give it as lowest:highest, such as 20:40");
    const auto low = parse_length_mm(text.substr(0, colon), LengthUnit::mm, option),
               high = parse_length_mm(text.substr(colon + 1), LengthUnit::mm, option);
    if (!low) return tl::unexpected(low.error());
    if (!high) return tl::unexpected(high.error());
    return std::pair{*low, *high};
}

} // namespace

int run_study_range(const StudyArguments& a, const Library& library) {
    std::signal(SIGINT, on_signal);
    const auto job = load_job(a.job);
    if (!job) return complain(job.error());
    const auto prepared = prepare_design(*job, a.design, library);
    if (!prepared) return complain(prepared.error());
    auto grid = usual_range(*prepared);
    grid.cells = a.cells;
    grid.corners = a.corners;
    if (!a.diameter.empty()) {
        const auto span = span_of("--diameter", a.diameter);
        if (!span) return complain(span.error());
        std::tie(grid.diameter_low_mm, grid.diameter_high_mm) = *span;
    }
    if (!a.thickness.empty()) {
        const auto span = span_of("--thickness", a.thickness);
        if (!span) return complain(span.error());
        std::tie(grid.thickness_low_mm, grid.thickness_high_mm) = *span;
    }
    const auto map = map_range(*job, a.design, library, preparer(a.with_faults), grid, &stop);
    if (!map) return complain(map.error());
    if (!a.svg.empty()) {
        const OffscreenGui gui;
        if (auto ok =
                draw::write_range_svg(*map, prepared->design.title + ": the kit over its cables", a.svg);
            !ok)
            return complain(ok.error());
    }
    if (a.json)
        std::cout << range_json(*map).dump(1) << '\n';
    else if (a.csv)
        std::cout << range_csv(*map);
    else
        std::cout << range_words(*map) << '\n';
    return exit_holds;
}

int run_study_duty(const StudyArguments& a, const Library& library) {
    std::signal(SIGINT, on_signal);
    const auto job = load_job(a.job);
    if (!job) return complain(job.error());
    const auto rows = over_duties(*job, a.design, library, preparer(a.with_faults), &stop);
    if (!rows) return complain(rows.error());
    if (!a.svg.empty()) {
        const OffscreenGui gui;
        if (auto ok = draw::write_duties_svg(
                *rows, job->find_design(a.design)->title + ": the classes that it holds", a.svg);
            !ok)
            return complain(ok.error());
    }
    if (a.json)
        std::cout << duties_json(a.design, *rows).dump(1) << '\n';
    else if (a.csv)
        std::cout << duties_csv(*rows);
    else
        for (const auto& line : duties_words(*rows)) fmt::print("{}\n", line);
    const auto own = std::find_if(rows->begin(), rows->end(), [](const auto& row) { return row.own; });
    return own != rows->end() && own->holds() ? exit_holds : exit_falls_short;
}

int run_study_worst(const StudyArguments& a, const Library& library) {
    std::signal(SIGINT, on_signal);
    auto with = a;
    with.what = "tolerance";
    const auto study = study_of(with, library);
    if (!study) return complain(study.error());
    const auto worst = find_worst(*study, a.most_solves, &stop);
    if (!worst) return complain(worst.error());
    if (!a.out.empty()) {
        const auto job = study->job_of(worst->drawn);
        if (!job) return complain(job.error());
        if (auto ok = save_job(*job, a.out); !ok) return complain(ok.error());
    }
    if (a.json) {
        std::cout << worst_json(*study, *worst).dump(1) << '\n';
        return worst->share > 1 ? exit_falls_short : exit_holds;
    }
    fmt::print(
        "worst found: {} ± {} % of the limit ({}), as designed {} %; {} builds judged, {} cannot be built\n",
        format_figures(100 * worst->share, 3), format_figures(100 * worst->error, 1), worst->check,
        format_figures(100 * worst->nominal_share, 3), worst->solves, worst->refused);
    const auto& varied = study->plan().varied;
    for (std::size_t k = 0; k < worst->drawn.size(); ++k)
        fmt::print("  {}: {:g}, designed {:g} (looked from {:g} to {:g})\n", varied[k].label, worst->drawn[k],
                   varied[k].middle, worst->low[k], worst->high[k]);
    return worst->share > 1 ? exit_falls_short : exit_holds;
}

int run_study_tornado(const StudyArguments& a, const Library& library) {
    std::signal(SIGINT, on_signal);
    const auto study = study_of(a, library);
    if (!study) return complain(study.error());
    const auto tornado = one_at_a_time(*study, &stop);
    if (!tornado) return complain(tornado.error());
    if (!a.svg.empty()) {
        const OffscreenGui gui;
        if (auto ok = draw::write_tornado_svg(study->plan(), *tornado,
                                              study->plan().design + ": what moves it most", a.svg);
            !ok)
            return complain(ok.error());
    }
    if (a.json) {
        std::cout << tornado_json(study->plan(), *tornado).dump(1) << '\n';
    } else if (a.csv) {
        std::cout << tornado_csv(study->plan(), *tornado);
    } else {
        fmt::print("as designed {} ± {} % of the limit ({})\n",
                   format_figures(100 * tornado->nominal.share, 3),
                   format_figures(100 * tornado->nominal.error, 1), tornado->nominal.check);
        const auto words = [](const std::optional<Swing::End>& end) {
            return end ? format_figures(100 * end->share, 3) + " %" : std::string("cannot be built");
        };
        for (const auto& s : tornado->swings) {
            const auto& v = study->plan().varied[s.varied];
            fmt::print("  {:<44} {:g}: {}; {:g}: {}\n", v.label, s.low, words(s.at_low), s.high,
                       words(s.at_high));
        }
    }
    return exit_holds;
}

int run_study_windows(const StudyArguments& a, const Library& library) {
    std::signal(SIGINT, on_signal);
    auto with = a;
    with.what = "windows";
    const auto study = study_of(with, library);
    if (!study) return complain(study.error());
    const auto windows = find_windows(*study, a.others, &stop, [&](const MarkWindow& w, int, int) {
        if (a.json) return;
        const auto bound = [](const std::optional<double>& b, double now, double looked) {
            return b ? fmt::format("{:+.2f}", *b - now) : fmt::format("beyond {:+.1f}", looked - now);
        };
        fmt::print("{} {:g} mm: {} to {} mm", w.label, w.now, bound(w.lowest, w.now, w.looked_low),
                   bound(w.highest, w.now, w.looked_high));
        if (!w.why_low.empty()) fmt::print("; shorter: {}", w.why_low);
        if (!w.why_high.empty()) fmt::print("; longer: {}", w.why_high);
        fmt::print("\n");
    });
    if (!windows) return complain(windows.error());
    if (a.json) {
        using nlohmann::ordered_json;
        const auto number = [](const std::optional<double>& v) {
            return v ? ordered_json(*v) : ordered_json();
        };
        ordered_json out{{"format", "needlegauge-windows"},
                         {"version", 1},
                         {"design", study->plan().design},
                         {"others_drawn", a.others},
                         {"windows", ordered_json::array()}};
        for (const auto& w : *windows)
            out["windows"].push_back({{"key", w.key},
                                      {"label", w.label},
                                      {"designed_mm", w.now},
                                      {"lowest_mm", number(w.lowest)},
                                      {"highest_mm", number(w.highest)},
                                      {"looked_mm", {w.looked_low, w.looked_high}},
                                      {"error_mm", w.error},
                                      {"falls_short_below", w.why_low},
                                      {"falls_short_above", w.why_high}});
        std::cout << out.dump(1) << '\n';
    }
    return exit_holds;
}

} // namespace ng::cli
