// A mesh that moves with the outlines of its section: the same triangles on a section like it, of which lines
// and arcs lie elsewhere.
//
// Nodes on outlines keep their share of the stretch between the points where outlines end, meet or cross;
// nodes inside follow by Laplace's equation on the mesh with triangles the stiffer the smaller they are
// (Stein, Tezduyar and Benney, J. Appl. Mech. 70, 2003), so that what is fine moves as it is.
//
// Not good for: moves that are large beside the triangles they squeeze, and sections whose outlines meet in
// another order than before: nothing is returned, and the mesh has to be made anew.
#pragma once
#include "mesh/mesh.h"

namespace ng {

/// What outlines a section has, but not where: a mesh can only follow sections with the same.
std::string outline_kinds(const Section& section);

class Motion {
  public:
    /// None: a node of the mesh lies where no outline is known to be.
    static std::optional<Motion> of(const Section& section, std::shared_ptr<const Mesh> mesh);
    ~Motion();
    Motion(Motion&&) noexcept;

    /// The mesh on `to`, with its arcs, but with the corners (Mesh::singular) of the section it came from and
    /// without what finer meshes are made by (stretch, on_drawing). None: outlines meet otherwise, or a
    /// triangle would turn over or become much more slender than it was.
    std::optional<Mesh> moved(const Section& to) const;

  private:
    struct State;
    explicit Motion(std::shared_ptr<const State> state);
    std::shared_ptr<const State> state_;
};

} // namespace ng
