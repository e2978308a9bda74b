// Random designs of each family in number: the long form of what core_families samples.
// usage: random_designs COUNT [FAMILY...]; prints a row a family, and how to repeat what went wrong.
#include "random_designs.h"
#include <chrono>
#include <cstdio>
#include <map>

int main(int argc, char** argv) {
    using namespace ng;
    const int wanted = argc > 1 ? std::atoi(argv[1]) : 100;
    const auto library = load_library(NEEDLEGAUGE_DATA_DIR);
    if (!library || wanted < 1) return 2;
    std::printf("| family | solved | refused | wrong | ms each | slowest ms | refusals, most frequent first |\n|---|---|---|---|---|---|---|\n");
    int wrong = 0;
    for (const auto& family : families()) {
        bool asked = argc < 3;
        for (int i = 2; i < argc; ++i) asked = asked || family.id == argv[i];
        if (!asked) continue;
        int solved = 0, refused = 0, bad = 0;
        double slowest = 0, total = 0;
        std::map<std::string, int> refusals;
        for (unsigned seed = 1; solved < wanted && seed < 20u * static_cast<unsigned>(wanted); ++seed) {
            std::mt19937 generator(seed);
            const auto begin = std::chrono::steady_clock::now();
            Job job;
            const auto result = test::try_random(family, generator, *library, &job);
            const double ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
            if (result.outcome == test::Outcome::solved) {
                ++solved;
                total += ms;
                slowest = std::max(slowest, ms);
            } else if (result.outcome == test::Outcome::refused) {
                ++refused;
                ++refusals[result.why];
            } else {
                ++bad;
                std::fprintf(stderr, "%s, seed %u: %s\n", family.id.c_str(), seed, result.why.c_str());
                if (std::getenv("NEEDLEGAUGE_KEEP_WRONG"))
                    (void)save_job(job, fmt::format("{}-{}.ngjob", family.id, seed));
            }
        }
        std::vector<std::pair<int, std::string>> order;
        for (const auto& [item, n] : refusals) order.emplace_back(-n, item);
        std::sort(order.begin(), order.end());
        std::string words;
        for (std::size_t i = 0; i < std::min<std::size_t>(3, order.size()); ++i)
            words += fmt::format("{}{} {}", i ? ", " : "", order[i].second, -order[i].first);
        std::printf("| %s | %d | %d | %d | %.0f | %.0f | %s |\n", family.id.c_str(), solved, refused, bad, total / std::max(1, solved), slowest, words.c_str());
        std::fflush(stdout);
        wrong += bad;
    }
    return wrong == 0 ? 0 : 1;
}
