// Reading a solved mesh at the places of a plan.
#pragma once
#include "field/corner_errors.h"
#include "field/reading_plan.h"
#include "field/tuning.h"
#include "mesh/triangle_tree.h"
#include <array>

namespace ng {

/// Where `p` lies, in region `region` (-1: any); `first` as TriangleTree::find takes it.
Reading locate(const Mesh& mesh, const TriangleTree& tree, Point p, int region, int first = -1);

/// Field and potential at all reading places at one instant or phase pair.
struct PlaceFields {
    std::vector<Point> field, imaginary; ///< kV/mm; `imaginary` empty for real fields
    std::vector<double> potential, potential_imaginary;

    double size(std::size_t place) const {
        return imaginary.empty() ? length(field[place]) : major_axis(field[place], imaginary[place]);
    }
};

/// Error of the field and of the potential at each place, kV/mm and kV.
struct PlaceErrors {
    std::vector<double> field, potential;
};

/// All places of a plan on one mesh, found once. Places are numbered alike on every mesh of a section:
/// samples of the paths, probes, places round the probes, places on the edges.
class Readings {
  public:
    /// Refuses a path or probe that leaves its region.
    static Result<Readings> make(std::shared_ptr<const Section> section,
                                 std::shared_ptr<const ReadingPlan> plan, std::shared_ptr<const Mesh> mesh);

    std::size_t count() const { return reading_of_.size(); }
    std::size_t place_of_sample(std::size_t path, std::size_t sample) const {
        return first_of_path_[path] + sample;
    }
    std::size_t place_of_probe(std::size_t probe) const { return first_probe_ + probe; }
    std::size_t first_round(std::size_t probe) const { return first_round_[probe]; }
    std::size_t first_of_edge(std::size_t edge) const { return first_of_edge_[edge]; }
    /// Whether the place is on this mesh: places of an arc that something covers are not.
    bool present(std::size_t place) const { return reading_of_[place] >= 0; }
    /// Whether no border of its region touches the triangle that it is read in.
    bool inside(std::size_t place) const { return inside_[place]; }
    int triangle_at(std::size_t place) const { return reader_->places()[reading_of_[place]].triangle; }
    /// Of the triangle there, mm: sqrt of twice its area. 0 where the place is not present.
    double size_at(std::size_t place) const { return size_[place]; }
    /// Whether a corner is so near that the triangles there cannot follow the field's power of the distance
    /// to it.
    bool beside_corner(std::size_t place) const {
        return corner_distance_[place] < tuning::corner_sizes * size_[place];
    }
    /// To the nearest corner, mm.
    double corner_distance(std::size_t place) const { return corner_distance_[place]; }
    /// Direction of the path at a place; (0, 1) off the paths.
    Point direction(std::size_t place) const;

    const Section& section() const { return *section_; }
    const ReadingPlan& plan() const { return *plan_; }
    const Mesh& mesh() const { return *mesh_; }
    const std::vector<CornerTip>& tips() const { return tips_; } ///< corner_tips() of the mesh

    PlaceFields read(const Eigen::VectorXd& potential_kV, const Eigen::VectorXd& imaginary_kV) const;

    /// |recovered - raw| of the field at every place, kV/mm (phasors: of both parts): what the elements
    /// themselves miss. Where one element spans a layer no neighbour tells of that: there a share of the
    /// field itself (tuning::across_share).
    std::vector<double> roughness(const PlaceFields& fields, const Eigen::VectorXd& potential_kV,
                                  const Eigen::VectorXd& imaginary_kV) const;

    /// Edges that have any place on this mesh, in the order of Solution::edges.
    const std::vector<std::size_t>& reported_edges() const { return reported_edges_; }

    /// Fills paths, probes and edges of `solution`.
    void report(const PlaceFields& fields, Solution& solution) const;

    /// Derivative of a sum of relative readings with respect to the real part (and the imaginary part) of
    /// each nodal potential: the load of the adjoint problem. Before errors are known (`errors` null) of
    /// every reading, of paths and edges a mean weighted towards the peak; then of those that miss the goal
    /// or are near it, each place by its error.
    std::pair<Eigen::VectorXd, Eigen::VectorXd> goal_load(const PlaceFields& fields, const Solution* errors,
                                                          double goal) const;

    /// Derivative of the field at one place with respect to the real part (and the imaginary part) of each
    /// nodal potential.
    std::pair<Eigen::VectorXd, Eigen::VectorXd> field_load(const PlaceFields& fields,
                                                           std::size_t place) const;
    /// The same of the potential there.
    std::pair<Eigen::VectorXd, Eigen::VectorXd> potential_load(const PlaceFields& fields,
                                                               std::size_t place) const;

    /// What rounding alone may do to the field at each place, kV/mm, potentials being up to `largest_kV`.
    std::vector<double> rounding(double largest_kV) const;

  private:
    std::shared_ptr<const Section> section_;
    std::shared_ptr<const ReadingPlan> plan_;
    std::shared_ptr<const Mesh> mesh_;
    std::vector<CornerTip> tips_;
    std::shared_ptr<const FieldReader> reader_;
    std::vector<int> reading_of_; ///< per place: index into the reader's places, -1 absent
    std::vector<double> size_;
    std::vector<double> corner_distance_;
    std::vector<char> inside_; ///< no node of the triangle lies on a border
    std::vector<char>
        across_; ///< the triangle reaches across its layer: its corners lie on borders, its sides not
    std::vector<std::size_t> first_of_path_, first_round_, first_of_edge_, reported_edges_;
    std::size_t first_probe_ = 0;
    PlaceFields spread(std::vector<Point> field, std::vector<double> potential) const;
};

/// Of the parabola through three points in rising order; the middle one where it has no maximum between them.
struct ParabolaVertex {
    double place, value;
};
ParabolaVertex parabola_vertex(const std::array<double, 3>& place, const std::array<double, 3>& value);

/// Largest value of a curve given at places, between them by the parabola through the largest and its
/// neighbours. Places with `skip` are not looked at, nor bridged.
struct Crest {
    double place = 0, value = 0;
    std::size_t nearest = 0; ///< index of the largest value
    bool any = false;
};
Crest crest_of(std::size_t count, const std::function<double(std::size_t)>& place,
               const std::function<double(std::size_t)>& value, const std::function<bool(std::size_t)>& skip);

/// Fills a path's peak from its samples, an edge's from its places: `size(i)` and `skip(i)` per place of the
/// edge.
void finish_path(PathResult& result, const Path& path);
EdgeResult edge_result(const ReadingPlan::EdgePlaces& plan, const Mesh& mesh,
                       const std::function<double(std::size_t)>& size,
                       const std::function<bool(std::size_t)>& absent);

/// Normal of a path: to the right of its direction.
inline Point right_of(Point u) {
    return {u.z, -u.r};
}

} // namespace ng
