// What this program is, for --version and for what it prints.
#pragma once
#include <string>

namespace ng {

/// Such as "0.1.0".
std::string program_version();

/// What stands at the foot of papers and in JSON: program and data, such as "Needlegauge 0.1.0, data
/// 2026-11". Without a version of the data where none was used.
std::string made_by(const std::string& data_version = {});

} // namespace ng
