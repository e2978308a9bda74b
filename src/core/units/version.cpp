#include "units/version.h"

namespace ng {

std::string program_version() {
    return NEEDLEGAUGE_VERSION;
}

std::string made_by(const std::string& data_version) {
    return "Needlegauge " + program_version() + (data_version.empty() ? "" : ", data " + data_version);
}

} // namespace ng
