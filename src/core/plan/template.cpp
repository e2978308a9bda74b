#include "plan/template.h"
#include "io/dxf.h"
#include "units/hand_length.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace ng {
namespace {

constexpr double beyond_mm = 15;                               // of strip past its last line
constexpr double strip_gap_mm = 20;                            // between strips in one drawing
constexpr double longest_blank_mm = 120, beside_break_mm = 25; // drawn without a break; kept on either side

/// Whether a mark is made on the jacket; all others are made on the bare core.
bool on_jacket(MarkKind kind) {
    return kind == MarkKind::jacket_cut || kind == MarkKind::calibration || kind == MarkKind::crotch;
}
/// Marks that nobody makes: they follow from parts.
bool is_made(const CutMark& m) {
    return m.kind != MarkKind::reference && m.kind != MarkKind::cone && m.kind != MarkKind::connector_end &&
           m.kind != MarkKind::rod_edge && m.kind != MarkKind::cable_end && m.kind != MarkKind::armour_cut &&
           m.kind != MarkKind::bedding_cut;
}

/// Numbers of pieces of this room that cover a length, each sharing the overlap with the next.
int pieces(double length, double room) {
    if (length <= room) return 1;
    return static_cast<int>(std::ceil((length - template_overlap_mm) / (room - template_overlap_mm) - 1e-9));
}

} // namespace

const std::vector<Paper>& papers() {
    static const std::vector<Paper> list{{"A4", 297, 210}, {"Letter", 279.4, 215.9}};
    return list;
}

std::vector<TemplateStrip> template_strips(const CutPlan& plan, const PreparedDesign& prepared) {
    std::vector<TemplateStrip> strips;
    for (const auto side : {CableSide::a, CableSide::b}) {
        const auto* end = plan.find(MarkKind::cable_end, side);
        if (!end) continue;
        const auto context = prepared.context();
        const auto& d = context.dimensions_of(side);
        const bool two = plan.find(MarkKind::cable_end, CableSide::b) != nullptr;
        const std::string tag = !two ? "" : side == CableSide::a ? ", side A" : ", side B";
        for (const bool jacket : {true, false}) {
            TemplateStrip strip;
            strip.side = side;
            strip.on_jacket = jacket;
            strip.title = (jacket ? "on the jacket" : "on the core") + tag;
            strip.start = end->label;
            strip.diameter_mm = jacket ? overall_dimensions(context.cable_of(side), d).jacket_mm
                                       : 2 * d.radius_mm("insulation screen");
            strip.wrap_mm = std::numbers::pi * strip.diameter_mm;
            for (const auto& m : plan.marks) {
                if (m.side != side || on_jacket(m.kind) != jacket || !is_made(m)) continue;
                const double along = std::abs(m.z_mm - end->z_mm);
                if (along < 0.1) continue;
                const auto words = fmt::format("{}  {}", m.label, both_units(along));
                if (!strip.lines.empty() && std::abs(strip.lines.back().along_mm - along) < 0.1) {
                    strip.lines.back().label = m.label + " = " + strip.lines.back().label;
                    strip.lines.back().cut |= !m.cuts.empty();
                    continue;
                }
                strip.lines.push_back({along, words, !m.cuts.empty()});
            }
            if (strip.lines.empty()) continue;
            std::sort(strip.lines.begin(), strip.lines.end(),
                      [](const auto& a, const auto& b) { return a.along_mm < b.along_mm; });
            strip.length_mm = strip.lines.back().along_mm + beyond_mm;
            strips.push_back(std::move(strip));
        }
    }
    return strips;
}

std::vector<TemplateStrip> broken_strips(std::vector<TemplateStrip> strips) {
    for (auto& strip : strips) {
        if (!strip.on_jacket) continue;
        double last = 0, left_out = 0; // along as measured; so far
        for (auto& line : strip.lines) {
            const double blank = line.along_mm - last;
            last = line.along_mm;
            if (blank > longest_blank_mm) {
                const double out = 10 * std::floor((blank - 2 * beside_break_mm) / 10);
                strip.breaks.push_back({line.along_mm - blank - left_out + beside_break_mm, out});
                left_out += out;
            }
            line.along_mm -= left_out;
        }
        strip.length_mm -= left_out;
    }
    return strips;
}

std::vector<TemplateTile> tile(const std::vector<TemplateStrip>& strips, const Paper& paper) {
    const double room_along = paper.width_mm - 2 * template_margin_mm,
                 room_across = paper.height_mm - 2 * template_margin_mm - template_header_mm;
    std::vector<TemplateTile> tiles;
    for (std::size_t i = 0; i < strips.size(); ++i) {
        const auto& strip = strips[i];
        const int along = pieces(strip.length_mm, room_along), across = pieces(strip.wrap_mm, room_across);
        for (int row = 0; row < across; ++row)
            for (int column = 0; column < along; ++column) {
                TemplateTile t;
                t.strip = i;
                t.from_mm = column * (room_along - template_overlap_mm);
                t.to_mm = std::min(strip.length_mm, t.from_mm + room_along);
                t.across_from_mm = row * (room_across - template_overlap_mm);
                t.across_to_mm = std::min(strip.wrap_mm, t.across_from_mm + room_across);
                t.number = row * along + column + 1;
                t.of = along * across;
                tiles.push_back(t);
            }
    }
    return tiles;
}

Result<void> write_template_dxf(const std::vector<TemplateStrip>& strips, const std::filesystem::path& path) {
    DxfDrawing drawing;
    double y = 0;
    for (const auto& strip : strips) {
        const auto line = [&](const char* layer, double z0, double y0, double z1, double y1) {
            drawing.lines.push_back({layer, {{y0, z0}, {y1, z1}}});
        };
        line("outline", 0, y, strip.length_mm, y);
        line("outline", strip.length_mm, y, strip.length_mm, y + strip.wrap_mm);
        line("outline", strip.length_mm, y + strip.wrap_mm, 0, y + strip.wrap_mm);
        line("outline", 0, y + strip.wrap_mm, 0, y);
        drawing.texts.push_back(
            {"words", {y + strip.wrap_mm + 3, 0}, 3, strip.title + ", from " + strip.start});
        for (const auto& mark : strip.lines) {
            line(mark.cut ? "cuts" : "marks", mark.along_mm, y, mark.along_mm, y + strip.wrap_mm);
            drawing.texts.push_back({"words", {y + 2, mark.along_mm + 1}, 2.5, mark.label});
        }
        line("scale", 0, y - 6, scale_bar_mm, y - 6);
        y += strip.wrap_mm + strip_gap_mm;
    }
    return write_dxf(drawing, path);
}

} // namespace ng
