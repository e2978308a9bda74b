#include "app/strips/needle_bar.h"
#include "closedform/air.h"
#include "field/result_io.h"
#include "section/on_top.h"
#include "verdict/levels.h"
#include "verdict/void_allowance.h"
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <map>

namespace ng::app {
namespace {

constexpr int words_flags = Qt::AlignLeft | Qt::TextWordWrap;

/// The sample of a path nearest to z.
const PathSample* sample_at(const PathResult& path, double z) {
    if (path.samples.empty()) return nullptr;
    const auto it =
        std::min_element(path.samples.begin(), path.samples.end(), [z](const auto& a, const auto& b) {
            return std::abs(a.at.z - z) < std::abs(b.at.z - z);
        });
    return std::abs(it->at.z - z) < 1.5 ? &*it : nullptr;
}

/// Outer radii of what lies on the axis at z, from inside out.
QString layers_at(const BuiltAccessory& built, double z, LengthUnit unit) {
    std::map<std::string, QString> label_of;
    for (const auto& part : built.parts) label_of[name_of(part.place)] = QString::fromStdString(part.label);
    QString text;
    for (const auto& [name, outer_mm] : OnTop(built.section, 0.2).along_radius(z, built.view_r_mm)) {
        const auto it = label_of.find(*name);
        const auto label = it == label_of.end() ? QString::fromStdString(*name) : it->second;
        if (label == "air") continue;
        text += QString("%1%2 %3").arg(text.isEmpty() ? "" : " · ", label,
                                       QString::fromStdString(format_length(outer_mm, unit, false)));
    }
    return text;
}

/// What an air gap on this path may measure at the extinction voltage; empty where the path lies in air.
QString void_words(const Solved& solved, const PathResult& path, const PathSample& sample, LengthUnit unit) {
    constexpr LevelKey level{TestKind::extinction, true};
    const auto& prepared = *solved.prepared;
    const auto side =
        std::find(solved.solution.region_names.begin(), solved.solution.region_names.end(), path.side);
    if (side == solved.solution.region_names.end()) return {};
    if (solved.solution.eps_r[side - solved.solution.region_names.begin()] <= 1.0) return {};
    const auto* spec = prepared.levels.of_kind(TestKind::extinction);
    if (!spec) return "  void not judged: the pack has no extinction level";
    const Solution* solution = &solved.solution;
    const PathSample* at = &sample;
    const double kV = spec->prestress * prepared.levels.value_of(*spec).value;
    double factor = kV / prepared.design.duty.u0();
    if (const auto it = solved.levels.find(level); it != solved.levels.end()) {
        solution = &it->second;
        factor = 1;
        if (const auto* same = solution->path(path.name)) at = sample_at(*same, sample.at.z);
    } else if (!solved.solution.linear) {
        return {};
    }
    if (!at) return {};
    const auto& duty = prepared.design.duty;
    const double gap = closedform::largest_quiet_gap_mm(gap_field_kV_per_mm(*solution, path, *at, factor),
                                                        gap_air_density(duty.ambient_C, duty.altitude_m));
    if (!(gap < 20)) return {};
    return QString("  void ≤ %1 quiet at %2 kV")
        .arg(QString::fromStdString(unit == LengthUnit::mm ? format_figures(gap, 2) + " mm"
                                                           : format_figures(gap / 25.4, 2) + " in"))
        .arg(kV, 0, 'g', 3);
}

} // namespace

NeedleBar::NeedleBar(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    setObjectName("needleBar");
    setFixedHeight(66);
    connect(&session.axis, &AxisModel::needle_changed, this, &NeedleBar::refresh);
    connect(&session, &Session::solved_changed, this, &NeedleBar::refresh);
    connect(&session, &Session::prepared_changed, this, [this] {
        if (!session_.solution_is_coming()) refresh();
    });
    connect(&session, &Session::look_changed, this, &NeedleBar::refresh);
    refresh();
}

void NeedleBar::refresh() {
    columns_ = columns();
    const auto words = text();
    setAccessibleName(words);
    setToolTip(words); // all of it, where a column has not the room
    update();
}

std::vector<NeedleBar::Column> NeedleBar::columns() const {
    const double z = session_.needle_z();
    const auto unit = session_.unit();
    auto words = [&](double v) { return QString::fromStdString(format_length(v, unit)); };
    const auto plan = session_.plan();
    QString beside, from = words(std::abs(session_.datum_z() - z)) + " from datum";
    if (plan) {
        const auto side = plan->two_sides() && z > session_.datum_z() ? CableSide::b : CableSide::a;
        from =
            words(plan->line(side).from_datum(z)) + " from " + QString::fromStdString(name_of(plan->datum));
        if (plan->two_sides()) beside = side == CableSide::a ? ", side A" : ", side B";
    }
    std::vector<Column> out{{"NEEDLE", QString("z %1%2\n%3").arg(words(z), beside, from)}};
    if (const auto prepared = session_.prepared())
        out.push_back({unit == LengthUnit::mm ? "outer radii, mm" : "outer radii, in",
                       layers_at(prepared->built, z, unit)});
    const auto solved = session_.solved();
    if (!solved) return out;
    // A solution of a moved edge is read at the same place on the cable.
    const double solved_z = session_.axis.needle_u() + solved->prepared->built.datum_z_mm;
    for (const auto& path : solved->solution.paths) {
        const auto* s = sample_at(path, solved_z);
        if (!s) continue;
        const double stress = stress_factor(session_.stress_unit());
        auto figure = [&](double v, double factor) {
            if (v < 5e-4) return QString("0.000"); // below what is read anywhere here
            v *= factor;
            return QString::fromStdString(format_figures(v, solved->coarse || v < 0.01 ? 2 : 3));
        };
        QString body =
            QString("E_t %1  E_n %2  |E| %3\n%4 kV")
                .arg(figure(std::abs(s->E_t_kV_per_mm), stress), figure(std::abs(s->E_n_kV_per_mm), stress),
                     figure(s->E_kV_per_mm, stress), figure(s->potential_kV, 1));
        body += void_words(*solved, path, *s, unit);
        if (const auto* corner = corner_that_reaches(solved->solution.corners, s->at))
            body += QString(", not judged: within %1 of a %2")
                        .arg(words(corner->reach_mm), kind_word(corner->kind));
        out.push_back({QString::fromStdString(path.name), body});
    }
    return out;
}

QString NeedleBar::text() const {
    QString line;
    for (const auto& c : columns_)
        line += (line.isEmpty() ? "" : " | ") + c.head + ": " + QString(c.body).replace('\n', ", ");
    return line;
}

std::vector<NeedleBar::Shown> NeedleBar::shown() const {
    constexpr double smallest = 7.5, step = 0.5;
    const double first = std::min(176.0, 0.18 * width()), second = std::min(320.0, 0.22 * width());
    const double others = std::max<double>(1, static_cast<double>(columns_.size()) - 2);
    std::vector<Shown> out;
    double x = 10;
    for (std::size_t i = 0; i < columns_.size(); ++i) {
        const double column = i == 0 ? first : i == 1 ? second : (width() - 20 - first - second) / others;
        Shown one{columns_[i].head, columns_[i].body, {}, QRectF(x, 21, column - 10, height() - 22)};
        const auto fits = [&] {
            return QFontMetricsF(one.font)
                       .boundingRect(QRectF(0, 0, one.room.width(), 1e4), words_flags, one.words)
                       .height() <= one.room.height();
        };
        double size = i == 0 ? 9.5 : 8.5;
        one.font = draw::ui_font(size);
        while (!fits() && size > smallest) one.font = draw::ui_font(size -= step);
        while (!fits() && one.words.contains(' ')) {
            one.words.truncate(one.words.lastIndexOf(' '));
            one.words += "…";
        }
        out.push_back(std::move(one));
        x += column;
    }
    return out;
}

void NeedleBar::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const auto& theme = session_.theme();
    painter.fillRect(rect(), theme.panel);
    painter.setPen(QPen(theme.accent, 2));
    painter.drawLine(0, 1, width(), 1);
    const auto all = shown();
    for (std::size_t i = 0; i < all.size(); ++i) {
        const auto& [head, words, font, room] = all[i];
        painter.setPen(i == 0 ? theme.accent : theme.faint);
        painter.setFont(draw::ui_font(8, true));
        const auto unit =
            i > 1 ? ", " + QString::fromStdString(in_stress_unit("kV/mm rms", session_.stress_unit()))
                  : QString();
        const QFontMetricsF metrics(painter.font());
        painter.drawText(
            QRectF(room.left(), 6, room.width() + 2, 14), Qt::AlignLeft,
            metrics.elidedText(head, Qt::ElideRight, room.width() + 1 - metrics.horizontalAdvance(unit)) +
                unit);
        painter.setPen(theme.ink);
        painter.setFont(font);
        painter.drawText(room, words_flags, words);
    }
}

} // namespace ng::app
