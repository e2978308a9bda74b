// What this program is, for --version and for what it prints.
#pragma once
#include <string>

namespace ng {

/// Such as "0.1.0".
std::string program_version();

/// Of the rules by which designs, records and exercises are judged: limits, levels, statuses, decisions. It
/// is raised by every change after which the same input may be judged otherwise; whatever keeps a judgement
/// (records, scores, rows of studies) keeps the version that it was made by.
constexpr int rules_version = 2;
/// What was judged before versions were written.
constexpr int rules_before_versions = 1;

/// What stands at the foot of papers and in JSON: program and data, such as "Needlegauge 0.1.0, data
/// 2026-11". Without a version of the data where none was used.
std::string made_by(const std::string& data_version = {});

} // namespace ng
