// The worst combination of tolerances that a search finds.
#pragma once
#include "app/stages/study_panel.h"
#include "study/worst.h"

namespace ng::app {

class WorstPanel : public StudyPanel {
    Q_OBJECT
  public:
    WorstPanel(Session& session, QWidget* parent);
    const std::optional<WorstCase>& worst() const { return worst_; }
    void open_worst(); ///< as a design of its own, one step to undo

  protected:
    std::string solved_of() const override { return session_.varied_hash(); }
    Solve solve() override;
    void forget() override;

  private:
    QPushButton* open_;
    std::optional<WorstCase> worst_;
    std::optional<Job> drawn_;
};

} // namespace ng::app
