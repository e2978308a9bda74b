#include "draw/section_picture.h"
#include "draw/field_picture.h"
#include "section/on_top.h"
#include <QPainterPath>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

namespace ng::draw {
namespace {

const Part* part_of(const std::vector<Part>& parts, const std::string& name) {
    for (const auto& part : parts)
        if (name_of(part.place) == name) return &part;
    return nullptr;
}

void paint_outline(QPainter& painter, const Outline& outline, const std::string& hatch, const View& view,
                   const Theme& theme) {
    const auto path = outline_path(outline, view);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme.tone(hatch));
    painter.drawPath(path);
    painter.setBrush(theme.pattern(hatch));
    QColor stroke = theme.ink;
    stroke.setAlpha(hatch == "air" ? 60 : 170);
    painter.setPen(QPen(stroke, 0.8));
    painter.drawPath(path);
}

} // namespace

QPainterPath outline_path(const Outline& outline, const View& view) {
    QPainterPath path;
    const auto polygon = polygon_of(outline, std::numbers::pi / 24);
    path.moveTo(view.map(polygon.front()));
    for (const auto& p : polygon) path.lineTo(view.map(p));
    path.closeSubpath();
    return path;
}

void paint_section(QPainter& painter, const Section& section, const std::vector<Part>& parts,
                   const View& view, const Theme& theme) {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    const auto order = topmost_first(section);
    for (auto shape = order.rbegin(); shape != order.rend(); ++shape) {
        const auto& name =
            shape->electrode ? section.electrodes[shape->index].name : section.regions[shape->index].name;
        const auto& outline = shape->electrode ? section.electrodes[shape->index].outline
                                               : section.regions[shape->index].outline;
        const auto* part = part_of(parts, name);
        paint_outline(painter, outline, part ? part->hatch : shape->electrode ? "metal" : "air", view, theme);
    }
    painter.restore();
}

void paint_across(QPainter& painter, const AcrossSection& across, const Solution* solution,
                  const QRectF& place, const Theme& theme) {
    double most_r = 0, most_z = 0;
    for (const auto& region : across.section.regions)
        for (const auto& p : polygon_of(region.outline, 0.3)) {
            most_r = std::max(most_r, std::abs(p.r));
            most_z = std::max(most_z, std::abs(p.z));
        }
    if (!(most_r > 0) || !(most_z > 0)) return;
    View view;
    view.z_scale_px = std::min(place.width() / (2 * most_z), place.height() / (2 * most_r)) * 0.96;
    view.r_scale_px = -view.z_scale_px;
    view.x_of_datum_px = place.center().x();
    view.axis_y_px = place.center().y();
    paint_section(painter, across.section, across.parts, view, theme);
    if (!solution) return;
    double low = 0, high = 0;
    for (const auto& e : across.section.electrodes) {
        low = std::min(low, e.voltage_kV);
        high = std::max(high, e.voltage_kV);
    }
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme.field_line, 0.9));
    painter.drawLines(equipotentials(*solution, view, place, (high - low) / 20));
    painter.restore();
}

Labelled::Labelled(const BuiltAccessory& built)
    : section(built.section), parts(built.parts), z0_mm(built.view_z0_mm), z1_mm(built.view_z1_mm),
      r0_mm(built.view_r0_mm), r_mm(built.view_r_mm) {}

Labelled::Labelled(const StagePicture& picture, bool both_signs)
    : section(picture.section), parts(picture.parts), z0_mm(picture.z0_mm), z1_mm(picture.z1_mm),
      r0_mm(both_signs ? -picture.r_mm : 0), r_mm(picture.r_mm) {}

void paint_part_labels(QPainter& painter, const Labelled& shown, const View& view, const QRectF& clip,
                       const Theme& theme) {
    // One anchor per label: the middle of the widest stretch where the part is seen, scanned in z and r.
    struct Label {
        QString text;
        QPointF anchor;
        int seen = 0; ///< columns of the picture that show the part
        double width = 0;
    };
    std::vector<Label> labels;
    const double z0 = std::max(view.z_at(clip.left()), shown.z0_mm),
                 z1 = std::min(view.z_at(clip.right()), shown.z1_mm);
    constexpr int columns = 90, rows = 40;
    const auto radius_of_row = [&](int row) {
        return shown.r0_mm + (shown.r_mm - shown.r0_mm) * (row + 0.5) / rows;
    };
    const OnTop section(shown.section, 0.3);
    std::vector<const std::string*> seen; // row by row
    for (int j = 0; j < rows; ++j)
        for (int i = 0; i < columns; ++i)
            seen.push_back(section.at({radius_of_row(j), z0 + (z1 - z0) * (i + 0.5) / columns}));
    std::set<std::string> done;
    for (const auto& part : shown.parts) {
        if (part.place == place::air || part.label.empty() || !done.insert(part.label).second) continue;
        const auto name = name_of(part.place);
        const std::string* last = nullptr; // most neighbours are of one part
        bool same = false;
        int best = 0, best_column = -1, best_row = -1;
        for (int j = 0; j < rows; ++j) {
            int run = 0;
            for (int i = 0; i <= columns; ++i) {
                const auto* here = i < columns ? seen[j * columns + i] : nullptr;
                if (here != last) last = here, same = here && *here == name;
                if (same) {
                    ++run;
                    continue;
                }
                if (run > best) best = run, best_column = i - run + run / 2, best_row = j;
                run = 0;
            }
        }
        if (best_column < 0) continue;
        const Point anchor{radius_of_row(best_row), z0 + (z1 - z0) * (best_column + 0.5) / columns};
        labels.push_back({QString::fromStdString(part.label), view.map(anchor), best});
    }
    painter.save();
    painter.setFont(ui_font(8.5));
    const QFontMetricsF metrics(painter.font());
    for (auto& label : labels) label.width = metrics.horizontalAdvance(label.text) + 10;
    std::sort(labels.begin(), labels.end(),
              [](const auto& a, const auto& b) { return a.anchor.x() < b.anchor.x(); });
    double needed = 0;
    for (const auto& label : labels) needed += label.width + 4;
    // More rows when one is too narrow; in each row labels stand as near to their anchors as the neighbours
    // allow.
    const int label_rows = std::clamp(static_cast<int>(std::ceil(1.04 * needed / clip.width())), 1, 3);
    painter.setRenderHint(QPainter::Antialiasing);
    for (int row = 0; row < label_rows; ++row) {
        std::vector<Label> here;
        double remaining = 0;
        for (auto i = static_cast<std::size_t>(row); i < labels.size();
             i += static_cast<std::size_t>(label_rows)) {
            here.push_back(labels[i]);
            remaining += labels[i].width + 4;
        }
        // Where even so there is no room, what is seen least goes without: none is cut at the end.
        while (here.size() > 1 && remaining > clip.width() - 8) {
            const auto least = std::min_element(here.begin(), here.end(),
                                                [](const auto& a, const auto& b) { return a.seen < b.seen; });
            remaining -= least->width + 4;
            here.erase(least);
        }
        double from = clip.left() + 4;
        for (const auto& label : here) {
            double x = std::max(from, label.anchor.x() - label.width / 2);
            x = std::min(x, clip.right() - remaining);
            x = std::max(x, from);
            remaining -= label.width + 4;
            from = x + label.width + 4;
            const double y = clip.top() + 3 + row * (metrics.height() + 3);
            const QRectF box(x, y, label.width, metrics.height() + 2);
            QColor leader = theme.faint;
            leader.setAlpha(150);
            painter.setPen(QPen(leader, 0.8));
            painter.drawLine(
                QPointF(std::clamp(label.anchor.x(), box.left() + 4, box.right() - 4), box.bottom()),
                label.anchor);
            painter.setBrush(leader);
            painter.drawEllipse(label.anchor, 1.6, 1.6);
            painter.setPen(Qt::NoPen);
            QColor ground = theme.paper;
            ground.setAlpha(215);
            painter.setBrush(ground);
            painter.drawRoundedRect(box, 2, 2);
            painter.setPen(theme.ink);
            painter.drawText(box, Qt::AlignCenter, label.text);
        }
    }
    painter.restore();
}

void paint_parts_of_field(QPainter& painter, const Section& section, const View& view, const Theme& theme) {
    for (const auto& electrode : section.electrodes) {
        painter.setPen(QPen(theme.ink, 0.8));
        painter.setBrush(theme.tone("metal"));
        const auto path = outline_path(electrode.outline, view);
        painter.drawPath(path);
        painter.setBrush(theme.pattern("metal"));
        painter.drawPath(path);
    }
    QColor thin = theme.ink;
    thin.setAlpha(70);
    painter.setPen(QPen(thin, 0.6));
    painter.setBrush(Qt::NoBrush);
    for (const auto& region : section.regions)
        if (region.material != "air") painter.drawPath(outline_path(region.outline, view));
}

} // namespace ng::draw
