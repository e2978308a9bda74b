#include "app/model/caliper.h"
#include "units/quantity.h"

namespace ng::app {

namespace {
constexpr int longest_line = 64;
}

Caliper::Caliper(QObject* parent) : QObject(parent), port_(this) {
    connect(&port_, &QSerialPort::readyRead, this, &Caliper::take_lines);
    connect(&port_, &QSerialPort::errorOccurred, this, [this](QSerialPort::SerialPortError error) {
        if (error != QSerialPort::ResourceError) return; // opening says its own
        const auto why = port_.errorString();
        port_.close();
        emit lost(why);
    });
}

QString Caliper::open(const QString& port) {
    port_.close();
    waiting_.clear();
    port_.setPortName(port.trimmed());
    port_.setBaudRate(QSerialPort::Baud9600);
    if (port_.open(QIODevice::ReadOnly)) return {};
    return QString("Caliper: %1 could not be opened (%2). Check the port's name and that no other program "
                   "holds it.")
        .arg(port.trimmed(), port_.errorString());
}

void Caliper::take_lines() {
    waiting_ += port_.readAll();
    for (qsizetype end = waiting_.indexOf('\n'); end >= 0; end = waiting_.indexOf('\n')) {
        const auto line = QString::fromLatin1(waiting_.left(end)).trimmed();
        waiting_.remove(0, end + 1);
        if (line.isEmpty()) continue;
        auto words = line;
        if (words.startsWith('+')) words.remove(0, 1);
        const auto value = parse_length_mm(words.toStdString(), LengthUnit::mm, "caliper");
        if (value && *value > 0)
            emit reading(*value);
        else
            emit unreadable(line);
    }
    if (waiting_.size() > longest_line) waiting_.clear(); // no instrument of this kind
}

} // namespace ng::app
