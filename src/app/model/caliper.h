// A caliper on a serial line: one reading a line, such as "+012.34mm". Anything that sends such lines will
// do; the stand-in needlegauge-caliper sends them over a pseudo-terminal.
#pragma once
#include <QObject>
#include <QSerialPort>

namespace ng::app {

class Caliper : public QObject {
    Q_OBJECT
  public:
    explicit Caliper(QObject* parent = nullptr);
    /// A port's name or path; says why when it cannot be opened.
    QString open(const QString& port);
    void close() { port_.close(); }
    bool is_open() const { return port_.isOpen(); }

  signals:
    void reading(double diameter_mm);
    void unreadable(QString line); ///< a line that is no length
    void lost(QString why);

  private:
    void take_lines();
    QSerialPort port_;
    QByteArray waiting_;
};

} // namespace ng::app
