// The kit over the cables that it may be put on, as a map.
#pragma once
#include "app/stages/study_panel.h"
#include "study/range.h"

namespace ng::app {

class RangePanel : public StudyPanel {
    Q_OBJECT
  public:
    RangePanel(Session& session, QWidget* parent);
    const std::optional<RangeMap>& map() const { return map_; }
    Result<void> save(const QString& path) const override;

  protected:
    Solve solve() override;
    void forget() override { map_.reset(); }
    void paint(QPainter& painter, const QRectF& place) override;

  private:
    std::optional<RangeMap> map_;
};

} // namespace ng::app
