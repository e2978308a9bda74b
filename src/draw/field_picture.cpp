#include "draw/field_picture.h"
#include "units/parallel.h"
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

/// The first pixel whose centre is at `x` or beyond, 0 to `end`. (std::ceil is a call on plain x86-64.)
int first_pixel(double x, int end) {
    if (!(x > 0)) return 0;
    if (x >= end) return end;
    const int whole = static_cast<int>(x);
    return x - whole > 0.5 ? whole + 1 : whole;
}

/// Pixels whose centres lie in a flat triangle; those on a side belong to the one to the right of it or
/// below, so that neighbours leave none and paint none twice.
void fill(const Raster& raster, std::array<Corner, 3> c, double to_colour,
          const std::array<QRgb, 256>& colours) {
    const Corner origin = c[0];
    const QPointF u = c[1].at - origin.at, v = c[2].at - origin.at;
    const double area = u.x() * v.y() - v.x() * u.y();
    constexpr double least = 1e-9; // px: thinner ones hold no centre, and have no slope
    if (!(std::abs(area) > least)) return;
    const double du = to_colour * (c[1].value - origin.value), dv = to_colour * (c[2].value - origin.value);
    const double across = (du * v.y() - dv * u.y()) / area, down = (dv * u.x() - du * v.x()) / area;
    const double start =
        to_colour * origin.value + across * (0.5 - origin.at.x()) + down * (0.5 - origin.at.y());

    const auto upper_first = [&](std::size_t i, std::size_t j) {
        if (c[j].at.y() < c[i].at.y()) std::swap(c[i], c[j]);
    };
    upper_first(0, 1), upper_first(1, 2), upper_first(0, 1);
    const int y0 = std::max(raster.y0, first_pixel(c[0].at.y(), raster.y1)),
              y1 = first_pixel(c[2].at.y(), raster.y1);
    const auto slope = [&](std::size_t i, std::size_t j) {
        return (c[j].at.x() - c[i].at.x()) / (c[j].at.y() - c[i].at.y()); // not used where it is level
    };
    const double whole = slope(0, 2), upper = slope(0, 1), lower = slope(1, 2);
    for (int y = y0; y < y1; ++y) {
        const double py = y + 0.5;
        double left = c[0].at.x() + (py - c[0].at.y()) * whole,
               right = py < c[1].at.y() ? c[0].at.x() + (py - c[0].at.y()) * upper
                                        : c[1].at.x() + (py - c[1].at.y()) * lower;
        if (right < left) std::swap(left, right);
        const int from = first_pixel(left, raster.width), to = first_pixel(right, raster.width);
        auto* line = raster.first + y * raster.stride;
        const double row = start + down * y; // of slivers far beyond what an int holds
        for (int x = from; x < to; ++x)
            line[x] = colours[static_cast<std::size_t>(std::clamp(row + across * x, 0.0, 255.0))];
    }
}

/// Whether four flat triangles would look like one: the middles of its sides are where those of a flat one
/// are, and of its colours.
bool is_flat(const std::array<Corner, 6>& node, double to_colour) {
    constexpr double px = 1e-3, colours = 0.7;
    for (std::size_t i = 0; i < 3; ++i) {
        const Corner &a = node[i], &b = node[(i + 1) % 3], &middle = node[3 + i];
        const QPointF off = middle.at - 0.5 * (a.at + b.at);
        if (std::abs(off.x()) > px || std::abs(off.y()) > px ||
            std::abs(middle.value - 0.5 * (a.value + b.value)) * to_colour > colours)
            return false;
    }
    return true;
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
    const double to_colour = 255 / full_scale_kV_per_mm;
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
            if (is_flat(node, to_colour)) {
                fill(raster, {node[0], node[1], node[2]}, to_colour, colours);
                continue;
            }
            for (const auto& q : quarters)
                fill(raster, {node[q[0]], node[q[1]], node[q[2]]}, to_colour, colours);
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
