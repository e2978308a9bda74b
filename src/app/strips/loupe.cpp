#include "app/strips/loupe.h"
#include "app/model/text.h"
#include "draw/field_picture.h"
#include "draw/round_numbers.h"
#include "field/near.h"
#include "units/quantity.h"
#include <QApplication>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QElapsedTimer>
#include <QFileDialog>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QPrintDialog>
#include <QPrinter>
#include <QWheelEvent>
#include <cmath>

namespace ng::app {
namespace {

constexpr int caption_px = 62, usual_px = 350, rim_px = 10;
constexpr int enough_triangles = 500; // in view: below it looks closer than the mesh
constexpr double near_goal = 0.01;

} // namespace

Loupe::Loupe(Session& session, Shows shows, QWidget* parent)
    : QWidget(parent), session_(session), shows_(shows), near_worker_(this) {
    setObjectName(shows == Shows::current ? "loupe" : "loupePinned");
    setAccessibleName(shows == Shows::current ? "Loupe" : "Loupe on the pinned state");
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumSize(160, 160 + caption_px);
    resize(usual_px, usual_px + caption_px);
    setAttribute(Qt::WA_TranslucentBackground, false);
    connect(&session, &Session::solved_changed, this, &Loupe::refresh);
    connect(&session, &Session::pinned_changed, this, &Loupe::refresh);
    connect(&session, &Session::look_changed, this, &Loupe::refresh);
    connect(&session.axis, &AxisModel::needle_changed, this, [this] {
        if (!put_) refresh();
    });
    connect(&near_worker_, &Worker::failed, this, [this] { solving_ = false; });
    connect(&painter_, &Worker::failed, this, [this] { painting_ = false; });
    hide();
}

void Loupe::open() {
    show();
    raise();
    refresh();
}

SolvedPtr Loupe::shown() const {
    return shows_ == Shows::current ? session_.solved() : session_.pinned();
}

int Loupe::glass_px() const {
    return std::max(80, std::min(width(), height() - caption_px));
}

Point Loupe::place() const {
    if (put_) return {r_mm_, u_mm_};
    const auto solved = shown();
    const double u = session_.axis.needle_u();
    if (!solved) return {0, u};
    // On the surface that the needle reads: the sample of the judged paths nearest to it.
    const auto& built = solved->prepared->built;
    const double z = built.datum_z_mm + u;
    double best = 1e300, r = built.view_r0_mm;
    for (const auto& path : solved->solution.paths) {
        for (const auto& s : path.samples)
            if (const double off = std::abs(s.at.z - z); off < best - 1e-9) best = off, r = s.at.r;
        if (best < 0.5) break; // the first that reaches there
    }
    return {r, u};
}

void Loupe::set_across_mm(double across_mm) {
    look_.across_mm = std::clamp(across_mm, draw::narrowest_loupe_mm, draw::widest_loupe_mm);
    refresh();
    emit looked();
}

void Loupe::put(double u_mm, double r_mm) {
    put_ = true;
    u_mm_ = u_mm;
    r_mm_ = r_mm;
    refresh();
    emit looked();
}

void Loupe::follow_needle() {
    put_ = false;
    refresh();
    emit looked();
}

void Loupe::set_look(bool round, bool lines, bool directions, bool mesh) {
    look_.round = round;
    look_.equipotentials = lines;
    look_.directions = directions;
    look_.mesh = mesh;
    refresh();
}

void Loupe::set_floating(bool floating) {
    if (floating == isWindow()) return;
    auto* home = parentWidget();
    const auto at = mapToGlobal(QPoint(0, 0));
    const bool was = isVisible();
    setWindowFlags(floating ? Qt::Tool : Qt::Widget);
    setWindowTitle(accessibleName());
    if (floating)
        move(at);
    else if (home)
        move(std::max(0, home->width() - width() - 340), 70);
    if (was) show();
    raise();
}

Loupe* Loupe::show_pinned_beside() {
    if (!session_.pinned()) {
        session_.tell({"Loupe", "nothing is pinned", "Pin a state first (K)"});
        return nullptr;
    }
    if (!twin_) {
        twin_ = new Loupe(session_, Shows::pinned, parentWidget());
        twin_->setWindowFlags(windowFlags());
        connect(this, &Loupe::looked, twin_, [this] {
            if (!twin_) return;
            const auto at = place();
            twin_->look_ = look_;
            if (put_)
                twin_->put(at.z, at.r);
            else
                twin_->follow_needle();
        });
    }
    twin_->resize(size());
    twin_->look_ = look_;
    twin_->put_ = put_;
    twin_->u_mm_ = u_mm_;
    twin_->r_mm_ = r_mm_;
    twin_->move(pos() - QPoint(width() + 8, 0));
    twin_->open();
    return twin_;
}

void Loupe::refresh() {
    if (!isVisible()) return;
    if (painting_) {
        again_ = true;
        return;
    }
    paint_picture();
}

/// One picture at a time, the newest wish next: the hand never waits for it.
void Loupe::paint_picture() {
    const auto solved = shown();
    if (!solved) {
        of_.reset();
        update();
        return;
    }
    const auto at = place();
    auto look = look_;
    look.centre = {at.r, solved->prepared->built.datum_z_mm + at.z};
    // What was solved for this place, while it is still of this design and holds the window.
    const bool near =
        near_ && near_->prepared == solved->prepared && look.across_mm <= near_->across_mm * 1.02 &&
        std::abs(look.centre.r - near_->centre.r) + look.across_mm / 2 <= near_->across_mm * 0.76 &&
        std::abs(look.centre.z - near_->centre.z) + look.across_mm / 2 <= near_->across_mm * 0.76;
    const auto solution = near ? near_->solution : std::shared_ptr<const Solution>(solved, &solved->solution);
    painting_ = true;
    again_ = false;
    painter_.start([this, solved, solution, look, near, px = glass_px(), theme = session_.theme(),
                    finer = devicePixelRatioF(),
                    tree = solution == solution_ ? tree_ : nullptr](const CancelFlag&) mutable {
        QElapsedTimer timer;
        timer.start();
        auto picture = draw::loupe_picture(*solved->prepared, *solution, look, px, theme, finer);
        const double ms = static_cast<double>(timer.nsecsElapsed()) / 1e6;
        if (!tree) tree = std::make_shared<const TriangleTree>(*solution->mesh);
        painter_.hand_over([this, solved, solution, near, ms, tree = std::move(tree),
                            picture = std::move(picture)]() mutable {
            picture_ = std::move(picture);
            solution_ = solution;
            tree_ = std::move(tree);
            of_ = solved;
            shown_near_ = near;
            near_error_ = near ? near_->error : std::nullopt;
            paint_ms_ = ms;
            painting_ = false;
            update();
            if (again_)
                paint_picture();
            else
                look_closer();
        });
    });
}

/// Solved for this place, where its mesh is coarser than the glass.
void Loupe::look_closer() {
    const auto solved = shown();
    if (!solved || solved->coarse || session_.is_live() || shown_near_ ||
        picture_.triangles >= enough_triangles || !isVisible())
        return;
    if (picture_.triangles == 0) return; // all of it is metal
    const auto at = place();
    const Point centre{at.r, solved->prepared->built.datum_z_mm + at.z};
    const double across = look_.across_mm * 1.3; // some way to go before it is solved again
    if (solving_ && near_ && near_->centre.r == centre.r && near_->centre.z == centre.z) return;
    const int run = ++run_;
    solving_ = true;
    update();
    near_worker_.start([this, run, prepared = solved->prepared, centre, across](const CancelFlag& cancel) {
        auto found = solve_near(prepared->built.section, centre, across / 2, near_goal, &cancel);
        if (cancel) return;
        near_worker_.hand_over([this, run, prepared, centre, across, found = std::move(found)]() mutable {
            if (run != run_) return;
            solving_ = false;
            if (!found) return; // what is shown stays
            near_ = Near{prepared, centre, across,
                         std::make_shared<const Solution>(std::move(found->solution)), found->relative_error};
            refresh();
        });
    });
}

QString Loupe::note() const {
    const auto solved = of_;
    if (!solved) return "Nothing is solved yet";
    QString words = shows_ == Shows::pinned ? "pinned: " : "";
    if (picture_.triangles == 0) return words + "metal: there is no field in it";
    if (shown_near_)
        words += near_error_ ? QString("solved for this place: error %1 % of the greatest field in it")
                                   .arg(100 * *near_error_, 0, 'g', 2)
                             : QString("solved for this place; nothing here may be judged");
    else if (solved->coarse)
        words += "coarse, while the hand moves: no error is known";
    else
        words += QString("as solved: error %1 % where it is judged%2")
                     .arg(100 * solved->solution.report.worst_error, 0, 'g', 2)
                     .arg(solving_ ? "; looking closer…" : "");
    if (picture_.not_judged) words += "; hatched: a sharp corner, not judged";
    return words;
}

QString Loupe::values_at(QPointF p) const {
    if (!solution_ || !tree_) return {};
    const Point at{picture_.view.r_at(p.y()), picture_.view.z_at(p.x())};
    const int t = tree_->find(at, -1, 1e-6);
    if (t < 0) return "metal";
    const auto x = map_to_reference(*solution_->mesh, t, at);
    const auto e = solution_->field.at(t, x);
    const auto shape = shape_values(x);
    double kV = 0;
    for (std::size_t i = 0; i < 6; ++i)
        kV += shape[i] * solution_->potential_kV[solution_->mesh->triangles[static_cast<std::size_t>(t)][i]];
    const auto region = static_cast<std::size_t>(solution_->mesh->region[static_cast<std::size_t>(t)]);
    const double k = stress_factor(session_.stress_unit());
    return QString("|E| %1  E_r %2  E_z %3 %7  V %4 kV  %5%6")
        .arg(q(format_figures(k * solution_->field.magnitude_at(t, x), 3)), q(format_figures(k * e.r, 3)),
             q(format_figures(k * e.z, 3)), q(format_figures(kV, 3)), q(solution_->region_names[region]),
             corner_that_reaches(solution_->corners, at) ? ", not judged" : "",
             q(in_stress_unit("kV/mm", session_.stress_unit())));
}

void Loupe::paint_caption(QPainter& painter) const {
    const auto& theme = session_.theme();
    const double top = glass_px() + 4, width = this->width();
    painter.setFont(draw::ui_font(8.5));
    painter.setPen(theme.ink);
    const double bar_mm = draw::round_at_most(look_.across_mm / 3),
                 bar_px = bar_mm * glass_px() / look_.across_mm;
    painter.setPen(QPen(theme.ink, 2));
    painter.drawLine(QPointF(8, top + 17), QPointF(8 + bar_px, top + 17));
    for (const double x : {8.0, 8 + bar_px}) painter.drawLine(QPointF(x, top + 13), QPointF(x, top + 21));
    painter.drawText(QRectF(8, top - 2, 140, 15), Qt::AlignLeft | Qt::AlignVCenter,
                     q(format_figures(bar_mm, 1)) + " mm");
    draw::paint_field_key(painter, QRectF(width - 142, top - 2, 134, 26), picture_.full_scale_kV_per_mm,
                          theme, 0, session_.stress_unit());
    painter.setPen(theme.faint);
    painter.setFont(draw::ui_font(7.5));
    const auto line =
        pointer_.isEmpty()
            ? note() + (picture_.step_kV > 0
                            ? QString("; lines every %1 kV").arg(q(format_figures(picture_.step_kV, 2)))
                            : "")
            : pointer_;
    painter.setPen(pointer_.isEmpty() ? theme.faint : theme.ink);
    painter.drawText(QRectF(8, top + 25, width - 16, caption_px - 29), Qt::AlignLeft | Qt::TextWordWrap,
                     line);
}

void Loupe::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const auto& theme = session_.theme();
    painter.setPen(QPen(hasFocus() ? theme.accent : theme.line, 1));
    painter.setBrush(theme.panel);
    painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    const int px = glass_px();
    if (of_ && !picture_.image.isNull())
        painter.drawImage(QRectF((width() - px) / 2.0, 2, px, px), picture_.image);
    else
        painter.drawText(QRectF(0, 0, width(), px), Qt::AlignCenter, note());
    paint_caption(painter);
}

QImage Loupe::picture() const {
    constexpr int finer = 2;
    QImage image(size() * finer, QImage::Format_RGB32);
    image.setDevicePixelRatio(finer);
    image.fill(session_.theme().panel);
    QPainter painter(&image);
    painter.setRenderHint(QPainter::Antialiasing);
    if (of_ && solution_) {
        auto look = look_;
        const auto at = place();
        look.centre = {at.r, of_->prepared->built.datum_z_mm + at.z};
        const auto sharp =
            draw::loupe_picture(*of_->prepared, *solution_, look, glass_px(), session_.theme(), finer);
        painter.drawImage(QRectF((width() - glass_px()) / 2.0, 2, glass_px(), glass_px()), sharp.image);
    }
    paint_caption(painter);
    return image;
}

void Loupe::wheelEvent(QWheelEvent* event) {
    set_across_mm(look_.across_mm * std::pow(1.0015, -event->angleDelta().y()));
    event->accept();
}

void Loupe::mousePressEvent(QMouseEvent* event) {
    setFocus();
    if (event->button() != Qt::LeftButton) return;
    const QPointF d = event->position() - QPointF(width() / 2.0, glass_px() / 2.0);
    const bool in_glass = look_.round ? std::hypot(d.x(), d.y()) < glass_px() / 2.0 - rim_px
                                      : event->position().y() < glass_px();
    drag_ = in_glass ? Drag::look : Drag::move;
    last_ = in_glass ? event->position() : event->globalPosition();
    setCursor(in_glass ? Qt::ClosedHandCursor : Qt::SizeAllCursor);
}

void Loupe::mouseMoveEvent(QMouseEvent* event) {
    if (drag_ == Drag::look) {
        const auto by = event->position() - last_;
        last_ = event->position();
        const double mm = look_.across_mm / glass_px();
        const auto at = place();
        put(at.z - by.x() * mm, at.r + by.y() * mm);
    } else if (drag_ == Drag::move) {
        const auto by = (event->globalPosition() - last_).toPoint();
        last_ = event->globalPosition();
        move(pos() + by);
    } else {
        pointer_ = event->position().y() < glass_px()
                       ? values_at(event->position() - QPointF((width() - glass_px()) / 2.0, 2))
                       : QString();
        update();
    }
}

void Loupe::mouseReleaseEvent(QMouseEvent*) {
    drag_ = Drag::none;
    unsetCursor();
}

void Loupe::mouseDoubleClickEvent(QMouseEvent*) {
    follow_needle();
}

void Loupe::leaveEvent(QEvent*) {
    pointer_.clear();
    update();
}

void Loupe::contextMenuEvent(QContextMenuEvent* event) {
    QMenu menu(this);
    const auto toggle = [&](const QString& words, bool on, auto act) {
        auto* action = menu.addAction(words);
        action->setCheckable(true);
        action->setChecked(on);
        connect(action, &QAction::triggered, this, act);
    };
    toggle("Round glass", look_.round,
           [this](bool on) { set_look(on, look_.equipotentials, look_.directions, look_.mesh); });
    toggle("Equipotentials", look_.equipotentials,
           [this](bool on) { set_look(look_.round, on, look_.directions, look_.mesh); });
    toggle("Directions (D)", look_.directions,
           [this](bool on) { set_look(look_.round, look_.equipotentials, on, look_.mesh); });
    toggle("Mesh (M)", look_.mesh,
           [this](bool on) { set_look(look_.round, look_.equipotentials, look_.directions, on); });
    menu.addSeparator();
    toggle("Follow the needle (N)", !put_, [this](bool on) {
        const auto at = place();
        on ? follow_needle() : put(at.z, at.r);
    });
    toggle("A window of its own (F)", isWindow(), [this](bool on) { set_floating(on); });
    if (shows_ == Shows::current)
        menu.addAction("Beside the pinned state", this, [this] { show_pinned_beside(); });
    menu.addSeparator();
    menu.addAction("Copy the picture", this, [this] { QGuiApplication::clipboard()->setImage(picture()); });
    menu.addAction("Save the picture…", this, &Loupe::save);
    menu.addAction("Print…", this, &Loupe::print);
    menu.addSeparator();
    menu.addAction("Close (Esc)", this, &QWidget::hide);
    menu.exec(event->globalPos());
}

void Loupe::keyPressEvent(QKeyEvent* event) {
    const auto at = place();
    const double step = look_.across_mm / 10;
    switch (event->key()) {
    case Qt::Key_Plus:
    case Qt::Key_Equal:
        return set_across_mm(look_.across_mm / 1.25);
    case Qt::Key_Minus:
        return set_across_mm(look_.across_mm * 1.25);
    case Qt::Key_Left:
        return put(at.z - step, at.r);
    case Qt::Key_Right:
        return put(at.z + step, at.r);
    case Qt::Key_Up:
        return put(at.z, at.r + step);
    case Qt::Key_Down:
        return put(at.z, at.r - step);
    case Qt::Key_D:
        return set_look(look_.round, look_.equipotentials, !look_.directions, look_.mesh);
    case Qt::Key_M:
        return set_look(look_.round, look_.equipotentials, look_.directions, !look_.mesh);
    case Qt::Key_N:
        return follow_needle();
    case Qt::Key_F:
        return set_floating(!isWindow());
    case Qt::Key_Escape:
    case Qt::Key_L:
        return hide();
    default:
        QWidget::keyPressEvent(event);
    }
}

void Loupe::resizeEvent(QResizeEvent*) {
    refresh();
}

void Loupe::closeEvent(QCloseEvent* event) {
    near_worker_.cancel();
    QWidget::closeEvent(event);
}

void Loupe::save() {
    auto path = QFileDialog::getSaveFileName(this, "Save the loupe's picture", "loupe.png", "PNG (*.png)");
    if (path.isEmpty()) return;
    if (!path.endsWith(".png")) path += ".png";
    if (!picture().save(path))
        session_.tell(
            {path.section('/', -1).toStdString(), "it could not be written", "Give another folder"});
}

void Loupe::print() {
    QPrinter printer(QPrinter::HighResolution);
    QPrintDialog dialog(&printer, this);
    if (dialog.exec() != QDialog::Accepted) return;
    QPainter painter(&printer);
    const auto image = picture();
    const QRectF page = painter.viewport();
    const double scale = std::min(page.width() / image.width(), page.height() / image.height()) * 0.8;
    painter.drawImage(QRectF(0, 0, image.width() * scale, image.height() * scale), image);
}

} // namespace ng::app
