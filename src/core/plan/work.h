// What hands and firms choose about the work, apart from the design: numbers and schools, with the usual
// ones. All usual values are common practice, no source, or chosen here.
#pragma once
#include "accessory/family.h"

namespace ng {

struct WorkNumber {
    std::string key, label, help;
    double usual = 0, lowest = 0, highest = 0; ///< mm
    std::string when;                          ///< "", "armour", "three cores", "joint": where it matters
};
const std::vector<WorkNumber>& work_numbers();

/// A matter in which the trade has several schools; the first option is the usual one.
struct WorkSchool {
    std::string key, label, help;
    std::vector<std::pair<std::string, std::string>> options; ///< value, words
};
const std::vector<WorkSchool>& work_schools();

double work_number(const WorkChoices& choices, const std::string& key);
std::string work_school(const WorkChoices& choices, const std::string& key);

/// Refuses unknown keys, values out of range and unknown options by name.
Result<void> check_work(const WorkChoices& choices);

} // namespace ng
