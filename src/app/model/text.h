#pragma once
#include <QString>
#include <string>

namespace ng::app {

inline QString q(const std::string& text) {
    return QString::fromStdString(text);
}

} // namespace ng::app
