// The full-size template: strips to be wrapped round the cable, with a line at every mark, cut into sheets of
// paper. Geometry only; draw/template_picture puts it on paper.
#pragma once
#include "plan/plan.h"

namespace ng {

struct TemplateLine {
    double along_mm = 0; ///< from the strip's start
    std::string label;   ///< with the distance in both units
    bool cut = false;    ///< a cut is drawn whole, a mark dashed
};

/// One strip: its length lies along the cable, its width goes once round it.
struct TemplateStrip {
    std::string title; ///< such as "on the jacket, side A"
    std::string start; ///< what its beginning is laid to
    CableSide side = CableSide::a;
    double length_mm = 0;
    double wrap_mm = 0; ///< circumference of what it is wrapped round
    double diameter_mm = 0;
    bool on_jacket = false;
    std::vector<TemplateLine> lines;
    struct Break {
        double along_mm = 0, left_out_mm = 0;
    };
    std::vector<Break> breaks; ///< where blank strip is left out, and how much; along as drawn
};

struct Paper {
    std::string name;
    double width_mm, height_mm; ///< landscape
};
const std::vector<Paper>& papers(); ///< A4 and Letter

/// The part of a strip on one sheet.
struct TemplateTile {
    std::size_t strip = 0;
    double from_mm = 0, to_mm = 0; ///< along
    double across_from_mm = 0, across_to_mm = 0;
    int number = 1, of = 1; ///< among the sheets of its strip
};

constexpr double template_margin_mm = 12;  ///< of paper that printers leave white
constexpr double template_header_mm = 26;  ///< words and scale bars above the strip
constexpr double template_overlap_mm = 10; ///< shared by neighbouring sheets: registration marks lie in it
constexpr double scale_bar_mm = 100;       ///< beside one of 4 in

/// Strips of a design: for each side one on the jacket, one on the core. Marks nearer than 0.1 mm share a
/// line.
std::vector<TemplateStrip> template_strips(const CutPlan& plan, const PreparedDesign& prepared);

/// For paper: long blank runs of the strips on jackets are left out, at breaks that say their length.
std::vector<TemplateStrip> broken_strips(std::vector<TemplateStrip> strips);

/// Sheets for these strips; neighbours overlap. Strips that fit one paper take one sheet.
std::vector<TemplateTile> tile(const std::vector<TemplateStrip>& strips, const Paper& paper);

/// All strips below one another, full size, in millimetres.
Result<void> write_template_dxf(const std::vector<TemplateStrip>& strips, const std::filesystem::path& path);

} // namespace ng
