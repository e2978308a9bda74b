// What follows a hand, but not at every move.
#pragma once
#include <QElapsedTimer>
#include <QTimer>
#include <algorithm>

namespace ng::app {

/// Times out once for any number of ask(), `after_ms` after the first of them and no sooner than `every_ms`
/// after it was done last.
class Paced : public QTimer {
  public:
    Paced(int after_ms, int every_ms) : after_ms_(after_ms), every_ms_(every_ms) {
        setSingleShot(true);
        setTimerType(Qt::PreciseTimer); // a coarse one may be a twentieth too soon
    }
    void ask() {
        if (isActive()) return;
        const auto since = last_.isValid() ? last_.elapsed() : every_ms_;
        start(std::max(after_ms_, every_ms_ - static_cast<int>(std::min<qint64>(since, every_ms_))));
    }
    void done() {
        stop();
        last_.start();
    }
    /// Whether it times out as soon as it may after an ask().
    bool is_near() const { return isActive() && remainingTime() <= after_ms_; }

  private:
    int after_ms_, every_ms_;
    QElapsedTimer last_;
};

} // namespace ng::app
