// The call about faults that hands leave.
#pragma once
#include "design/prepared.h"

namespace ng::cli {

struct FaultArguments {
    std::string job, design, kind, at, side, size, width, filling = "air", sheet;
    bool scan = false, json = false, csv = false, no_critical = false, fits = false, elsewhere = false;
};
int run_faults(const FaultArguments& arguments, const Library& library);

} // namespace ng::cli
