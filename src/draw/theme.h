// Colours and hatches of the drawing office: paper, ink, one accent; a dark theme of the same family.
#pragma once
#include <QBrush>
#include <QColor>
#include <QFont>
#include <QFontMetricsF>
#include <string>

class QPainter;

namespace ng::draw {

struct Theme {
    bool dark = false;
    QColor paper, panel, line, ink, faint, accent, ochre, brick, field_line, ghost;

    static Theme light();
    static Theme night();
    /// Tone and hatch of a material, by the hatch name of its part.
    QColor tone(const std::string& hatch) const;
    QBrush pattern(const std::string& hatch) const;
};

/// Field map: one hue (petrol), lightness falling evenly in OKLab from paper to ink, so that equal steps of
/// field look equal and colour vision does not matter. `share` 0 to 1.
QColor field_colour(const Theme& theme, double share);

/// Inter where it is installed. Letters stand as wide as they are, without pairs drawn together: shaping them
/// took a quarter of the window's thread while a hand drags.
QFont ui_font(double points, bool bold = false);
/// The same as it is set on paper, shaped.
QFont paper_font(double points, bool bold = false);

/// The letters of a picture, by which all of it is laid out: height of a line, width of a fine one, in the
/// painter's units.
struct Letters {
    QFontMetricsF metrics;
    double line = 0, hair = 0;
};
/// Sets the painter's font at this size, in its units.
Letters set_letters(QPainter& painter, double points);

} // namespace ng::draw
