#include "app/model/instrument_port.h"
#include <QSerialPortInfo>

namespace ng::app {

InstrumentPort::InstrumentPort(QObject* parent) : QObject(parent), port_(this) {
    connect(&port_, &QSerialPort::readyRead, this, &InstrumentPort::take);
    connect(&port_, &QSerialPort::errorOccurred, this, [this](QSerialPort::SerialPortError error) {
        if (error != QSerialPort::ResourceError) return; // opening says its own
        const auto why = port_.errorString();
        port_.close();
        emit lost(why);
    });
}

QString InstrumentPort::open(const QString& port) {
    close();
    port_.setPortName(port.trimmed());
    port_.setBaudRate(QSerialPort::Baud9600);
    if (!port_.open(QIODevice::ReadWrite))
        return QString(
                   "Instrument: %1 could not be opened (%2). Check the port's name and that no other program "
                   "holds it.")
            .arg(port.trimmed(), port_.errorString());
    port_.clear(QSerialPort::Input); // what it said to somebody before
    send("?");
    return {};
}

void InstrumentPort::close() {
    if (port_.isOpen()) port_.close();
    reader_ = {};
    identity_.reset();
}

void InstrumentPort::send(const QString& command) {
    if (port_.isOpen()) port_.write(command.toLatin1() + '\n');
}

void InstrumentPort::flush() {
    constexpr int most_ms = 1000;
    if (port_.isOpen() && port_.bytesToWrite() > 0) port_.waitForBytesWritten(most_ms);
}

void InstrumentPort::take() {
    const auto bytes = port_.readAll();
    for (auto& one : reader_.take(bytes.toStdString())) {
        if (one.kind == InstrumentEvent::Kind::identity) identity_ = one.identity;
        emit event(one);
        if (one.kind == InstrumentEvent::Kind::reading) emit reading(one.reading);
        if (one.kind == InstrumentEvent::Kind::trouble) emit trouble(QString::fromStdString(one.words));
    }
}

QStringList instrument_ports() {
    QStringList out;
    for (const auto& info : QSerialPortInfo::availablePorts()) out << info.systemLocation();
    return out;
}

} // namespace ng::app
