#include "units/version.h"

namespace ng {

std::string program_version() {
    return NEEDLEGAUGE_VERSION;
}

} // namespace ng
