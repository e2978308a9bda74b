// How every call ends.
#pragma once
#include "units/result.h"

namespace ng::cli {

/// Prints the refusal; the exit code of bad input.
int complain(const InputError& error);
constexpr int exit_holds = 0, exit_falls_short = 1, exit_bad_input = 2, exit_internal = 3;

} // namespace ng::cli
