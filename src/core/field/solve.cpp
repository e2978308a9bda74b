#include "field/solve.h"
#include "units/parallel.h"

namespace ng {

std::vector<Result<Solution>> solve_many(const std::vector<Section>& sections, const SolveOptions& options) {
    std::vector<Result<Solution>> out(sections.size(), Result<Solution>(Solution{}));
    in_parallel(sections.size(), usable_threads(),
                [&](std::size_t k) { out[k] = solve(sections[k], options); });
    return out;
}

} // namespace ng
