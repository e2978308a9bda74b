// What is drawn on paper: documents whose steps stay together, traces, stages, drawings at full size.
#include "draw/design_picture.h"
#include "draw/document.h"
#include "draw/field_picture.h"
#include "draw/report_document.h"
#include "draw/section_picture.h"
#include "draw/shape_picture.h"
#include "draw/sheet_document.h"
#include "draw/stage_drawing.h"
#include "draw/template_picture.h"
#include "draw/trace_picture.h"
#include "field/solve.h"
#include "io/dxf.h"
#include "mesh/triangle_tree.h"
#include "schedule/judgement.h"
#include "support.h"
#include <QGuiApplication>
#include <QProcess>
#include <QTemporaryDir>
#include <map>
#include <set>

using namespace ng;

namespace {

QByteArray output_of(const QString& program, const QStringList& arguments) {
    QProcess process;
    process.start(program, arguments);
    process.waitForFinished(60000);
    return process.readAllStandardOutput();
}

QStringList pages_of(const QString& pdf) {
    auto pages = QString::fromUtf8(output_of("pdftotext", {"-layout", pdf, "-"})).split('\f');
    if (!pages.isEmpty() && pages.last().trimmed().isEmpty()) pages.removeLast();
    return pages;
}

QByteArray bytes_of(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

/// Share of the pixels that differ.
double difference(const QImage& a, const QImage& b) {
    if (a.size() != b.size()) return 1;
    int different = 0;
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) different += a.pixel(x, y) != b.pixel(x, y);
    return static_cast<double>(different) / (a.width() * a.height());
}

struct Demo {
    Judgement judged;
    CutPlan plan;
    WorkSheet sheet;
};

Demo demo(const char* id) {
    auto judged = judge_design(test::demo_job(), id, test::library(), prepare_design, false);
    if (!judged) qFatal("%s", judged.error().message().c_str());
    auto plan = *make_plan(judged->prepared);
    auto sheet =
        *make_sheet(judged->prepared, plan, *load_steps(test::library()), test::library().connectors, {});
    return {std::move(*judged), std::move(plan), std::move(sheet)};
}

} // namespace

class TestDraw : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    QString at(const char* name) const { return dir_.filePath(name); }

  private slots:
    void text_of_a_document_is_escaped() {
        draw::Document d("<title>");
        d.heading(1, "a < b & c");
        d.paragraph("<script>x</script>");
        d.list({"one & two"});
        d.table({"<head>"}, {{"<cell>"}});
        const auto html = d.html();
        QVERIFY(html.contains("a &lt; b &amp; c") && html.contains("&lt;script&gt;") &&
                html.contains("one &amp; two"));
        QVERIFY(html.contains("&lt;head&gt;") && html.contains("&lt;cell&gt;") && !html.contains("<script>"));
    }
    void what_belongs_together_stays_on_one_page() {
        draw::Document d("pages");
        for (int i = 0; i < 60; ++i) {
            d.keep_together();
            d.heading(3, QString("begin%1").arg(i));
            for (int line = 0; line < 1 + i % 5; ++line) d.paragraph("words and more words");
            d.paragraph(QString("end%1").arg(i));
        }
        REQUIRE_OK(d.write_pdf(at("pages.pdf").toStdString()));
        const auto pages = pages_of(at("pages.pdf"));
        QVERIFY(pages.size() > 3);
        int found = 0;
        for (const auto& page : pages)
            for (int i = 0; i < 60; ++i) {
                const bool begins = page.contains(QRegularExpression(QString("begin%1\\b").arg(i))),
                           ends = page.contains(QRegularExpression(QString("end%1\\b").arg(i)));
                QCOMPARE(begins, ends);
                found += begins;
            }
        QCOMPARE(found, 60);
        for (qsizetype i = 0; i < pages.size(); ++i)
            QVERIFY2(pages[i].contains(QString("%1 / %2").arg(i + 1).arg(pages.size())),
                     qPrintable(pages[i].right(80)));
    }
    void what_is_longer_than_a_page_flows_on() {
        draw::Document d("long");
        std::vector<std::vector<QString>> rows;
        for (int i = 0; i < 200; ++i) rows.push_back({QString("row%1.").arg(i), "x"});
        d.table({"a", "b"}, rows);
        d.page_break();
        d.paragraph("afterwards");
        REQUIRE_OK(d.write_pdf(at("long.pdf").toStdString()));
        const auto pages = pages_of(at("long.pdf"));
        QVERIFY(pages.size() >= 4);
        const auto all = pages.join(" ");
        for (int i = 0; i < 200; ++i) QVERIFY(all.contains(QString("row%1.").arg(i)));
        QVERIFY(pages.last().contains("afterwards") && !pages.last().contains("row"));
    }
    void pictures_travel_in_the_file() {
        draw::Document d("picture");
        QImage image(40, 20, QImage::Format_RGB32);
        image.fill(Qt::red);
        d.picture(image, 40, "a red field");
        QVERIFY(d.html().contains("data:image/png;base64,") && d.html().contains("alt=\"a red field\""));
        REQUIRE_OK(d.write_pdf(at("picture.pdf").toStdString()));
        QVERIFY(output_of("pdfimages", {"-list", at("picture.pdf")}).contains("image"));
        const auto refused = d.write_pdf("/nowhere/x.pdf");
        QVERIFY(!refused && refused.error().message().find("/nowhere/x.pdf") != std::string::npos);
        QVERIFY(!d.write_html("/nowhere/x.html"));
    }
    void traces_show_what_is_solved() {
        const auto good = demo("quay-mast"), bad = demo("ramp-pole");
        const auto styles = draw::trace_styles(good.judged.prepared.built);
        QVERIFY(styles.size() >= 2);
        for (const auto& style : styles) QVERIFY(good.judged.solutions.at_u0.path(style.path));
        const auto picture = [](const Demo& d) {
            QImage image(800, 260, QImage::Format_RGB32);
            image.fill(Qt::white);
            QPainter painter(&image);
            draw::paint_traces(painter, QRectF(0, 0, 800, 260), d.judged.prepared, d.judged.solutions.at_u0,
                               draw::Theme::light());
            return image;
        };
        QImage blank(800, 260, QImage::Format_RGB32);
        blank.fill(Qt::white);
        QVERIFY(difference(picture(good), blank) > 0.01);
        QVERIFY(difference(picture(good), picture(bad)) > 0.005);
    }
    void no_label_of_a_part_is_cut_at_the_edge_of_its_picture() {
        const auto prepared = prepare_design(test::demo_job(), "causeway", test::library());
        REQUIRE_OK(prepared);
        const auto& built = prepared->built;
        const auto theme = draw::Theme::light();
        for (const int width : {120, 280, 460, 900}) {
            draw::View view;
            view.z_scale_px = width / (built.view_z1_mm - built.view_z0_mm);
            view.datum_z_mm = built.view_z0_mm;
            view.axis_y_px = 200;
            view.r_scale_px = -130 / built.view_r_mm;
            QImage image(width + 300, 210, QImage::Format_RGB32);
            image.fill(Qt::white);
            QPainter painter(&image);
            draw::paint_part_labels(painter, draw::Labelled(built), view, QRectF(0, 0, width, 200), theme);
            painter.end();
            int words = 0, beyond = 0;
            for (int y = 0; y < image.height(); ++y)
                for (int x = 0; x < image.width(); ++x)
                    if (qGray(image.pixel(x, y)) < 120) ++(x < width ? words : beyond);
            QVERIFY2(words > 100, qPrintable(QString::number(width)));
            QVERIFY2(beyond == 0, qPrintable(QString("%1 px: %2").arg(width).arg(beyond)));
        }
    }
    void lines_are_drawn_where_no_corner_of_a_triangle_is_seen() {
        // Plates 10 mm apart at 10 kV, looked at through 0.05 mm: the triangles are larger than that.
        Section s;
        s.symmetry = Symmetry::planar;
        s.materials = {{"air", {1, {}, {}}}};
        s.regions = {{"air", "air", test::box(0, 0, 10, 10)}};
        s.boundaries = {{"bottom", 0, {{0, 0}, {10, 0}}}, {"top", 10, {{0, 10}, {10, 10}}}};
        s.paths = {{"middle", {{5, 1}, {5, 9}}, "air"}};
        const auto solved = solve(s);
        REQUIRE_OK(solved);
        draw::View view;
        view.z_scale_px = 100 / 0.05;
        view.datum_z_mm = 4.9773;
        view.r0_mm = 5.0131;
        view.axis_y_px = 100;
        view.r_scale_px = -100 / 0.05;
        const auto lines = draw::equipotentials(*solved, view, QRectF(0, 0, 100, 100), 0.01);
        // z runs along x: lines at every 0.01 mm, upright, from end to end.
        std::set<int> at;
        for (const auto& line : lines) {
            QVERIFY(std::abs(line.x1() - line.x2()) < 0.01);
            if (line.x1() > 0 && line.x1() < 100) at.insert(static_cast<int>(std::lround(line.x1())));
        }
        QCOMPARE(at.size(), std::size_t(5));
    }
    void a_field_map_has_no_hole_and_the_colour_of_its_field() {
        const auto d = demo("ramp-pole");
        const auto& solution = d.judged.solutions.at_u0;
        const auto& built = d.judged.prepared.built;
        const auto theme = draw::Theme::light();
        const QSize size(700, 240);
        draw::View view;
        view.datum_z_mm = built.view_z0_mm;
        view.z_scale_px = size.width() / (built.view_z1_mm - built.view_z0_mm);
        view.r0_mm = built.view_r0_mm;
        view.axis_y_px = size.height();
        view.r_scale_px = -size.height() / (built.view_r_mm - built.view_r0_mm);
        const double scale =
            draw::readable_full_scale(solution, built.view_z0_mm, built.view_z1_mm, built.view_r_mm);
        const auto image = draw::field_image(solution, view, size, scale, theme);
        std::map<QRgb, int> step_of;
        for (int i = 0; i < 256; ++i) step_of.emplace(draw::field_colour(theme, i / 255.0).rgb(), i);
        const TriangleTree tree(*solution.mesh);
        int asked = 0, off = 0;
        for (int y = 0; y < size.height(); ++y)
            for (int x = 0; x < size.width(); ++x) {
                const Point p{view.r_at(y + 0.5), view.z_at(x + 0.5)};
                const int t = tree.find(p, -1, 1e-12);
                if (t < 0) continue;
                const auto at = map_to_reference(*solution.mesh, t, p);
                if (std::min({at.a, at.b, 1 - at.a - at.b}) < 1e-3) continue; // beside a side
                ++asked;
                QVERIFY2(qAlpha(image.pixel(x, y)) == 255, qPrintable(QString("%1, %2").arg(x).arg(y)));
                const auto found = step_of.find(image.pixel(x, y));
                QVERIFY(found != step_of.end());
                const double wanted = std::min(255.0, 255 * solution.field.magnitude_at(t, at) / scale);
                off += std::abs(found->second - wanted) > 4;
            }
        QVERIFY(asked > size.width() * size.height() / 2);
        QVERIFY2(off < asked / 100, qPrintable(QString("%1 of %2").arg(off).arg(asked)));
    }
    void stages_change_from_step_to_step() {
        const auto d = demo("causeway");
        std::optional<QImage> before;
        int pictures = 0;
        for (const auto& step : d.sheet.steps) {
            if (!step.changes_picture) continue;
            const auto image = draw::stage_image({600, 160}, d.judged.prepared, d.plan, step);
            if (before) QVERIFY2(difference(*before, image) > 1e-4, step.id.c_str());
            before = image;
            ++pictures;
        }
        QVERIFY(pictures > 8);
    }
    void a_picture_for_paper_is_the_same_drawing_with_more_pixels() {
        const auto d = demo("quay-mast");
        const auto screen = draw::design_picture(d.judged.prepared, d.judged.solutions.at_u0, 500, 260);
        const auto paper = draw::design_picture(d.judged.prepared, d.judged.solutions.at_u0, 500, 260, 2);
        QCOMPARE(paper.size(), screen.size() * 2);
        // Mean shade agrees: lines and letters are finer, not other.
        const auto shade = [](const QImage& image) {
            double sum = 0;
            for (int y = 0; y < image.height(); ++y)
                for (int x = 0; x < image.width(); ++x) sum += qGray(image.pixel(x, y));
            return sum / (image.width() * image.height());
        };
        QVERIFY(std::abs(shade(paper) - shade(screen)) < 4);
    }
    void the_report_lists_every_design_and_what_is_from_memory() {
        const auto a = demo("quay-mast"), b = demo("ramp-pole");
        auto job = test::demo_job();
        job.limit_overrides["interface_tangential"] = {0.5, "engineer C", "2026-01-02", "our rule 4"};
        const auto document = draw::report_document(
            job,
            {{&a.judged.prepared, &a.judged.solutions.at_u0, &a.judged.verdict, nullptr, &a.plan},
             {&b.judged.prepared, &b.judged.solutions.at_u0, &b.judged.verdict, nullptr, &b.plan}},
            "a day");
        const auto html = document.html();
        for (const char* words :
             {"Quay mast, feeder A", "Ramp pole, feeder A", "a day", "engineer C", "from memory",
              "falls short", "does not replace a type test", "Marks, from the jacket cut"})
            QVERIFY2(html.contains(words), words);
        QCOMPARE(html.count("data:image/png"), 6); // section and traces of each
    }
    void drawings_are_at_full_size() {
        const auto d = demo("quay-mast");
        const auto strips = template_strips(d.plan, d.judged.prepared);
        REQUIRE_OK(draw::write_template_svg(strips, "x", at("t.svg").toStdString()));
        const auto svg = QString::fromUtf8(bytes_of(at("t.svg")));
        // The size on paper is in millimetres, the user units are 72 to the inch.
        const auto match = QRegularExpression("width=\"([0-9.]+)mm\" height=\"([0-9.]+)mm\"").match(svg);
        QVERIFY(match.hasMatch());
        double longest = 0;
        for (const auto& strip : strips) longest = std::max(longest, strip.length_mm);
        QVERIFY(std::abs(match.captured(1).toDouble() - (longest + 20)) < 1);
        REQUIRE_OK(write_template_dxf(strips, at("t.dxf").toStdString()));
        // Group 10 of a DXF is x: every mark is there, in millimetres.
        const auto lines = QString::fromLatin1(bytes_of(at("t.dxf"))).split('\n');
        std::vector<double> x;
        for (qsizetype i = 0; i + 1 < lines.size(); ++i)
            if (lines[i].trimmed() == "10") x.push_back(lines[i + 1].toDouble());
        for (const auto& strip : strips)
            for (const auto& line : strip.lines)
                QVERIFY2(std::any_of(x.begin(), x.end(),
                                     [&](double v) { return std::abs(v - line.along_mm) < 1e-3; }),
                         line.label.c_str());
        QVERIFY(std::any_of(x.begin(), x.end(), [](double v) { return std::abs(v - scale_bar_mm) < 1e-9; }));
    }
    void a_profile_is_drawn_at_full_size() {
        ShapeProfile profile;
        profile.smooth = {{10, 0}, {14, 40}, {20, 90}};
        profile.straight = {{10, 0}, {20, 90}};
        REQUIRE_OK(draw::write_profile_svg(profile, "cone", at("p.svg").toStdString()));
        const auto svg = QString::fromUtf8(bytes_of(at("p.svg")));
        const auto match = QRegularExpression("width=\"([0-9.]+)mm\"").match(svg);
        QVERIFY(match.hasMatch() && std::abs(match.captured(1).toDouble() - (90 + 24)) < 1);
        QVERIFY(!draw::write_profile_svg(profile, "cone", "/nowhere/p.svg"));
    }
    void rows_of_marks_carry_units_and_reasons() {
        const auto d = demo("causeway");
        const auto rows = draw::mark_rows(d.plan);
        QCOMPARE(rows.size(), d.plan.marks.size() - 1); // all but the datum itself
        for (const auto& row : rows) {
            QCOMPARE(row.size(), draw::mark_head().size());
            QVERIFY(row[1].contains(" mm / ") && row[1].endsWith(" in"));
            QVERIFY(!row.back().isEmpty());
        }
    }
};

int main(int argc, char** argv) {
    QGuiApplication application(argc, argv);
    TestDraw test;
    return QTest::qExec(&test, argc, argv);
}
#include "test_draw.moc"
