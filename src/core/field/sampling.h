// Reading a solved mesh along paths, at probes and on rounded edges.
#pragma once
#include "field/solution.h"
#include "mesh/triangle_tree.h"

namespace ng {

/// Places along a path in mm from its start: even, and closer round its corners and ends.
std::vector<double> sample_places(const Path& path);
Point point_on_path(const Path& path, double s_mm, Point* direction = nullptr);

/// Where `p` lies, in region `region` (-1: any).
Reading locate(const Mesh& mesh, const TriangleTree& tree, Point p, int region);

/// Field and potential at all reading places at one instant or phase pair.
struct PlaceFields {
    std::vector<Point> field, imaginary; ///< kV/mm; `imaginary` empty for real fields
    std::vector<double> potential, potential_imaginary;
};

/// The largest fields over time at every place.
struct Envelope {
    struct Peak {
        double size = 0, tangential = 0, normal = 0, potential = 0, t_s = 0;
        Point field; ///< at the instant of `size`
    };
    std::vector<Peak> peaks;
};

/// All places of a section that are read, found once per mesh.
class Readings {
  public:
    /// Refuses a path or probe that leaves its region.
    static Result<Readings> make(std::shared_ptr<const Section> section, std::shared_ptr<const Mesh> mesh);

    PlaceFields read(const Eigen::VectorXd& potential_kV, const Eigen::VectorXd& imaginary_kV) const;
    /// Fills paths, probes and edges of `solution`.
    void report(const PlaceFields& fields, Solution& solution) const;
    void report(const Envelope& envelope, Solution& solution) const;
    void update(Envelope& envelope, double t_s, const PlaceFields& fields) const;
    /// Largest path field that may be judged.
    double largest(const PlaceFields& fields) const;
    /// Largest change between two envelopes, relative to the greatest field of the same path, edge or probe.
    double largest_change(const Envelope& before, const Envelope& now) const;
    /// Fundamental and third harmonic of the probes' fields from even samples of one cycle.
    void harmonics(const std::vector<PlaceFields>& cycle, Solution& solution) const;
    HistoryPoint history_at(double t_s, double source, const PlaceFields& fields) const;

    /// Derivative of a mean of the field over paths and edges, weighted towards their peaks, with respect to
    /// the real part (and the imaginary part) of each nodal potential: the loads of the adjoint problem.
    std::pair<Eigen::VectorXd, Eigen::VectorXd> goal_load(const PlaceFields& fields) const;

    /// Local mesh size, mm: at a sample of a path, and on a reported edge.
    double size_at_sample(std::size_t path, std::size_t sample) const;
    double size_on_edge(std::size_t edge) const;

    /// Triangle of each sample of a path.
    const Reading& reading_of(std::size_t path, std::size_t sample) const {
        return reader_->places()[paths_[path].first + sample];
    }

  private:
    struct PathPlaces {
        std::size_t first = 0;
        std::vector<PathSample> samples; // places only
        std::vector<Point> direction;
        std::vector<double> share_mm; // length that each sample stands for
    };
    struct EdgePlaces {
        std::size_t first = 0, count = 0; // five places per mesh edge
        EdgeResult empty;
        std::vector<Point> at;
    };
    std::shared_ptr<const Section> section_;
    std::shared_ptr<const Mesh> mesh_;
    std::shared_ptr<const FieldReader> reader_;
    std::vector<PathPlaces> paths_;
    std::vector<EdgePlaces> edges_;
    std::size_t first_probe_ = 0;
    double size_at(const PlaceFields& fields, std::size_t place) const;
    void finish(PathResult& result) const;
};

int region_index(const Section& section, const std::string& name);

} // namespace ng
