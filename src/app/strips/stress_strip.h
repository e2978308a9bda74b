// STRESS: traces along the judged paths with their limits as lines; pinned traces stay behind as thin ghosts.
#pragma once
#include "app/strips/plot_strip.h"
#include "draw/trace_picture.h"

namespace ng::app {

class StressStrip : public PlotStrip {
    Q_OBJECT
  public:
    explicit StressStrip(Session& session, QWidget* parent = nullptr);
    /// Where the words of the limits stand in the plot's pixels, as last painted.
    std::vector<QRectF> label_boxes() const;

  signals:
    void painted(); ///< a trace of a new solution is on screen

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    static constexpr int bottom_px = 36, low_bottom_px = 20; ///< under the frame; without the axis' name
    bool replotted_ = false;                                 ///< and not painted since
    bool low_ = false; ///< so low that the axis' name gives way to the words of the limits
    void draw_plot() override;
    void add_traces(const Solved& solved, bool ghost);
    void add_limits(const Solved& solved);
    void place_labels();

    /// Words of a limit: at the end of its line, moved up or down where others stand.
    struct LimitLabel {
        QCPItemText* text = nullptr;
        double z = 0, value = 0; ///< as the axes show them
        bool late = false;       ///< it stands before the end of its line
        QRectF box;
    };
    std::vector<LimitLabel> labels_;
    double highest_ = 1;
};

} // namespace ng::app
