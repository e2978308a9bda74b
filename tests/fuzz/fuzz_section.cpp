// Fuzz target of the section reader: whatever the bytes, it answers or refuses, and what it accepts it can
// write and read again, and every so often solve coarsely. Built for libFuzzer with -fsanitize=fuzzer and
// NEEDLEGAUGE_LIBFUZZER; else a bounded run of its own: mutations of the section files given, from a fixed
// seed.
#include "field/solve.h"
#include "io/file.h"
#include "section/section.h"
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <random>

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
    std::mt19937 random(20261125);
    auto below = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(random); };
    const std::string pieces[] = {"-",
                                  "0",
                                  "1e308",
                                  "-1e-308",
                                  "null",
                                  "[]",
                                  "{}",
                                  "\"\"",
                                  "NaN",
                                  ",",
                                  "]",
                                  "}",
                                  "1e999",
                                  "true",
                                  "\"floating\": true",
                                  "\"clockwise\": true",
                                  "\\u0000",
                                  "\xff",
                                  "9999999999"};
    for (int run = 0; run < runs; ++run) {
        std::string text = seeds[below(seeds.size())];
        for (std::size_t change = 0, changes = 1 + below(4); change < changes && !text.empty(); ++change) {
            const auto at = below(text.size()), length = std::min(text.size() - at, 1 + below(12));
            switch (below(5)) {
            case 0:
                text.erase(at, length);
                break;
            case 1:
                text.insert(at, pieces[below(std::size(pieces))]);
                break;
            case 2:
                text.replace(at, length, pieces[below(std::size(pieces))]);
                break;
            case 3: { // a number becomes another
                const auto digit = text.find_first_of("0123456789", at);
                if (digit != std::string::npos) text[digit] = static_cast<char>('0' + below(10));
                break;
            }
            default:
                text.insert(below(text.size()), text.substr(at, length));
            }
        }
        try_section(text, run % 64 == 0);
    }
    std::printf("%d mutated sections read or refused\n", runs);
    return 0;
}
#endif
