#pragma once
#include "draw/text.h"
#include <QRegularExpression>

namespace ng::app {

using draw::q;

/// For labels that wrap: no line ends between a figure and its unit, nor within a unit.
inline QString unbroken(QString text) {
    static const QRegularExpression figure("(\\d) (?=%|mm|kV|V/|in\\b|°)");
    text.replace(figure, "\\1\u00a0");
    return text.replace("/", "/\u2060");
}

} // namespace ng::app
