// A solved section whose meshes are kept.
#pragma once
#include "field/solve.h"

namespace ng {

/// Other materials, voltages, frequencies and steady analyses of the same shapes cost no meshing and no
/// ordering, as long as the kept meshes are fine where the new field needs it. That is looked at anew for
/// each: the adjoint indicator of the new state on the coarser mesh says what the finer one did not divide,
/// and that is part of the error; while the goal is missed, finer meshes are made, and kept in their turn.
class Kept {
  public:
    static Result<Kept> make(const Section& section, const SolveOptions& options = {});
    ~Kept();
    Kept(Kept&&) noexcept;
    Kept& operator=(Kept&&) noexcept;

    const Solution& solution() const;
    /// Its meshes, or those that they followed, for sections like it; null: nothing is solved.
    std::shared_ptr<const Follower> follower() const;
    Solution take() &&;
    /// Refuses other shapes and transients. The cancel flag given to make() stops this too.
    Result<Solution> solve(const Section& section);

  private:
    struct State;
    explicit Kept(std::shared_ptr<State> state);
    std::shared_ptr<State> state_;
};

} // namespace ng
