// Meshes of a section, refined until what is read of its steady states is good enough.
//
// Estimate, mark, refine. Marking: the averaging estimate (Zienkiewicz and Zhu, IJNME 24, 1987) of the
// solution times that of the adjoint of everything that the goal holds (Becker and Rannacher, Acta Numerica
// 10, 2001), by bulk (field/mark.h); readings that are off by more than the goal force their own triangles.
// The error that is reported comes from the change between the last meshes (field/errors.h).
#pragma once
#include "field/readings.h"
#include "field/sizes.h"
#include "field/solve.h"
#include "field/steady.h"
#include <future>

namespace ng {

/// One mesh with all that is kept of it.
struct Level {
    std::shared_ptr<const Assembly> assembly;
    std::shared_ptr<SteadyModel> model;
    std::shared_ptr<const Readings> readings;                           ///< null until await_readings()
    std::shared_future<Result<std::shared_ptr<const Readings>>> coming; ///< they are made beside the solve
    std::vector<char> divided; ///< per triangle, whether the next level divides it; empty: there is none yet
    bool divided_all = false;  ///< whether the next level is finer everywhere
    explicit operator bool() const { return assembly != nullptr; }
    /// Refuses a path or probe that leaves its region.
    Result<void> await_readings();
};

class Adaptation {
  public:
    /// Outlines triangulated; nothing solved. `loads`: the steady analyses that the meshes must serve, all of
    /// one section's shapes; they decide which corners count as sharp.
    static Result<Adaptation> begin(const std::vector<Section>& loads, const SolveOptions& options);

    /// Solves every load, on the levels that there are and then on finer ones, until all meet the goal or the
    /// budget ends. Refuses what cannot be solved. A cancelled run gives one Solution whose report says so.
    Result<std::vector<Solution>> run(const std::vector<Section>& loads, const SolveOptions& options);

    /// On `meshes` of the same outlines, the coarser first, each with the level that its mesh was moved from,
    /// which has its numbering: they are read where this section asks for it, and nothing finer is made. What
    /// begin() would refuse is refused by run().
    static Adaptation follow(const std::vector<Section>& loads,
                             const std::vector<std::pair<std::shared_ptr<const Mesh>, const Level*>>& meshes,
                             const SolveOptions& options);

    const Level& fine() const { return fine_; }
    const Level& coarse() const { return coarse_; } ///< empty after a single pass

    /// What the last run's levels left as it was, relative: the worst of its loads.
    double left_over() const { return left_over_; }
    bool may_refine(const SolveOptions& options, const SolveReport& report) const;
    /// One level more for the figures of `solution`, read on fine(): by the indicators of the loads and by
    /// the readings that miss the goal. False when cancelled.
    Result<bool> refine_for(const std::vector<Section>& loads, const Solution& solution,
                            const SolveOptions& options, SolveReport& report);

  private:
    /// Makes one level more, finer where `indicator` (per triangle of fine()) asks for it and where `forced`
    /// (per triangle, 1: as it is) does; `all`: also where the `energy` estimate has most of its sum, so that
    /// integrals come nearer and their change tells of their error. False when cancelled.
    Result<bool> refine(const std::vector<double>& indicator, const std::vector<double>& energy,
                        const std::vector<double>& forced, double share, bool all,
                        const SolveOptions& options, SolveReport& report);
    /// Product of the averaging estimates of a state and of the adjoint of its goal, per triangle of a level,
    /// relative. The level's model must have solved `section` last.
    std::vector<double> indicator_of(const Section& section, const Level& level, const Solution& state,
                                     bool errors_known, const SolveOptions& options,
                                     std::vector<double>* energy = nullptr) const;

    /// What is known of the outlines alone, and where they are read.
    struct Outlook {
        std::shared_ptr<Mesher> mesher;
        std::shared_ptr<const ReadingPlan> plan; ///< null: not before there is a mesh
    };
    static Result<std::shared_ptr<Mesher>> make_mesher(const Section& shapes, const MesherOptions& how);
    MesherOptions take(const std::vector<Section>& loads, const SolveOptions& options);
    Result<void> await_outlook();

    std::shared_ptr<const Section> shapes_;
    Slack slack_;
    Outlook outlook_;
    std::shared_future<Result<Outlook>> coming_; ///< where it is made beside the solve
    Level fine_, coarse_;
    std::vector<std::vector<double>> weights_; ///< per load: what its corners were judged by
    /// The first level, or one finer than fine() where `factor` (per triangle, of its size) is below 1.
    Result<Level> make_level(const std::vector<double>& factor, const SolveOptions& options,
                             SolveReport& report, bool& complete);
    /// Points are added to the last mesh; it is made anew where its arcs need finer chords.
    Result<MadeMesh> make_mesh(std::vector<double> factor, const SolveOptions& options);
    void begin_readings(Level& level, std::shared_ptr<const Mesh> mesh, std::size_t threads);
    Result<void> look_at_corners(const std::vector<Section>& loads, const SolveOptions& options);
    bool exhausted_ = false; ///< the mesher has reached its limit
    double left_over_ = 0;
};

Solution cancelled_solution(const SolveReport& report);

/// The field for pictures.
void finish(Solution& solution);

} // namespace ng
