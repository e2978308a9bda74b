// Solving a section in any of its analyses (docs/section-format.md), refined towards paths and electrode
// edges.
//
// Error control: dual-weighted averaging. The averaging estimate (Zienkiewicz and Zhu, IJNME 24, 1987) of the
// solution times that of the adjoint of a mean of the read fields marks triangles (Becker and Rannacher, Acta
// Numerica 10, 2001); the error that is reported comes from the change of each path and edge between the last
// meshes. Transients are stepped on the last two meshes of a phasor state of the same section.
#pragma once
#include "field/solution.h"
#include "mesh/mesher.h"
#include <functional>

namespace ng {

struct SolveOptions {
    double goal = 0.01;         ///< relative, of the peak of each path and edge
    int most_unknowns = 150000; ///< budget: no pass is begun above it
    int most_passes = 7;
    bool coarse = false; ///< one quick pass while a hand moves; no error estimate
    bool capacitance_matrix = false;
    const CancelFlag* cancel = nullptr; ///< raised, solve() returns within some 10 ms, whatever it was doing
    std::function<void(const SolveReport&)> progress; ///< after each pass, on the thread that called solve()
};

constexpr int most_unknowns_in_time = 80000; ///< chosen: time stepping is run on no larger mesh

/// Refuses what cannot be solved, by item. A cancelled solve returns a Solution whose report says so.
Result<Solution> solve(const Section& section, const SolveOptions& options = {});

/// Independent solves on all cores, in the order given.
std::vector<Result<Solution>> solve_many(const std::vector<Section>& sections,
                                         const SolveOptions& options = {});

/// A solved section whose meshes are kept: other materials, voltages, frequencies and steady analyses of the
/// same shapes cost no meshing and no ordering. The error is again the difference of the last two meshes.
class Kept {
  public:
    static Result<Kept> make(const Section& section, const SolveOptions& options = {});
    ~Kept();
    Kept(Kept&&) noexcept;
    Kept& operator=(Kept&&) noexcept;

    const Solution& solution() const;
    Solution take() &&;
    /// Refuses other shapes and transients. The cancel flag given to make() stops this too.
    Result<Solution> solve(const Section& section);

  private:
    struct State;
    explicit Kept(std::shared_ptr<State> state);
    std::shared_ptr<State> state_;
};

} // namespace ng
