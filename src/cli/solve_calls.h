// The call that solves section files.
#pragma once
#include <string>

namespace ng::cli {

struct SolveArguments {
    std::string file, goal = "1%", csv, vtu, analysis, frequencies;
    bool json = false, capacitance = false;
};
int run_solve(const SolveArguments& arguments);

} // namespace ng::cli
