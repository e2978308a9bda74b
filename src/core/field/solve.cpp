#include "field/solve.h"
#include <atomic>
#include <future>
#include <thread>

namespace ng {

std::vector<Result<Solution>> solve_many(const std::vector<Section>& sections, const SolveOptions& options) {
    std::vector<Result<Solution>> out(sections.size(), Result<Solution>(Solution{}));
    std::atomic<std::size_t> next{0};
    auto work = [&] {
        for (std::size_t k = next++; k < sections.size(); k = next++) out[k] = solve(sections[k], options);
    };
    const auto workers =
        std::min<std::size_t>(std::max(1U, std::thread::hardware_concurrency()), sections.size());
    std::vector<std::future<void>> running;
    for (std::size_t k = 1; k < workers; ++k) running.push_back(std::async(std::launch::async, work));
    work();
    for (auto& r : running) r.get();
    return out;
}

} // namespace ng
