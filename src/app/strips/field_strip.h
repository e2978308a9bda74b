// FIELD: the same section mirrored below the axis, with the map of |E| and equipotentials every tenth of U0.
#pragma once
#include "app/strips/strip.h"
#include <QImage>
#include <QLineF>
#include <future>

namespace ng::app {

class FieldStrip : public Strip {
    Q_OBJECT
  public:
    explicit FieldStrip(Session& session, QWidget* parent = nullptr);

  protected:
    void paint(QPainter& painter) override;
    bool shows_design() const override { return false; }

  private:
    struct Picture {
        QImage map;
        QVector<QLineF> lines;
    };
    /// Whatever the picture hangs on.
    struct Key {
        SolvedPtr of;
        double left_u = 0, scale = 0;
        QSize size;
        bool dark = false;
        bool operator==(const Key&) const = default;
    };
    /// Begins to draw what is to be shown, unless it is drawn or being drawn already.
    void begin();

    Key key_;
    std::future<Picture> coming_; ///< while the other strips are drawn
    Picture picture_;
};

} // namespace ng::app
