// The last meshes of a solved section, moved along with sections like it: no meshing, no numbering, no
// ordering, and the error of every figure found anew from what the two meshes differ by.
//
// Not good for: time-dependent analyses, and moves that the meshes cannot follow (mesh/motion.h).
#pragma once
#include "field/adapt.h"
#include "mesh/motion.h"

namespace ng {

/// May be shared by threads.
class Follower {
  public:
    /// How its meshes move is looked at beside what follows, on more than one of `threads`, else when it is
    /// first asked to. Null: nothing is solved.
    static std::shared_ptr<const Follower> of(const Section& section, const Adaptation& adaptation,
                                              const Solution& solution, std::size_t threads);
    /// What two meshes differ by tells nothing of an arc that neither divides: no edge is taken to be known
    /// much better than it was where the meshes were made.
    void cover(Solution& solution, const Slack& slack) const;
    bool can_follow(const Section& section) const;
    /// Levels for a section like it, of which none finer is made; `loads` as Adaptation::begin takes them.
    /// None: they cannot follow.
    std::optional<Adaptation> follow(const std::vector<Section>& loads, const SolveOptions& options) const;

  private:
    struct Kept {
        Level level;
        std::shared_future<std::optional<Motion>> motion; ///< none: the outlines are not known well enough
        std::optional<Mesh> moved(const Section& section) const;
    };
    std::optional<Kept> coarse_, fine_;
    std::map<std::string, double> errors_; ///< relative, of edges
};

} // namespace ng
