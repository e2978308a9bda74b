// Solving a section in any of its analyses (docs/section-format.md), refined towards all that is read of it
// (field/adapt.h), with an error for every figure (field/errors.h).
#pragma once
#include "field/slack.h"
#include "field/solution.h"
#include "units/cancel.h"
#include <functional>
#include <memory>
#include <vector>

namespace ng {

class Follower;

struct SolveOptions {
    /// Relative, of all that is read: every sample of the peak of its path, every peak of an edge, every
    /// probe, charge, current, loss of its own size or of a floor (field/tuning.h), energy.
    double goal = 0.01;
    Slack slack;                ///< on the goal, of paths and edges
    int most_unknowns = 150000; ///< budget: the first mesh is refined up to 0.7 of it, later ones up to half
    int most_unknowns_in_time = 80000; ///< the same of analyses in time
    int most_passes = 14;
    bool coarse = false;       ///< one quick pass while a hand moves; no error estimate
    bool coarse_first = false; ///< begins with a mesh as coarse as that: where little is wanted exactly
    bool capacitance_matrix = false;
    /// How many this one solve may keep busy: readings are made ready while the equations are ordered and
    /// factorised. The figures are the same to the last bit.
    std::size_t threads = 1;
    /// Meshes of sections like this one, for who only decides: the first that can follow it is taken, unless
    /// it misses the goal by more than tuning::followed_enough times; then the report's end says so (budget).
    std::vector<std::shared_ptr<const Follower>> like = {};
    const CancelFlag* cancel = nullptr; ///< raised, solve() returns within some 10 ms, whatever it was doing
    std::function<void(const SolveReport&)> progress; ///< after each pass, on the thread that called solve()
};

/// Refuses what cannot be solved, by item. A cancelled solve returns a Solution whose report says so.
Result<Solution> solve(const Section& section, const SolveOptions& options = {});

/// Independent solves on all cores, in the order given.
std::vector<Result<Solution>> solve_many(const std::vector<Section>& sections,
                                         const SolveOptions& options = {});

} // namespace ng
