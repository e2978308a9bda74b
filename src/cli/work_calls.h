// The calls about the work: marks, template, sheet, report.
#pragma once
#include "design/prepared.h"

namespace ng::cli {

struct WorkArguments {
    std::string job, design, datum, paper = "A4", pdf, svg, dxf, html, date;
    bool json = false, csv = false, large_print = false, not_judged = false;
};
int run_marks(const WorkArguments& arguments, const Library& library);
int run_template(const WorkArguments& arguments, const Library& library);
int run_report(const WorkArguments& arguments, const Library& library);
int run_sheet(const WorkArguments& arguments, const Library& library);

} // namespace ng::cli
