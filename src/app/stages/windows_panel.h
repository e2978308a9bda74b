// How far each mark may lie off: found one by one, kept for TAPE and the work sheet.
#pragma once
#include "app/stages/study_panel.h"

namespace ng::app {

class WindowsPanel : public StudyPanel {
    Q_OBJECT
  public:
    WindowsPanel(Session& session, QWidget* parent);

  protected:
    std::string solved_of() const override { return session_.judged_hash(); }
    Solve solve() override;
};

} // namespace ng::app
