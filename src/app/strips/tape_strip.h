// TAPE: a ruler from the datum of the cut plan, of each side its own, mm above and inches below, with the
// marks. A mark that a dimension of the design sets can be dragged: the design changes and is solved again.
#pragma once
#include "app/strips/strip.h"

namespace ng::app {

class TapeStrip : public Strip {
    Q_OBJECT
  public:
    explicit TapeStrip(Session& session, QWidget* parent = nullptr);
    /// Where a mark stands, for tests; null where there is none of this id.
    std::optional<QPointF> mark_place(const PlaceId& place) const;

  protected:
    void paint(QPainter& painter) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void paint_built(QPainter& painter, double y) const;
    bool two_sided() const; ///< a joint: each side has its own ruler
    /// Between two pixels, counting as `line` says.
    void paint_ruler(QPainter& painter, const DatumLine& line, double from_px, double to_px, double y,
                     LengthUnit unit, bool upwards) const;
    double ruler_y() const { return height() - 24; }
    double x_of(const CutMark& mark) const;
    const CutMark* mark_at(QPointF p) const;
    void begin_drag(const CutMark& mark, double x_px);

    struct Drag {
        PlaceId place;
        std::string parameter;
        QString label;
        double per_mm = 1, value = 0, x_px = 0, z_mm = 0;
        DatumLine line;                     ///< when the drag began
        std::map<std::string, double> held; ///< what keeps the datum in its place
    };
    std::optional<Drag> drag_;
    std::optional<PlaceId> hovered_;
};

} // namespace ng::app
