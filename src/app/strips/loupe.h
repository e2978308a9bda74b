// The loupe: a glass over the section that shows a place at its true shape, one scale along and across, with
// its field. It follows the needle until it is put somewhere; painted off the interface thread, and solved
// closer where it looks closer than the mesh.
#pragma once
#include "app/model/session.h"
#include "app/model/worker.h"
#include "draw/loupe_picture.h"
#include "mesh/triangle_tree.h"
#include <QPointer>
#include <QWidget>

namespace ng::app {

class Loupe : public QWidget {
    Q_OBJECT
  public:
    enum class Shows { current, pinned };
    Loupe(Session& session, Shows shows, QWidget* parent);

    void open();
    double across_mm() const { return look_.across_mm; }
    void set_across_mm(double across_mm);
    /// Put at a place: along the cable from the datum, and radius. It no longer follows the needle.
    void put(double u_mm, double r_mm);
    void follow_needle();
    bool follows() const { return !put_; }
    Point place() const; ///< u, as z, and r
    void set_look(bool round, bool equipotentials, bool directions, bool mesh);
    const draw::LoupeLook& look() const { return look_; }
    /// Its own window, or over the strips.
    void set_floating(bool floating);
    bool is_floating() const { return isWindow(); }
    /// A second glass on the pinned state, at the same place and scale.
    Loupe* show_pinned_beside();

    /// Milliseconds that the last picture took, and whether it shows a solution made for this place.
    double paint_ms() const { return paint_ms_; }
    bool is_near() const { return shown_near_; }
    bool is_painting() const { return painting_; }
    std::optional<double> near_error() const { return near_error_; }
    QString values_at(QPointF p) const; ///< in widget coordinates
    QString note() const;
    int triangles() const { return picture_.triangles; } ///< of the mesh that are seen
    QImage picture() const;                              ///< glass and caption, as printed and copied

  signals:
    void looked(); ///< somewhere else, or at another scale

  protected:
    void paintEvent(QPaintEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void closeEvent(QCloseEvent* event) override;

  private:
    struct Painted;
    SolvedPtr shown() const;
    int glass_px() const;
    void refresh();
    void paint_picture();
    void look_closer();
    void print();
    void save();
    void paint_caption(QPainter& painter) const;

    Session& session_;
    Shows shows_;
    draw::LoupeLook look_;
    bool put_ = false;
    double u_mm_ = 0, r_mm_ = 0;
    QPointer<Loupe> twin_;
    // The picture, and what it is of.
    draw::LoupePicture picture_;
    std::shared_ptr<const Solution> solution_; ///< that the picture is of
    std::shared_ptr<const TriangleTree> tree_;
    SolvedPtr of_;
    bool painting_ = false, again_ = false, shown_near_ = false;
    double paint_ms_ = 0;
    QString pointer_;
    // A solution made for this place.
    struct Near {
        std::shared_ptr<const PreparedDesign> prepared;
        Point centre;
        double across_mm = 0;
        std::shared_ptr<const Solution> solution;
        std::optional<double> error;
    };
    std::optional<Near> near_;
    std::optional<double> near_error_;
    bool solving_ = false;
    int run_ = 0;
    Worker near_worker_, painter_;
    enum class Drag { none, look, move } drag_ = Drag::none;
    QPointF last_;
};

} // namespace ng::app
