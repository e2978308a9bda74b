#include "cli/answer.h"
#include <array>
#include <fmt/format.h>

namespace ng::cli {
namespace {

/// The one table of exit codes: what a caller must see first stands first.
constexpr std::array<std::pair<int, const char*>, 5> codes{
    {{exit_internal, "a fault of the program, or of the machine"},
     {exit_bad_input, "input that cannot be used; the message names it and the remedy"},
     {exit_falls_short, "something falls short, or could not be judged"},
     {exit_rests, "what was judged holds, and the answer rests on something that is not known"},
     {exit_holds, "holds, or done"}}};

std::size_t rank(int code) {
    for (std::size_t k = 0; k < codes.size(); ++k)
        if (codes[k].first == code) return k;
    return 0; // a code that is not in the table is a fault of the program
}

} // namespace

int complain(const InputError& error) {
    fmt::print(stderr, "{}\n", error.message());
    return exit_bad_input;
}

int worse_exit(int a, int b) {
    return rank(a) <= rank(b) ? a : b;
}

int exit_of(Status status) {
    return status == Status::holds || status == Status::marginal ? exit_holds : exit_falls_short;
}

std::string exit_code_table() {
    std::string out = "Exit codes, the first that applies:\n";
    for (const auto& [code, meaning] : codes) out += fmt::format("  {}  {}\n", code, meaning);
    return out;
}

} // namespace ng::cli
