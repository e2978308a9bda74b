// The calls about the designs of a job: check, section, render; and the families that they are of.
#pragma once
#include "design/prepared.h"

namespace ng::cli {

struct DesignArguments {
    std::string job, design, png, duty;
    bool json = false, service_only = false, with_faults = false;
    int width = 1280, height = 640;
};
int run_check(const DesignArguments& arguments, const Library& library);
int run_section(const DesignArguments& arguments, const Library& library);
int run_render(const DesignArguments& arguments, const Library& library);
/// Families with their parameters, so that a job can be written by hand.
int run_families(bool as_json, const Library& library);

} // namespace ng::cli
