#include "field/system.h"
#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <limits>
#include <mutex>
#include <thread>

namespace ng {

Stopwatch::Stopwatch() : last_(0) {
    lap();
}
double Stopwatch::lap() {
    const double now =
        std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
    const double since = now - last_;
    last_ = now;
    return since;
}

bool run_unless_cancelled(std::function<void()> job, const CancelFlag* cancel,
                          const std::function<void()>& tick) {
    if (!cancel) {
        job();
        return true;
    }
    if (cancel->load(std::memory_order_relaxed)) return false;
    struct Shared {
        std::mutex mutex;
        std::condition_variable wake;
        bool done = false;
        std::exception_ptr error;
    };
    auto shared = std::make_shared<Shared>();
    std::thread([shared, job = std::move(job)] {
        std::exception_ptr error;
        try {
            job();
        } catch (...) {
            error = std::current_exception();
        }
        const std::lock_guard lock(shared->mutex);
        shared->error = error;
        shared->done = true;
        shared->wake.notify_one();
    }).detach();
    std::unique_lock lock(shared->mutex);
    while (!shared->wake.wait_for(lock, std::chrono::milliseconds(5), [&] { return shared->done; })) {
        if (cancel->load(std::memory_order_relaxed)) return false;
        lock.unlock();
        tick();
        lock.lock();
    }
    if (shared->error) std::rethrow_exception(shared->error);
    return true;
}

template <class Scalar>
LinearSystem<Scalar>::LinearSystem(std::shared_ptr<const Assembly> assembly, const CancelFlag* cancel)
    : assembly_(std::move(assembly)), cancel_(cancel), matrix_(assembly_->pattern<Scalar>()) {}

template <class Scalar> void LinearSystem<Scalar>::set(std::span<const Scalar> per_region) {
    per_region_.assign(per_region.begin(), per_region.end());
    assembly_->fill<Scalar>(per_region, matrix_);
    per_region_alone_ = true;
    double least = std::numeric_limits<double>::max(), most = 0;
    for (const auto& k : per_region_) {
        if (const double size = magnitude(k); size > 0)
            least = std::min(least, size), most = std::max(most, size);
    }
    contrasts_ = most > refined_contrast * least;
}

template <class Scalar> bool LinearSystem<Scalar>::factorise() {
    Stopwatch watch;
    if (!analysed_) factor_.analyse(matrix_);
    analysed_ = true;
    factor_.factorize(matrix_);
    factor_seconds += watch.lap();
    return factor_.info() == Eigen::Success;
}

template <class Scalar> NodeVector<Scalar> LinearSystem<Scalar>::solve_unknowns(const Vector& right) const {
    Vector out = factor_.solve(right);
    if (!contrasts_ || !per_region_alone_) return out;
    constexpr int most_rounds = 6;
    constexpr double enough = 1e-13; // of the largest
    const auto largest = [](const Vector& v) {
        double most = 0;
        for (const auto& x : v) most = std::max(most, magnitude(x));
        return most;
    };
    double last = std::numeric_limits<double>::max();
    for (int round = 0; round < most_rounds; ++round) {
        const Vector left =
            right - assembly_->gather(reaction(assembly_->scatter<Scalar>(out, std::span<const Scalar>{})));
        const Vector correction = factor_.solve(left);
        const double size = largest(correction);
        if (!(size < last / 2)) break; // rounding is left, or nothing can be done
        out += correction;
        last = size;
        if (size <= enough * largest(out)) break;
    }
    return out;
}

template <class Scalar>
NodeVector<Scalar> LinearSystem<Scalar>::solve(std::span<const Scalar> conductor_values) const {
    const Vector none = Vector::Zero(assembly_->unknown_count());
    const Vector load = reaction(assembly_->scatter<Scalar>(none, conductor_values));
    const Vector right = -assembly_->gather(load);
    return assembly_->scatter<Scalar>(solve_unknowns(right), conductor_values);
}

template <class Scalar> NodeVector<Scalar> LinearSystem<Scalar>::solve_adjoint(const Vector& load) const {
    return assembly_->scatter<Scalar>(solve_unknowns(assembly_->gather(load)), std::span<const Scalar>{});
}

template <class Scalar> NodeVector<Scalar> LinearSystem<Scalar>::reaction(const Vector& potential) const {
    Vector out = Vector::Zero(potential.size());
    assembly_->multiply<Scalar>(per_region_, potential, out);
    return out;
}

template class LinearSystem<double>;
template class LinearSystem<SymmetricComplex>;

} // namespace ng
