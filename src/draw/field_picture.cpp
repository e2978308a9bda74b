#include "draw/field_picture.h"
#include "units/parallel.h"
#include "units/quantity.h"
#include <algorithm>
#include <array>
#include <cmath>

namespace ng::draw {
namespace {

/// Below this a six-node triangle is painted as one flat one: its sides' bends are not seen.
constexpr double flat_px = 3;
/// Else as four.
constexpr std::array<std::array<std::size_t, 3>, 4> quarters{{{0, 3, 5}, {3, 1, 4}, {5, 4, 2}, {3, 4, 5}}};

struct Corner {
    QPointF at;
    double value;
};

/// The field's colours in 256 steps.
const std::array<QRgb, 256>& colours_of(const Theme& theme) {
    const auto made = [](bool dark) {
        std::array<QRgb, 256> out{};
        Theme one;
        one.dark = dark;
        for (std::size_t i = 0; i < out.size(); ++i)
            out[i] = field_colour(one, static_cast<double>(i) / 255).rgb();
        return out;
    };
    static const auto light = made(false), dark = made(true);
    return theme.dark ? dark : light;
}

/// Lines of an image.
struct Raster {
    QRgb* first;
    qsizetype stride; ///< pixels of a line
    int width, y0, y1;
};

void fill(const Raster& raster, const std::array<Corner, 3>& c, double scale,
          const std::array<QRgb, 256>& colours) {
    const double area = (c[1].at.x() - c[0].at.x()) * (c[2].at.y() - c[0].at.y()) -
                        (c[2].at.x() - c[0].at.x()) * (c[1].at.y() - c[0].at.y());
    if (area == 0) return;
    const auto [y_min, y_max] = std::minmax({c[0].at.y(), c[1].at.y(), c[2].at.y()});
    const auto [x_min, x_max] = std::minmax({c[0].at.x(), c[1].at.x(), c[2].at.x()});
    const int y0 = std::max(raster.y0, static_cast<int>(std::ceil(y_min - 0.5))),
              y1 = std::min(raster.y1 - 1, static_cast<int>(std::floor(y_max - 0.5)));
    if (y1 < y0 || std::ceil(x_min - 0.5) > std::floor(x_max - 0.5)) return; // between pixels' centres
    // Barycentric coordinates are linear: at the pixel's centre, start + x * slope.
    std::array<double, 3> slope{};
    double value_slope = 0;
    for (std::size_t i = 0; i < 3; ++i) {
        slope[i] = (c[(i + 1) % 3].at.y() - c[(i + 2) % 3].at.y()) / area;
        value_slope += slope[i] * c[i].value;
    }
    constexpr double outside = -1e-6;
    const double to_colour = 255 / scale;
    for (int y = y0; y <= y1; ++y) {
        const double py = y + 0.5;
        double from = std::max(0.0, std::ceil(x_min - 0.5)),
               to = std::min(raster.width - 1.0, std::floor(x_max - 0.5)), value = 0;
        for (std::size_t i = 0; i < 3; ++i) {
            const auto &p = c[(i + 1) % 3].at, &q = c[(i + 2) % 3].at;
            const double start = ((p.x() - 0.5) * (q.y() - py) - (q.x() - 0.5) * (p.y() - py)) / area;
            value += start * c[i].value;
            if (slope[i] > 0)
                from = std::max(from, std::ceil((outside - start) / slope[i]));
            else if (slope[i] < 0)
                to = std::min(to, std::floor((outside - start) / slope[i]));
            else if (start < outside)
                to = -1;
        }
        auto* line = raster.first + y * raster.stride;
        for (int x = static_cast<int>(from); x <= static_cast<int>(to); ++x)
            line[x] = colours[std::clamp(to_colour * (value + x * value_slope), 0.0, 255.0)];
    }
}

} // namespace

QImage field_image(const Solution& solution, const View& view, QSize size, double full_scale_kV_per_mm,
                   const Theme& theme) {
    QImage image(size, QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::transparent);
    const auto& colours = colours_of(theme);
    const auto& mesh = *solution.mesh;
    std::vector<QPointF> at;
    at.reserve(mesh.nodes.size());
    for (const auto& node : mesh.nodes) at.push_back(view.map(node));
    std::vector<double> value;
    value.reserve(solution.field.field.size());
    for (std::size_t slot = 0; slot < solution.field.field.size(); ++slot)
        value.push_back(solution.field.magnitude(slot));
    auto* first = reinterpret_cast<QRgb*>(image.bits());
    const auto stride = image.bytesPerLine() / static_cast<qsizetype>(sizeof(QRgb));
    // A band of lines on each core.
    const auto bands = usable_threads();
    in_parallel(bands, bands, [&](std::size_t band) {
        const auto line = [&](std::size_t k) {
            return static_cast<int>(k * static_cast<std::size_t>(size.height()) / bands);
        };
        const Raster raster{first, stride, size.width(), line(band), line(band + 1)};
        for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
            std::array<Corner, 6> node;
            bool right = true, left = true, above = true, below = true;
            for (std::size_t i = 0; i < 6; ++i) {
                node[i].at = at[mesh.triangles[t][i]];
                node[i].value = value[solution.field.layout->of[t][i]];
                right = right && node[i].at.x() > size.width();
                left = left && node[i].at.x() < 0;
                above = above && node[i].at.y() < raster.y0;
                below = below && node[i].at.y() > raster.y1;
            }
            if (right || left || above || below) continue;
            const auto [x0, x1] = std::minmax({node[0].at.x(), node[1].at.x(), node[2].at.x()});
            const auto [y0, y1] = std::minmax({node[0].at.y(), node[1].at.y(), node[2].at.y()});
            if (x1 - x0 < flat_px && y1 - y0 < flat_px) {
                fill(raster, {node[0], node[1], node[2]}, full_scale_kV_per_mm, colours);
                continue;
            }
            for (const auto& q : quarters)
                fill(raster, {node[q[0]], node[q[1]], node[q[2]]}, full_scale_kV_per_mm, colours);
        }
    });
    return image;
}

QVector<QLineF> equipotentials(const Solution& solution, const View& view, const QRectF& clip,
                               double step_kV) {
    QVector<QLineF> lines;
    const auto& mesh = *solution.mesh;
    // A triangle may be seen though none of its corners is.
    const auto seen = [&clip](QPointF a, QPointF b, QPointF c) {
        const auto [left, right] = std::minmax({a.x(), b.x(), c.x()});
        const auto [top, bottom] = std::minmax({a.y(), b.y(), c.y()});
        return right >= clip.left() && left <= clip.right() && bottom >= clip.top() && top <= clip.bottom();
    };
    for (const auto& t : mesh.triangles) {
        double least = solution.potential_kV[t[0]], most = least;
        for (const int node : t) {
            least = std::min(least, solution.potential_kV[node]);
            most = std::max(most, solution.potential_kV[node]);
        }
        if (!(std::ceil(least / step_kV) * step_kV < most)) continue; // no line passes
        if (!seen(view.map(mesh.nodes[t[0]]), view.map(mesh.nodes[t[1]]), view.map(mesh.nodes[t[2]])))
            continue;
        for (const auto& q : quarters) {
            std::array<QPointF, 3> at;
            std::array<double, 3> v{};
            for (std::size_t i = 0; i < 3; ++i) {
                at[i] = view.map(mesh.nodes[t[q[i]]]);
                v[i] = solution.potential_kV[t[q[i]]];
            }
            const auto [low, high] = std::minmax({v[0], v[1], v[2]});
            if (!seen(at[0], at[1], at[2])) continue;
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
    const auto& colours = colours_of(theme);
    for (int i = 0; i < static_cast<int>(bar.width()); ++i)
        painter.fillRect(QRectF(bar.left() + i, bar.top(), 1.2, bar.height()),
                         QColor(colours[static_cast<std::size_t>(255 * i / bar.width())]));
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
