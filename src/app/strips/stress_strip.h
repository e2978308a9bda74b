// STRESS: traces along the judged paths with their limits as lines; pinned traces stay behind as thin ghosts.
#pragma once
#include "app/strips/plot_strip.h"
#include "draw/trace_picture.h"

namespace ng::app {

class StressStrip : public PlotStrip {
    Q_OBJECT
  public:
    explicit StressStrip(Session& session, QWidget* parent = nullptr);

  signals:
    void painted(); ///< a trace of a new solution is on screen

  private:
    void draw_plot() override;
    void add_traces(const Solved& solved, bool ghost);
    void add_limits(const Solved& solved);

    double highest_ = 1;
};

} // namespace ng::app
