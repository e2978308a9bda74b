// With what a built accessory is inspected: what each means can find, how surely, and what it costs
// (data/trainer/means.json).
#pragma once
#include "design/library.h"
#include "fault/fault.h"
#include "plan/steps.h"

namespace ng {

/// What one means finds of one kind, and what is seen then: never the kind's name.
struct Sight {
    std::string kind, sees;
    Inspection inspection;
};

struct Means {
    std::string id, title, how;
    double seconds = 0;  ///< of a look
    double reads_mm = 0; ///< standard deviation of a size that it reads; 0: it reads none
    std::vector<Sight> sights;
    /// Of a partial-discharge set: the same form in pC.
    std::optional<Inspection> discharge; ///< a50 in pC
};

struct MeansTable {
    std::string origin;
    std::vector<Means> means;
    double rework_minutes = 0, cut_back_minutes = 0, failure_minutes = 0;
    const Means* find(const std::string& id) const;
};

/// "40 s", "3 min"
std::string spent_words(double seconds);

Result<MeansTable> read_means(const nlohmann::json& document, const std::string& file);

/// All that exercises are made of and answered with.
struct TrainerData {
    const Library* library = nullptr; ///< outlives it
    StepBook book;
    MeansTable means;
    /// SHA-256 over every table that an answer follows from: standards, limits, materials, cables, kits,
    /// connectors, bodies, steps, means.
    std::string hash;
};
Result<TrainerData> load_trainer(const Library& library);

} // namespace ng
