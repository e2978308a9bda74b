// How every call ends.
#pragma once
#include "units/result.h"
#include "verdict/verdict.h"
#include <string>

namespace ng::cli {

/// Prints the refusal; the exit code of bad input.
int complain(const InputError& error);

/// Exit codes of every call. What a call finds of several designs ends with the worst of their codes.
constexpr int exit_holds = 0, exit_falls_short = 1, exit_bad_input = 2, exit_internal = 3, exit_rests = 4;
/// Of two codes the one that a caller must see: internal, bad input, falls short, rests on what is not known,
/// holds.
int worse_exit(int a, int b);
/// Of a verdict. What is not judged has not passed: it ends as what falls short.
int exit_of(Status status);
/// The table of codes, a line each, for the help and the manual page.
std::string exit_code_table();

} // namespace ng::cli
