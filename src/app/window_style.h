// Palette and style sheet of all windows.
#pragma once
#include "draw/theme.h"

class QWidget;

namespace ng::app {

/// Of the application and of `window`: only what changes, since every widget is laid out anew by it.
void apply_style(QWidget& window, const draw::Theme& theme);

} // namespace ng::app
