// The calls about the work: marks, template, sheet, report, revisions.
#pragma once
#include "design/prepared.h"

namespace ng::cli {

struct WorkArguments {
    std::string job, design, datum, paper = "A4", pdf, svg, dxf, html, date;
    bool json = false, csv = false, large_print = false, not_judged = false, with_faults = false,
         critical_sizes = false;
};
struct ReviseArguments {
    std::string job, design, by, why, on;
    bool json = false;
};
/// Freezes a design in its job file.
int run_revise(const ReviseArguments& arguments, const Library& library);
int run_revisions(const ReviseArguments& arguments, const Library& library);

int run_marks(const WorkArguments& arguments, const Library& library);
int run_template(const WorkArguments& arguments, const Library& library);
int run_report(const WorkArguments& arguments, const Library& library);
int run_sheet(const WorkArguments& arguments, const Library& library);

} // namespace ng::cli
