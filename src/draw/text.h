// Words of the core as Qt's.
#pragma once
#include <QString>
#include <string>

namespace ng::draw {

inline QString q(const std::string& text) {
    return QString::fromStdString(text);
}

} // namespace ng::draw
