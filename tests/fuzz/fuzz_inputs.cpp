// A bounded run over all kinds of inputs from a fixed seed: core_fuzz_inputs RUNS [KIND...]. Half of the
// mutations of a JSON text are of its values, half of its bytes; one in 64 goes deep.
#include "kinds.h"
#include "mutate.h"
#include <algorithm>
#include <cstdio>
#include <cstdlib>

int main(int argc, char** argv) {
    using namespace ng::fuzz;
    if (argc < 2) return 2;
    // Under a sanitizer in CI a quarter of them: the others run without one.
    const int runs = std::atoi(argv[1]) / (std::getenv("NEEDLEGAUGE_QUICK") ? 4 : 1);
    const std::vector<std::string> wanted(argv + 2, argv + argc);
    for (const auto& kind : kinds()) {
        if (!wanted.empty() && std::find(wanted.begin(), wanted.end(), kind.name) == wanted.end()) continue;
        Mutator mutator(20261125);
        std::vector<nlohmann::json> documents;
        for (const auto& seed : kind.seeds) {
            if (!kind.take(seed, true)) {
                std::fprintf(stderr, "%s: a seed was refused\n", kind.name.c_str());
                return 1;
            }
            if (kind.is_json) documents.push_back(nlohmann::json::parse(seed));
        }
        int read = 0;
        for (int run = 0; run < runs; ++run) {
            const auto seed = mutator.below(kind.seeds.size());
            const bool values = kind.is_json && run % 2;
            read +=
                kind.take(values ? mutator.values(documents[seed]).dump() : mutator.bytes(kind.seeds[seed]),
                          run % 64 == (values ? 1 : 0));
        }
        std::printf("%s: %d mutated, %d read, %d refused\n", kind.name.c_str(), runs, read, runs - read);
        std::fflush(stdout);
        if (read * 100 < runs) return 1; // the mutations would prove little
    }
    return 0;
}
