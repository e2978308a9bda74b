// How large a window opens.
#pragma once
#include <QScreen>
#include <QWidget>

namespace ng::app {

/// As wanted, or as much of it as the screen has room for, frame and all.
inline void open_within_screen(QWidget& window, QSize wanted) {
    constexpr QSize frame(8, 36);
    if (const auto* on = window.screen()) wanted = wanted.boundedTo(on->availableSize() - frame);
    window.resize(wanted);
}

} // namespace ng::app
