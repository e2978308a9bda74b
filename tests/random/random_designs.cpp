// Random designs of each family in number: the long form of what core_families samples.
// usage: random_designs COUNT [FAMILY...]; prints a row a family, and how to repeat what went wrong.
//        random_designs seeds:A-B FAMILY; these seeds, both included, however many of them are solved
//        random_designs --faults ...; the same with a random fault on each
//        random_designs seed:N FAMILY; repeats one and saves its job as FAMILY-N.ngjob
#include "random_designs.h"
#include <chrono>
#include <cstdio>
#include <map>

int main(int argc, char** argv) {
    using namespace ng;
    const bool faults = argc > 1 && std::string(argv[1]) == "--faults";
    if (faults) --argc, ++argv;
    const std::string first = argc > 1 ? argv[1] : "100";
    const auto library = load_library(NEEDLEGAUGE_DATA_DIR);
    if (library && first.rfind("seed:", 0) == 0 && argc > 2) {
        const auto* family = FamilyTable::shipped().find(argv[2]);
        if (!family) return 2;
        std::mt19937 generator(static_cast<unsigned>(std::atoi(first.c_str() + 5)));
        Job job;
        const auto result = test::try_random(*family, generator, *library, &job, faults);
        (void)save_job(job, fmt::format("{}-{}.ngjob", family->id, first.substr(5)));
        std::printf("%s\n", result.outcome == test::Outcome::solved ? "solved" : result.why.c_str());
        return result.outcome == test::Outcome::wrong ? 1 : 0;
    }
    int wanted = std::atoi(first.c_str());
    unsigned begin_seed = 1, end_seed = 0;
    if (std::sscanf(first.c_str(), "seeds:%u-%u", &begin_seed, &end_seed) == 2)
        wanted = static_cast<int>(end_seed - begin_seed) + 1;
    if (!library || wanted < 1) return 2;
    if (end_seed == 0) end_seed = 20u * static_cast<unsigned>(wanted);
    std::printf("| family | solved | of these a check unread | refused | wrong | ms each | slowest ms | "
                "refusals, most frequent first |\n|---|---|---|---|---|---|---|---|\n");
    int wrong = 0;
    for (const auto& family : FamilyTable::shipped()) {
        bool asked = argc < 3;
        for (int i = 2; i < argc; ++i) asked = asked || family.id == argv[i];
        if (!asked) continue;
        int solved = 0, unread = 0, refused = 0, bad = 0;
        double slowest = 0, total = 0;
        std::map<std::string, int> refusals;
        for (unsigned seed = begin_seed; solved < wanted && seed <= end_seed; ++seed) {
            std::mt19937 generator(seed);
            const auto begin = std::chrono::steady_clock::now();
            const auto result = test::try_random(family, generator, *library, nullptr, faults);
            const double ms =
                std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
            if (result.outcome == test::Outcome::not_judged) ++unread;
            if (result.outcome == test::Outcome::solved || result.outcome == test::Outcome::not_judged) {
                ++solved;
                total += ms;
                slowest = std::max(slowest, ms);
            } else if (result.outcome == test::Outcome::refused) {
                ++refused;
                ++refusals[result.why];
            } else {
                ++bad;
                std::fprintf(stderr, "%s, seed %u: %s\n", family.id.c_str(), seed, result.why.c_str());
            }
        }
        std::vector<std::pair<int, std::string>> order;
        for (const auto& [item, n] : refusals) order.emplace_back(-n, item);
        std::sort(order.begin(), order.end());
        std::string words;
        for (std::size_t i = 0; i < std::min<std::size_t>(3, order.size()); ++i)
            words += fmt::format("{}{} {}", i ? ", " : "", order[i].second, -order[i].first);
        std::printf("| %s | %d | %d | %d | %d | %.0f | %.0f | %s |\n", family.id.c_str(), solved, unread,
                    refused, bad, total / std::max(1, solved), slowest, words.c_str());
        std::fflush(stdout);
        wrong += bad;
    }
    return wrong == 0 ? 0 : 1;
}
