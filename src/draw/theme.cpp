#include "draw/theme.h"
#include <QFontDatabase>
#include <QPainter>
#include <algorithm>
#include <array>
#include <cmath>

namespace ng::draw {
namespace {

struct OkLab {
    double lightness, a, b;
};

/// Source: Ottosson, "A perceptual color space for image processing", 2020 (OKLab to linear sRGB).
QColor from_oklab(OkLab c) {
    const double l = std::pow(c.lightness + 0.3963377774 * c.a + 0.2158037573 * c.b, 3);
    const double m = std::pow(c.lightness - 0.1055613458 * c.a - 0.0638541728 * c.b, 3);
    const double s = std::pow(c.lightness - 0.0894841775 * c.a - 1.2914855480 * c.b, 3);
    const double linear[3] = {4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
                              -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
                              -0.0041960863 * l - 0.7034186147 * m + 1.7076147010 * s};
    auto gamma = [](double x) {
        x = std::clamp(x, 0.0, 1.0);
        return x <= 0.0031308 ? 12.92 * x : 1.055 * std::pow(x, 1 / 2.4) - 0.055;
    };
    return QColor::fromRgbF(static_cast<float>(gamma(linear[0])), static_cast<float>(gamma(linear[1])),
                            static_cast<float>(gamma(linear[2])));
}

} // namespace

Theme Theme::light() {
    return {false,     "#F4F2EC", "#FBFAF6", "#C9C5B8", "#1E2A2F", "#5C666A",
            "#0D6B70", "#8F5B00", "#9B3A2C", "#1E2A2F", "#8A8F8C"};
}

Theme Theme::night() {
    return {true,      "#1B2224", "#232C2F", "#3E4A4D", "#E8E5DB", "#A3ACAB",
            "#5FC1C4", "#E0A23E", "#E58A78", "#E8E5DB", "#7F8A8A"};
}

QColor Theme::tone(const std::string& hatch) const {
    struct Tone {
        const char* hatch;
        const char* light;
        const char* dark;
    };
    static constexpr std::array<Tone, 13> tones{{{"rubber", "#D3D5C6", "#55584A"},
                                                 {"tape", "#DAD0C4", "#5A5048"},
                                                 {"resin", "#E3DCCB", "#655D4C"},
                                                 {"paper", "#E6DFCB", "#5E5742"},
                                                 {"insulation", "#E4E6DE", "#465255"},
                                                 {"semiconductor", "#8D9494", "#7F8888"},
                                                 {"metal", "#C7CBC6", "#9AA3A2"},
                                                 {"mastic", "#CFC7B2", "#6E6752"},
                                                 {"grading", "#B5C4BE", "#4D6A66"},
                                                 {"sleeve", "#D8D3C8", "#57534A"},
                                                 {"sealant", "#DCD6C3", "#5F5A49"},
                                                 {"jacket", "#A9ABA4", "#3A4142"},
                                                 {"air", "#FBFAF6", "#20282A"}}};
    for (const auto& t : tones)
        if (hatch == t.hatch) return QColor(dark ? t.dark : t.light);
    return panel;
}

QBrush Theme::pattern(const std::string& hatch) const {
    QColor stroke = ink;
    stroke.setAlpha(dark ? 90 : 70);
    if (hatch == "metal") return {stroke, Qt::BDiagPattern};
    if (hatch == "semiconductor") return {stroke, Qt::Dense5Pattern};
    if (hatch == "mastic") return {stroke, Qt::Dense6Pattern};
    if (hatch == "grading") return {stroke, Qt::DiagCrossPattern};
    if (hatch == "sleeve") return {stroke, Qt::HorPattern};
    if (hatch == "sealant") return {stroke, Qt::Dense7Pattern};
    if (hatch == "jacket") return {stroke, Qt::VerPattern};
    if (hatch == "rubber") return {stroke, Qt::FDiagPattern};
    if (hatch == "tape") return {stroke, Qt::CrossPattern};
    if (hatch == "resin") return {stroke, Qt::Dense7Pattern};
    if (hatch == "paper") return {stroke, Qt::HorPattern};
    return {};
}

QColor field_colour(const Theme& theme, double share) {
    share = std::clamp(share, 0.0, 1.0);
    const double from = theme.dark ? 0.25 : 0.965, to = theme.dark ? 0.72 : 0.5;
    const double chroma = 0.085 * std::sin(3.14159265 * (0.03 + 0.82 * share));
    const double hue = 3.42; // radians: petrol
    return from_oklab({from + (to - from) * share, chroma * std::cos(hue), chroma * std::sin(hue)});
}

QFont paper_font(double points, bool bold) {
    static const QString family =
        QFontDatabase::families().contains("Inter") ? "Inter" : QFont().defaultFamily();
    QFont font(family);
    font.setPointSizeF(points);
    font.setWeight(bold ? QFont::DemiBold : QFont::Normal);
    return font;
}

QFont ui_font(double points, bool bold) {
    auto font = paper_font(points, bold);
    font.setStyleStrategy(QFont::PreferNoShaping);
    return font;
}

Letters set_letters(QPainter& painter, double points) {
    painter.setFont(ui_font(points));
    const QFontMetricsF metrics(painter.font(), painter.device());
    return {metrics, metrics.height(), metrics.height() / 14};
}

} // namespace ng::draw
