// TAPE: a ruler from the datum (cable end, joint centre), mm above and inches below, with the cut marks.
#pragma once
#include "app/strips/strip.h"

namespace ng::app {

class TapeStrip : public Strip {
    Q_OBJECT
  public:
    explicit TapeStrip(Session& session, QWidget* parent = nullptr);

  protected:
    void paint(QPainter& painter) override;

  private:
    bool two_sided() const; ///< a joint: the ruler runs both ways from its centre
    void paint_ruler(QPainter& painter, double y, LengthUnit unit, bool upwards) const;
};

} // namespace ng::app
