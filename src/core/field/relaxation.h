// What constant conduction makes of a voltage over time, from a few states of the section.
//
// The equations K(eps) d' + K(sigma / eps0) d = -w(t) g of field/transient.h have as many time constants as
// unknowns, but a reading sees few of them. d is sought among combinations of the states
// (s K(eps) + K(sigma / eps0))^-1 g at real rates s: Galerkin projection onto a rational Krylov space
// (Ruhe, Linear Algebra Appl. 58, 1984; Druskin, Knizhnerman, Zaslavsky, SIAM J. Sci. Comput. 31, 2009),
// which keeps the pencil symmetric, so that every projected mode decays. The next s is where the residual
// says that the error is largest: in the norm of K(eps), |e(s)| <= |r(s)| / (s + a), a the slowest rate there
// is. The projected modes are integrated exactly, whatever the steps.
#pragma once
#include "field/system.h"
#include "field/waveform.h"
#include <optional>

namespace ng {

class Relaxation {
  public:
    /// The equations on the free unknowns: K(eps) and K(sigma / eps0), lower triangles, and g.
    struct Equations {
        std::shared_ptr<const Assembly> assembly;
        std::vector<double> eps, rate_per_s; ///< per region
        const Eigen::SparseMatrix<double>& eps_matrix;
        const Eigen::SparseMatrix<double>& rate_matrix;
        const Eigen::VectorXd& drive;
    };
    /// `capacitive` holds K(eps) factorised; `size`: of a state in the norm of K(eps) that `tolerance` is a
    /// share of. Empty: cancelled or singular.
    static std::optional<Relaxation> of(const Equations& equations, const LinearSystem<double>& capacitive,
                                        const Waveform& wave, double end_s, double tolerance, double size,
                                        const CancelFlag* cancel);

    /// The states that d is combined of, per free unknown, orthonormal in K(eps); in the order found.
    const std::vector<Eigen::VectorXd>& states() const { return states_; }
    double fastest_per_s() const { return fastest_; }
    /// Whether what was left when it stopped is within the tolerance.
    bool converged() const { return converged_; }
    /// Bound of the error with all states over that with the first `count`, both at their worst rate.
    double left_of(std::size_t count) const;

    /// d over time in the first `count` states, from nothing at t = 0.
    class Course {
      public:
        Course(const Relaxation& relaxation, const Waveform& wave, std::size_t count);
        /// Goes on to `t_s`, not before the last; no break of the wave may lie between.
        void go_to(double t_s);
        /// Share of each state, kV times the norm of one.
        Eigen::VectorXd shares() const;

      private:
        const Waveform& wave_;
        Eigen::VectorXd rate_, load_, mode_; // per mode: 1/s, of the source, value
        Eigen::MatrixXd of_mode_;            // states by modes
        double t_ = 0;
    };

  private:
    std::vector<Eigen::VectorXd> states_;
    Eigen::MatrixXd projected_;  // K(sigma / eps0)
    Eigen::VectorXd load_;       // g
    std::vector<double> bounds_; // of the error, by the number of states
    double fastest_ = 0;
    bool converged_ = false;
};

} // namespace ng
