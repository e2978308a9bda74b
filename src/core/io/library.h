// The data that ships with the product, and a design evaluated with it: what the command line and the
// application both do.
#pragma once
#include "fit/fit.h"
#include "io/job.h"
#include "verdict/verdict.h"
#include <filesystem>

namespace ng {

struct Library {
    std::filesystem::path folder;
    std::string version; ///< of the data, such as "2026-11"
    MaterialTable materials;
    CableTables cables;
    std::vector<StandardsPack> standards;
    LimitTable limits;
    std::vector<KitSize> kits;
    std::vector<Connector> connectors;
};

/// Where the data is: NEEDLEGAUGE_DATA, else ../share/needlegauge beside the running program (/proc/self/exe:
/// however it was started), else, of a program that is not installed, the source tree it was built from.
std::filesystem::path data_folder();
Result<Library> load_library(const std::filesystem::path& folder);

/// The only kit table and connector library in use are those loaded: a user's own replace what ships.
Result<void> load_kit_table(Library& library, const std::filesystem::path& path);
Result<void> load_connectors(Library& library, const std::filesystem::path& path);

/// A design with everything resolved that does not need a solved field.
struct PreparedDesign {
    Design design;
    Cable cable;
    CableDimensions dimensions;
    std::optional<Cable> other_cable; ///< side B, where it is another cable
    std::optional<CableDimensions> other_dimensions;
    CableElectrical electrical;
    DutyClass levels;
    std::string standard_title;
    bool in_scope = true; ///< of the standards pack
    double pd_limit_pC = 5;
    LimitTable limits;
    MaterialTable materials;
    BuiltAccessory built;
    FitReport fit;

    DesignContext context() const {
        return {design,
                cable,
                dimensions,
                materials,
                other_cable ? &*other_cable : nullptr,
                other_dimensions ? &*other_dimensions : nullptr};
    }
};

/// The standards that count in a job: its own packs before those that ship, with its overrides in place.
Result<std::vector<StandardsPack>> packs_of(const Job& job, const Library& library);

Result<PreparedDesign> prepare_design(const Job& job, const std::string& design_id, const Library& library);

} // namespace ng
