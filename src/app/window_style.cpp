#include "app/window_style.h"
#include <QApplication>
#include <QPalette>
#include <QWidget>

namespace ng::app {
namespace {

QPalette palette_of(const draw::Theme& t) {
    QPalette p;
    p.setColor(QPalette::Window, t.paper);
    p.setColor(QPalette::Base, t.panel);
    p.setColor(QPalette::AlternateBase, t.paper);
    p.setColor(QPalette::Button, t.panel);
    for (const auto role :
         {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
        p.setColor(role, t.ink);
    p.setColor(QPalette::ToolTipBase, t.panel);
    p.setColor(QPalette::Highlight, t.accent);
    p.setColor(QPalette::HighlightedText, t.dark ? t.paper : QColor("#FFFFFF"));
    p.setColor(QPalette::PlaceholderText, t.faint);
    for (const auto role : {QPalette::Link, QPalette::LinkVisited}) p.setColor(role, t.accent);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
        p.setColor(QPalette::Disabled, role, t.faint);
    p.setColor(QPalette::Light, t.line);
    p.setColor(QPalette::Mid, t.line);
    p.setColor(QPalette::Dark, t.line);
    return p;
}

QString sheet_of(const draw::Theme& t) {
    return QString(
               "QLabel[faint=\"true\"] { color: %1; }"
               "QLabel[caution=\"true\"] { color: %2; border-left: 3px solid %2; padding: 2px 6px; "
               "margin-top: 6px; }"
               "#header { border-bottom: 1px solid %3; background: %4; }"
               "#banner { background: %4; border-bottom: 2px solid %2; }"
               "QSplitter::handle { background: %3; }"
               "QLineEdit, QTableWidget { background: %4; border: 1px solid %3; border-radius: 2px; "
               "padding: 1px 4px; }"
               "QTableWidget { padding: 0; gridline-color: %3; }"
               "QHeaderView::section { background: %5; border: none; border-bottom: 1px solid %3; padding: "
               "2px; }"
               "QLineEdit:focus { border: 1px solid %6; }"
               "QMenuBar, QScrollArea, #pageBody { background: %5; }"
               "QPushButton { background: %4; border: 1px solid %3; border-radius: 2px; padding: 3px 8px; }"
               "QPushButton:checked { background: %6; color: %4; }"
               "QPushButton:focus { border: 1px solid %6; }")
        .arg(t.faint.name(), t.ochre.name(), t.line.name(), t.panel.name(), t.paper.name(), t.accent.name());
}

} // namespace

void apply_style(QWidget& window, const draw::Theme& theme) {
    window.setFont(draw::ui_font(9));
    if (const auto palette = palette_of(theme); palette != QApplication::palette())
        QApplication::setPalette(palette);
    if (const auto sheet = sheet_of(theme); sheet != window.styleSheet()) window.setStyleSheet(sheet);
}

} // namespace ng::app
