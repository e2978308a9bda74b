// What Qt needs to draw text where there is no display.
#pragma once
#include <QGuiApplication>
#include <QHashSeed>
#include <optional>

namespace ng::cli {

class OffscreenGui {
  public:
    OffscreenGui() {
        if (!qEnvironmentVariableIsSet("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
        QHashSeed::setDeterministicGlobalSeed(); // the same bytes in the same PDF
        // Platform chatter: our own messages are enough.
        qInstallMessageHandler([](QtMsgType, const QMessageLogContext&, const QString&) {});
        application_.emplace(argc_, argv_);
    }

  private:
    int argc_ = 1;
    char name_[16] = "needlegauge-cli";
    char* argv_[2] = {name_, nullptr};
    std::optional<QGuiApplication> application_;
};

} // namespace ng::cli
