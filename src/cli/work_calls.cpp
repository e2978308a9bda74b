#include "cli/work_calls.h"
#include "cli/offscreen.h"
#include "cli/schedule_calls.h"
#include "design/revisions.h"
#include "draw/report_document.h"
#include "draw/sheet_document.h"
#include "draw/template_picture.h"
#include "fault/answer.h"
#include "io/file.h"
#include "plan/plan.h"
#include "units/quantity.h"
#include <QDate>
#include <algorithm>
#include <fmt/format.h>
#include <iostream>

namespace ng::cli {
namespace {

struct Planned {
    PreparedDesign prepared;
    CutPlan plan;
    DesignState state;
};

Result<Planned> plan_design(const WorkArguments& arguments, const Library& library) {
    const auto job = load_job(arguments.job);
    if (!job) return tl::unexpected(job.error());
    auto state = state_of(*job, arguments.design); // what is frozen is said of the file, not of another datum
    if (!state) return tl::unexpected(state.error());
    auto* design = state->job.find_design(state->design);
    if (!arguments.datum.empty()) {
        design->work.datum = place_of(arguments.datum);
        if (!design->work.datum)
            return refuse("--datum", fmt::format("“{}” is no place to measure from", arguments.datum),
                          "Give “cable end”, “jacket cut”, or leave it out");
    }
    auto prepared = preparer(arguments.with_faults)(state->job, state->design, library);
    if (!prepared) return tl::unexpected(prepared.error());
    auto plan = make_plan(*prepared);
    if (!plan) return tl::unexpected(plan.error());
    return Planned{std::move(*prepared), std::move(*plan), std::move(*state)};
}

void print_plan(const Planned& planned) {
    const auto& plan = planned.plan;
    fmt::print("{}: marks from the {}\n", planned.prepared.design.title, name_of(plan.datum));
    for (const auto& m : plan.marks) {
        fmt::print("  {:<28} {:>10} {:>11}  ± {:g}", m.label, format_length(m.from_datum_mm, LengthUnit::mm),
                   format_length(m.from_datum_mm, LengthUnit::inch), m.tolerance_mm);
        if (!m.neighbour.empty())
            fmt::print("; {} from {}", format_length(m.from_neighbour_mm, LengthUnit::mm), m.neighbour);
        if (!m.cuts.empty())
            fmt::print("; cuts {}{}", m.cuts, m.spares.empty() ? "" : ", spares " + m.spares);
        if (m.blade_mm) fmt::print(", blade {:.1f} mm", *m.blade_mm);
        fmt::print("\n");
    }
    for (const auto& part : plan.parked)
        fmt::print("  park {} on side {}, {} long, over the {}\n", part.part,
                   part.side == CableSide::a ? "A" : "B", format_length(part.length_mm, LengthUnit::mm),
                   part.over_jacket ? "jacket" : "core");
    for (const auto& check : plan.checks)
        fmt::print("  {:<12} {}: {}. {}\n", status_word(check.status), check.title, check.why, check.cure);
}

} // namespace

int run_marks(const WorkArguments& arguments, const Library& library) {
    const auto planned = plan_design(arguments, library);
    if (!planned) return complain(planned.error());
    if (arguments.json)
        std::cout << plan_json(planned->plan).dump(1) << '\n';
    else if (arguments.csv)
        std::cout << plan_csv(planned->plan);
    else
        print_plan(*planned);
    return planned->plan.status == Status::falls_short ? exit_falls_short : exit_holds;
}

int run_revise(const ReviseArguments& arguments, const Library&) {
    auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    auto* design = job->find_design(arguments.design);
    if (!design)
        return complain(
            {"design " + arguments.design, "it is not in the job", "Name one of the job's designs"});
    const auto on =
        arguments.on.empty() ? QDate::currentDate().toString(Qt::ISODate).toStdString() : arguments.on;
    auto revision = freeze(*job, *design, arguments.by, arguments.why, on);
    if (!revision) return complain(revision.error());
    design->revisions.push_back(std::move(*revision));
    if (auto ok = save_job(*job, arguments.job); !ok) return complain(ok.error());
    fmt::print("{}: {}\n", design->id, revision_words(*job, *design));
    return exit_holds;
}

int run_revisions(const ReviseArguments& arguments, const Library& library) {
    const auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    const auto* design = job->find_design(arguments.design);
    if (!design)
        return complain(
            {"design " + arguments.design, "it is not in the job", "Name one of the job's designs"});
    const auto* family = library.families.find(design->family);
    const auto since = changes_since(*job, *design, family);
    if (arguments.json) {
        nlohmann::ordered_json out{{"format", "needlegauge-revisions"},
                                   {"version", 1},
                                   {"design", design->id},
                                   {"state", revision_words(*job, *design)},
                                   {"revisions", nlohmann::ordered_json::array()},
                                   {"changed_since", since}};
        for (std::size_t i = 0; i < design->revisions.size(); ++i) {
            const auto& r = design->revisions[i];
            out["revisions"].push_back({{"name", r.name},
                                        {"on", r.on},
                                        {"by", r.by},
                                        {"why", r.why},
                                        {"changes", changes_of(*design, i, family)}});
        }
        std::cout << out.dump(1) << '\n';
        return exit_holds;
    }
    fmt::print("{}: {}\n", design->title, revision_words(*job, *design));
    for (std::size_t i = 0; i < design->revisions.size(); ++i) {
        const auto& r = design->revisions[i];
        fmt::print("  {}  {}  {}: {}\n", r.name, r.on, r.by, r.why);
        for (const auto& change : changes_of(*design, i, family)) fmt::print("     {}\n", change);
    }
    for (const auto& change : since) fmt::print("  since then: {}\n", change);
    return exit_holds;
}

int run_template(const WorkArguments& arguments, const Library& library) {
    const auto planned = plan_design(arguments, library);
    if (!planned) return complain(planned.error());
    const auto& all = papers();
    const auto paper =
        std::find_if(all.begin(), all.end(), [&](const auto& p) { return p.name == arguments.paper; });
    if (paper == all.end())
        return complain({"--paper", fmt::format("“{}” is no paper", arguments.paper), "Give A4 or Letter"});
    if (arguments.pdf.empty() && arguments.svg.empty() && arguments.dxf.empty())
        return complain({"template", "no file is named", "Give --pdf, --svg or --dxf"});
    const auto strips = template_strips(planned->plan, planned->prepared);
    const OffscreenGui gui;
    const auto& title = planned->prepared.design.title;
    if (!arguments.pdf.empty())
        if (auto ok = draw::write_template_pdf(strips, *paper, title, arguments.pdf); !ok)
            return complain(ok.error());
    if (!arguments.svg.empty())
        if (auto ok = draw::write_template_svg(strips, title, arguments.svg); !ok)
            return complain(ok.error());
    if (!arguments.dxf.empty())
        if (auto ok = write_template_dxf(strips, arguments.dxf); !ok) return complain(ok.error());
    return planned->plan.status == Status::falls_short ? exit_falls_short : exit_holds;
}

int run_sheet(const WorkArguments& arguments, const Library& library) {
    const auto planned = plan_design(arguments, library);
    if (!planned) return complain(planned.error());
    if (arguments.pdf.empty() && arguments.html.empty())
        return complain({"sheet", "no file is named", "Give --pdf or --html"});
    const auto book = load_steps(library);
    if (!book) return complain(book.error());
    auto sheet = make_sheet(planned->prepared, planned->plan, *book, library.connectors,
                            planned->state.job.step_texts);
    if (!sheet) return complain(sheet.error());
    draw::SheetHead head{QString::fromStdString(planned->state.job.title),
                         QDate::currentDate().toString(Qt::ISODate)};
    head.take(planned->state);
    if (!arguments.not_judged) {
        const auto judged = judge_design(planned->state.job, planned->prepared.design.id, library,
                                         preparer(arguments.with_faults), true);
        if (!judged) return complain(judged.error());
        head.take(judged->verdict, judged->schedule ? &*judged->schedule : nullptr);
    }
    if (arguments.critical_sizes) {
        const auto sound = judge_sound(planned->state.job, planned->prepared.design.id, library);
        if (!sound) return complain(sound.error());
        write_hold_points(scan_faults(planned->state.job, planned->prepared.design.id, library, *sound),
                          *sheet);
    }
    const OffscreenGui gui;
    const auto document =
        draw::sheet_document(*sheet, planned->prepared, planned->plan, arguments.large_print, head);
    if (!arguments.pdf.empty())
        if (auto ok = document.write_pdf(arguments.pdf); !ok) return complain(ok.error());
    if (!arguments.html.empty())
        if (auto ok = document.write_html(arguments.html); !ok) return complain(ok.error());
    return draw::not_to_be_built(*sheet, planned->prepared, planned->plan, head).empty() ? exit_holds
                                                                                         : exit_falls_short;
}

int run_report(const WorkArguments& arguments, const Library& library) {
    const auto job = load_job(arguments.job);
    if (!job) return complain(job.error());
    if (arguments.pdf.empty() && arguments.html.empty())
        return complain({"report", "no file is named", "Give --pdf or --html"});
    std::vector<Judgement> judged;
    std::vector<CutPlan> plans;
    for (const auto& design : job->designs) {
        if (!arguments.design.empty() && design.id != arguments.design) continue;
        auto one = judge_design(*job, design.id, library, preparer(arguments.with_faults), true);
        if (!one) return complain(one.error());
        auto plan = make_plan(one->prepared);
        if (!plan) return complain(plan.error());
        judged.push_back(std::move(*one));
        plans.push_back(std::move(*plan));
    }
    if (judged.empty())
        return complain(
            {"design " + arguments.design, "it is not in the job", "Name one of the job's designs"});
    std::vector<draw::ReportedDesign> designs;
    int code = exit_holds;
    for (std::size_t i = 0; i < judged.size(); ++i) {
        const auto& j = judged[i];
        designs.push_back(
            {&j.prepared, &j.solutions.at_u0, &j.verdict, j.schedule ? &*j.schedule : nullptr, &plans[i]});
        code = worse_exit(code, exit_of(designs.back().overall()));
    }
    const OffscreenGui gui;
    const auto date = arguments.date.empty() ? QDate::currentDate().toString(Qt::ISODate)
                                             : QString::fromStdString(arguments.date);
    const auto document = draw::report_document(*job, designs, date);
    if (!arguments.pdf.empty())
        if (auto ok = document.write_pdf(arguments.pdf); !ok) return complain(ok.error());
    if (!arguments.html.empty())
        if (auto ok = document.write_html(arguments.html); !ok) return complain(ok.error());
    return code;
}

} // namespace ng::cli
