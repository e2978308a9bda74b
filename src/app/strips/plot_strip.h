// A strip that plots along the shared axis: the frame that STRESS and VOID have in common, and the look of
// every plot.
#pragma once
#include "app/strips/strip.h"
#include <qcustomplot.h>

class QLabel;

namespace ng::app {

/// Axes, labels and grid of a plot in the theme's colours.
void style_plot(QCustomPlot& plot, const draw::Theme& theme, double font_size = 8);

class PlotStrip : public QWidget {
    Q_OBJECT
  public:
    PlotStrip(Session& session, const QString& name, int least_height, int bottom_px,
              QWidget* parent = nullptr);
    QCustomPlot* plot_widget() { return plot_; }

  protected:
    /// Draws graphs and items anew; the axis along the cable follows by itself.
    virtual void draw_plot() = 0;
    void rebuild();
    void restyle(); ///< to be called once by the constructor of what derives from it
    /// From mm to the unit that is shown.
    double unit_factor() const;
    /// A line of small text at a place of the plot's frame, 0 to 1 from its upper left corner.
    QCPItemText* words(const QString& text, double x, double y, Qt::Alignment alignment, const QColor& colour,
                       double font_size = 8);

    double title_end_px() const;

    Session& session_;
    QCustomPlot* plot_;

  private:
    void follow_axis();
    void follow_needle();

    QCPItemStraightLine* needle_;
    QLabel* title_;
};

} // namespace ng::app
