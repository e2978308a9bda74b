// Studies: rows by shard, merged and summed up; windows of marks.
#pragma once
#include "design/library.h"

namespace ng::cli {

struct StudyArguments {
    std::string what, job, design, plan, out, shard = "0/1", diameter, thickness, svg;
    std::vector<std::string> files;
    std::uint64_t samples = 256, seed = 1, index = 0;
    int threads = 0, others = 0, cells = 9, most_solves = 120;
    bool json = false, csv = false, with_faults = false, corners = false;
};
/// Rows of a tolerance or effects study.
int run_study(const StudyArguments& arguments, const Library& library);
int run_study_plan(const StudyArguments& arguments, const Library& library);
int run_study_merge(const StudyArguments& arguments);
int run_study_summary(const StudyArguments& arguments);
/// The job with the design as a row drew it.
int run_study_sample(const StudyArguments& arguments, const Library& library);
int run_study_windows(const StudyArguments& arguments, const Library& library);
/// The kit over cables of other diameters and thicknesses.
int run_study_range(const StudyArguments& arguments, const Library& library);
/// The design at every class of the standards.
int run_study_duty(const StudyArguments& arguments, const Library& library);
/// The worst combination of tolerances.
int run_study_worst(const StudyArguments& arguments, const Library& library);
/// Each quantity by itself to both ends of its tolerance.
int run_study_tornado(const StudyArguments& arguments, const Library& library);

} // namespace ng::cli
