// How long work that goes on will still take, as far as what is done tells.
#pragma once
#include "app/model/worker.h"
#include <QElapsedTimer>
#include <QString>
#include <cmath>

namespace ng::app {

/// "about 12 s left", "about 3 min left"; no more exact than a guess is.
inline QString time_left_words(double seconds) {
    if (seconds >= 90) return QString("about %1 min left").arg(std::ceil(seconds / 60), 0, 'f', 0);
    const double step = seconds > 20 ? 5 : 1;
    return QString("about %1 s left").arg(std::max(1.0, step * std::round(seconds / step)), 0, 'f', 0);
}

/// Its clock begins with it, when so many pieces are done already; while the worker is paused it stands.
class TimeLeft {
  public:
    explicit TimeLeft(const Worker* worker = nullptr, double done = 0)
        : worker_(worker), away_before_s_(away_s()), done_(done) {
        clock_.start();
    }
    double elapsed_s() const {
        return 1e-3 * static_cast<double>(clock_.elapsed()) - (away_s() - away_before_s_);
    }
    /// Where pieces take about the same time: ", about 12 s left" after `done` of `all`; empty before the
    /// first of its time and after the last.
    template <class Count> QString after(Count done, Count all) const {
        const double made = static_cast<double>(done) - done_;
        if (made <= 0 || done >= all) return {};
        return ", " + time_left_words(elapsed_s() * static_cast<double>(all - done) / made);
    }

  private:
    double away_s() const { return worker_ ? worker_->away_s() : 0; }
    QElapsedTimer clock_;
    const Worker* worker_;
    double away_before_s_, done_;
};

} // namespace ng::app
