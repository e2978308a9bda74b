// An instrument on a serial line (docs/instruments.md), real or a stand-in on a pseudo-terminal.
#pragma once
#include "record/instrument.h"
#include <QObject>
#include <QSerialPort>
#include <optional>

namespace ng::app {

class InstrumentPort : public QObject {
    Q_OBJECT
  public:
    explicit InstrumentPort(QObject* parent = nullptr);
    /// A port's name or path; says why when it cannot be opened. Asks the instrument what it is.
    QString open(const QString& port);
    void close();
    bool is_open() const { return port_.isOpen(); }
    /// What it said of itself; plain calipers say nothing.
    const std::optional<InstrumentIdentity>& identity() const { return identity_; }
    /// "R" asks for a reading; "T LEVEL MINUTES HZ" begins a test, "S" stops it.
    void send(const QString& command);
    /// Waits until what was sent has left, a second at the most.
    void flush();

  signals:
    void event(const ng::InstrumentEvent& event);
    void reading(const ng::InstrumentReading& reading);
    void trouble(QString words); ///< something that came and was left out, and why
    void lost(QString why);

  private:
    void take();
    QSerialPort port_;
    InstrumentReader reader_;
    std::optional<InstrumentIdentity> identity_;
};

/// Names of serial ports, and of the terminals that stand-ins print, as far as they are seen.
QStringList instrument_ports();

} // namespace ng::app
