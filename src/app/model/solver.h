// Solves off the interface thread: a coarse solution follows the hand, a refined one replaces it. The newest
// request wins; a refinement that is overtaken is cancelled.
#pragma once
#include "app/model/outbox.h"
#include "design/prepared.h"
#include "field/solve.h"
#include "schedule/schedule.h"
#include "schedule/void_strip.h"
#include <QElapsedTimer>
#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

namespace ng::app {

/// A design with its solved field and verdict: what the strips show.
struct Solved {
    std::shared_ptr<const PreparedDesign> prepared;
    Solution solution;                      ///< at U0
    std::map<LevelKey, Solution> levels;    ///< at other voltages, where the solution does not scale
    std::map<std::string, Solution> across; ///< planar sections by id
    Verdict verdict;
    std::vector<VoidStrip> voids;
    LevelSolutions level_solutions() const { return {solution, levels, across}; }
    bool coarse = true;
    double edit_to_ready_ms = 0;
    double full_scale_kV_per_mm = 1; ///< of the field map
};
using SolvedPtr = std::shared_ptr<const Solved>;

class Solver : public QObject {
    Q_OBJECT
  public:
    explicit Solver(QObject* parent = nullptr);
    ~Solver() override;

    void request(std::shared_ptr<const PreparedDesign> prepared, bool refine, double goal);
    /// Stops a running refinement; the coarse solution stays.
    void cancel();
    /// While held, refinements wait behind their coarse solution: the first picture has both cores.
    void hold(bool held);

  signals:
    void ready(ng::app::SolvedPtr solved);
    void progress(int passes, double worst_error, double seconds);
    void failed(QString message);
    void cancelled();

  private:
    struct Request {
        std::shared_ptr<const PreparedDesign> prepared;
        bool refine = false;
        double goal = 0.01;
        QElapsedTimer since;
    };
    void run();
    void serve(const Request& request);
    void fail(std::string why);
    bool overtaken();
    bool may_refine(); ///< waits while held; false: a newer request is there

    /// Of the last coarse mesh at rest and of those of this drag, the last first, which the next ones follow;
    /// the worker's own.
    std::vector<std::shared_ptr<const Follower>> followers_;
    std::mutex mutex_;
    std::condition_variable wake_;
    std::optional<Request> pending_;
    bool stop_ = false, held_ = false;
    CancelFlag cancel_{false};
    Outbox outbox_;
    std::thread thread_;
};

} // namespace ng::app
