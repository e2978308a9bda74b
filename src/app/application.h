#pragma once
#include <QApplication>

namespace ng::app {

/// Names and style that every start of the application shares, tests included.
void prepare_application(QApplication& application);

/// The last net: what a slot throws ends neither the program nor the work. It is said, and `failed` lets the
/// window keep a safety copy.
class Application : public QApplication {
    Q_OBJECT
  public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override;

  signals:
    void failed(const QString& what);
};

} // namespace ng::app
