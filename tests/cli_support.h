// Programs called as their users call them.
#pragma once
#include "support.h"
#include <QProcess>

namespace ng::test {

struct Answer {
    int code; ///< -1: it crashed
    QByteArray out, err;
};

inline Answer call(const QString& program, const QStringList& arguments) {
    QProcess process;
    process.start(program, arguments);
    process.waitForFinished(120000);
    return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1,
            process.readAllStandardOutput(), process.readAllStandardError()};
}
inline Answer cli(const QStringList& arguments) {
    return call(NEEDLEGAUGE_CLI, arguments);
}

inline const QString demo_path = NEEDLEGAUGE_DATA_DIR "/demo/osprey-point.ngjob";

} // namespace ng::test
