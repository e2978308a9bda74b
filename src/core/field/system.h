// The linear system of one mesh: div(kappa grad V) = 0 with held and floating conductors, for real
// (capacitive, DC, time step) and complex (phasor) coefficients.
#pragma once
#include "field/assembly.h"
#include "field/symmetric_complex.h"
#include "units/cancel.h"
#include <functional>

namespace ng {

template <class Scalar> using NodeVector = Eigen::Matrix<Scalar, Eigen::Dynamic, 1>;

/// Eigen's LDL^T, of upper triangles, in the order of their rows. (Asked in the usual way for that order, it
/// makes two copies of the matrix to find that nothing is to be moved.)
template <class Matrix>
class OrderedLDLT : public Eigen::SimplicialLDLT<Matrix, Eigen::Upper, Eigen::NaturalOrdering<int>> {
  public:
    void analyse(const Matrix& matrix) { this->analyzePattern_preordered(matrix, true); }
};

template <class Scalar> class LinearSystem {
  public:
    using Vector = NodeVector<Scalar>;
    using Matrix = Eigen::SparseMatrix<Scalar>;

    /// `cancel` may be null; it is looked at by those who iterate.
    explicit LinearSystem(std::shared_ptr<const Assembly> assembly, const CancelFlag* cancel = nullptr);

    const Assembly& assembly() const { return *assembly_; }
    /// The matrix of the free unknowns, upper triangle: fill it, then factorise().
    Matrix& matrix() {
        per_region_alone_ = false;
        return matrix_;
    }
    void set(std::span<const Scalar> per_region);

    /// LDL^T (Eigen SimplicialLDLT) in the order of the unknowns; the symbolic part is made once.
    /// False when it is singular.
    bool factorise();
    bool cancelled() const { return cancel_ && cancel_->load(std::memory_order_relaxed); }

    /// Where coefficients differ by more than `refined_contrast` and are those of set() alone, the solution
    /// is refined by its own residual (Wilkinson): what rounding leaks out of a body that conducts far better
    /// than all round it, and touches no conductor, is of the size of what it should pass on.
    Vector solve_unknowns(const Vector& right) const;
    static constexpr double refined_contrast = 1e5;
    /// V at every node for these conductor values (of floating ones nothing is read), using set()'s
    /// coefficients.
    Vector solve(std::span<const Scalar> conductor_values) const;
    /// Zero on held conductors, `load` per node: the adjoint of a reading.
    Vector solve_adjoint(const Vector& load) const;
    /// Sum over elements of kappa K V per node; on conductors this is their charge (or current) over the unit
    /// of kappa.
    Vector reaction(const Vector& potential) const;

    double factor_seconds = 0;

  private:
    std::shared_ptr<const Assembly> assembly_;
    const CancelFlag* cancel_;
    Matrix matrix_;
    OrderedLDLT<Matrix> factor_;
    bool analysed_ = false, per_region_alone_ = false, contrasts_ = false;
    std::vector<Scalar> per_region_;
};

/// Runs `job` to its end, or returns false within about 10 ms of `cancel` being raised; the job then ends
/// unseen on a thread of its own and must own all it touches. `tick` is called on this thread every few
/// milliseconds. Without `cancel` the job runs here.
bool run_unless_cancelled(std::function<void()> job, const CancelFlag* cancel,
                          const std::function<void()>& tick);

/// Wall-clock seconds since the last call (or construction).
class Stopwatch {
  public:
    Stopwatch();
    double lap();

  private:
    double last_;
};

} // namespace ng
