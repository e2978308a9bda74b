// How long work that goes on will still take, as far as what is done tells.
#pragma once
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

/// Its clock begins with it.
class TimeLeft {
  public:
    TimeLeft() { clock_.start(); }
    double elapsed_s() const { return 1e-3 * static_cast<double>(clock_.elapsed()); }
    /// Where pieces take about the same time: ", about 12 s left" after `done` of `all`; empty before the
    /// first and after the last.
    template <class Count> QString after(Count done, Count all) const {
        if (done <= 0 || done >= all) return {};
        return ", " +
               time_left_words(elapsed_s() * static_cast<double>(all - done) / static_cast<double>(done));
    }

  private:
    QElapsedTimer clock_;
};

} // namespace ng::app
