// Fuzz target of the section reader: whatever the bytes, it answers or refuses, and what it accepts it can
// write and read again, and every so often solve coarsely. Built for libFuzzer with -fsanitize=fuzzer and
// NEEDLEGAUGE_LIBFUZZER; else a bounded run of its own: mutations of the section files given, from a fixed
// seed.
#include "field/solve.h"
#include "io/file.h"
#include "mutate.h"
#include "section/section.h"
#include <cstdint>
#include <cstdio>
#include <cstdlib>

namespace {

void try_section(const std::string& text, bool solve_too = false) {
    const auto section = ng::read_section_text(text, "fuzz");
    if (!section) {
        if (section.error().item.empty() || section.error().problem.empty() || section.error().remedy.empty())
            std::abort();
        return;
    }
    const auto again = ng::read_section(ng::write_section(*section));
    if (!again || ng::write_section(*again) != ng::write_section(*section)) std::abort();
    if (!solve_too) return;
    ng::SolveOptions options;
    options.coarse = true;
    options.most_unknowns = 40000;
    const auto solution = ng::solve(*section, options);
    if (!solution && solution.error().remedy.empty()) std::abort();
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    try_section(std::string(reinterpret_cast<const char*>(data), size));
    return 0;
}

#ifndef NEEDLEGAUGE_LIBFUZZER
int main(int argc, char** argv) {
    if (argc < 3) return 2;
    const int runs = std::atoi(argv[1]);
    std::vector<std::string> seeds;
    for (int i = 2; i < argc; ++i) {
        const auto text = ng::read_file(argv[i]);
        if (!text) return 2;
        seeds.push_back(*text);
        try_section(*text);
    }
    ng::fuzz::Mutator mutator(20261125);
    for (int run = 0; run < runs; ++run)
        try_section(mutator.bytes(seeds[mutator.below(seeds.size())]), run % 64 == 0);
    std::printf("%d mutated sections read or refused\n", runs);
    return 0;
}
#endif
