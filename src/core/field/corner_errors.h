// What corners do to the field round them that a mesh does not follow: where a triangle is larger than its
// distance from a corner, and what the triangles at a corner's tip do to the field elsewhere.
#pragma once
#include "field/assembly.h"
#include <complex>
#include <vector>

namespace ng {

/// A corner and the triangles at its tip.
struct CornerTip {
    Mesh::Singular corner;
    double size_mm = 0; ///< of the largest of them
    std::vector<int> triangles;
};
/// In the order of Mesh::singular.
std::vector<CornerTip> corner_tips(const Mesh& mesh);

/// A state's potentials, kV per node; the imaginary ones empty but of phasors.
struct NodePotentials {
    const Eigen::VectorXd &real, &imaginary;
};
/// Per corner, in the units of Assembly::stiffness_of: what the elements round its tip miss of the sum of
/// coefficient (per region) times grad u . conj(grad v). Near a corner of order k both fields go as r^(k -
/// 1), so that what is missed is a share of what the triangles at the tip hold, the same for every such
/// corner and mesh: for quadratic ones 0.12 at k = 1/2, as strips show whose charge is known exactly, and
/// tuning::missed_at_tip (1 - k)^2 at others.
std::vector<std::complex<double>> missed_at_tips(const std::vector<CornerTip>& tips, const Assembly& assembly,
                                                 const std::vector<std::complex<double>>& coefficient,
                                                 NodePotentials u, NodePotentials v);
/// Per corner, of a(u, u) with these weights per region: relative, what its tip takes from the strength of
/// the whole field.
std::vector<double> share_missed_at_tips(const std::vector<CornerTip>& tips, const Assembly& assembly,
                                         const std::vector<double>& weights, NodePotentials u);

class CornerErrors {
  public:
    /// `tips`: outlive it; `missed`: per corner as share_missed_at_tips(), or empty: not known.
    CornerErrors(const std::vector<CornerTip>& tips, const std::vector<double>& missed);
    /// Relative: how much more the field beside a corner grows, or falls, towards a place than the mesh there
    /// resolves. Zero where triangles are smaller than their distance from every corner.
    double unresolved_growth(Point at, double size_mm) const;
    /// Relative: what the triangles at the tips of corners do to the field elsewhere. A corner of order k,
    /// with triangles of size h at its tip, is off in strength as (h / d)^2k at the distance d (the pollution
    /// error; Babuska and Strouboulis, "The Finite Element Method and its Reliability", 2001); where most of
    /// the flux goes through a tip, as through a narrow contact, all fields are off as its strength is.
    double pollution(Point at) const;
    /// Asks the triangles at the tips of corners that do more than `most` to the field at a place to be
    /// divided: writes the share of their size into `factor`, one for each triangle of the mesh.
    void ask_of_tips(Point at, double most, std::vector<double>& factor) const;

  private:
    double beside(std::size_t corner, Point at) const;
    const std::vector<CornerTip>& tips_;
    std::vector<double> seen_mm_; ///< per corner: further away it does less than is looked for
    const std::vector<double>& missed_;
    double missed_by_all_ = 0;
};

/// How large the triangles at the tip of a corner of order k may be, over their distance from a place, for
/// the corner to do no more than `most` there (CornerErrors::pollution).
double tip_share(double order, double most);

} // namespace ng
