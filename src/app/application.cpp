#include "app/application.h"
#include "app/model/spare_memory.h"
#include "draw/theme.h"
#include "units/text.h"
#include "units/version.h"
#include <QApplication>
#include <QLocale>
#include <QStyleFactory>

namespace ng::app {

void prepare_application(QApplication& application) {
    SpareMemory::limit_arenas();
    QApplication::setOrganizationName("needlegauge");
    QApplication::setApplicationName("needlegauge");
    QApplication::setApplicationVersion(QString::fromStdString(program_version()));
    QApplication::setApplicationDisplayName("Needlegauge");
    QLocale::setDefault(QLocale::c()); // one way of writing numbers on axes, in fields and on paper
    QApplication::setStyle(QStyleFactory::create("Fusion"));
    application.setFont(draw::ui_font(9));
}

bool Application::notify(QObject* receiver, QEvent* event) {
    try {
        return QApplication::notify(receiver, event);
    } catch (const std::exception& error) {
        emit failed(QString::fromStdString(one_line(error.what())));
    } catch (...) {
        emit failed("an error without a name");
    }
    return true;
}

} // namespace ng::app
