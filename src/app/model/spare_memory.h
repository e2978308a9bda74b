// Memory that work has freed goes back to the system when nothing works.
#pragma once
#include "app/model/session.h"
#include <QThreadPool>
#include <QTimer>
#include <malloc.h>

namespace ng::app {

/// The C library keeps what solves free in as many arenas as threads ever asked at once, and hands back only
/// what lies at their ends: after an hour of work twice what is in use (`app_random_hands`). So there are two
/// arenas, and a moment after the last solve they are trimmed.
class SpareMemory : public QObject {
  public:
    explicit SpareMemory(Session& session, QObject* parent) : QObject(parent), session_(session) {
        timer_.setSingleShot(true);
        timer_.setInterval(rest_ms);
        connect(&timer_, &QTimer::timeout, this, [this] {
            if (session_.is_refining() || session_.schedule_runs())
                timer_.start();
            else
                QThreadPool::globalInstance()->start([] { malloc_trim(0); });
        });
        for (const auto changed :
             {&Session::solved_changed, &Session::schedule_changed, &Session::prepared_changed})
            connect(&session, changed, &timer_, qOverload<>(&QTimer::start));
    }
    /// Before the first thread begins.
    static void limit_arenas() { mallopt(M_ARENA_MAX, 2); }

  private:
    static constexpr int rest_ms = 1500;
    Session& session_;
    QTimer timer_;
};

} // namespace ng::app
