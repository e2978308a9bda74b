#pragma once
#include <QStringList>

class QApplication;

namespace ng::app {

/// Names and style that every start of the application shares, tests included.
void prepare_application(QApplication& application);

} // namespace ng::app
