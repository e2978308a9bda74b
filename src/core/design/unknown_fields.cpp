#include "design/unknown_fields.h"
#include "io/fields.h"
#include <algorithm>

namespace ng {

std::vector<UnknownField> unknown_fields(const Job& job, const FamilyTable& families) {
    auto out = unknown_fields(job);
    for (const auto& design : job.designs) {
        const auto* family = families.find(design.family);
        if (!family) continue; // refused where the design is built
        std::vector<std::string> parameters{connector_choice};
        for (const auto& parameter : family->parameters) parameters.push_back(parameter.key);
        const auto take = [&](const std::string& key) {
            if (std::find(parameters.begin(), parameters.end(), key) == parameters.end())
                out.push_back({"design " + design.id, key, nearest_key(key, parameters)});
        };
        for (const auto& [key, value] : design.numbers) take(key);
        for (const auto& [key, value] : design.choices) take(key);
        for (const auto& [key, value] : design.tolerances)
            if (key.find(' ') == std::string::npos) take(key); // else of a cable or a fault
    }
    return out;
}

} // namespace ng
