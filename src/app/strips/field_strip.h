// FIELD: the same section mirrored below the axis, with the map of |E| and equipotentials every tenth of U0.
#pragma once
#include "app/strips/strip.h"
#include <QImage>
#include <QLineF>

namespace ng::app {

class FieldStrip : public Strip {
    Q_OBJECT
  public:
    explicit FieldStrip(Session& session, QWidget* parent = nullptr);

  protected:
    void paint(QPainter& painter) override;
    bool shows_design() const override { return false; }

  private:
    void render();
    // The picture on screen and what it was made from.
    QImage image_;
    QVector<QLineF> lines_;
    SolvedPtr of_;
    double left_u_ = 0, scale_ = 0;
    QSize size_;
    bool dark_ = false;
};

} // namespace ng::app
