#include "field/system.h"
#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <map>
#include <mutex>
#include <set>
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
}

template <class Scalar> bool LinearSystem<Scalar>::factorise() {
    Stopwatch watch;
    if (!analysed_) factor_.analyzePattern(matrix_);
    analysed_ = true;
    factor_.factorize(matrix_);
    factor_seconds += watch.lap();
    return factor_.info() == Eigen::Success;
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

std::vector<double> floating_body_factors(const Mesh& mesh, std::span<const double> weight) {
    constexpr double most_contrast = 1e11;
    const auto count = weight.size();
    std::vector<double> factor(count, 1.0);
    const auto [least, most] = std::minmax_element(weight.begin(), weight.end());
    if (count == 0 || *least <= 0 || *most <= most_contrast * *least) return factor;
    // Which regions touch each other, and which touch a held conductor.
    std::vector<std::set<int>> beside(count);
    std::vector<char> held(count, 0);
    std::vector<int> first(mesh.nodes.size(), -1);
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (const int n : mesh.triangles[t]) {
            const auto node = static_cast<std::size_t>(n);
            const int region = mesh.region[t], conductor = mesh.conductor[node];
            if (conductor >= 0 && !mesh.conductors[static_cast<std::size_t>(conductor)].floating)
                held[static_cast<std::size_t>(region)] = 1;
            if (first[node] < 0) first[node] = region;
            if (first[node] != region) {
                beside[static_cast<std::size_t>(region)].insert(first[node]);
                beside[static_cast<std::size_t>(first[node])].insert(region);
            }
        }
    std::set<double> levels(weight.begin(), weight.end());
    for (auto level = levels.rbegin(); level != levels.rend(); ++level) {
        std::vector<char> seen(count, 0);
        for (std::size_t seed = 0; seed < count; ++seed) {
            if (weight[seed] < *level || seen[seed]) continue;
            std::vector<std::size_t> body{seed};
            seen[seed] = 1;
            bool anchored = false;
            double least_inside = weight[seed], most_outside = 0;
            for (std::size_t k = 0; k < body.size(); ++k) {
                const auto region = body[k];
                anchored = anchored || held[region];
                least_inside = std::min(least_inside, weight[region] * factor[region]);
                for (const int b : beside[region]) {
                    const auto other = static_cast<std::size_t>(b);
                    if (weight[other] < *level)
                        most_outside = std::max(most_outside, weight[other]);
                    else if (!seen[other])
                        seen[other] = 1, body.push_back(other);
                }
            }
            if (anchored || most_outside <= 0 || least_inside <= most_contrast * most_outside) continue;
            for (const auto region : body) factor[region] *= most_contrast * most_outside / least_inside;
        }
    }
    return factor;
}

} // namespace ng
