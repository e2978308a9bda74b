// One piece of work on a thread of its own. Starting the next stops the one before.
#pragma once
#include "app/model/outbox.h"
#include "units/cancel.h"
#include <QElapsedTimer>
#include <QObject>
#include <atomic>
#include <functional>
#include <thread>
#include <utility>

namespace ng::app {

class Worker : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    ~Worker() override { stop(); }
    /// `work` runs on the new thread; what it finds it hands over.
    void start(std::function<void(const CancelFlag&)> work);
    /// Run on the thread of the window, after what was handed over before.
    void hand_over(std::function<void()> result) { outbox_.hand_over(std::move(result)); }
    void cancel() { cancel_ = true; }
    /// The work waits where it looks whether to stop.
    void pause();
    void go_on();
    bool is_paused() const { return cancel_.is_paused(); }
    double away_s() const {
        return 1e-3 * static_cast<double>(away_ms_.load());
    } ///< paused, up to now gone on
    /// Cancels and waits.
    void stop();
    bool is_running() const { return running_; }

  signals:
    void failed(QString message); ///< an exception left the work

  private:
    Outbox outbox_;
    std::thread thread_; ///< not Qt's: what its joining orders the thread sanitizer sees
    CancelFlag cancel_{false};
    QElapsedTimer paused_;
    std::atomic<qint64> away_ms_ = 0;
    std::atomic<bool> running_ = false;
};

} // namespace ng::app
