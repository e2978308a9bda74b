// The calls about duty and schedule: standards, compare, why.
#pragma once
#include "cli/answer.h"
#include "schedule/judgement.h"
#include <string>

namespace ng::cli {

/// "ieee404" or "ieee404:25" in the place of a design's standard and class.
Result<void> replace_duty(Duty& duty, const std::string& words);

void print_schedule(const Schedule& schedule);

struct StandardsArguments {
    std::string file; ///< to be validated; empty: list what ships
    bool json = false;
};
int run_standards(const StandardsArguments& arguments, const Library& library);

struct CompareArguments {
    std::string job, design, with, duty, with_duty;
    bool csv = false, with_faults = false; ///< on side A
};
int run_compare(const CompareArguments& arguments, const Library& library);

struct WhyArguments {
    std::string job, design, check;
    bool json = false, with_faults = false;
};
int run_why(const WhyArguments& arguments, const Library& library);

} // namespace ng::cli
