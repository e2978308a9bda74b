// VOID: along each interface the largest air gap that stays quiet at the extinction voltage, in mm on a log
// axis, against the gap that hands leave there.
#pragma once
#include "app/strips/strip.h"
#include <qcustomplot.h>

namespace ng::app {

class VoidStripView : public QWidget {
    Q_OBJECT
  public:
    explicit VoidStripView(Session& session, QWidget* parent = nullptr);
    QCustomPlot* plot_widget() { return plot_; }
    /// What the strip says of its worst place, for readers and tests.
    QString summary() const { return summary_; }

  private:
    void rebuild();
    void follow_axis();
    void follow_needle();
    void restyle();
    void add(const VoidStrip& strip, const Solved& solved);
    double unit_factor() const;

    Session& session_;
    QCustomPlot* plot_;
    QCPItemStraightLine* needle_;
    QLabel* title_;
    QString summary_;
};

} // namespace ng::app
