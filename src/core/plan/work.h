// What hands and firms choose about the work, apart from the design: numbers and schools, with the usual
// ones. All usual values are common practice, no source, or chosen here.
#pragma once
#include "accessory/family.h"
#include <array>

namespace ng {

struct WorkNumber {
    std::string key, label, help;
    double usual = 0, lowest = 0, highest = 0; ///< mm; keys that end in _percent: %
    std::string when; ///< "", "armour", "three cores", "joint", "shrink": where it matters
    bool is_length() const { return !key.ends_with("_percent"); }
};
const std::vector<WorkNumber>& work_numbers();

/// A matter in which the trade has several schools; the first option is the usual one.
struct WorkSchool {
    std::string key, label, help;
    std::vector<std::pair<std::string, std::string>> options; ///< value, words
};
const std::vector<WorkSchool>& work_schools();

/// Least length as supplied of what is to be this long when it has shrunk, mm.
double supplied_length_mm(const WorkChoices& choices, double placed_mm);

double work_number(const WorkChoices& choices, const std::string& key);
std::string work_school(const WorkChoices& choices, const std::string& key);
/// By how much each of three cores is longer than the plan's marks have it; in a joint on side A.
std::array<double, 3> longer_cores_mm(const WorkChoices& choices);

/// Refuses unknown keys, values out of range and unknown options by name.
Result<void> check_work(const WorkChoices& choices);

} // namespace ng
