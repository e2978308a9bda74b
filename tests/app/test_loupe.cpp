// The loupe: true shape, live, put and followed, solved closer than the mesh, beside the pinned state.
#include "app/strips/loupe.h"
#include "draw/loupe_picture.h"
#include "window_support.h"
#include <QTemporaryDir>
#include <QWheelEvent>

using namespace ng;
using test::Window;

namespace {

struct Open : Window {
    app::Loupe* loupe;
    explicit Open(const char* design = "quay-mast") : loupe(window->loupe()) {
        session().document.show_design(design);
        if (!wait_refined()) qWarning("not refined");
        session().move_needle_to_z(first_screen_edge_z(session().prepared()->built));
        QTest::keyClick(window.get(), Qt::Key_L);
    }
    bool settled() const {
        return QTest::qWaitFor([this] { return !loupe->is_painting(); }, test::patient(20000));
    }
    void wheel(int angle) {
        QWheelEvent event(QPointF(100, 100), loupe->mapToGlobal(QPoint(100, 100)), {}, QPoint(0, angle),
                          Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(loupe, &event);
    }
};

} // namespace

class TestLoupe : public QObject {
    Q_OBJECT
  private slots:
    void a_key_opens_it_at_the_needle_and_closes_it() {
        Open w;
        QVERIFY(w.loupe->isVisible() && w.loupe->follows());
        QVERIFY(w.settled());
        QVERIFY(!w.loupe->note().contains("Nothing"));
        const auto at = w.loupe->place();
        QVERIFY(std::abs(at.z - w.session().axis.needle_u()) < 1e-6);
        QVERIFY(std::abs(at.r - w.session().prepared()->dimensions.radius_mm("insulation")) < 0.05);
        QVERIFY(w.loupe->values_at(QPointF(140, 300)).contains("|E|"));
        QTest::keyClick(w.window.get(), Qt::Key_L);
        QVERIFY(!w.loupe->isVisible());
    }
    void the_wheel_looks_closer_within_bounds() {
        Open w;
        const double was = w.loupe->across_mm();
        w.wheel(120);
        QVERIFY(w.loupe->across_mm() < was);
        for (int i = 0; i < 80; ++i) w.wheel(120);
        QCOMPARE(w.loupe->across_mm(), draw::narrowest_loupe_mm);
        QVERIFY(w.settled());
        for (int i = 0; i < 120; ++i) w.wheel(-120);
        QCOMPARE(w.loupe->across_mm(), draw::widest_loupe_mm);
        QVERIFY(w.settled());
    }
    /// One scale along and across: a square of the section is a square of the glass.
    void it_shows_true_shape() {
        Open w;
        const auto solved = w.session().solved();
        draw::LoupeLook look;
        look.centre = {w.loupe->place().r, solved->prepared->built.datum_z_mm + w.loupe->place().z};
        look.across_mm = 4;
        const auto picture =
            draw::loupe_picture(*solved->prepared, solved->solution, look, 300, w.session().theme());
        QCOMPARE(picture.view.z_scale_px, -picture.view.r_scale_px);
        QCOMPARE(picture.view.z_scale_px, 75.0);
        QCOMPARE(picture.view.map(look.centre), QPointF(150, 150));
        QCOMPARE(picture.image.size(), QSize(300, 300));
        QCOMPARE(qAlpha(picture.image.pixel(2, 2)), 0); // round
        QVERIFY(picture.triangles > 50 && picture.step_kV > 0);
        QVERIFY(picture.not_judged); // the triple point at the screen edge
    }
    void it_looks_closer_than_the_mesh_with_an_error_of_its_own() {
        Open w;
        // Along the tube, away from the edge that the mesh is made for.
        const auto edge = w.loupe->place();
        w.loupe->put(edge.z + 60, edge.r + 1);
        w.loupe->set_across_mm(0.8);
        QVERIFY2(QTest::qWaitFor([&] { return w.loupe->is_near(); }, test::patient(30000)),
                 qPrintable(w.loupe->note() + QString(" %1").arg(w.loupe->triangles())));
        QVERIFY(w.loupe->near_error() && *w.loupe->near_error() > 0 && *w.loupe->near_error() < 0.02);
        QVERIFY2(w.loupe->note().contains("solved for this place"), qPrintable(w.loupe->note()));
        w.session().set_number("screen_edge_mm", 301,
                               "screen edge"); // another design: no longer of this place
        QVERIFY(QTest::qWaitFor([&] { return !w.loupe->is_near(); }, test::patient(20000)));
    }
    void in_metal_it_says_that_there_is_no_field() {
        Open w;
        w.loupe->put(-200, 2); // inside the conductor
        w.loupe->set_across_mm(1);
        QVERIFY(QTest::qWaitFor([&] { return w.loupe->note().contains("metal"); }, test::patient(20000)));
        QVERIFY(!w.loupe->is_near());
    }
    void it_is_put_by_hand_follows_again_and_is_live() {
        Open w;
        QVERIFY(w.settled());
        const auto was = w.loupe->place();
        const QPoint middle(w.loupe->width() / 2, w.loupe->width() / 2);
        QTest::mousePress(w.loupe, Qt::LeftButton, {}, middle);
        QTest::mouseMove(w.loupe, middle + QPoint(30, 0));
        QTest::mouseMove(w.loupe, middle + QPoint(60, 20));
        QTest::mouseRelease(w.loupe, Qt::LeftButton, {}, middle + QPoint(60, 20));
        QVERIFY(!w.loupe->follows());
        QVERIFY(w.loupe->place().z < was.z);
        const auto put = w.loupe->place();
        w.session().axis.set_needle(w.session().axis.needle_u() - 40);
        QCOMPARE(w.loupe->place().z, put.z);
        QTest::mouseDClick(w.loupe, Qt::LeftButton, {}, middle);
        QVERIFY(w.loupe->follows());
        QCOMPARE(w.loupe->place().z, w.session().axis.needle_u());
        // While a hand moves the coarse solution is what it shows, and it says so.
        w.session().set_live(true);
        w.session().set_number("screen_edge_mm", 303, "screen edge");
        QVERIFY(QTest::qWaitFor([&] { return w.loupe->note().contains("while the hand moves"); },
                                test::patient(20000)));
        w.session().set_live(false);
        QVERIFY(QTest::qWaitFor([&] { return !w.loupe->note().contains("while the hand moves"); },
                                test::patient(30000)));
    }
    void two_glasses_compare_with_the_pinned_state() {
        Open w;
        QVERIFY(!w.loupe->show_pinned_beside());
        QVERIFY(w->banner_text().contains("nothing is pinned"));
        w.session().pin();
        w.session().set_number("tube_upper_end_mm", 180, "tube");
        QVERIFY(w.wait_refined());
        auto* other = w.loupe->show_pinned_beside();
        QVERIFY(other && other->isVisible());
        QVERIFY(QTest::qWaitFor([&] { return other->note().startsWith("pinned"); }, test::patient(20000)));
        w.loupe->set_across_mm(3);
        QCOMPARE(other->across_mm(), 3.0);
        w.loupe->put(-20, 12);
        QCOMPARE(other->place().z, -20.0);
    }
    void it_floats_copies_and_has_its_choices_by_key() {
        Open w;
        QVERIFY(w.settled());
        QTest::keyClick(w.loupe, Qt::Key_M);
        QTest::keyClick(w.loupe, Qt::Key_D);
        QVERIFY(w.loupe->look().mesh && w.loupe->look().directions);
        QVERIFY(w.settled());
        QTest::keyClick(w.loupe, Qt::Key_F);
        QVERIFY(w.loupe->is_floating() && w.loupe->isVisible());
        w.loupe->set_floating(false);
        QVERIFY(!w.loupe->is_floating() && w.loupe->isVisible());
        const auto image = w.loupe->picture();
        QVERIFY(image.width() == 2 * w.loupe->width());
        QTemporaryDir folder;
        QVERIFY(image.save(folder.filePath("loupe.png")));
        for (const char* design : {"breakwater", "berth-2", "cellar"}) { // joints, cones, paper
            w.session().document.show_design(design);
            QVERIFY(w.wait_refined());
            QVERIFY(w.settled());
        }
    }
};

QTEST_MAIN(TestLoupe)
#include "test_loupe.moc"
