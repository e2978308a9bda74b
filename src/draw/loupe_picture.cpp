#include "draw/loupe_picture.h"
#include "draw/field_picture.h"
#include "draw/round_numbers.h"
#include "draw/section_picture.h"
#include "geometry/outline.h"
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace ng::draw {
namespace {

/// The field that 98 % of what is seen stays below, and how many triangles that is.
std::pair<double, int> scale_in(const Solution& solution, const View& view, double px) {
    std::vector<std::pair<double, double>> values;
    const auto& mesh = *solution.mesh;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& n = mesh.triangles[t];
        const QPolygonF corners{view.map(mesh.nodes[n[0]]), view.map(mesh.nodes[n[1]]),
                                view.map(mesh.nodes[n[2]])};
        const auto seen = corners.boundingRect().intersected(QRectF(0, 0, px, px));
        if (seen.isEmpty()) continue;
        values.emplace_back(solution.field.magnitude_at(static_cast<int>(t), {1.0 / 3, 1.0 / 3}),
                            seen.width() * seen.height());
    }
    const auto count = static_cast<int>(values.size());
    return {field_below(std::move(values), 0.98), count};
}

/// About a dozen lines over what is seen.
double step_in(const Solution& solution, const View& view, double px) {
    double low = 1e300, high = -1e300;
    for (std::size_t i = 0; i < solution.mesh->nodes.size(); ++i) {
        const auto at = view.map(solution.mesh->nodes[i]);
        if (at.x() < 0 || at.x() > px || at.y() < 0 || at.y() > px) continue;
        low = std::min(low, solution.potential_kV[static_cast<Eigen::Index>(i)]);
        high = std::max(high, solution.potential_kV[static_cast<Eigen::Index>(i)]);
    }
    return high > low ? round_at_least((high - low) / 16) : 0;
}

/// Where nothing is judged: hatched, and ringed.
bool paint_corners(QPainter& painter, const Solution& solution, const View& view, double px,
                   const Theme& theme) {
    bool any = false;
    for (const auto& corner : solution.corners) {
        const auto at = view.map(corner.at);
        const double reach = std::max(3.0, corner.reach_mm * view.z_scale_px);
        if (at.x() + reach < 0 || at.x() - reach > px || at.y() + reach < 0 || at.y() - reach > px) continue;
        any = true;
        QColor tone = theme.paper;
        tone.setAlpha(120);
        painter.setBrush(tone);
        painter.setPen(Qt::NoPen);
        painter.drawEllipse(at, reach, reach);
        painter.setBrush(QBrush(theme.ochre, Qt::BDiagPattern));
        painter.setPen(QPen(theme.ochre, 1.2, Qt::DotLine));
        painter.drawEllipse(at, reach, reach);
    }
    return any;
}

void paint_mesh(QPainter& painter, const Mesh& mesh, const View& view, double px, const Theme& theme) {
    QColor line = theme.ink;
    line.setAlpha(110);
    painter.setPen(QPen(line, 0.5));
    for (const auto& n : mesh.triangles) {
        const std::array<QPointF, 6> at{view.map(mesh.nodes[n[0]]), view.map(mesh.nodes[n[3]]),
                                        view.map(mesh.nodes[n[1]]), view.map(mesh.nodes[n[4]]),
                                        view.map(mesh.nodes[n[2]]), view.map(mesh.nodes[n[5]])};
        const auto [left, right] =
            std::minmax_element(at.begin(), at.end(), [](auto a, auto b) { return a.x() < b.x(); });
        const auto [top, bottom] =
            std::minmax_element(at.begin(), at.end(), [](auto a, auto b) { return a.y() < b.y(); });
        if (right->x() < 0 || left->x() > px || bottom->y() < 0 || top->y() > px) continue;
        painter.drawPolygon(at.data(), 6);
    }
}

/// A short stroke along the field at the middle of about every cell of an even grid.
void paint_directions(QPainter& painter, const Solution& solution, const View& view, double px,
                      const Theme& theme) {
    constexpr int cells = 17;
    const double cell = px / cells;
    std::vector<bool> taken(static_cast<std::size_t>(cells * cells));
    painter.setPen(QPen(theme.ink, 1.3));
    const auto& mesh = *solution.mesh;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& n = mesh.triangles[t];
        const QPointF a = view.map(mesh.nodes[n[0]]), b = view.map(mesh.nodes[n[1]]),
                      c = view.map(mesh.nodes[n[2]]);
        const double area = (b.x() - a.x()) * (c.y() - a.y()) - (c.x() - a.x()) * (b.y() - a.y());
        if (area == 0) continue;
        const int x0 = std::max(0, static_cast<int>(std::min({a.x(), b.x(), c.x()}) / cell)),
                  x1 = std::min(cells - 1, static_cast<int>(std::max({a.x(), b.x(), c.x()}) / cell)),
                  y0 = std::max(0, static_cast<int>(std::min({a.y(), b.y(), c.y()}) / cell)),
                  y1 = std::min(cells - 1, static_cast<int>(std::max({a.y(), b.y(), c.y()}) / cell));
        for (int y = y0; y <= y1; ++y)
            for (int x = x0; x <= x1; ++x) {
                const QPointF p((x + 0.5) * cell, (y + 0.5) * cell);
                const double u = ((p.x() - a.x()) * (c.y() - a.y()) - (c.x() - a.x()) * (p.y() - a.y())) /
                                 area,
                             v = ((b.x() - a.x()) * (p.y() - a.y()) - (p.x() - a.x()) * (b.y() - a.y())) /
                                 area;
                if (u < 0 || v < 0 || u + v > 1 || taken[static_cast<std::size_t>(y * cells + x)]) continue;
                taken[static_cast<std::size_t>(y * cells + x)] = true;
                const Point e = solution.field.at(static_cast<int>(t), {u, v});
                const double size = std::hypot(e.r, e.z);
                if (!(size > 0)) continue;
                const QPointF along(e.z / size * view.z_scale_px / std::abs(view.z_scale_px), -e.r / size);
                const QPointF tip = p + 0.38 * cell * along, tail = p - 0.38 * cell * along;
                painter.drawLine(tail, tip);
                const QPointF side(-along.y(), along.x());
                painter.drawLine(tip, tip - 0.2 * cell * along + 0.11 * cell * side);
                painter.drawLine(tip, tip - 0.2 * cell * along - 0.11 * cell * side);
            }
    }
}

/// Names of the parts that are seen, each in the middle of the largest piece of it.
void paint_names(QPainter& painter, const BuiltAccessory& built, const View& view, double px, bool round,
                 const Theme& theme) {
    constexpr int cells = 22;
    const double cell = px / cells;
    struct Shape {
        QPainterPath path;
        QString name;
    };
    std::vector<Shape> shapes; // in the order in which they are drawn: the last lies on top
    const auto label_of = [&](const std::string& name) {
        for (const auto& part : built.parts)
            if (name_of(part.place) == name) return QString::fromStdString(part.label);
        return QString::fromStdString(name);
    };
    for (const auto& region : built.section.regions)
        shapes.push_back({outline_path(region.outline, view), label_of(region.name)});
    for (const auto& electrode : built.section.electrodes)
        shapes.push_back({outline_path(electrode.outline, view), label_of(electrode.name)});
    struct Seen {
        double x = 0, y = 0;
        int cells = 0;
        std::vector<QPointF> at;
    };
    std::map<QString, Seen> seen;
    for (int y = 0; y < cells; ++y)
        for (int x = 0; x < cells; ++x) {
            const QPointF p((x + 0.5) * cell, (y + 0.5) * cell);
            const QPointF d = p - QPointF(px / 2, px / 2);
            if (round && std::hypot(d.x(), d.y()) > 0.44 * px) continue;
            for (auto it = shapes.rbegin(); it != shapes.rend(); ++it)
                if (it->path.contains(p)) {
                    auto& s = seen[it->name];
                    s.x += p.x(), s.y += p.y();
                    ++s.cells;
                    s.at.push_back(p);
                    break;
                }
        }
    painter.setFont(ui_font(8.5, true));
    QList<QRectF> taken;
    std::vector<std::pair<QString, Seen>> largest(seen.begin(), seen.end());
    std::sort(largest.begin(), largest.end(),
              [](const auto& a, const auto& b) { return a.second.cells > b.second.cells; });
    for (auto& [name, s] : largest) {
        if (s.cells < 3) continue;
        const QPointF middle(s.x / s.cells, s.y / s.cells);
        // The piece of it nearest to its middle: the middle itself may lie in another part.
        std::sort(s.at.begin(), s.at.end(), [&](QPointF a, QPointF b) {
            return QPointF::dotProduct(a - middle, a - middle) < QPointF::dotProduct(b - middle, b - middle);
        });
        const QFontMetricsF metrics(painter.font());
        for (const auto& p : s.at) {
            QRectF box(0, 0, metrics.horizontalAdvance(name) + 8, metrics.height() + 1);
            box.moveCenter(p);
            box.moveLeft(std::clamp(box.left(), 3.0, std::max(3.0, px - 3 - box.width()))); // none is cut
            if (std::any_of(taken.begin(), taken.end(), [&](const auto& t) { return t.intersects(box); }))
                continue;
            taken << box;
            QColor ground = theme.panel;
            ground.setAlpha(205);
            painter.setPen(Qt::NoPen);
            painter.setBrush(ground);
            painter.drawRoundedRect(box, 3, 3);
            painter.setPen(theme.ink);
            painter.drawText(box, Qt::AlignCenter, name);
            break;
        }
    }
}

} // namespace

LoupePicture loupe_picture(const PreparedDesign& prepared, const Solution& solution, const LoupeLook& look,
                           int px, const Theme& theme, double finer) {
    LoupePicture out;
    const auto& built = prepared.built;
    View view;
    view.z_scale_px = px / look.across_mm;
    view.r_scale_px = -view.z_scale_px;
    view.datum_z_mm = look.centre.z;
    view.x_of_datum_px = px / 2.0;
    view.r0_mm = look.centre.r;
    view.axis_y_px = px / 2.0;
    out.view = view;
    const auto [scale, seen] = scale_in(solution, view, px);
    out.full_scale_kV_per_mm = scale;
    out.triangles = seen;
    const int device = static_cast<int>(std::lround(px * finer));
    out.image = QImage(device, device, QImage::Format_ARGB32_Premultiplied);
    out.image.fill(Qt::transparent);
    QPainter painter(&out.image);
    painter.setRenderHint(QPainter::Antialiasing);
    QPainterPath glass;
    if (look.round)
        glass.addEllipse(QRectF(1, 1, device - 2, device - 2));
    else
        glass.addRect(QRectF(1, 1, device - 2, device - 2));
    painter.setClipPath(glass);
    painter.fillRect(out.image.rect(), theme.paper);
    View fine = view; // in device pixels: the field is sharp at the screen's own resolution
    fine.z_scale_px *= finer, fine.r_scale_px *= finer, fine.x_of_datum_px *= finer, fine.axis_y_px *= finer;
    painter.drawImage(0, 0, field_image(solution, fine, out.image.size(), scale, theme));
    painter.scale(finer, finer);
    // Hatches of the drawing office over the field, faintly; metal as in BUILD.
    for (const auto& part : built.parts) {
        if (part.electrode) continue;
        for (const auto& region : built.section.regions) {
            if (region.name != name_of(part.place) || region.material == "air") continue;
            const auto path = outline_path(region.outline, view);
            painter.setOpacity(0.22);
            painter.setPen(Qt::NoPen);
            painter.setBrush(theme.pattern(part.hatch));
            painter.drawPath(path);
            painter.setOpacity(1);
            painter.setBrush(Qt::NoBrush);
            QColor thin = theme.ink;
            thin.setAlpha(150);
            painter.setPen(QPen(thin, 0.9));
            painter.drawPath(path);
        }
    }
    for (const auto& electrode : built.section.electrodes) {
        const auto path = outline_path(electrode.outline, view);
        painter.setPen(QPen(theme.ink, 1.4));
        painter.setBrush(theme.tone("metal"));
        painter.drawPath(path);
        painter.setBrush(theme.pattern("metal"));
        painter.drawPath(path);
    }
    if (look.equipotentials) {
        out.step_kV = step_in(solution, view, px);
        if (out.step_kV > 0) {
            painter.setPen(QPen(theme.field_line, 1.0));
            painter.drawLines(equipotentials(solution, view, QRectF(0, 0, px, px), out.step_kV));
        }
    }
    painter.setBrush(Qt::NoBrush);
    if (look.mesh) paint_mesh(painter, *solution.mesh, view, px, theme);
    if (look.directions) paint_directions(painter, solution, view, px, theme);
    out.not_judged = paint_corners(painter, solution, view, px, theme);
    paint_names(painter, built, view, px, look.round, theme);
    painter.resetTransform();
    painter.setClipping(false);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.ink, 2.5 * finer));
    const QRectF rim(1.5 * finer, 1.5 * finer, device - 3 * finer, device - 3 * finer);
    look.round ? painter.drawEllipse(rim) : painter.drawRect(rim);
    return out;
}

} // namespace ng::draw
