// The design at every class of the standards that are asked of it.
#pragma once
#include "app/stages/study_panel.h"
#include "study/duties.h"

namespace ng::app {

class DutiesPanel : public StudyPanel {
    Q_OBJECT
  public:
    DutiesPanel(Session& session, QWidget* parent);
    const std::vector<DutyRow>& rows() const { return rows_; }
    Result<void> save(const QString& path) const override;

  protected:
    Solve solve() override;
    void forget() override { rows_.clear(); }
    void paint(QPainter& painter, const QRectF& place) override;

  private:
    std::vector<DutyRow> rows_;
};

} // namespace ng::app
