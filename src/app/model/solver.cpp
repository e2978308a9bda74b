#include "app/model/solver.h"
#include "draw/field_picture.h"
#include "units/parallel.h"
#include <utility>

namespace ng::app {

Solver::Solver(QObject* parent) : QObject(parent) {
    thread_ = std::thread([this] { run(); });
}

Solver::~Solver() {
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
        cancel_ = true;
    }
    wake_.notify_one();
    thread_.join();
}

void Solver::request(std::shared_ptr<const PreparedDesign> prepared, bool refine, double goal) {
    {
        const std::lock_guard lock(mutex_);
        pending_ = Request{std::move(prepared), refine, goal, {}};
        pending_->since.start();
        cancel_ = true;
    }
    wake_.notify_one();
}

void Solver::cancel() {
    const std::lock_guard lock(mutex_);
    if (pending_) pending_->refine = false;
    cancel_ = true;
}

void Solver::hold(bool held) {
    {
        const std::lock_guard lock(mutex_);
        if (std::exchange(held_, held) == held) return;
    }
    wake_.notify_one();
}

bool Solver::may_refine() {
    std::unique_lock lock(mutex_);
    wake_.wait(lock, [this] { return !held_ || pending_ || stop_; });
    return !pending_ && !stop_;
}

bool Solver::overtaken() {
    const std::lock_guard lock(mutex_);
    return pending_.has_value() || stop_;
}

void Solver::fail(std::string why) {
    outbox_.hand_over([this, why = std::move(why)] { emit failed(QString::fromStdString(why)); });
}

void Solver::run() {
    for (;;) {
        Request request;
        {
            std::unique_lock lock(mutex_);
            wake_.wait(lock, [this] { return pending_ || stop_; });
            if (stop_) return;
            request = std::move(*pending_);
            pending_.reset();
            cancel_ = false;
        }
        try {
            serve(request);
        } catch (const std::exception& error) {
            fail(std::string("The solver failed: ") + error.what() + ". Undo the last edit.");
        }
    }
}

void Solver::serve(const Request& request) {
    const auto& built = request.prepared->built;
    for (const bool coarse : {true, false}) {
        if (!coarse && !(request.refine && may_refine())) return;
        SolveOptions options;
        options.coarse = coarse;
        options.goal = request.goal;
        options.threads = usable_threads();
        // A coarse solution is never cancelled: otherwise a quick hand would never see one.
        options.cancel = coarse ? nullptr : &cancel_;
        options.progress = [this](const SolveReport& report) {
            outbox_.hand_over([this, passes = report.passes, error = report.worst_error, s = report.total_s] {
                emit progress(passes, error, s);
            });
        };
        // While a hand moves, the mesh moves with it, from the last that was made without one, and is made
        // anew where it cannot.
        if (coarse && request.refine) followers_.clear();
        if (coarse) options.like = followers_;
        auto solutions =
            solve_levels(built, request.prepared->design.duty, request.prepared->levels, options, coarse);
        if (coarse && solutions && solutions->follower) {
            // A hand goes to and fro over the places where outlines meet otherwise.
            constexpr std::size_t most = 4;
            std::erase(followers_, solutions->follower);
            followers_.insert(followers_.begin(), solutions->follower);
            if (followers_.size() > most) followers_.pop_back();
        }
        if (!solutions) {
            return fail(solutions.error().message());
        }
        auto& solution = solutions->at_u0;
        if (solution.report.end == SolveReport::End::cancelled) {
            if (!overtaken()) outbox_.hand_over([this] { emit cancelled(); });
            return;
        }
        auto solved = std::make_shared<Solved>();
        solved->prepared = request.prepared;
        solved->verdict = judge(built, request.prepared->design.duty, request.prepared->levels,
                                request.prepared->limits, *solutions);
        solved->voids = void_strips(built, request.prepared->design.duty, request.prepared->levels,
                                    request.prepared->limits, *solutions);
        solved->full_scale_kV_per_mm =
            draw::readable_full_scale(solution, built.view_z0_mm, built.view_z1_mm, built.view_r_mm);
        solved->solution = std::move(solution);
        solved->levels = std::move(solutions->at);
        solved->across = std::move(solutions->across);
        solved->coarse = coarse;
        solved->edit_to_ready_ms = static_cast<double>(request.since.nsecsElapsed()) / 1e6;
        outbox_.hand_over([this, solved] { emit ready(solved); });
    }
}

} // namespace ng::app
