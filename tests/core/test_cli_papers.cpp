// Every paper of every demo design, made by the command line and read again by general-purpose readers:
// poppler's tools for PDF, ezdxf for DXF, html5lib for HTML, Qt's XML reader for SVG.
#include "cli_support.h"
#include "design/prepared.h"
#include "plan/plan.h"
#include "plan/sheet.h"
#include "units/version.h"
#include <QTemporaryDir>
#include <QXmlStreamReader>
#include <numbers>
#include <set>
#include <sstream>

using namespace ng;
using nlohmann::json;
using test::call;
using test::cli;
using test::demo_path;

namespace {

/// Words of a PDF without line ends and doubled spaces.
QString words_of(const QString& pdf) {
    return QString::fromUtf8(call("pdftotext", {"-layout", pdf, "-"}).out).simplified();
}

constexpr const char* falls_short = "dredger-reel"; ///< of the demo, for its grading

} // namespace

class TestCliPapers : public QObject {
    Q_OBJECT
    QTemporaryDir dir_;
    json read_; ///< by file

    QString at(const QString& design, const char* ending) const { return dir_.filePath(design + ending); }
    const json& reading(const QString& file) const { return read_.at(file.toStdString()); }
    static void each_design() {
        QTest::addColumn<QString>("design");
        for (const auto& design : test::demo_job().designs)
            QTest::newRow(design.id.c_str()) << QString::fromStdString(design.id);
    }

  private slots:
    void initTestCase() {
        if (!QFile::exists("/usr/lib/python3/dist-packages/ezdxf/__init__.py") ||
            !QFile::exists("/usr/lib/python3/dist-packages/html5lib/__init__.py"))
            QSKIP("python3-ezdxf or python3-html5lib is not installed");
        QStringList files;
        for (const auto& d : test::demo_job().designs) {
            const auto id = QString::fromStdString(d.id);
            const auto made = cli({"template", demo_path, "--design", id, "--pdf", at(id, ".pdf"), "--svg",
                                   at(id, ".svg"), "--dxf", at(id, ".dxf")});
            QVERIFY2(made.code == 0 || made.code == 1, d.id.c_str());
            const auto letter = cli(
                {"template", demo_path, "--design", id, "--paper", "Letter", "--pdf", at(id, "-letter.pdf")});
            QCOMPARE(letter.code, made.code);
            QStringList words{"sheet",  demo_path,       "--design", id,
                              "--html", at(id, ".html"), "--pdf",    at(id, "-sheet.pdf")};
            if (d.id != falls_short) words << "--not-judged";
            const auto sheet = cli(words);
            QVERIFY2(sheet.code == 0 || sheet.code == 1, d.id.c_str());
            files << at(id, ".dxf") << at(id, ".html");
        }
        files << at("report", ".html");
        QVERIFY(cli({"report", demo_path, "--design", "slipway-end", "--html", files.last()}).code >= 0);
        const auto answer =
            call("/usr/bin/python3", QStringList{NEEDLEGAUGE_REFERENCE_DIR "/read_papers.py"} + files);
        QCOMPARE(answer.code, 0);
        read_ = json::parse(answer.out.toStdString());
    }
    void drawings_are_sound_and_at_full_size_data() { each_design(); }
    void drawings_are_sound_and_at_full_size() {
        QFETCH(QString, design);
        const auto& drawing = reading(at(design, ".dxf"));
        QVERIFY2(drawing["errors"].empty(), drawing["errors"].dump().c_str());
        QCOMPARE(drawing["units"], 4); // millimetres
        // The lines across the strips, by what is written beside them, are the distances of the marks.
        std::vector<double> lines;
        int bars = 0;
        for (const auto& line : drawing["lines"]) {
            const auto& p = line["points"];
            if (line["layer"] == "cuts" || line["layer"] == "marks") {
                QCOMPARE(p[0][0].get<double>(), p[1][0].get<double>());
                lines.push_back(p[0][0]);
            }
            if (line["layer"] == "scale") {
                COMPARE_WITHIN(p[1][0].get<double>() - p[0][0].get<double>(), 100.0, 1e-12);
                ++bars;
            }
        }
        int labelled = 0;
        static const QRegularExpression length(
            R"(  ([0-9.]+) mm / (?:(\d+)(?: |(?= in)))?(?:(\d+)/(\d+) )?in$)");
        for (const auto& text : drawing["texts"]) {
            const auto words = QString::fromStdString(text["words"].get<std::string>());
            const auto match = length.match(words);
            if (!match.hasMatch()) continue;
            // As hands measure: halves of a millimetre, sixteenths of an inch.
            const double mm = match.captured(1).toDouble();
            const double part =
                match.captured(4).isEmpty() ? 0 : match.captured(3).toDouble() / match.captured(4).toDouble();
            const double inch = match.captured(2).toDouble() + part;
            const auto line = [&](double slack, double wanted) {
                return std::any_of(lines.begin(), lines.end(),
                                   [&](double at) { return std::abs(at - wanted) < slack; });
            };
            QVERIFY2(line(0.251, mm), qPrintable(words));
            QVERIFY2(line(25.4 / 32 + 0.001, 25.4 * inch), qPrintable(words));
            ++labelled;
        }
        QVERIFY(labelled > 0 && labelled == static_cast<int>(lines.size()));
        QVERIFY(bars >= 1);
    }
    void templates_are_on_the_paper_asked_for_data() { each_design(); }
    void templates_are_on_the_paper_asked_for() {
        QFETCH(QString, design);
        for (const auto& [ending, width, height] :
             {std::tuple{".pdf", 297.0, 210.0}, {"-letter.pdf", 279.4, 215.9}}) {
            const auto info = QString::fromUtf8(call("pdfinfo", {at(design, ending)}).out);
            static const QRegularExpression size(R"(Page size:\s+([0-9.]+) x ([0-9.]+) pts)"),
                pages(R"(Pages:\s+(\d+))");
            const auto found = size.match(info);
            QVERIFY(found.hasMatch());
            QVERIFY(std::abs(found.captured(1).toDouble() * 25.4 / 72 - width) < 0.4);
            QVERIFY(std::abs(found.captured(2).toDouble() * 25.4 / 72 - height) < 0.4);
            const int count = pages.match(info).captured(1).toInt();
            QVERIFY(count >= 1 && count < 60);
            const auto words = words_of(at(design, ending));
            QVERIFY(words.contains("100 mm") && words.contains("4 in"));
            const auto title =
                QString::fromStdString(test::demo_job().find_design(design.toStdString())->title);
            QCOMPARE(words.count(title), count); // on every page
        }
    }
    void vector_pictures_are_well_formed_and_in_millimetres_data() { each_design(); }
    void vector_pictures_are_well_formed_and_in_millimetres() {
        QFETCH(QString, design);
        QFile file(at(design, ".svg"));
        QVERIFY(file.open(QIODevice::ReadOnly));
        QXmlStreamReader xml(&file);
        QString width;
        int paths = 0;
        while (!xml.atEnd()) {
            xml.readNext();
            if (!xml.isStartElement()) continue;
            if (xml.name() == u"svg") width = xml.attributes().value("width").toString();
            paths += xml.name() == u"path" || xml.name() == u"polyline" || xml.name() == u"line";
        }
        QVERIFY2(!xml.hasError(), qPrintable(xml.errorString()));
        QVERIFY(width.endsWith("mm") && paths > 8);
        double longest = 0; // the strips of the drawing lie on it whole
        for (const auto& line : reading(at(design, ".dxf"))["lines"])
            for (const auto& p : line["points"]) longest = std::max(longest, p[0].get<double>());
        QVERIFY(QString(width).remove("mm").toDouble() > longest);
    }
    void sheets_say_the_same_on_screen_and_paper_data() { each_design(); }
    void sheets_say_the_same_on_screen_and_paper() {
        QFETCH(QString, design);
        const auto& page = reading(at(design, ".html"));
        QVERIFY2(page["errors"].empty(), page["errors"].dump().c_str());
        const auto text = QString::fromStdString(page["text"].get<std::string>());
        for (const auto& size : page["pictures"]) QVERIFY(size.get<int>() > 500); // travels in the file
        QVERIFY(page["pictures"].size() >= 3);
        QCOMPARE(page["described"].get<std::size_t>(), page["pictures"].size()); // for screen readers
        const auto paper = words_of(at(design, "-sheet.pdf"));
        const auto by = QString::fromStdString(made_by(test::library().version));
        QVERIFY(text.contains(by));
        QVERIFY(
            paper.contains(QString(by).replace('-', ' '))); // between figures the font's hyphen has no letter
        const auto job = test::demo_job();
        const auto prepared = prepare_design(job, design.toStdString(), test::library());
        REQUIRE_OK(prepared);
        const auto plan = make_plan(*prepared);
        REQUIRE_OK(plan);
        const auto sheet = make_sheet(*prepared, *plan, *load_steps(test::library()),
                                      test::library().connectors, job.step_texts);
        REQUIRE_OK(sheet);
        QVERIFY(sheet->steps.size() > 10);
        for (const auto& step : sheet->steps) {
            const auto title = QString::fromStdString(step.title);
            QVERIFY2(text.contains(title), qPrintable(title));
            // Long titles are broken over lines on paper: their first words.
            QVERIFY2(paper.contains(title.section(' ', 0, 2)), qPrintable(title));
        }
        for (const auto& caution : sheet->cautions)
            QVERIFY2(text.contains(QString::fromStdString(caution).simplified()), caution.c_str());
        for (const auto& item : sheet->picking)
            QVERIFY2(text.contains(QString::fromStdString(item.item)), item.item.c_str());
    }
    /// A program that knows the sheet only draws the section anew: cable by its layers and marks, every part
    /// by its ends and outline.
    void the_section_is_redrawn_from_the_sheet_data() { each_design(); }
    void the_section_is_redrawn_from_the_sheet() {
        QFETCH(QString, design);
        const auto& said = reading(at(design, ".html"))["said"];
        const auto number = [](const json& row, const char* key) {
            return std::stod(row.at(key).get<std::string>());
        };
        const auto p = prepare_design(test::demo_job(), design.toStdString(), test::library());
        REQUIRE_OK(p);
        const auto plan = make_plan(*p);
        REQUIRE_OK(plan);
        // Both datums on one line: the sheet gives their distance.
        const double gap = said.contains("between-datums-mm")
                               ? number(said["between-datums-mm"][0], "between-datums-mm")
                               : 0;
        const double zero = plan->line(CableSide::a).zero_z_mm;
        const auto z_of = [&](const std::string& side, double from) {
            return side == "A" ? zero + plan->line(CableSide::a).grows * from
                               : zero + gap + plan->line(CableSide::b).grows * from;
        };
        std::map<std::string, double> marks; // z by id
        for (const auto& row : said["mark"])
            marks[row["mark"]] = z_of(row["side"], number(row, "from-datum-mm"));
        std::map<std::string, double> radii; // by side and layer
        for (const auto& row : said["layer"])
            radii[row["side"].get<std::string>() + row["layer"].get<std::string>()] =
                number(row, "diameter-mm") / 2;
        std::map<std::string, std::vector<Point>> parts;
        for (const auto& row : said["part"]) {
            auto& outline = parts[row["part"]];
            std::istringstream in(row["outline"].get<std::string>());
            for (std::string word; in >> word;) {
                const auto comma = word.find(',');
                outline.push_back(
                    {std::stod(word.substr(0, comma)), z_of(row["side"], std::stod(word.substr(comma + 1)))});
            }
        }
        // Every mark stands on the paper too, with the distance of the plan in both units and its tolerance.
        const auto paper = words_of(at(design, "-sheet.pdf"));
        for (const auto& m : plan->marks) {
            if (m.kind == MarkKind::reference) continue;
            const auto said_on_paper = QString::fromStdString(both_units(std::abs(m.from_datum_mm)));
            QVERIFY2(paper.contains(said_on_paper), qPrintable(said_on_paper));
            QVERIFY2(paper.contains(QString("%1 mm").arg(m.tolerance_mm)), m.label.c_str());
            if (m.blade_mm && m.kind == MarkKind::jacket_cut)
                QVERIFY2(
                    paper.contains(QString::number(std::floor(10 * *m.blade_mm + 1e-9) / 10, 'f', 1) + " mm"),
                    m.label.c_str());
        }
        int layers = 0, redrawn = 0;
        const auto check = [&](const std::string& name, const Outline& outline) {
            const auto place = place_of(name);
            QVERIFY2(place, name.c_str());
            const auto part = std::find_if(p->built.parts.begin(), p->built.parts.end(),
                                           [&](const auto& one) { return one.place == *place; });
            if (part == p->built.parts.end() || part->hatch == "air") return;
            const auto polygon = polygon_of(outline, std::numbers::pi / 24);
            if (!is_cable_layer(place->kind)) {
                const auto& drawn = parts[id_of(*place)];
                QVERIFY2(drawn.size() == polygon.size(), name.c_str());
                for (std::size_t i = 0; i < drawn.size(); ++i)
                    QVERIFY2(distance(drawn[i], polygon[i]) < 0.1, name.c_str());
                ++redrawn;
                return;
            }
            // A layer of the cable reaches to its mark, and no further out than its diameter.
            static const std::map<PlaceKind, PlaceKind> ends{
                {PlaceKind::insulation_screen, PlaceKind::screen_edge},
                {PlaceKind::insulation, PlaceKind::insulation_end},
                {PlaceKind::metallic_screen, PlaceKind::metallic_cut}};
            const bool b = place->side == Side::b;
            double r = 0, z0 = 1e9, z1 = -1e9;
            for (const auto& point : polygon) {
                r = std::max(r, point.r);
                z0 = std::min(z0, point.z);
                z1 = std::max(z1, point.z);
            }
            const auto radius = radii.find((b ? "B" : "A") + std::string(words_of(place->kind)));
            // The conductor is drawn as one with lug or connector.
            if (place->side == Side::rod || place->kind == PlaceKind::conductor || radius == radii.end())
                return;
            QVERIFY2(r < radius->second + 0.1, name.c_str());
            const auto end = ends.find(place->kind);
            if (end == ends.end()) return;
            const auto mark = marks.find(id_of(PlaceId(end->second).on(place->side)));
            if (mark == marks.end()) return;
            QVERIFY2(std::abs((b ? z0 : z1) - mark->second) < 0.1,
                     qPrintable(
                         QString("%1: %2, mark at %3").arg(name.c_str()).arg(b ? z0 : z1).arg(mark->second)));
            ++layers;
        };
        for (const auto& region : p->built.section.regions) check(region.name, region.outline);
        for (const auto& electrode : p->built.section.electrodes) check(electrode.name, electrode.outline);
        QVERIFY(layers >= 1 && redrawn >= 1);
        QCOMPARE(static_cast<std::size_t>(redrawn), parts.size());
        // Every part is laid by a step, and no step lays what the sheet does not list.
        std::set<std::string> laid;
        for (const auto& row : said["step"])
            for (const auto& id : QString::fromStdString(row["lays"]).split(' ', Qt::SkipEmptyParts))
                QVERIFY2(laid.insert(id.toStdString()).second, qPrintable(id));
        for (const char* beyond : {"breakout", "core-tube", "re-jacketing-sleeve"}) laid.erase(beyond);
        for (const auto& id : laid) QVERIFY2(parts.contains(id), id.c_str());
    }
    void what_falls_short_says_so_on_every_page() {
        const auto paper =
            QString::fromUtf8(call("pdftotext", {"-layout", at(falls_short, "-sheet.pdf"), "-"}).out);
        const auto pages = paper.split(QChar('\f'), Qt::SkipEmptyParts);
        QVERIFY(pages.size() > 3);
        for (const auto& page : pages)
            QVERIFY2(page.trimmed().startsWith("DO NOT BUILD. "), qPrintable(page.left(200)));
        const auto text =
            QString::fromStdString(reading(at(falls_short, ".html"))["text"].get<std::string>());
        QVERIFY(text.contains("DO NOT BUILD. ") && text.contains("Verdict: falls short. "));
        QVERIFY(QString::fromStdString(reading(at("quay-mast", ".html"))["text"].get<std::string>())
                    .contains("Verdict: not judged"));
    }
    void the_report_is_read_without_an_error() {
        const auto& page = reading(at("report", ".html"));
        QVERIFY2(page["errors"].empty(), page["errors"].dump().c_str());
        const auto text = QString::fromStdString(page["text"].get<std::string>());
        for (const auto& word : {std::string("from memory"), std::string("does not replace"),
                                 std::string("type test"), made_by(test::library().version)})
            QVERIFY2(text.contains(QString::fromStdString(word)), word.c_str());
    }
    void what_cannot_be_written_says_so_data() {
        QTest::addColumn<QStringList>("arguments");
        for (const char* kind : {"--pdf", "--svg", "--dxf"})
            QTest::addRow("template %s", kind)
                << QStringList{"template", demo_path, "--design", "quay-mast", kind, "/proc/none/x"};
        for (const char* kind : {"--pdf", "--html"})
            QTest::addRow("sheet %s", kind)
                << QStringList{"sheet", demo_path, "--design", "quay-mast", kind, "/proc/none/x"};
        QTest::newRow("render") << QStringList{"render",    demo_path, "--design",
                                               "quay-mast", "--png",   "/proc/none/x.png"};
        QTest::newRow("solve before all else")
            << QStringList{"solve", "nowhere.ngsection", "--vtu", "/proc/none/x"};
        // Before all else: what takes minutes is not solved first, nor is the design looked for.
        for (const auto& [call, option] :
             {std::pair{"report", "--html"}, std::pair{"sheet", "--pdf"}, std::pair{"study range", "--svg"},
              std::pair{"study worst", "--out"}, std::pair{"study duty", "--svg"}})
            QTest::addRow("%s before all else", call)
                << QString(call).split(' ') +
                       QStringList{demo_path, "--design", "nowhere", option, "/proc/none/x"};
    }
    void what_cannot_be_written_says_so() {
        QFETCH(QStringList, arguments);
        QProcess process;
        process.start(NEEDLEGAUGE_CLI, arguments);
        QVERIFY(process.waitForFinished(120000));
        QCOMPARE(process.exitCode(), 2);
        const auto words = process.readAllStandardError();
        QVERIFY2(words.contains("written"), words.constData());
    }
};
QTEST_GUILESS_MAIN(TestCliPapers)
#include "test_cli_papers.moc"
