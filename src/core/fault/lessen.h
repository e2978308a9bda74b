// Faults that make one number of a design smaller.
#pragma once
#include "fault/fault.h"

namespace ng {

/// Makes the number that `key` names smaller by the fault's size. Refuses by `title` a side that the design
/// does not have, a design without the number ("" from `key`; `none_here`), and what would be left below
/// `least_mm`.
Result<void> lessen(Job& job, const Fault& fault, const std::string& design, const Library& library,
                    const std::string& title, const std::function<std::string(const PreparedDesign&)>& key,
                    double least_mm, const std::string& none_here);

} // namespace ng
