#include "field/nonlinear.h"
#include "field/sundials.h"
#include <numbers>
#include <sunlinsol/sunlinsol_spgmr.h>

namespace ng {
namespace {

template <class Scalar> struct FieldValue {
    Scalar r{}, z{};
    double size = 0;
};

template <class Scalar, class Nodes>
FieldValue<Scalar> gradient_of(const NodeVector<Scalar>& v, const Nodes& nodes,
                               const std::array<Point, 6>& gradient) {
    FieldValue<Scalar> e;
    for (std::size_t i = 0; i < 6; ++i) {
        const Scalar value = v[nodes[i]];
        e.r += value * Scalar(gradient[i].r);
        e.z += value * Scalar(gradient[i].z);
    }
    e.size = std::sqrt(squared(e.r) + squared(e.z));
    return e;
}

} // namespace

NonlinearElements::NonlinearElements(const Assembly& assembly, std::vector<const ConductionLaw*> laws)
    : assembly_(assembly), laws_(std::move(laws)) {
    const auto& mesh = assembly.mesh();
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto* law = laws_[mesh.region[t]];
        if (!law) continue;
        Element element;
        element.triangle = static_cast<int>(t);
        element.law = law;
        std::size_t k = 0;
        for (const auto& q : quadrature()) {
            const auto e = evaluate(mesh, element.triangle, q.at);
            element.points[k].gradient = e.gradient;
            element.points[k].volume =
                e.jacobian * q.weight *
                (assembly.symmetry() == Symmetry::planar ? 1.0 : 2 * std::numbers::pi * e.at.r);
            ++k;
        }
        elements_.push_back(element);
    }
}

template <class Scalar>
void NonlinearElements::add_flux(const NodeVector<Scalar>& v, Scalar scale, NodeVector<Scalar>& out) const {
    for (const auto& element : elements_) {
        const auto& nodes = assembly_.mesh().triangles[element.triangle];
        for (const auto& q : element.points) {
            const auto e = gradient_of(v, nodes, q.gradient);
            const Scalar c = scale * Scalar(q.volume * element.law->at(e.size).sigma_S_per_m);
            for (std::size_t i = 0; i < 6; ++i)
                out[nodes[i]] += c * (e.r * Scalar(q.gradient[i].r) + e.z * Scalar(q.gradient[i].z));
        }
    }
}

template <class Scalar>
void NonlinearElements::add_flux_change(const NodeVector<Scalar>& v, const NodeVector<Scalar>& w,
                                        Scalar scale, NodeVector<Scalar>& out) const {
    for (const auto& element : elements_) {
        const auto& nodes = assembly_.mesh().triangles[element.triangle];
        for (const auto& q : element.points) {
            const auto e = gradient_of(v, nodes, q.gradient), d = gradient_of(w, nodes, q.gradient);
            const auto sigma = element.law->at(e.size);
            const double growth =
                e.size > 0 ? sigma.slope * (projected(e.r, d.r) + projected(e.z, d.z)) / e.size : 0;
            const Scalar r = Scalar(sigma.sigma_S_per_m) * d.r + Scalar(growth) * e.r;
            const Scalar z = Scalar(sigma.sigma_S_per_m) * d.z + Scalar(growth) * e.z;
            const Scalar c = scale * Scalar(q.volume);
            for (std::size_t i = 0; i < 6; ++i)
                out[nodes[i]] += c * (r * Scalar(q.gradient[i].r) + z * Scalar(q.gradient[i].z));
        }
    }
}

template <class Scalar>
void NonlinearElements::add_matrix(const NodeVector<Scalar>& v, Scalar scale,
                                   Eigen::SparseMatrix<Scalar>& matrix) const {
    constexpr double linear_part = std::is_same_v<Scalar, double> ? 1.0 : 0.5;
    for (const auto& element : elements_) {
        const auto& nodes = assembly_.mesh().triangles[element.triangle];
        std::array<Scalar, 21> packed{};
        for (const auto& q : element.points) {
            const auto e = gradient_of(v, nodes, q.gradient);
            const auto sigma = element.law->at(e.size);
            const double along = e.size > 0 ? linear_part * sigma.slope / e.size : 0;
            const double rr = sigma.sigma_S_per_m + along * squared(e.r),
                         zz = sigma.sigma_S_per_m + along * squared(e.z);
            const double rz = along * projected(e.r, e.z);
            const Scalar c = scale * Scalar(q.volume);
            std::size_t k = 0;
            for (std::size_t i = 0; i < 6; ++i) {
                const Point g = q.gradient[i];
                const Point turned{rr * g.r + rz * g.z, rz * g.r + zz * g.z};
                for (std::size_t j = 0; j <= i; ++j) packed[k++] += c * Scalar(dot(turned, q.gradient[j]));
            }
        }
        assembly_.add<Scalar>(element.triangle, packed, matrix);
    }
}

template <class Scalar>
std::vector<NonlinearElements::RegionState> NonlinearElements::states(const NodeVector<Scalar>& v) const {
    std::vector<RegionState> out(laws_.size());
    std::vector<double> volume(laws_.size(), 0);
    for (const auto& element : elements_) {
        const auto t = static_cast<std::size_t>(element.triangle);
        const auto region = static_cast<std::size_t>(assembly_.mesh().region[t]);
        for (const auto& q : element.points) {
            const auto e = gradient_of(v, assembly_.mesh().triangles[t], q.gradient);
            const double sigma = element.law->at(e.size).sigma_S_per_m, density = sigma * e.size * e.size;
            auto& state = out[region];
            state.mean_sigma_S_per_m += sigma * q.volume;
            state.largest_field_kV_per_mm = std::max(state.largest_field_kV_per_mm, e.size);
            state.loss += density * q.volume;
            state.peak_loss_density = std::max(state.peak_loss_density, density);
            volume[region] += q.volume;
        }
    }
    for (std::size_t k = 0; k < out.size(); ++k)
        if (volume[k] > 0) out[k].mean_sigma_S_per_m /= volume[k];
    return out;
}

namespace {

/// One nonlinear problem as KINSOL sees it: unknowns as plain numbers (complex ones as pairs).
template <class Scalar> class Problem {
  public:
    using Vector = NodeVector<Scalar>;
    static constexpr int parts = std::is_same_v<Scalar, double> ? 1 : 2;

    Problem(LinearSystem<Scalar>& system, std::span<const Scalar> per_region,
            const NonlinearElements& elements, Scalar scale, std::span<const Scalar> conductors)
        : system_(system), assembly_(system.assembly()), per_region_(per_region), elements_(elements),
          scale_(scale), conductors_(conductors) {}

    sunindextype size() const { return static_cast<sunindextype>(assembly_.unknown_count()) * parts; }

    Vector nodes(N_Vector y) const {
        return assembly_.scatter<Scalar>(Eigen::Map<const Vector>(data(y), assembly_.unknown_count()),
                                         conductors_);
    }
    void store(const Vector& unknowns, N_Vector y) const {
        Eigen::Map<Vector>(data(y), assembly_.unknown_count()) = unknowns;
    }
    Vector flux(const Vector& v) const {
        Vector out = Vector::Zero(v.size());
        assembly_.multiply<Scalar>(per_region_, v, out);
        elements_.add_flux<Scalar>(v, scale_, out);
        return out;
    }
    bool prepare(const Vector& v) {
        system_.set(per_region_);
        elements_.add_matrix<Scalar>(v, scale_, system_.matrix());
        ++factorisations;
        return system_.factorise();
    }
    LinearSystem<Scalar>& system() { return system_; }
    int factorisations = 0;

    static int residual(N_Vector y, N_Vector f, void* self) {
        auto& p = *static_cast<Problem*>(self);
        if (p.system_.cancelled()) return -1;
        const Vector out = p.assembly_.gather(p.flux(p.nodes(y)));
        if (!std::isfinite(magnitude(out.sum()))) return 1; // recoverable: a shorter step
        p.store(out, f);
        return 0;
    }
    static int jacobian_times(N_Vector direction, N_Vector out, N_Vector y, booleantype*, void* self) {
        auto& p = *static_cast<Problem*>(self);
        if (p.system_.cancelled()) return -1;
        const Vector w = p.assembly_.template scatter<Scalar>(
            Eigen::Map<const Vector>(data(direction), p.assembly_.unknown_count()),
            std::span<const Scalar>{});
        Vector change = Vector::Zero(w.size());
        p.assembly_.template multiply<Scalar>(p.per_region_, w, change);
        p.elements_.template add_flux_change<Scalar>(p.nodes(y), w, p.scale_, change);
        p.store(p.assembly_.gather(change), out);
        return 0;
    }
    static int setup(N_Vector y, N_Vector, N_Vector, N_Vector, void* self) {
        auto& p = *static_cast<Problem*>(self);
        return p.prepare(p.nodes(y)) ? 0 : -1;
    }
    static int precondition(N_Vector, N_Vector, N_Vector, N_Vector, N_Vector v, void* self) {
        auto& p = *static_cast<Problem*>(self);
        const Vector right = Eigen::Map<const Vector>(data(v), p.assembly_.unknown_count());
        p.store(p.system_.solve_unknowns(right), v);
        return 0;
    }

  private:
    static Scalar* data(N_Vector y) { return reinterpret_cast<Scalar*>(N_VGetArrayPointer(y)); }
    LinearSystem<Scalar>& system_;
    const Assembly& assembly_;
    std::span<const Scalar> per_region_;
    const NonlinearElements& elements_;
    Scalar scale_;
    std::span<const Scalar> conductors_;
};

} // namespace

template <class Scalar>
NonlinearOutcome solve_nonlinear(LinearSystem<Scalar>& system, std::span<const Scalar> linear_per_region,
                                 const NonlinearElements& elements, Scalar scale,
                                 std::span<const Scalar> conductor_values, NodeVector<Scalar>& potential,
                                 const NonlinearOptions& options) {
    using Vector = NodeVector<Scalar>;
    promise(potential.size() == system.assembly().node_count(), "one potential for each node");
    Problem<Scalar> problem(system, linear_per_region, elements, scale, conductor_values);
    NonlinearOutcome outcome;
    const auto& assembly = system.assembly();
    double voltage = 0;
    for (const auto c : conductor_values) voltage = std::max(voltage, magnitude(c));
    if (!(voltage > 0)) voltage = 1;

    // Scale of each equation: its diagonal coefficient at the start times the voltage.
    system.set(linear_per_region);
    elements.add_matrix<Scalar>(potential, scale, system.matrix());
    std::vector<double> equation_scale(static_cast<std::size_t>(problem.size()), 1.0);
    for (int k = 0; k < assembly.unknown_count(); ++k) {
        const auto diagonal = magnitude(Scalar(system.matrix().coeff(k, k)));
        for (int part = 0; part < Problem<Scalar>::parts; ++part)
            equation_scale[k * Problem<Scalar>::parts + part] = 1 / (diagonal * voltage);
    }
    const sundials::Context context;
    const sundials::Vector y(problem.size(), context), u_scale(problem.size(), context),
        f_scale(problem.size(), context);
    N_VConst(1 / voltage, u_scale.get());
    std::copy(equation_scale.begin(), equation_scale.end(), f_scale.data());
    Vector start = Vector::Zero(assembly.unknown_count());
    for (std::size_t node = 0; node < assembly.unknown_of_node().size(); ++node)
        if (const int u = assembly.unknown_of_node()[node]; u >= 0)
            start[u] = potential[static_cast<Eigen::Index>(node)];
    problem.store(start, y.get());

    using sundials::check;
    const sundials::LinearSolver gmres(SUNLinSol_SPGMR(y.get(), SUN_PREC_RIGHT, 30, context.get()));
    const sundials::Kinsol kinsol(context);
    check(KINInit(kinsol.get(), Problem<Scalar>::residual, y.get()), "KINInit");
    check(KINSetUserData(kinsol.get(), &problem), "KINSetUserData");
    check(KINSetScaledStepTol(kinsol.get(), 1e-12), "KINSetScaledStepTol");
    check(KINSetNumMaxIters(kinsol.get(), options.most_iterations), "KINSetNumMaxIters");
    check(KINSetMaxSetupCalls(kinsol.get(), 3), "KINSetMaxSetupCalls");
    check(KINSetMaxNewtonStep(kinsol.get(), 100.0 * std::sqrt(static_cast<double>(problem.size()))),
          "KINSetMaxNewtonStep");
    check(KINSetLinearSolver(kinsol.get(), gmres.get(), nullptr), "KINSetLinearSolver");
    check(KINSetPreconditioner(kinsol.get(), Problem<Scalar>::setup, Problem<Scalar>::precondition),
          "KINSetPreconditioner");
    check(KINSetJacTimesVecFn(kinsol.get(), Problem<Scalar>::jacobian_times), "KINSetJacTimesVecFn");

    // The library judges residuals, node by node; smooth errors leave small ones. What counts is the Newton
    // correction that is left: while it is too large, ask for smaller residuals.
    double residual_tolerance = 1e-7;
    for (int attempt = 0; attempt < 4; ++attempt) {
        check(KINSetFuncNormTol(kinsol.get(), residual_tolerance), "KINSetFuncNormTol");
        // Whether it went well is judged by the correction that is left, below.
        const int flag = KINSol(kinsol.get(), y.get(), KIN_LINESEARCH, u_scale.get(), f_scale.get());
        long iterations = 0;
        check(KINGetNumNonlinSolvIters(kinsol.get(), &iterations), "KINGetNumNonlinSolvIters");
        outcome.iterations += static_cast<int>(iterations);
        potential = problem.nodes(y.get());
        outcome.residual = 1;
        if (system.cancelled() || !problem.prepare(potential)) break;
        const Vector left = assembly.gather(problem.flux(potential));
        const Vector correction = system.solve_unknowns(left);
        outcome.residual = 0;
        for (Eigen::Index k = 0; k < correction.size(); ++k)
            outcome.residual = std::max(outcome.residual, magnitude(Scalar(correction[k])) / voltage);
        outcome.converged = outcome.residual <= options.tolerance;
        if (outcome.converged || flag < 0) break;
        residual_tolerance *= 1e-2;
    }
    outcome.cancelled = system.cancelled();
    if (outcome.cancelled) outcome.converged = false;
    outcome.factorisations = problem.factorisations;
    return outcome;
}

#define NG_INSTANCES(Scalar)                                                                                 \
    template void NonlinearElements::add_flux<Scalar>(const NodeVector<Scalar>&, Scalar,                     \
                                                      NodeVector<Scalar>&) const;                            \
    template void NonlinearElements::add_flux_change<Scalar>(                                                \
        const NodeVector<Scalar>&, const NodeVector<Scalar>&, Scalar, NodeVector<Scalar>&) const;            \
    template void NonlinearElements::add_matrix<Scalar>(const NodeVector<Scalar>&, Scalar,                   \
                                                        Eigen::SparseMatrix<Scalar>&) const;                 \
    template std::vector<NonlinearElements::RegionState> NonlinearElements::states<Scalar>(                  \
        const NodeVector<Scalar>&) const;                                                                    \
    template NonlinearOutcome solve_nonlinear<Scalar>(                                                       \
        LinearSystem<Scalar>&, std::span<const Scalar>, const NonlinearElements&, Scalar,                    \
        std::span<const Scalar>, NodeVector<Scalar>&, const NonlinearOptions&);
NG_INSTANCES(double)
NG_INSTANCES(SymmetricComplex)
#undef NG_INSTANCES

} // namespace ng
