#include "draw/field_picture.h"
#include "units/quantity.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace ng::draw {
namespace {

/// A six-node triangle as four flat ones, for painting.
constexpr std::array<std::array<std::size_t, 3>, 4> quarters{{{0, 3, 5}, {3, 1, 4}, {5, 4, 2}, {3, 4, 5}}};

struct Corner {
    QPointF at;
    double value;
};

void fill(QImage& image, const std::array<Corner, 3>& c, double scale, const std::array<QRgb, 256>& colours) {
    const double area = (c[1].at.x() - c[0].at.x()) * (c[2].at.y() - c[0].at.y()) -
                        (c[2].at.x() - c[0].at.x()) * (c[1].at.y() - c[0].at.y());
    if (area == 0) return;
    const auto [y_min, y_max] = std::minmax({c[0].at.y(), c[1].at.y(), c[2].at.y()});
    const auto [x_min, x_max] = std::minmax({c[0].at.x(), c[1].at.x(), c[2].at.x()});
    const int y0 = std::max(0, static_cast<int>(std::ceil(y_min - 0.5))),
              y1 = std::min(image.height() - 1, static_cast<int>(std::floor(y_max - 0.5)));
    const int x0 = std::max(0, static_cast<int>(std::ceil(x_min - 0.5))),
              x1 = std::min(image.width() - 1, static_cast<int>(std::floor(x_max - 0.5)));
    for (int y = y0; y <= y1; ++y) {
        auto* line = reinterpret_cast<QRgb*>(image.scanLine(y));
        for (int x = x0; x <= x1; ++x) {
            const double px = x + 0.5, py = y + 0.5;
            const double a =
                ((c[1].at.x() - px) * (c[2].at.y() - py) - (c[2].at.x() - px) * (c[1].at.y() - py)) / area;
            const double b =
                ((c[2].at.x() - px) * (c[0].at.y() - py) - (c[0].at.x() - px) * (c[2].at.y() - py)) / area;
            const double g = 1 - a - b;
            if (a < -1e-6 || b < -1e-6 || g < -1e-6) continue;
            const double value = a * c[0].value + b * c[1].value + g * c[2].value;
            line[x] = colours[std::clamp(255 * value / scale, 0.0, 255.0)];
        }
    }
}

} // namespace

QImage field_image(const Solution& solution, const View& view, QSize size, double full_scale_kV_per_mm,
                   const Theme& theme) {
    QImage image(size, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    std::array<QRgb, 256> colours{};
    for (std::size_t i = 0; i < colours.size(); ++i)
        colours[i] = field_colour(theme, static_cast<double>(i) / 255).rgb();
    const auto& mesh = *solution.mesh;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        std::array<Corner, 6> node;
        bool right = true, left = true, above = true, below = true;
        for (std::size_t i = 0; i < 6; ++i) {
            node[i].at = view.map(mesh.nodes[mesh.triangles[t][i]]);
            node[i].value = solution.field.magnitude(static_cast<std::size_t>(solution.field.index[t][i]));
            right = right && node[i].at.x() > size.width();
            left = left && node[i].at.x() < 0;
            above = above && node[i].at.y() < 0;
            below = below && node[i].at.y() > size.height();
        }
        if (right || left || above || below) continue;
        for (const auto& q : quarters)
            fill(image, {node[q[0]], node[q[1]], node[q[2]]}, full_scale_kV_per_mm, colours);
    }
    return image;
}

QVector<QLineF> equipotentials(const Solution& solution, const View& view, const QRectF& clip,
                               double step_kV) {
    QVector<QLineF> lines;
    const auto& mesh = *solution.mesh;
    for (const auto& t : mesh.triangles) {
        for (const auto& q : quarters) {
            std::array<QPointF, 3> at;
            std::array<double, 3> v{};
            for (std::size_t i = 0; i < 3; ++i) {
                at[i] = view.map(mesh.nodes[t[q[i]]]);
                v[i] = solution.potential_kV[t[q[i]]];
            }
            const auto [low, high] = std::minmax({v[0], v[1], v[2]});
            if (!clip.contains(at[0]) && !clip.contains(at[1]) && !clip.contains(at[2])) continue;
            for (double level = std::ceil(low / step_kV) * step_kV; level < high; level += step_kV) {
                std::array<QPointF, 2> ends;
                int found = 0;
                for (std::size_t i = 0; i < 3 && found < 2; ++i) {
                    const double a = v[i], b = v[(i + 1) % 3];
                    if ((a <= level) == (b <= level)) continue;
                    ends[found++] = at[i] + (level - a) / (b - a) * (at[(i + 1) % 3] - at[i]);
                }
                if (found == 2) lines.append({ends[0], ends[1]});
            }
        }
    }
    return lines;
}

double field_below(std::vector<std::pair<double, double>> fields, double share) {
    double total = 0, sum = 0;
    for (const auto& [field, area] : fields) total += area;
    std::sort(fields.begin(), fields.end());
    for (const auto& [field, area] : fields)
        if ((sum += area) > share * total) return std::max(field, 1e-6);
    return fields.empty() ? 1 : std::max(fields.back().first, 1e-6);
}

double readable_full_scale(const Solution& solution, double z0_mm, double z1_mm, double r_mm) {
    std::vector<std::pair<double, double>> values;
    const auto& mesh = *solution.mesh;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& n = mesh.triangles[t];
        const Point a = mesh.nodes[n[0]], b = mesh.nodes[n[1]], c = mesh.nodes[n[2]];
        const Point centre = (1.0 / 3) * (a + b + c);
        if (centre.z < z0_mm || centre.z > z1_mm || centre.r > r_mm) continue;
        values.emplace_back(solution.field.magnitude_at(static_cast<int>(t), {1.0 / 3, 1.0 / 3}),
                            cross(b - a, c - a));
    }
    return field_below(std::move(values), 0.99);
}

void paint_field_key(QPainter& painter, const QRectF& place, double full_scale_kV_per_mm, const Theme& theme,
                     double judged_up_to_kV_per_mm, StressUnit shown) {
    const double k = stress_factor(shown);
    painter.save();
    painter.setFont(ui_font(7.5));
    QColor ground = theme.paper;
    ground.setAlpha(220);
    painter.setPen(Qt::NoPen);
    painter.setBrush(ground);
    painter.drawRect(place);
    const QRectF bar(place.left() + 6, place.top() + 15, place.width() - 12, 7);
    for (int i = 0; i < static_cast<int>(bar.width()); ++i)
        painter.fillRect(QRectF(bar.left() + i, bar.top(), 1.2, bar.height()),
                         field_colour(theme, i / bar.width()));
    painter.setPen(theme.ink);
    painter.drawText(QRectF(bar.left(), place.top() + 1, bar.width(), 13), Qt::AlignLeft, "0");
    const auto end = QString::fromStdString(format_figures(k * full_scale_kV_per_mm, 2));
    painter.drawText(QRectF(bar.left(), place.top() + 1, bar.width(), 13), Qt::AlignRight,
                     judged_up_to_kV_per_mm > 1.05 * full_scale_kV_per_mm
                         ? end + " … " + QString::fromStdString(format_figures(k * judged_up_to_kV_per_mm, 2))
                         : end);
    painter.drawText(QRectF(bar.left(), place.top() + 1, bar.width(), 13), Qt::AlignHCenter,
                     QString::fromStdString("|E| " + in_stress_unit("kV/mm rms", shown)));
    painter.restore();
}

} // namespace ng::draw
