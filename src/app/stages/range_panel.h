// The kit over the cables that it may be put on, as a map.
#pragma once
#include "app/stages/study_panel.h"
#include "study/range.h"
#include <QCheckBox>

namespace ng::app {

class RangePanel : public StudyPanel {
    Q_OBJECT
  public:
    RangePanel(Session& session, QWidget* parent);
    const std::optional<RangeMap>& map() const { return map_; }
    RangeGrid grid() const; ///< what is mapped next
    QCheckBox* corners() { return corners_; }
    Result<void> save(const QString& path) const override;

  protected:
    std::string solved_of() const override { return session_.varied_hash(); }
    Solve solve() override;
    void forget() override { map_.reset(); }
    void paint(QPainter& painter, const QRectF& place) override;

  private:
    std::optional<RangeMap> map_;
    QCheckBox* corners_;
};

} // namespace ng::app
