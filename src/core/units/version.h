// What this program is, for --version and for what it prints.
#pragma once
#include <string>

namespace ng {

/// Such as "0.1.0".
std::string program_version();

} // namespace ng
