#include "app/application.h"
#include "draw/theme.h"
#include <QApplication>
#include <QStyleFactory>

namespace ng::app {

void prepare_application(QApplication& application) {
    QApplication::setOrganizationName("needlegauge");
    QApplication::setApplicationName("needlegauge");
    QApplication::setApplicationDisplayName("Needlegauge");
    QApplication::setStyle(QStyleFactory::create("Fusion"));
    application.setFont(draw::ui_font(9));
}

} // namespace ng::app
