// VOID: along each interface the largest air gap that stays quiet at the extinction voltage, in mm on a log
// axis, against the gap that hands leave there.
#pragma once
#include "app/strips/plot_strip.h"

namespace ng::app {

class VoidStripView : public PlotStrip {
    Q_OBJECT
  public:
    explicit VoidStripView(Session& session, QWidget* parent = nullptr);
    /// What the strip says of its worst place, for readers and tests.
    QString summary() const { return summary_; }

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    void draw_plot() override;
    void add(const VoidStrip& strip, const Solved& solved);
    void place_labels();

    QString summary_;
    /// Both figures of a worst place, beside it.
    struct Label {
        QCPItemText* text;
        double at, gap; ///< as the axes show them
        bool leftwards;
    };
    std::vector<Label> labels_;
};

} // namespace ng::app
