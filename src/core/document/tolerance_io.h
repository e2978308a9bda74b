// How a design's quantities are spread, as job files hold it.
#pragma once
#include "document/design.h"

namespace ng {

/// Fields of a tolerance that are known.
const std::vector<std::string>& tolerance_keys();

/// Refuse by the design and the quantity: laws that are none, spreads that cannot be, correlations that are
/// not between -1 and 1 or of one quantity with itself.
Result<std::map<std::string, Tolerance>> read_tolerances(const nlohmann::json& by_key,
                                                         const std::string& item);
Result<std::vector<Correlated>> read_correlations(const nlohmann::json& list, const std::string& item);
nlohmann::ordered_json tolerance_json(const Tolerance& tolerance);
nlohmann::ordered_json correlation_json(const Correlated& correlated);

/// What a tolerance says as a distribution round a middle; bounds that it does not give are those given.
Distribution distribution_of(const Tolerance& tolerance, double middle, double lowest, double highest);

} // namespace ng
